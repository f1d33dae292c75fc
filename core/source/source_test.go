package source_test

import (
	"archive/zip"
	"bytes"
	"io"
	"strings"
	"testing"
	"time"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"huekeep/core/hostile"
	"huekeep/core/source"
)

// entry is a file that goes into an archive.
type entry struct {
	name, text string
	method     uint16
	extra      string
}

func pack(t testing.TB, comment string, entries ...entry) []byte {
	var b bytes.Buffer
	w := zip.NewWriter(&b)
	for i, e := range entries {
		to, err := w.CreateHeader(&zip.FileHeader{Name: e.name, Method: e.method, Modified: time.Date(2026, 3, 4+i, 5, 6, 8, 0, time.UTC), Extra: []byte(e.extra), Comment: "of " + e.name})
		require.NoError(t, err)
		_, err = io.WriteString(to, e.text)
		require.NoError(t, err)
	}
	require.NoError(t, w.SetComment(comment))
	require.NoError(t, w.Close())
	return b.Bytes()
}

// raw is the packed bytes and the header of each entry, in order.
func raw(t testing.TB, data []byte) (out []string) {
	z, err := zip.NewReader(bytes.NewReader(data), int64(len(data)))
	require.NoError(t, err)
	for _, f := range z.File {
		r, err := f.OpenRaw()
		require.NoError(t, err)
		text, err := io.ReadAll(r)
		require.NoError(t, err)
		out = append(out, f.Name+" "+f.Comment+" "+f.Modified.UTC().String()+" "+string(f.Extra)+" "+string(text))
	}
	return append(out, z.Comment)
}

func span(t testing.TB, p *source.Part, text string) source.Span {
	data, err := p.Bytes()
	require.NoError(t, err)
	at := bytes.Index(data, []byte(text))
	require.GreaterOrEqual(t, at, 0, text)
	return source.Span{Part: p, Start: at, End: at + len(text)}
}

func deck(t testing.TB) []byte {
	book := pack(t, "", entry{"xl/styles.xml", strings.Repeat("<x/>", 50) + `<color rgb="FFE1572C"/>`, zip.Deflate, ""}, entry{"xl/sheet.xml", "<sheet/>", zip.Store, ""})
	return pack(t, "made by hand", entry{"mimetype", "application/x", zip.Store, ""}, entry{"ppt/", "", zip.Store, ""},
		entry{"ppt/theme.xml", `<a val="E2572B"/><b val="E1572C"/>` + strings.Repeat(" ", 300), zip.Deflate, "\xfe\xca\x00\x00"}, entry{"ppt/book.xlsx", string(book), zip.Deflate, ""}, entry{"ppt/picture.png", "\x89PNG", zip.Store, ""})
}

func TestOnlyWhatIsChangedChanges(t *testing.T) {
	data := deck(t)
	f := source.Open("deck.pptx", data)
	same, err := f.Apply(nil)
	require.NoError(t, err)
	assert.Equal(t, data, same, "no edit, same bytes")

	theme, styles := f.Root.Find("ppt/theme.xml"), f.Root.Find("ppt/book.xlsx").Find("xl/styles.xml")
	assert.Equal(t, []string{"deck.pptx", "ppt/book.xlsx", "xl/styles.xml"}, styles.Path())
	out, err := f.Apply([]source.Edit{{Span: span(t, styles, "E1572C"), New: []byte("E2572B")}, {Span: span(t, theme, "E1572C"), New: []byte("E2572B")}, {Span: span(t, theme, `<a val="`), New: []byte(`<a  val="`)}})
	require.NoError(t, err)
	before, after := raw(t, data), raw(t, out)
	require.Len(t, after, len(before))
	for i, kept := range []bool{true, true, false, false, true, true} {
		assert.Equal(t, kept, before[i] == after[i], "entry %d", i)
	}
	again := source.Open("deck.pptx", out)
	text, err := again.Root.Find("ppt/theme.xml").Bytes()
	require.NoError(t, err)
	assert.Equal(t, `<a  val="E2572B"/><b val="E2572B"/>`+strings.Repeat(" ", 300), string(text))
	text, err = again.Root.Find("ppt/book.xlsx").Find("xl/styles.xml").Bytes()
	require.NoError(t, err)
	assert.Equal(t, strings.Repeat("<x/>", 50)+`<color rgb="FFE2572B"/>`, string(text))
	inner, err := f.Root.Find("ppt/book.xlsx").Bytes()
	require.NoError(t, err)
	innerNow, err := again.Root.Find("ppt/book.xlsx").Bytes()
	require.NoError(t, err)
	assert.Equal(t, raw(t, inner)[1], raw(t, innerNow)[1], "the sheet beside the styles is as it was")
	data2, err := f.Apply(nil)
	require.NoError(t, err)
	assert.Equal(t, data, data2, "the original is untouched")
}

func TestEditsThatCannotBe(t *testing.T) {
	f, other := source.Open("a.css", []byte("a{color:#E1572C}")), source.Open("b.css", []byte("x"))
	at := func(start, end int) source.Edit {
		return source.Edit{Span: source.Span{Part: f.Root, Start: start, End: end}, New: []byte("y")}
	}
	for says, edits := range map[string][]source.Edit{
		"overlap":             {at(2, 6), at(4, 8)},
		"overlap at 2":        {at(2, 2), at(2, 4)},
		"does not lie in":     {at(10, 99)},
		"from -1":             {at(-1, 2)},
		"from 5 to 2":         {at(5, 2)},
		"of another file":     {{Span: source.Span{Part: other.Root, End: 1}}},
		"is of another file.": {{}},
	} {
		out, err := f.Apply(edits)
		assert.ErrorContains(t, err, strings.TrimSuffix(says, "."), says)
		assert.Nil(t, out)
	}
	out, err := f.Apply([]source.Edit{at(16, 16), at(0, 1)})
	require.NoError(t, err)
	assert.Equal(t, "y{color:#E1572C}y", string(out), "edits may touch the ends, in any order")
	d := source.Open("deck.pptx", deck(t))
	book := d.Root.Find("ppt/book.xlsx")
	_, err = d.Apply([]source.Edit{{Span: span(t, book.Find("xl/sheet.xml"), "sheet")}, {Span: source.Span{Part: book, End: 1}}})
	assert.ErrorContains(t, err, "as a whole and in its parts")
}

func TestWhatCannotBeReadIsNamed(t *testing.T) {
	deep := []byte("a{color:red}")
	for range 6 {
		deep = pack(t, "", entry{"in.zip", string(deep), zip.Deflate, ""})
	}
	p := source.Open("deep.zip", deep).Root
	var err error
	levels := 0
	for ; err == nil && p != nil; levels++ {
		var parts []*source.Part
		if parts, err = p.Parts(); err == nil && len(parts) > 0 {
			p = parts[0]
		}
	}
	assert.Equal(t, 5, levels, "four deep, and no further")
	assert.ErrorContains(t, err, "4 documents deep")
	_, err = source.Open("cut.zip", deck(t)[:200]).Root.Parts()
	assert.ErrorContains(t, err, "cut off")
	parts, err := source.Open("a.css", []byte("PKey,hex")).Root.Parts()
	require.NoError(t, err)
	assert.Empty(t, parts)
	assert.Nil(t, source.Open("deck.pptx", deck(t)).Root.Find("nothing"))

	// Encrypted and unknown entries are carried over, and said when they are asked for.
	var b bytes.Buffer
	w := zip.NewWriter(&b)
	for _, head := range []zip.FileHeader{{Name: "locked.xml", Flags: 1, Method: zip.Deflate}, {Name: "odd.xml", Method: 97}, {Name: "plain.xml", Method: zip.Store, CRC32: 0x8CDC1683}} {
		head.CompressedSize64, head.UncompressedSize64 = 1, 1
		to, err := w.CreateRaw(&head)
		require.NoError(t, err)
		_, err = to.Write([]byte("x"))
		require.NoError(t, err)
	}
	require.NoError(t, w.Close())
	f := source.Open("deck.pptx", b.Bytes())
	for name, says := range map[string]string{"locked.xml": `part "locked.xml" is encrypted`, "odd.xml": `part "odd.xml" cannot be unpacked`} {
		_, err := f.Root.Find(name).Bytes()
		assert.ErrorContains(t, err, says)
	}
	out, err := f.Apply([]source.Edit{{Span: span(t, f.Root.Find("plain.xml"), "x"), New: []byte("y")}})
	require.NoError(t, err)
	assert.Equal(t, raw(t, b.Bytes())[:2], raw(t, out)[:2])
	text, err := source.Open("deck.pptx", out).Root.Find("plain.xml").Bytes()
	require.NoError(t, err)
	assert.Equal(t, "y", string(text))
}

// Whatever a file is: no edit leaves its bytes, and an edit of a part changes that part alone.
func FuzzApply(f *testing.F) {
	f.Add(deck(f), 3, "x")
	f.Add([]byte("a{color:#E1572C}"), 0, "#E2572B")
	f.Add([]byte("PK\x05\x06"+strings.Repeat("\x00", 18)), 1, "")
	f.Fuzz(func(t *testing.T, data []byte, which int, text string) {
		defer hostile.Timely(t, len(data))()
		file := source.Open("x", data)
		same, err := file.Apply(nil)
		require.NoError(t, err)
		require.Equal(t, data, same)
		var all []*source.Part
		var walk func(p *source.Part)
		walk = func(p *source.Part) {
			if _, err := p.Bytes(); err != nil {
				return
			}
			parts, err := p.Parts()
			if err == nil && len(parts) == 0 {
				all = append(all, p)
			}
			for _, e := range parts {
				walk(e)
			}
		}
		walk(file.Root)
		if len(all) == 0 {
			return
		}
		p := all[(which%len(all)+len(all))%len(all)]
		was, err := p.Bytes()
		require.NoError(t, err)
		middle := len(was) / 2
		out, err := file.Apply([]source.Edit{{Span: source.Span{Part: p, Start: middle, End: middle}, New: []byte(text)}})
		if err != nil {
			return // an archive that cannot be written again, with a sentence
		}
		var all2 []*source.Part
		all, all2 = nil, all
		again := source.Open("x", out)
		walk(again.Root)
		if len(all) != len(all2) {
			return // what was put in made an archive of it, or names stand twice in it
		}
		for i, q := range all {
			got, err := q.Bytes()
			require.NoError(t, err)
			want, err := all2[i].Bytes()
			require.NoError(t, err)
			if all2[i] == p {
				want = append(append(bytes.Clone(want[:middle]), text...), want[middle:]...)
			}
			require.Equal(t, string(want), string(got))
		}
	})
}
