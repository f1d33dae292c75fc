package media

import (
	"context"
	"fmt"
	"sort"
	"strings"

	"huekeep/core/color"
	"huekeep/core/icc"
	"huekeep/core/ink"
	"huekeep/core/library"
	"huekeep/core/limits"
	"huekeep/core/picture"
	"huekeep/core/press"
	"huekeep/core/proof"
	"huekeep/keep"
	"huekeep/reading"
)

// Printed is a color on a press, with the ink that would come nearer.
type Printed struct {
	Color library.Color
	Press PressFace
	Ink   InkFace
	Mends bool // the ink is nearer to the color than the build
}

// Print says how far the colors of a subject move on a press, worst first. A color of the library goes with the build and the ink
// that were approved for it; one with the number 0 is not in the library.
func (r *Rules) Print(ctx context.Context, a keep.Actor, pressName string, colors []library.Color) (label string, out []Printed,
	err error) {
	db := r.DB.With(ctx)
	condition, err := r.Condition(db, a.House.ID, pressName)
	if err != nil {
		return "", nil, err
	}
	if len(colors) > limits.SetColors {
		return "", nil, keep.Wrong("colors", "the subject has %d colors; at most %d are looked at", len(colors), limits.SetColors)
	}
	book, err := r.Book(db, a.House.ID)
	if err != nil {
		return "", nil, err
	}
	known, err := db.Colors(a.House.ID)
	if err != nil {
		return "", nil, err
	}
	byID := map[int64]library.Color{}
	for _, c := range known {
		if a.Sees(c) {
			byID[c.ID] = c
		}
	}
	stock := ink.Uncoated
	if condition.Name == press.Coated().Name {
		stock = ink.Coated
	}
	for _, c := range colors {
		// What was approved is approved for the value that the color has now; an edition may have another one.
		if of, ok := byID[c.ID]; ok && of.RGB == c.RGB {
			c.Master, c.Builds, c.Spots = of.Master, of.Builds, of.Spots
		}
		p := Printed{Color: c, Press: OnPress(c, condition, condition.Build(c.Lab())), Ink: OnStock(c, stock, book)}
		p.Mends = p.Ink.DeltaE < p.Press.DeltaE-0.5
		out = append(out, p)
	}
	sort.SliceStable(out, func(i, j int) bool { return out[i].Press.DeltaE > out[j].Press.DeltaE })
	return condition.Label, out, nil
}

// Tell is what to tell the printer of colors on a press, as text.
func Tell(house, subject, label string, list []Printed) string {
	var b strings.Builder
	fmt.Fprintf(&b, "%s, %s, on %s\n", house, subject, label)
	for _, p := range list {
		origin := string(p.Press.Origin)
		if p.Press.Origin == library.Signed {
			origin = "approved by " + p.Press.By
		}
		v := p.Press.Value
		fmt.Fprintf(&b, "%s %s: C %g M %g Y %g K %g, %s; prints %.1f away, %s", p.Color.Name, p.Color.RGB.Hex(), v.C, v.M, v.Y, v.K, origin,
			p.Press.DeltaE, color.Word(p.Press.DeltaE))
		if p.Press.Direction != "" {
			b.WriteString(", " + p.Press.Direction)
		}
		if p.Mends {
			fmt.Fprintf(&b, "; the spot ink %s would be %.1f away", p.Ink.Ink.Code, p.Ink.DeltaE)
		}
		b.WriteString(".\n")
	}
	return b.String()
}

// ProofForms are the files that a proof of a picture can be had as, with their media types.
var ProofForms = map[string]string{"png": "image/png", "tif": "image/tiff"}

// ProofOf asks for a proof of a picture.
type ProofOf struct {
	Press             string
	Intent            int // place in icc.Intents
	BlackPoint, Paper bool
	Form              string
}

// Proof makes a file of a picture on a press: what the print looks like, or its inks with the press's profile.
func (r *Rules) Proof(ctx context.Context, a keep.Actor, name string, data []byte, in ProofOf) ([]byte, error) {
	condition, err := r.Condition(r.DB.With(ctx), a.House.ID, in.Press)
	if err != nil {
		return nil, err
	}
	name = keep.Short(name, limits.FileNameRunes)
	of := proofOf{ProofOf: in, File: name, pressOf: pressOf{condition.Name, condition.Label, condition.InkLimit}}
	if _, err := press.Get(condition.Name); err != nil {
		of.Profile = condition.Profile()
	}
	if in.Intent < 0 || in.Intent >= len(icc.Intents) {
		return nil, keep.Wrong("intent", "there is no rendering intent %d", in.Intent)
	}
	if _, ok := ProofForms[in.Form]; !ok {
		return nil, keep.Wrong("form", "a proof can be had as png or tif, not as %q", in.Form)
	}
	if _, err := condition.With(in.rendering()); err != nil {
		return nil, keep.Wrong("press", "%v", err)
	}
	return keep.Apart(ctx, r.Base, a, proofTask, name, of, data)
}

// proofOf is ProofOf with the press that it names.
type proofOf struct {
	ProofOf
	pressOf
	Profile []byte // nil for a press that ships
	File    string
}

// proofTask makes a proof of a picture.
var proofTask = reading.NewTask("proof", func(of proofOf, data []byte) ([]byte, error) {
	p, err := picture.DecodeOwn(data)
	if err != nil {
		return nil, fmt.Errorf("%s: %w", of.File, err)
	}
	condition, err := of.condition()
	if err != nil {
		return nil, err
	}
	with, err := condition.With(of.rendering())
	if err != nil {
		return nil, err
	}
	seen, lab := p.Seen()
	inks := proof.Of(with, of.Paper, lab).Inks(seen)
	p, seen = nil, nil // a large picture fits three times at the most
	if of.Form == "png" {
		return proof.WritePNG(proof.New(with, of.Paper).Screen(inks))
	}
	file, err := proof.WriteTIFF(inks, with.Profile())
	if err != nil {
		return nil, fmt.Errorf("%s: %w", of.File, err)
	}
	return file, nil
})

func (of proofOf) condition() (*press.Condition, error) {
	if of.Profile == nil {
		return press.Get(of.pressOf.Name)
	}
	return press.New(of.pressOf.Name, of.Label, of.InkLimit, of.Profile)
}

func (p ProofOf) rendering() icc.Rendering {
	return icc.Rendering{Intent: icc.Intent(p.Intent), BlackPoint: p.BlackPoint}
}
