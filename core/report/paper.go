package report

import (
	"cmp"
	_ "embed"
	"html/template"
	"io"
	"slices"
	"strings"

	"huekeep/core/color"
	"huekeep/core/repaint"
)

// Paper is what says what was changed where, for whoever signs it.
type Paper struct {
	House, Title, Project, By string
	Dry                       bool   // nothing was changed
	Sum                       string // SHA-256 of the file that was made; empty for none
	Total                     int    // uses that were changed
	Files                     []PaperFile
}

// PaperFile is a file of it.
type PaperFile struct {
	Path          string
	Before, After *float64 // scores, 0 to 1
	Changes       []repaint.Change
	More          int // places that are not among the changes
	Left          []repaint.Left
	Parts         repaint.Parts
	Why           string // why the file could not be changed at all
}

// All is how many parts a file has.
func (f PaperFile) All() int { return f.Parts.Changed + f.Parts.Same }

// PaperStep is an old value with what it became, over all files.
type PaperStep struct {
	From, To, Hex string
	Uses, Files   int
}

// Steps sums up what became what, the most uses first.
func (p Paper) Steps() (out []PaperStep) {
	at := map[[2]string]int{}
	for _, f := range p.Files {
		here := map[int]bool{}
		for _, c := range f.Changes {
			of := [2]string{c.From, c.To}
			i, ok := at[of]
			if !ok {
				i = len(out)
				at[of] = i
				out = append(out, PaperStep{From: c.From, To: c.To, Hex: c.Hex})
			}
			out[i].Uses += c.Count
			if !here[i] {
				here[i] = true
				out[i].Files++
			}
		}
	}
	slices.SortStableFunc(out, func(a, b PaperStep) int { return cmp.Compare(b.Uses, a.Uses) })
	return out
}

// Changed and Left count files with changes, and uses that are left.
func (p Paper) Changed() (n int) {
	for _, f := range p.Files {
		if len(f.Changes) > 0 {
			n++
		}
	}
	return n
}

func (p Paper) Left() (n int) {
	for _, f := range p.Files {
		for _, l := range f.Left {
			n += max(1, l.Count)
		}
	}
	return n
}

// Same lists the files in which there was nothing to do.
func (p Paper) Same() (out []string) {
	for _, f := range p.Files {
		if len(f.Changes) == 0 && len(f.Left) == 0 && f.Why == "" {
			out = append(out, f.Path)
		}
	}
	return out
}

//go:embed paper.html
var paperText string

var paper = template.Must(template.New("paper").Funcs(template.FuncMap{
	"score":  Score,
	"quoted": quoted,
	"times":  numbered,
	"join":   func(list []string) string { return strings.Join(list, ", ") },
	"paint": func(text string) template.CSS { // a build or an ink has none
		if rgb, err := color.FromHex(text); err == nil {
			return template.CSS("background:" + rgb.Hex()) // #nosec: six digits
		}
		return ""
	},
}).Parse(paperText))

// Print writes the paper as a page to print.
func (p Paper) Print(w io.Writer) error { return paper.Execute(w, p) }
