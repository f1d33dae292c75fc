//go:build !js

package gradient

import (
	"bytes"
	"encoding/xml"
	"fmt"
	"image"
	gocolor "image/color"
	"image/png"
	"math"
	"strings"

	"huekeep/core/color"
)

// Form is a way to take a gradient along.
type Form struct {
	Name, Label, Ending, MediaType string
	Write                          func(name string, stops []Stop, space string, angle float64) ([]byte, error)
}

// Forms are the ways to take a gradient along, for programs that know no CSS.
var Forms = []Form{
	{"picture", "Picture for slides and pages, 1920 × 1080", ".png", "image/png", picture(1920, 1080)},
	{"film", "Ground for film, 3840 × 2160 in 16 bits", ".png", "image/png", picture(3840, 2160)},
	{"drawing", "Drawing (SVG), whose fill drawing and office programs take over", ".svg", "image/svg+xml", drawing},
	{"steps", "Eleven steps to key in", ".txt", "text/plain; charset=utf-8", keyIn},
}

// picture paints the gradient over a rectangle as CSS does, in 16 bits, so that no steps show.
func picture(wide, tall int) func(string, []Stop, string, float64) ([]byte, error) {
	return func(_ string, stops []Stop, space string, angle float64) ([]byte, error) {
		sin, cos := math.Sincos(angle * math.Pi / 180)
		// CSS Images 3, 3.1.1: the corners have the first and the last color
		length := math.Abs(float64(wide)*sin) + math.Abs(float64(tall)*cos)
		const fine = 8192
		ramp := make([]gocolor.NRGBA64, fine+1)
		for i := range ramp {
			c, err := Between(stops, space, 100*float64(i)/fine)
			if err != nil {
				return nil, err
			}
			ramp[i] = gocolor.NRGBA64{R: to16(c.R), G: to16(c.G), B: to16(c.B), A: 0xFFFF}
		}
		img := image.NewNRGBA64(image.Rect(0, 0, wide, tall))
		for y := range tall {
			for x := range wide {
				dx, dy := float64(x)+0.5-float64(wide)/2, float64(y)+0.5-float64(tall)/2
				f := (dx*sin-dy*cos)/length + 0.5
				img.SetNRGBA64(x, y, ramp[int(math.Round(min(1, max(0, f))*fine))])
			}
		}
		var out bytes.Buffer
		err := png.Encode(&out, img)
		return out.Bytes(), err
	}
}

func to16(v float64) uint16 { return uint16(math.Round(min(1, max(0, v)) * 0xFFFF)) }

// drawing writes a rectangle that is filled with the gradient. SVG mixes in sRGB, so the way between the stops is told in many.
func drawing(name string, stops []Stop, space string, angle float64) ([]byte, error) {
	var title bytes.Buffer
	if err := xml.EscapeText(&title, []byte(name)); err != nil {
		return nil, err
	}
	const wide, tall, n = 1600, 900, 33
	sin, cos := math.Sincos(angle * math.Pi / 180)
	half := (math.Abs(wide*sin) + math.Abs(tall*cos)) / 2
	var b strings.Builder
	fmt.Fprintf(&b, `<svg xmlns="http://www.w3.org/2000/svg" viewBox="0 0 %d %d" width="%d" height="%d"><title>%s</title>`, wide, tall,
		wide, tall, title.String())
	fmt.Fprintf(&b, `<defs><linearGradient id="gradient" gradientUnits="userSpaceOnUse" x1="%.2f" y1="%.2f" x2="%.2f" y2="%.2f">`,
		wide/2-half*sin, tall/2+half*cos, wide/2+half*sin, tall/2-half*cos)
	steps, err := Steps(stops, space, n)
	if err != nil {
		return nil, err
	}
	for i, c := range steps {
		fmt.Fprintf(&b, `<stop offset="%g" stop-color="%s"/>`, math.Round(1e4*float64(i)/(n-1))/1e4, c.Hex())
	}
	fmt.Fprintf(&b, `</linearGradient></defs><rect width="%d" height="%d" fill="url(#gradient)"/></svg>`+"\n", wide, tall)
	return []byte(b.String()), nil
}

// keyIn lists steps for programs whose stops are typed.
func keyIn(name string, stops []Stop, space string, angle float64) ([]byte, error) {
	steps, err := Steps(stops, space, 11)
	if err != nil {
		return nil, err
	}
	var b strings.Builder
	fmt.Fprintf(&b, "%s, %g degrees, mixed in %s\n\n", name, angle, space)
	for i, c := range steps {
		fmt.Fprintf(&b, "%3d %%  %3d %3d %3d  %s\n", 10*i, c.R, c.G, c.B, c.Hex())
	}
	return []byte(b.String()), nil
}

// Between is At before it is rounded to 8 bits.
func Between(stops []Stop, space string, place float64) (color.RGB, error) {
	if len(stops) == 0 {
		_, err := At(stops, space, place)
		return color.RGB{}, err
	}
	if _, err := At(stops[:1], space, 0); err != nil {
		return color.RGB{}, err
	}
	if place <= stops[0].Place {
		return stops[0].Color.RGB(), nil
	}
	for i := 1; i < len(stops); i++ {
		if a, b := stops[i-1], stops[i]; place < b.Place {
			return mixed(a.Color, b.Color, space, (place-a.Place)/(b.Place-a.Place)).Map(), nil
		}
	}
	return stops[len(stops)-1].Color.RGB(), nil
}
