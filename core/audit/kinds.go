package audit

import (
	"bytes"
	"fmt"
	"path"
	"regexp"
	"slices"
	"strings"
	"sync"
	"unicode/utf8"

	"huekeep/core/archive"
	"huekeep/core/limits"
	"huekeep/core/picture"
	"huekeep/core/recognize"
	"huekeep/core/source"
)

// Kind is one row of the table of what is read. A new kind is one file of code and one row.
type Kind struct {
	Name       string
	Label      string // for a sentence and for the README: "a presentation"
	Extensions []string
	// is looks at the content; the extension only decides between texts that look alike.
	is   func(extension string, c recognize.Content) bool
	scan func(s *scanner, p *source.Part, name string) (about string, err error)
	text bool // its places begin with the file's name and a line
}

// Text says whether places of the kind begin with the file's name and a line.
func (k Kind) Text() bool { return k.text }

// Kinds lists what is read, the first that recognizes a file reads it.
func Kinds() []Kind { return slices.Clone(kinds()) }

// kinds is made once: each picture in a document and each drawing in a string is looked up in it.
func kinds() []Kind {
	kindsOnce.Do(func() {
		kindsMade = makeKinds()
		for _, k := range kindsMade {
			extensions = append(extensions, k.Extensions...)
		}
	})
	return kindsMade
}

var (
	kindsOnce  sync.Once
	kindsMade  []Kind
	extensions []string // of all of them
)

func makeKinds() []Kind {
	packed := func(name string) func(string, recognize.Content) bool {
		return func(_ string, c recognize.Content) bool { return c.Pack == name }
	}
	named := func(extensions ...string) func(string, recognize.Content) bool {
		return func(e string, c recognize.Content) bool {
			if !c.Plain {
				return false
			}
			for _, x := range extensions {
				if x == e {
					return true
				}
			}
			return false
		}
	}
	row := func(name, label string, is func(string, recognize.Content) bool, scan func(*scanner, *source.Part, string) (string, error), extensions ...string) Kind {
		return Kind{Name: name, Label: label, Extensions: extensions, is: is, scan: scan}
	}
	text := func(name, label string, is func(string, recognize.Content) bool, scan func(*scanner, *source.Part, string) (string, error), extensions ...string) Kind {
		return Kind{Name: name, Label: label, Extensions: extensions, is: is, scan: scan, text: true}
	}
	return []Kind{
		row("pptx", "a presentation", packed("pptx"), scanPresentation, ".pptx", ".potx", ".ppsx", ".pptm", ".potm"),
		row("docx", "a document", packed("docx"), scanDocument, ".docx", ".dotx", ".docm", ".dotm"),
		row("xlsx", "a workbook", packed("xlsx"), scanWorkbook, ".xlsx", ".xltx", ".xlsm", ".xltm"),
		row("odp", "an open document presentation", packed("odp"), scanODF, ".odp", ".otp"),
		row("odt", "an open document text", packed("odt"), scanODF, ".odt", ".ott"),
		row("ods", "an open document sheet", packed("ods"), scanODF, ".ods", ".ots"),
		row("odg", "an open document drawing", packed("odg"), scanODF, ".odg", ".otg"),
		row("fodt", "an open document as one XML file", func(_ string, c recognize.Content) bool {
			return c.Root == "document" && bytes.Contains(c.Data[:min(len(c.Data), 4000)], []byte("opendocument"))
		}, scanFlatODF, ".fodt", ".fods", ".fodp", ".fodg"),
		row("zip", "a folder of these as a ZIP archive", func(e string, c recognize.Content) bool { return (c.Pack == "zip" || c.Pack == "thmx") && !document[e] }, scanArchive, ".zip"),
		row("epub", "an electronic book", packed("epub"), scanBook, ".epub"),
		row("pdf", "a PDF", func(_ string, c recognize.Content) bool { return isPDF(c.Data) }, scanPDF, ".pdf"),
		row("picture", "a picture", func(_ string, c recognize.Content) bool { _, ok := picture.Is(c.Data); return ok }, scanPicture, ".png", ".jpg", ".jpeg", ".webp", ".gif", ".tif", ".tiff", ".bmp"),
		row("video", "a video", func(_ string, c recognize.Content) bool { return isVideo(c.Data) }, scanVideo, ".mp4", ".mov", ".webm", ".mkv", ".avi"),
		text("svg", "a drawing", func(e string, c recognize.Content) bool { return c.Root == "svg" && !lax[e] }, scanSVG, ".svg"),
		text("svgz", "a compressed drawing", func(_ string, c recognize.Content) bool { return isSVGZ(c.Data) }, scanSVGZ, ".svgz"),
		text("ttml", "a timed text", func(_ string, c recognize.Content) bool { return c.Root == "tt" }, scanTTML, ".ttml", ".dfxp"),
		text("mlt", "a video timeline", func(_ string, c recognize.Content) bool { return c.Root == "mlt" }, scanMLT, ".mlt"),
		text("message", "a mail or a page that was kept as one", func(e string, c recognize.Content) bool {
			return (e == ".eml" || e == ".mhtml" || e == ".mht") && mailHead.Match(c.Data[:min(len(c.Data), 4000)])
		}, scanMessage, ".eml", ".mhtml", ".mht"),
		text("resource", "a resource of an application, or other XML", named(".xml", ".xaml", ".axaml"), scanResource, ".xml", ".xaml", ".axaml"),
		text("notebook", "a notebook", named(".ipynb"), scanNotebook, ".ipynb"),
		text("markdown", "Markdown", named(".md", ".markdown"), scanMarkdown, ".md", ".markdown"),
		text("latex", "LaTeX", named(".tex", ".sty", ".cls"), scanTypeset, ".tex", ".sty", ".cls"),
		text("graph", "a graph", named(".dot", ".gv"), scanGraph, ".dot", ".gv"),
		text("css", "a style sheet", named(".css"), scanCSS, ".css"),
		text("scss", "a style sheet of a preprocessor", named(".scss", ".less"), scanCSS, ".scss", ".less"),
		text("html", "a page", func(e string, c recognize.Content) bool {
			return named(".html", ".htm", ".xhtml")(e, c) || c.Plain && unnamed(e) && htmlMark.Match(c.Data[:min(len(c.Data), 2000)])
		}, scanHTML, ".html", ".htm", ".xhtml"),
		text("component", "a component", named(".svelte", ".vue"), scanHTML, ".svelte", ".vue"),
		text("script", "a script", named(".js", ".jsx", ".ts", ".tsx", ".mjs", ".cjs", ".mts", ".cts"), scanScript, ".jsx", ".tsx", ".js", ".ts", ".mjs", ".cjs"),
		text("code", "the source of an application", named(".swift", ".kt", ".kts", ".java", ".dart", ".qml", ".cs", ".py"), scanCode, ".swift", ".kt", ".kts", ".java", ".dart", ".qml", ".cs", ".py"),
		text("vtt", "WebVTT subtitles", func(_ string, c recognize.Content) bool {
			return c.Plain && bytes.HasPrefix(recognize.Unmarked(c.Data), []byte("WEBVTT"))
		}, scanVTT, ".vtt"),
		text("ass", "SubStation subtitles", func(_ string, c recognize.Content) bool {
			return c.Plain && bytes.HasPrefix(bytes.TrimSpace(recognize.Unmarked(c.Data)), []byte("[Script Info]"))
		}, scanSubStation, ".ass", ".ssa"),
		text("srt", "SubRip subtitles", func(e string, c recognize.Content) bool {
			return named(".srt")(e, c) || c.Plain && unnamed(e) && ripMark.Match(recognize.Unmarked(c.Data[:min(len(c.Data), 400)]))
		}, scanSubRip, ".srt"),
		text("json", "design tokens, an animation or other JSON", func(e string, c recognize.Content) bool {
			return named(".json", ".tokens", ".geojson", ".webmanifest")(e, c) || c.Plain && unnamed(e) && recognize.StartsJSON(c.Data)
		}, scanJSON, ".json", ".tokens", ".geojson", ".webmanifest"),
		text("yaml", "YAML", named(".yaml", ".yml"), scanYAML, ".yaml", ".yml"),
	}
}

// document are the extensions of documents that are archives: a ZIP archive of that name and no such document is a damaged one.
var document = map[string]bool{".pptx": true, ".potx": true, ".ppsx": true, ".pptm": true, ".potm": true, ".docx": true, ".dotx": true, ".docm": true, ".dotm": true,
	".xlsx": true, ".xltx": true, ".xlsm": true, ".xltm": true, ".odp": true, ".otp": true, ".odt": true, ".ott": true, ".ods": true, ".ots": true, ".odg": true, ".otg": true}

// lax are the extensions of texts that may begin as a drawing does and are no XML: the icon of a page or a component.
var lax = map[string]bool{".html": true, ".htm": true, ".svelte": true, ".vue": true, ".jsx": true, ".tsx": true}

func unnamed(extension string) bool { return extension == "" || extension == ".txt" }

var htmlMark = regexp.MustCompile(`(?i)^\s*(<!--.*?-->\s*)?<(!doctype\s+html|html)\b`)

// Extensions lists the file name extensions that are read.
func Extensions() []string {
	kinds()
	return slices.Clone(extensions)
}

// kindOf finds the kind of a file; the error is a sentence with its name.
func kindOf(name string, data []byte) (k Kind, base string, err error) {
	base = path.Base(strings.ReplaceAll(name, "\\", "/"))
	if len(data) == 0 {
		return k, base, fmt.Errorf("%s is empty", base)
	}
	if len(data) > limits.UploadBytes {
		return k, base, fmt.Errorf("%s has %s; at most %s are read", base, limits.Size(int64(len(data))), limits.Size(limits.UploadBytes))
	}
	extension := extensionOf(base)
	c := recognize.Look(data)
	for _, k := range kinds() {
		if k.is(extension, c) {
			return k, base, nil
		}
	}
	if why := recognize.Familiar(data); why != "" && extension != ".svgz" { // which says of itself what is wrong with it
		return k, base, fmt.Errorf("%s is %s", base, why)
	}
	for _, k := range kinds() {
		for _, e := range k.Extensions {
			if e == extension {
				return k, base, fmt.Errorf("%s: %w", base, mismatch(k, c))
			}
		}
	}
	return k, base, &NotRead{base, extensions}
}

// NotRead says that a file is of no kind that is read.
type NotRead struct {
	File       string
	Extensions []string // of what is read
}

func (e *NotRead) Error() string {
	return fmt.Sprintf("%s is not a kind of file that is read here; these are: %s", e.File, strings.Join(e.Extensions, ", "))
}

// mismatch explains why a file that is named as a kind is not of that kind.
func mismatch(k Kind, c recognize.Content) error {
	switch {
	case k.Name == "svg":
		if _, err := recognize.XMLText(c.Data); err != nil {
			return err
		}
		return fmt.Errorf("it is named as an SVG drawing but has no svg element at its top")
	case k.Name == "svgz":
		return fmt.Errorf("it is named as a compressed SVG drawing and is none")
	case document[k.Extensions[0]] && c.Pack != "":
		if _, err := archive.Open(c.Data); err != nil {
			return err
		}
		return fmt.Errorf("it is a ZIP archive but not an office document")
	case !k.text && archiveKinds[k.Name]:
		return fmt.Errorf("it is named as %s but is not a ZIP archive", k.Label)
	case k.text && !recognize.UTF16(c.Data) && !utf8.Valid(c.Data):
		return fmt.Errorf("byte %d is not UTF-8; save it as UTF-8 and try again", recognize.InvalidByte(c.Data))
	}
	return fmt.Errorf("its content is not what its name says (%s)", k.Label)
}

var archiveKinds = map[string]bool{"pptx": true, "docx": true, "xlsx": true, "odp": true, "odt": true, "ods": true, "odg": true, "zip": true, "epub": true}
