package picture

import (
	"fmt"
	"image"
	"math"
	"slices"

	"huekeep/core/color"
	"huekeep/core/icc"
	"huekeep/core/press"
	"huekeep/core/raster"
)

// convert takes the decoded pixels over into sRGB.
func (p *Picture) convert(img image.Image, embedded []byte) error {
	var profile *icc.Profile
	if len(embedded) > 0 {
		read, err := icc.Parse(embedded)
		if err != nil {
			p.Note = fmt.Sprintf("Its color profile could not be read (%v); the values are taken as sRGB.", err)
		} else {
			profile = read
		}
	}
	if inks, ok := img.(*image.CMYK); ok {
		return p.fromInks(inks, profile)
	}
	p.NRGBA = toNRGBA(img)
	if profile == nil {
		return nil
	}
	toLab, err := profile.ToLab(icc.Rendering{Intent: icc.RelativeColorimetric})
	switch {
	case err != nil:
		p.Note = fmt.Sprintf("Its color profile could not be used (%v); the values are taken as sRGB.", err)
		return nil
	case profile.Channels() == 4:
		p.Note = "Its color profile is for CMYK but its pixels are not; the values are taken as sRGB."
		return nil
	}
	screen := func(dev ...float64) color.Linear { return toLab.Lab(dev).XYZ().Linear() }
	if profile.Channels() == 1 {
		p.keepOwn(func(dev []float64) color.Lab { return toLab.Lab(dev[:1]) })
		p.throughRows(profile, raster.Bake(1, 3, func(src, dst []float64) {
			c := screen(src[0]).RGB().Clip()
			dst[0], dst[1], dst[2] = c.R, c.G, c.B
		}))
		return nil
	}
	if isScreen(screen) {
		return nil // sRGB in all but the rounding of its profile, which must not move a value
	}
	p.Profile = profile.Description
	p.keepOwn(toLab.Lab)
	if !profile.Shaped() {
		p.throughRows(profile, raster.Bake(3, 3, func(src, dst []float64) {
			c := screen(src...).RGB().Clip()
			dst[0], dst[1], dst[2] = c.R, c.G, c.B
		}))
		return nil
	}
	p.throughMatrix(screen)
	return nil
}

// keepOwn keeps the pixels before they are converted, if they are wanted and fit.
func (p *Picture) keepOwn(lab func(dev []float64) color.Lab) {
	switch n := int64(p.Rect.Dx()) * int64(p.Rect.Dy()); {
	case p.most == 0:
	case n > p.most:
		p.Note = "It is too large for its own colors to be kept: what lies outside of sRGB is seen as sRGB has it."
	default:
		p.Own = &Own{&image.NRGBA{Pix: slices.Clone(p.Pix), Stride: p.Stride, Rect: p.Rect}, lab}
	}
}

// fromLab takes over samples of CIELAB (D50) that were read as if they were RGB; of 16 bits the upper 8 count.
func (p *Picture) fromLab(img image.Image, kind int) {
	p.NRGBA = toNRGBA(img)
	if kind == cieLab { // what is between two values then lies between their colors
		for i := 0; i+3 < len(p.Pix); i += 4 {
			p.Pix[i+1] ^= 0x80
			p.Pix[i+2] ^= 0x80
		}
	}
	lab := func(dev []float64) color.Lab {
		return color.Lab{L: 100 * dev[0], A: 255*dev[1] - 128, B: 255*dev[2] - 128}
	}
	p.keepOwn(lab)
	p.Note = "Converted to sRGB from CIELAB."
	looks := make(map[[3]uint8]color.RGB8, 1024)
	for i := 0; i+3 < len(p.Pix); i += 4 {
		key := [3]uint8(p.Pix[i : i+3])
		c, ok := looks[key]
		if !ok {
			c = lab([]float64{float64(key[0]) / 255, float64(key[1]) / 255, float64(key[2]) / 255}).RGB().RGB8()
			if len(looks) < 1<<18 {
				looks[key] = c
			}
		}
		p.Pix[i], p.Pix[i+1], p.Pix[i+2] = c.R, c.G, c.B
	}
}

// throughRows converts all pixels over a baked grid.
func (p *Picture) throughRows(profile *icc.Profile, rows *raster.Rows) {
	p.Profile = profile.Description
	parallelRows(p.NRGBA, func(_ int, row []uint8) { rows.Convert(row, 4, row, 4) })
}

// isScreen says whether device values mean what sRGB means by them. Profiles of sRGB itself differ by up to 1.3 levels at
// the green primary, for the rounding of their numbers.
func isScreen(screen func(...float64) color.Linear) bool {
	for r := 0.0; r <= 1; r += 0.25 {
		for g := 0.0; g <= 1; g += 0.25 {
			for b := 0.0; b <= 1; b += 0.25 {
				c := screen(r, g, b).RGB()
				if math.Max(math.Abs(c.R-r), math.Max(math.Abs(c.G-g), math.Abs(c.B-b))) > 2./255 {
					return false
				}
			}
		}
	}
	return true
}

// throughMatrix converts the pixels of a profile of curves and a matrix without a grid, so that no value shifts: what each
// channel adds to linear sRGB is looked up, and the sum gets the transfer curve of sRGB.
func (p *Picture) throughMatrix(screen func(...float64) color.Linear) {
	black := screen(0, 0, 0)
	var part [3][256][3]float32
	for c := range 3 {
		for v := range 256 {
			var dev [3]float64
			dev[c] = float64(v) / 255
			l := screen(dev[:]...)
			part[c][v] = [3]float32{float32(l.R - black.R), float32(l.G - black.G), float32(l.B - black.B)}
		}
	}
	base := [3]float32{float32(black.R), float32(black.G), float32(black.B)}
	p.Codes = newCodes(base, &part)
	parallelRows(p.NRGBA, func(_ int, row []uint8) {
		for i := 0; i < len(row); i += 4 {
			x, y, z := &part[0][row[i]], &part[1][row[i+1]], &part[2][row[i+2]]
			for k := range 3 {
				row[i+k] = color.Encode8(base[k] + x[k] + y[k] + z[k])
			}
		}
	})
}

// throughGamma converts samples by the gamma and the primaries that a PNG gives. The gamma of 45455 hundred thousandths is what programs
// write for sRGB, whose curve comes near it; it counts as that curve.
func (p *Picture) throughGamma(gamma float64, primaries []float64, camera bool) {
	curve := func(v float64) float64 { return color.RGB{R: v}.Linear().R }
	said := ""
	if gamma == gamma22 || gamma != 0 && math.Abs(gamma-gamma22) > 1e-4 {
		if gamma < 0.05 || gamma > 20 {
			return
		}
		curve = func(v float64) float64 { return math.Pow(v, 1/gamma) }
		said = fmt.Sprintf("its gamma of 1/%.2g", 1/gamma)
	}
	if camera {
		curve, said = color.CameraLight, "the curve of BT.709 and BT.2020"
	}
	toScreen := func(r, g, b float64) color.Linear { return color.Linear{R: r, G: g, B: b} }
	if primaries != nil {
		if own, ok := color.FromPrimaries([8]float64(primaries)); ok {
			toScreen = own
		}
	}
	screen := func(dev ...float64) color.Linear { return toScreen(curve(dev[0]), curve(dev[1]), curve(dev[2])) }
	if isScreen(screen) {
		return
	}
	if said == "" || primaries != nil {
		if said != "" {
			said += " and "
		}
		said += "its own primaries"
	}
	p.keepOwn(func(dev []float64) color.Lab { return screen(dev...).RGB().Lab() })
	p.Note = fmt.Sprintf("Converted to sRGB from %s, which the file gives instead of a profile.", said)
	p.throughMatrix(screen)
}

// fromInks sees a CMYK picture through its own profile, or through the coated press if it has none.
func (p *Picture) fromInks(inks *image.CMYK, profile *icc.Profile) error {
	var lab func([]float64) color.Lab
	if profile != nil && profile.Channels() == 4 {
		t, err := profile.ToLab(icc.Rendering{Intent: icc.RelativeColorimetric})
		if err != nil {
			p.Note = fmt.Sprintf("Its color profile could not be used (%v).", err)
		} else {
			lab = t.Lab
			p.Profile = profile.Description
		}
	}
	if lab == nil {
		p.Note = "Its pixels are CMYK without a profile; they are seen through the coated press."
		coated := press.Coated()
		lab = func(v []float64) color.Lab {
			return coated.Lab(color.CMYK{C: v[0] * 100, M: v[1] * 100, Y: v[2] * 100, K: v[3] * 100})
		}
	}
	rows := raster.Bake(4, 3, func(src, dst []float64) {
		c := lab(src).RGB().Clip()
		dst[0], dst[1], dst[2] = c.R, c.G, c.B
	})
	b := inks.Bounds()
	p.Inks = &image.CMYK{Pix: inks.Pix[inks.PixOffset(b.Min.X, b.Min.Y):], Stride: inks.Stride, Rect: image.Rect(0, 0, b.Dx(), b.Dy())}
	p.NRGBA = image.NewNRGBA(p.Inks.Rect)
	parallelRows(p.NRGBA, func(y int, row []uint8) {
		rows.Convert(row, 4, inks.Pix[inks.PixOffset(b.Min.X, b.Min.Y+y):][:len(row)], 4)
		for i := 3; i < len(row); i += 4 {
			row[i] = 255
		}
	})
	return nil
}

// parallelRows calls f for each row of a picture, from several goroutines.
func parallelRows(img *image.NRGBA, f func(y int, row []uint8)) {
	w := 4 * img.Rect.Dx()
	raster.Parallel(img.Rect.Dy(), func(from, to int) {
		for y := from; y < to; y++ {
			f(y, img.Pix[y*img.Stride:][:w])
		}
	})
}
