// Package outside is what the rules ask of the world outside: applications that take files, a bench where colors are read, a box of mails.
// What ships is simulated (package standin); what answers for real is plugged in at the same place.
package outside

import (
	"time"

	"huekeep/core/color"
	"huekeep/core/press"
)

// World is what a program is connected to.
type World struct {
	Applications map[string]Application // by the kind of recipient that has one
	Bench        Bench
}

// Application is a program that receives a file.
type Application interface {
	// Receive opens a file and takes the colors in it. An error is the sentence that its user would see.
	Receive(file string, data []byte) (Receipt, error)
}

// Receipt is what an application says that it took.
type Receipt struct {
	Title  string // how the file names itself; empty if it does not
	Colors []Taken
	Note   string // what its user should know, as a sentence; empty for nothing
}

// Taken is one color that the application now offers.
type Taken struct {
	Slot string // theme slot, property, box or ink
	Hex  string // #RRGGBB; empty for an ink
}

// Bench is a device that reads colors, with something to read under it. It is for several goroutines at once.
type Bench interface {
	// Name is what the device calls itself.
	Name() string
	// Read measures a sample: CIELAB, D50, 2 degree observer. An error is a sentence for its user.
	Read(Sample) (color.Lab, error)
}

// Sample is what a person says that the device stands on. A simulated device knows from it what is there; a real one sees for itself.
type Sample struct {
	Screen color.Lab        // of a color that is not printed
	Press  *press.Condition // nil for a screen
	Build  color.CMYK       // that is printed
	Run    Run
}

// Run is how a press runs.
type Run string

// How a press may run.
const (
	True  Run = "true" // as its condition says
	Light Run = "light"
	Heavy Run = "heavy"
)

// Runs are all of them.
var Runs = []Run{True, Light, Heavy}

// Letter is a mail in a box.
type Letter struct {
	ID         string // of the message, without angle brackets
	From, To   string
	Subject    string
	At         time.Time
	Text, HTML string
	Picture    []byte
}
