package web

import (
	"encoding/base64"
	"fmt"
	"net/url"
	"strings"

	"huekeep/core/audit/scanning"
	"huekeep/core/source"
)

// url reads a drawing in a data URI.
func (v *valueReader) url(t token) {
	raw := strings.TrimSuffix(strings.TrimPrefix(t.text, t.text[:4]), ")")
	from := 4 + len(raw) - len(strings.TrimLeft(raw, " \t\r\n\"'"))
	body := strings.Trim(raw, " \t\r\n\"'")
	if !strings.HasPrefix(body, "data:") {
		return
	}
	at := v.sheet.from + t.at + from
	DataURI(v.sheet.Scanner, v.sheet.part, at, at+len(body), body, v.at(t))
}

// DataURI scans what stands in a data URI of a part.
func DataURI(s *scanning.Scanner, p *source.Part, from, to int, uri, place string) {
	head, body, _ := strings.Cut(uri, ",")
	packed := strings.HasSuffix(head, ";base64")
	var data []byte
	var err error
	if packed {
		data, err = base64.StdEncoding.DecodeString(strings.Join(strings.Fields(body), ""))
	} else {
		var text string
		text, err = url.PathUnescape(body)
		data = []byte(text)
	}
	if err != nil {
		s.Unread(place, fmt.Errorf("what is embedded there is not a valid data URI"))
		return
	}
	name := "embedded"
	if mime := strings.TrimPrefix(head, "data:"); strings.HasPrefix(mime, "image/svg") {
		name = "drawing"
	} else if strings.HasPrefix(mime, "image/") {
		name = "picture"
	} else if strings.HasPrefix(mime, "font/") || strings.Contains(mime, "font") {
		return // it has no colors of its own
	}
	start := to - len(body)
	in, err := p.Within(name, start, to, data, func(data []byte) ([]byte, error) {
		if packed {
			return []byte(base64.StdEncoding.EncodeToString(data)), nil
		}
		return []byte(escapeURI(string(data), body)), nil
	})
	if err != nil {
		s.Unread(place, err)
		return
	}
	inner := *s
	inner.Prefix += place + " > "
	if err := embeddedIn(&inner, in, name); err != nil {
		s.Unread(place, err)
	}
}

// embeddedIn scans a part under a name whose kind its content says.
func embeddedIn(s *scanning.Scanner, p *source.Part, name string) error {
	data, _ := p.Bytes()
	k, _, err := s.Table.Of(name, data)
	if err != nil {
		return fmt.Errorf("what is embedded there is in a format that is not read")
	}
	s.Inside = true
	_, err = k.Scan(s, p, name)
	return err
}

// escapeURI escapes what was escaped in the text that stood there, and what must be.
func escapeURI(data, was string) string {
	var b strings.Builder
	for i := range len(data) {
		c := data[i]
		switch {
		case c == '%' || c == '#' || c < ' ' || c >= 0x7f:
			fmt.Fprintf(&b, "%%%02X", c)
		case !(c >= 'a' && c <= 'z' || c >= 'A' && c <= 'Z' || c >= '0' && c <= '9') && strings.IndexByte(was, c) < 0:
			fmt.Fprintf(&b, "%%%02X", c)
		default:
			b.WriteByte(c)
		}
	}
	return b.String()
}
