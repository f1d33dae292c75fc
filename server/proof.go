package server

import (
	"context"
	"path"
	"strings"

	"huekeep/api"
	"huekeep/core/color"
	"huekeep/core/library"
	"huekeep/keep"
	"huekeep/keep/media"
)

// Proof: what the server computes of it; what moves is computed in the browser.

func (s *server) PrintColors(ctx context.Context, in api.PrintColorsRequestObject) (api.PrintColorsResponseObject, error) {
	var colors []library.Color
	for _, p := range in.Body.Colors {
		of := paint(p)
		rgb, err := color.FromHex(of.Hex)
		if err != nil {
			return nil, keep.Wrong("colors", "%v", err)
		}
		colors = append(colors, library.Color{ID: of.ID, Name: of.Name, RGB: rgb})
	}
	label, list, err := s.Media.Print(ctx, actorOf(ctx), in.Body.Press, colors)
	if err != nil {
		return nil, err
	}
	out := api.PrintedSet{Label: label, Rows: []api.PrintedColor{}, Text: media.Tell(actorOf(ctx).House.Name, in.Body.Subject, label, list)}
	for _, p := range list {
		row := api.PrintedColor{Name: p.Color.Name, Hex: p.Color.RGB.Hex(), Look: p.Press.Look.Hex(), Build: p.Press.Value.String(), Origin: api.Origin(p.Press.Origin),
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
	out, err := s.Media.Proof(ctx, actorOf(ctx), name, data, media.ProofOf{Press: q.Press, Intent: q.Intent, BlackPoint: q.Bpc, Paper: q.Paper, Form: q.Form})
	return file{out, media.ProofForms[q.Form], strings.TrimSuffix(name, path.Ext(name)) + ", " + q.Press + "." + q.Form}, err
}
