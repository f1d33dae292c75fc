//go:build !js

package picture

import "image"

// Kept is why the pixels of the picture stay as they are, with the picture as what it is said of: "a picture of four inks is not
// repainted". Empty for one that can be written with others, see Rewrite.
func (p *Picture) Kept() string {
	switch {
	case p.Inks != nil:
		return "a picture of four inks is not repainted"
	case p.Format == "JPEG":
		return "a JPEG is not repainted: its compression would not keep the color"
	case p.lossy:
		return "a picture with lossy compression is not repainted: it would not keep the color"
	case p.More != "":
		return "a picture is not repainted where " + p.More
	case p.Profile != "" && p.Codes == nil:
		return "a picture whose color profile has tables, or is for grays, is not repainted"
	case p.Codes != nil && p.Own == nil:
		return "a picture with a color profile is not repainted when it is that large"
	case p.Codes != nil && p.Format == "BMP":
		return "a BMP with a color profile of its own is not repainted"
	}
	return ""
}

// weigh notes what tells whether the pixels of a file can be written anew.
func (p *Picture) weigh(data []byte, img image.Image, m meta) {
	p.lossy = p.Format == "AVIF" || p.Format == "WebP" && Lossy(data)
	p.More = p.more(data, img, m)
}

func (p *Picture) more(data []byte, img image.Image, m meta) string {
	switch img.(type) {
	case *image.NRGBA64, *image.RGBA64, *image.Gray16:
		return "it has 16 bits a channel"
	}
	switch {
	case m.lab != 0:
		return "it is in CIELAB"
	case p.Format == "WebP" && Frames(data) > 1 && anyLossy(data):
		return "some of its frames are compressed with loss"
	}
	return ""
}

// anyLossy says whether a frame of an animated WebP is compressed with loss.
func anyLossy(data []byte) (lossy bool) {
	riff(data, func(kind string, body []byte) bool {
		if kind == "ANMF" {
			if frame := alone(data, body); frame != nil {
				lossy = lossy || Lossy(frame)
			}
		}
		return !lossy
	})
	return lossy
}
