package pdf

import (
	"bytes"
	"fmt"
	"strconv"
	"strings"

	"github.com/pdfcpu/pdfcpu/pkg/pdfcpu/types"

	"huekeep/core/audit"
	"huekeep/core/audit/scanning"
	"huekeep/core/source"
)

// pathStep stands between the keys and places of a way; no name of a PDF has it (7.3.5).
const pathStep = "\x00"

// placed is a value of a PDF with the way to it: the object that it stands in, and the keys and places from there.
// Of a reference they are where it leads, so that they are not said.
type placed struct {
	types.Object
	in   types.IndirectRef
	path string // empty for the object itself, or where in says nothing
}

// home is the object that a value stands in and the way from there, as one text; empty if it is not known.
func (d *pdfScan) home(o placed) string {
	ref, path := o.root()
	if ref.ObjectNumber == 0 {
		return ""
	}
	return fmt.Sprintf("%d/%s", ref.ObjectNumber, path)
}

func (o placed) root() (ref types.IndirectRef, path string) {
	if ref, ok := o.Object.(types.IndirectRef); ok {
		return ref, ""
	}
	return o.in, o.path
}

func (o placed) to(to string, v types.Object) placed {
	ref, path := o.root()
	if path != "" {
		path += pathStep
	}
	return placed{v, ref, path + to}
}

// within is what a dictionary, or the one of a stream, has under a key.
func (d *pdfScan) within(o placed, key string) placed {
	v, err := d.ctx.Dereference(o.Object)
	if err != nil {
		return placed{}
	}
	return o.to(key, said(v)[key])
}

// nth is what an array has at a place.
func (d *pdfScan) nth(o placed, i int) placed {
	list := d.array(o.Object)
	if i >= len(list) {
		return placed{}
	}
	return o.to(strconv.Itoa(i), list[i])
}

// resource is what a name of a kind stands for.
func (d *pdfScan) resource(resources placed, kind, name string) placed {
	return d.within(d.within(resources, kind), name)
}

// inherited is what a page has under a key, or the nearest of its parents that has it (7.7.3.4).
func (d *pdfScan) inherited(page placed, key string) placed {
	for range 64 { // a tree of pages may go round
		if o := d.within(page, key); o.Object != nil {
			return o
		}
		if page = d.within(page, "Parent"); page.Object == nil {
			break
		}
	}
	return placed{}
}

// pdfText is what an object says as a part, and where in it each value stands. Of a stream it is the dictionary, without what says how it
// is packed.
type pdfText struct {
	part  *source.Part
	bytes []byte
	spans map[string][2]int
}

// packed are the keys of a stream that say how it is packed.
var packed = []string{"Filter", "DecodeParms", "DL"}

// packing are those of a stream's dictionary, with what they say.
func packing(of types.Dict) string {
	var b strings.Builder
	for _, k := range packed {
		if v, there := of[k]; there {
			b.WriteString("/" + k + " " + wording(v))
		}
	}
	return b.String()
}

// wording is a value that holds no others, as a file says it.
func wording(o types.Object) string {
	if o == nil {
		return "null"
	}
	return o.PDFString()
}

// text is an object as text; nil for one that there is none of.
func (d *pdfScan) text(number, generation int) *pdfText {
	if t, known := d.texts[number]; known {
		return t
	}
	d.texts[number] = nil
	v, err := d.ctx.Dereference(*types.NewIndirectRef(number, generation))
	if err != nil || v == nil {
		return nil
	}
	t := &pdfText{spans: map[string][2]int{}}
	o := pdfObject{number: number, generation: generation, text: true}
	if x, ok := v.(types.StreamDict); ok {
		o.stream = &x
		plain := types.Dict{}
		for k, v := range x.Dict {
			plain[k] = v
		}
		for _, k := range append([]string{"Length"}, packed...) {
			delete(plain, k)
		}
		v = plain
	}
	var b bytes.Buffer
	t.write(&b, v, "", 0)
	t.bytes = b.Bytes()
	t.part = d.root.Held(fmt.Sprintf("object %d", number), t.bytes)
	d.texts[number], d.objects[t.part] = t, o
	return t
}

// write writes a value and notes where each value in it stands.
func (t *pdfText) write(b *bytes.Buffer, o types.Object, path string, depth int) {
	start := b.Len()
	under := func(to string) string {
		if path == "" {
			return to
		}
		return path + pathStep + to
	}
	const deep = 32 // what is nested deeper is not taken apart
	switch v := o.(type) {
	case types.Dict:
		if depth > deep {
			b.WriteString(v.PDFString())
			break
		}
		b.WriteString("<<")
		for _, k := range scanning.Sorted(v) {
			b.WriteString("/" + types.EncodeName(k) + " ")
			t.write(b, v[k], under(k), depth+1)
		}
		b.WriteString(">>")
	case types.Array:
		if depth > deep {
			b.WriteString(v.PDFString())
			break
		}
		b.WriteString("[")
		for i, e := range v {
			if i > 0 {
				b.WriteByte(' ')
			}
			t.write(b, e, under(strconv.Itoa(i)), depth+1)
		}
		b.WriteString("]")
	default:
		b.WriteString(wording(o))
	}
	t.spans[path] = [2]int{start, b.Len()}
}

// stands tells a use where its value is written.
func (d *pdfScan) stands(u *audit.Use, o placed) {
	u.Fixed = "it is not known where in the file it stands"
	ref, path := o.root()
	if ref.ObjectNumber == 0 {
		return
	}
	t := d.text(int(ref.ObjectNumber), int(ref.GenerationNumber))
	if t == nil {
		return
	}
	if at, ok := t.spans[path]; ok {
		u.At, u.Fixed = []source.Span{{Part: t.part, Start: at[0], End: at[1]}}, ""
	}
}
