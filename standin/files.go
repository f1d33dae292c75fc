package standin

import (
	"archive/tar"
	"archive/zip"
	"bytes"
	"compress/gzip"
	"compress/zlib"
	"encoding/csv"
	"encoding/hex"
	"encoding/json"
	"encoding/xml"
	"errors"
	"fmt"
	"image/png"
	"io"
	"math"
	"path"
	"regexp"
	"strconv"
	"strings"

	"huekeep/outside"
)

var hexValue = regexp.MustCompile(`#[0-9A-Fa-f]{6}\b`)

// seen collects values, each once, in the order in which they come.
type seen struct {
	list []outside.Taken
	has  map[outside.Taken]bool
}

func (s *seen) add(slot, hex string) {
	t := outside.Taken{Slot: slot, Hex: strings.ToUpper(hex)}
	if s.has == nil {
		s.has = map[outside.Taken]bool{}
	}
	if !s.has[t] {
		s.has[t] = true
		s.list = append(s.list, t)
	}
}

// readMarkup takes every value of six digits in a text.
func readMarkup(data []byte) (outside.Receipt, error) {
	var s seen
	for _, m := range hexValue.FindAll(data, -1) {
		s.add("", string(m))
	}
	return outside.Receipt{Colors: s.list}, nil
}

var (
	leadRemark = regexp.MustCompile(`(?s)^\s*/\*\s*(.*?)\s*\*/`)
	rootRule   = regexp.MustCompile(`(?s)(?::root|@theme)\s*\{(.*?)\}`)
	rootValue  = regexp.MustCompile(`--([\p{L}\p{N}-]+)\s*:\s*(#[0-9A-Fa-f]{6})\s*;`)
)

// readStyles takes the custom properties of :root, or of a theme block.
func readStyles(data []byte) (outside.Receipt, error) {
	var r outside.Receipt
	if m := leadRemark.FindSubmatch(data); m != nil {
		r.Title = string(m[1])
	}
	root := rootRule.FindSubmatch(data)
	if root == nil {
		return r, errors.New("it has no :root rule")
	}
	for _, m := range rootValue.FindAllSubmatch(root[1], -1) {
		r.Colors = append(r.Colors, outside.Taken{Slot: "--" + string(m[1]), Hex: strings.ToUpper(string(m[2]))})
	}
	return r, nil
}

// mostStyles is how large a style sheet of a package may be.
const mostStyles = 16 << 20

// readPackage takes the style sheet that a package for bundlers exports.
func readPackage(data []byte) (outside.Receipt, error) {
	z, err := gzip.NewReader(bytes.NewReader(data))
	if err != nil {
		return outside.Receipt{}, err
	}
	for t := tar.NewReader(z); ; {
		h, err := t.Next()
		if errors.Is(err, io.EOF) {
			return outside.Receipt{}, errors.New("it exports no colors.css")
		} else if err != nil {
			return outside.Receipt{}, err
		}
		if h.Name == "package/colors.css" {
			css, err := io.ReadAll(io.LimitReader(t, mostStyles))
			if err != nil {
				return outside.Receipt{}, err
			}
			return readStyles(css)
		}
	}
}

// readBoxes takes a table of values, a row a box.
func readBoxes(data []byte) (outside.Receipt, error) {
	rows, err := csv.NewReader(bytes.NewReader(data)).ReadAll()
	if err != nil {
		return outside.Receipt{}, err
	}
	var r outside.Receipt
	for i, row := range rows {
		if i == 0 {
			continue
		}
		var v [3]int
		for k := range v {
			if len(row) < 6 {
				return r, fmt.Errorf("row %d has %d columns", i+1, len(row))
			}
			if v[k], err = strconv.Atoi(row[3+k]); err != nil {
				return r, fmt.Errorf("row %d: %w", i+1, err)
			}
		}
		r.Colors = append(r.Colors, outside.Taken{Slot: "box " + row[0], Hex: fmt.Sprintf("#%02X%02X%02X", v[0], v[1], v[2])})
	}
	return r, nil
}

// readPicture takes the colors of flat areas.
func readPicture(data []byte) (outside.Receipt, error) {
	head, err := png.DecodeConfig(bytes.NewReader(data))
	if err != nil {
		return outside.Receipt{}, err
	}
	if head.Width*head.Height > 40e6 {
		return outside.Receipt{}, fmt.Errorf("it is %d by %d pixels large", head.Width, head.Height)
	}
	img, err := png.Decode(bytes.NewReader(data))
	if err != nil {
		return outside.Receipt{}, err
	}
	var s seen
	b := img.Bounds()
	for y := b.Min.Y + 4; y < b.Max.Y; y += 8 {
		run, last := 0, ""
		for x := b.Min.X; x < b.Max.X; x++ {
			r, g, bl, _ := img.At(x, y).RGBA()
			hex := fmt.Sprintf("#%02X%02X%02X", r>>8, g>>8, bl>>8)
			if run++; hex != last {
				run, last = 0, hex
			}
			if run == 8 {
				s.add("", hex)
			}
		}
	}
	return outside.Receipt{Colors: s.list}, nil
}

var subStationStyle = regexp.MustCompile(`(?m)^Style: ([^,]*),[^,]*,[^,]*,&H00([0-9A-F]{2})([0-9A-F]{2})([0-9A-F]{2})`)

// readSubStation takes the styles of subtitles, which write blue first.
func readSubStation(data []byte) (outside.Receipt, error) {
	var r outside.Receipt
	for _, m := range subStationStyle.FindAllStringSubmatch(string(data), -1) {
		r.Colors = append(r.Colors, outside.Taken{Slot: m[1], Hex: "#" + m[4] + m[3] + m[2]})
	}
	return r, nil
}

// readAnimation takes the solids of an animation's compositions.
func readAnimation(data []byte) (outside.Receipt, error) {
	var file struct {
		Assets []struct {
			Layers []struct {
				Name  string `json:"nm"`
				Solid string `json:"sc"`
			} `json:"layers"`
		} `json:"assets"`
	}
	if err := json.Unmarshal(data, &file); err != nil {
		return outside.Receipt{}, err
	}
	var r outside.Receipt
	for _, a := range file.Assets {
		for _, l := range a.Layers {
			if l.Solid != "" {
				r.Colors = append(r.Colors, outside.Taken{Slot: l.Name, Hex: strings.ToUpper(l.Solid)})
			}
		}
	}
	return r, nil
}

var (
	pdfStream = regexp.MustCompile(`(?s)stream\r?\n(.*?)\r?\nendstream`)
	pdfInk    = regexp.MustCompile(`/Separation\s*/([^\s/\[\]<>()]+)`)
	pdfRGB    = regexp.MustCompile(`(?m)([\d.]+) ([\d.]+) ([\d.]+) rg\b`)
	pdfEscape = regexp.MustCompile(`#[0-9A-Fa-f]{2}`)
)

// readPDF takes the values that areas have on the pages, and the inks that have plates.
func readPDF(data []byte) (outside.Receipt, error) {
	if !bytes.HasPrefix(data, []byte("%PDF-")) {
		return outside.Receipt{}, errors.New("it is no PDF")
	}
	var s seen
	for _, m := range pdfInk.FindAllSubmatch(data, -1) {
		name := pdfEscape.ReplaceAllStringFunc(string(m[1]), func(code string) string {
			b, err := hex.DecodeString(code[1:])
			if err != nil {
				return code
			}
			return string(b)
		})
		if name != "All" {
			s.list = append(s.list, outside.Taken{Slot: name})
		}
	}
	for _, m := range pdfStream.FindAllSubmatch(data, -1) {
		z, err := zlib.NewReader(bytes.NewReader(m[1]))
		if err != nil {
			continue
		}
		content, err := io.ReadAll(io.LimitReader(z, 32<<20))
		if err != nil {
			continue
		}
		for _, c := range pdfRGB.FindAllSubmatch(content, -1) {
			out := "#"
			for _, v := range c[1:] {
				f, err := strconv.ParseFloat(string(v), 64)
				if err != nil {
					return outside.Receipt{}, err
				}
				out += fmt.Sprintf("%02X", int(math.Round(f*255)))
			}
			s.add("", out)
		}
	}
	return outside.Receipt{Colors: s.list}, nil
}

// readExchange takes the objects of a color exchange file.
func readExchange(data []byte) (outside.Receipt, error) {
	var file struct {
		Objects []struct {
			Name   string `xml:",attr"`
			Values struct {
				RGB struct{ R, G, B int } `xml:"ColorSRGB"`
			} `xml:"ColorValues"`
		} `xml:"Resources>ObjectCollection>Object"`
	}
	if err := xml.Unmarshal(data, &file); err != nil {
		return outside.Receipt{}, err
	}
	var r outside.Receipt
	for _, o := range file.Objects {
		v := o.Values.RGB
		r.Colors = append(r.Colors, outside.Taken{Slot: o.Name, Hex: fmt.Sprintf("#%02X%02X%02X", v.R, v.G, v.B)})
	}
	return r, nil
}

// archive opens parts of a ZIP.
type parts struct{ *zip.Reader }

func open(data []byte) (parts, error) {
	z, err := zip.NewReader(bytes.NewReader(data), int64(len(data)))
	return parts{z}, err
}

func (p parts) read(name string) ([]byte, error) {
	f, err := p.Open(name)
	if err != nil {
		return nil, err
	}
	defer f.Close()
	return io.ReadAll(io.LimitReader(f, 32<<20))
}

func (p parts) xml(name string, to any) error {
	data, err := p.read(name)
	if err == nil {
		err = xml.Unmarshal(data, to)
	}
	return err
}

// follow finds the part that another points to by a kind of relationship (ECMA-376 part 2, 9.3).
func (p parts) follow(from, kind string) (string, error) {
	var r struct {
		List []struct {
			Type   string `xml:",attr"`
			Target string `xml:",attr"`
		} `xml:"Relationship"`
	}
	folder, file := path.Split(from)
	if err := p.xml(path.Join(folder, "_rels", file+".rels"), &r); err != nil {
		return "", err
	}
	for _, x := range r.List {
		if strings.HasSuffix(x.Type, "/"+kind) {
			return path.Join(path.Dir(from), x.Target), nil
		}
	}
	return "", fmt.Errorf("%s has no %s", from, kind)
}

// readOffice follows a presentation, workbook or document to its theme and takes the twelve slots.
func readOffice(data []byte) (outside.Receipt, error) {
	z, err := open(data)
	if err != nil {
		return outside.Receipt{}, err
	}
	main, err := z.follow("", "officeDocument")
	if err != nil {
		return outside.Receipt{}, err
	}
	from := main
	if strings.HasPrefix(main, "ppt/") { // the slides have theirs from their master
		if from, err = z.follow(main, "slideMaster"); err != nil {
			return outside.Receipt{}, err
		}
	}
	part, err := z.follow(from, "theme")
	if err != nil {
		return outside.Receipt{}, err
	}
	theme, err := z.read(part)
	if err != nil {
		return outside.Receipt{}, err
	}
	return readTheme(theme)
}

// readTheme takes the twelve slots of a theme.
func readTheme(data []byte) (outside.Receipt, error) {
	var t struct {
		Name   string `xml:"name,attr"`
		Scheme struct {
			Slots []struct {
				XMLName xml.Name
				RGB     struct {
					Val string `xml:"val,attr"`
				} `xml:"srgbClr"`
			} `xml:",any"`
		} `xml:"themeElements>clrScheme"`
	}
	if err := xml.Unmarshal(data, &t); err != nil {
		return outside.Receipt{}, err
	}
	r := outside.Receipt{Title: t.Name}
	for _, s := range t.Scheme.Slots {
		if s.RGB.Val != "" {
			r.Colors = append(r.Colors, outside.Taken{Slot: s.XMLName.Local, Hex: "#" + strings.ToUpper(s.RGB.Val)})
		}
	}
	return r, nil
}

// readOpenDocument takes the colors of an open document's styles.
func readOpenDocument(data []byte) (outside.Receipt, error) {
	z, err := open(data)
	if err != nil {
		return outside.Receipt{}, err
	}
	var meta struct {
		Title string `xml:"meta>title"`
	}
	if err := z.xml("meta.xml", &meta); err != nil {
		return outside.Receipt{}, err
	}
	styles, err := z.read("styles.xml")
	if err != nil {
		return outside.Receipt{}, err
	}
	r, err := readMarkup(styles)
	r.Title = meta.Title
	return r, err
}
