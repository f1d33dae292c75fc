package swatchfile

import (
	"fmt"
	"slices"
	"strconv"
	"strings"

	"huekeep/core/color"
	"huekeep/core/library"
)

// Use is the kind of application that a packing is for.
type Use string

// Uses in the order in which they are offered.
const (
	Office  Use = "office"
	Drawing Use = "drawing"
	Print   Use = "print"
	Web     Use = "web"
	Video   Use = "video"
	Client  Use = "client"
	Any     Use = "any"
)

// Packing is a format that an edition is packed in for one kind of application.
type Packing struct {
	Name      string // as in the API and on the command line
	Label     string // for the interface
	For       Use
	Extension string // what its files end in; no two packings have the same
	MediaType string
	Load      string // how the file is loaded, as a sentence
	Write     func(library.Edition) ([]byte, error)
	lost      func(library.Edition) []lost
	wide      bool // it carries colors beyond sRGB; others have their nearest, and say so
	derived   bool // it carries derived builds and inks too, marked as such
	// the version of editions whose kits began to hold it: those that were fixed before stay as they are
	since  int
	taken  func(library.Edition) []Taken // what of it an application shows when it was loaded; nil for each color as it is
	former string                        // a name that still works
}

// Taken is one color as an application has it.
type Taken struct {
	Slot string // its name there; empty where it is one of a list
	Hex  string // empty where a name is all that is told
}

// Taken is what an application should show that has loaded the packing of an edition.
func (p Packing) Taken(e library.Edition) (out []Taken) {
	if p.taken != nil {
		return p.taken(e)
	}
	for _, c := range e.Colors {
		out = append(out, Taken{Hex: c.RGB.Hex()})
	}
	return out
}

// inSlots are the slots of a theme.
func inSlots(e library.Edition) (out []Taken) {
	for _, s := range ThemeSlots(e.Colors, e.Slots...) {
		out = append(out, Taken{Slot: s.Name, Hex: s.Color.RGB.Hex()})
	}
	return out
}

// onPlates is what lies on the plates, by the names of the inks.
func onPlates(e library.Edition) (out []Taken) {
	for _, c := range e.Colors {
		for _, s := range c.Spots {
			out = append(out, Taken{Slot: s.Code})
		}
	}
	return out
}

// inTheBoxes are as many as there are boxes.
func inTheBoxes(e library.Edition) (out []Taken) {
	boxes, err := InBoxes(e)
	if err != nil {
		return nil
	}
	for _, b := range boxes {
		out = append(out, Taken{Hex: b.Color.RGB.Hex()})
	}
	return out
}

// lost is something of an edition that a format cannot carry as it is.
type lost struct {
	what     string // in two or three words: "CMYK builds"
	sentence string // without its full stop
}

// Loses says, in sentences, what of this edition the format cannot carry.
func (p Packing) Loses(e library.Edition) (out []string) {
	for _, l := range p.losses(e) {
		out = append(out, l.sentence)
	}
	return out
}

// LeavesOut is what Loses says, in a few words; empty if nothing is lost.
func (p Packing) LeavesOut(e library.Edition) string {
	var words []string
	for _, l := range p.losses(e) {
		if !slices.Contains(words, l.what) {
			words = append(words, l.what)
		}
	}
	return strings.Join(words, ", ")
}

func (p Packing) losses(e library.Edition) []lost { return append(p.lost(p.carried(e)), p.dulls(e)...) }

// dulls says which colors a packing has as their nearest ones of sRGB only, and how far that is from them.
func (p Packing) dulls(e library.Edition) (out []lost) {
	if e.Before(6) { // what was said of editions of before stands in files that were sent
		return nil
	}
	for _, c := range e.Colors {
		// they named the space of a screen value alone
		spaceless := p.Name == "tokens" && c.Master.Kind != library.OfScreen && !e.Before(7) && e.Before(10)
		plain := p.Name == "swatch-png" && e.Before(11) // they were in sRGB
		if (!p.wide || spaceless || plain) && c.CSS() != "" {
			de := c.Dulled()
			out = append(out, lost{"colors beyond sRGB", fmt.Sprintf("%s is %s here, the nearest that sRGB has: %.1f %s", c.Name,
				c.RGB.Hex(), de, color.Word(de))})
		} else if p.Name == "swatch-png" && c.CSS() != "" {
			codes := inP3(c.Exact()).RGB()
			nearest, _ := color.Coded("display-p3", [3]float64{codes.R, codes.G, codes.B})
			if de := color.DeltaE00(c.Lab(), nearest.RGB.Lab()); de > 0.5 {
				out = append(out, lost{"colors beyond Display P3", fmt.Sprintf("%s is %s here, the nearest that Display P3 has: %.1f %s",
					c.Name, nearest.Exactly(), de, color.Word(de))})
			}
		}
	}
	return out
}

// Pack writes an edition. The same edition is the same bytes. Only what a person approved goes along, but for the printer's pages, which
// say of each value where it comes from.
func (p Packing) Pack(e library.Edition) ([]byte, error) { return p.Write(p.carried(e)) }

func (p Packing) carried(e library.Edition) library.Edition {
	if p.derived {
		return e
	}
	return e.Approved()
}

const (
	loadOffice  = "Open it and choose its colors as the theme of a file of your own, or begin from it."
	loadModel   = "A template goes where the application keeps its templates; new files begin from it."
	loadPalette = "A palette file goes where the application keeps its palettes; it is listed there after a restart."
	loadTable   = "Open it as a table."
	loadCode    = "Put it into the project and import it where colors are set."
	loadPicture = "Look at it, print it, or pick colors from its flat areas."
	loadVideo   = "Import it into the project."
)

const (
	ooxml    = "application/vnd.openxmlformats-officedocument."
	openKind = "application/vnd.oasis.opendocument."
	inUTF8   = "; charset=utf-8"
)

// table lists every packing but the kit, which is made of the others.
var table = []Packing{
	{
		Name: "deck", Label: "Presentation", For: Office, Extension: ".pptx", MediaType: ooxml + "presentationml.presentation",
		Load: loadOffice, Write: WriteDeck, lost: themeLoses, taken: inSlots, former: "office-theme",
	},
	{
		Name: "deck-template", Label: "Presentation template", For: Office, Extension: ".potx", MediaType: ooxml +
			"presentationml.template",
		Load: loadModel, Write: WriteDeckTemplate, lost: themeLoses, taken: inSlots,
	},
	{
		Name: "book", Label: "Workbook", For: Office, Extension: ".xlsx", MediaType: ooxml + "spreadsheetml.sheet",
		Load: loadOffice, Write: WriteBook, lost: themeLoses, taken: inSlots,
	},
	{
		Name: "book-template", Label: "Workbook template", For: Office, Extension: ".xltx", MediaType: ooxml + "spreadsheetml.template",
		Load: loadModel, Write: WriteBookTemplate, lost: themeLoses, taken: inSlots,
	},
	{
		Name: "document", Label: "Document", For: Office, Extension: ".docx", MediaType: ooxml + "wordprocessingml.document",
		Load: loadOffice, Write: WriteDocument, lost: themeLoses, taken: inSlots,
	},
	{
		Name: "document-template", Label: "Document template", For: Office, Extension: ".dotx", MediaType: ooxml +
			"wordprocessingml.template",
		Load: loadModel, Write: WriteDocumentTemplate, lost: themeLoses, taken: inSlots,
	},
	{
		Name: "theme-part", Label: "Theme, colors alone", For: Office, Extension: ".theme.xml", MediaType: "application/xml",
		Load: "It goes where the application keeps its theme colors; it is listed there after a restart.", Write: WriteThemePart,
		lost: themeLoses, taken: inSlots,
	},
	{
		Name: "odf-deck", Label: "Open presentation template", For: Office, Extension: ".otp", MediaType: openKind +
			"presentation-template",
		Load: loadModel, Write: WriteODFDeck, lost: openLoses,
	},
	{
		Name: "odf-sheet", Label: "Open spreadsheet template", For: Office, Extension: ".ots", MediaType: openKind + "spreadsheet-template",
		Load: loadModel, Write: WriteODFSheet, lost: openLoses,
	},
	{
		Name: "odf-text", Label: "Open text template", For: Office, Extension: ".ott", MediaType: openKind + "text-template",
		Load: loadModel, Write: WriteODFText, lost: openLoses,
	},
	{
		Name: "soc", Label: "Open document palette", For: Office, Extension: ".soc", MediaType: "application/xml",
		Load: loadPalette, Write: WriteSOC, lost: screenOnly("Open document palettes"),
	},

	{
		Name: "gpl", Label: "Plain text palette", For: Drawing, Extension: ".gpl", MediaType: "text/plain" + inUTF8,
		Load: loadPalette, Write: WriteGPL, lost: screenOnly("Plain text palettes"),
	},
	{
		Name: "csv", Label: "Table, comma separated", For: Drawing, Extension: ".csv", MediaType: "text/csv" + inUTF8,
		Load: loadTable, Write: WriteCSV, lost: valuesLose,
	},
	{
		Name: "tsv", Label: "Table, tab separated", For: Drawing, Extension: ".tsv", MediaType: "text/tab-separated-values" + inUTF8,
		Load: loadTable, Write: WriteTSV, lost: valuesLose,
	},
	{
		Name: "xlsx", Label: "Table with swatches", For: Drawing, Extension: ".colors.xlsx", MediaType: ooxml + "spreadsheetml.sheet",
		Load: loadTable, Write: WriteWorkbook, lost: firstOnly(true),
	},
	{
		Name: "json", Label: "Names and values", For: Drawing, Extension: ".json", MediaType: "application/json",
		Load: "Read it with a program of your own.", Write: WriteJSON, lost: nothing, wide: true,
	},

	{
		Name: "print-pdf", Label: "Printer’s pages", For: Print, Extension: ".print.pdf", MediaType: "application/pdf",
		Load: "Print it without color conversion; its first page says how.", Write: WritePrintPDF, lost: printLoses, wide: true,
		derived: true, taken: onPlates,
	},
	{
		Name: "cxf", Label: "Color exchange (CxF)", For: Print, Extension: ".cxf", MediaType: "application/xml",
		Load: "Import it into the color library of the prepress application or the instrument.", Write: WriteCxF, lost: firstOnly(false),
		wide: true,
	},

	{
		Name: "css", Label: "CSS custom properties", For: Web, Extension: ".css", MediaType: "text/css" + inUTF8,
		Load: loadCode, Write: WriteCSS, lost: cssLoses, wide: true,
	},
	{
		Name: "scss", Label: "SCSS variables and maps", For: Web, Extension: ".scss", MediaType: "text/x-scss" + inUTF8,
		Load: loadCode, Write: WriteSCSS, lost: scssLoses, wide: true,
	},
	{
		Name: "utility-css", Label: "Theme block for utility classes", For: Web, Extension: ".theme.css", MediaType: "text/css" + inUTF8,
		Load: loadCode, Write: WriteUtilityCSS, lost: cssLoses, wide: true,
	},
	{
		Name: "ts", Label: "TypeScript module", For: Web, Extension: ".ts", MediaType: "text/plain" + inUTF8,
		Load: loadCode, Write: WriteTypeScript, lost: typeScriptLoses, wide: true,
	},
	{
		Name: "npm", Label: "Package for bundlers", For: Web, Extension: ".tgz", MediaType: "application/gzip",
		Load: "Install it by its file name, or from a registry of your own; its version is the edition.", Write: WritePackage,
		lost: packageLoses, wide: true, since: 9,
	},
	{
		Name: "tokens", Label: "Design tokens", For: Web, Extension: ".tokens.json", MediaType: "application/json",
		Load: loadCode, Write: WriteTokens, lost: tokensLose, wide: true,
	},
	{
		Name: "tokens-string", Label: "Design tokens, older form", For: Web, Extension: ".strings.json", MediaType: "application/json",
		Load: loadCode, Write: WriteTokenStrings, lost: tokensLose,
	},

	{
		Name: "card-1080", Label: "Swatch card 1920 × 1080", For: Video, Extension: ".1080.png", MediaType: "image/png",
		Load: loadVideo, Write: WriteCard1080, lost: cardLoses, taken: inTheBoxes,
	},
	{
		Name: "card-2160", Label: "Swatch card 3840 × 2160", For: Video, Extension: ".2160.png", MediaType: "image/png",
		Load: loadVideo, Write: WriteCard2160, lost: cardLoses, taken: inTheBoxes,
	},
	{
		Name: "card-svg", Label: "Swatch card as a drawing", For: Video, Extension: ".card.svg", MediaType: "image/svg+xml",
		Load: loadVideo, Write: WriteCardSVG, lost: cardLoses, taken: inTheBoxes,
	},
	{
		Name: "video-csv", Label: "Code values for video", For: Video, Extension: ".video.csv", MediaType: "text/csv" + inUTF8,
		Load: loadTable, Write: WriteVideoCSV, lost: videoLoses("Tables of code values"), taken: inTheBoxes,
	},
	{
		Name: "webvtt", Label: "WebVTT styles", For: Video, Extension: ".vtt", MediaType: "text/vtt" + inUTF8,
		Load: loadVideo, Write: WriteWebVTT, lost: videoLoses("Subtitles"), taken: inTheBoxes,
	},
	{
		Name: "ttml", Label: "TTML styles", For: Video, Extension: ".ttml", MediaType: "application/ttml+xml",
		Load: loadVideo, Write: WriteTTML, lost: videoLoses("Subtitles"), taken: inTheBoxes,
	},
	{
		Name: "ass", Label: "SubStation styles", For: Video, Extension: ".ass", MediaType: "text/plain" + inUTF8,
		Load: loadVideo, Write: WriteASS, lost: assLoses, taken: inTheBoxes,
	},
	{
		Name: "lottie", Label: "Animation JSON", For: Video, Extension: ".lottie.json", MediaType: "application/json",
		Load: loadVideo, Write: WriteLottie, lost: videoLoses("Animations"), taken: inTheBoxes,
	},
	{
		Name: "mlt", Label: "MLT color producers", For: Video, Extension: ".mlt", MediaType: "application/xml",
		Load: loadVideo, Write: WriteMLT, lost: videoLoses("MLT files"), taken: inTheBoxes,
	},

	{
		Name: "swatch-png", Label: "Swatch picture", For: Client, Extension: ".png", MediaType: "image/png",
		Load: loadPicture, Write: WritePicture, lost: swatchesLose("Pictures"), former: "png", wide: true,
	},
	{
		Name: "swatch-svg", Label: "Swatch drawing", For: Client, Extension: ".svg", MediaType: "image/svg+xml",
		Load: loadPicture, Write: WriteSVG, lost: swatchesLose("Drawings"),
	},
	{
		Name: "sheet-pdf", Label: "Swatch sheet", For: Client, Extension: ".pdf", MediaType: "application/pdf",
		Load: loadPicture, Write: WriteSheetPDF, lost: sheetLoses,
	},

	{
		Name: "key-in-pdf", Label: "Key-in card", For: Any, Extension: ".key-in.pdf", MediaType: "application/pdf",
		Load: "Print it and type its values into the boxes of the application, in its order.", Write: WriteKeyInPDF, lost: keyInLoses,
		taken: inTheBoxes,
	},
}

// kit is the packing that holds the others.
var kit = Packing{
	Name: "kit", Label: "Kit, all in one", For: Any, Extension: ".zip", MediaType: "application/zip",
	Load: "Unpack it and open the page in it.", Write: WriteKit, lost: nothing, wide: true, derived: true,
}

// Packings lists every packing.
func Packings() []Packing { return append(slices.Clone(table), kit) }

func nothing(library.Edition) []lost { return nil }

func screenOnly(format string) func(library.Edition) []lost {
	return func(e library.Edition) []lost { return printValuesLost(e, format) }
}

// firstOnly is what a format loses that has room for one build of a color, and for one ink too if it says so.
func firstOnly(oneInk bool) func(library.Edition) []lost {
	return func(e library.Edition) []lost {
		builds, inks := 0, 0
		for _, c := range e.Colors {
			builds += max(0, len(c.Builds)-1)
			inks += max(0, len(c.Spots)-1)
		}
		var out []lost
		if builds > 0 {
			out = append(out, lost{"builds for other presses",
				fmt.Sprintf("It has room for one CMYK build a color; %s for other presses are left out", count(builds, "build"))})
		}
		if oneInk && inks > 0 {
			out = append(out, lost{"inks for other stocks",
				fmt.Sprintf("It has room for one spot ink a color; %s for other stocks are left out", count(inks, "ink"))})
		}
		return out
	}
}

// FindPacking returns a packing by name; names of before are found too.
func FindPacking(name string) (Packing, error) {
	var names []string
	for _, p := range Packings() {
		if p.Name == name || p.former == name && name != "" {
			return p, nil
		}
		names = append(names, p.Name)
	}
	return Packing{}, fmt.Errorf("there is no packing %q; there are %s", name, strings.Join(names, ", "))
}

// FileName proposes a name for a packed edition, "odelwick-ferries-core.pptx": that of the next edition is the same, so that it takes the
// place of this one. Editions of until 8 had their number in it.
func (p Packing) FileName(e library.Edition) string {
	name := Slug(e.House + " " + e.Set)
	if e.Number > 0 && e.Before(9) {
		name += "-" + itoa(e.Number)
	}
	return name + p.Extension
}

// printValuesLost is what every screen format leaves out.
func printValuesLost(e library.Edition, format string) []lost {
	cmyk, spots := 0, 0
	for _, c := range e.Colors {
		if len(c.Builds) > 0 {
			cmyk++
		}
		if len(c.Spots) > 0 {
			spots++
		}
	}
	var out []lost
	if cmyk > 0 {
		out = append(out, lost{"CMYK builds", fmt.Sprintf("%s carry no CMYK builds; those of %s are left out", format,
			count(cmyk, "color"))})
	}
	if spots > 0 {
		out = append(out, lost{"spot inks", fmt.Sprintf("%s carry no spot inks; those of %s are left out", format, count(spots, "color"))})
	}
	return out
}

func count(n int, what string) string {
	if n == 1 {
		return "1 " + what
	}
	return itoa(n) + " " + what + "s"
}

func itoa(n int) string { return strconv.Itoa(n) }
