package swatchfile

import (
	"bytes"
	"encoding/xml"
	"fmt"
	"math"
	"strconv"
	"strings"
	"time"

	"huekeep/core/color"
	"huekeep/core/library"
)

// cxfSpace is the namespace of CxF3 (ISO 17972-1).
const cxfSpace = "http://colorexchangeformat.com/CxF3-core"

type cxfObject struct {
	Name   string `xml:"Name,attr"`
	Kind   string `xml:"ObjectType,attr"`
	Values struct {
		Lab *struct {
			L, A, B string
		} `xml:"ColorCIELab"`
		RGB *struct {
			Max     string `xml:"MaxRange,attr"`
			R, G, B string
		} `xml:"ColorSRGB"`
		CMYK *struct {
			Spec                         string `xml:"ColorSpecification,attr"`
			Cyan, Magenta, Yellow, Black string
		} `xml:"ColorCMYK"`
	} `xml:"ColorValues"`
	Device struct {
		CMYK *struct {
			Spec                         string `xml:"ColorSpecification,attr"`
			Cyan, Magenta, Yellow, Black string
		} `xml:"ColorCMYK"`
	} `xml:"DeviceColorValues"`
	Tags []struct {
		Name  string `xml:"Name,attr"`
		Value string `xml:"Value,attr"`
	} `xml:"TagCollection>Tag"`
}

// ReadCxF reads a color exchange file (CxF3, ISO 17972-1): objects with CIELAB, sRGB or CMYK values. Lab is kept as a
// measured value beside the screen color that goes with it. An object with nothing but a spectrum is an error that names it.
func ReadCxF(data []byte) (Library, error) {
	var l Library
	n := 0
	err := elements(data, func(dec *xml.Decoder, e xml.StartElement) error {
		if e.Name.Local != "Object" {
			return nil
		}
		n++
		var o cxfObject
		if err := dec.DecodeElement(&o, &e); err != nil {
			return fmt.Errorf("object %d is not well-formed", n)
		}
		c := library.Color{Name: strings.TrimSpace(o.Name)}
		fail := func(err error) error { return fmt.Errorf("object %q: %w", o.Name, err) }
		values := func(texts ...string) ([]float64, error) {
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
		found := false
		if lab := o.Values.Lab; lab != nil {
			v, err := values(lab.L, lab.A, lab.B)
			if err != nil {
				return fail(err)
			}
			if v[0] < 0 || v[0] > 100.5 || math.Abs(v[1]) > 200 || math.Abs(v[2]) > 200 {
				return fail(fmt.Errorf("Lab %g %g %g lies outside its range", v[0], v[1], v[2]))
			}
			measured := color.Lab{L: v[0], A: v[1], B: v[2]}
			c.Measured, c.RGB, found = &measured, measured.RGB().RGB8(), true
		}
		if rgb := o.Values.RGB; rgb != nil {
			v, err := values(rgb.R, rgb.G, rgb.B)
			if err != nil {
				return fail(err)
			}
			most := 255.0
			if rgb.Max != "" {
				if m, err := values(rgb.Max); err != nil || m[0] <= 0 {
					return fail(fmt.Errorf("%q is not a largest value", rgb.Max))
				} else {
					most = m[0]
				}
			}
			for _, x := range v {
				if x < 0 || x > most {
					return fail(fmt.Errorf("RGB %g %g %g lies outside 0 to %g", v[0], v[1], v[2], most))
				}
			}
			c.RGB, found = color.RGB{R: v[0] / most, G: v[1] / most, B: v[2] / most}.RGB8(), true
		}
		device := o.Device.CMYK
		if device == nil {
			device = o.Values.CMYK
		}
		if device != nil {
			v, err := values(device.Cyan, device.Magenta, device.Yellow, device.Black)
			if err != nil {
				return fail(err)
			}
			b := color.CMYK{C: v[0], M: v[1], Y: v[2], K: v[3]}
			if !b.Valid() {
				return fail(fmt.Errorf("an ink lies between 0 and 100 percent"))
			}
			press := strings.TrimPrefix(device.Spec, "CMYK-")
			if press == "" {
				press = "coated"
			}
			c.Builds = []library.Build{{Press: press, Value: b, For: c.RGB}}
		}
		if !found {
			return fail(fmt.Errorf("it has neither CIELAB nor sRGB values"))
		}
		for _, t := range o.Tags {
			switch t.Name {
			case "Group":
				c.Group = t.Value
			case "Role":
				c.Role = library.Role(t.Value)
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
		l.Colors = append(l.Colors, c)
		return nil
	})
	return l, err
}

// WriteCxF writes a color exchange file. Every color has CIELAB (D50, 2 degree) and sRGB, its first approved build as device
// values, and as tags what the format has no element for: group, role, rule, status and spot inks.
func WriteCxF(e library.Edition) ([]byte, error) {
	var b bytes.Buffer
	when := e.FixedAt
	if when.IsZero() {
		when = time.Date(2000, 1, 1, 0, 0, 0, 0, time.UTC) // the same set is the same file
	}
	stampText := when.UTC().Format(time.RFC3339)
	fmt.Fprintf(&b, `%s<cc:CxF xmlns:cc="%s">
  <cc:FileInformation>
    <cc:Creator>Hue Keep</cc:Creator>
    <cc:CreationDate>%s</cc:CreationDate>
    <cc:Description>%s</cc:Description>
  </cc:FileInformation>
  <cc:Resources>
    <cc:ObjectCollection>
`, xml.Header, cxfSpace, stampText, escaped(e.Title()))
	object := func(kind, id, name string, lab color.Lab, body func()) {
		fmt.Fprintf(&b, "      <cc:Object ObjectType=\"%s\" Name=\"%s\" Id=\"%s\">\n        <cc:CreationDate>%s</cc:CreationDate>\n        <cc:ColorValues>\n", kind, escaped(name), id, stampText)
		fmt.Fprintf(&b, "          <cc:ColorCIELab ColorSpecification=\"D50-2\"><cc:L>%s</cc:L><cc:A>%s</cc:A><cc:B>%s</cc:B></cc:ColorCIELab>\n", plain(lab.L), plain(lab.A), plain(lab.B))
		body()
		b.WriteString("      </cc:Object>\n")
	}
	for i, c := range e.Colors {
		lab := c.RGB.Lab()
		if c.Measured != nil {
			lab = *c.Measured
		}
		object("Standard", fmt.Sprintf("c%d", i+1), c.Name, lab, func() {
			fmt.Fprintf(&b, "          <cc:ColorSRGB ColorSpecification=\"sRGB\"><cc:R>%d</cc:R><cc:G>%d</cc:G><cc:B>%d</cc:B></cc:ColorSRGB>\n        </cc:ColorValues>\n", c.RGB.R, c.RGB.G, c.RGB.B)
			if len(c.Builds) > 0 { // the format has one device value an object
				v := c.Builds[0]
				fmt.Fprintf(&b, "        <cc:DeviceColorValues><cc:ColorCMYK ColorSpecification=\"CMYK-%s\"><cc:Cyan>%s</cc:Cyan><cc:Magenta>%s</cc:Magenta><cc:Yellow>%s</cc:Yellow><cc:Black>%s</cc:Black></cc:ColorCMYK></cc:DeviceColorValues>\n",
					escaped(v.Press), plain(v.Value.C), plain(v.Value.M), plain(v.Value.Y), plain(v.Value.K))
			}
			tags := [][2]string{{"Group", c.Group}, {"Role", string(c.Role)}, {"Rule", c.Rule}}
			if c.Status == "retired" || c.Status == "draft" {
				tags = append(tags, [2]string{"Status", string(c.Status)})
			}
			for _, s := range c.Spots {
				tags = append(tags, [2]string{"Spot-" + s.Stock, s.Code})
			}
			b.WriteString("        <cc:TagCollection Name=\"Hue Keep\">\n")
			for _, t := range tags {
				if t[1] != "" {
					fmt.Fprintf(&b, "          <cc:Tag Name=\"%s\" Value=\"%s\"/>\n", escaped(t[0]), escaped(t[1]))
				}
			}
			b.WriteString("        </cc:TagCollection>\n")
		})
	}
	b.WriteString("    </cc:ObjectCollection>\n    <cc:ColorSpecificationCollection>\n")
	fmt.Fprint(&b, "      <cc:ColorSpecification Id=\"D50-2\"><cc:TristimulusSpec><cc:Illuminant>D50</cc:Illuminant><cc:Observer>2_Degree</cc:Observer><cc:Method>E308_Table5</cc:Method></cc:TristimulusSpec></cc:ColorSpecification>\n")
	fmt.Fprint(&b, "      <cc:ColorSpecification Id=\"sRGB\"><cc:TristimulusSpec><cc:Illuminant>D65</cc:Illuminant><cc:Observer>2_Degree</cc:Observer></cc:TristimulusSpec></cc:ColorSpecification>\n")
	b.WriteString("    </cc:ColorSpecificationCollection>\n")
	b.WriteString("  </cc:Resources>\n</cc:CxF>\n")
	return b.Bytes(), nil
}

// plain writes a number with at most four decimals.
func plain(v float64) string { return strconv.FormatFloat(math.Round(v*1e4)/1e4+0, 'f', -1, 64) }
