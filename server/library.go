package server

import (
	"bytes"
	"context"
	"io"
	"strings"

	"huekeep/api"
	"huekeep/core/color"
	"huekeep/core/ink"
	"huekeep/core/swatchfile"
	"huekeep/keep"
	"huekeep/keep/ledger"
	"huekeep/keep/media"
)

// Library: many colors at once, what is kept with a color, gradients, backup.

func (s *server) ChangeMany(ctx context.Context, in api.ChangeManyRequestObject) (api.ChangeManyResponseObject, error) {
	b := in.Body
	change := ledger.Bulk{Colors: b.Colors, Group: b.Group, Role: b.Role, Tag: b.Tag, Successor: b.Successor, Set: b.Set}
	if b.Status != nil {
		status := string(*b.Status)
		change.Status = &status
	}
	return api.ChangeMany204Response{}, s.Ledger.ChangeMany(ctx, actorOf(ctx), change)
}

func (s *server) CopyColors(ctx context.Context, in api.CopyColorsRequestObject) (api.CopyColorsResponseObject, error) {
	to, err := s.Accounts.Enter(ctx, sessionOf(ctx), in.Body.House)
	if err != nil {
		return nil, err
	}
	n, err := s.Ledger.CopyColors(ctx, actorOf(ctx), to, in.Body.Colors, in.Body.Move)
	return api.CopyColors201JSONResponse{Copied: n}, err
}

func (s *server) PlaceColor(ctx context.Context, in api.PlaceColorRequestObject) (api.PlaceColorResponseObject, error) {
	return api.PlaceColor204Response{}, s.Ledger.PlaceColor(ctx, actorOf(ctx), in.Color, in.Body.Before)
}

func (s *server) PutFamily(ctx context.Context, in api.PutFamilyRequestObject) (api.PutFamilyResponseObject, error) {
	out, err := s.sheet(ctx, in.Color, s.Ledger.PutFamily(ctx, actorOf(ctx), in.Color, in.Body.Version, companions(in.Body.Family)))
	return api.PutFamily200JSONResponse(out), err
}

func (s *server) BringBack(ctx context.Context, in api.BringBackRequestObject) (api.BringBackResponseObject, error) {
	out, err := s.sheet(ctx, in.Color, s.Ledger.BringBack(ctx, actorOf(ctx), in.Color, in.Body.Version, in.Body.Event))
	return api.BringBack200JSONResponse(out), err
}

func (s *server) BringAllBack(ctx context.Context, in api.BringAllBackRequestObject) (api.BringAllBackResponseObject, error) {
	var list []ledger.Back
	for _, c := range in.Body.Colors {
		list = append(list, ledger.Back{Color: c.Color, Version: c.Version, Event: c.Event})
	}
	return api.BringAllBack204Response{}, s.Ledger.BringAllBack(ctx, actorOf(ctx), list)
}

func (s *server) RenameGroup(ctx context.Context, in api.RenameGroupRequestObject) (api.RenameGroupResponseObject, error) {
	return api.RenameGroup204Response{}, s.Ledger.RenameGroup(ctx, actorOf(ctx), in.Body.Name, in.Body.To)
}

func (s *server) DeleteGroup(ctx context.Context, in api.DeleteGroupRequestObject) (api.DeleteGroupResponseObject, error) {
	return api.DeleteGroup204Response{}, s.Ledger.DeleteGroup(ctx, actorOf(ctx), in.Body.Name)
}

func (s *server) pairs(ctx context.Context, err error) ([]api.PairRule, error) {
	if err != nil {
		return nil, err
	}
	list, err := s.Ledger.Pairs(ctx, actorOf(ctx))
	return pairRules(list), err
}

func (s *server) ListPairs(ctx context.Context, _ api.ListPairsRequestObject) (api.ListPairsResponseObject, error) {
	out, err := s.pairs(ctx, nil)
	return api.ListPairs200JSONResponse(out), err
}

func (s *server) PutPair(ctx context.Context, in api.PutPairRequestObject) (api.PutPairResponseObject, error) {
	out, err := s.pairs(ctx, s.Ledger.PutPair(ctx, actorOf(ctx), in.Color, in.Ground, in.Body.May, in.Body.Ratio))
	return api.PutPair200JSONResponse(out), err
}

func (s *server) DeletePair(ctx context.Context, in api.DeletePairRequestObject) (api.DeletePairResponseObject, error) {
	return api.DeletePair204Response{}, s.Ledger.DeletePair(ctx, actorOf(ctx), in.Color, in.Ground)
}

func (s *server) gradients(ctx context.Context, err error) ([]api.Gradient, error) {
	if err != nil {
		return nil, err
	}
	list, err := s.Ledger.Gradients(ctx, actorOf(ctx))
	return gradients(list), err
}

func (s *server) ListGradients(ctx context.Context, _ api.ListGradientsRequestObject) (api.ListGradientsResponseObject, error) {
	out, err := s.gradients(ctx, nil)
	return api.ListGradients200JSONResponse(out), err
}

func (s *server) AddGradient(ctx context.Context, in api.AddGradientRequestObject) (api.AddGradientResponseObject, error) {
	out, err := s.gradients(ctx, s.Ledger.PutGradient(ctx, actorOf(ctx), newGradient(in.Body, 0)))
	return api.AddGradient201JSONResponse(out), err
}

func (s *server) ChangeGradient(ctx context.Context, in api.ChangeGradientRequestObject) (api.ChangeGradientResponseObject, error) {
	out, err := s.gradients(ctx, s.Ledger.PutGradient(ctx, actorOf(ctx), newGradient(in.Body, in.Gradient)))
	return api.ChangeGradient200JSONResponse(out), err
}

func (s *server) TakeGradient(ctx context.Context, in api.TakeGradientRequestObject) (api.TakeGradientResponseObject, error) {
	name, form, data, err := s.Ledger.TakeGradient(ctx, actorOf(ctx), in.Gradient, string(in.Form))
	if err != nil {
		return nil, err
	}
	return file{data, form.MediaType, name}, nil
}

func (s *server) DeleteGradient(ctx context.Context, in api.DeleteGradientRequestObject) (api.DeleteGradientResponseObject, error) {
	return api.DeleteGradient204Response{}, s.Ledger.DeleteGradient(ctx, actorOf(ctx), in.Gradient)
}

func (s *server) RestoreLibrary(ctx context.Context, in api.RestoreLibraryRequestObject) (api.RestoreLibraryResponseObject, error) {
	_, data, err := s.upload(ctx, in.Body)
	if err != nil {
		return nil, err
	}
	if bytes.HasPrefix(data, []byte("PK")) {
		r, err := s.Whole.Restore(ctx, actorOf(ctx), bytes.NewReader(data), int64(len(data)), in.Params.Replace)
		there := nonNil(r.There)
		return api.RestoreLibrary200JSONResponse{Added: r.Added, Present: r.Present, Renamed: nonNil(r.Renamed), Mails: &r.Mails,
			Back:     &r.Back,
			Projects: &r.Projects, Runs: &r.Runs, Excuses: &r.Excuses, Plans: &r.Plans, There: &there}, err
	}
	r, err := s.Backup.Restore(ctx, actorOf(ctx), data, in.Params.Replace)
	return api.RestoreLibrary200JSONResponse{Added: r.Added, Present: r.Present, Renamed: nonNil(r.Renamed), Mails: &r.Mails,
		Back: &r.Back}, err
}

func (s *server) LookAtBackup(ctx context.Context, in api.LookAtBackupRequestObject) (api.LookAtBackupResponseObject, error) {
	_, data, err := s.upload(ctx, in.Body)
	if err != nil {
		return nil, err
	}
	c, err := s.Whole.Look(ctx, actorOf(ctx), bytes.NewReader(data), int64(len(data)))
	if err != nil {
		return nil, err
	}
	out := api.LookAtBackup200JSONResponse{House: c.House, Colors: c.Colors, Sets: c.Sets, Editions: c.Editions, Recipients: c.Recipients,
		Boards: c.Boards, Gradients: c.Gradients,
		Pairs: c.Pairs, Presses: c.Presses, Typefaces: c.Typefaces, Starters: c.Starters, InkBook: filled(c.InkBook), Archive: c.Archive,
		Excuses: c.Excuses, Plans: c.Plans,
		Fresh: c.Fresh, Present: c.Present, Renamed: nonNil(c.Renamed)}
	out.Here.Colors, out.Here.Sets, out.Here.Editions, out.Here.Recipients = c.Here.Colors, c.Here.Sets, c.Here.Editions, c.Here.Recipients
	out.Here.Mails, out.Here.Lost = c.Here.Mails, c.Here.Lost
	out.Projects = []api.ArchivedProject{}
	for _, p := range c.Projects {
		out.Projects = append(out.Projects, api.ArchivedProject{Name: p.Name, Files: p.Files, Runs: p.Runs, Bare: p.Bare, There: p.There})
	}
	return out, nil
}

func (s *server) GoBack(ctx context.Context, in api.GoBackRequestObject) (api.GoBackResponseObject, error) {
	return api.GoBack204Response{}, s.Backup.GoBack(ctx, actorOf(ctx), in.Way, in.Params.Over != nil && *in.Params.Over)
}

// ExportHouse writes the archive of the house while it is sent.
func (s *server) ExportHouse(ctx context.Context, _ api.ExportHouseRequestObject) (api.ExportHouseResponseObject, error) {
	actor := actorOf(ctx)
	if err := actor.May(keep.RoleKeeper); err != nil {
		return nil, err
	}
	return streamed{func(w io.Writer) error { return s.Whole.Write(context.WithoutCancel(ctx), actor, w) }, "application/zip",
		swatchfile.Slug(actor.House.Name) + ".zip"}, nil
}

func (s *server) presses(ctx context.Context, err error) ([]api.Press, error) {
	if err != nil {
		return nil, err
	}
	list, err := s.Media.Presses(ctx, actorOf(ctx))
	if err != nil {
		return nil, err
	}
	approved, err := s.Media.Approved(ctx, actorOf(ctx))
	out := []api.Press{}
	for _, p := range list {
		out = append(out, api.Press{Name: p.Name, Label: p.Label, InkLimit: float64(p.InkLimit), Shipped: p.Shipped,
			Profile: p.Description(), Digest: p.Digest(), Gray: given(!p.Shipped && p.Gray()), By: p.By, Approved: approved[p.Name]})
	}
	return out, err
}

func (s *server) ListPresses(ctx context.Context, _ api.ListPressesRequestObject) (api.ListPressesResponseObject, error) {
	out, err := s.presses(ctx, nil)
	return api.ListPresses200JSONResponse(out), err
}

func (s *server) GetProfile(ctx context.Context, in api.GetProfileRequestObject) (api.GetProfileResponseObject, error) {
	data, err := s.Media.Profile(ctx, actorOf(ctx), in.Press)
	return api.GetProfile200ApplicationoctetStreamResponse{Body: bytes.NewReader(data), ContentLength: int64(len(data))}, err
}

func (s *server) AddPress(ctx context.Context, in api.AddPressRequestObject) (api.AddPressResponseObject, error) {
	_, data, err := s.upload(ctx, in.Body)
	if err != nil {
		return nil, err
	}
	limit := 0.0
	if in.Params.InkLimit != nil {
		limit = float64(*in.Params.InkLimit)
	}
	out, err := s.presses(ctx, s.Media.AddPress(ctx, actorOf(ctx), in.Params.Label, limit, data))
	return api.AddPress201JSONResponse(out), err
}

func (s *server) DeletePress(ctx context.Context, in api.DeletePressRequestObject) (api.DeletePressResponseObject, error) {
	return api.DeletePress204Response{}, s.Media.DeletePress(ctx, actorOf(ctx), in.Press)
}

func (s *server) FindInks(ctx context.Context, in api.FindInksRequestObject) (api.FindInksResponseObject, error) {
	want := media.WantedInks{Query: strings.TrimSpace(text(in.Params.Query)), Stock: ink.Coated, Class: text(in.Params.Class),
		Near: strings.TrimSpace(text(in.Params.Near))}
	if in.Params.Stock != nil {
		want.Stock = ink.Stock(*in.Params.Stock)
	}
	list, err := s.Media.FindInks(ctx, actorOf(ctx), want)
	out := api.FindInks200JSONResponse{}
	for _, i := range list {
		row := api.FoundInk{Code: i.Code, Name: i.Name, Class: i.Class, Hex: i.Look.Hex()}
		if i.DeltaE >= 0 {
			de, word := round(i.DeltaE, 2), color.Word(i.DeltaE)
			row.DeltaE, row.Word = &de, &word
		}
		out = append(out, row)
	}
	return out, err
}

func (s *server) inkBook(ctx context.Context, back int64, err error) (api.InkBook, error) {
	if err != nil {
		return api.InkBook{}, err
	}
	b, err := s.Media.InkBook(ctx, actorOf(ctx))
	if err != nil {
		return api.InkBook{}, err
	}
	out := api.InkBook{Name: b.Name, Own: b.Own, Count: len(b.Inks), Classes: b.Classes(), Meant: b.Meant().Classes(), OneStock: b.OneStock,
		By: b.By, Csv: b.CSV}
	if back != 0 {
		out.Back = &back
	}
	return out, nil
}

func (s *server) GetInkBook(ctx context.Context, _ api.GetInkBookRequestObject) (api.GetInkBookResponseObject, error) {
	out, err := s.inkBook(ctx, 0, nil)
	return api.GetInkBook200JSONResponse(out), err
}

func (s *server) PutInkBook(ctx context.Context, in api.PutInkBookRequestObject) (api.PutInkBookResponseObject, error) {
	_, data, err := s.upload(ctx, in.Body)
	if err != nil {
		return nil, err
	}
	back, err := s.Ledger.PutInkBook(ctx, actorOf(ctx), in.Params.Name, string(data), in.Params.Without != nil && *in.Params.Without)
	out, err := s.inkBook(ctx, back, err)
	return api.PutInkBook200JSONResponse(out), err
}

func (s *server) DropInkBook(ctx context.Context, in api.DropInkBookRequestObject) (api.DropInkBookResponseObject, error) {
	back, err := s.Ledger.DropInkBook(ctx, actorOf(ctx), in.Params.Without != nil && *in.Params.Without)
	out, err := s.inkBook(ctx, back, err)
	return api.DropInkBook200JSONResponse(out), err
}

func (s *server) ListInks(ctx context.Context, in api.ListInksRequestObject) (api.ListInksResponseObject, error) {
	classes, to, err := s.Media.Ramp(ctx, actorOf(ctx), text(in.Params.Near))
	out := api.InkRamp{Classes: []api.InkClass{}}
	if to != nil {
		hex := to.RGB.Hex()
		out.Near = &hex
	}
	for _, c := range classes {
		class := api.InkClass{Name: c.Name, Meant: c.Meant, Sections: []api.InkSection{}}
		for _, part := range c.Sections {
			section := api.InkSection{Name: part.Name, Inks: []api.BookInk{}}
			for _, k := range part.Inks {
				row := api.BookInk{Code: k.Code, Name: k.Name, Coated: k.Coated.Hex(), Uncoated: k.Uncoated.Hex()}
				if k.DeltaE >= 0 {
					de, word := round(k.DeltaE, 2), color.Word(k.DeltaE)
					row.DeltaE, row.Word = &de, &word
				}
				section.Inks = append(section.Inks, row)
			}
			class.Sections = append(class.Sections, section)
		}
		out.Classes = append(out.Classes, class)
	}
	return api.ListInks200JSONResponse(out), err
}

func (s *server) RemoveColor(ctx context.Context, in api.RemoveColorRequestObject) (api.RemoveColorResponseObject, error) {
	return api.RemoveColor204Response{}, s.Ledger.Remove(ctx, actorOf(ctx), in.Color, in.Params.Version)
}

func (s *server) UnremoveColor(ctx context.Context, in api.UnremoveColorRequestObject) (api.UnremoveColorResponseObject, error) {
	out, err := s.sheet(ctx, in.Color, s.Ledger.Unremove(ctx, actorOf(ctx), in.Color))
	return api.UnremoveColor201JSONResponse(out), err
}

func (s *server) GetHistory(ctx context.Context, in api.GetHistoryRequestObject) (api.GetHistoryResponseObject, error) {
	list, more, err := s.Ledger.History(ctx, actorOf(ctx), in.Color, in.Params.Before)
	return api.GetHistory200JSONResponse{History: history(list), Older: more}, err
}
