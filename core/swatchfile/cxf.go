package swatchfile

import (
	"bytes"
	"cmp"
	"encoding/xml"
	"fmt"
	"maps"
	"math"
	"slices"
	"strconv"
	"strings"
	"time"

	"huekeep/core/color"
	"huekeep/core/library"
)

// cxfSpace is the namespace of CxF3 (ISO 17972-1).
const cxfSpace = "http://colorexchangeformat.com/CxF3-core"

type cxfValues struct {
	Lab *struct {
		Spec    string `xml:"ColorSpecification,attr"`
		L, A, B string
	} `xml:"ColorCIELab"`
	LCh *struct {
		Spec    string `xml:"ColorSpecification,attr"`
		L, C, H string
	} `xml:"ColorCIELCh"`
	XYZ *struct {
		Spec    string `xml:"ColorSpecification,attr"`
		X, Y, Z string
	} `xml:"ColorCIEXYZ"`
	Spectrum *struct {
		Spec  string `xml:"ColorSpecification,attr"`
		Start string `xml:"StartWL,attr"`
		Text  string `xml:",chardata"`
	} `xml:"ReflectanceSpectrum"`
	RGB *struct {
		Max     string `xml:"MaxRange,attr"`
		R, G, B string
	} `xml:"ColorSRGB"`
	CMYK *cxfCMYK `xml:"ColorCMYK"`
}

type cxfCMYK struct {
	Spec                         string `xml:"ColorSpecification,attr"`
	Cyan, Magenta, Yellow, Black string
}

type cxfObject struct {
	Name   string    `xml:"Name,attr"`
	Kind   string    `xml:"ObjectType,attr"`
	Values cxfValues `xml:"ColorValues"`
	Device struct {
		CMYK *cxfCMYK `xml:"ColorCMYK"`
	} `xml:"DeviceColorValues"`
	Tags []struct {
		Name  string `xml:"Name,attr"`
		Value string `xml:"Value,attr"`
	} `xml:"TagCollection>Tag"`
}

// cxfSpec is a color specification: the light, the observer, and which wavelengths spectra have.
type cxfSpec struct {
	ID         string `xml:"Id,attr"`
	Illuminant string `xml:"TristimulusSpec>Illuminant"`
	Observer   string `xml:"TristimulusSpec>Observer"`
	Range      struct {
		Start     string `xml:"StartWL,attr"`
		Increment string `xml:"Increment,attr"`
	} `xml:"MeasurementSpec>WavelengthRange"`
}

type cxfReader struct {
	wrong   []string // objects that could not be read, with why
	lib     Library
	specs   map[string]cxfSpec
	empty   []string // objects without a value that can be read
	adapted []string // measured under another light
	why     error    // of the first that is empty
	thinned bool     // a spectrum has more values than are kept
	apart   []string // objects whose spectrum is not what their CIELAB says
}

// thinnedNote says of spectra with many values what is kept of them.
var thinnedNote = fmt.Sprintf("Spectra of more than %d values are kept at every 10 nm.", color.MostBands)

// ReadCxF reads a color exchange file (CxF3, ISO 17972-1): objects with CIELAB, LCh, XYZ, a spectrum, sRGB or CMYK. What was
// measured is kept as CIELAB (D50, 2 degree) beside the screen color that goes with it: values under another light are adapted,
// spectra are computed; values for the 10 degree observer cannot be, and are not read. An object without a value is noted.
func ReadCxF(data []byte) (Library, error) {
	r := cxfReader{specs: map[string]cxfSpec{}}
	err := elements(data, func(dec *xml.Decoder, e xml.StartElement) error {
		var s cxfSpec
		if e.Name.Local == "ColorSpecification" && dec.DecodeElement(&s, &e) == nil {
			r.specs[s.ID] = s
		}
		return nil
	})
	if err != nil {
		return r.lib, err
	}
	n := 0
	err = elements(data, func(dec *xml.Decoder, e xml.StartElement) error {
		if e.Name.Local != "Object" {
			return nil
		}
		n++
		var o cxfObject
		if err := dec.DecodeElement(&o, &e); err != nil {
			return fmt.Errorf("object %d is not well-formed", n)
		}
		if err := r.object(o); err != nil { // one object that is wrong does not keep the others out
			err = fmt.Errorf("object %q: %w", o.Name, err)
			if r.why == nil {
				r.why = err
			}
			r.wrong = append(r.wrong, err.Error())
		}
		return nil
	})
	if err == nil && len(r.lib.Colors) == 0 && r.why != nil {
		err = r.why
	}
	if r.thinned {
		r.lib.Notes = append(r.lib.Notes, thinnedNote)
	}
	if len(r.apart) > 0 {
		r.lib.Notes = append(r.lib.Notes, fmt.Sprintf("Their spectrum is not what their CIELAB says, which was taken: %s.", few(r.apart)))
	}
	if len(r.empty) > 0 {
		r.lib.Notes = append(r.lib.Notes, fmt.Sprintf("Without a value that can be read, and left out: %s.", few(r.empty)))
	}
	if len(r.wrong) > 0 {
		r.lib.Notes = append(r.lib.Notes, fmt.Sprintf("Not read, and left out: %s.", few(r.wrong)))
	}
	if len(r.adapted) > 0 {
		r.lib.Notes = append(r.lib.Notes, fmt.Sprintf("Measured for another light and adapted to D50: %s.", few(r.adapted)))
	}
	return r.lib, err
}

func cxfNumbers(texts ...string) ([]float64, error) {
	out := make([]float64, len(texts))
	for i, s := range texts {
		v, err := strconv.ParseFloat(strings.TrimSpace(s), 64)
		if err != nil || math.IsNaN(v) || math.Abs(v) > 70_000 {
			return nil, fmt.Errorf("%q is not a color value", s)
		}
		out[i] = v
	}
	return out, nil
}

// white is the white of a specification; ok is false for an observer or a light that is not known. A specification that is not
// there counts as D50 and 2 degree, as the standard's own examples have it.
func (r *cxfReader) white(id string) (white [3]float64, other, ok bool) {
	s, there := r.specs[id]
	if !there || s.Illuminant == "" {
		return color.Whites["D50"], false, true
	}
	white, ok = color.Whites[strings.ToUpper(strings.TrimSpace(s.Illuminant))]
	return white, white != color.Whites["D50"], ok && !strings.HasPrefix(strings.TrimSpace(s.Observer), "10")
}

// measured is the CIELAB of an object; nil if it has none that can be read.
func (r *cxfReader) measured(o cxfObject) (*color.Lab, error) {
	var lab color.Lab
	v := o.Values
	spec, found := "", false
	var white [3]float64
	var other bool
	take := func(id string, present bool, texts ...string) ([]float64, error) {
		if found || !present {
			return nil, nil
		}
		var ok bool
		if white, other, ok = r.white(id); !ok {
			spec = id
			return nil, nil
		}
		found = true
		return cxfNumbers(texts...)
	}
	if v.Lab != nil {
		n, err := take(v.Lab.Spec, true, v.Lab.L, v.Lab.A, v.Lab.B)
		if err != nil {
			return nil, err
		}
		if n != nil {
			if n[0] < 0 || n[0] > 100.5 || math.Abs(n[1]) > 200 || math.Abs(n[2]) > 200 {
				return nil, fmt.Errorf("Lab %g %g %g lies outside its range", n[0], n[1], n[2])
			}
			lab = color.Lab{L: n[0], A: n[1], B: n[2]}.Adapted(white)
		}
	}
	if v.LCh != nil {
		n, err := take(v.LCh.Spec, true, v.LCh.L, v.LCh.C, v.LCh.H)
		if err != nil {
			return nil, err
		}
		if n != nil {
			if n[0] < 0 || n[0] > 100.5 || n[1] < 0 || n[1] > 200 {
				return nil, fmt.Errorf("LCh %g %g %g lies outside its range", n[0], n[1], n[2])
			}
			lab = color.LCh{L: n[0], C: n[1], H: n[2]}.Lab().Adapted(white)
		}
	}
	if v.XYZ != nil {
		n, err := take(v.XYZ.Spec, true, v.XYZ.X, v.XYZ.Y, v.XYZ.Z)
		if err != nil {
			return nil, err
		}
		if n != nil {
			if n[0] < 0 || n[1] < 0 || n[2] < 0 || n[1] > 150 {
				return nil, fmt.Errorf("XYZ %g %g %g lies outside its range", n[0], n[1], n[2])
			}
			lab = color.AdaptedLab(n[0]/100, n[1]/100, n[2]/100, white)
		}
	}
	if !found {
		if spec != "" && r.why == nil {
			s := r.specs[spec]
			r.why = fmt.Errorf("object %q is measured for %s and the %s observer; D50 and other standard lights of the 2 degree observer are read", o.Name, s.Illuminant,
				strings.ReplaceAll(strings.ToLower(s.Observer), "_", " "))
		}
		return nil, nil
	}
	if other {
		r.adapted = append(r.adapted, o.Name)
	}
	return &lab, nil
}

// tint takes an object as a permitted tint of a color before it, if its tags say so.
func (r *cxfReader) tint(o cxfObject) bool {
	of, amount := "", 0
	for _, t := range o.Tags {
		switch t.Name {
		case "Tint-of":
			of = t.Value
		case "Tint":
			amount, _ = strconv.Atoi(t.Value)
		}
	}
	for i := range r.lib.Colors {
		if c := &r.lib.Colors[i]; of != "" && c.Name == of && amount > 0 && amount < 100 {
			c.Companions = append(c.Companions, library.Companion{Kind: "tint", Amount: amount, Permitted: true})
			return true
		}
	}
	return false
}

// spectrum takes the spectrum of an object as its reading, if it is what the CIELAB beside it says. Without that it is how the object
// looks.
func (r *cxfReader) spectrum(o cxfObject, c *library.Color, lab *color.Lab) (*color.Lab, error) {
	v := o.Values.Spectrum
	if v == nil {
		return lab, nil
	}
	s := r.specs[v.Spec]
	n, err := cxfNumbers(append([]string{cmp.Or(v.Start, s.Range.Start), cmp.Or(s.Range.Increment, "10")}, strings.Fields(v.Text)...)...)
	if err != nil {
		return nil, err
	}
	of := color.Spectrum{Start: n[0], Step: n[1], Values: n[2:]}
	looks, err := of.Lab()
	switch {
	case err != nil && lab != nil:
		return lab, nil
	case err != nil:
		if r.why == nil {
			r.why = fmt.Errorf("object %q: %w", o.Name, err)
		}
		return nil, nil
	case lab == nil:
		lab = &looks
	case len(r.adapted) > 0 && r.adapted[len(r.adapted)-1] == o.Name: // the spectrum says how it looks in D50
		r.adapted, lab = r.adapted[:len(r.adapted)-1], &looks
	case color.DeltaE00(looks, *lab) > color.SameSpectrum:
		r.apart = append(r.apart, o.Name)
		return lab, nil
	}
	kept, thinned := of.Kept()
	r.thinned = r.thinned || thinned
	c.Master, c.RGB = library.ReadSpectrum(*lab, kept)
	return lab, nil
}

func (r *cxfReader) object(o cxfObject) error {
	if r.tint(o) {
		return nil
	}
	c := library.Color{Name: strings.TrimSpace(o.Name)}
	lab, err := r.measured(o)
	if err != nil {
		return err
	}
	if lab != nil {
		c.Master, c.RGB = library.Read(*lab)
	}
	if lab, err = r.spectrum(o, &c, lab); err != nil {
		return err
	}
	if rgb := o.Values.RGB; rgb != nil {
		v, err := cxfNumbers(rgb.R, rgb.G, rgb.B)
		if err != nil {
			return err
		}
		most := 255.0
		if rgb.Max != "" {
			m, err := cxfNumbers(rgb.Max)
			if err != nil || m[0] <= 0 {
				return fmt.Errorf("%q is not a largest value", rgb.Max)
			}
			most = m[0]
		}
		for _, x := range v {
			if x < 0 || x > most {
				return fmt.Errorf("RGB %g %g %g lies outside 0 to %g", v[0], v[1], v[2], most)
			}
		}
		c.RGB = color.RGB{R: v[0] / most, G: v[1] / most, B: v[2] / most}.RGB8()
	} else if lab == nil {
		if r.empty = append(r.empty, o.Name); r.why == nil {
			r.why = fmt.Errorf("object %q: it has neither CIELAB, LCh, XYZ, a spectrum nor sRGB values", o.Name)
		}
		return nil
	}
	device := o.Device.CMYK
	if device == nil {
		device = o.Values.CMYK
	}
	if device != nil {
		v, err := cxfNumbers(device.Cyan, device.Magenta, device.Yellow, device.Black)
		if err != nil {
			return err
		}
		b := color.CMYK{C: v[0], M: v[1], Y: v[2], K: v[3]}
		if !b.Valid() {
			return fmt.Errorf("an ink lies between 0 and 100 percent")
		}
		press := strings.TrimPrefix(device.Spec, "CMYK-")
		if press == "" {
			press = "coated"
		}
		c.Builds = []library.Build{{Press: press, Value: b, For: c.RGB}}
	}
	for _, t := range o.Tags {
		switch t.Name {
		case "Group":
			c.Group = t.Value
		case "Role":
			c.Role = library.AsRole(t.Value)
		case "Rule":
			c.Rule = t.Value
		case "Status":
			if t.Value == "retired" || t.Value == "draft" {
				c.Status = library.Status(t.Value)
			}
		}
		if stock, ok := strings.CutPrefix(t.Name, "Spot-"); ok {
			c.Spots = append(c.Spots, library.Spot{Stock: stock, Code: t.Value, For: c.RGB})
		}
	}
	r.lib.Colors = append(r.lib.Colors, c)
	return nil
}

// WriteCxF writes a color exchange file. Every color has CIELAB (D50, 2 degree) and sRGB, a reading its spectrum, its first approved build
// as device values, permitted tints behind, and as tags what the format has no element for: group, role, rule, status and spot inks.
func WriteCxF(e library.Edition) ([]byte, error) {
	when := e.FixedAt
	if when.IsZero() {
		when = time.Date(2000, 1, 1, 0, 0, 0, 0, time.UTC) // the same set is the same file
	}
	w := cxfWriter{at: when.UTC().Format(time.RFC3339), spectra: map[string]color.Spectrum{}}
	w.printf(`%s<cc:CxF xmlns:cc="%s">
  <cc:FileInformation>
    <cc:Creator>Hue Keep</cc:Creator>
    <cc:CreationDate>%s</cc:CreationDate>
    <cc:Description>%s</cc:Description>
  </cc:FileInformation>
  <cc:Resources>
    <cc:ObjectCollection>
`, xml.Header, cxfSpace, w.at, escaped(e.Title()))
	for i, c := range e.Colors {
		w.color(i+1, c)
	}
	n := len(e.Colors)
	for _, c := range e.Colors {
		for _, r := range c.Relatives() {
			if e.Before(4) || !r.Permitted || r.Kind != "tint" {
				continue
			}
			n++
			w.object(n, r.Name(c.Name), r.Value.Lab(), r.Value, library.Master{}, nil,
				[][2]string{{"Tint-of", c.Name}, {"Tint", strconv.Itoa(r.Amount)}})
		}
	}
	w.printf("    </cc:ObjectCollection>\n    <cc:ColorSpecificationCollection>\n")
	w.specifications(e)
	w.printf("    </cc:ColorSpecificationCollection>\n")
	w.printf("  </cc:Resources>\n</cc:CxF>\n")
	return w.b.Bytes(), nil
}

type cxfWriter struct {
	b       bytes.Buffer
	at      string                    // when the edition was fixed
	spectra map[string]color.Spectrum // one for each that has other wavelengths, by the name of their specification
}

func (w *cxfWriter) printf(format string, values ...any) { fmt.Fprintf(&w.b, format, values...) }

func (w *cxfWriter) color(n int, c library.Color) {
	lab := c.Lab()
	if of := c.Reading(); of != nil {
		lab = *of
	}
	tags := [][2]string{{"Group", c.Group}, {"Role", string(c.Role)}, {"Rule", c.Rule}}
	if c.Status == "retired" || c.Status == "draft" {
		tags = append(tags, [2]string{"Status", string(c.Status)})
	}
	for _, s := range c.Spots {
		tags = append(tags, [2]string{"Spot-" + s.Stock, s.Code})
	}
	w.object(n, c.Name, lab, c.RGB, c.Master, c.Builds, tags)
}

// object writes a color; the format has one device value for each.
func (w *cxfWriter) object(n int, name string, lab color.Lab, rgb color.RGB8, m library.Master, builds []library.Build, tags [][2]string) {
	w.printf("      <cc:Object ObjectType=\"Standard\" Name=\"%s\" Id=\"c%d\">\n", escaped(name), n)
	w.printf("        <cc:CreationDate>%s</cc:CreationDate>\n        <cc:ColorValues>\n", w.at)
	w.printf("          <cc:ColorCIELab ColorSpecification=\"D50-2\"><cc:L>%s</cc:L><cc:A>%s</cc:A><cc:B>%s</cc:B></cc:ColorCIELab>\n",
		plain(lab.L), plain(lab.A), plain(lab.B))
	if s, ok := m.Spectrum(); ok {
		id := fmt.Sprintf("S-%s-%s-%d", plain(s.Start), plain(s.Step), len(s.Values))
		w.spectra[id] = s
		values := make([]string, len(s.Values))
		for i, v := range s.Values {
			values[i] = plain(v)
		}
		w.printf("          <cc:ReflectanceSpectrum ColorSpecification=\"%s\" StartWL=\"%s\">%s</cc:ReflectanceSpectrum>\n", id,
			plain(s.Start),
			strings.Join(values, " "))
	}
	w.printf("          <cc:ColorSRGB ColorSpecification=\"sRGB\"><cc:R>%d</cc:R><cc:G>%d</cc:G><cc:B>%d</cc:B></cc:ColorSRGB>\n", rgb.R,
		rgb.G,
		rgb.B)
	w.printf("        </cc:ColorValues>\n")
	if len(builds) > 0 {
		v := builds[0]
		w.printf("        <cc:DeviceColorValues><cc:ColorCMYK ColorSpecification=\"CMYK-%s\"><cc:Cyan>%s</cc:Cyan><cc:Magenta>%s</cc:Magenta>"+
			"<cc:Yellow>%s</cc:Yellow><cc:Black>%s</cc:Black></cc:ColorCMYK></cc:DeviceColorValues>\n", escaped(v.Press), plain(v.Value.C),
			plain(v.Value.M), plain(v.Value.Y), plain(v.Value.K))
	}
	w.printf("        <cc:TagCollection Name=\"Hue Keep\">\n")
	for _, t := range tags {
		if t[1] != "" {
			w.printf("          <cc:Tag Name=\"%s\" Value=\"%s\"/>\n", escaped(t[0]), escaped(t[1]))
		}
	}
	w.printf("        </cc:TagCollection>\n")
	w.printf("      </cc:Object>\n")
}

// specifications write what the values of the objects are of.
func (w *cxfWriter) specifications(e library.Edition) {
	w.printf("      <cc:ColorSpecification Id=\"D50-2\"><cc:TristimulusSpec><cc:Illuminant>D50</cc:Illuminant><cc:Observer>2_Degree</cc:Observer>" +
		"<cc:Method>E308_Table5</cc:Method></cc:TristimulusSpec></cc:ColorSpecification>\n")
	w.printf("      <cc:ColorSpecification Id=\"sRGB\"><cc:TristimulusSpec><cc:Illuminant>D65</cc:Illuminant><cc:Observer>2_Degree</cc:Observer>" +
		"</cc:TristimulusSpec></cc:ColorSpecification>\n")
	for _, id := range slices.Sorted(maps.Keys(w.spectra)) {
		w.printf("      <cc:ColorSpecification Id=\"%s\"><cc:MeasurementSpec><cc:MeasurementType>Spectrum_Reflectance</cc:MeasurementType>"+
			"<cc:WavelengthRange StartWL=\"%s\" Increment=\"%s\"/></cc:MeasurementSpec></cc:ColorSpecification>\n", id,
			plain(w.spectra[id].Start), plain(w.spectra[id].Step))
	}
	presses := map[string]bool{}
	for _, c := range e.Colors {
		if len(c.Builds) > 0 && e.Early != 1 && !presses[c.Builds[0].Press] {
			presses[c.Builds[0].Press] = true
			w.printf("      <cc:ColorSpecification Id=\"CMYK-%s\"/>\n", escaped(c.Builds[0].Press))
		}
	}
}

// plain writes a number with at most four decimals.
func plain(v float64) string { return strconv.FormatFloat(math.Round(v*1e4)/1e4+0, 'f', -1, 64) }
