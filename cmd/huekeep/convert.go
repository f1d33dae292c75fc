package main

import (
	"bufio"
	"bytes"
	"encoding/json"
	"errors"
	"fmt"
	"io"
	"math"
	"path/filepath"
	"runtime"
	"slices"
	"strconv"
	"strings"
	"text/tabwriter"

	"github.com/spf13/cobra"

	"huekeep/core/color"
	"huekeep/core/icc"
	"huekeep/core/ink"
	"huekeep/core/library"
	"huekeep/core/limits"
	"huekeep/core/press"
)

type labJSON struct {
	L float64 `json:"l"`
	A float64 `json:"a"`
	B float64 `json:"b"`
}

// masterJSON is what decides a color.
type masterJSON struct {
	Kind  string `json:"kind"`  // screen, build, ink or reading
	Value string `json:"value"` // #0E3A53, color(display-p3 ...), cmyk(70 20 0 10) on coated, QN-0132 on coated, 35.12 14.2 -13.01
}

// decides is what decides a color of a library or a file.
func decides(c library.Color) masterJSON {
	if p, ok := c.Master.Printed(); ok {
		return masterJSON{string(c.Master.Kind), p.Typed()}
	}
	if c.Master.Kind == library.OfHex {
		return masterJSON{"screen", c.RGB.Hex()}
	}
	if lab := c.Reading(); lab != nil {
		return masterJSON{string(c.Master.Kind), library.WriteLab(*lab)}
	}
	return masterJSON{string(c.Master.Kind), c.Master.Text}
}

type convertJSON struct {
	Master masterJSON `json:"master"` // what was given
	Hex    string     `json:"hex"`
	RGB    [3]int     `json:"rgb"`
	HSL    struct {
		H float64 `json:"h"`
		S float64 `json:"s"` // percent
		L float64 `json:"l"` // percent
	} `json:"hsl"`
	OKLCH struct {
		L float64 `json:"l"` // 0 to 1
		C float64 `json:"c"`
		H float64 `json:"h"`
	} `json:"oklch"`
	YCbCr709 [3]int    `json:"ycbcr709"` // 8 bit, narrow range; the other systems and ranges by --to
	Lab      labJSON   `json:"lab"`
	CMYK     cmykJSON  `json:"cmyk"`
	Inks     []inkJSON `json:"inks"`
	Value    string    `json:"value,omitempty"` // in the notation of --to
	Alpha    *float64  `json:"alpha,omitempty"` // if the color is not opaque; everything else is of the color as if it were
	Note     string    `json:"note,omitempty"`  // what was done to a value out of range, or that it is outside sRGB

	direction string
}

type cmykJSON struct {
	Press    string  `json:"press"`
	InkLimit float64 `json:"inkLimit"` // of the press, in percent
	Origin   string  `json:"origin"`   // "given" or "derived"
	buildJSON
	Profile   *buildJSON `json:"profile,omitempty"`   // of a given build: the profile's own for what it looks like
	BlackOnly *blackJSON `json:"blackOnly,omitempty"` // of a dark neutral
}

type buildJSON struct {
	Exact     [4]float64 `json:"exact"`     // held to the ink limit
	Unlimited [4]float64 `json:"unlimited"` // as the profile gives it
	Whole     [4]float64 `json:"whole"`
	DeltaE    float64    `json:"deltaE"`  // relative to the paper
	OnPaper   float64    `json:"onPaper"` // ΔE00 with the paper's own color
	InGamut   bool       `json:"inGamut"`
	TotalInk  float64    `json:"totalInk"`
}

type blackJSON struct {
	Whole  [4]float64 `json:"whole"`
	DeltaE float64    `json:"deltaE"`
}

type inkJSON struct {
	Code   string  `json:"code"`
	Stock  string  `json:"stock"`
	DeltaE float64 `json:"deltaE"`
}

func convertCommand() *cobra.Command {
	var asJSON bool
	var how rendering
	var to string
	convert := func(text string, condition *press.Condition) (convertJSON, error) {
		out, err := convert(text, condition)
		if err == nil && to != "" {
			out.Value, err = out.write(to)
		}
		return out, err
	}
	c := &cobra.Command{
		Use:     "convert COLOR",
		Short:   "Show a color as hex, RGB, Lab, CMYK build and nearest spot inks",
		Long:    "Shows a color in every form. With - as the color, reads one a line from standard input and answers one JSON object a line.",
		Example: "  huekeep convert '#0E3A53'\n  huekeep convert 'oklch(0.33 0.06 240)' --press newsprint --json\n  huekeep convert '53/68/0/0' --to oklch",
		Args:    cobra.ExactArgs(1),
		RunE: func(cmd *cobra.Command, args []string) error {
			condition, err := how.condition()
			if err != nil {
				return err
			}
			if args[0] == "-" {
				return eachLine(cmd, func(line string) (any, error) { return convert(line, condition) })
			}
			out, err := convert(args[0], condition)
			if err != nil {
				return err
			}
			if asJSON {
				return writeJSON(cmd.OutOrStdout(), out)
			}
			if to != "" {
				for _, note := range out.notes() {
					fmt.Fprintln(cmd.ErrOrStderr(), note)
				}
				_, err := fmt.Fprintln(cmd.OutOrStdout(), out.Value)
				return err
			}
			w := tabwriter.NewWriter(cmd.OutOrStdout(), 0, 0, 2, ' ', 0)
			fmt.Fprintf(w, "hex\t%s\n", out.Hex)
			fmt.Fprintf(w, "RGB\t%d %d %d\n", out.RGB[0], out.RGB[1], out.RGB[2])
			fmt.Fprintf(w, "HSL\t%.0f %.0f%% %.0f%%\n", out.HSL.H, out.HSL.S, out.HSL.L)
			fmt.Fprintf(w, "OKLCH\t%.3f %.3f %.1f\n", out.OKLCH.L, out.OKLCH.C, out.OKLCH.H)
			fmt.Fprintf(w, "Lab\t%.2f %.2f %.2f\n", out.Lab.L, out.Lab.A, out.Lab.B)
			fmt.Fprintf(w, "Y'CbCr\t%d %d %d\tBT.709, 8 bit, narrow\n", out.YCbCr709[0], out.YCbCr709[1], out.YCbCr709[2])
			out.CMYK.print(w, out.direction)
			for _, note := range out.notes() {
				fmt.Fprintf(w, "note\t%s\n", note)
			}
			for _, k := range out.Inks {
				fmt.Fprintf(w, "ink\t%s %s\t%.1f %s\n", k.Code, k.Stock, k.DeltaE, color.Word(k.DeltaE))
			}
			return w.Flush()
		},
	}
	c.Flags().BoolVar(&asJSON, "json", false, "answer in JSON")
	c.Flags().StringVar(&to, "to", "", "answer in one notation only: "+strings.Join(forms(), ", "))
	how.flags(c)
	return c
}

// notes say what the values do not show.
func (c convertJSON) notes() (out []string) {
	if c.Alpha != nil {
		out = append(out, fmt.Sprintf("alpha is %s; the values are those of the opaque color", strconv.FormatFloat(*c.Alpha, 'g', -1, 64)))
	}
	if c.Note != "" {
		out = append(out, c.Note)
	}
	return out
}

// print writes the rows of the press: what was given, or what the profile makes of it.
func (c cmykJSON) print(w io.Writer, direction string) {
	inks := func(v [4]float64, format string) string {
		return fmt.Sprintf(strings.TrimSuffix(strings.Repeat(format+" ", 4), " "), v[0], v[1], v[2], v[3])
	}
	row := func(name string, v [4]float64, de float64) {
		fmt.Fprintf(w, "%s\t%s\t%.1f %s\n", name, inks(v, "%g"), de, color.Word(de))
	}
	own := c.buildJSON
	if c.Profile == nil {
		row("CMYK "+c.Press, own.Whole, own.DeltaE)
	} else {
		own = *c.Profile
		over := ""
		if c.TotalInk > c.InkLimit {
			over = fmt.Sprintf(", over the press's %g %%", c.InkLimit)
		}
		fmt.Fprintf(w, "CMYK %s\t%s\tas given, total ink %g %%%s; the values above are how it prints\n", c.Press, inks(c.Whole, "%g"),
			c.TotalInk, over)
		row("  the profile's", own.Whole, own.DeltaE)
	}
	fmt.Fprintf(w, "  exact\t%s\ttotal ink %g %%\n", inks(own.Exact, "%.1f"), own.TotalInk)
	fmt.Fprintf(w, "  on its paper\t%.1f %s\tthe distance above is relative to the paper, as an eye sees it that is used to the sheet\n",
		own.OnPaper, color.Word(own.OnPaper))
	if own.Unlimited != own.Exact {
		fmt.Fprintf(w, "  without limit\t%s\tthe press takes %g %%\n", inks(own.Unlimited, "%.1f"), c.InkLimit)
	}
	if c.BlackOnly != nil && c.BlackOnly.Whole != c.Whole {
		row("  black alone", c.BlackOnly.Whole, c.BlackOnly.DeltaE)
	}
	if !own.InGamut {
		fmt.Fprintf(w, "  out of gamut\t%s\n", direction)
	}
}

// write gives a converted color in one notation.
func (c convertJSON) write(notation string) (string, error) {
	switch strings.ToLower(notation) {
	case "cmyk":
		v := c.CMYK.Whole
		return color.CMYK{C: v[0], M: v[1], Y: v[2], K: v[3]}.String(), nil
	case "ink":
		return c.Inks[0].Code, nil
	}
	for _, f := range color.VideoForms {
		if strings.EqualFold(f.Name, notation) {
			codes := f.Codes(color.RGB8{R: uint8(c.RGB[0]), G: uint8(c.RGB[1]), B: uint8(c.RGB[2])})
			return fmt.Sprintf("%d %d %d", codes[0], codes[1], codes[2]), nil
		}
	}
	rgb := color.RGB8{R: uint8(c.RGB[0]), G: uint8(c.RGB[1]), B: uint8(c.RGB[2])}
	text, err := color.Write(rgb, notation)
	if err != nil {
		return "", fmt.Errorf("--to: there is no form %q; there are %s", notation, strings.Join(forms(), ", "))
	}
	return text, nil
}

// forms are the names of what a color can be written as.
func forms() []string {
	names := []string{"cmyk", "ink"}
	for _, n := range color.Notations {
		names = append(names, n.Name)
	}
	for _, f := range color.VideoForms {
		names = append(names, f.Name)
	}
	return names
}

// rendering holds the flags that say how colors go to a press.
type rendering struct {
	press, intent string
	blackPoint    bool
}

func (r *rendering) flags(c *cobra.Command) {
	c.Flags().StringVar(&r.press, "press", "coated", "press condition: coated, uncoated, newsprint or a CMYK profile (.icc)")
	c.Flags().StringVar(&r.intent, "intent", "relative", "rendering intent: "+strings.Join(icc.Intents, ", "))
	c.Flags().BoolVar(&r.blackPoint, "bpc", false, "compensate the black point")
}

func (r rendering) condition() (*press.Condition, error) {
	c, err := condition(r.press)
	if err != nil {
		return nil, err
	}
	i := slices.IndexFunc(icc.Intents, func(name string) bool { return strings.EqualFold(name, r.intent) })
	if i < 0 {
		return nil, fmt.Errorf("there is no rendering intent %q; there are %s", r.intent, strings.Join(icc.Intents, ", "))
	}
	how := icc.Rendering{Intent: icc.Intent(i), BlackPoint: r.blackPoint}
	if how == press.Colorimetric {
		return c, nil
	}
	return c.With(how)
}

// condition finds a shipped press condition by name, or makes one of a profile's file, with the ink limit that the profile
// itself keeps.
func condition(name string) (*press.Condition, error) {
	if !strings.HasSuffix(strings.ToLower(name), ".icc") && !strings.HasSuffix(strings.ToLower(name), ".icm") {
		return press.Get(name)
	}
	data, err := readFile(name, limits.ProfileBytes)
	if err != nil {
		return nil, err
	}
	c, err := press.New(filepath.Base(name), filepath.Base(name), 0, data)
	if err != nil {
		return nil, fmt.Errorf("%s: %w", name, err)
	}
	return c, nil
}

func convert(text string, condition *press.Condition) (convertJSON, error) {
	lab, rgb, typed, err := readColorOn(text, condition)
	if err != nil {
		return convertJSON{}, err
	}
	given := typed.CMYK
	b := condition.Build(lab)
	out := convertJSON{Hex: rgb.Hex(), RGB: [3]int{int(rgb.R), int(rgb.G), int(rgb.B)}, Lab: labOf(lab), direction: b.Direction,
		YCbCr709: color.BT709.YCbCr(rgb.RGB(), 8, false)}
	of := library.Color{}
	of.Master, of.RGB = library.MasterOf(typed)
	out.Master = decides(of)
	if k, isInk := ink.Quern().Find(text); isInk && given == nil {
		if _, _, err := color.ReadValue(text); err != nil {
			out.Master = masterJSON{"ink", library.Printed{Code: k.Code, Stock: string(ink.Coated)}.Typed()}
		}
	} else if given != nil {
		out.Master = masterJSON{"build", library.Printed{Build: *given, Press: condition.Name}.Typed()}
	}
	if typed.Alpha < 1 {
		alpha := round(typed.Alpha, 4)
		out.Alpha = &alpha
	}
	if out.Note = typed.Note(); out.Note == "" && typed.Outside() {
		out.Note = "it lies outside sRGB; hex to Y'CbCr are of the nearest screen color"
	}
	hsl, ok := rgb.RGB().HSL(), rgb.RGB().OKLab().OKLCH()
	out.HSL.H, out.HSL.S, out.HSL.L = round(hsl.H, 4), round(hsl.S*100, 4), round(hsl.L*100, 4)
	out.OKLCH.L, out.OKLCH.C, out.OKLCH.H = round(ok.L, 6), round(ok.C, 6), round(ok.H, 4)
	own := buildJSON{hundredths(b.Exact), hundredths(b.Unlimited), b.Whole.Array(), round(b.DeltaE, 4),
		round(condition.OnPaper(lab, b.Whole), 4), b.InGamut,
		b.Whole.Total()}
	out.CMYK = cmykJSON{Press: condition.Name, InkLimit: condition.InkLimit, Origin: "derived", buildJSON: own}
	if given != nil {
		out.CMYK.Origin, out.CMYK.Profile = "given", &own
		v := given.Array()
		out.CMYK.buildJSON = buildJSON{v, v, v, 0, round(condition.OnPaper(lab, *given), 4), true, round(given.Total(), 2)}
	}
	if k := condition.BlackOnly(lab); k != nil {
		out.CMYK.BlackOnly = &blackJSON{k.Whole.Array(), round(k.DeltaE, 4)}
	}
	stock := ink.Coated
	if condition.Name == "uncoated" || condition.Name == "newsprint" {
		stock = ink.Uncoated
	}
	for _, m := range ink.Quern().Meant().Nearest(lab, stock, 5) {
		out.Inks = append(out.Inks, inkJSON{m.Ink.Code, string(m.Stock), round(m.DeltaE, 4)})
	}
	return out, nil
}

// eachLine answers every line of standard input with one JSON object, in order; a line that is wrong is answered with its
// problem. Batches of lines are answered on all processors.
func eachLine(cmd *cobra.Command, answer func(string) (any, error)) error {
	type batch struct {
		lines  []string
		out    bytes.Buffer
		failed bool
		err    error
		done   chan struct{}
	}
	work := func(b *batch) {
		defer close(b.done)
		for _, line := range b.lines {
			v, err := answer(line)
			if err != nil {
				b.failed = true
				v = map[string]string{"error": err.Error()}
			}
			if b.err = writeJSON(&b.out, v); b.err != nil {
				return
			}
		}
	}
	const size = 256
	processors := runtime.GOMAXPROCS(0)
	todo, inOrder := make(chan *batch), make(chan *batch, 2*processors)
	for range processors {
		go func() {
			for b := range todo {
				work(b)
			}
		}()
	}
	in := bufio.NewScanner(cmd.InOrStdin())
	in.Buffer(nil, limits.PasteBytes)
	stop := make(chan struct{})
	go func() {
		defer close(inOrder)
		defer close(todo)
		b := &batch{done: make(chan struct{})}
		send := func() bool {
			select {
			case inOrder <- b:
			case <-stop:
				return false
			}
			todo <- b
			b = &batch{done: make(chan struct{})}
			return true
		}
		for in.Scan() {
			if strings.TrimSpace(in.Text()) == "" {
				continue
			}
			if b.lines = append(b.lines, in.Text()); len(b.lines) == size && !send() {
				return
			}
		}
		if len(b.lines) > 0 {
			send()
		}
	}()
	defer close(stop)
	failed := false
	for b := range inOrder {
		<-b.done
		failed = failed || b.failed
		if b.err != nil {
			return b.err
		}
		if _, err := b.out.WriteTo(cmd.OutOrStdout()); err != nil {
			return err
		}
	}
	if err := in.Err(); err != nil {
		return err
	}
	if failed {
		return exitError{code: 2}
	}
	return nil
}

type diffJSON struct {
	DeltaE00 float64 `json:"deltaE00"`
	Word     string  `json:"word"`
}

func diffCommand() *cobra.Command {
	var asJSON, isLab bool
	// Negative Lab values must not be taken for flags, so a line of them can also come from standard input.
	read := func(s string) (color.Lab, error) {
		if !isLab {
			lab, _, err := readColor(s)
			return lab, err
		}
		f := strings.FieldsFunc(s, func(r rune) bool { return r == ',' || r == ' ' })
		if len(f) != 3 {
			return color.Lab{}, fmt.Errorf("%q is not L,a,b", s)
		}
		var v [3]float64
		for i := range f {
			var err error
			if v[i], err = strconv.ParseFloat(f[i], 64); err != nil || math.IsNaN(v[i]) || math.Abs(v[i]) > 1000 {
				return color.Lab{}, fmt.Errorf("%q is not a Lab value", f[i])
			}
		}
		return color.Lab{L: v[0], A: v[1], B: v[2]}, nil
	}
	diff := func(x, y string) (diffJSON, error) {
		a, err := read(x)
		if err != nil {
			return diffJSON{}, err
		}
		b, err := read(y)
		if err != nil {
			return diffJSON{}, err
		}
		de := color.DeltaE00(a, b)
		return diffJSON{round(de, 4), color.Word(de)}, nil
	}
	c := &cobra.Command{
		Use:     "diff A B",
		Short:   "Show the CIEDE2000 difference of two colors",
		Long:    "Shows the CIEDE2000 difference of two colors. With - instead of them, reads a pair a line from standard input, parted by a tab\n(or by a space, where neither holds one), and answers one JSON object a line.",
		Example: "  huekeep diff '#E2572B' '#E1572C'\n  huekeep diff --lab 50,2.5,0 50,0,-2.5",
		Args:    cobra.RangeArgs(1, 2),
		RunE: func(cmd *cobra.Command, args []string) error {
			if len(args) == 1 && args[0] == "-" {
				return eachLine(cmd, func(line string) (any, error) {
					pair := strings.Split(line, "\t")
					if len(pair) != 2 {
						pair = strings.Fields(line)
					}
					if len(pair) != 2 {
						return nil, fmt.Errorf("%q is not a pair of colors parted by a tab", line)
					}
					return diff(pair[0], pair[1])
				})
			}
			if len(args) != 2 {
				return errors.New("two colors are wanted")
			}
			out, err := diff(args[0], args[1])
			if err != nil {
				return err
			}
			if asJSON {
				return writeJSON(cmd.OutOrStdout(), out)
			}
			_, err = fmt.Fprintf(cmd.OutOrStdout(), "%.2f %s\n", out.DeltaE00, out.Word)
			return err
		},
	}
	c.Flags().BoolVar(&asJSON, "json", false, "answer in JSON")
	c.Flags().BoolVar(&isLab, "lab", false, "the colors are given as L,a,b (D50)")
	return c
}

// readColor reads any typed notation; a CMYK build is seen through the coated press.
func readColor(s string) (color.Lab, color.RGB8, error) {
	lab, rgb, _, err := readColorOn(s, press.Coated())
	return lab, rgb, err
}

// readColorOn reads any typed notation, a CMYK build as the press prints it (and as it was given), and the code of an ink
// of the Quern book.
func readColorOn(s string, c *press.Condition) (color.Lab, color.RGB8, color.Typed, error) {
	t, paper, err := color.ReadValue(s)
	if err == nil && paper != "" && paper != c.Name {
		err = fmt.Errorf("%q is for %s; say so with --press %s", s, paper, paper)
	}
	if err != nil {
		if k, ok := ink.Quern().Find(s); ok {
			return k.Coated, k.Coated.RGB().RGB8(), color.Typed{RGB: k.Coated.RGB(), Alpha: 1}, nil
		}
		return color.Lab{}, color.RGB8{}, t, err
	}
	if t.CMYK != nil {
		lab := c.Lab(*t.CMYK)
		return lab, lab.RGB().RGB8(), t, nil
	}
	return t.RGB.Lab(), t.RGB8(), t, nil
}

func hundredths(b color.CMYK) (out [4]float64) {
	for i, v := range b.Array() {
		out[i] = round(v, 2)
	}
	return out
}

func labOf(l color.Lab) labJSON { return labJSON{round(l.L, 4), round(l.A, 4), round(l.B, 4)} }

func round(v float64, digits int) float64 {
	p := math.Pow10(digits)
	return math.Round(v*p) / p
}

func writeJSON(w io.Writer, v any) error {
	e := json.NewEncoder(w)
	e.SetEscapeHTML(false)
	return e.Encode(v)
}
