// Package pdfdoc opens PDFs (ISO 32000) with limits, and appends changed objects to them.
package pdfdoc

import (
	"bytes"
	"compress/zlib"
	"errors"
	"fmt"
	"maps"
	"regexp"
	"slices"
	"strconv"

	"github.com/pdfcpu/pdfcpu/pkg/pdfcpu"
	"github.com/pdfcpu/pdfcpu/pkg/pdfcpu/model"
	"github.com/pdfcpu/pdfcpu/pkg/pdfcpu/types"

	"huekeep/core/limits"
)

// Open reads the objects of a PDF, with limits. Errors are sentences without the file's name.
func Open(data []byte) (ctx *model.Context, err error) {
	defer func() {
		if recover() != nil { // the reader of PDF is not known to be free of panics on hostile files
			ctx, err = nil, errors.New("the PDF is damaged")
		}
	}()
	if err := guard(data); err != nil {
		return nil, err
	}
	conf := &model.Configuration{
		Version:                   model.VersionStr,
		Reader15:                  true,
		ValidationMode:            model.ValidationRelaxed,
		UnsupportedResourcePolicy: model.UnsupportedResourceSkip,
		Eol:                       types.EolLF,
		Limits:                    model.DefaultResourceLimits(),
	}
	conf.Limits.MaxDecodeBytes = limits.PDFStream
	conf.Limits.MaxObjectCount = 1_000_000
	conf.Limits.MaxXRefEntries = 1_000_000
	if ctx, err = pdfcpu.Read(bytes.NewReader(data), conf); err != nil {
		return nil, fmt.Errorf("the PDF cannot be read: %w", err)
	}
	if err := ctx.EnsurePageCount(); err != nil {
		return nil, fmt.Errorf("the PDF has no pages: %w", err)
	}
	return ctx, nil
}

// Object is an object that an update writes anew: what stands between "obj" and "endobj".
type Object struct {
	Generation int
	Body       []byte
}

// Stream is the body of a stream object, packed with Flate. The dictionary is given without its length and filters, as the text between
// "<<" and ">>".
func Stream(dictionary string, content []byte) []byte {
	var packed bytes.Buffer
	z := zlib.NewWriter(&packed)
	_, _ = z.Write(content) // a buffer takes every write
	_ = z.Close()
	return Packed(dictionary+"/Filter/FlateDecode", packed.Bytes())
}

// Packed is the body of a stream object of content that is packed as its dictionary says.
func Packed(dictionary string, content []byte) []byte {
	var b bytes.Buffer
	fmt.Fprintf(&b, "<<%s/Length %d>>\nstream\n", dictionary, len(content))
	b.Write(content)
	b.WriteString("\nendstream")
	return b.Bytes()
}

var startXRef = regexp.MustCompile(`startxref\s+(\d+)`)

// Update appends objects to a PDF (ISO 32000-2, 7.5.6): the file's own bytes stay in front, unchanged, and a reader takes the newer
// objects. The cross-reference section is of the kind that the file ends with.
func Update(data []byte, ctx *model.Context, objects map[int]Object) ([]byte, error) {
	found := startXRef.FindAllSubmatch(data[max(0, len(data)-2048):], -1)
	if len(found) == 0 {
		return nil, errors.New("the PDF does not say where its objects are listed")
	}
	previous, err := strconv.Atoi(string(found[len(found)-1][1]))
	if err != nil || previous >= len(data) || previous < 0 {
		return nil, errors.New("the PDF says wrongly where its objects are listed")
	}
	if ctx.Root == nil || ctx.Size == nil {
		return nil, errors.New("the PDF has no list of objects that can be continued")
	}
	var b bytes.Buffer
	b.Grow(len(data) + 4096)
	b.Write(data)
	if n := len(data); n > 0 && data[n-1] != '\n' {
		b.WriteByte('\n')
	}
	numbers := slices.Sorted(maps.Keys(objects))
	offsets := map[int]int{}
	for _, n := range numbers {
		offsets[n] = b.Len()
		fmt.Fprintf(&b, "%d %d obj\n", n, objects[n].Generation)
		b.Write(objects[n].Body)
		b.WriteString("\nendobj\n")
	}
	size := max(*ctx.Size, ctx.MaxObjNr+1)
	trailer := fmt.Sprintf("/Root %s/Prev %d", ctx.Root.PDFString(), previous)
	if ctx.Info != nil {
		trailer += "/Info " + ctx.Info.PDFString()
	}
	if len(ctx.ID) == 2 {
		trailer += "/ID" + ctx.ID.PDFString()
	}
	at := b.Len()
	if isTable(data[previous:]) {
		b.WriteString("xref\n")
		for i := 0; i < len(numbers); {
			run := i + 1
			for run < len(numbers) && numbers[run] == numbers[run-1]+1 {
				run++
			}
			fmt.Fprintf(&b, "%d %d\n", numbers[i], run-i)
			for ; i < run; i++ {
				fmt.Fprintf(&b, "%010d %05d n\r\n", offsets[numbers[i]], objects[numbers[i]].Generation)
			}
		}
		fmt.Fprintf(&b, "trailer\n<</Size %d%s>>\n", size, trailer)
	} else { // a cross-reference stream is an object itself (7.5.8)
		own := size
		offsets[own] = at
		var index, rows bytes.Buffer
		for _, n := range append(slices.Clip(numbers), own) {
			fmt.Fprintf(&index, "%d 1 ", n)
			o := offsets[n]
			rows.Write([]byte{1, byte(o >> 24), byte(o >> 16), byte(o >> 8), byte(o), byte(objects[n].Generation >> 8),
				byte(objects[n].Generation)})
		}
		fmt.Fprintf(&b, "%d 0 obj\n", own)
		b.Write(Stream(fmt.Sprintf("/Type/XRef/Size %d/W[1 4 2]/Index[%s]%s", own+1, bytes.TrimSpace(index.Bytes()), trailer),
			rows.Bytes()))
		b.WriteString("\nendobj\n")
	}
	fmt.Fprintf(&b, "startxref\n%d\n%%%%EOF\n", at)
	return b.Bytes(), nil
}

func isTable(data []byte) bool {
	return bytes.HasPrefix(bytes.TrimLeft(data, " \t\r\n"), []byte("xref"))
}
