package web

import (
	"bytes"
	"compress/gzip"
	"fmt"
	"io"

	"huekeep/core/audit/scanning"
	"huekeep/core/limits"
	"huekeep/core/recognize"
	"huekeep/core/source"
)

// IsSVGZ recognizes a drawing that is compressed as a whole (SVG 2, appendix on conformance: a file in gzip, RFC 1952).
func IsSVGZ(data []byte) bool {
	if !bytes.HasPrefix(data, []byte{0x1f, 0x8b}) {
		return false
	}
	z, err := gzip.NewReader(bytes.NewReader(data))
	if err != nil {
		return false
	}
	head, _ := io.ReadAll(io.LimitReader(z, 64<<10)) // one that is cut off begins all the same
	return recognize.Look(head).Root == "svg"
}

// ScanSVGZ reads a drawing in gzip.
func ScanSVGZ(s *scanning.Scanner, p *source.Part, name string) (string, error) {
	data, err := p.Bytes()
	if err != nil {
		return "", err
	}
	z, err := gzip.NewReader(bytes.NewReader(data))
	if err != nil {
		return "", fmt.Errorf("it is damaged (%w)", err)
	}
	text, err := io.ReadAll(io.LimitReader(z, limits.PartBytes+1))
	if err != nil {
		return "", fmt.Errorf("it is damaged (%w)", err)
	}
	if len(text) > limits.PartBytes {
		return "", fmt.Errorf("it unpacks to over %s", limits.Size(limits.PartBytes))
	}
	in, err := p.Within("drawing", 0, len(data), text, func(text []byte) ([]byte, error) {
		var b bytes.Buffer
		to := gzip.NewWriter(&b)
		to.Header = z.Header // its name and time stay
		if _, err := to.Write(text); err != nil {
			return nil, err
		}
		err := to.Close()
		return b.Bytes(), err
	})
	if err != nil {
		return "", err
	}
	return ScanSVG(s, in, name)
}
