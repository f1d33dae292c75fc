package pdfdoc

import (
	"bytes"
	"fmt"
)

// Plain is a PDF of objects as they are written, numbered from 1, of which the first is the catalog: with a plain table of where they begin
// (7.5.4).
func Plain(objects ...string) []byte {
	var b bytes.Buffer
	var at []int
	b.WriteString("%PDF-1.7\n")
	for i, o := range objects {
		at = append(at, b.Len())
		fmt.Fprintf(&b, "%d 0 obj\n%s\nendobj\n", i+1, o)
	}
	start := b.Len()
	fmt.Fprintf(&b, "xref\n0 %d\n0000000000 65535 f\r\n", len(at)+1)
	for _, o := range at {
		fmt.Fprintf(&b, "%010d 00000 n\r\n", o)
	}
	fmt.Fprintf(&b, "trailer\n<</Size %d/Root 1 0 R>>\nstartxref\n%d\n%%%%EOF\n", len(at)+1, start)
	return b.Bytes()
}
