// Package pixels finds the colors of pictures and of frames of videos, and paints areas anew.
package pixels

import (
	"bytes"
	"cmp"
	"fmt"
	"image"
	"math"
	"slices"
	"strings"

	"huekeep/core/audit"
	"huekeep/core/audit/scanning"
	"huekeep/core/color"
	"huekeep/core/picture"
	"huekeep/core/source"
)

// Pictures are read by their areas: a color counts where it stands flat. What blends two areas at their edge, or what compression left
// around them, is no color that anybody chose.

// noise is how much neighbors of one color may differ, in levels of a channel: 0 in what is kept exactly.
const (
	exactPixels = 0
	jpegNoise   = 4
	videoNoise  = 6
)

// videoSlack is how far a flat color can be off in a picture that is compressed as video is, a lossy WebP or an AVIF, in Y'CbCr.
var videoSlack = [3]float64{3, 3, 3}

type pixelArea struct {
	color  color.RGB8
	pixels int
	box    image.Rectangle
	flat   bool // it is an area, and not a cluster of many colors
	ramp   bool // it is an end of a ramp, the other one of which is to
	to     color.RGB8
}

// tally is what was counted of one color.
type tally struct {
	flat int // pixels whose neighbors to the right and below have it too
	all  int
	box  image.Rectangle // of the flat ones
}

// counted counts the colors of a picture, and its opaque and its flat pixels.
func counted(img *image.NRGBA, noise int) (counts map[color.RGB8]*tally, total, flat int) {
	counts = map[color.RGB8]*tally{}
	w, h := img.Rect.Dx(), img.Rect.Dy()
	var last color.RGB8
	var lastTally *tally
	near := func(a, b []uint8) bool {
		for i := range 3 {
			d := int(a[i]) - int(b[i])
			if d > noise || d < -noise {
				return false
			}
		}
		return b[3] >= 128
	}
	for y := range h {
		row := img.Pix[y*img.Stride:]
		for x := range w {
			px := row[4*x : 4*x+4]
			if px[3] < 128 {
				continue
			}
			total++
			c := color.RGB8{R: px[0], G: px[1], B: px[2]}
			t := lastTally
			if t == nil || c != last {
				t = counts[c]
				if t == nil {
					if len(counts) >= 1<<18 { // a photo
						continue
					}
					t = &tally{}
					counts[c] = t
				}
				last, lastTally = c, t
			}
			t.all++
			right, below := x+1 >= w || near(px, row[4*x+4:4*x+8]), y+1 >= h || near(px, img.Pix[(y+1)*img.Stride+4*x:])
			if right && below {
				flat++
				t.flat++
				t.box = t.box.Union(image.Rect(x, y, x+1, y+1))
			}
		}
	}
	return counts, total, flat
}

// flatAreas are the colors of a picture that is flat for the most part; of those that compression tore apart, the most frequent stands for
// all.
func flatAreas(img *image.NRGBA, counts map[color.RGB8]*tally, total, noise int) (out []pixelArea, covers int) {
	keys := make([]color.RGB8, 0, len(counts))
	for c, t := range counts {
		if t.flat > 0 {
			keys = append(keys, c)
		}
	}
	slices.SortFunc(keys, func(a, b color.RGB8) int {
		if d := counts[b].flat - counts[a].flat; d != 0 {
			return d
		}
		return bytes.Compare([]byte{a.R, a.G, a.B}, []byte{b.R, b.G, b.B})
	})
	least := max(9, total/20_000)
	if img.Rect.Dx()*img.Rect.Dy() < 64 { // a picture of a few pixels
		least = 1
	}
	for _, c := range keys {
		t := counts[c]
		if noise > 0 {
			at := slices.IndexFunc(out, func(a pixelArea) bool { return audit.Farthest(a.color, c) <= 3*noise })
			if at >= 0 {
				out[at].pixels += t.all
				covers += t.all
				continue
			}
		}
		if t.flat < least {
			if noise == 0 {
				break
			}
			continue
		}
		if len(out) < mostAreas {
			out = append(out, pixelArea{color: c, pixels: t.all, box: grown(t.box, img.Rect), flat: true})
			covers += t.all
		}
	}
	return out, covers
}

// areas finds the colors of a picture, the largest first. Where it is flat for the most part, they are exact values; what is not, such as
// a photo or a gradient, comes as a few colors that stand for many.
func areas(img *image.NRGBA, noise int) []pixelArea {
	counts, total, flat := counted(img, noise)
	if total == 0 {
		return nil
	}
	var out []pixelArea
	covers := 0
	if flat*10 >= total*3 {
		out, covers = flatAreas(img, counts, total, noise)
	}
	out = ramps(out, total)
	slices.SortStableFunc(out, func(a, b pixelArea) int { return b.pixels - a.pixels })
	for _, a := range out[min(len(out), 256):] { // the smallest
		covers -= a.pixels
	}
	out = out[:min(len(out), 256)]
	if rest := total - covers; rest*5 >= total {
		out = append(out, clusters(img, out, rest, noise)...)
	}
	slices.SortStableFunc(out, func(a, b pixelArea) int { return b.pixels - a.pixels })
	return out
}

// mostAreas is how many areas are looked at for ramps.
const mostAreas = 1024

// What a ramp is: so many bands at least, whose colors differ by so many levels from one to the next and by so many at the ends, and each
// of which is so near to the line between those. A band that is a twentieth of the picture is an area of its own; one of a single pixel is
// none, and leaves a gap.
const (
	rampBands = 12
	rampStep  = 4
	rampSpan  = 24
	rampBend  = 3
	rampShare = 20
	rampGap   = 6
)

// ramps puts the bands of a ramp from one color to another together, as its two ends: nobody chose the colors between.
func ramps(list []pixelArea, total int) (out []pixelArea) {
	group := make([]int, len(list))
	for i := range group {
		group[i] = i
	}
	var root func(i int) int
	root = func(i int) int {
		if group[i] != i {
			group[i] = root(group[i])
		}
		return group[i]
	}
	band := func(a pixelArea) bool { return a.flat && a.pixels*rampShare < total }
	// Neighbors are found by their color: bands of a ramp that have one color farther apart are not those of one ramp.
	cells := map[color.RGB8][]int{}
	cell := func(c color.RGB8, r, g, b int) color.RGB8 {
		return color.RGB8{R: uint8(int(c.R)/rampStep + r), G: uint8(int(c.G)/rampStep + g), B: uint8(int(c.B)/rampStep + b)}
	}
	for i, a := range list {
		if band(a) {
			cells[cell(a.color, 0, 0, 0)] = append(cells[cell(a.color, 0, 0, 0)], i)
		}
	}
	for i, a := range list {
		if !band(a) {
			continue
		}
		for n := range 27 {
			for _, k := range cells[cell(a.color, n%3-1, n/3%3-1, n/9-1)] {
				if k < i && audit.Farthest(a.color, list[k].color) <= rampStep && a.box.Inset(-rampGap).Overlaps(list[k].box) {
					group[root(i)] = root(k)
				}
			}
		}
	}
	bands := map[int][]pixelArea{}
	for i, a := range list {
		bands[root(i)] = append(bands[root(i)], a)
	}
	found := map[int]bool{}
	for i, its := range bands {
		_, _, found[i] = ends(its)
	}
	for i, a := range list {
		if !found[root(i)] {
			out = append(out, a)
			continue
		}
		if root(i) != i {
			continue
		}
		from, to, _ := ends(bands[i])
		one := pixelArea{color: from, to: to, ramp: true}
		for _, b := range bands[i] {
			one.pixels += b.pixels
			one.box = one.box.Union(b.box)
		}
		other := one
		other.color, other.to, other.pixels = to, from, one.pixels/2
		one.pixels -= other.pixels
		out = append(out, one, other)
	}
	return out
}

// ends are the ends of a ramp; not ok where the bands are none.
func ends(bands []pixelArea) (from, to color.RGB8, ok bool) {
	if len(bands) < rampBands {
		return from, to, false
	}
	away := func(c color.RGB8) (most color.RGB8) {
		most = c
		for _, b := range bands {
			if d := audit.Farthest(b.color, c); d > audit.Farthest(most, c) || d == audit.Farthest(most, c) &&
				bytes.Compare([]byte{b.color.R, b.color.G, b.color.B}, []byte{most.R, most.G, most.B}) < 0 {
				most = b.color
			}
		}
		return most
	}
	from = away(bands[0].color)
	to = away(from)
	if audit.Farthest(from, to) < rampSpan {
		return from, to, false
	}
	at := func(c color.RGB8) [3]float64 { return [3]float64{float64(c.R), float64(c.G), float64(c.B)} }
	a, b := at(from), at(to)
	long := 0.0
	for i := range a {
		long += (b[i] - a[i]) * (b[i] - a[i])
	}
	for _, band := range bands {
		c, along := at(band.color), 0.0
		for i := range a {
			along += (c[i] - a[i]) * (b[i] - a[i]) / long
		}
		for i := range a {
			if math.Abs(a[i]+along*(b[i]-a[i])-c[i]) > rampBend {
				return from, to, false
			}
		}
	}
	return from, to, true
}

// grown is a box of flat pixels with those at its right and lower edge, which have another neighbor.
func grown(box, whole image.Rectangle) image.Rectangle {
	box.Max = box.Max.Add(image.Pt(1, 1))
	return box.Intersect(whole.Sub(whole.Min))
}

// clusters are a few colors that stand for all that is no flat area.
func clusters(img *image.NRGBA, areas []pixelArea, pixels, noise int) (out []pixelArea) {
	rest := image.NewNRGBA(img.Rect)
	copy(rest.Pix, img.Pix)
	known := map[color.RGB8]bool{}
	for _, a := range areas {
		known[a.color] = true
	}
	if len(areas) > 0 {
		for i := 0; i+3 < len(rest.Pix); i += 4 {
			c := color.RGB8{R: rest.Pix[i], G: rest.Pix[i+1], B: rest.Pix[i+2]}
			if known[c] || noise > 0 && slices.ContainsFunc(areas,
				func(a pixelArea) bool { return audit.Farthest(a.color, c) <= 3*noise }) {
				rest.Pix[i+3] = 0
			}
		}
	}
	list, err := picture.Colors(rest, 12)
	if err != nil {
		return nil
	}
	for _, a := range list {
		if n := int(math.Round(a.Share * float64(pixels))); n > 0 {
			out = append(out, pixelArea{color: a.Color, pixels: n, box: image.Rectangle{Min: a.At, Max: a.At.Add(image.Pt(1, 1))}})
		}
	}
	return out
}

// ScanPicture reads a picture; place is its own name, or where a document shows it.
func ScanPicture(s *scanning.Scanner, p *source.Part, place string) (string, error) {
	return ScanDecoded(s, p, place, picture.DecodeOwn)
}

// ScanDecoded is scanPicture for a picture that is read in a way of its own.
func ScanDecoded(s *scanning.Scanner, p *source.Part, place string, decode func([]byte) (*picture.Picture, error)) (string, error) {
	data, err := p.Bytes()
	if err != nil {
		return "", err
	}
	format, _ := picture.Is(data)
	img, err := decode(data)
	if err != nil {
		return "", err
	}
	if img.Odd != "" {
		where := fmt.Sprintf("%d x %d pixels", img.Rect.Dx(), img.Rect.Dy())
		if s.Inside {
			where = place + ", " + where
		}
		s.Add(&audit.Use{Value: format + " picture", Where: where, Count: 1, Pixels: true,
			Why: strings.TrimSuffix(strings.ToLower(img.Odd[:1])+img.Odd[1:], ".")})
		return fmt.Sprintf("%d x %d pixels", img.Rect.Dx(), img.Rect.Dy()), nil
	}
	if img.Note != "" {
		s.Note("%s", img.Note)
	}
	if img.Profile != "" {
		s.Note("Converted to sRGB from its own profile, %s.", img.Profile)
	}
	var paint *painting
	fixed := img.Kept()
	if fixed == "" {
		paint = &painting{part: p}
	}
	lossy := format == "AVIF" || format == "WebP" && picture.Lossy(data)
	in := *s
	shown, codes := img.Exact()
	if in.Codes = img.Codes; in.Codes != nil {
		s.Note("One step of the picture's own values counts as the color itself: in sRGB it may be more.")
	}
	switch {
	case format == "JPEG":
		in.Slack = jpegSlack(data)
	case lossy:
		in.Slack = videoSlack
	}
	in.Exact = codes != nil
	first := FrameColors(&in, shown, place, paint, fixed)
	about := fmt.Sprintf("%d x %d pixels", img.Rect.Dx(), img.Rect.Dy())
	n := picture.Frames(data)
	if n == 1 {
		return about, nil
	}
	what := "frame"
	if format == "TIFF" {
		what = "page"
	}
	looked, err := later(&in, data, what, n, first, place, paint, fixed)
	switch {
	case err != nil:
		if err := s.Watch.At(place, -1); err != nil { // it was given up
			return "", err
		}
		s.Unread(place, fmt.Errorf("not all of its %s were looked at: %w", audit.Plural(n, what), err))
	case format != "TIFF" && looked < n:
		s.Note("%d of its %s were looked at, evenly spread.", looked, audit.Plural(n, what))
	}
	return about + ", " + audit.Plural(n, what), nil
}

// later looks at the frames or pages behind the first, says how many there were with it, and reports the colors of pages, and those of
// frames that none before them shows.
func later(s *scanning.Scanner, data []byte, what string, of int, seen map[color.RGB8]bool, place string, paint *painting,
	fixed string) (looked int, err error) {
	looked = 1
	err = picture.Later(data, mostFrames, func(frame picture.Frame) error {
		if err := s.Watch.At(fmt.Sprintf("%s %d of %d", what, frame.N, of), -1); err != nil {
			return err
		}
		looked++
		in := *s
		if in.Exact = frame.Codes != nil; !in.Exact {
			in.Codes = nil
		} else if in.Codes == nil || *in.Codes != *frame.Codes {
			in.Codes = frame.Codes
		}
		if frame.Lossy {
			in.Slack = videoSlack
		}
		paint, fixed := paint, cmp.Or(fixed, frame.Kept)
		if frame.Kept != "" {
			paint = nil
		}
		list := areas(frame.NRGBA, noiseOf(&in))
		for _, a := range list {
			// A page is a picture of its own. Frames show the same again and again, and what is no area of them is a photo's, another in
			// each.
			plain := Looks(a.color, exact(&in)).RGB
			if what == "page" || a.flat && !among(seen, plain, noiseOf(&in)) {
				seen[plain] = true
				shows(&in, a, covered(list), fmt.Sprintf("%s %d, ", what, frame.N), place, paint, fixed)
			}
		}
		return nil
	})
	return looked, err
}

// among says whether a color was seen, or one that is the same but for compression.
func among(seen map[color.RGB8]bool, c color.RGB8, noise int) bool {
	if noise == exactPixels || seen[c] {
		return seen[c]
	}
	for other := range seen {
		if audit.Farthest(other, c) <= 3*noise {
			return true
		}
	}
	return false
}

// exact are the codes that pixels are in; nil for those in sRGB.
func exact(s *scanning.Scanner) *picture.Codes {
	if s.Exact {
		return s.Codes
	}
	return nil
}

// noise is how much neighbors of one color differ in a picture of this compression.
func noiseOf(s *scanning.Scanner) int {
	if s.Slack != [3]float64{} {
		return jpegNoise
	}
	return exactPixels
}

// area is what so many of all pixels count: hundredths of the area, at least one; one where the picture is part of a document. So a
// picture weighs about as much as a document among the files of a project, however many pixels it has.
func areaCount(s *scanning.Scanner, pixels, all int) int {
	if s.Inside {
		return 1
	}
	return max(1, int(math.Round(100*float64(pixels)/float64(max(1, all)))))
}

// pixels reports the areas of a picture, and gives their colors.
func FrameColors(s *scanning.Scanner, img *image.NRGBA, place string, paint *painting, fixed string) map[color.RGB8]bool {
	seen := map[color.RGB8]bool{}
	list := areas(img, noiseOf(s))
	if slices.ContainsFunc(list, func(a pixelArea) bool { return a.ramp }) && !s.Ramped {
		s.Ramped = true
		s.Note("What runs evenly from one color to another in a picture is judged by its two ends.")
	}
	for _, a := range list {
		seen[Looks(a.color, exact(s)).RGB] = true
		shows(s, a, covered(list), "", place, paint, fixed)
	}
	return seen
}

// covered is how many pixels areas have.
func covered(list []pixelArea) (n int) {
	for _, a := range list {
		n += a.pixels
	}
	return n
}

// shows reports an area of a picture, of so many pixels in all.
func shows(s *scanning.Scanner, a pixelArea, all int, frame, place string, paint *painting, fixed string) {
	is := Looks(a.color, exact(s))
	where := fmt.Sprintf("%s%.1f %% of the area", frame, 100*float64(a.pixels)/float64(max(1, all)))
	switch {
	case a.ramp:
		where += fmt.Sprintf(", an end of a ramp to %s, from %d, %d to %d, %d", Looks(a.to, exact(s)).Name(), a.box.Min.X, a.box.Min.Y, a.box.Max.X,
			a.box.Max.Y)
		paint, fixed = nil, "it is an end of a ramp; the colors between would not follow"
	case a.flat:
		where += fmt.Sprintf(", from %d, %d to %d, %d", a.box.Min.X, a.box.Min.Y, a.box.Max.X, a.box.Max.Y)
		if paint != nil {
			paint.areas = append(paint.areas, painted{a.color, exact(s), is})
		}
	default:
		where += fmt.Sprintf(", around %d, %d", a.box.Min.X, a.box.Min.Y)
		paint, fixed = nil, "it is one of many colors of a photo or a gradient"
	}
	if s.Inside {
		where = place + ", " + where
	}
	more := audit.More{Slack: s.Slack, Codes: s.Codes, Area: &audit.Area{Picture: s.Prefix + place, Flat: a.flat}}
	if paint != nil {
		more.Paint = paint
	}
	s.Add(&audit.Use{
		Value: is.Name(), Color: is, Count: areaCount(s, a.pixels, all), Pixels: true, Fixed: fixed, Where: where,
		More: &more,
	})
}

// jpegSlack is how far a flat color can be off after the compression of a JPEG file, in Y'CbCr: half a step of the first coefficient of
// each table (ITU-T T.81, A.3.4: it is eight times the mean of a block), and what rounding adds.
func jpegSlack(data []byte) [3]float64 {
	steps := [2]float64{1, 1}
	for i := 2; i+4 <= len(data) && data[i] == 0xff; {
		marker := data[i+1]
		if marker == 0xda || marker == 0xd9 {
			break
		}
		n := int(data[i+2])<<8 | int(data[i+3])
		if n < 2 || i+2+n > len(data) {
			break
		}
		if marker == 0xdb {
			for t := data[i+4 : i+2+n]; len(t) >= 65; {
				id, wide := t[0]&15, t[0]>>4 != 0
				step, size := float64(t[1]), 65
				if wide {
					if len(t) < 129 {
						break
					}
					step, size = float64(int(t[1])<<8|int(t[2])), 129
				}
				if id < 2 {
					steps[id] = step
				}
				t = t[size:]
			}
		}
		i += 2 + n
	}
	return [3]float64{steps[0]/16 + 0.8, steps[1]/16 + 1, steps[1]/16 + 1}
}
