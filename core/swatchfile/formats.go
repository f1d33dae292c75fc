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
	derived   bool   // it carries derived builds and inks too, marked as such
	former    string // a name that still works
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

// reach are the packings that carry colors beyond sRGB.
var reach = []string{"css", "scss", "utility-css", "ts", "npm", "tokens", "json", "cxf", "print-pdf", "kit"}

// dulls says which colors a packing has as their nearest ones of sRGB only, and how far that is from them.
func (p Packing) dulls(e library.Edition) (out []lost) {
	if e.Before(6) { // what was said of editions of before stands in files that were sent
		return nil
	}
	reaches := slices.Contains(reach, p.Name)
	for _, c := range e.Colors {
		spaceless := p.Name == "tokens" && c.Master.Kind != library.OfScreen && !e.Before(7) && e.Before(10) // they named the space of a screen value alone
		if (!reaches || spaceless) && c.CSS() != "" {
			de := c.Dulled()
			out = append(out, lost{"colors beyond sRGB", fmt.Sprintf("%s is %s here, the nearest that sRGB has: %.1f %s", c.Name, c.RGB.Hex(), de, color.Word(de))})
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
	{"deck", "Presentation", Office, ".pptx", ooxml + "presentationml.presentation", loadOffice, WriteDeck, themeLoses, false, "office-theme"},
	{"deck-template", "Presentation template", Office, ".potx", ooxml + "presentationml.template", loadModel, WriteDeckTemplate, themeLoses, false, ""},
	{"book", "Workbook", Office, ".xlsx", ooxml + "spreadsheetml.sheet", loadOffice, WriteBook, themeLoses, false, ""},
	{"book-template", "Workbook template", Office, ".xltx", ooxml + "spreadsheetml.template", loadModel, WriteBookTemplate, themeLoses, false, ""},
	{"document", "Document", Office, ".docx", ooxml + "wordprocessingml.document", loadOffice, WriteDocument, themeLoses, false, ""},
	{"document-template", "Document template", Office, ".dotx", ooxml + "wordprocessingml.template", loadModel, WriteDocumentTemplate, themeLoses, false, ""},
	{"theme-part", "Theme, colors alone", Office, ".theme.xml", "application/xml", "It goes where the application keeps its theme colors; it is listed there after a restart.", WriteThemePart, themeLoses, false, ""},
	{"odf-deck", "Open presentation template", Office, ".otp", openKind + "presentation-template", loadModel, WriteODFDeck, openLoses, false, ""},
	{"odf-sheet", "Open spreadsheet template", Office, ".ots", openKind + "spreadsheet-template", loadModel, WriteODFSheet, openLoses, false, ""},
	{"odf-text", "Open text template", Office, ".ott", openKind + "text-template", loadModel, WriteODFText, openLoses, false, ""},
	{"soc", "Open document palette", Office, ".soc", "application/xml", loadPalette, WriteSOC, screenOnly("Open document palettes"), false, ""},

	{"gpl", "Plain text palette", Drawing, ".gpl", "text/plain" + inUTF8, loadPalette, WriteGPL, screenOnly("Plain text palettes"), false, ""},
	{"csv", "Table, comma separated", Drawing, ".csv", "text/csv" + inUTF8, loadTable, WriteCSV, valuesLose, false, ""},
	{"tsv", "Table, tab separated", Drawing, ".tsv", "text/tab-separated-values" + inUTF8, loadTable, WriteTSV, valuesLose, false, ""},
	{"xlsx", "Table with swatches", Drawing, ".colors.xlsx", ooxml + "spreadsheetml.sheet", loadTable, WriteWorkbook, firstOnly(true), false, ""},
	{"json", "Names and values", Drawing, ".json", "application/json", "Read it with a program of your own.", WriteJSON, nothing, false, ""},

	{"print-pdf", "Printer’s pages", Print, ".print.pdf", "application/pdf", "Print it without color conversion; its first page says how.", WritePrintPDF, printLoses, true, ""},
	{"cxf", "Color exchange (CxF)", Print, ".cxf", "application/xml", "Import it into the color library of the prepress application or the instrument.", WriteCxF, firstOnly(false), false, ""},

	{"css", "CSS custom properties", Web, ".css", "text/css" + inUTF8, loadCode, WriteCSS, cssLoses, false, ""},
	{"scss", "SCSS variables and maps", Web, ".scss", "text/x-scss" + inUTF8, loadCode, WriteSCSS, scssLoses, false, ""},
	{"utility-css", "Theme block for utility classes", Web, ".theme.css", "text/css" + inUTF8, loadCode, WriteUtilityCSS, cssLoses, false, ""},
	{"ts", "TypeScript module", Web, ".ts", "text/plain" + inUTF8, loadCode, WriteTypeScript, typeScriptLoses, false, ""},
	{"npm", "Package for bundlers", Web, ".tgz", "application/gzip", "Install it by its file name, or from a registry of your own; its version is the edition.", WritePackage, packageLoses, false, ""},
	{"tokens", "Design tokens", Web, ".tokens.json", "application/json", loadCode, WriteTokens, tokensLose, false, ""},
	{"tokens-string", "Design tokens, older form", Web, ".strings.json", "application/json", loadCode, WriteTokenStrings, tokensLose, false, ""},

	{"card-1080", "Swatch card 1920 × 1080", Video, ".1080.png", "image/png", loadVideo, WriteCard1080, cardLoses, false, ""},
	{"card-2160", "Swatch card 3840 × 2160", Video, ".2160.png", "image/png", loadVideo, WriteCard2160, cardLoses, false, ""},
	{"card-svg", "Swatch card as a drawing", Video, ".card.svg", "image/svg+xml", loadVideo, WriteCardSVG, cardLoses, false, ""},
	{"video-csv", "Code values for video", Video, ".video.csv", "text/csv" + inUTF8, loadTable, WriteVideoCSV, videoLoses("Tables of code values"), false, ""},
	{"webvtt", "WebVTT styles", Video, ".vtt", "text/vtt" + inUTF8, loadVideo, WriteWebVTT, videoLoses("Subtitles"), false, ""},
	{"ttml", "TTML styles", Video, ".ttml", "application/ttml+xml", loadVideo, WriteTTML, videoLoses("Subtitles"), false, ""},
	{"ass", "SubStation styles", Video, ".ass", "text/plain" + inUTF8, loadVideo, WriteASS, assLoses, false, ""},
	{"lottie", "Animation JSON", Video, ".lottie.json", "application/json", loadVideo, WriteLottie, videoLoses("Animations"), false, ""},
	{"mlt", "MLT color producers", Video, ".mlt", "application/xml", loadVideo, WriteMLT, videoLoses("MLT files"), false, ""},

	{"swatch-png", "Swatch picture", Client, ".png", "image/png", loadPicture, WritePicture, swatchesLose("Pictures"), false, "png"},
	{"swatch-svg", "Swatch drawing", Client, ".svg", "image/svg+xml", loadPicture, WriteSVG, swatchesLose("Drawings"), false, ""},
	{"sheet-pdf", "Swatch sheet", Client, ".pdf", "application/pdf", loadPicture, WriteSheetPDF, sheetLoses, false, ""},

	{"key-in-pdf", "Key-in card", Any, ".key-in.pdf", "application/pdf", "Print it and type its values into the boxes of the application, in its order.", WriteKeyInPDF, keyInLoses, false, ""},
}

// kit is the packing that holds the others.
var kit = Packing{"kit", "Kit, all in one", Any, ".zip", "application/zip", "Unpack it and open the page in it.", WriteKit, nothing, true, ""}

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
			out = append(out, lost{"builds for other presses", fmt.Sprintf("It has room for one CMYK build a color; %s for other presses are left out", count(builds, "build"))})
		}
		if oneInk && inks > 0 {
			out = append(out, lost{"inks for other stocks", fmt.Sprintf("It has room for one spot ink a color; %s for other stocks are left out", count(inks, "ink"))})
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

// FileName proposes a name for a packed edition, "odelwick-ferries-core.pptx": that of the next edition is the same, so that it takes the place of this
// one. Editions of until 8 had their number in it.
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
		out = append(out, lost{"CMYK builds", fmt.Sprintf("%s carry no CMYK builds; those of %s are left out", format, count(cmyk, "color"))})
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
