package swatchfile

import (
	"bytes"
	"encoding/csv"
	"encoding/json"
	"fmt"
	"slices"
	"strconv"
	"strings"

	"huekeep/core/color"
	"huekeep/core/library"
)

// Box is one field of a video application that a color is typed into.
type Box struct {
	Number int // from 1
	Color  library.Color
}

// InBoxes puts the colors of an edition into the boxes of an application: those that were placed by hand first, a color in several boxes
// among them, then the rest in the order of the set, as far as there are boxes.
func InBoxes(e library.Edition) ([]Box, error) {
	if len(e.Colors) == 0 {
		return nil, fmt.Errorf("the set %s holds no colors", e.Set)
	}
	var out []Box
	used := map[int]bool{}
	put := func(i int) {
		if i >= 0 && (e.Boxes.Count == 0 || len(out) < e.Boxes.Count) {
			used[i] = true
			out = append(out, Box{len(out) + 1, e.Colors[i]})
		}
	}
	for _, r := range e.Boxes.Order {
		put(slices.IndexFunc(e.Colors, r.Is))
	}
	for i := range e.Colors {
		if !used[i] {
			put(i)
		}
	}
	return out, nil
}

// boxesLose is what does not fit into the boxes.
func boxesLose(e library.Edition) []lost {
	all := e
	all.Boxes.Count = 0
	boxes, _ := InBoxes(all) // of a set without colors there are none
	if left := len(boxes) - e.Boxes.Count; e.Boxes.Count > 0 && left > 0 {
		return []lost{{"colors beyond the boxes", fmt.Sprintf("The application has %d boxes; the last %s of the order are left out",
			e.Boxes.Count, count(left, "color"))}}
	}
	return nil
}

func videoLoses(format string) func(library.Edition) []lost {
	return func(e library.Edition) []lost { return append(boxesLose(e), printValuesLost(e, format)...) }
}

// WriteVideoCSV writes a table of digital code values: R'G'B', and Y'CbCr of BT.601, BT.709 and BT.2020 with 8 and 10 bits in narrow
// and full range, with what leaves the tolerance of EBU R 103.
func WriteVideoCSV(e library.Edition) ([]byte, error) {
	boxes, err := InBoxes(e)
	if err != nil {
		return nil, err
	}
	head := []string{"box", "name", "hex", "R", "G", "B"}
	for _, f := range color.VideoForms {
		name := fmt.Sprintf("%s %d bit %s", f.System, f.Bits, map[bool]string{false: "narrow", true: "full"}[f.Full])
		head = append(head, name+" Y", name+" Cb", name+" Cr")
	}
	head = append(head, "EBU R 103")
	var b bytes.Buffer
	w := csv.NewWriter(&b)
	_ = w.Write(head) // a buffer takes every write
	for _, box := range boxes {
		c, exact := box.Color.RGB, box.Color.Screen()
		row := []string{itoa(box.Number), guarded(box.Color.Name), c.Hex(), itoa(int(c.R)), itoa(int(c.G)), itoa(int(c.B))}
		var problems []string
		for _, f := range color.VideoForms {
			codes := f.CodesOf(c, exact)
			for _, v := range codes {
				row = append(row, itoa(v))
			}
			for _, p := range f.Problems(codes) {
				problems = append(problems, fmt.Sprintf("%s %d bit: %s", f.System, f.Bits, p))
			}
		}
		verdict := "within"
		if len(problems) > 0 {
			verdict = "outside: " + strings.Join(problems, "; ")
		}
		_ = w.Write(append(row, verdict))
	}
	w.Flush()
	return b.Bytes(), nil
}

// sampleSeconds is how long each color of a subtitle file is seen.
const sampleSeconds = 2

func moment(seconds int, point string) string {
	return fmt.Sprintf("%02d:%02d:%02d%s000", seconds/3600, seconds/60%60, seconds%60, point)
}

// WriteWebVTT writes styles for subtitles (WebVTT, 2019): for each color a class for type and one for the ground, and a line in each.
func WriteWebVTT(e library.Edition) ([]byte, error) {
	boxes, err := InBoxes(e)
	if err != nil {
		return nil, err
	}
	names := boxNames(boxes, variableName)
	var b strings.Builder
	if e.Before(5) {
		fmt.Fprintf(&b, "WEBVTT\n\nNOTE %s\n\nSTYLE\n", noArrow(e.Title()))
	} else {
		// A line may end with CR, LF or both (WebVTT, 4.1). Some programs stop at a block of styles; those take two CR for one end of a
		// line, and pass over the block with the header.
		fmt.Fprintf(&b, "WEBVTT %s\r\rSTYLE\n", noArrow(e.Title()))
	}
	for i, box := range boxes {
		fmt.Fprintf(&b, "::cue(.%s) { color: %s; }\n::cue(.on-%s) { background-color: %s; }\n", names[i], box.Color.RGB.Hex(), names[i],
			box.Color.RGB.Hex())
	}
	for i, box := range boxes {
		fmt.Fprintf(&b, "\n%s --> %s\n<c.%s>%s</c>\n", moment(i*sampleSeconds, "."), moment((i+1)*sampleSeconds, "."), names[i],
			escaped(noArrow(box.Color.Name)))
	}
	return []byte(b.String()), nil
}

// noArrow keeps a text from being read as a time line.
func noArrow(s string) string { return oneLine(strings.ReplaceAll(s, "-->", "->")) }

func boxNames(boxes []Box, name func(string) string) []string {
	names := make([]string, len(boxes))
	for i, b := range boxes {
		names[i] = name(b.Color.Name)
	}
	return distinct(names)
}

// WriteTTML writes styles for subtitles (TTML 2): for each color one for type and one for the ground, and a line in each.
func WriteTTML(e library.Edition) ([]byte, error) {
	boxes, err := InBoxes(e)
	if err != nil {
		return nil, err
	}
	names := boxNames(boxes, variableName)
	var b strings.Builder
	fmt.Fprintf(&b, `<?xml version="1.0" encoding="UTF-8"?>
<tt xmlns="http://www.w3.org/ns/ttml" xmlns:ttm="http://www.w3.org/ns/ttml#metadata" xmlns:tts="http://www.w3.org/ns/ttml#styling" xml:lang="en">
  <head>
    <metadata><ttm:title>%s</ttm:title></metadata>
    <styling>
`, escaped(e.Title()))
	for i, box := range boxes {
		fmt.Fprintf(&b, "      <style xml:id=\"%s\" tts:color=\"%s\"/>\n      <style xml:id=\"on-%s\" tts:backgroundColor=\"%s\"/>\n",
			names[i], box.Color.RGB.Hex(), names[i], box.Color.RGB.Hex())
	}
	b.WriteString("    </styling>\n  </head>\n  <body><div>\n")
	for i, box := range boxes {
		fmt.Fprintf(&b, "    <p begin=\"%s\" end=\"%s\" style=\"%s\">%s</p>\n", moment(i*sampleSeconds, "."),
			moment((i+1)*sampleSeconds, "."), names[i], escaped(box.Color.Name))
	}
	b.WriteString("  </div></body>\n</tt>\n")
	return []byte(b.String()), nil
}

// WriteASS writes styles for subtitles (SubStation): one of each color, and a line in each.
func WriteASS(e library.Edition) ([]byte, error) {
	boxes, err := InBoxes(e)
	if err != nil {
		return nil, err
	}
	names := boxNames(boxes, assName)
	var b strings.Builder
	fmt.Fprintf(&b, "[Script Info]\nTitle: %s\nScriptType: v4.00+\nPlayResX: 1920\nPlayResY: 1080\n\n[V4+ Styles]\n", oneLine(e.Title()))
	b.WriteString("Format: Name, Fontname, Fontsize, PrimaryColour, SecondaryColour, OutlineColour, BackColour, Bold, Italic, Underline, StrikeOut, ScaleX, ScaleY, Spacing, Angle, BorderStyle, Outline, Shadow, Alignment, MarginL, MarginR, MarginV, Encoding\n")
	for i, box := range boxes {
		c := box.Color.RGB // the format writes alpha, blue, green, red
		v := fmt.Sprintf("&H00%02X%02X%02X", c.B, c.G, c.R)
		fmt.Fprintf(&b, "Style: %s,Arial,96,%s,%s,&H00000000,&H00000000,-1,0,0,0,100,100,0,0,1,0,0,5,96,96,54,1\n", names[i], v, v)
	}
	b.WriteString("\n[Events]\nFormat: Layer, Start, End, Style, Name, MarginL, MarginR, MarginV, Effect, Text\n")
	for i, box := range boxes {
		at := func(s int) string { return fmt.Sprintf("%d:%02d:%02d.00", s/3600, s/60%60, s%60) }
		fmt.Fprintf(&b, "Dialogue: 0,%s,%s,%s,,0,0,0,,%s\n", at(i*sampleSeconds), at((i+1)*sampleSeconds), names[i],
			assText(box.Color.Name))
	}
	return []byte(b.String()), nil
}

// assName is a style's name: a comma would end it, and an asterisk in front means another style.
func assName(name string) string {
	name = strings.TrimLeft(oneLine(strings.ReplaceAll(name, ",", " ")), "* ")
	if name == "" {
		return "Color"
	}
	return name
}

// assLoses is what subtitles leave out, and which styles could not be named like their colors.
func assLoses(e library.Edition) []lost {
	out := videoLoses("Subtitles")(e)
	boxes, err := InBoxes(e)
	if err != nil {
		return out
	}
	for i, name := range boxNames(boxes, assName) {
		if was := boxes[i].Color.Name; name != was {
			out = append(out, lost{"some names",
				fmt.Sprintf("A style's name has no comma, no asterisk in front, and stands once; that of %s is %s", was, name)})
		}
	}
	return out
}

// assText keeps a name from being read as an instruction.
func assText(s string) string {
	return strings.NewReplacer("{", "(", "}", ")", "\\", "/").Replace(oneLine(s))
}

// WriteMLT writes a producer of each color, one behind the other, for editors that read MLT XML.
func WriteMLT(e library.Edition) ([]byte, error) {
	boxes, err := InBoxes(e)
	if err != nil {
		return nil, err
	}
	const frames = 25 * sampleSeconds
	names := boxNames(boxes, variableName)
	var b strings.Builder
	fmt.Fprintf(&b, "<?xml version=\"1.0\" encoding=\"utf-8\"?>\n<mlt title=\"%s\">\n  <profile description=\"HD 1080p 25 fps\" width=\"1920\" height=\"1080\" progressive=\"1\" sample_aspect_num=\"1\" sample_aspect_den=\"1\" display_aspect_num=\"16\" display_aspect_den=\"9\" frame_rate_num=\"25\" frame_rate_den=\"1\" colorspace=\"709\"/>\n", escaped(e.Entry()))
	if said := inside(e); said != "" {
		fmt.Fprintf(&b, "  <!--%s -->\n", strings.ReplaceAll(said, "--", "- -"))
	}
	for i, box := range boxes {
		fmt.Fprintf(&b, "  <producer id=\"%s\" title=\"%s\" in=\"0\" out=\"%d\">\n    <property name=\"mlt_service\">color</property>\n    <property name=\"resource\">%s</property>\n    <property name=\"length\">%d</property>\n  </producer>\n",
			names[i], escaped(box.Color.Name), frames-1, box.Color.RGB.Hex(), frames)
	}
	b.WriteString("  <playlist id=\"" + distinct(append(slices.Clone(names), "colors"))[len(names)] + "\">\n")
	for _, n := range names {
		fmt.Fprintf(&b, "    <entry producer=\"%s\" in=\"0\" out=\"%d\"/>\n", n, frames-1)
	}
	b.WriteString("  </playlist>\n</mlt>\n")
	return []byte(b.String()), nil
}

// WriteLottie writes animation JSON (Lottie Animation Community format 1.0): one composition with a solid and a shape of each color,
// and a title in the first one.
func WriteLottie(e library.Edition) ([]byte, error) {
	boxes, err := InBoxes(e)
	if err != nil {
		return nil, err
	}
	const width, height, rate = 1920, 1080, 25
	end := sampleSeconds * rate * len(boxes)
	still := func(v any) map[string]any { return map[string]any{"a": 0, "k": v} }
	at := func(x, y float64) map[string]any {
		return map[string]any{"o": still(100), "r": still(0), "p": still([]float64{x, y, 0}), "a": still([]float64{0, 0, 0}),
			"s": still([]float64{100, 100, 100})}
	}
	unit := func(c color.RGB8) []float64 {
		return []float64{round(float64(c.R)/255, 6), round(float64(c.G)/255, 6), round(float64(c.B)/255, 6), 1}
	}
	var layers []any
	layer := func(kind int, name string, from, to int, more map[string]any) {
		l := map[string]any{"ty": kind, "ind": len(layers) + 1, "nm": name, "ip": from, "op": to, "st": 0, "ks": at(0, 0), "bm": 0, "sr": 1}
		for k, v := range more {
			l[k] = v
		}
		layers = append(layers, l)
	}
	first := boxes[0].Color
	layer(5, "Title", 0, end, map[string]any{"ks": at(96, 160), "t": map[string]any{"d": map[string]any{"k": []any{map[string]any{"t": 0,
		"s": map[string]any{"s": 72, "f": "House", "t": oneLine(e.Title()), "ca": 0, "j": 0, "tr": 0, "lh": 86, "ls": 0,
			"fc": unit(first.RGB)[:3]}}}}, "p": map[string]any{},
		"m": map[string]any{"g": 1, "a": still([]float64{0, 0})}, "a": []any{}}})
	for i, box := range boxes {
		w := float64(width-192) / float64(len(boxes))
		layer(4, box.Color.Name+", shape", 0, end, map[string]any{"ks": at(96+w*(float64(i)+0.5), 900),
			"shapes": []any{map[string]any{"ty": "gr", "nm": box.Color.Name, "it": []any{
				map[string]any{"ty": "rc", "nm": "Area", "p": still([]float64{0, 0}), "s": still([]float64{round(w, 2), 180}),
					"r": still(0)},
				map[string]any{"ty": "fl", "nm": box.Color.Name, "c": still(unit(box.Color.RGB)), "o": still(100), "r": 1},
				map[string]any{"ty": "tr", "p": still([]float64{0, 0}), "a": still([]float64{0, 0}), "s": still([]float64{100, 100}),
					"r": still(0), "o": still(100)}}}}})
	}
	for i, box := range boxes {
		layer(1, box.Color.Name, i*sampleSeconds*rate, (i+1)*sampleSeconds*rate, map[string]any{"sc": strings.ToLower(box.Color.RGB.Hex()),
			"sw": width, "sh": height})
	}
	out, err := json.MarshalIndent(map[string]any{
		"v": "5.7.0", "fr": rate, "ip": 0, "op": end, "w": width, "h": height, "nm": e.Entry(), "ddd": 0,
		"fonts":  map[string]any{"list": []any{map[string]any{"fName": "House", "fFamily": "Arial", "fStyle": "Bold", "ascent": 75}}},
		"assets": []any{map[string]any{"id": "colors", "nm": e.Set, "layers": layers}},
		"layers": []any{map[string]any{"ty": 0, "ind": 1, "nm": e.Set, "refId": "colors", "ip": 0, "op": end, "st": 0, "w": width,
			"h": height, "ks": at(0, 0), "bm": 0, "sr": 1}},
	}, "", "  ")
	return append(out, '\n'), err
}

// WriteJSON writes names and values, for whoever reads them with a program of their own. Builds and inks are those that a person approved.
func WriteJSON(e library.Edition) ([]byte, error) {
	if len(e.Colors) == 0 {
		return nil, fmt.Errorf("the set %s holds no colors", e.Set)
	}
	list := []any{}
	for _, c := range e.Colors {
		o := object{{"name", c.Name}, {"hex", c.RGB.Hex()}, {"rgb", []any{c.RGB.R, c.RGB.G, c.RGB.B}}}
		if wide := c.CSS(); wide != "" && !e.Before(6) {
			o = append(o, member{"wide", wide})
		}
		for _, m := range []struct{ key, text string }{{"group", c.Group}, {"role", string(c.Role)}, {"rule", c.Rule}} {
			if m.text != "" {
				o = append(o, member{m.key, m.text})
			}
		}
		builds, inks := object{}, object{}
		for _, b := range c.Builds {
			builds = append(builds, member{b.Press, b.Value.Array()})
		}
		for _, s := range c.Spots {
			inks = append(inks, member{s.Stock, s.Code})
		}
		if len(builds) > 0 {
			o = append(o, member{"cmyk", builds})
		}
		if len(inks) > 0 {
			o = append(o, member{"inks", inks})
		}
		list = append(list, o)
	}
	root := object{{"house", e.House}, {"set", e.Set}}
	if e.Number > 0 {
		root = append(root, member{"edition", json.Number(strconv.Itoa(e.Number))}, member{"fixed", stamp(e.FixedAt)})
	}
	return indented(append(root, member{"colors", list}))
}
