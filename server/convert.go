package server

import (
	"errors"
	"fmt"
	"maps"
	"math"
	"slices"
	"time"

	openapi "github.com/oapi-codegen/runtime/types"

	"huekeep/api"
	"huekeep/core/audit"
	"huekeep/core/color"
	"huekeep/core/contrast"
	"huekeep/core/library"
	"huekeep/core/press"
	"huekeep/keep/audits"
	"huekeep/keep/gathering"
	"huekeep/keep/ledger"
	"huekeep/keep/media"
	"huekeep/keep/send"
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

// given is nil for an empty text or 0, so that it is left out.
func given[T comparable](v T) *T {
	var none T
	if v == none {
		return nil
	}
	return &v
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

func ref(c library.Color) api.ColorRef { return api.ColorRef{Id: c.ID, Name: c.Name, Hex: c.RGB.Hex()} }

// maybe is a reference to a color that there may not be.
func maybe(c *library.Color) *api.ColorRef {
	if c == nil {
		return nil
	}
	r := ref(*c)
	return &r
}

func readLine(l gathering.Line) api.ReadLine {
	out := api.ReadLine{Line: l.Number, Text: l.Text, Name: l.Name, Notes: nonNil(l.Notes)}
	if l.Err != nil {
		out.Problem = given(l.Err.Error())
		out.Words = given(errors.Is(l.Err, color.ErrWords))
		var unsure *color.Unsure
		if errors.As(l.Err, &unsure) {
			readings := []api.LineReading{}
			for _, r := range unsure.Readings {
				readings = append(readings, api.LineReading{As: r.As, Value: r.Value, Hex: r.RGB.Hex()})
			}
			out.Readings = &readings
		}
	} else {
		out.Hex = given(l.RGB.Hex())
		out.Master = master(library.Color{RGB: l.RGB, Master: l.Decides})
	}
	return out
}

func candidate(c gathering.Candidate) api.Candidate {
	out := api.Candidate{Id: c.ID, Name: c.Name, Hex: c.RGB.Hex(), Source: c.Source, Cmyk: given(c.CMYK), Spot: given(c.Spot),
		Screen: given(c.Screen), Notes: []api.CandidateNote{}}
	origin := api.CandidateOrigin(c.Origin)
	out.Origin, out.Position = &origin, &c.Position
	of := library.Color{Master: c.Master, RGB: c.RGB}
	out.Master = master(of)
	if lab := of.Reading(); lab != nil {
		out.Lab = given(library.WriteLab(*lab))
	}
	for _, n := range c.Notes {
		note := api.CandidateNote{Kind: api.CandidateNoteKind(n.Kind), Text: n.Text, Blocks: n.Blocks, Color: maybe(n.Color),
			Look: given(n.Look)}
		if n.Other != 0 {
			note.Other = &n.Other
		}
		if m := n.Change; m != nil {
			note.Change = &api.CandidateAmends{Version: m.Version, DeltaE: round(m.DeltaE, 2), Word: color.Word(m.DeltaE),
				Sets: nonNil(m.Held.Sets), Behind: m.Behind, Stays: nonNil(m.Stays)}
		}
		out.Notes = append(out.Notes, note)
	}
	return out
}

func cmyk(c color.CMYK) []float64 {
	a := c.Array()
	out := make([]float64, 4)
	for i, v := range a {
		out[i] = round(v, 1)
	}
	return out
}

func pressFace(f media.PressFace) api.PressFace {
	return api.PressFace{Press: f.Press, Value: cmyk(f.Value), Text: f.Value.String(), Hex: f.Look.Hex(), Origin: api.Origin(f.Origin),
		DeltaE: round(f.DeltaE, 2), Word: color.Word(f.DeltaE), InGamut: f.InGamut, Direction: f.Direction,
		TotalInk: round(f.Value.Total(), 1), By: given(f.By), At: when(f.At), Moved: distance(f.Moved)}
}

func inkFace(f media.InkFace) api.InkFace {
	return api.InkFace{Code: f.Ink.Code, Name: f.Ink.Name, Class: f.Ink.Class, Stock: string(f.Stock), Hex: f.Look.Hex(),
		Origin: api.Origin(f.Origin),
		DeltaE: round(f.DeltaE, 2), Word: color.Word(f.DeltaE), By: given(f.By), At: when(f.At), Moved: distance(f.Moved)}
}

func colorRow(r ledger.Row) api.ColorRow {
	ok := r.RGB.RGB().OKLab().OKLCH()
	out := api.ColorRow{Id: r.ID, Name: r.Name, Group: r.Group, Role: string(r.Role), Rule: r.Rule, Status: api.ColorRowStatus(r.Status),
		Hex: r.RGB.Hex(), HexOrigin: api.Origin(r.HexOrigin()), HexBy: given(r.Plain.By.Name), HexAt: when(r.Plain.At),
		Rgb: []int{int(r.RGB.R), int(r.RGB.G), int(r.RGB.B)}, Aliases: nonNil(r.Aliases), Tags: nonNil(r.Tags), Added: r.Added,
		Successor: maybe(r.Next),
		Oklch:     []float64{round(ok.L, 4), round(ok.C, 4), round(ok.H, 1)}, Press: pressFace(r.Faces.Press), Ink: inkFace(r.Faces.Ink)}
	if lab := r.Reading(); lab != nil {
		out.Lab = given(library.WriteLab(*lab))
	}
	if out.Master = master(r.Color); out.Master != nil {
		out.Master.Spectrum = nil // of thousands of colors it would be most of the answer; a sheet has it
	}
	return out
}

// master is what decides a color; nil where its hex does.
func master(c library.Color) *api.ColorMaster {
	if c.Master.Kind == library.OfHex {
		return nil
	}
	de := c.Dulled()
	out := api.ColorMaster{Kind: api.ColorMasterKind(c.Master.Kind), Text: c.Master.Text, Css: given(c.CSS()), DeltaE: round(de, 2),
		Word: color.Word(de)}
	if lab := c.Reading(); lab != nil {
		out.Text = library.WriteLab(*lab)
		if s, ok := c.Master.Spectrum(); ok {
			out.Spectrum = &api.Spectrum{Start: s.Start, Step: s.Step, Values: s.Values}
		}
		return &out
	}
	out.Value = given(c.Master.Text)
	if p, ok := c.Master.Printed(); ok {
		out.Text, out.Value, out.Lab = p.Code, given(p.Typed()), given(library.WriteLab(p.Lab))
		out.Press, out.Stock, out.Book = given(p.Press), given(p.Stock), given(p.Book)
		if p.Code == "" {
			out.Text = p.Build.String()
		}
	}
	return &out
}

func pairRules(list []ledger.Pair) []api.PairRule {
	out := []api.PairRule{}
	for _, p := range list {
		row := api.PairRule{Color: ref(p.Of), Ground: ref(p.On), May: p.May, Says: p.String(), Least: p.Pair.Ratio, Ratio: p.Now,
			Holds: p.Holds,
			By:    p.By.Name, At: p.At}
		for _, c := range []library.Color{p.Of, p.On} {
			if c.Retired() {
				row.Retired = &c.Name
			}
		}
		out = append(out, row)
	}
	return out
}

func gradients(list []ledger.Gradient) []api.Gradient {
	out := []api.Gradient{}
	for _, g := range list {
		row := api.Gradient{Id: g.ID, Name: g.Name, Angle: float64(g.Angle), Space: g.Space, Version: g.Version, Css: g.CSS,
			Stops: []api.GradientStop{}, Steps: []string{}}
		for i, s := range g.Stops {
			row.Stops = append(row.Stops, api.GradientStop{Color: ref(g.Colors[i]), Place: float64(s.Place)})
		}
		for _, c := range g.Steps {
			row.Steps = append(row.Steps, c.Hex())
		}
		out = append(out, row)
	}
	return out
}

func holders(list []send.Holder) []api.Holder {
	out := []api.Holder{}
	for _, h := range list {
		out = append(out, api.Holder{Set: h.Set, SetId: &h.SetID, Edition: h.Edition, Hex: h.Hex.Hex(), Recipients: nonNil(h.Recipients)})
	}
	return out
}

func colorSheet(s ledger.Sheet) api.ColorSheet {
	lab := s.Row.Lab()
	d := s.Derived
	row := colorRow(s.Row)
	row.Master = master(s.Row.Color)
	out := api.ColorSheet{Row: row, Version: s.Row.Version, Sets: nonNil(s.Sets), Holders: holders(s.Holders),
		Lab: []float64{round(lab.L, 2), round(lab.A, 2), round(lab.B, 2)},
		Derived: api.Derived{Exact: cmyk(d.Exact), Whole: cmyk(d.Whole), ExactText: d.Exact.String(), WholeText: d.Whole.String(),
			DeltaE: round(d.DeltaE, 2), Word: color.Word(d.DeltaE), RoundingDE: round(d.RoundingDE, 2), InGamut: d.InGamut,
			Direction: d.Direction, TotalInk: float64(d.Whole.Total()), Hex: d.Lab.RGB().RGB8().Hex()},
		Inks: []api.InkFace{}, History: history(s.History), Older: s.Older}
	out.Derived.Variants = []api.BlackVariant{}
	for _, v := range []struct {
		black api.BlackVariantBlack
		*press.Variant
	}{{"less", s.Less}, {"more", s.More}} {
		if v.Variant != nil {
			out.Derived.Variants = append(out.Derived.Variants, api.BlackVariant{Black: v.black, Text: v.Whole.String(),
				TotalInk: float64(v.Whole.Total())})
		}
	}
	if k := s.BlackOnly; k != nil {
		out.Derived.BlackOnly = &api.BlackOnly{Text: k.Whole.String(), DeltaE: round(k.DeltaE, 2), Word: color.Word(k.DeltaE)}
	}
	if s.Own {
		out.Own = &s.Own
	}
	papers := []float64{}
	for _, de := range s.Papers {
		papers = append(papers, round(de, 2))
	}
	out.Papers = &papers
	video := []api.VideoCodes{}
	for _, f := range color.VideoForms {
		codes := f.CodesOf(s.Row.RGB, s.Row.Screen())
		video = append(video, api.VideoCodes{System: f.System, Bits: f.Bits, Full: f.Full, Codes: codes[:],
			Problems: nonNil(f.Problems(codes))})
	}
	out.Video = &video
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
		if r.Kind == "sheer" {
			row.Css = given(fmt.Sprintf("rgb(%d %d %d / %d%%)", s.Row.RGB.R, s.Row.RGB.G, s.Row.RGB.B, r.Amount))
			if !r.Ground.None() {
				row.Ground = &api.ColorRef{Id: r.Ground.ID, Name: r.Ground.Name, Hex: r.Over.Hex()}
			}
		}
		out.Family = append(out.Family, row)
	}
	if s.On != nil {
		out.Ground = &api.Ground{Color: ref(*s.On), Ratio: contrast.Cut(s.Ratio, 2), Want: s.Row.Ratio, Passes: s.Passes}
	}
	return out
}

func history(list []library.Event) []api.HistoryEntry {
	out := []api.HistoryEntry{}
	for _, h := range list {
		out = append(out, api.HistoryEntry{Id: h.ID, Kept: h.State != "", At: h.At, By: h.By.Name, What: h.What, From: given(h.From),
			Before: given(h.Before), After: given(h.After)})
	}
	return out
}

func amendment(a ledger.Amendment) api.Amendment {
	var build *string
	if p, _ := a.After.Master.Printed(); p.Press != "" {
		build = given(p.Build.String())
	}
	return api.Amendment{Build: build, Understood: a.After.RGB.Hex(), Before: a.Before.RGB.Hex(), After: a.After.RGB.Hex(),
		Master: master(a.After), DeltaE: round(a.DeltaE, 2),
		Word: color.Word(a.DeltaE), Sets: nonNil(a.Sets), Holders: holders(a.Holders), Approved: nonNil(a.Approved),
		Audits: nonNil(a.Audits), Same: maybe(a.Same)}
}

func auditLine(a audits.Line) api.AuditLine {
	out := api.AuditLine{Id: a.ID, File: a.File, Kind: a.Kind, At: a.At, By: a.By, Uses: a.Uses, Score: a.Score, Findings: a.Findings,
		Unjudged: a.Unjudged, Path: given(a.Path)}
	if a.Run != 0 {
		out.Project, out.Run = &a.Project, &a.Run
	}
	return out
}

func near(n audit.Near) api.NearColor {
	return api.NearColor{Name: n.Name, Hex: n.Hex, DeltaE: round(n.DeltaE, 2), Word: n.Word, Successor: given(n.Successor)}
}

func audited(a audits.Audit) api.Audit {
	out := api.Audit{Line: auditLine(a.Line), About: a.About, Size: a.Size, Tolerance: a.Tolerance, Notes: nonNil(a.Notes), Count: a.Count,
		Colors: []api.FoundColor{}, Undecided: a.Undecided, Unread: unread(a.Unread), Causes: []api.FoundCause{}}
	for _, c := range a.Causes {
		out.Causes = append(out.Causes, api.FoundCause{Text: c.Text, Colors: c.Colors, Uses: c.Uses})
	}
	out.Totals = []api.VerdictTotal{}
	for _, verdict := range slices.Sorted(maps.Keys(a.Totals)) {
		out.Totals = append(out.Totals, api.VerdictTotal{Verdict: api.Verdict(verdict), Uses: a.Totals[verdict]})
	}
	out.Next = given(a.Next)
	for _, c := range a.Colors {
		f := api.FoundColor{Key: c.Key, Cmyk: given(c.CMYK), Spot: given(c.Spot), Wide: given(c.Wide), Value: c.Value, Hex: c.Hex,
			Count: c.Count, Fixed: given(c.Fixed), Verdict: api.Verdict(c.Verdict), Reason: given(c.Reason), Cause: given(c.Cause),
			Places: places(c.Places), PlaceCount: c.PlaceCount}
		if e := c.Excuse; e != nil {
			f.Excuse = &struct {
				By     string        `json:"by"`
				Reason string        `json:"reason"`
				Until  *openapi.Date `json:"until,omitempty"`
			}{By: e.By, Reason: e.Reason}
			if !e.Until.IsZero() {
				f.Excuse.Until = &openapi.Date{Time: e.Until}
			}
		}
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
		out.Colors = append(out.Colors, f)
	}
	return out
}

func places(list []audit.Place) []api.FoundPlace {
	out := []api.FoundPlace{}
	for _, p := range list {
		out = append(out, api.FoundPlace{Where: p.Where, Count: p.Count, Value: p.Value, Linked: p.Linked, Fixed: given(p.Fixed)})
	}
	return out
}

func newGradient(b *api.NewGradient, id int64) library.Gradient {
	g := library.Gradient{ID: id, Name: b.Name, Angle: b.Angle, Space: string(b.Space)}
	if b.Version != nil {
		g.Version = *b.Version
	}
	for _, x := range b.Stops {
		g.Stops = append(g.Stops, library.Stop{Color: library.Ref{ID: x.Color}, Place: x.Place})
	}
	return g
}

func companions(list []api.NewRelative) []library.Companion {
	var out []library.Companion
	for _, r := range list {
		m := library.Companion{Kind: string(r.Kind), Amount: r.Amount, Permitted: r.Permitted}
		if r.Ground != nil {
			m.Ground.ID = *r.Ground
		}
		out = append(out, m)
	}
	return out
}
