package icc

import (
	"fmt"
	"math"

	"huekeep/core/color"
)

// Intent is a rendering intent; the numbers are those of the profile header.
type Intent int

const (
	Perceptual Intent = iota
	RelativeColorimetric
	Saturation
	AbsoluteColorimetric
)

// Intents names the intents for people, in the order of their numbers.
var Intents = []string{"perceptual", "relative", "saturation", "absolute"}

// Rendering says how colors go through a profile. The zero value is perceptual without black point compensation.
type Rendering struct {
	Intent Intent

	// BlackPoint maps the darkest color of the device to L* 0 of Lab (ISO 18619). It has no meaning for the absolute
	// intent, and always holds for the perceptual and saturation intents of a version 4 profile, which relate to a
	// reference medium with a black of its own.
	BlackPoint bool
}

// Transform turns device values into Lab or Lab into device values, for one rendering.
// It holds no state that a call changes and may be used by several goroutines.
type Transform struct {
	stages  []stage
	device  int // number of device channels
	pcs     encoding
	adapted bool       // XYZ is scaled and moved on the way
	scale   [3]float64 // of XYZ
	offset  [3]float64
}

// values is what runs through the stages of a transform, on the scale 0 to 1 unless a stage says otherwise.
type values [maxChannels]float64

const maxChannels = 4

type stage interface{ apply(v *values) }

// ToLab returns the transform from device values to Lab: the A2B table of the intent, or the curves and matrix of an RGB
// or gray profile without tables. Lab is relative to the medium, except for the absolute intent.
func (p *Profile) ToLab(r Rendering) (*Transform, error) { return p.transform(r, true) }

// FromLab returns the transform from Lab to device values: the B2A table of the intent, or the curves and matrix of an RGB
// or gray profile without tables, whose channels are held to 0 to 1.
func (p *Profile) FromLab(r Rendering) (*Transform, error) { return p.transform(r, false) }

func (p *Profile) transform(r Rendering, toLab bool) (*Transform, error) {
	if r.Intent < Perceptual || r.Intent > AbsoluteColorimetric {
		return nil, fmt.Errorf("there is no rendering intent %d", r.Intent)
	}
	t, err := p.bare(r.Intent, toLab)
	if err != nil {
		return nil, err
	}
	// On the way to the device, a media-relative color of XYZ becomes scale*XYZ + offset.
	var scale, offset [3]float64
	switch {
	case r.Intent == AbsoluteColorimetric:
		white := p.mediaWhite()
		for i, w := range pcsWhite {
			scale[i] = w / white[i]
		}
	case r.BlackPoint || p.referenceBlack(r.Intent):
		blackOf := p.darkestPrinted
		if toLab {
			blackOf = p.darkest
		}
		if offset, err = blackOf(r.Intent); err != nil {
			return nil, err
		}
		for i, w := range pcsWhite {
			scale[i] = (w - offset[i]) / w
		}
	default:
		return t, nil
	}
	t.adapted = true
	for i := range scale {
		if toLab {
			scale[i], offset[i] = 1/scale[i], -offset[i]/scale[i]
		}
	}
	t.scale, t.offset = scale, offset
	return t, nil
}

// bare is the transform of the profile's own numbers, media-relative and without compensation.
func (p *Profile) bare(intent Intent, toLab bool) (*Transform, error) {
	if p.Channels() == 0 {
		return nil, fmt.Errorf("the profile is for the color space %q; RGB, gray and CMYK are read", p.Space)
	}
	if p.PCS != "Lab " && p.PCS != "XYZ " {
		return nil, fmt.Errorf("the profile connects through %q, neither through Lab nor XYZ", p.PCS)
	}
	t := &Transform{device: p.Channels()}
	direction, in, out := "A2B", p.Channels(), 3
	if !toLab {
		direction, in, out = "B2A", 3, p.Channels()
	}
	tag, data := p.table(direction, intent)
	if data == nil {
		if p.Space == "CMYK" {
			return nil, fmt.Errorf("the profile has no %s table", direction)
		}
		return t, p.shape(t, toLab)
	}
	var err error
	if t.stages, t.pcs, err = parseTable(data, in, out, p.PCS, toLab); err != nil {
		return nil, fmt.Errorf("table %s of the profile: %w", tag, err)
	}
	return t, nil
}

// table finds the table of a direction and an intent; the colorimetric intents share one, and the first is the fallback
// of all (ICC.1:2022, 8.10.3). No data means that there is none.
func (p *Profile) table(direction string, intent Intent) (tag string, data []byte) {
	if intent == AbsoluteColorimetric {
		intent = RelativeColorimetric
	}
	for _, n := range []Intent{intent, 0} {
		tag = fmt.Sprintf("%s%d", direction, n)
		if data = p.tags[tag]; data != nil {
			return tag, data
		}
	}
	return "", nil
}

// mediaWhite is the white of the medium in XYZ. Display profiles of version 2 often give the screen's own white there,
// although the eye adapts to it, so theirs counts as the white of the connection space.
func (p *Profile) mediaWhite() [3]float64 {
	w, err := p.xyz("wtpt")
	if err != nil || p.Major == 2 && p.Class == "mntr" || w[0] <= 0 || w[1] <= 0 || w[2] <= 0 {
		return pcsWhite
	}
	return w
}

// Lab converts device values on the scale 0 to 1; dev must have as many as the profile's color space.
func (t *Transform) Lab(dev []float64) color.Lab {
	if before, g, after := t.usual(); g != nil { // by far the most frequent, without what the general way has to allocate
		var v values
		for i := range 4 {
			v[i] = before[i].at(dev[i])
		}
		g.apply(&v)
		for i := range 3 {
			v[i] = after[i].at(v[i])
		}
		return t.pcs.lab(&v)
	}
	var v values
	copy(v[:], dev)
	for _, s := range t.stages {
		s.apply(&v)
	}
	if !t.adapted && t.pcs.isLab() {
		return t.pcs.lab(&v)
	}
	xyz := t.pcs.xyz(&v)
	if t.adapted {
		for i := range xyz {
			xyz[i] = xyz[i]*t.scale[i] + t.offset[i]
		}
	}
	return xyzToLab(xyz)
}

// Device converts Lab to device values on the scale 0 to 1, into dst.
func (t *Transform) Device(lab color.Lab, dst []float64) {
	var v values
	if t.adapted {
		xyz := labToXYZ(lab)
		for i := range xyz {
			xyz[i] = xyz[i]*t.scale[i] + t.offset[i]
		}
		t.pcs.putXYZ(xyz, &v)
	} else if t.pcs.isLab() {
		t.pcs.putLab(lab, &v)
	} else {
		t.pcs.putXYZ(labToXYZ(lab), &v)
	}
	for _, s := range t.stages {
		s.apply(&v)
	}
	copy(dst[:t.device], v[:])
}

// encoding is how a transform writes the connection space into values.
type encoding int

const (
	lab16  encoding = iota // mft2: FF00h is L* 100, 8000h is a* 0
	lab8                   // mft1 and all of version 4: L* over 0 to 100, a* and b* over -128 to 127
	xyz15                  // 8000h is 1.0
	xyzRaw                 // XYZ as it is
)

func (e encoding) isLab() bool { return e <= lab8 }

func (e encoding) lab(v *values) color.Lab {
	if e == lab16 {
		return color.Lab{L: v[0] * 65535 / 652.8, A: v[1]*65535/256 - 128, B: v[2]*65535/256 - 128}
	}
	return color.Lab{L: v[0] * 100, A: v[1]*255 - 128, B: v[2]*255 - 128}
}

func (e encoding) putLab(c color.Lab, v *values) {
	if e == lab16 {
		v[0], v[1], v[2] = c.L*652.8/65535, (c.A+128)*256/65535, (c.B+128)*256/65535
		return
	}
	v[0], v[1], v[2] = c.L/100, (c.A+128)/255, (c.B+128)/255
}

const xyzScale = 65535. / 32768

func (e encoding) xyz(v *values) [3]float64 {
	switch e {
	case xyzRaw:
		return [3]float64{v[0], v[1], v[2]}
	case xyz15:
		return [3]float64{v[0] * xyzScale, v[1] * xyzScale, v[2] * xyzScale}
	}
	return labToXYZ(e.lab(v))
}

func (e encoding) putXYZ(xyz [3]float64, v *values) {
	switch e {
	case xyzRaw:
		copy(v[:3], xyz[:])
	case xyz15:
		v[0], v[1], v[2] = xyz[0]/xyzScale, xyz[1]/xyzScale, xyz[2]/xyzScale
	default:
		e.putLab(xyzToLab(xyz), v)
	}
}

// pcsWhite is the D50 white of the profile connection space (ICC.1:2022, 7.2.16).
var pcsWhite = [3]float64{0.9642, 1, 0.8249}

func xyzToLab(xyz [3]float64) color.Lab {
	var f [3]float64
	for i := range xyz {
		if t := xyz[i] / pcsWhite[i]; t > 216./24389 {
			f[i] = math.Cbrt(t)
		} else {
			f[i] = (24389./27*t + 16) / 116
		}
	}
	return color.Lab{L: 116*f[1] - 16, A: 500 * (f[0] - f[1]), B: 200 * (f[1] - f[2])}
}

func labToXYZ(c color.Lab) [3]float64 {
	fy := (c.L + 16) / 116
	var out [3]float64
	for i, f := range [3]float64{fy + c.A/500, fy, fy - c.B/200} {
		t := f * f * f
		if t <= 216./24389 {
			t = (116*f - 16) * 27 / 24389
		}
		out[i] = t * pcsWhite[i]
	}
	return out
}
