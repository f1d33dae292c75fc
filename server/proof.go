package server

import (
	"context"
	"path"
	"strings"

	"huekeep/api"
	"huekeep/core/color"
	"huekeep/core/library"
	"huekeep/core/vision"
	"huekeep/core/work"
	"huekeep/keep"
	"huekeep/keep/media"
)

// Proof: what the server computes of it; what moves is computed in the browser.

func (s *server) PrintColors(ctx context.Context, in api.PrintColorsRequestObject) (api.PrintColorsResponseObject, error) {
	colors, err := paints(in.Body.Colors)
	if err != nil {
		return nil, err
	}
	label, list, err := s.Media.Print(ctx, actorOf(ctx), in.Body.Press, colors)
	if err != nil {
		return nil, err
	}
	out := api.PrintedSet{Label: label, Rows: []api.PrintedColor{}, Text: media.Tell(actorOf(ctx).House.Name, in.Body.Subject, label, list)}
	for _, p := range list {
		row := api.PrintedColor{Name: p.Color.Name, Hex: p.Color.RGB.Hex(), Look: p.Press.Look.Hex(), Build: p.Press.Value.String(),
			Origin: api.Origin(p.Press.Origin),
			DeltaE: p.Press.DeltaE, Word: color.Word(p.Press.DeltaE), Direction: p.Press.Direction, Mends: p.Mends,
			Ink: p.Ink.Ink.Code, InkHex: p.Ink.Look.Hex(), InkDeltaE: p.Ink.DeltaE, InkWord: color.Word(p.Ink.DeltaE)}
		out.Rows = append(out.Rows, row)
	}
	return api.PrintColors200JSONResponse(out), nil
}

func (s *server) ProofPicture(ctx context.Context, in api.ProofPictureRequestObject) (api.ProofPictureResponseObject, error) {
	name, data, err := s.upload(ctx, in.Body)
	if err != nil {
		return nil, err
	}
	q := in.Params
	out, err := s.Media.Proof(ctx, actorOf(ctx), name, data, media.ProofOf{Press: q.Press, Intent: q.Intent, BlackPoint: q.Bpc,
		Paper: q.Paper, Form: q.Form})
	return file{out, media.ProofForms[q.Form], strings.TrimSuffix(name, path.Ext(name)) + ", " + q.Press + "." + q.Form}, err
}

// paints are colors of a subject.
func paints(list []api.BoardPaint) (out []library.Color, err error) {
	for _, p := range list {
		of := paint(p)
		rgb, err := color.FromHex(of.Hex)
		if err != nil {
			return nil, keep.Wrong("colors", "%v", err)
		}
		out = append(out, library.Color{ID: of.ID, Name: of.Name, RGB: rgb})
	}
	return out, nil
}

func (s *server) PutToWork(ctx context.Context, in api.PutToWorkRequestObject) (api.PutToWorkResponseObject, error) {
	var colors []library.Color
	if in.Body.Colors != nil {
		var err error
		if colors, err = paints(*in.Body.Colors); err != nil {
			return nil, err
		}
	}
	set, edition := int64(0), 0
	if in.Body.Set != nil {
		set = *in.Body.Set
	}
	if in.Body.Edition != nil {
		edition = *in.Body.Edition
	}
	w, err := s.Send.AtWork(ctx, actorOf(ctx), set, edition, colors)
	if err != nil {
		return nil, err
	}
	of := func(p work.Paint) api.WorkPaint { return api.WorkPaint{Slot: p.Slot, Name: p.Name, Hex: p.RGB.Hex()} }
	out := api.AtWork{Looks: []api.WorkLook{}, Series: []api.WorkPaint{}, Weak: []api.WorkWeak{}}
	for _, l := range w.Looks {
		look := api.WorkLook{Name: api.WorkLookName(l.Name), Ground: of(l.Ground), Text: of(l.Text), Panel: of(l.Panel),
			Strong: of(l.Strong), Parts: []api.WorkPart{}}
		for _, p := range l.Parts {
			look.Parts = append(look.Parts, api.WorkPart{Key: p.Key, Type: of(p.Type), On: of(p.On), Ratio: p.Ratio, Need: p.Need,
				Passes: p.Passes()})
		}
		out.Looks = append(out.Looks, look)
	}
	for _, p := range w.Series {
		out.Series = append(out.Series, of(p))
	}
	for _, p := range w.Weak {
		out.Weak = append(out.Weak, api.WorkWeak{Kind: vision.Kinds[p.Kind].Name, A: of(p.A), B: of(p.B), DeltaE: p.DeltaE})
	}
	at, worst := w.Worst()
	out.Worst.Look, out.Worst.Key = w.Looks[at].Name, worst.Key
	return api.PutToWork200JSONResponse(out), nil
}
