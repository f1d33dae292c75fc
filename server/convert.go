package server

import (
	"math"
	"strings"
	"time"

	"huekeep/api"
	"huekeep/core/audit"
	"huekeep/core/color"
	"huekeep/core/press"
	"huekeep/core/swatchfile"
	"huekeep/keep"
	"huekeep/store"
)

// Conversions from what the rules return to what the contract says. Distances are rounded to two decimals, CMYK to one.

func round(v float64, digits int) float64 {
	p := math.Pow10(digits)
	return math.Round(v*p) / p
}

func nonNil[T any](list []T) []T {
	if list == nil {
		return []T{}
	}
	return list
}

// given is nil for an empty text, so that it is left out.
func given(s string) *string {
	if s == "" {
		return nil
	}
	return &s
}

func when(t time.Time) *time.Time {
	if t.IsZero() {
		return nil
	}
	return &t
}

func distance(v float64) *float64 {
	if v == 0 {
		return nil
	}
	v = round(v, 2)
	return &v
}

func ref(c *store.Color) *api.ColorRef {
	if c == nil {
		return nil
	}
	return &api.ColorRef{Id: c.ID, Name: c.Name, Hex: c.Hex}
}

func readLine(l keep.Line) api.ReadLine {
	out := api.ReadLine{Line: l.Number, Text: l.Text, Name: l.Name, Notes: nonNil(l.Notes)}
	if l.Err != nil {
		out.Problem = given(l.Err.Error())
	} else {
		out.Hex = given(l.RGB.Hex())
	}
	return out
}

func candidate(c keep.Candidate) api.Candidate {
	out := api.Candidate{Id: c.ID, Name: c.Name, Hex: c.Hex, Source: c.Source, Cmyk: given(c.CMYK), Spot: given(c.Spot), Lab: given(c.Lab), Notes: []api.CandidateNote{}}
	origin := api.CandidateOrigin(c.Origin)
	out.Origin, out.Position = &origin, &c.Position
	for _, n := range c.Notes {
		note := api.CandidateNote{Kind: api.CandidateNoteKind(n.Kind), Text: n.Text, Blocks: n.Blocks, Color: ref(n.Color)}
		if n.Other != 0 {
			note.Other = &n.Other
		}
		out.Notes = append(out.Notes, note)
	}
	return out
}

func cmyk(c color.CMYK) []float32 {
	a := c.Array()
	out := make([]float32, 4)
	for i, v := range a {
		out[i] = float32(round(v, 1))
	}
	return out
}

func origin(approved bool) api.Origin {
	if approved {
		return "approved"
	}
	return "derived"
}

func pressFace(f keep.PressFace) api.PressFace {
	return api.PressFace{Press: f.Press, Value: cmyk(f.Value), Text: f.Value.String(), Hex: f.Look.Hex(), Origin: origin(f.Approved),
		DeltaE: float32(round(f.DeltaE, 2)), Word: color.Word(f.DeltaE), InGamut: f.InGamut, Direction: f.Direction,
		TotalInk: float32(round(f.Value.Total(), 1)), By: given(f.By), At: when(f.At), Moved: single(distance(f.Moved))}
}

func single(v *float64) *float32 {
	if v == nil {
		return nil
	}
	s := float32(*v)
	return &s
}

func inkFace(f keep.InkFace) api.InkFace {
	return api.InkFace{Code: f.Ink.Code, Name: f.Ink.Name, Stock: string(f.Stock), Hex: f.Look.Hex(), Origin: origin(f.Approved),
		DeltaE: float32(round(f.DeltaE, 2)), Word: color.Word(f.DeltaE), By: given(f.By), At: when(f.At), Moved: single(distance(f.Moved))}
}

func colorRow(r keep.Row) api.ColorRow {
	rgb, _ := color.FromHex(r.Hex) // stored values are valid
	ok := rgb.RGB().OKLab().OKLCH()
	return api.ColorRow{Aliases: lines(r.Aliases), Tags: lines(r.Tags), Lab: given(r.Lab), Added: r.CreatedAt,
		Oklch: []float32{float32(round(ok.L, 4)), float32(round(ok.C, 4)), float32(round(ok.H, 1))},
		Id:    r.ID, Name: r.Name, Group: r.Group, Role: r.Role, Rule: r.Rule, Status: api.ColorRowStatus(r.Status), Hex: r.Hex,
		Rgb: []int{int(rgb.R), int(rgb.G), int(rgb.B)}, Successor: ref(r.Successor), Press: pressFace(r.Faces.Press), Ink: inkFace(r.Faces.Ink)}
}

// lines parts a kept list of words.
func lines(text string) []string {
	if text == "" {
		return []string{}
	}
	return strings.Split(text, "\n")
}

func gradients(list []keep.Gradient) []api.Gradient {
	out := []api.Gradient{}
	for _, g := range list {
		row := api.Gradient{Id: g.ID, Name: g.Name, Angle: float32(g.Angle), Space: g.Space, Version: g.Version, Css: g.CSS, Stops: []api.GradientStop{}, Steps: []string{}}
		for i, s := range g.Stops {
			row.Stops = append(row.Stops, api.GradientStop{Color: *ref(&g.Colors[i]), Place: float32(s.Place)})
		}
		for _, c := range g.Steps {
			row.Steps = append(row.Steps, c.Hex())
		}
		out = append(out, row)
	}
	return out
}

func holders(list []keep.Holder) []api.Holder {
	out := []api.Holder{}
	for _, h := range list {
		out = append(out, api.Holder{Set: h.Set, SetId: &h.SetID, Edition: h.Edition, Hex: h.Hex, Recipients: nonNil(h.Recipients)})
	}
	return out
}

func colorSheet(s keep.Sheet) api.ColorSheet {
	rgb, _ := color.FromHex(s.Row.Hex)
	lab := rgb.Lab()
	d := s.Derived
	out := api.ColorSheet{Row: colorRow(s.Row), Version: s.Row.Version, Sets: nonNil(s.Sets), Holders: holders(s.Holders),
		Lab: []float32{float32(round(lab.L, 2)), float32(round(lab.A, 2)), float32(round(lab.B, 2))},
		Derived: api.Derived{Exact: cmyk(d.Exact), Whole: cmyk(d.Whole), ExactText: d.Exact.String(), WholeText: d.Whole.String(),
			DeltaE: float32(round(d.DeltaE, 2)), Word: color.Word(d.DeltaE), RoundingDE: float32(round(d.RoundingDE, 2)), InGamut: d.InGamut,
			Direction: d.Direction, TotalInk: float32(d.Whole.Total()), Hex: d.Lab.RGB().RGB8().Hex()},
		Inks: []api.InkFace{}, History: []api.HistoryEntry{}}
	out.Derived.Variants = []api.BlackVariant{}
	for _, v := range []struct {
		black api.BlackVariantBlack
		*press.Variant
	}{{"less", s.Less}, {"more", s.More}} {
		if v.Variant != nil {
			out.Derived.Variants = append(out.Derived.Variants, api.BlackVariant{Black: v.black, Text: v.Whole.String(), TotalInk: float32(v.Whole.Total())})
		}
	}
	for _, i := range s.Inks {
		out.Inks = append(out.Inks, inkFace(i))
	}
	out.Presses, out.Spots, out.Family = []api.PressFace{}, []api.InkFace{}, []api.Relative{}
	for _, p := range s.Presses {
		out.Presses = append(out.Presses, pressFace(p))
	}
	for _, i := range s.Spots {
		out.Spots = append(out.Spots, inkFace(i))
	}
	for _, r := range s.Family {
		row := api.Relative{Kind: api.RelativeKind(r.Kind), Amount: r.Amount, Permitted: r.Permitted, Hex: r.Value.Hex()}
		if r.Build != nil {
			row.Cmyk = given(r.Build.String())
		}
		out.Family = append(out.Family, row)
	}
	if s.Partner != nil {
		out.On = &api.Ground{Color: *ref(s.Partner), Ratio: float32(round(s.Ratio, 2)), Want: float32(s.Row.PartnerRatio), Passes: s.Ratio >= s.Row.PartnerRatio}
	}
	for _, h := range s.History {
		out.History = append(out.History, api.HistoryEntry{Id: h.ID, Kept: h.State != "", At: h.At, By: h.ByName, What: h.What, Before: given(h.BeforeHex), After: given(h.AfterHex)})
	}
	return out
}

func amendment(a keep.Amendment) api.Amendment {
	return api.Amendment{Understood: a.After.Hex(), Before: a.Before.Hex(), After: a.After.Hex(), DeltaE: float32(round(a.DeltaE, 2)),
		Word: color.Word(a.DeltaE), Sets: nonNil(a.Sets), Holders: holders(a.Holders), Approved: nonNil(a.Approved), Audits: nonNil(a.Audits), Same: ref(a.Same)}
}

func swatchSet(s keep.Set) api.SwatchSet {
	out := api.SwatchSet{Id: s.ID, Name: s.Name, Version: s.Version, Colors: []api.ColorRef{}, Editions: []api.EditionLine{},
		Changed: len(s.Editions) == 0 || len(s.Changes) > 0, Recipients: []api.Holding{}}
	for _, c := range s.Members {
		out.Colors = append(out.Colors, *ref(&c))
	}
	for _, e := range s.Editions {
		out.Editions = append(out.Editions, api.EditionLine{Number: e.Number, At: e.At, By: e.By, Count: e.Count})
	}
	if len(s.Changes) > 0 {
		out.Changes = &s.Changes
	}
	for _, h := range s.Holdings {
		line := api.Holding{Recipient: h.Recipient.ID, Name: h.Recipient.Name, Kind: h.Recipient.Kind, Packing: h.Packing, State: api.HoldingState(h.State)}
		if h.Edition > 0 {
			line.Edition = &h.Edition
		}
		if d := h.Last; d != nil {
			at := d.SentAt
			if d.ReceivedAt != nil {
				at = *d.ReceivedAt
			}
			line.Receipt = &api.Receipt{Edition: d.Number, Taken: d.Taken, Slots: d.Slots, At: at, Message: d.Message, Ok: d.OK}
		}
		out.Recipients = append(out.Recipients, line)
	}
	return out
}

func edition(e swatchfile.Edition, row store.Edition) api.Edition {
	out := api.Edition{Set: e.Set, Number: e.Number, At: row.FixedAt, By: row.ByName, Packings: []api.PackingLine{}}
	type named = struct {
		Hex  string `json:"hex"`
		Name string `json:"name"`
	}
	out.Colors = []named{}
	for _, c := range e.Colors {
		out.Colors = append(out.Colors, named{c.RGB.Hex(), c.Name})
	}
	for _, p := range swatchfile.Packings {
		line := api.PackingLine{Name: p.Name, Label: p.Label, File: p.FileName(e), Loses: nonNil(p.Loses(e))}
		type slot = struct {
			Hex  string `json:"hex"`
			Name string `json:"name"`
			Slot string `json:"slot"`
			Why  string `json:"why"`
		}
		line.Slots = []slot{}
		if p.Name == "office-theme" {
			for _, s := range swatchfile.ThemeSlots(e.Colors) {
				line.Slots = append(line.Slots, slot{s.Color.RGB.Hex(), s.Color.Name, s.Name, s.Why})
			}
		}
		out.Packings = append(out.Packings, line)
	}
	return out
}

func recipient(r store.Recipient) api.Recipient {
	packing := ""
	for _, k := range keep.RecipientKinds {
		if k.Name == r.Kind {
			packing = k.Packing
		}
	}
	return api.Recipient{Id: r.ID, Name: r.Name, Kind: api.RecipientKind(r.Kind), Note: r.Note, Packing: packing}
}

func auditLine(a store.Audit) api.AuditLine {
	return api.AuditLine{Id: a.ID, File: a.FileName, Kind: a.Kind, At: a.At, By: a.ByName, Uses: a.Uses, Score: float32(a.Score), Findings: a.Findings}
}

func near(n audit.Near) api.NearColor {
	return api.NearColor{Name: n.Name, Hex: n.Hex, DeltaE: float32(round(n.DeltaE, 2)), Word: n.Word, Successor: given(n.Successor)}
}

func audited(a keep.Audit) api.Audit {
	out := api.Audit{Line: auditLine(a.Audit), About: a.Report.About, Size: a.Size, Tolerance: float32(a.Tolerance), Notes: nonNil(a.Report.Notes), Colors: []api.FoundColor{}}
	for _, c := range a.Report.Colors {
		f := api.FoundColor{Value: c.Value, Hex: c.Hex, Count: c.Count, Verdict: api.FoundColorVerdict(c.Verdict), Reason: given(c.Reason), Places: []api.FoundPlace{}}
		if c.Nearest != nil {
			n := near(*c.Nearest)
			f.Nearest = &n
		}
		if len(c.Others) > 0 {
			others := []api.NearColor{}
			for _, o := range c.Others {
				others = append(others, near(o))
			}
			f.Others = &others
		}
		for _, p := range c.Places {
			f.Places = append(f.Places, api.FoundPlace{Where: p.Where, Count: p.Count, Value: p.Value, Linked: p.Linked})
		}
		out.Colors = append(out.Colors, f)
	}
	return out
}
