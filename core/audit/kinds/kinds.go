// Package kinds is the table of the files that audits read, and reads them: each row is a kind, what a file is its content says. The kinds
// are in packages by their families beside this one.
package kinds

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
	"huekeep/core/audit/code"
	"huekeep/core/audit/datafile"
	"huekeep/core/audit/office"
	"huekeep/core/audit/pdf"
	"huekeep/core/audit/pixels"
	"huekeep/core/audit/scanning"
	"huekeep/core/audit/timed"
	"huekeep/core/audit/web"
	"huekeep/core/limits"
	"huekeep/core/picture"
	"huekeep/core/recognize"
	"huekeep/core/source"
)

// Kinds lists what is read, the first that recognizes a file reads it.
func Kinds() []scanning.Kind { return slices.Clone(kinds()) }

// kinds is made once: each picture in a document and each drawing in a string is looked up in it.
func kinds() []scanning.Kind {
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
	kindsMade  []scanning.Kind
	extensions []string // of all of them
)

func makeKinds() []scanning.Kind {
	type scan = func(*scanning.Scanner, *source.Part, string) (string, error)
	type is = func(extension string, c recognize.Content) bool
	named := func(extensions ...string) is {
		return func(e string, c recognize.Content) bool { return c.Plain && slices.Contains(extensions, e) }
	}
	row := func(name, label string, is is, scan scan, extensions ...string) scanning.Kind {
		return scanning.Kind{Name: name, Label: label, Extensions: extensions, Is: is, Scan: scan}
	}
	text := func(name, label string, is is, scan scan, extensions ...string) scanning.Kind {
		return scanning.Kind{Name: name, Label: label, Extensions: extensions, Is: is, Scan: scan, Text: true}
	}
	// packed is a document that is a ZIP archive, by what that says of itself (recognize.Content.Pack). One of its name that is another is
	// damaged.
	document := map[string]bool{}
	packed := func(name, label, pack string, scan scan, extensions ...string) scanning.Kind {
		for _, e := range extensions {
			document[e] = true
		}
		is := func(_ string, c recognize.Content) bool { return c.Pack == pack }
		return scanning.Kind{Name: name, Label: label, Extensions: extensions, Is: is, Scan: scan, Pack: pack}
	}
	return []scanning.Kind{
		packed("pptx", "a presentation", "pptx", office.ScanPresentation, ".pptx", ".potx", ".ppsx", ".pptm", ".potm"),
		packed("docx", "a document", "docx", office.ScanDocument, ".docx", ".dotx", ".docm", ".dotm"),
		packed("xlsx", "a workbook", "xlsx", office.ScanWorkbook, ".xlsx", ".xltx", ".xlsm", ".xltm"),
		packed("odp", "an open document presentation", "odp", office.ScanODF, ".odp", ".otp"),
		packed("odt", "an open document text", "odt", office.ScanODF, ".odt", ".ott"),
		packed("ods", "an open document sheet", "ods", office.ScanODF, ".ods", ".ots"),
		packed("odg", "an open document drawing", "odg", office.ScanODF, ".odg", ".otg"),
		packed("epub", "an electronic book", "application/epub+zip", scanBook, ".epub"),
		{Name: "zip", Label: "a folder of these as a ZIP archive", Extensions: []string{".zip"}, Pack: "zip", Scan: scanArchive,
			Is: func(e string, c recognize.Content) bool { return c.Pack != "" && !document[e] }},
		row("fodt", "an open document as one XML file", func(_ string, c recognize.Content) bool {
			return c.Root == "document" && bytes.Contains(c.Data[:min(len(c.Data), 4000)], []byte("opendocument"))
		}, office.ScanFlatODF, ".fodt", ".fods", ".fodp", ".fodg"),
		row("metafile", "a metafile", func(_ string, c recognize.Content) bool { return office.IsMetafile(c.Data) }, office.ScanMetafile,
			".emf", ".wmf"),
		row("pdf", "a PDF", func(_ string, c recognize.Content) bool { return pdf.IsPDF(c.Data) }, pdf.ScanPDF, ".pdf"),
		row("picture", "a picture", func(_ string, c recognize.Content) bool { _, ok := picture.Is(c.Data); return ok }, pixels.ScanPicture,
			".png", ".jpg", ".jpeg", ".webp", ".gif", ".tif", ".tiff", ".bmp", ".avif"),
		row("video", "a video", func(_ string, c recognize.Content) bool { return pixels.IsVideo(c.Data) }, pixels.ScanVideo, ".mp4",
			".mov", ".webm", ".mkv", ".avi"),
		text("svg", "a drawing", func(e string, c recognize.Content) bool { return c.Root == "svg" && !lax[e] }, web.ScanSVG, ".svg"),
		text("svgz", "a compressed drawing", func(_ string, c recognize.Content) bool { return web.IsSVGZ(c.Data) }, web.ScanSVGZ, ".svgz"),
		text("ttml", "a timed text", func(_ string, c recognize.Content) bool { return c.Root == "tt" }, timed.ScanTTML, ".ttml", ".dfxp"),
		text("mlt", "a video timeline", func(_ string, c recognize.Content) bool { return c.Root == "mlt" }, timed.ScanMLT, ".mlt"),
		text("message", "a mail or a page that was kept as one", func(e string, c recognize.Content) bool {
			return (e == ".eml" || e == ".mhtml" || e == ".mht") && web.MailHead.Match(c.Data[:min(len(c.Data), 4000)])
		}, web.ScanMessage, ".eml", ".mhtml", ".mht"),
		text("resource", "a resource of an application, or other XML", named(".xml", ".xaml", ".axaml"), web.ScanResource, ".xml", ".xaml",
			".axaml"),
		text("notebook", "a notebook", named(".ipynb"), datafile.ScanNotebook, ".ipynb"),
		text("markdown", "Markdown", named(".md", ".markdown"), web.ScanMarkdown, ".md", ".markdown"),
		text("latex", "LaTeX", named(".tex", ".sty", ".cls"), code.ScanTypeset, ".tex", ".sty", ".cls"),
		text("graph", "a graph", named(".dot", ".gv"), code.ScanGraph, ".dot", ".gv"),
		text("css", "a style sheet", named(".css"), web.ScanCSS, ".css"),
		text("scss", "a style sheet of a preprocessor", named(".scss", ".less"), web.ScanCSS, ".scss", ".less"),
		text("html", "a page", func(e string, c recognize.Content) bool {
			return named(".html", ".htm", ".xhtml")(e, c) || c.Plain && unnamed(e) && htmlMark.Match(c.Data[:min(len(c.Data), 2000)])
		}, web.ScanHTML, ".html", ".htm", ".xhtml"),
		text("component", "a component", named(".svelte", ".vue"), web.ScanHTML, ".svelte", ".vue"),
		text("script", "a script", named(".js", ".jsx", ".ts", ".tsx", ".mjs", ".cjs", ".mts", ".cts"), web.ScanScript, ".jsx", ".tsx",
			".js", ".ts", ".mjs", ".cjs"),
		text("code", "the source of an application", named(".swift", ".kt", ".kts", ".java", ".dart", ".qml", ".cs", ".py"), code.ScanCode,
			".swift", ".kt", ".kts", ".java", ".dart", ".qml", ".cs", ".py"),
		text("vtt", "WebVTT subtitles", func(_ string, c recognize.Content) bool {
			return c.Plain && bytes.HasPrefix(recognize.Unmarked(c.Data), []byte("WEBVTT"))
		}, timed.ScanVTT, ".vtt"),
		text("ass", "SubStation subtitles", func(_ string, c recognize.Content) bool {
			return c.Plain && bytes.HasPrefix(bytes.TrimSpace(recognize.Unmarked(c.Data)), []byte("[Script Info]"))
		}, timed.ScanSubStation, ".ass", ".ssa"),
		text("srt", "SubRip subtitles", func(e string, c recognize.Content) bool {
			return named(".srt")(e, c) || c.Plain && unnamed(e) && timed.RipMark.Match(recognize.Unmarked(c.Data[:min(len(c.Data), 400)]))
		}, timed.ScanSubRip, ".srt"),
		text("json", "design tokens, an animation or other JSON", func(e string, c recognize.Content) bool {
			return named(".json", ".tokens", ".geojson", ".webmanifest")(e, c) || c.Plain && unnamed(e) && recognize.StartsJSON(c.Data)
		}, datafile.ScanJSON, ".json", ".tokens", ".geojson", ".webmanifest"),
		text("yaml", "YAML", named(".yaml", ".yml"), datafile.ScanYAML, ".yaml", ".yml"),
	}
}

// lax are the extensions of texts that may begin as a drawing does and are no XML: the icon of a page or a component.
var lax = map[string]bool{".html": true, ".htm": true, ".svelte": true, ".vue": true, ".jsx": true, ".tsx": true}

func unnamed(extension string) bool { return extension == "" || extension == ".txt" }

var htmlMark = regexp.MustCompile(`(?i)^\s*(<!--.*?-->\s*)?<(!doctype\s+html|html)\b`)

// Extensions lists the file name extensions that are read.
func Extensions() []string {
	kinds()
	return slices.Clone(extensions)
}

// theTable is the table of kinds as scanners ask it.
type theTable struct{}

func (theTable) Of(name string, data []byte) (k scanning.Kind, base string, err error) {
	return kindOf(name, data)
}

func (theTable) Named(extension string) scanning.Kind {
	list := kinds()
	return list[slices.IndexFunc(list, func(k scanning.Kind) bool { return slices.Contains(k.Extensions, extension) })]
}

// kindOf finds the kind of a file; the error is a sentence with its name.
func kindOf(name string, data []byte) (k scanning.Kind, base string, err error) {
	base = path.Base(strings.ReplaceAll(name, "\\", "/"))
	if len(data) == 0 {
		return k, base, fmt.Errorf("%s is empty", base)
	}
	if len(data) > limits.UploadBytes {
		return k, base, fmt.Errorf("%s has %s; at most %s are read", base, limits.Size(int64(len(data))), limits.Size(limits.UploadBytes))
	}
	extension := scanning.Extension(base)
	c := recognize.Look(data)
	for _, k := range kinds() {
		if k.Is(extension, c) {
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
func mismatch(k scanning.Kind, c recognize.Content) error {
	switch {
	case k.Name == "svg":
		if _, err := recognize.XMLText(c.Data); err != nil {
			return err
		}
		return fmt.Errorf("it is named as an SVG drawing but has no svg element at its top")
	case k.Name == "svgz":
		return fmt.Errorf("it is named as a compressed SVG drawing and is none")
	case k.Pack != "" && c.Pack != "":
		if _, err := archive.Open(c.Data); err != nil {
			return err
		}
		return fmt.Errorf("it is a ZIP archive but not an office document")
	case k.Pack != "":
		return fmt.Errorf("it is named as %s but is not a ZIP archive", k.Label)
	case k.Text && !recognize.UTF16(c.Data) && !utf8.Valid(c.Data):
		return fmt.Errorf("byte %d is not UTF-8; save it as UTF-8 and try again", recognize.InvalidByte(c.Data))
	}
	return fmt.Errorf("its content is not what its name says (%s)", k.Label)
}
