package server

import (
	"context"

	"huekeep/api"
	"huekeep/core/color"
	"huekeep/core/ink"
	"huekeep/keep"
	"huekeep/store"
)

// Library: many colors at once, what is kept with a color, gradients, backup.

func (s *server) ChangeMany(ctx context.Context, in api.ChangeManyRequestObject) (api.ChangeManyResponseObject, error) {
	b := in.Body
	change := keep.Bulk{Colors: b.Colors, Group: b.Group, Role: b.Role, Tag: b.Tag, Successor: b.Successor, Set: b.Set}
	if b.Status != nil {
		status := string(*b.Status)
		change.Status = &status
	}
	return api.ChangeMany204Response{}, s.Keeper.ChangeMany(ctx, actorOf(ctx), change)
}

func (s *server) CopyColors(ctx context.Context, in api.CopyColorsRequestObject) (api.CopyColorsResponseObject, error) {
	n, err := s.Keeper.CopyColors(ctx, actorOf(ctx), in.Body.Colors, in.Body.House, in.Body.Move)
	return api.CopyColors200JSONResponse{Copied: n}, err
}

func (s *server) PlaceColor(ctx context.Context, in api.PlaceColorRequestObject) (api.PlaceColorResponseObject, error) {
	return api.PlaceColor204Response{}, s.Keeper.PlaceColor(ctx, actorOf(ctx), in.Color, in.Body.Before)
}

func (s *server) PutFamily(ctx context.Context, in api.PutFamilyRequestObject) (api.PutFamilyResponseObject, error) {
	var list []store.Companion
	for _, r := range in.Body.Family {
		list = append(list, store.Companion{Kind: string(r.Kind), Amount: r.Amount, Permitted: r.Permitted})
	}
	out, err := s.sheet(ctx, in.Color, s.Keeper.PutFamily(ctx, actorOf(ctx), in.Color, in.Body.Version, list))
	return api.PutFamily200JSONResponse(out), err
}

func (s *server) BringBack(ctx context.Context, in api.BringBackRequestObject) (api.BringBackResponseObject, error) {
	out, err := s.sheet(ctx, in.Color, s.Keeper.BringBack(ctx, actorOf(ctx), in.Color, in.Body.Version, in.Body.Event))
	return api.BringBack200JSONResponse(out), err
}

func (s *server) RenameGroup(ctx context.Context, in api.RenameGroupRequestObject) (api.RenameGroupResponseObject, error) {
	return api.RenameGroup204Response{}, s.Keeper.RenameGroup(ctx, actorOf(ctx), in.Body.Name, in.Body.To)
}

func (s *server) DeleteGroup(ctx context.Context, in api.DeleteGroupRequestObject) (api.DeleteGroupResponseObject, error) {
	return api.DeleteGroup204Response{}, s.Keeper.DeleteGroup(ctx, actorOf(ctx), in.Body.Name)
}

func (s *server) gradients(ctx context.Context, err error) ([]api.Gradient, error) {
	if err != nil {
		return nil, err
	}
	list, err := s.Keeper.Gradients(ctx, actorOf(ctx))
	return gradients(list), err
}

func (s *server) ListGradients(ctx context.Context, _ api.ListGradientsRequestObject) (api.ListGradientsResponseObject, error) {
	out, err := s.gradients(ctx, nil)
	return api.ListGradients200JSONResponse(out), err
}

func newGradient(b *api.NewGradient, id int64) store.Gradient {
	g := store.Gradient{ID: id, Name: b.Name, Angle: float64(b.Angle), Space: string(b.Space)}
	if b.Version != nil {
		g.Version = *b.Version
	}
	for _, x := range b.Stops {
		g.Stops = append(g.Stops, store.GradientStop{ColorID: x.Color, Place: float64(x.Place)})
	}
	return g
}

func (s *server) AddGradient(ctx context.Context, in api.AddGradientRequestObject) (api.AddGradientResponseObject, error) {
	out, err := s.gradients(ctx, s.Keeper.PutGradient(ctx, actorOf(ctx), newGradient(in.Body, 0)))
	return api.AddGradient200JSONResponse(out), err
}

func (s *server) ChangeGradient(ctx context.Context, in api.ChangeGradientRequestObject) (api.ChangeGradientResponseObject, error) {
	out, err := s.gradients(ctx, s.Keeper.PutGradient(ctx, actorOf(ctx), newGradient(in.Body, in.Gradient)))
	return api.ChangeGradient200JSONResponse(out), err
}

func (s *server) DeleteGradient(ctx context.Context, in api.DeleteGradientRequestObject) (api.DeleteGradientResponseObject, error) {
	return api.DeleteGradient204Response{}, s.Keeper.DeleteGradient(ctx, actorOf(ctx), in.Gradient)
}

func (s *server) RestoreLibrary(ctx context.Context, in api.RestoreLibraryRequestObject) (api.RestoreLibraryResponseObject, error) {
	_, data, err := upload(in.Body)
	if err != nil {
		return nil, err
	}
	r, err := s.Keeper.Restore(ctx, actorOf(ctx), data, in.Params.Replace)
	return api.RestoreLibrary200JSONResponse{Added: r.Added, Present: r.Present, Renamed: nonNil(r.Renamed)}, err
}

func (s *server) presses(ctx context.Context, err error) ([]api.Press, error) {
	if err != nil {
		return nil, err
	}
	list, err := s.Keeper.Presses(ctx, actorOf(ctx))
	out := []api.Press{}
	for _, p := range list {
		out = append(out, api.Press{Name: p.Name, Label: p.Label, InkLimit: float32(p.InkLimit), Shipped: p.Shipped, Profile: p.Description(), By: p.By})
	}
	return out, err
}

func (s *server) ListPresses(ctx context.Context, _ api.ListPressesRequestObject) (api.ListPressesResponseObject, error) {
	out, err := s.presses(ctx, nil)
	return api.ListPresses200JSONResponse(out), err
}

func (s *server) AddPress(ctx context.Context, in api.AddPressRequestObject) (api.AddPressResponseObject, error) {
	_, data, err := upload(in.Body)
	if err != nil {
		return nil, err
	}
	limit := 0.0
	if in.Params.InkLimit != nil {
		limit = float64(*in.Params.InkLimit)
	}
	out, err := s.presses(ctx, s.Keeper.AddPress(ctx, actorOf(ctx), in.Params.Label, limit, data))
	return api.AddPress200JSONResponse(out), err
}

func (s *server) DeletePress(ctx context.Context, in api.DeletePressRequestObject) (api.DeletePressResponseObject, error) {
	return api.DeletePress204Response{}, s.Keeper.DeletePress(ctx, actorOf(ctx), in.Press)
}

func (s *server) FindInks(ctx context.Context, in api.FindInksRequestObject) (api.FindInksResponseObject, error) {
	stock := ink.Coated
	if in.Params.Stock != nil {
		stock = ink.Stock(*in.Params.Stock)
	}
	list, err := s.Keeper.FindInks(ctx, actorOf(ctx), in.Params.Query, stock, text(in.Params.Near))
	out := api.FindInks200JSONResponse{}
	for _, i := range list {
		row := api.FoundInk{Code: i.Code, Name: i.Name, Class: i.Class, Hex: i.Look.Hex()}
		if i.DeltaE >= 0 {
			de, word := float32(round(i.DeltaE, 2)), color.Word(i.DeltaE)
			row.DeltaE, row.Word = &de, &word
		}
		out = append(out, row)
	}
	return out, err
}

func (s *server) inkBook(ctx context.Context, err error) (api.InkBook, error) {
	if err != nil {
		return api.InkBook{}, err
	}
	b, err := s.Keeper.InkBook(ctx, actorOf(ctx))
	if err != nil {
		return api.InkBook{}, err
	}
	return api.InkBook{Name: b.Name, Own: b.Own, Count: len(b.Inks), Classes: b.Classes(), By: b.By, Csv: b.CSV}, nil
}

func (s *server) GetInkBook(ctx context.Context, _ api.GetInkBookRequestObject) (api.GetInkBookResponseObject, error) {
	out, err := s.inkBook(ctx, nil)
	return api.GetInkBook200JSONResponse(out), err
}

func (s *server) PutInkBook(ctx context.Context, in api.PutInkBookRequestObject) (api.PutInkBookResponseObject, error) {
	_, data, err := upload(in.Body)
	if err != nil {
		return nil, err
	}
	out, err := s.inkBook(ctx, s.Keeper.PutInkBook(ctx, actorOf(ctx), in.Params.Name, string(data)))
	return api.PutInkBook200JSONResponse(out), err
}

func (s *server) DropInkBook(ctx context.Context, _ api.DropInkBookRequestObject) (api.DropInkBookResponseObject, error) {
	out, err := s.inkBook(ctx, s.Keeper.DropInkBook(ctx, actorOf(ctx)))
	return api.DropInkBook200JSONResponse(out), err
}
