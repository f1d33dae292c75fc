package swatchfile

import (
	"bufio"
	"bytes"
	"cmp"
	"fmt"
	"math"
	"regexp"
	"slices"
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
	var spectra cgatsSpectra
	for n := 1; in.Scan(); n++ {
		words := cgatsWords(in.Text())
		if len(words) == 0 {
			continue
		}
		switch words[0] {
		case "BEGIN_DATA_FORMAT":
			if len(l.Colors) > 0 {
				l.Notes = append(l.Notes, fmt.Sprintf("Only its first table was read; another begins in line %d.", n))
				spectra.look(&l)
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
			spectra = cgatsSpectra{bands: bands(fields), norm: spectra.norm}
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
		case "SPECTRAL_NORM":
			if len(words) > 1 {
				spectra.norm, _ = strconv.ParseFloat(words[1], 64)
			}
		case "ORIGINATOR", "DESCRIPTOR":
			if len(words) > 1 && (l.House == "" || words[0] == "DESCRIPTOR") {
				l.House = words[1]
			}
		}
		switch {
		case inFormat:
			fields = append(fields, words...)
		case inData:
			c, ok, err := cgatsColor(words, fields, column, len(spectra.bands) > 0)
			if err != nil {
				return l, fmt.Errorf("line %d: %w", n, err)
			}
			if _, rgb := column["RGB_R"]; ok && c.Reading() == nil && !rgb {
				if err := spectra.add(words, len(l.Colors)); err != nil {
					return l, fmt.Errorf("line %d: %w", n, err)
				}
			}
			if ok {
				l.Colors = append(l.Colors, c)
			}
		}
	}
	spectra.look(&l)
	if inData {
		return l, fmt.Errorf("its data is cut off: END_DATA is missing")
	}
	if err := in.Err(); err != nil {
		return l, err
	}
	if len(l.Colors) == 0 && len(fields) > 0 {
		return l, fmt.Errorf("it has no Lab, XYZ or RGB values, and no spectra that can be read")
	}
	return l, nil
}

// cgatsSpectra are spectra of colors that have nothing else, by their places in the library; what their values are relative to is known
// once all are there.
type cgatsSpectra struct {
	bands  []band
	norm   float64 // what a perfect diffuser has; 0 if the file does not say
	colors []int
	values [][]float64
	most   float64
}

// band is a column of reflectances at a wavelength.
type band struct {
	nm float64
	at int
}

// Columns of spectra are named by their wavelengths in nm: SPECTRAL_NM380, SPEC_380, NM380.
var bandName = regexp.MustCompile(`^(?:SPECTRAL_|SPECTRAL_NM_?|SPEC_|NM_?)(\d{3,4}(?:\.\d+)?)$`)

// bands are the columns of spectra; none where their wavelengths are not evenly spaced.
func bands(fields []string) (out []band) {
	for i, f := range fields {
		if m := bandName.FindStringSubmatch(strings.ToUpper(f)); m != nil {
			nm, _ := strconv.ParseFloat(m[1], 64)
			out = append(out, band{nm, i})
		}
	}
	slices.SortFunc(out, func(a, b band) int { return cmp.Compare(a.nm, b.nm) })
	for i := 2; i < len(out); i++ {
		if math.Abs((out[i].nm-out[i-1].nm)-(out[1].nm-out[0].nm)) > 0.1 {
			return nil
		}
	}
	return out
}

// add takes the spectrum of a line for the color that will stand at a place.
func (s *cgatsSpectra) add(words []string, place int) error {
	var v []float64
	for _, b := range s.bands {
		x, err := strconv.ParseFloat(strings.Replace(words[b.at], ",", ".", 1), 64)
		if err != nil || math.IsNaN(x) || math.Abs(x) > 1e5 {
			return fmt.Errorf("%q is not a reflectance at %g nm", words[b.at], b.nm)
		}
		v, s.most = append(v, x), max(s.most, x)
	}
	s.colors, s.values = append(s.colors, place), append(s.values, v)
	return nil
}

// look works out what spectra look like. Values are percent where the file says so, or one of them is over what any surface returns as a
// factor. Those that cannot be worked out are left out, and told.
func (s *cgatsSpectra) look(l *Library) {
	norm := s.norm
	if norm <= 0 {
		norm = 1
		if s.most > 2 {
			norm = 100
		}
	}
	var left []string
	thinned := false
	for i := len(s.colors) - 1; i >= 0; i-- {
		v := s.values[i]
		for k := range v {
			v[k] /= norm
		}
		var lab color.Lab
		var err error
		var of color.Spectrum
		if len(s.bands) > 1 {
			of = color.Spectrum{Start: s.bands[0].nm, Step: s.bands[1].nm - s.bands[0].nm, Values: v}
			lab, err = of.Lab()
		} else {
			err = fmt.Errorf("its spectrum has one wavelength")
		}
		at := s.colors[i]
		if err != nil {
			left = append(left, l.Colors[at].Name)
			l.Colors = slices.Delete(l.Colors, at, at+1)
			continue
		}
		kept, fewer := of.Kept()
		thinned = thinned || fewer
		l.Colors[at].Master, l.Colors[at].RGB = library.ReadSpectrum(lab, kept)
		for k := range l.Colors[at].Builds {
			l.Colors[at].Builds[k].For = l.Colors[at].RGB
		}
	}
	s.colors = nil
	if thinned {
		l.Notes = append(l.Notes, thinnedNote)
	}
	if len(left) > 0 {
		slices.Reverse(left)
		l.Notes = append(l.Notes, fmt.Sprintf("%s: the spectrum cannot be worked out, so there is no color to read.", few(left)))
	}
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

// cgatsColor reads a line. With a spectrum it is a color whatever else it has, whose look is worked out later.
func cgatsColor(words, fields []string, column map[string]int, spectrum bool) (c library.Color, ok bool, err error) {
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
	var lab *color.Lab
	if v, is := read("LAB_L", "LAB_A", "LAB_B"); is {
		lab = &color.Lab{L: v[0], A: v[1], B: v[2]}
	} else if v, is := read("XYZ_X", "XYZ_Y", "XYZ_Z"); is {
		of := color.LabD50(v[0]/100, v[1]/100, v[2]/100)
		lab = &of
	}
	rgb, hasRGB := read("RGB_R", "RGB_G", "RGB_B")
	inks, hasInks := read("CMYK_C", "CMYK_M", "CMYK_Y", "CMYK_K")
	switch {
	case err != nil:
		return c, false, err
	case lab != nil:
		if lab.L < -1 || lab.L > 101 || math.Abs(lab.A) > 200 || math.Abs(lab.B) > 200 {
			return c, false, fmt.Errorf("Lab %g %g %g lies outside its range", lab.L, lab.A, lab.B)
		}
		c.Master, c.RGB = library.Read(*lab)
	case hasRGB:
		most := 255.0
		for _, x := range rgb {
			if x < 0 || x > 255 {
				return c, false, fmt.Errorf("RGB %g %g %g lies outside 0 to 255", rgb[0], rgb[1], rgb[2])
			}
		}
		c.RGB = color.RGB{R: rgb[0] / most, G: rgb[1] / most, B: rgb[2] / most}.RGB8()
	case !spectrum:
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
