// Package standin simulates the outside world: applications that receive packings. They open what they are given with
// readers of their own, take what they can and say so, as the real ones would.
package standin

// Application is a program that receives a file.
type Application interface {
	// Receive opens a file and takes the colors in it. An error is the sentence that its user would see.
	Receive(file string, data []byte) (Receipt, error)
}

// Receipt is what an application says that it took.
type Receipt struct {
	Title  string // how the file names itself
	Colors []Taken
}

// Taken is one color that the application now offers.
type Taken struct {
	Slot string // theme slot or property
	Hex  string // #RRGGBB
}
