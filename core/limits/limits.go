// Package limits holds, in one place, how much of each kind of input is accepted. Sizes are bytes unless the name says
// otherwise.
package limits

import "fmt"

const (
	PasteBytes = 1 << 20 // one pasted list
	PasteLines = 5000    // lines in one pasted list
	TrayItems  = 5000    // candidates on one tray
	Readings   = 100     // readings that are averaged

	ProfileBytes = 32 << 20 // one ICC profile
	ProfileCells = 8 << 20  // values in one lookup table of a profile

	PictureSide  = 50_000    // pixels along one side of a picture
	PictureBytes = 240 << 20 // that reading a picture may take at its peak
	FramePixels  = 2 << 30   // of all frames or pages of a picture
	ChartPatches = 500       // patches of a palette chart

	UploadBytes   = 100 << 20 // one uploaded file
	FilesAtOnce   = 200       // files of one upload to a project
	UnpackedBytes = 512 << 20 // everything taken out of one archive
	PartBytes     = 96 << 20  // one entry of an archive, which may be in memory as a whole
	BookBytes     = 64 << 20  // everything taken out of a workbook, most of which is in memory at once
	PDFPages      = 500       // pages of a PDF that are read for what is written on them
	PDFObjects    = 12 << 20  // objects of a PDF, unpacked, without the contents of its streams
	PDFStream     = 16 << 20  // one stream of a PDF, unpacked
	ReadAtOnce    = 2         // files that are read at the same time
	Entries       = 20_000    // entries of one archive
	Depth         = 256       // nesting of elements, groups and aliases
	FileSeconds   = 60        // seconds that reading a file may take on a server, unless the settings say otherwise
	Templates     = 48        // templates of a script inside of each other, each of which is read again
	Nested        = 4         // documents inside documents
	FoundColors   = 50_000    // different colors reported of one file
	FoundPlaces   = 200_000   // places reported of one file

	TextBytes      = 32 << 20  // one style sheet, table or other swatch file in plain text
	TextLines      = 100_000   // of a table or list
	TableCells     = 128       // of one row that are read
	Statement      = 200_000   // tokens of one declaration of a style sheet
	Elements       = 5_000_000 // elements of one drawing
	FontBytes      = 8 << 20   // one font of a house
	JSONValues     = 1_500_000 // values in one JSON file
	LibraryBytes   = 64 << 20  // one library or design tokens file
	LibraryColors  = 20_000    // colors in one library
	Inks           = 20_000    // inks of one book
	SetColors      = 500       // colors in one swatch set
	SpecimenColors = 120       // colors that are held against each other as type and ground
	Recipients     = 1000      // recipients that an edition is sent to at once
	RoleRunes      = 40        // of the name of a role
	Page           = 200       // entries of a list in one answer
	Boxes          = 64        // boxes of a video application
	NoteRunes      = 500       // characters of a note to an edition, and of why one is withdrawn
	Fetches        = 600       // fetches at pickups from one address in a minute

	BoardOptions  = 8  // options of one board
	BoardAccents  = 3  // accents of one option
	BoardWord     = 16 // characters of the word of an option, and of its other texts
	BoardHeadline = 120
	BoardLines    = 500
	BoardSmall    = 200
	BoardButton   = 40
	LogoBytes     = 2 << 20 // the logo of a board
	LogoSide      = 4000    // pixels of it along one side
	AnswerRunes   = 2000    // characters of a comment on a board
	AnswerBytes   = 64 << 10
	SheetAnswers  = 1000 // answers to one sheet
	Boards        = 500  // boards of one house
	Typefaces     = 50   // typefaces of a house's own

	GradientStops = 12 // stops of one gradient
	StarterColors = 12 // colors of one starter
	KeywordBytes  = 500

	EmailBytes    = 190
	PasswordBytes = 1000
	FileNameRunes = 200
	NameRunes     = 120  // characters in any name
	RuleRunes     = 2000 // characters in a rule for use
)

// Size writes a byte count for a sentence, in powers of ten and one unit: "104.9 MB".
func Size(n int64) string {
	switch {
	case n >= 1e9:
		return fmt.Sprintf("%.1f GB", float64(n)/1e9)
	case n >= 1e6:
		return fmt.Sprintf("%.1f MB", float64(n)/1e6)
	case n >= 1e3:
		return fmt.Sprintf("%.1f KB", float64(n)/1e3)
	}
	return fmt.Sprintf("%d bytes", n)
}
