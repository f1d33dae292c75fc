package server

import (
	"context"
	"slices"

	"huekeep/api"
	"huekeep/core/color"
	"huekeep/core/contrast"
	"huekeep/core/library"
	"huekeep/core/starter"
	"huekeep/core/swatchfile"
	"huekeep/keep"
	"huekeep/keep/gathering"
)

// Gather: what comes in besides pasted lists.

func (s *server) PutOnTray(ctx context.Context, in api.PutOnTrayRequestObject) (api.PutOnTrayResponseObject, error) {
	var list []gathering.NewCandidate
	for _, c := range in.Body.Colors {
		n := gathering.NewCandidate{Name: text(c.Name), Value: c.Value, CMYK: text(c.Cmyk), Spot: text(c.Spot), Screen: text(c.Screen),
			Lab: text(c.Lab), Spectrum: spectrum(c.Spectrum), Source: text(c.Source), Origin: string(c.Origin)}
		if c.Position != nil {
			n.Position = *c.Position
		}
		if c.Decides != nil {
			n.Decides = string(*c.Decides)
		}
		list = append(list, n)
	}
	if err := s.Gathering.PutOnTray(ctx, actorOf(ctx), list); err != nil {
		return nil, err
	}
	out, err := s.tray(ctx)
	return api.PutOnTray201JSONResponse(out), err
}

func (s *server) AddColor(ctx context.Context, in api.AddColorRequestObject) (api.AddColorResponseObject, error) {
	b := in.Body
	n := gathering.NewCandidate{Name: text(b.Name), Value: b.Value, CMYK: text(b.Cmyk), Spot: text(b.Spot), Screen: text(b.Screen),
		Lab: text(b.Lab), Spectrum: spectrum(b.Spectrum), Source: text(b.Source)}
	c, err := s.Gathering.AddColor(ctx, actorOf(ctx), n, gathering.Admission{Group: text(b.Group), Role: text(b.Role), Set: text(b.Set)})
	if err != nil {
		return nil, err
	}
	out, err := s.sheet(ctx, c.ID, nil)
	return api.AddColor201JSONResponse(out), err
}

func (s *server) OrderTray(ctx context.Context, in api.OrderTrayRequestObject) (api.OrderTrayResponseObject, error) {
	if err := s.Gathering.OrderTray(ctx, actorOf(ctx), in.Body.Items); err != nil {
		return nil, err
	}
	out, err := s.tray(ctx)
	return api.OrderTray200JSONResponse(out), err
}

func (s *server) ReadFile(ctx context.Context, in api.ReadFileRequestObject) (api.ReadFileResponseObject, error) {
	name, data, err := s.upload(ctx, in.Body)
	if err != nil {
		return nil, err
	}
	f, err := s.Gathering.ReadFile(ctx, actorOf(ctx), name, data)
	if err != nil {
		return nil, err
	}
	out := api.FoundFile{File: name, Label: f.Label, Name: f.Name, Notes: nonNil(f.Found.Notes), Colors: []api.ColorInFile{}}
	if slices.ContainsFunc(f.Left, func(l swatchfile.Left) bool { return !l.Words }) {
		out.Text = given(f.Text)
	}
	if len(f.Pages) > 0 {
		out.Pages, out.Of = &[]api.PageInFile{}, &f.Of
		for _, p := range f.Pages {
			page := api.PageInFile{Number: p.Page, Width: p.Width, Height: p.Height}
			if len(p.PNG) > 0 {
				page.Png = &p.PNG
			}
			*out.Pages = append(*out.Pages, page)
		}
	}
	for _, c := range f.Colors {
		row := api.ColorInFile{Name: c.Name, Hex: c.RGB.Hex(), Group: given(c.Group), Generic: c.Generic, Notes: nonNil(c.Notes)}
		if b, ok := c.Build("coated"); ok {
			row.Cmyk = given(b.Value.String())
		}
		if s, ok := c.Spot("coated"); ok {
			row.Spot = given(s.Code)
		}
		row.Master = master(c.Color)
		if c.Plain.Origin != "" {
			row.Screen = given(c.RGB.Hex())
		}
		if lab := c.Reading(); lab != nil {
			row.Lab = given(library.WriteLab(*lab))
		}
		if c.Share > 0 {
			share := round(c.Share, 4)
			row.Share = &share
		}
		if c.Uses > 0 {
			row.Uses, row.Where, row.Places = &c.Uses, &c.Where, &c.Places
		}
		if c.Picture {
			row.Picture = &c.Picture
		}
		if w := c.Written; w != nil {
			row.Written = &api.Written{Page: w.Page, Place: w.Place, At: w.At[:], Given: []api.GivenValue{}, Also: nonNil(w.Also),
				Disagree: []api.Disagreement{}, Others: []api.GivenScreen{}}
			for _, v := range w.Given {
				row.Written.Given = append(row.Written.Given, api.GivenValue{Kind: v.Kind, Text: v.Text})
			}
			for _, d := range w.Disagree {
				row.Written.Disagree = append(row.Written.Disagree, api.Disagreement{Kind: api.DisagreementKind(d.Kind), Text: d.Text})
			}
			for _, o := range w.Others {
				row.Written.Others = append(row.Written.Others, api.GivenScreen{Text: o.Text, Hex: o.RGB.Hex()})
			}
		}
		if n := c.Nearest; n != nil {
			row.Nearest = &api.NearColor{Name: n.Name, Hex: n.RGB.Hex(), DeltaE: round(c.DeltaE, 2), Word: color.Word(c.DeltaE)}
		}
		out.Colors = append(out.Colors, row)
	}
	return api.ReadFile200JSONResponse(out), nil
}

func (s *server) ListStarters(ctx context.Context, in api.ListStartersRequestObject) (api.ListStartersResponseObject, error) {
	q := gathering.StarterQuery{Words: text(in.Params.Words), Near: text(in.Params.Near), Key: text(in.Params.Key)}
	if in.Params.Order != nil {
		q.Order = string(*in.Params.Order)
	}
	list, err := s.Gathering.Starters(ctx, actorOf(ctx), q)
	out := api.ListStarters200JSONResponse{}
	for _, x := range list {
		row := api.Starter{Key: x.Key, Name: x.Name, Keywords: nonNil(x.Keywords), Liked: x.Liked, Uses: x.Uses, Mine: x.Mine,
			Private: x.Private, Colors: []string{}}
		if len(x.Missed) > 0 {
			row.Missed = &x.Missed
		}
		for _, c := range x.Colors {
			row.Colors = append(row.Colors, c.Hex())
		}
		row.Ground, row.Type, row.Main = starter.Specimen(x.Colors)
		row.Legible = contrast.Ratio(x.Colors[row.Type], x.Colors[row.Ground]) >= contrast.TextAA
		if x.Closest >= 0 {
			de, word := round(x.DeltaE, 2), color.Word(x.DeltaE)
			row.Closest, row.DeltaE, row.Word = &x.Closest, &de, &word
		}
		out = append(out, row)
	}
	return out, err
}

func (s *server) PackStarter(ctx context.Context, in api.PackStarterRequestObject) (api.PackStarterResponseObject, error) {
	name, packing, data, err := s.Gathering.PackStarter(ctx, actorOf(ctx), in.Starter, in.Packing)
	if err != nil {
		return nil, err
	}
	return file{data, packing.MediaType, name}, nil
}

func (s *server) AddStarter(ctx context.Context, in api.AddStarterRequestObject) (api.AddStarterResponseObject, error) {
	key, err := s.Gathering.AddStarter(ctx, actorOf(ctx), in.Body.Name, in.Body.Keywords, in.Body.Colors, in.Body.Private)
	return api.AddStarter201JSONResponse{Key: key}, err
}

func (s *server) MarkStarter(ctx context.Context, in api.MarkStarterRequestObject) (api.MarkStarterResponseObject, error) {
	return api.MarkStarter204Response{}, s.Gathering.MarkStarter(ctx, actorOf(ctx), in.Starter, in.Body.Liked, in.Body.Used != nil &&
		*in.Body.Used)
}

func (s *server) DeleteStarter(ctx context.Context, in api.DeleteStarterRequestObject) (api.DeleteStarterResponseObject, error) {
	return api.DeleteStarter204Response{}, s.Gathering.DeleteStarter(ctx, actorOf(ctx), in.Starter)
}

func (s *server) TakeReading(ctx context.Context, in api.TakeReadingRequestObject) (api.TakeReadingResponseObject, error) {
	run := "true"
	if in.Body.Run != nil {
		run = string(*in.Body.Run)
	}
	var all []color.Lab
	for _, b := range in.Body.Before {
		lab, err := library.ReadLab(b)
		if err != nil {
			return nil, keep.Wrong("before", "%v", err)
		}
		all = append(all, lab)
	}
	r, err := s.Gathering.Take(ctx, actorOf(ctx), gathering.Patch{Color: in.Body.Color, Medium: string(in.Body.Medium), Run: run})
	if err != nil {
		return nil, err
	}
	mean, spread, err := s.Gathering.Mean(ctx, actorOf(ctx), in.Body.Color, append(all, r.Lab))
	if err != nil {
		return nil, err
	}
	return api.TakeReading200JSONResponse{Device: mean.Device, Readings: append(nonNil(in.Body.Before), library.WriteLab(r.Lab)),
		Mean: library.WriteLab(mean.Lab), Hex: mean.Look.Hex(),
		Spread: round(spread, 2), DeltaE: round(mean.DeltaE, 2), Word: color.Word(mean.DeltaE), Tolerance: float64(mean.Tolerance),
		Within: mean.DeltaE <= mean.Tolerance, Target: ref(mean.Target)}, nil
}

// spectrum is what a reading was of; nil for none.
func spectrum(s *api.Spectrum) *color.Spectrum {
	if s == nil {
		return nil
	}
	return &color.Spectrum{Start: s.Start, Step: s.Step, Values: s.Values}
}
