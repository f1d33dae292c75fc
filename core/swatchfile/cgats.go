package swatchfile

import (
	"bufio"
	"bytes"
	"fmt"
	"math"
	"regexp"
	"strconv"
	"strings"

	"huekeep/core/color"
	"huekeep/core/library"
	"huekeep/core/recognize"
)

var cgatsMark = regexp.MustCompile(`(?m)^\s*BEGIN_DATA_FORMAT\b`)

func isCGATS(_ string, c recognize.Content) bool {
	return cgatsMark.Match(beginning(c.Data)) || isChartLayout(c.Data)
}

// isChartLayout recognizes the layout of a test chart, as instruments read it: boxes and what to expect there, but no
// characterization.
func isChartLayout(data []byte) bool {
	return chartLayout.Match(beginning(data)) && !cgatsMark.Match(beginning(data))
}

var chartLayout = regexp.MustCompile(`(?m)^\s*BOXES\s+\d+[\s\S]*^\s*BOX_SHRINK\b`)

// ReadCGATS reads a characterization text (CGATS.17, ISO 28178): one color a line of its data, from CIELAB, XYZ (0 to 100,
// D50) or RGB, with CMYK beside it. Values are measured, so Lab is kept. Only the first table with colors is read: later ones,
// as densities or the limits of a calibration, are of other things.
func ReadCGATS(data []byte) (Library, error) {
	var l Library
	if isChartLayout(data) {
		return l, fmt.Errorf("it is the layout of a test chart, which says where patches lie; the colors are in the chart's measurement")
	}
	in := bufio.NewScanner(bytes.NewReader(data))
	in.Buffer(nil, 1<<20)
	var fields []string
	column := map[string]int{}
	inFormat, inData := false, false
	for n := 1; in.Scan(); n++ {
		words := cgatsWords(in.Text())
		if len(words) == 0 {
			continue
		}
		switch words[0] {
		case "BEGIN_DATA_FORMAT":
			if len(l.Colors) > 0 {
				l.Notes = append(l.Notes, fmt.Sprintf("Only its first table was read; another begins in line %d.", n))
				return l, nil
			}
			inFormat, fields = true, nil
			continue
		case "END_DATA_FORMAT":
			inFormat = false
			column = map[string]int{}
			for i, f := range fields {
				column[strings.ToUpper(f)] = i
			}
			continue
		case "BEGIN_DATA":
			if len(fields) == 0 {
				return l, fmt.Errorf("line %d: the data comes before its format", n)
			}
			inData = true
			continue
		case "END_DATA":
			inData = false
			continue
		case "ORIGINATOR", "DESCRIPTOR":
			if len(words) > 1 && (l.House == "" || words[0] == "DESCRIPTOR") {
				l.House = words[1]
			}
		}
		switch {
		case inFormat:
			fields = append(fields, words...)
		case inData:
			c, ok, err := cgatsColor(words, fields, column)
			if err != nil {
				return l, fmt.Errorf("line %d: %w", n, err)
			}
			if ok {
				l.Colors = append(l.Colors, c)
			}
		}
	}
	if inData {
		return l, fmt.Errorf("its data is cut off: END_DATA is missing")
	}
	if err := in.Err(); err != nil {
		return l, err
	}
	if len(l.Colors) == 0 && len(fields) > 0 {
		return l, fmt.Errorf("it has no Lab, XYZ or RGB values")
	}
	return l, nil
}

// cgatsWords parts a line at white space, keeps quoted texts together and drops comments.
func cgatsWords(s string) []string {
	var out []string
	for s = strings.TrimSpace(s); s != "" && s[0] != '#'; s = strings.TrimSpace(s) {
		if s[0] == '"' {
			if end := strings.IndexByte(s[1:], '"'); end >= 0 {
				out = append(out, s[1:1+end])
				s = s[end+2:]
				continue
			}
		}
		end := strings.IndexAny(s, " \t")
		if end < 0 {
			return append(out, s)
		}
		out = append(out, s[:end])
		s = s[end:]
	}
	return out
}

func cgatsColor(words, fields []string, column map[string]int) (c library.Color, ok bool, err error) {
	if len(words) < len(fields) {
		return c, false, fmt.Errorf("it has %d values where the format names %d", len(words), len(fields))
	}
	read := func(names ...string) ([]float64, bool) {
		out := make([]float64, len(names))
		for i, name := range names {
			at, there := column[name]
			if !there {
				return nil, false
			}
			v, e := strconv.ParseFloat(strings.Replace(words[at], ",", ".", 1), 64)
			if e != nil || math.IsNaN(v) || math.Abs(v) > 1e5 {
				err = fmt.Errorf("%q is not a value for %s", words[at], name)
				return nil, false
			}
			out[i] = v
		}
		return out, true
	}
	for _, name := range []string{"SAMPLE_NAME", "SAMPLE_LOC", "SAMPLE_ID", "SAMPLENAME", "SAMPLEID"} {
		if at, there := column[name]; there && c.Name == "" {
			c.Name = words[at]
		}
	}
	if v, is := read("LAB_L", "LAB_A", "LAB_B"); is {
		c.Measured = &color.Lab{L: v[0], A: v[1], B: v[2]}
	} else if v, is := read("XYZ_X", "XYZ_Y", "XYZ_Z"); is {
		lab := color.LabD50(v[0]/100, v[1]/100, v[2]/100)
		c.Measured = &lab
	}
	rgb, hasRGB := read("RGB_R", "RGB_G", "RGB_B")
	inks, hasInks := read("CMYK_C", "CMYK_M", "CMYK_Y", "CMYK_K")
	switch {
	case err != nil:
		return c, false, err
	case c.Measured != nil:
		if m := c.Measured; m.L < -1 || m.L > 101 || math.Abs(m.A) > 200 || math.Abs(m.B) > 200 {
			return c, false, fmt.Errorf("Lab %g %g %g lies outside its range", m.L, m.A, m.B)
		}
		c.RGB = c.Measured.RGB().RGB8()
	case hasRGB:
		most := 255.0
		for _, x := range rgb {
			if x < 0 || x > 255 {
				return c, false, fmt.Errorf("RGB %g %g %g lies outside 0 to 255", rgb[0], rgb[1], rgb[2])
			}
		}
		c.RGB = color.RGB{R: rgb[0] / most, G: rgb[1] / most, B: rgb[2] / most}.RGB8()
	default:
		return c, false, nil
	}
	if hasInks {
		b := color.CMYK{C: inks[0], M: inks[1], Y: inks[2], K: inks[3]}
		if !b.Valid() {
			return c, false, fmt.Errorf("an ink lies outside 0 to 100 percent")
		}
		c.Builds = []library.Build{{Press: "coated", Value: b, For: c.RGB}}
	}
	return c, true, nil
}
