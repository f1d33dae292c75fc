package pdf

import (
	"errors"
	"image"
	"slices"

	"github.com/pdfcpu/pdfcpu/pkg/pdfcpu/types"

	"huekeep/core/audit/pixels"
	"huekeep/core/audit/scanning"
	"huekeep/core/color"
	"huekeep/core/limits"
	"huekeep/core/picture"
)

// picture reads a picture that a page shows.
func (d *pdfScan) picture(x *types.StreamDict, where string, resources placed) {
	last := ""
	if n := len(x.FilterPipeline); n > 0 {
		last = x.FilterPipeline[n-1].Name
	}
	var err error
	switch last {
	case "DCTDecode":
		err = d.jpeg(x, where, resources)
	case "JPXDecode", "JBIG2Decode":
		err = errors.New("it is a picture in a form that is not read (" + last + ")")
	default:
		err = d.sampled(x, where, resources)
	}
	if err != nil {
		d.Unread(where, err)
	}
}

// jpeg reads a picture that is a file of its own.
func (d *pdfScan) jpeg(x *types.StreamDict, where string, resources placed) error {
	if len(x.FilterPipeline) > 1 {
		return errors.New("it is packed twice over")
	}
	p, decode := d.root.Held(where, x.Raw), picture.Decode
	if turned, ok := d.numbers(x.Dict["Decode"]); !ok || turned[0] != 1 {
		decode = picture.DecodeUpright
	}
	space := d.spaceOf(x.Dict["ColorSpace"], 0, resources)
	_, err := pixels.ScanDecoded(d.inner(), p, where, func(data []byte) (*picture.Picture, error) {
		img, err := decode(data)
		if err == nil && img.Profile == "" && space.kind == "rgb" && space.own != nil { // the PDF has its profile
			img.Note = "A picture of a PDF is converted to sRGB from the color space that the PDF has for it."
			seen(img.NRGBA, space)
		}
		return img, err
	})
	return err
}

// sampled reads a picture whose samples stand in the document, packed in whatever way.
func (d *pdfScan) sampled(x *types.StreamDict, where string, resources placed) error {
	width, _ := d.ctx.DereferenceNumber(x.Dict["Width"])
	height, _ := d.ctx.DereferenceNumber(x.Dict["Height"])
	bits, _ := d.ctx.DereferenceNumber(x.Dict["BitsPerComponent"])
	space := d.spaceOf(x.Dict["ColorSpace"], 0, resources)
	if !slices.Contains([]float64{1, 2, 4, 8, 16}, bits) || space.n == 0 || space.n > 4 || space.kind == "spot" || width < 1 ||
		height < 1 || width*height > limits.PictureBytes/8 {
		return errors.New("it is a picture in a form that is not read")
	}
	fax := false
	for i, f := range x.FilterPipeline {
		if f.Name == "CCITTFaxDecode" {
			fax = true
			if f.DecodeParms == nil {
				f.DecodeParms = types.Dict{}
			}
			if f.DecodeParms["Rows"] == nil { // as many as the picture has (7.4.6)
				f.DecodeParms["Rows"] = types.Integer(height)
			}
			x.FilterPipeline[i] = f
		}
	}
	if err := x.DecodeWithLimit(limits.PartBytes); err != nil {
		if fax {
			return errors.New("it is a fax picture that is damaged, or packed in a way that is not read")
		}
		return errors.New("it is damaged or too large to unpack")
	}
	w, h := int(width), int(height)
	content, ok := samples(x.Content, w*space.n, h, int(bits), space.kind == "indexed")
	x.Content = nil
	if !ok {
		return errors.New("it is damaged: it has fewer pixels than it says")
	}
	// some channels may be turned over (8.9.5.2)
	if turned, ok := d.numbers(x.Dict["Decode"]); ok && len(turned) == 2*space.n && space.kind != "indexed" {
		for k := range space.n {
			if turned[2*k] == 1 && turned[2*k+1] == 0 {
				for i := k; i < w*h*space.n; i += space.n {
					content[i] = 255 - content[i]
				}
			}
		}
	}
	pixels.FrameColors(d.inner(), shown(content, w, h, space), where, nil, "a picture inside of a PDF is not repainted")
	return nil
}

// shown is a picture of samples, a byte each, in a space.
func shown(content []byte, w, h int, space *pdfSpace) *image.NRGBA {
	img := image.NewNRGBA(image.Rect(0, 0, w, h))
	looks := map[[4]byte]color.RGB8{}
	for i := range w * h {
		var key [4]byte
		copy(key[:], content[i*space.n:(i+1)*space.n])
		rgb, ok := looks[key]
		if !ok {
			if space.kind == "rgb" && space.own == nil {
				rgb = color.RGB8{R: key[0], G: key[1], B: key[2]}
			} else if c, ok := space.look(space.values(key[:space.n])); ok {
				rgb = c.RGB
			}
			if len(looks) < 1<<18 {
				looks[key] = rgb
			}
		}
		img.Pix[4*i], img.Pix[4*i+1], img.Pix[4*i+2], img.Pix[4*i+3] = rgb.R, rgb.G, rgb.B, 255
	}
	return img
}

// values are the numbers that samples of a byte stand for in the space: 0 to 1, 0 to 100 and the ranges of CIELAB, places in a table.
func (s *pdfSpace) values(samples []byte) []float64 {
	v := make([]float64, len(samples))
	for k, sample := range samples {
		v[k] = float64(sample)
		switch {
		case s.kind == "lab" && k == 0:
			v[k] *= 100. / 255
		case s.kind == "lab":
			low, high := s.ranges[2*k-2], s.ranges[2*k-1]
			v[k] = low + v[k]/255*(high-low)
		case s.kind != "indexed":
			v[k] /= 255
		}
	}
	return v
}

// samples gives each sample of rows of a picture a byte: those of fewer or more bits are stretched to it, but for places in a table. Rows
// begin with a byte (8.9.5.1).
func samples(content []byte, row, rows, bits int, places bool) (out []byte, ok bool) {
	stride := (row*bits + 7) / 8
	if len(content) < stride*rows {
		return nil, false
	}
	switch bits {
	case 8:
		return content, true
	case 16:
		out = make([]byte, row*rows)
		for i := range out {
			out[i] = content[2*i]
		}
		return out, true
	}
	most := byte(1<<bits - 1)
	stretch := 255 / most
	if places {
		stretch = 1
	}
	out = make([]byte, 0, row*rows)
	for y := range rows {
		line := content[y*stride:]
		for x := range row {
			shift := 8 - bits - x*bits%8
			out = append(out, (line[x*bits/8]>>shift&most)*stretch)
		}
	}
	return out, true
}

// seen gives a picture the looks of its values in a space.
func seen(img *image.NRGBA, space *pdfSpace) {
	looks := map[color.RGB8]color.RGB8{}
	for i := 0; i+3 < len(img.Pix); i += 4 {
		px := img.Pix[i : i+3]
		from := color.RGB8{R: px[0], G: px[1], B: px[2]}
		to, ok := looks[from]
		if !ok {
			to = from
			if c, ok := space.look([]float64{float64(px[0]) / 255, float64(px[1]) / 255, float64(px[2]) / 255}); ok {
				to = c.RGB
			}
			if len(looks) < 1<<18 {
				looks[from] = to
			}
		}
		px[0], px[1], px[2] = to.R, to.G, to.B
	}
}

// inner is the scanner of what is inside of the document.
func (d *pdfScan) inner() *scanning.Scanner {
	in := *d.Scanner
	in.Inside = true
	return &in
}
