package server

import (
	"bytes"
	"context"

	"huekeep/api"
	"huekeep/keep/send"
)

// How files are loaded, in whose words, and what somebody could not load.

func loadingNote(n send.Note) api.LoadingNote {
	out := api.LoadingNote{Key: n.Key, Packings: n.Packings, For: n.For, Do: n.Do, Folders: nonNil(n.Folders), Worked: n.Worked,
		Otherwise: n.Else, Own: n.Own, Picture: n.Picture, Version: n.Version}
	if n.Version > 0 {
		out.By, out.At = &n.By, &n.At
	}
	return out
}

func (s *server) ListLoading(ctx context.Context, _ api.ListLoadingRequestObject) (api.ListLoadingResponseObject, error) {
	list, err := s.Send.Notes(ctx, actorOf(ctx))
	out := api.ListLoading200JSONResponse{}
	for _, n := range list {
		out = append(out, loadingNote(n))
	}
	return out, err
}

func (s *server) PutLoading(ctx context.Context, in api.PutLoadingRequestObject) (api.PutLoadingResponseObject, error) {
	version := 0
	if in.Body.Version != nil {
		version = *in.Body.Version
	}
	n, err := s.Send.PutNote(ctx, actorOf(ctx), in.Note, version, in.Body.Text)
	return api.PutLoading200JSONResponse(loadingNote(n)), err
}

func (s *server) GetLoadingPicture(ctx context.Context, in api.GetLoadingPictureRequestObject) (api.GetLoadingPictureResponseObject,
	error) {
	data, err := s.Send.NotePicture(ctx, actorOf(ctx), in.Note)
	return api.GetLoadingPicture200ImagepngResponse{Body: bytes.NewReader(data), ContentLength: int64(len(data))}, err
}

func (s *server) PutLoadingPicture(ctx context.Context, in api.PutLoadingPictureRequestObject) (api.PutLoadingPictureResponseObject,
	error) {
	_, data, err := s.upload(ctx, in.Body)
	if err != nil {
		return nil, err
	}
	return api.PutLoadingPicture204Response{}, s.Send.PutNotePicture(ctx, actorOf(ctx), in.Note, data)
}

func (s *server) DropLoadingPicture(ctx context.Context, in api.DropLoadingPictureRequestObject) (api.DropLoadingPictureResponseObject,
	error) {
	return api.DropLoadingPicture204Response{}, s.Send.PutNotePicture(ctx, actorOf(ctx), in.Note, nil)
}

func (s *server) ListTroubles(ctx context.Context, _ api.ListTroublesRequestObject) (api.ListTroublesResponseObject, error) {
	list, err := s.Send.Troubles(ctx, actorOf(ctx))
	out := api.ListTroubles200JSONResponse{}
	for _, t := range list {
		out = append(out, api.Trouble{Id: t.ID, Recipient: t.Recipient, RecipientName: t.RecipientName, Set: t.Set, SetName: t.SetName,
			Edition: t.Edition, Packing: t.Packing, Note: t.Note,
			Tried: t.Tried, Times: t.Times, At: t.At})
	}
	return out, err
}

func (s *server) SettleTrouble(ctx context.Context, in api.SettleTroubleRequestObject) (api.SettleTroubleResponseObject, error) {
	return api.SettleTrouble204Response{}, s.Send.Settle(ctx, actorOf(ctx), in.Trouble, true)
}

func (s *server) ReopenTrouble(ctx context.Context, in api.ReopenTroubleRequestObject) (api.ReopenTroubleResponseObject, error) {
	return api.ReopenTrouble204Response{}, s.Send.Settle(ctx, actorOf(ctx), in.Trouble, false)
}
