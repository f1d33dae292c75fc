package audit

import (
	"archive/zip"
	"bytes"
	"fmt"
	"path"
	"regexp"
	"strings"
	"unicode/utf8"

	"huekeep/core/archive"
	"huekeep/core/limits"
	"huekeep/core/picture"
	"huekeep/core/source"
)

// Kind is one row of the table of what is read. A new kind is one file of code and one row.
type Kind struct {
	Name       string
	Label      string // for a sentence and for the README: "a presentation"
	Extensions []string
	// is looks at the content; the extension only decides between texts that look alike.
	is   func(extension string, c content) bool
	scan func(s *scanner, p *source.Part, name string) (about string, err error)
	text bool // its places begin with the file's name and a line
}

// content is what a file is recognized by, looked at once.
type content struct {
	data  []byte
	pack  string // of an archive: "pptx", "odt" or "zip"
	root  string // local name of the element at the top of an XML document
	plain bool   // a text in UTF-8, or in UTF-16 or another encoding that it declares
}

// Kinds lists what is read, the first that recognizes a file reads it.
func Kinds() []Kind { return kinds() }

func kinds() []Kind {
	packed := func(name string) func(string, content) bool {
		return func(_ string, c content) bool { return c.pack == name }
	}
	named := func(extensions ...string) func(string, content) bool {
		return func(e string, c content) bool {
			if !c.plain {
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
	row := func(name, label string, is func(string, content) bool, scan func(*scanner, *source.Part, string) (string, error), extensions ...string) Kind {
		return Kind{Name: name, Label: label, Extensions: extensions, is: is, scan: scan}
	}
	text := func(name, label string, is func(string, content) bool, scan func(*scanner, *source.Part, string) (string, error), extensions ...string) Kind {
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
		row("fodt", "an open document as one XML file", func(_ string, c content) bool {
			return c.root == "document" && bytes.Contains(c.data[:min(len(c.data), 4000)], []byte("opendocument"))
		}, scanFlatODF, ".fodt", ".fods", ".fodp", ".fodg"),
		row("zip", "a folder of these as a ZIP archive", func(e string, c content) bool { return c.pack == "zip" && !document[e] }, scanArchive, ".zip"),
		row("pdf", "a PDF", func(_ string, c content) bool { return isPDF(c.data) }, scanPDF, ".pdf"),
		row("picture", "a picture", func(_ string, c content) bool { _, ok := picture.Is(c.data); return ok }, scanPicture, ".png", ".jpg", ".jpeg", ".webp", ".gif", ".tif", ".tiff", ".bmp"),
		row("video", "a video", func(_ string, c content) bool { return isVideo(c.data) }, scanVideo, ".mp4", ".mov", ".webm", ".mkv", ".avi"),
		text("svg", "a drawing", func(_ string, c content) bool { return c.root == "svg" }, scanSVG, ".svg"),
		text("ttml", "a timed text", func(_ string, c content) bool { return c.root == "tt" }, scanTTML, ".ttml", ".dfxp"),
		text("mlt", "a video timeline", func(_ string, c content) bool { return c.root == "mlt" }, scanMLT, ".mlt"),
		text("css", "a style sheet", named(".css"), scanCSS, ".css"),
		text("scss", "a style sheet of a preprocessor", named(".scss", ".less"), scanCSS, ".scss", ".less"),
		text("html", "a page", func(e string, c content) bool {
			return named(".html", ".htm", ".xhtml")(e, c) || c.plain && unnamed(e) && htmlMark.Match(c.data[:min(len(c.data), 2000)])
		}, scanHTML, ".html", ".htm", ".xhtml"),
		text("component", "a component", named(".svelte", ".vue"), scanHTML, ".svelte", ".vue"),
		text("script", "a script", named(".js", ".jsx", ".ts", ".tsx", ".mjs", ".cjs", ".mts", ".cts"), scanScript, ".jsx", ".tsx", ".js", ".ts", ".mjs", ".cjs"),
		text("vtt", "WebVTT subtitles", func(_ string, c content) bool { return c.plain && bytes.HasPrefix(unmarked(c.data), []byte("WEBVTT")) }, scanVTT, ".vtt"),
		text("ass", "SubStation subtitles", func(_ string, c content) bool {
			return c.plain && bytes.HasPrefix(bytes.TrimSpace(unmarked(c.data)), []byte("[Script Info]"))
		}, scanSubStation, ".ass", ".ssa"),
		text("json", "design tokens, an animation or other JSON", func(e string, c content) bool {
			return named(".json", ".tokens")(e, c) || c.plain && unnamed(e) && startsJSON(c.data)
		}, scanJSON, ".json", ".tokens"),
		text("yaml", "YAML", named(".yaml", ".yml"), scanYAML, ".yaml", ".yml"),
	}
}

// document are the extensions of documents that are archives: a ZIP archive of that name and no such document is a damaged one.
var document = map[string]bool{".pptx": true, ".potx": true, ".ppsx": true, ".pptm": true, ".potm": true, ".docx": true, ".dotx": true, ".docm": true, ".dotm": true,
	".xlsx": true, ".xltx": true, ".xlsm": true, ".xltm": true, ".odp": true, ".otp": true, ".odt": true, ".ott": true, ".ods": true, ".ots": true, ".odg": true, ".otg": true}

func unnamed(extension string) bool { return extension == "" || extension == ".txt" }

var htmlMark = regexp.MustCompile(`(?i)^\s*(<!--.*?-->\s*)?<(!doctype\s+html|html)\b`)

// startsJSON says whether a text is JSON by its first characters.
func startsJSON(data []byte) bool {
	d := bytes.TrimLeft(unmarked(data), " \t\r\n")
	if len(d) < 2 || d[0] != '{' && d[0] != '[' {
		return false
	}
	rest := bytes.TrimLeft(d[1:], " \t\r\n")
	return len(rest) > 0 && (rest[0] == '"' || d[0] == '[' && (rest[0] == '{' || rest[0] == '['))
}

func unmarked(data []byte) []byte { return bytes.TrimPrefix(data, []byte("\xef\xbb\xbf")) }

// Extensions lists the file name extensions that are read.
func Extensions() []string {
	var out []string
	for _, k := range kinds() {
		out = append(out, k.Extensions...)
	}
	return out
}

// IsDrawing recognizes an SVG drawing by its root element, in whatever encoding.
func IsDrawing(data []byte) bool { return look(data).root == "svg" }

// look finds out what a file is recognized by.
func look(data []byte) content {
	c := content{data: data}
	if archive.Is(data) {
		c.pack = packOf(data)
		return c
	}
	head := data[:min(len(data), 64<<10)]
	if bytes.IndexByte(head, 0) >= 0 && !hasUTF16Mark(data) {
		return c
	}
	c.plain = hasUTF16Mark(data) || utf8.Valid(data) || declaredEncoding.Match(head[:min(len(head), 200)])
	if c.plain {
		c.root = rootOf(head)
	}
	return c
}

var (
	beforeRoot = regexp.MustCompile(`(?s)^\s*(?:<\?.*?\?>\s*|<!--.*?-->\s*|<!DOCTYPE(?:[^>\[]|\[.*?\]\s*)*>\s*)*<([A-Za-z_][\w.-]*:)?([A-Za-z_][\w.-]*)[\s/>]`)
)

// rootOf is the local name of the element at the top of a document, empty if it does not begin like one.
func rootOf(head []byte) string {
	if text, err := xmlText(head); err == nil {
		head = text
	} else if hasUTF16Mark(head) {
		return ""
	}
	if m := beforeRoot.FindSubmatch(unmarked(head)); m != nil {
		return string(m[2])
	}
	return ""
}

// packOf says what an archive is: a kind of document by what it says of itself, else "zip".
func packOf(data []byte) string {
	z, err := zip.NewReader(bytes.NewReader(data), int64(len(data)))
	if err != nil {
		return "zip"
	}
	var types *zip.File
	for _, f := range z.File {
		switch strings.TrimPrefix(f.Name, "/") {
		case "mimetype":
			text := firstBytes(f, 200)
			for _, m := range [][2]string{{"presentation", "odp"}, {"text", "odt"}, {"spreadsheet", "ods"}, {"graphics", "odg"}} {
				if strings.HasPrefix(text, "application/vnd.oasis.opendocument."+m[0]) {
					return m[1]
				}
			}
		case "[Content_Types].xml":
			types = f
		}
	}
	if types == nil {
		return "zip"
	}
	for _, f := range z.File {
		switch name := strings.ToLower(strings.TrimPrefix(f.Name, "/")); {
		case strings.HasPrefix(name, "ppt/") && strings.HasSuffix(name, ".xml"):
			return "pptx"
		case strings.HasPrefix(name, "word/") && strings.HasSuffix(name, ".xml"):
			return "docx"
		case strings.HasPrefix(name, "xl/") && (strings.HasSuffix(name, ".xml") || strings.HasSuffix(name, ".bin")):
			return "xlsx"
		}
	}
	for _, f := range z.File {
		if strings.TrimPrefix(f.Name, "/") == "_rels/.rels" {
			text := firstBytes(f, 64<<10)
			for _, m := range [][2]string{{"ppt/", "pptx"}, {"word/", "docx"}, {"xl/", "xlsx"}} {
				if strings.Contains(text, `"`+m[0]) || strings.Contains(text, `"/`+m[0]) {
					return m[1]
				}
			}
		}
	}
	text := firstBytes(types, 64<<10)
	for _, m := range [][2]string{{"presentationml", "pptx"}, {"wordprocessingml", "docx"}, {"spreadsheetml", "xlsx"}} {
		if strings.Contains(text, m[0]) {
			return m[1]
		}
	}
	return "zip"
}

func firstBytes(f *zip.File, n int) string {
	r, err := f.Open()
	if err != nil {
		return ""
	}
	defer r.Close()
	b := make([]byte, n)
	got := 0
	for got < n {
		k, err := r.Read(b[got:])
		got += k
		if err != nil {
			break
		}
	}
	return string(b[:got])
}

func recognize(name string, data []byte) (k Kind, base string, err error) {
	base = path.Base(strings.ReplaceAll(name, "\\", "/"))
	if len(data) == 0 {
		return k, base, fmt.Errorf("%s is empty", base)
	}
	if len(data) > limits.UploadBytes {
		return k, base, fmt.Errorf("%s has %s; at most %s are read", base, limits.Size(int64(len(data))), limits.Size(limits.UploadBytes))
	}
	extension := extensionOf(base)
	c := look(data)
	for _, k := range kinds() {
		if k.is(extension, c) {
			return k, base, nil
		}
	}
	for _, k := range kinds() {
		for _, e := range k.Extensions {
			if e == extension {
				return k, base, fmt.Errorf("%s: %w", base, mismatch(k, c))
			}
		}
	}
	return k, base, fmt.Errorf("%s is not a kind of file that is read here; these are: %s", base, strings.Join(Extensions(), ", "))
}

// mismatch explains why a file that is named as a kind is not of that kind.
func mismatch(k Kind, c content) error {
	switch {
	case k.Name == "svg":
		if _, err := xmlText(c.data); err != nil {
			return err
		}
		return fmt.Errorf("it is named as an SVG drawing but has no svg element at its top")
	case document[k.Extensions[0]] && c.pack != "":
		if _, err := archive.Open(c.data); err != nil {
			return err
		}
		return fmt.Errorf("it is a ZIP archive but not an office document")
	case !k.text && archiveKinds[k.Name]:
		return fmt.Errorf("it is named as %s but is not a ZIP archive", k.Label)
	case k.text && !hasUTF16Mark(c.data) && !utf8.Valid(c.data):
		return fmt.Errorf("byte %d is not UTF-8; save it as UTF-8 and try again", invalidByte(c.data))
	}
	return fmt.Errorf("its content is not what its name says (%s)", k.Label)
}

var archiveKinds = map[string]bool{"pptx": true, "docx": true, "xlsx": true, "odp": true, "odt": true, "ods": true, "odg": true, "zip": true}

func hasUTF16Mark(data []byte) bool {
	return bytes.HasPrefix(data, []byte{0xff, 0xfe}) || bytes.HasPrefix(data, []byte{0xfe, 0xff})
}

func invalidByte(data []byte) int {
	for i := 0; i < len(data); {
		r, n := utf8.DecodeRune(data[i:])
		if r == utf8.RuneError && n == 1 {
			return i + 1
		}
		i += n
	}
	return 0
}
