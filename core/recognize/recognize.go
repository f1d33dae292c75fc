// Package recognize tells what a file is by its content, for whoever reads files: the name decides only between texts that look alike.
package recognize

import (
	"archive/zip"
	"bytes"
	"fmt"
	"regexp"
	"strings"
	"unicode/utf8"

	"golang.org/x/text/encoding/htmlindex"
	"golang.org/x/text/encoding/unicode"
	xform "golang.org/x/text/transform"

	"huekeep/core/archive"
)

// Content is what a file is recognized by, looked at once.
type Content struct {
	Data []byte
	// Pack is what an archive is: "pptx", "docx", "xlsx", "odp", "odt", "ods", "odg", "thmx" for a theme by itself, the type that any other
	// states of itself in an entry "mimetype" (as "application/epub+zip"), else "zip".
	Pack  string
	Root  string // local name of the element at the top of an XML document
	Plain bool   // a text in UTF-8, or in UTF-16 or another encoding that it declares
}

// StartsJSON says whether a text is JSON by its first characters.
func StartsJSON(data []byte) bool {
	d := bytes.TrimLeft(Unmarked(data), " \t\r\n")
	if len(d) < 2 || d[0] != '{' && d[0] != '[' {
		return false
	}
	rest := bytes.TrimLeft(d[1:], " \t\r\n")
	return len(rest) > 0 && (rest[0] == '"' || d[0] == '[' && (rest[0] == '{' || rest[0] == '['))
}

// Unmarked is a text without the byte order mark of UTF-8.
func Unmarked(data []byte) []byte { return bytes.TrimPrefix(data, []byte("\xef\xbb\xbf")) }

// Look finds out what a file is recognized by.
func Look(data []byte) Content {
	c := Content{Data: data}
	if archive.Is(data) {
		c.Pack = packOf(data)
		return c
	}
	head := data[:min(len(data), 64<<10)]
	if bytes.IndexByte(head, 0) >= 0 && !UTF16(data) {
		return c
	}
	c.Plain = UTF16(data) || utf8.Valid(data) || DeclaredEncoding.Match(head[:min(len(head), 200)])
	if c.Plain {
		c.Root = rootOf(head)
	}
	return c
}

var beforeRoot = regexp.MustCompile(`(?s)^\s*(?:<\?.*?\?>\s*|<!--.*?-->\s*|<!DOCTYPE(?:[^>\[]|\[.*?\]\s*)*>\s*)*<([A-Za-z_][\w.-]*:)?([A-Za-z_][\w.-]*)[\s/>]`)

// rootOf is the local name of the element at the top of a document, empty if it does not begin like one.
func rootOf(head []byte) string {
	if text, err := XMLText(head); err == nil {
		head = text
	} else if UTF16(head) {
		return ""
	}
	if m := beforeRoot.FindSubmatch(Unmarked(head)); m != nil {
		return string(m[2])
	}
	return ""
}

var mediaType = regexp.MustCompile(`^[a-z]+/[A-Za-z0-9][\w.+-]*$`)

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
			if stated := strings.TrimSpace(text); mediaType.MatchString(stated) {
				return stated
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
		if name := strings.TrimPrefix(f.Name, "/"); strings.HasPrefix(name, "theme/") && strings.HasSuffix(name, ".xml") {
			return "thmx"
		} else if name == "_rels/.rels" {
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

// DeclaredEncoding finds the encoding that an XML text declares.
var DeclaredEncoding = regexp.MustCompile(`^\s*<\?xml[^>]*?\bencoding\s*=\s*["']([A-Za-z0-9._-]+)["']`)

// XMLText is an XML text as UTF-8, by its byte order mark or else by the encoding that it declares (XML 1.0, 4.3.3 and appendix
// F); text without either is UTF-8 or refused.
func XMLText(data []byte) ([]byte, error) {
	if rest, ok := bytes.CutPrefix(data, []byte("\xef\xbb\xbf")); ok {
		data = rest
	} else if UTF16(data) {
		out, _, err := xform.Bytes(unicode.BOMOverride(xform.Nop), data)
		return out, err
	}
	if m := DeclaredEncoding.FindSubmatch(data[:min(len(data), 200)]); m != nil {
		name := strings.ToLower(string(m[1]))
		if strings.HasPrefix(name, "utf-16") { // without a mark it could not be read so far
			return data, nil
		}
		if name != "utf-8" && name != "us-ascii" && name != "ascii" {
			e, err := htmlindex.Get(name)
			if err != nil {
				return nil, fmt.Errorf("it declares the encoding %q, which is not known; save it as UTF-8 and try again", m[1])
			}
			out, err := e.NewDecoder().Bytes(data)
			if err != nil {
				return nil, fmt.Errorf("it declares the encoding %q and is not written in it; save it as UTF-8 and try again", m[1])
			}
			return out, nil
		}
	}
	if !utf8.Valid(data) {
		return nil, fmt.Errorf("byte %d is not UTF-8, and it declares no other encoding; save it as UTF-8 and try again", InvalidByte(data))
	}
	return data, nil
}

// UTF16 says whether a text begins with a byte order mark of UTF-16.
func UTF16(data []byte) bool {
	return bytes.HasPrefix(data, []byte{0xff, 0xfe}) || bytes.HasPrefix(data, []byte{0xfe, 0xff})
}

// InvalidByte is the place, from 1, of the first byte that is not UTF-8; 0 if all are.
func InvalidByte(data []byte) int {
	for i := 0; i < len(data); {
		r, n := utf8.DecodeRune(data[i:])
		if r == utf8.RuneError && n == 1 {
			return i + 1
		}
		i += n
	}
	return 0
}
