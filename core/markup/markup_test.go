package markup_test

import (
	"bytes"
	"encoding/xml"
	"errors"
	"fmt"
	"io"
	"strings"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"huekeep/core/hostile"
	"huekeep/core/markup"
)

// told lists what a document holds: "<name a=v>", "text", "</name>".
func told(data []byte) (out []string, err error) {
	r := markup.NewReader(data)
	text := func(s string) {
		if n := len(out); n > 0 && !strings.HasPrefix(out[n-1], "<") { // a CDATA section goes on with the text before it
			out[n-1] += s
		} else if s != "" {
			out = append(out, "\""+s)
		}
	}
	for {
		event, err := r.Next()
		if err != nil {
			return out, err
		}
		switch event {
		case markup.End:
			return out, nil
		case markup.Open:
			s := "<" + string(r.Name)
			for _, a := range r.Attrs {
				s += fmt.Sprintf(" %s=%q", a.Name, r.Value(a))
			}
			out = append(out, s+">")
		case markup.Close:
			out = append(out, "</>")
		case markup.Text:
			if raw := r.Data[r.Start:r.End]; r.CDATA {
				text(string(raw))
			} else {
				text(r.Decode(raw))
			}
		}
	}
}

// standard lists the same with the reader of the Go library.
func standard(data []byte) (out []string, err error) {
	d := xml.NewDecoder(bytes.NewReader(data))
	join := false // comments part texts there
	for {
		token, err := d.RawToken()
		if errors.Is(err, io.EOF) {
			return out, nil
		} else if err != nil {
			return out, err
		}
		name := func(n xml.Name) string {
			if n.Space != "" {
				return n.Space + ":" + n.Local
			}
			return n.Local
		}
		switch token := token.(type) {
		case xml.StartElement:
			s := "<" + name(token.Name)
			for _, a := range token.Attr {
				s += fmt.Sprintf(" %s=%q", name(a.Name), a.Value)
			}
			out = append(out, s+">")
		case xml.EndElement:
			out = append(out, "</>")
		case xml.CharData:
			if join {
				out[len(out)-1] += string(token)
			} else if len(token) > 0 && len(out) > 0 {
				out = append(out, "\""+string(token))
			}
		}
		join = len(out) > 0 && strings.HasPrefix(out[len(out)-1], "\"")
	}
}

func TestDocumentsAreReadAsTheyAreWritten(t *testing.T) {
	for name, c := range map[string]struct{ text, want string }{
		"an empty element":      {`<a/>`, `<a> </>`},
		"attributes":            {"<p:a x = '1'\n\ty=\"&lt;2&#x21;\"></p:a >", `<p:a x="1" y="<2!"> </>`},
		"text and CDATA":        {`<a>x&amp;<![CDATA[<&]]>y</a>`, `<a> "x&<&y </>`},
		"comments between":      {`<?xml version="1.0"?><!-- <b> --><a><?do <c?><b/><!----></a><!--x-->`, `<a> <b> </> </>`},
		"a declaration":         {"<!DOCTYPE a [<!ENTITY x 'y>'> <!-- ' ]> -->]>\n<a/>", `<a> </>`},
		"unknown references":    {`<a b="&c;">&d</a>`, `<a b="&c;"> "&d </>`},
		"a byte order mark":     {"\xef\xbb\xbf<a/>", `<a> </>`},
		"a > in a value":        {`<a b=">"/>`, `<a b=">"> </>`},
		"space around the root": {"\n<a/>\n", `<a> </>`},
	} {
		t.Run(name, func(t *testing.T) {
			got, err := told([]byte(c.text))
			require.NoError(t, err)
			assert.Equal(t, c.want, strings.Join(got, " "))
		})
	}
}

func TestWhatIsNotWellFormedIsSaidWithItsLine(t *testing.T) {
	for text, want := range map[string]string{
		"":                             "line 1 is not well-formed XML (it has no element)",
		"<a>\n<b></a>":                 `line 2 is not well-formed XML (element "b" is closed by "a")`,
		"<a>\n\n":                      `line 3 is not well-formed XML (it ends inside of "a")`,
		"<a/><b/>":                     "a second element",
		"<a/>x":                        "text outside",
		"x<a/>":                        "text outside",
		"<a b/>":                       "without a value",
		"<a b=c/>":                     "without quotes",
		"<a b='c/>":                    "has no end",
		"<a b='<'/>":                   "a < inside",
		"<a b='1'c='2'/>":              "no space",
		"< a/>":                        "without a name",
		"<a / >":                       "a slash",
		"</a>":                         "was not opened",
		"<a><!-- </a>":                 "a comment has no end",
		"<a><![CDATA[ </a>":            "a CDATA section has no end",
		"<a><?x </a>":                  "an instruction has no end",
		"<!DOCTYPE a [ <a/>":           "a declaration has no end",
		"<a><!></a>":                   "a declaration stands where none may",
		"<!ELEMENT a ANY><a/>":         "a declaration stands where none may",
		"<a/><":                        "in the middle of a tag",
		strings.Repeat("<a>", 200_000): "elements deep",
	} {
		_, err := told([]byte(text))
		assert.ErrorContains(t, err, want, "%.40q", text)
	}
}

func TestSpansAreThoseOfTheValues(t *testing.T) {
	data := []byte("<a>\n  <b c='#E1572C' d = \"x\">text<!-- no --></b></a>")
	r := markup.NewReader(data)
	var got []string
	for {
		event, err := r.Next()
		require.NoError(t, err)
		if event == markup.End {
			break
		}
		if event == markup.Open {
			for _, a := range r.Attrs {
				line, column := markup.Line(data, a.Start)
				got = append(got, fmt.Sprintf("%s %d:%d", data[a.Start:a.End], line, column))
			}
		}
		if event == markup.Text && r.Depth() == 2 {
			got = append(got, string(data[r.Start:r.End]))
		}
	}
	assert.Equal(t, []string{"#E1572C 2:9", "x 2:23", "text"}, got)
	name, ok := r.Known([]byte("a &amp; &#12; &nobody;"))
	assert.False(t, ok)
	assert.Equal(t, "&nobody;", name)
}

// FuzzReader holds the reader to the one of the Go library: what both take means the same to both.
func FuzzReader(f *testing.F) {
	for _, s := range []string{`<a b="c">d<e/></a>`, "<a>x<![CDATA[y]]>z</a>", "<!DOCTYPE a [<!ENTITY b 'c'>]><a>&lt;</a>", "<a><!-- b --></a>", "<?xml version='1.0'?><p:a q:b='1'/>"} {
		f.Add([]byte(s))
	}
	f.Fuzz(func(t *testing.T, data []byte) {
		defer hostile.Timely(t, len(data))()
		got, err := told(data)
		if err != nil || bytes.IndexByte(data, '\r') >= 0 { // line ends are made alike there (XML 1.0, 2.11); here they stay as they are
			return
		}
		want, err := standard(data)
		if err != nil || strings.Contains(strings.Join(got, ""), "&") { // references that are not known stay
			return
		}
		for len(want) > 0 && strings.HasPrefix(want[len(want)-1], "\"") { // what follows the document's element
			want = want[:len(want)-1]
		}
		if len(bytes.TrimSpace(data)) > 0 {
			assert.Equal(t, want, got)
		}
	})
}
