package main

import (
	"fmt"
	"io"
	"strings"

	"github.com/spf13/cobra"

	"huekeep/core/gather"
	"huekeep/core/ink"
	"huekeep/core/limits"
	"huekeep/core/press"
)

type gatheredJSON struct {
	Files  []gatheredFileJSON `json:"files"`
	Unread []unreadJSON       `json:"unread"`
}

type gatheredFileJSON struct {
	Path   string          `json:"path"`
	Kind   string          `json:"kind"`
	Colors []candidateJSON `json:"colors"`
	Notes  []string        `json:"notes"`
	Asked  []askedJSON     `json:"asked"` // lines of a text that may mean several things
	Left   []leftJSON      `json:"left"`  // lines of a text that no color was made of
}

type askedJSON struct {
	Line     int           `json:"line"`
	Text     string        `json:"text"`
	Readings []readingJSON `json:"readings"`
}

type readingJSON struct {
	As  string `json:"as"`
	Hex string `json:"hex"`
}

type leftJSON struct {
	Line int    `json:"line"`
	Text string `json:"text"`
	Why  string `json:"why"`
}

// candidateJSON is a color that a file holds; hex is the color as if it were opaque.
type candidateJSON struct {
	Name   string      `json:"name"`
	Hex    string      `json:"hex"`
	Master masterJSON  `json:"master"`
	Alpha  float64     `json:"alpha"` // 0 to 1
	CMYK   *[4]float64 `json:"cmyk"`
	Spot   *string     `json:"spot"`
	Count  int         `json:"count"` // how often a finished file uses it
	Where  []string    `json:"where"` // the first of these places

	Page     int        `json:"page"`     // of a document that says it in words; 0 for others
	Given    *givenJSON `json:"given"`    // the values as they are written there
	Disagree []string   `json:"disagree"` // what is said of it that is another color
}

// givenJSON are values as they were written; empty ones were not.
type givenJSON struct {
	Hex  string `json:"hex,omitempty"`
	RGB  string `json:"rgb,omitempty"`
	CMYK string `json:"cmyk,omitempty"`
	Spot string `json:"spot,omitempty"`
	Lab  string `json:"lab,omitempty"`
}

// given are the values of a list or a document as they were written there.
func given(w *gather.Written) *givenJSON {
	if w == nil {
		return nil
	}
	out := &givenJSON{}
	for _, g := range w.Given {
		switch g.Kind {
		case "hex":
			out.Hex = g.Text
		case "rgb":
			out.RGB = g.Text
		case "cmyk":
			out.CMYK = g.Text
		case "spot":
			out.Spot = g.Text
		case "lab":
			out.Lab = g.Text
		}
	}
	return out
}

type unreadJSON struct {
	Path string `json:"path"`
	Why  string `json:"why"`
}

func gatherCommand() *cobra.Command {
	var asJSON bool
	c := &cobra.Command{
		Use:   "gather FILE...",
		Short: "List the colors that swatch files, finished files and pictures hold",
		Long: "Lists the colors that files of any kind hold: swatch sets, design tokens, tables, themes, pictures of palettes and other pictures, and\n" +
			"finished files (presentations, documents, workbooks, drawings, style sheets, pages, scripts, PDFs, archives), of which it says how often\n" +
			"each color is used and where. They are the candidates that a dropped file puts on the tray.\n" +
			"Exit status: 0 all read, 2 something could not be read.",
		Example: "  huekeep gather palette.png brand.soc logo.svg --json",
		Args:    cobra.MinimumNArgs(1),
		RunE: func(cmd *cobra.Command, args []string) error {
			out := gatheredJSON{Files: []gatheredFileJSON{}, Unread: []unreadJSON{}}
			for _, name := range args {
				f, err := gatherFile(name)
				if err != nil {
					out.Unread = append(out.Unread, unreadJSON{name, err.Error()})
					if !asJSON {
						fmt.Fprintln(cmd.ErrOrStderr(), "huekeep:", err)
					}
					continue
				}
				out.Files = append(out.Files, f)
				if !asJSON {
					f.print(cmd.OutOrStdout())
				}
			}
			if asJSON {
				if err := writeJSON(cmd.OutOrStdout(), out); err != nil {
					return err
				}
			}
			if len(out.Unread) > 0 {
				return exitError{code: 2}
			}
			return nil
		},
	}
	c.Flags().BoolVar(&asJSON, "json", false, "answer in JSON")
	return c
}

func gatherFile(name string) (gatheredFileJSON, error) {
	data, err := readFile(name, limits.UploadBytes)
	if err != nil {
		return gatheredFileJSON{}, err
	}
	found, err := gather.Read(name, data)
	if err != nil {
		return gatheredFileJSON{}, err
	}
	out := gatheredFileJSON{Path: name, Kind: found.Label, Colors: []candidateJSON{}, Notes: append([]string{}, found.Notes...),
		Asked: []askedJSON{}, Left: []leftJSON{}}
	for _, l := range found.Left {
		if len(l.Readings) == 0 {
			out.Left = append(out.Left, leftJSON{l.Line, l.Text, l.Why})
			continue
		}
		asked := askedJSON{l.Line, l.Text, nil}
		for _, r := range l.Readings {
			asked.Readings = append(asked.Readings, readingJSON{r.As, r.RGB.Hex()})
		}
		out.Asked = append(out.Asked, asked)
	}
	for _, c := range found.Colors {
		j := candidateJSON{Name: c.Name, Hex: c.RGB.Hex(), Master: decides(c.Color), Alpha: c.Alpha, Count: c.Uses,
			Where: append([]string{}, c.Where...), Given: given(c.Written), Disagree: []string{}}
		if c.Written != nil {
			j.Page = c.Written.Page
			for _, d := range append(c.Written.Disagree, c.Printed(press.Coated(), ink.Quern())...) {
				j.Disagree = append(j.Disagree, d.Text)
			}
		}
		if b, ok := c.Build("coated"); ok {
			inks := b.Value.Array()
			j.CMYK = &inks
		}
		if s, ok := c.Spot("coated"); ok {
			j.Spot = &s.Code
		}
		out.Colors = append(out.Colors, j)
	}
	return out, nil
}

func (f gatheredFileJSON) print(w io.Writer) {
	fmt.Fprintf(w, "%s: %s, %d colors\n", f.Path, f.Kind, len(f.Colors))
	for _, c := range f.Colors {
		line := "  " + c.Hex + "  " + c.Name
		if c.CMYK != nil {
			line += fmt.Sprintf("  CMYK %g %g %g %g", c.CMYK[0], c.CMYK[1], c.CMYK[2], c.CMYK[3])
		}
		if c.Spot != nil {
			line += "  ink " + *c.Spot
		}
		if c.Alpha < 1 {
			line += fmt.Sprintf("  alpha %.3g", c.Alpha)
		}
		if c.Count > 0 && c.Given == nil {
			line += fmt.Sprintf("  %d×, %s", c.Count, c.Where[0])
		}
		if c.Given != nil {
			line += "  " + strings.Join(c.Where, ", ")
		}
		fmt.Fprintln(w, strings.TrimRight(line, " "))
		for _, d := range c.Disagree {
			fmt.Fprintln(w, "           disagrees: "+d)
		}
	}
	for _, n := range f.Notes {
		fmt.Fprintln(w, "  "+n)
	}
}
