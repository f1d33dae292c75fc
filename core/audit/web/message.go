package web

import (
	"bufio"
	"bytes"
	"encoding/base64"
	"fmt"
	"io"
	"mime"
	"mime/quotedprintable"
	"net/textproto"
	"path"
	"regexp"
	"strings"

	"golang.org/x/text/encoding/htmlindex"

	"huekeep/core/audit"
	"huekeep/core/audit/scanning"
	"huekeep/core/limits"
	"huekeep/core/source"
)

// MailHead is how a message begins: with a field of a head (RFC 5322, 2.2).
var MailHead = regexp.MustCompile(`^(?:From [^\n]*\n)?[A-Za-z][A-Za-z0-9-]{0,60}:[^\n]*\n`)

// ScanMessage reads a mail, or a page that was kept as one (RFC 2557): each of its parts in its own kind, whatever it is written in.
func ScanMessage(s *scanning.Scanner, p *source.Part, name string) (string, error) {
	data, err := p.Bytes()
	if err != nil {
		return "", err
	}
	m := &message{Scanner: s, part: p, data: data}
	if err := m.read(0, len(data), 0); err != nil {
		return "", err
	}
	if m.signed != "" && m.parts > 0 {
		s.Note("%s is signed (%s): when it is repainted, the signature no longer fits.", name, m.signed)
	}
	return audit.Plural(m.leaves, "part"), s.Tally.Check()
}

type message struct {
	*scanning.Scanner
	part          *source.Part
	data          []byte
	leaves, parts int
	signed        string
}

// most is how many parts of a message are read.
const mostParts = 1000

// headEnd is where the head that begins at an offset ends, and the body begins.
func headEnd(data []byte, from, to int) int {
	for i := from; i < to; {
		n := bytes.IndexByte(data[i:to], '\n')
		if n < 0 {
			return to
		}
		if len(bytes.TrimRight(data[i:i+n], "\r")) == 0 {
			return i + n + 1
		}
		i += n + 1
	}
	return to
}

// read goes over what stands between two offsets: a head and a body.
func (m *message) read(from, to, depth int) error {
	if depth > limits.Nested {
		return fmt.Errorf("it holds messages over %d deep", limits.Nested)
	}
	begin := from
	if bytes.HasPrefix(m.data[from:to], []byte("From ")) { // of a mailbox
		begin += bytes.IndexByte(m.data[from:to], '\n') + 1
	}
	body := headEnd(m.data, begin, to)
	head, err := textproto.NewReader(bufio.NewReader(io.MultiReader(bytes.NewReader(m.data[begin:body]),
		strings.NewReader("\r\n\r\n")))).ReadMIMEHeader()
	if err != nil && len(head) == 0 {
		return fmt.Errorf("what should be the head of a message is none")
	}
	if head.Get("DKIM-Signature") != "" {
		m.signed = "DKIM"
	}
	given := head.Get("Content-Type")
	if given == "" {
		given = "text/plain"
	}
	media, options, err := mime.ParseMediaType(given)
	if err != nil && media == "" {
		media = "text/plain"
	}
	switch {
	case media == "message/rfc822":
		return m.read(body, to, depth+1)
	case strings.HasPrefix(media, "multipart/"):
		if media == "multipart/signed" {
			m.signed = strings.TrimPrefix(options["protocol"], "application/")
		}
		return m.multipart(body, to, depth, options["boundary"])
	}
	if m.leaves++; m.leaves > mostParts {
		return fmt.Errorf("it has over %d parts", mostParts)
	}
	return m.leaf(head, media, options["charset"], body, to)
}

// multipart reads the parts that a boundary stands between (RFC 2046, 5.1.1).
func (m *message) multipart(from, to, depth int, boundary string) error {
	if boundary == "" {
		return fmt.Errorf("it has parts and does not say what is between them")
	}
	mark := []byte("--" + boundary)
	begin := -1
	for i := from; i < to; {
		end := to
		if n := bytes.IndexByte(m.data[i:to], '\n'); n >= 0 {
			end = i + n + 1
		}
		line := bytes.TrimRight(m.data[i:end], " \t\r\n")
		if last := bytes.Equal(line, append(bytes.Clone(mark), "--"...)); last || bytes.Equal(line, mark) {
			if begin >= 0 {
				stop := i - 1 // the line break belongs to the boundary
				if stop > begin && m.data[stop-1] == '\r' {
					stop--
				}
				if err := m.read(begin, max(begin, stop), depth+1); err != nil {
					return err
				}
			}
			if begin = end; last {
				return nil
			}
		}
		i = end
	}
	if begin < 0 {
		return fmt.Errorf("none of its parts is there")
	}
	m.Note("The last part of the message has no end; it was read as far as it goes.")
	return m.read(begin, to, depth+1)
}

// nameOf is what a part is called: its file, what it was at an address, or its number.
func (m *message) nameOf(head textproto.MIMEHeader) string {
	name := ""
	if _, options, err := mime.ParseMediaType(head.Get("Content-Disposition")); err == nil {
		name = options["filename"]
	}
	if name == "" {
		name = path.Base(strings.SplitN(head.Get("Content-Location"), "?", 2)[0])
	}
	if name == "" || name == "." || name == "/" {
		name = fmt.Sprintf("part %d", m.leaves)
	}
	return scanning.Shorten(name, 80)
}

// leaf reads one part.
func (m *message) leaf(head textproto.MIMEHeader, media, charset string, from, to int) error {
	name := m.nameOf(head)
	switch media {
	case "text/plain":
		return nil // nobody sees a color in it
	case "text/html", "application/xhtml+xml":
		if e := scanning.Extension(name); e != ".html" && e != ".htm" && e != ".xhtml" {
			name += ".html"
		}
	case "text/css":
		if scanning.Extension(name) != ".css" {
			name += ".css"
		}
	case "application/pkcs7-mime", "application/pgp-encrypted":
		m.Unread(name, fmt.Errorf("it is encrypted"))
		return nil
	case "application/pkcs7-signature", "application/pgp-signature":
		return nil
	}
	data, encode, err := unpackPart(m.data[from:to], head.Get("Content-Transfer-Encoding"))
	if err != nil {
		m.Unread(name, fmt.Errorf("it cannot be unpacked (%w)", err))
		return nil
	}
	if len(bytes.TrimSpace(data)) == 0 {
		return nil
	}
	if _, _, err := m.Table.Of(name, data); err != nil && strings.HasPrefix(media, "application/") {
		m.Note("A part of a kind that is not read: %s (%s).", name, media)
		return nil
	}
	in, err := m.part.Within(name, from, to, data, encode)
	if err != nil {
		m.Unread(name, err)
		return nil
	}
	if small := strings.ToLower(charset); strings.HasPrefix(media, "text/") && small != "" && small != "utf-8" && small != "us-ascii" {
		e, err := htmlindex.Get(small)
		if err != nil {
			m.Unread(name, fmt.Errorf("it is written in %q, which is not known", charset))
			return nil
		}
		text, err := e.NewDecoder().Bytes(data)
		if err != nil {
			m.Unread(name, fmt.Errorf("it is not written in %s", charset))
			return nil
		}
		in = in.Recoded(0, len(data), text, func(now []byte) ([]byte, error) { return e.NewEncoder().Bytes(now) })
	}
	m.parts++
	return m.Embedded(in, name)
}

// unpackPart is what a part holds in a transfer encoding (RFC 2045, 6), and how it is packed again.
func unpackPart(raw []byte, coding string) (data []byte, encode func(now []byte) ([]byte, error), err error) {
	line := "\n"
	if bytes.Contains(raw, []byte("\r\n")) {
		line = "\r\n"
	}
	encode = func(now []byte) ([]byte, error) { return now, nil }
	switch coding = strings.ToLower(strings.TrimSpace(coding)); coding {
	case "base64":
		data, err = base64.StdEncoding.DecodeString(strings.Join(strings.Fields(string(raw)), ""))
		encode = func(now []byte) ([]byte, error) {
			text := base64.StdEncoding.EncodeToString(now)
			var b strings.Builder
			for len(text) > 76 {
				b.WriteString(text[:76] + line)
				text = text[76:]
			}
			b.WriteString(text)
			if bytes.HasSuffix(raw, []byte("\n")) {
				b.WriteString(line)
			}
			return []byte(b.String()), nil
		}
	case "quoted-printable":
		data, err = io.ReadAll(quotedprintable.NewReader(bytes.NewReader(raw)))
		encode = func(now []byte) ([]byte, error) {
			var b bytes.Buffer
			w := quotedprintable.NewWriter(&b)
			if _, err := w.Write(now); err != nil {
				return nil, err
			}
			if err := w.Close(); err != nil {
				return nil, err
			}
			if line == "\n" {
				return bytes.ReplaceAll(b.Bytes(), []byte("\r\n"), []byte("\n")), nil
			}
			return b.Bytes(), nil
		}
	case "", "7bit", "8bit", "binary":
		data = raw
	default:
		err = fmt.Errorf("its coding %q is not known", scanning.Shorten(coding, 40))
	}
	return data, encode, err
}
