// Package see shows judged files with what was found in them: the pages of a PDF and pictures with one found color as it is and all else in
// gray, with boxes around where it stands; texts as the lines in which something was found. Where a color stands on a page is not worked
// out from what the page says but looked at: the file is shown twice, once with the color and once without it, and the color stands where
// the two differ.
package see

import (
	"bytes"
	"fmt"
	"image"
	"image/png"
	"math"
	"slices"

	"huekeep/core/audit/pixels"
	"huekeep/core/color"
	"huekeep/core/pdfpage"
)

const (
	// Wide is how many pixels a page or a picture has across, at the most; half as many more down.
	Wide = 1200
	// mostBoxes is how many places of a page are told.
	mostBoxes = 300
	// cell is the side of the squares in which differences are gathered, in pixels.
	cell = 8
	// joined is how many cells apart what is one place may lie: the letters and words of a line.
	joined = 2
	// seen is by how much a channel has to differ to be seen as different; less is rounding at edges.
	seen = 6
)

// Box is a rectangle of a page in shares of its width and height, 0 to 1 from the upper left corner, around a place of a found color.
type Box struct {
	Key                 string // of the found color
	X, Y, Width, Height float64
}

// View is one page.
type View struct {
	Page, Pages   int
	Width, Height int // pixels
	PNG           []byte
	Boxes         []Box
	More          int // places beyond those
	Moved, Others int // of a page that was repainted: pixels that changed and are of no found color, of how many that are of none
}

// Code is a color that stands for a found one in a file that was made to find it (repaint.Coded).
type Code struct {
	Key   string
	Was   color.RGB8  // how the found color looks
	Inks  *color.CMYK // of a build
	RGB   color.RGB8
	Build color.CMYK // what is written where inks are
}

// PDF is a page of a PDF as one sees it, with boxes around what was found. coded is the same file with a code in place of each found color;
// after is the file as it would be repainted, which is shown instead of data where it is given.
func PDF(data, coded, after []byte, codes []Code, page int) (v View, err error) {
	img, pages, err := render(data, page)
	if err != nil {
		return v, err
	}
	v.Page, v.Pages = page, pages
	var other *image.NRGBA
	if len(codes) > 0 {
		if other, err = alike(coded, page, img); err != nil {
			return v, err
		}
		var builds []color.CMYK
		for _, c := range codes {
			builds = append(builds, c.Build)
			if c.Inks != nil {
				builds = append(builds, *c.Inks)
			}
		}
		shown, err := pdfpage.Shown(builds)
		if err != nil {
			return v, err
		}
		at := map[color.CMYK]color.RGB8{}
		for rgb, b := range shown {
			at[b] = rgb
		}
		for i := range codes {
			if c := &codes[i]; c.Inks != nil {
				if rgb, ok := at[*c.Inks]; ok {
					c.Was = rgb
				}
				c.RGB = at[c.Build]
			}
		}
		v.find(img, other, func(was, is color.RGB8) string {
			for _, k := range codes {
				if near(is, k.RGB, 12) && near(was, k.Was, 60) { // or it is an edge between another code and something dark
					return k.Key
				}
			}
			return ""
		}, func(was, is color.RGB8) string { return edge(was, is, codes) })
	}
	if after != nil {
		if other == nil { // of no found color
			other = img
		}
		now, err := alike(after, page, img)
		if err != nil {
			return v, err
		}
		for i := 0; i < len(img.Pix); i += 4 {
			if !differs(img.Pix[i:], other.Pix[i:]) {
				v.Others++
				if differs(img.Pix[i:], now.Pix[i:]) {
					v.Moved++
				}
			}
		}
		img = now
	}
	return v, v.pack(img)
}

// Alone is a page of a PDF with one of its colors as it is and all else in gray, of the two files that repaint.Apart makes.
func Alone(alone, gray []byte, key string, page int) (v View, err error) {
	img, pages, err := render(alone, page)
	if err != nil {
		return v, err
	}
	without, err := alike(gray, page, img)
	if err != nil {
		return v, err
	}
	v.Page, v.Pages = page, pages
	v.find(img, without, func(_, _ color.RGB8) string { return key }, nil)
	for i := 0; i < len(img.Pix); i += 4 {
		// of what could not be written, such as a picture
		if a := img.Pix[i:][:4]; !differs(a, without.Pix[i:]) && (a[0] != a[1] || a[1] != a[2]) {
			g := pixels.Pale(color.RGB8{R: a[0], G: a[1], B: a[2]})
			a[0], a[1], a[2] = g.R, g.G, g.B
		}
	}
	return v, v.pack(img)
}

// alike is the same page of another form of a file.
func alike(data []byte, page int, as *image.NRGBA) (*image.NRGBA, error) {
	img, _, err := render(data, page)
	if err == nil && img.Rect != as.Rect {
		err = fmt.Errorf("page %d cannot be compared", page)
	}
	return img, err
}

func render(data []byte, page int) (img *image.NRGBA, pages int, err error) {
	f, err := pdfpage.Open(data)
	if err != nil {
		return nil, 0, err
	}
	defer f.Close()
	if page < 1 || page > f.Pages {
		return nil, f.Pages, fmt.Errorf("it has %d pages", f.Pages)
	}
	p, err := f.Page(page)
	if err != nil {
		return nil, f.Pages, err
	}
	defer p.Close()
	img, _, err = p.Picture(Wide, Wide*3/2)
	return img, f.Pages, err
}

// Picture is a frame or a page of a picture as one sees it, no wider than Wide, with boxes around found colors that it has exactly.
func Picture(data []byte, found []Code, n int) (v View, err error) {
	l, err := pixels.LeafOf(data, n)
	if err != nil {
		return v, err
	}
	keys := map[color.RGB8]string{}
	for _, f := range found {
		keys[f.RGB] = f.Key
	}
	return v, v.boxed(l.NRGBA, func(c color.RGB8) (shown color.RGB8, key string) {
		shown = l.Looks(c).RGB
		return shown, keys[shown]
	})
}

// Frame is a frame of a video, with boxes around found colors, which compression blurs.
func Frame(img *image.NRGBA, found []Code) (v View, err error) {
	var colors []color.RGB8
	for _, f := range found {
		colors = append(colors, f.RGB)
	}
	return v, v.boxed(img, func(c color.RGB8) (shown color.RGB8, key string) {
		if at := pixels.Nearest(c, colors); at >= 0 {
			key = found[at].Key
		}
		return c, key
	})
}

// boxed is a picture with boxes around what of gives a key for, which also says how a color is shown.
func (v *View) boxed(img *image.NRGBA, of func(c color.RGB8) (shown color.RGB8, key string)) error {
	type known struct {
		shown color.RGB8
		key   string
	}
	w, h := img.Rect.Dx(), img.Rect.Dy()
	step := max(1, (w+Wide-1)/Wide)
	out := image.NewNRGBA(image.Rect(0, 0, (w+step-1)/step, (h+step-1)/step))
	g := grid{width: out.Rect.Dx(), height: out.Rect.Dy(), keys: map[string][]image.Rectangle{}}
	by := map[color.RGB8]known{}
	for y := range g.height {
		for x := range g.width {
			px := img.Pix[y*step*img.Stride+4*x*step:]
			c := color.RGB8{R: px[0], G: px[1], B: px[2]}
			k, ok := by[c]
			if !ok {
				if k.shown, k.key = of(c); len(by) < 1<<18 {
					by[c] = k
				}
			}
			to := out.Pix[y*out.Stride+4*x:]
			to[0], to[1], to[2], to[3] = k.shown.R, k.shown.G, k.shown.B, px[3]
			if k.key != "" && px[3] >= 128 {
				g.put(k.key, x, y)
			}
		}
	}
	v.Page, v.Pages = 1, 1
	v.Boxes, v.More = g.boxes()
	return v.pack(out)
}

// Marked is a frame or a page of a picture with one of its colors as it is and all else in gray; n is as in pixels.Marked.
func Marked(data []byte, found color.RGB8, n int) (v View, err error) {
	png, err := pixels.Marked(data, found, n)
	return v.marked(png, err)
}

// MarkedFrame is Marked for a frame of a video.
func MarkedFrame(img *image.NRGBA, found color.RGB8) (v View, err error) {
	png, err := pixels.MarkedFrame(img, found)
	return v.marked(png, err)
}

func (v View) marked(data []byte, err error) (View, error) {
	if err != nil {
		return v, err
	}
	size, err := png.DecodeConfig(bytes.NewReader(data))
	v.PNG, v.Page, v.Pages, v.Width, v.Height = data, 1, 1, size.Width, size.Height
	return v, err
}

func (v *View) pack(img *image.NRGBA) error {
	v.Width, v.Height = img.Rect.Dx(), img.Rect.Dy()
	var b bytes.Buffer
	err := (&png.Encoder{CompressionLevel: png.BestSpeed}).Encode(&b, img)
	v.PNG = b.Bytes()
	return err
}

// find puts boxes around what differs in two pictures of a page, by the found color that both say it is of, empty for none; and where none
// is near, by that which it may be an edge of.
func (v *View) find(img, other *image.NRGBA, of, edge func(was, is color.RGB8) string) {
	g := grid{width: img.Rect.Dx(), height: img.Rect.Dy(), keys: map[string][]image.Rectangle{}}
	sure := make([]bool, g.width*g.height)
	each := func(of func(was, is color.RGB8) string, take func(x, y int) bool) {
		known := map[[2]color.RGB8]string{}
		for y := range g.height {
			for x := range g.width {
				a, b := img.Pix[y*img.Stride+4*x:], other.Pix[y*other.Stride+4*x:]
				if !differs(a, b) || !take(x, y) {
					continue
				}
				both := [2]color.RGB8{{R: a[0], G: a[1], B: a[2]}, {R: b[0], G: b[1], B: b[2]}}
				key, ok := known[both]
				if !ok {
					if key = of(both[0], both[1]); len(known) < 1<<18 {
						known[both] = key
					}
				}
				if key != "" {
					g.put(key, x, y)
					sure[y*g.width+x] = true
				}
			}
		}
	}
	each(of, func(int, int) bool { return true })
	if edge != nil {
		whole := slices.Clone(sure)
		each(edge, func(x, y int) bool { // what is beside a color that is there is an edge of that one, or of two
			for dy := max(0, y-2); dy <= min(g.height-1, y+2); dy++ {
				for dx := max(0, x-2); dx <= min(g.width-1, x+2); dx++ {
					if whole[dy*g.width+dx] {
						return false
					}
				}
			}
			return true
		})
	}
	v.Boxes, v.More = g.boxes()
}

// grid gathers pixels in cells, those of each found color apart.
type grid struct {
	width, height int
	keys          map[string][]image.Rectangle // what of each cell the color takes
	order         []string
}

func (g *grid) across() int { return (g.width + cell - 1) / cell }

func (g *grid) put(key string, x, y int) {
	cells := g.keys[key]
	if cells == nil {
		cells = make([]image.Rectangle, g.across()*((g.height+cell-1)/cell))
		g.keys[key] = cells
		g.order = append(g.order, key)
	}
	c := &cells[y/cell*g.across()+x/cell]
	*c = c.Union(image.Rect(x, y, x+1, y+1))
}

// boxes are around cells that lie near each other.
func (g *grid) boxes() (out []Box, more int) {
	across := g.across()
	for _, key := range g.order {
		cells := g.keys[key]
		done := make([]bool, len(cells))
		for i, c := range cells {
			if c.Empty() || done[i] {
				continue
			}
			box := c
			done[i] = true
			for next := []int{i}; len(next) > 0; {
				at := next[len(next)-1]
				next = next[:len(next)-1]
				box = box.Union(cells[at])
				for dy := -joined; dy <= joined; dy++ {
					for dx := -joined; dx <= joined; dx++ {
						x, y := at%across+dx, at/across+dy
						if n := y*across + x; x >= 0 && y >= 0 && x < across && n < len(cells) && !done[n] && !cells[n].Empty() {
							done[n] = true
							next = append(next, n)
						}
					}
				}
			}
			if speck(box) && slices.ContainsFunc(cells, func(c image.Rectangle) bool { return !speck(c) }) {
				continue // an edge between two others that looks like it
			}
			if len(out) == mostBoxes {
				more++
				continue
			}
			w, h := float64(g.width), float64(g.height)
			out = append(out, Box{key, float64(box.Min.X) / w, float64(box.Min.Y) / h, float64(box.Dx()) / w, float64(box.Dy()) / h})
		}
	}
	return out, more
}

// speck says whether a place is so small that it is a color's only where nothing else is.
func speck(r image.Rectangle) bool { return r.Dx()*r.Dy() < 16 }

func differs(a, b []uint8) bool { return apart(a[0], b[0]) || apart(a[1], b[1]) || apart(a[2], b[2]) }

func apart(a, b uint8) bool { return max(a, b)-min(a, b) > seen }

// edge is the found color that a pixel is of which it covers in part, as at the edges of letters: what the pixel changed by then lies on
// the line between the color and its code. Empty where that is not clear.
func edge(was, is color.RGB8, codes []Code) string {
	line := func(a, b color.RGB8) [3]float64 {
		return [3]float64{float64(b.R) - float64(a.R), float64(b.G) - float64(a.G), float64(b.B) - float64(a.B)}
	}
	dot := func(a, b [3]float64) float64 { return a[0]*b[0] + a[1]*b[1] + a[2]*b[2] }
	by := line(was, is)
	if dot(by, by) < 40*40 {
		return ""
	}
	key, best, second := "", 0.0, 0.0
	for _, c := range codes {
		mine := 0.0
		all := line(c.Was, c.RGB)
		if l := dot(all, all); l >= dot(by, by)*0.98 { // it cannot change by more than all of it
			mine = dot(by, all) / math.Sqrt(l*dot(by, by))
		}
		if mine > best {
			key, best, second = c.Key, mine, best
		} else {
			second = max(second, mine)
		}
	}
	if best < 0.99 || best-second < 0.005 {
		return ""
	}
	return key
}

// near says whether no channel of two colors differs by more.
func near(a, b color.RGB8, most uint8) bool {
	return max(a.R, b.R)-min(a.R, b.R) <= most && max(a.G, b.G)-min(a.G, b.G) <= most && max(a.B, b.B)-min(a.B, b.B) <= most
}
