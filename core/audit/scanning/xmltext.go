package scanning

import (
	"bytes"
	"fmt"
	"regexp"
	"strings"

	"golang.org/x/text/encoding"
	"golang.org/x/text/encoding/htmlindex"
	"golang.org/x/text/encoding/unicode"

	"huekeep/core/markup"
	"huekeep/core/recognize"
	"huekeep/core/source"
)

// Decoded is an XML document as a part in UTF-8, with its text.
func Decoded(p *source.Part) (*source.Part, []byte, error) {
	raw, err := p.Bytes()
	if err != nil {
		return nil, nil, err
	}
	text, err := recognize.XMLText(raw)
	if err != nil {
		return nil, nil, err
	}
	if bytes.HasSuffix(raw, text) && len(raw)-len(text) <= 3 { // the reader passes over a mark
		return p, raw, nil
	}
	var e encoding.Encoding
	switch {
	case bytes.HasPrefix(raw, []byte{0xff, 0xfe}):
		e = unicode.UTF16(unicode.LittleEndian, unicode.UseBOM)
	case bytes.HasPrefix(raw, []byte{0xfe, 0xff}):
		e = unicode.UTF16(unicode.BigEndian, unicode.UseBOM)
	default:
		if e, err = htmlindex.Get(string(recognize.DeclaredEncoding.FindSubmatch(raw[:min(len(raw), 200)])[1])); err != nil {
			return nil, nil, err
		}
	}
	return p.Recoded(0, len(raw), text, func(data []byte) ([]byte, error) { return e.NewEncoder().Bytes(data) }), text, nil
}

// Entities that multiply what they stand for are refused before they do.
const (
	mostEntities = 200
	longEntity   = 500      // bytes
	mostExpanded = 20 << 20 // bytes that all references may come to
)

var entityDeclaration = regexp.MustCompile(`^<!ENTITY\s+(%\s+)?([\pL_:][\pL\pN_:.-]*)\s+(?:"([^"]*)"|'([^']*)'|(SYSTEM|PUBLIC)\b[^>]*)\s*>$`)

// Entities reads the declarations of a document type (XML 1.0, 2.8 and 4.2): entities of plain text, as old drawing programs
// declare their namespaces. What only describes the document's structure is passed over; entities with markup, with others
// inside or from other files are not read.
func Entities(doctype, document []byte) (map[string]string, error) {
	start := bytes.IndexByte(doctype, '[')
	if start < 0 {
		return nil, nil
	}
	out := map[string]string{}
	expanded := 0
	for rest := doctype[start+1:]; ; {
		i := bytes.IndexByte(rest, '<')
		if i < 0 {
			return out, nil
		}
		rest = rest[i:]
		if bytes.HasPrefix(rest, []byte("<!--")) {
			end := bytes.Index(rest, []byte("-->"))
			if end < 0 {
				return out, nil
			}
			rest = rest[end+3:]
			continue
		}
		end := declarationEnd(rest)
		if end < 0 {
			return out, nil
		}
		declaration := rest[:end]
		rest = rest[end:]
		if !bytes.HasPrefix(declaration, []byte("<!ENTITY")) {
			continue
		}
		m := entityDeclaration.FindSubmatch(declaration)
		switch {
		case m == nil:
			return nil, fmt.Errorf("declares an entity that cannot be read: %s", Shorten(string(declaration), 60))
		case len(m[1]) > 0:
			return nil, fmt.Errorf("declares the parameter entity %s, whose content cannot be known before it is read; such are not read",
				m[2])
		case len(m[5]) > 0:
			return nil, fmt.Errorf("declares the entity %s as the content of another file, which is not fetched", m[2])
		}
		name, value := string(m[2]), string(m[3])+string(m[4])
		if strings.ContainsAny(value, "<&%") {
			return nil, fmt.Errorf("declares the entity %s with markup or other entities in it, which can hide or multiply content; only plain text is read", name)
		}
		if len(value) > longEntity || len(out) == mostEntities {
			return nil, fmt.Errorf("declares more or longer entities than are read (%d of %d bytes)", mostEntities, longEntity)
		}
		if _, twice := out[name]; twice {
			continue // the first one holds
		}
		out[name] = value
		if expanded += len(value) * bytes.Count(document, []byte("&"+name+";")); expanded > mostExpanded {
			return nil, fmt.Errorf("declares entities that come to over %d MB when they are written out", mostExpanded>>20)
		}
	}
}

// declarationEnd is the offset behind the ">" of a declaration; one inside quotes does not count.
func declarationEnd(s []byte) int {
	var quote byte
	for i, b := range s {
		switch {
		case quote != 0:
			if b == quote {
				quote = 0
			}
		case b == '"' || b == '\'':
			quote = b
		case b == '>':
			return i + 1
		}
	}
	return -1
}

// Walk goes through an XML part.
func Walk(s *Scanner, p *source.Part, event func(r *markup.Reader, e markup.Event) error) error {
	data, err := p.Bytes()
	if err != nil {
		return err
	}
	r := markup.NewReader(data)
	for n := 1; ; n++ {
		e, err := r.Next()
		if err != nil {
			return fmt.Errorf("its part %q: %w", p.Name, err)
		}
		if e == markup.End {
			return nil
		}
		if n%NowAndThen == 0 {
			if err := s.Watch.At(limits3(p, r), -1); err != nil {
				return err
			}
			if s.Tally.Full {
				return s.Tally.Check()
			}
		}
		if err := event(r, e); err != nil {
			return err
		}
	}
}

func limits3(p *source.Part, r *markup.Reader) string {
	return fmt.Sprintf("%s, %d %%", p.Name, 100*r.Start/max(1, len(r.Data)))
}

// PlainText is the text of a part, which has to be UTF-8.
func PlainText(p *source.Part) ([]byte, error) {
	data, err := p.Bytes()
	if err == nil && recognize.UTF16(data) {
		err = fmt.Errorf("it is written in UTF-16; save it as UTF-8 and try again")
	}
	return data, err
}
