package server

import (
	"context"

	"huekeep/api"
	"huekeep/keep/hooks"
	"huekeep/keep/send"
)

// What is public, programs that are told, and numbers of how editions spread.

func publicLink(l send.PublicLink) api.PublicLink {
	out := api.PublicLink{Id: l.ID, Name: l.SetName, Path: pickupPath + l.Token, Until: l.Until, By: l.By, At: l.At, Opened: l.Opened,
		Fetched: l.Fetched, Last: l.Last}
	if l.Set != 0 {
		out.Set = &l.Set
	}
	return out
}

func (s *server) ListPublic(ctx context.Context, _ api.ListPublicRequestObject) (api.ListPublicResponseObject, error) {
	list, err := s.Send.Public(ctx, actorOf(ctx))
	out := api.ListPublic200JSONResponse{}
	for _, l := range list {
		out = append(out, publicLink(l))
	}
	return out, err
}

func (s *server) OpenPublic(ctx context.Context, in api.OpenPublicRequestObject) (api.OpenPublicResponseObject, error) {
	set := int64(0)
	if in.Body.Set != nil {
		set = *in.Body.Set
	}
	l, err := s.Send.OpenPublic(ctx, actorOf(ctx), set, in.Body.Until)
	return api.OpenPublic200JSONResponse(publicLink(l)), err
}

func (s *server) ClosePublic(ctx context.Context, in api.ClosePublicRequestObject) (api.ClosePublicResponseObject, error) {
	return api.ClosePublic204Response{}, s.Send.ClosePublic(ctx, actorOf(ctx), in.Link)
}

func apiHook(h hooks.Hook) api.Hook {
	out := api.Hook{Id: h.ID, Address: h.Address, Events: []api.HookEvent{}, Paused: h.Paused, Why: filled(h.Why), By: h.By, At: h.At,
		Secret: filled(h.Secret)}
	for _, e := range h.Events {
		out.Events = append(out.Events, api.HookEvent(e))
	}
	return out
}

func hookContent(in *api.HookContent) hooks.Content {
	c := hooks.Content{Address: in.Address, Paused: in.Paused != nil && *in.Paused}
	for _, e := range in.Events {
		c.Events = append(c.Events, hooks.Event(e))
	}
	return c
}

func hookMessage(m hooks.Message) api.HookMessage {
	out := api.HookMessage{Id: m.ID, Event: string(m.Event), State: api.HookMessageState(m.State), Attempts: m.Attempts,
		Answer: filled(m.Answer), At: m.At, Next: m.Next, Body: m.Body}
	if m.Status > 0 {
		out.Status = &m.Status
	}
	return out
}

func (s *server) ListHooks(ctx context.Context, _ api.ListHooksRequestObject) (api.ListHooksResponseObject, error) {
	list, err := s.Hooks.List(ctx, actorOf(ctx))
	out := api.ListHooks200JSONResponse{}
	for _, h := range list {
		out = append(out, apiHook(h))
	}
	return out, err
}

func (s *server) AddHook(ctx context.Context, in api.AddHookRequestObject) (api.AddHookResponseObject, error) {
	h, err := s.Hooks.Add(ctx, actorOf(ctx), hookContent(in.Body))
	return api.AddHook201JSONResponse(apiHook(h)), err
}

func (s *server) ChangeHook(ctx context.Context, in api.ChangeHookRequestObject) (api.ChangeHookResponseObject, error) {
	h, err := s.Hooks.Alter(ctx, actorOf(ctx), in.Hook, hookContent(in.Body))
	return api.ChangeHook200JSONResponse(apiHook(h)), err
}

func (s *server) DropHook(ctx context.Context, in api.DropHookRequestObject) (api.DropHookResponseObject, error) {
	return api.DropHook204Response{}, s.Hooks.Drop(ctx, actorOf(ctx), in.Hook)
}

func (s *server) TestHook(ctx context.Context, in api.TestHookRequestObject) (api.TestHookResponseObject, error) {
	m, err := s.Hooks.Test(ctx, actorOf(ctx), in.Hook)
	return api.TestHook202JSONResponse(hookMessage(m)), err
}

func (s *server) ListHookMessages(ctx context.Context, in api.ListHookMessagesRequestObject) (api.ListHookMessagesResponseObject, error) {
	list, err := s.Hooks.Messages(ctx, actorOf(ctx), in.Hook)
	out := api.ListHookMessages200JSONResponse{}
	for _, m := range list {
		out = append(out, hookMessage(m))
	}
	return out, err
}

func (s *server) GetSpread(ctx context.Context, in api.GetSpreadRequestObject) (api.GetSpreadResponseObject, error) {
	of, err := s.Send.Spread(ctx, actorOf(ctx), in.Set)
	if err != nil {
		return nil, err
	}
	out := api.GetSpread200JSONResponse{Recipients: of.Recipients, Editions: []api.SpreadEdition{}, Days: []api.SpreadDay{},
		Quiet: []api.SpreadQuiet{}}
	for _, e := range of.Editions {
		to := api.SpreadEdition{Number: e.Number, At: e.At, Loaded: e.Loaded, Median: e.Median}
		if e.Withdrawn != nil {
			yes := true
			to.Withdrawn = &yes
		}
		out.Editions = append(out.Editions, to)
	}
	for _, d := range of.Days {
		out.Days = append(out.Days, api.SpreadDay{At: d.At, Have: d.Have})
	}
	for _, q := range of.Quiet {
		out.Quiet = append(out.Quiet, api.SpreadQuiet{Id: q.ID, Name: q.Name})
	}
	return out, nil
}

func (s *server) GetMonthly(ctx context.Context, _ api.GetMonthlyRequestObject) (api.GetMonthlyResponseObject, error) {
	m, err := s.House.Monthly(ctx, actorOf(ctx))
	return api.GetMonthly200JSONResponse{On: m.On, Mail: m.Mail, Subject: m.Subject, Text: m.Text}, err
}

func (s *server) SetMonthly(ctx context.Context, in api.SetMonthlyRequestObject) (api.SetMonthlyResponseObject, error) {
	return api.SetMonthly204Response{}, s.House.SetMonthly(ctx, actorOf(ctx), in.Body.On)
}
