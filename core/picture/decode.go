// Package picture reads pictures and finds the colors in them: the value at a point, the colors of a whole picture, and the
// patches of a palette chart.
package picture

import (
	"bytes"
	"errors"
	"fmt"
	"image"
	"image/draw"
	"image/gif"
	"image/jpeg"
	"image/png"
	"io"
	"math"
	"strings"

	"github.com/hhrutter/tiff"
	"golang.org/x/image/bmp"

	"huekeep/core/color"
	"huekeep/core/limits"
)

// Picture is a decoded picture in sRGB, upright.
type Picture struct {
	*image.NRGBA
	Format  string // "PNG"
	Profile string // name of the embedded profile that was converted from; empty for sRGB and untagged pictures
	Note    string // what a person should know of how it was read, or empty
	Odd     string // why its colors are not those that a screen shows, as a sentence; or empty
	More    string // what the file has that would be lost if its pixels were written anew: "it has 16 bits a channel"; or empty

	lossy bool   // an AVIF, or a WebP that is compressed with loss
	most  int64  // pixels of which the own ones are kept too
	Codes *Codes // of its own color space, where that is not sRGB and was converted by curves and a matrix; else nil

	Own  *Own        // what it was converted to sRGB from, if DecodeOwn read it and it is another RGB space or grays; else nil
	Inks *image.CMYK // of a CMYK picture, as the file has them; nil for others
}

// Own are the pixels of a picture as its file has them, in a color space of their own.
type Own struct {
	*image.NRGBA
	Lab func(dev []float64) color.Lab // of red, green and blue, 0 to 1
}

// Seen are the pixels to print from, and what they look like: the picture's own, or sRGB and nil.
func (p *Picture) Seen() (*image.NRGBA, func(dev []float64) color.Lab) {
	if p.Own != nil {
		return p.Own.NRGBA, p.Own.Lab
	}
	return p.NRGBA, nil
}

// Exact are the pixels as the file has them, with what they mean, if DecodeOwn read a picture whose values are light by curves and a
// matrix; else those in sRGB, and nil.
func (p *Picture) Exact() (*image.NRGBA, *Codes) {
	if p.Own != nil && p.Codes != nil {
		return p.Own.NRGBA, p.Codes
	}
	return p.NRGBA, nil
}

// format is one kind of picture file: how to recognize it, read it, and where it keeps its color profile and orientation.
type format struct {
	name   string
	magic  []string // "?" stands for any byte
	config func(io.Reader) (image.Config, error)
	decode func(io.Reader) (image.Image, error)
	meta   func([]byte) meta
}

// Formats that are read.
var formats = []format{
	{"PNG", []string{"\x89PNG\r\n\x1a\n"}, png.DecodeConfig, pngDecode, pngMeta},
	{"JPEG", []string{"\xff\xd8"}, jpeg.DecodeConfig, jpeg.Decode, jpegMeta},
	{"WebP", []string{"RIFF????WEBPVP8"}, webpConfig, webpDecode, webpMeta},
	{"GIF", []string{"GIF87a", "GIF89a"}, gif.DecodeConfig, gif.Decode, func([]byte) meta { return meta{} }},
	{"TIFF", []string{"II*\x00", "MM\x00*"}, tiff.DecodeConfig, tiff.Decode, tiffMeta},
	{"BMP", []string{"BM????\x00\x00\x00\x00"}, bmp.DecodeConfig, bmp.Decode, bmpMeta},
}

// formatNames are their names as a sentence has them.
var formatNames = "PNG, JPEG, WebP, GIF, TIFF or BMP"

// pngDecode reads a PNG also where the chunk that ends it is missing: what was drawn is all there.
func pngDecode(r io.Reader) (image.Image, error) {
	data, err := io.ReadAll(r)
	if err != nil {
		return nil, err
	}
	img, err := png.Decode(bytes.NewReader(data))
	if err != nil && strings.Contains(err.Error(), io.ErrUnexpectedEOF.Error()) {
		const end = "\x00\x00\x00\x00IEND\xaeB`\x82"
		if whole, failed := png.Decode(io.MultiReader(bytes.NewReader(data), strings.NewReader(end))); failed == nil {
			return whole, nil
		}
	}
	return img, err
}

// Is says whether data begins like a picture that is read, and names its format.
func Is(data []byte) (string, bool) {
	for _, f := range formats {
		if f.matches(data) {
			return f.name, true
		}
	}
	return "", false
}

func (f format) matches(data []byte) bool {
next:
	for _, m := range f.magic {
		if len(data) < len(m) {
			continue
		}
		for i := range len(m) {
			if m[i] != '?' && data[i] != m[i] {
				continue next
			}
		}
		return true
	}
	return false
}

// Decode reads a PNG, JPEG, WebP, GIF, TIFF or BMP, of several frames or pages the first. An embedded ICC profile is honored: the result is
// sRGB whatever the file was tagged with. CMYK pictures without a profile are seen through the coated press. The orientation that a camera
// noted is applied. Errors are sentences for people.
func Decode(data []byte) (p *Picture, err error) { return decode(data, reader{}) }

// DecodeOwn is Decode that keeps the pixels of a wide picture beside those in sRGB, which has not all of their colors.
func DecodeOwn(data []byte) (p *Picture, err error) { return decode(data, reader{own: true}) }

// reader says how a picture is read.
type reader struct {
	upright bool // see DecodeUpright
	own     bool // see DecodeOwn
	stored  bool // it is not turned to how it is seen
}

// DecodeUpright is Decode for a JPEG of four inks that are not turned over, as PDFs have them: on its own such a file holds how much of
// each is left out (Adobe technical note 5116).
func DecodeUpright(data []byte) (p *Picture, err error) { return decode(data, reader{upright: true}) }

func decode(data []byte, how reader) (p *Picture, err error) {
	if len(data) == 0 {
		return nil, fmt.Errorf("the picture is empty")
	}
	if len(data) > limits.UploadBytes {
		return nil, fmt.Errorf("the picture has %s; at most %s are read", limits.Size(int64(len(data))), limits.Size(limits.UploadBytes))
	}
	for _, f := range formats {
		if f.matches(data) {
			return f.read(data, how)
		}
	}
	return nil, fmt.Errorf("this is not a %s picture", formatNames)
}

func (f format) read(data []byte, how reader) (p *Picture, err error) {
	// The readers of the rarer formats are not known to be free of panics on hostile files.
	defer func() {
		if r := recover(); r != nil {
			p, err = nil, fmt.Errorf("the %s picture is damaged", f.name)
		}
	}()
	m := f.meta(data)
	if m.lab != 0 {
		data = labAsRGB(data)
	}
	config, err := f.config(bytes.NewReader(data))
	if err != nil {
		return nil, f.damaged(err)
	}
	if config.Width < 1 || config.Height < 1 {
		return nil, fmt.Errorf("the %s picture has no pixels", f.name)
	}
	// What decoding needs at the most: the decoder's own pixels, the coefficients of a progressive JPEG, and ours.
	need := int64(config.Width) * int64(config.Height)
	if config.Width > limits.PictureSide || config.Height > limits.PictureSide || need > limits.PictureBytes/perPixel(config, m) {
		return nil, fmt.Errorf("the picture has %d x %d pixels, more than can be read; make it smaller and try again", config.Width,
			config.Height)
	}
	img, err := f.decode(bytes.NewReader(data))
	if err != nil {
		return nil, f.damaged(err)
	}
	if cmyk, ok := img.(*image.CMYK); ok && how.upright && f.name == "JPEG" {
		for i, v := range cmyk.Pix { // the reader has turned them
			cmyk.Pix[i] = 255 - v
		}
	}
	if gray, ok := img.(*image.Gray); ok && m.turned {
		for i, v := range gray.Pix {
			gray.Pix[i] = 255 - v
		}
	}
	p = &Picture{Format: f.name}
	p.weigh(data, img, m)
	if how.own {
		p.most = limits.PictureBytes / (perPixel(config, m) + 4)
	}
	if m.lab != 0 {
		p.fromLab(img, m.lab)
	} else if err := p.convert(img, m.profile); err != nil {
		return nil, err
	}
	if m.gamma != 0 || m.primaries != nil || m.camera {
		p.throughGamma(m.gamma, m.primaries, m.camera)
	}
	if p.Odd = m.odd; p.Note == "" {
		p.Note = m.odd
	}
	if how.stored {
		m.orientation = 0
	}
	p.NRGBA = upright(p.NRGBA, m.orientation)
	if p.Own != nil {
		p.Own.NRGBA = upright(p.Own.NRGBA, m.orientation)
	}
	if p.Inks != nil { // four bytes a pixel as well
		turned := upright(&image.NRGBA{Pix: p.Inks.Pix, Stride: p.Inks.Stride, Rect: p.Inks.Rect}, m.orientation)
		p.Inks = &image.CMYK{Pix: turned.Pix, Stride: turned.Stride, Rect: turned.Rect}
	}
	return p, nil
}

// notRead is an error that says itself what is the matter with a picture.
type notRead string

func (n notRead) Error() string { return string(n) }

func (f format) damaged(err error) error {
	if said, ok := err.(notRead); ok {
		return said
	}
	if errors.Is(err, io.EOF) || strings.Contains(err.Error(), io.ErrUnexpectedEOF.Error()) { // some readers only quote it
		return fmt.Errorf("the %s picture is damaged: it is cut off", f.name)
	}
	if _, what, ok := strings.Cut(err.Error(), "unsupported "); ok { // as the readers say of what a format may have and they do not read
		return fmt.Errorf("the %s picture is written in a way that is not read (%s)", f.name, strings.TrimPrefix(what, "feature: "))
	}
	return fmt.Errorf("the %s picture is damaged: %w", f.name, err)
}

// perPixel is how many bytes a pixel takes while it is read: as the decoder holds it, and as ours.
func perPixel(c image.Config, m meta) int64 {
	decoded := 4.0
	switch c.ColorModel {
	case modelNRGBA64, modelRGBA64:
		decoded = 8
	case modelGray:
		decoded = 1
	}
	if m.samples > 0 {
		decoded = m.samples
		if m.samples > 3 {
			decoded += 4 // four inks are put together anew
		}
		if m.progressive {
			decoded += 4 * m.samples // the coefficients of all scans
		}
	}
	return int64(math.Ceil(decoded + 4))
}

// toNRGBA takes over any decoded picture with its top left at the origin.
func toNRGBA(img image.Image) *image.NRGBA {
	b := img.Bounds()
	if n, ok := img.(*image.NRGBA); ok && b.Min == (image.Point{}) {
		return n
	}
	out := image.NewNRGBA(image.Rect(0, 0, b.Dx(), b.Dy()))
	if y, ok := img.(*image.YCbCr); ok {
		fromYCbCr(out, y)
		return out
	}
	draw.Draw(out, out.Bounds(), img, b.Min, draw.Src)
	return out
}

// fromYCbCr is draw.Draw for the case that nearly all photos are, on every core.
func fromYCbCr(out *image.NRGBA, in *image.YCbCr) {
	parallelRows(out, func(y int, row []uint8) {
		draw.Draw(&image.RGBA{Pix: row, Stride: len(row), Rect: image.Rect(0, y, out.Rect.Dx(), y+1)},
			image.Rect(0, y, out.Rect.Dx(), y+1), in, image.Pt(in.Rect.Min.X, in.Rect.Min.Y+y), draw.Src)
	})
}

// upright turns and mirrors a picture by the orientation of EXIF, 1 to 8; any other number leaves it.
func upright(in *image.NRGBA, orientation int) *image.NRGBA {
	if orientation < 2 || orientation > 8 {
		return in
	}
	w, h := in.Rect.Dx(), in.Rect.Dy()
	out := image.NewNRGBA(image.Rect(0, 0, w, h))
	if orientation > 4 {
		out = image.NewNRGBA(image.Rect(0, 0, h, w))
	}
	for y := range h {
		for x := range w {
			dx, dy := x, y
			switch orientation {
			case 2:
				dx = w - 1 - x
			case 3:
				dx, dy = w-1-x, h-1-y
			case 4:
				dy = h - 1 - y
			case 5:
				dx, dy = y, x
			case 6:
				dx, dy = h-1-y, x
			case 7:
				dx, dy = h-1-y, w-1-x
			case 8:
				dx, dy = y, w-1-x
			}
			copy(out.Pix[dy*out.Stride+4*dx:][:4], in.Pix[y*in.Stride+4*x:][:4])
		}
	}
	return out
}
