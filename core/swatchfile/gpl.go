package swatchfile

import (
	"bufio"
	"bytes"
	"fmt"
	"strconv"
	"strings"

	"huekeep/core/color"
	"huekeep/core/library"
)

// gplMark is the first line of every plain text palette.
const gplMark = "GIMP Palette"

// ReadGPL reads a plain text palette: after the head, a line has red, green and blue from 0 to 255, then the name.
func ReadGPL(data []byte) (Library, error) {
	var l Library
	in := bufio.NewScanner(bytes.NewReader(data))
	for n := 1; in.Scan(); n++ {
		text := strings.TrimSpace(in.Text())
		switch {
		case n == 1 && text != gplMark:
			return l, fmt.Errorf("its first line is not %q", gplMark)
		case n == 1, text == "", strings.HasPrefix(text, "#"), strings.HasPrefix(text, "Columns:"), strings.HasPrefix(text, "Channels:"):
			continue
		case strings.HasPrefix(text, "Name:"):
			l.House = strings.TrimSpace(strings.TrimPrefix(text, "Name:"))
			continue
		}
		f := strings.Fields(text)
		if len(f) < 3 {
			return l, fmt.Errorf("line %d has no three values", n)
		}
		var v [3]uint8
		for i := range v {
			x, err := strconv.ParseUint(f[i], 10, 8)
			if err != nil {
				return l, fmt.Errorf("line %d: %q is not a value from 0 to 255", n, f[i])
			}
			v[i] = uint8(x)
		}
		name := strings.Join(f[3:], " ")
		l.Colors = append(l.Colors, library.Color{Name: name, RGB: color.RGB8{R: v[0], G: v[1], B: v[2]}})
	}
	return l, in.Err()
}

// WriteGPL writes a plain text palette.
func WriteGPL(e library.Edition) ([]byte, error) {
	var b bytes.Buffer
	fmt.Fprintf(&b, "%s\nName: %s\nColumns: 0\n#%s\n", gplMark, oneLine(e.Entry()), inside(e))
	for _, c := range e.Colors {
		fmt.Fprintf(&b, "%3d %3d %3d\t%s\n", c.RGB.R, c.RGB.G, c.RGB.B, oneLine(c.Name))
	}
	return b.Bytes(), nil
}

func oneLine(s string) string { return strings.Join(strings.Fields(s), " ") }
