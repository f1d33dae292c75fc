package server

import (
	"context"
	"fmt"
	"slices"
	"strings"
	"time"

	"huekeep/api"
	"huekeep/core/color"
	"huekeep/core/library"
	"huekeep/core/swatchfile"
	"huekeep/keep"
	"huekeep/keep/send"

	"github.com/gofiber/fiber/v3"
)

// Swatch sets

func (s *server) ListSets(ctx context.Context, _ api.ListSetsRequestObject) (api.ListSetsResponseObject, error) {
	out, err := s.sets(ctx, nil)
	return api.ListSets200JSONResponse(out), err
}

func (s *server) GetSet(ctx context.Context, r api.GetSetRequestObject) (api.GetSetResponseObject, error) {
	out, err := s.set(ctx, r.Set, nil)
	return api.GetSet200JSONResponse(out), err
}

// sets lists the sets of some numbers, or all of them.
func (s *server) sets(ctx context.Context, ids []int64) ([]api.SwatchSet, error) {
	sets, err := s.Send.Sets(ctx, actorOf(ctx))
	out := []api.SwatchSet{}
	for _, x := range sets {
		if ids == nil || slices.Contains(ids, x.ID) {
			out = append(out, swatchSet(x))
		}
	}
	return out, err
}

func (s *server) set(ctx context.Context, id int64, err error) (api.SwatchSet, error) {
	if err != nil {
		return api.SwatchSet{}, err
	}
	x, err := s.Send.Set(ctx, actorOf(ctx), id)
	return swatchSet(x), err
}

func (s *server) CreateSet(ctx context.Context, in api.CreateSetRequestObject) (api.CreateSetResponseObject, error) {
	id, err := s.Send.CreateSet(ctx, actorOf(ctx), setContent(*in.Body))
	out, err := s.set(ctx, id, err)
	return api.CreateSet201JSONResponse(out), err
}

func (s *server) ChangeSet(ctx context.Context, in api.ChangeSetRequestObject) (api.ChangeSetResponseObject, error) {
	version := 0
	if in.Body.Version != nil {
		version = *in.Body.Version
	}
	out, err := s.set(ctx, in.Set, s.Send.ChangeSet(ctx, actorOf(ctx), in.Set, version, setContent(*in.Body)))
	return api.ChangeSet200JSONResponse(out), err
}

func setContent(in api.SetContent) send.Content {
	out := send.Content{Name: in.Name, Colors: in.Colors}
	if f := in.Follows; f != nil {
		out.Follows = &send.Follows{Role: text(f.Role), Tag: text(f.Tag)}
	}
	if in.Slots != nil {
		out.Slots = &[]library.Assigned{}
		for _, g := range *in.Slots {
			*out.Slots = append(*out.Slots, library.Assigned{Slot: g.Slot, Color: library.Ref{ID: g.Color}})
		}
	}
	if b := in.Boxes; b != nil {
		out.Boxes = &library.Boxes{Count: b.Count}
		for _, id := range b.Order {
			out.Boxes.Order = append(out.Boxes.Order, library.Ref{ID: id})
		}
	}
	return out
}

func (s *server) DeleteSet(ctx context.Context, in api.DeleteSetRequestObject) (api.DeleteSetResponseObject, error) {
	return api.DeleteSet204Response{}, s.Send.DeleteSet(ctx, actorOf(ctx), in.Set)
}

func (s *server) RestoreSet(ctx context.Context, in api.RestoreSetRequestObject) (api.RestoreSetResponseObject, error) {
	out, err := s.set(ctx, in.Set, s.Send.RestoreSet(ctx, actorOf(ctx), in.Set))
	return api.RestoreSet200JSONResponse(out), err
}

func (s *server) TakeColors(ctx context.Context, in api.TakeColorsRequestObject) (api.TakeColorsResponseObject, error) {
	copied := in.Body.Copy != nil && *in.Body.Copy
	out, err := s.set(ctx, in.Set, s.Send.Take(ctx, actorOf(ctx), in.Set, in.Body.From, in.Body.Colors, copied))
	return api.TakeColors200JSONResponse(out), err
}

// Editions

func (s *server) FixEdition(ctx context.Context, in api.FixEditionRequestObject) (api.FixEditionResponseObject, error) {
	out, err := s.set(ctx, in.Set, s.Send.Fix(ctx, actorOf(ctx), in.Set, text(in.Body.Note)))
	return api.FixEdition201JSONResponse(out), err
}

func (s *server) FixEditions(ctx context.Context, in api.FixEditionsRequestObject) (api.FixEditionsResponseObject, error) {
	if err := s.Send.FixAll(ctx, actorOf(ctx), in.Body.Sets, text(in.Body.Note)); err != nil {
		return nil, err
	}
	out, err := s.sets(ctx, in.Body.Sets)
	return api.FixEditions201JSONResponse(out), err
}

func (s *server) GetEdition(ctx context.Context, in api.GetEditionRequestObject) (api.GetEditionResponseObject, error) {
	e, err := s.Send.Edition(ctx, actorOf(ctx), in.Set, in.Number)
	if err != nil {
		return nil, err
	}
	return api.GetEdition200JSONResponse(edition(e)), nil
}

func (s *server) CompareEditions(ctx context.Context, in api.CompareEditionsRequestObject) (api.CompareEditionsResponseObject, error) {
	list, err := s.Send.Compare(ctx, actorOf(ctx), in.Set, in.Params.From, in.Params.To)
	out := api.CompareEditions200JSONResponse{}
	for _, d := range list {
		line := api.Difference{Name: d.Name, What: d.What}
		if d.Before != nil {
			hex := d.Before.Hex()
			line.Before = &hex
		}
		if d.After != nil {
			hex := d.After.Hex()
			line.After = &hex
		}
		if d.Before != nil && d.After != nil {
			de, word := round(d.DeltaE, 2), color.Word(d.DeltaE)
			line.DeltaE, line.Word = &de, &word
		}
		out = append(out, line)
	}
	return out, err
}

func (s *server) WithdrawEdition(ctx context.Context, in api.WithdrawEditionRequestObject) (api.WithdrawEditionResponseObject, error) {
	out, err := s.set(ctx, in.Set, s.Send.Withdraw(ctx, actorOf(ctx), in.Set, in.Number, in.Body.Why, true))
	return api.WithdrawEdition200JSONResponse(out), err
}

func (s *server) ReinstateEdition(ctx context.Context, in api.ReinstateEditionRequestObject) (api.ReinstateEditionResponseObject, error) {
	out, err := s.set(ctx, in.Set, s.Send.Withdraw(ctx, actorOf(ctx), in.Set, in.Number, "", false))
	return api.ReinstateEdition200JSONResponse(out), err
}

func (s *server) SendEdition(ctx context.Context, in api.SendEditionRequestObject) (api.SendEditionResponseObject, error) {
	out, err := s.set(ctx, in.Set, s.Send.Send(ctx, actorOf(ctx), in.Set, in.Number, in.Body.Recipients))
	return api.SendEdition200JSONResponse(out), err
}

func (s *server) SendBehind(ctx context.Context, in api.SendBehindRequestObject) (api.SendBehindResponseObject, error) {
	var only []int64
	if in.Body.Recipients != nil {
		only = *in.Body.Recipients
	}
	n, err := s.Send.SendBehind(ctx, actorOf(ctx), in.Body.Sets, only, yes(in.Body.Remind))
	if err != nil {
		return nil, err
	}
	sets, err := s.sets(ctx, in.Body.Sets)
	return api.SendBehind200JSONResponse{Recipients: n, Sets: sets}, err
}

func (s *server) DownloadPacking(ctx context.Context, in api.DownloadPackingRequestObject) (api.DownloadPackingResponseObject, error) {
	p, err := s.Send.Pack(ctx, actorOf(ctx), in.Set, in.Number, in.Packing)
	if err != nil {
		return nil, err
	}
	return file{p.Data, p.Packing.MediaType, p.File}, nil
}

func (s *server) DownloadKit(ctx context.Context, in api.DownloadKitRequestObject) (api.DownloadKitResponseObject, error) {
	p, err := s.Send.Kit(ctx, actorOf(ctx), in.Set, in.Number, in.Recipient)
	if err != nil {
		return nil, err
	}
	return file{p.Data, p.Packing.MediaType, p.File}, nil
}

// page is an answer that is a page of its own.
type page struct {
	text string
}

func (p page) VisitKeyInCardResponse(c fiber.Ctx) error {
	c.Set("Content-Type", "text/html; charset=utf-8")
	return c.SendString(p.text)
}

func (s *server) KeyInCard(ctx context.Context, in api.KeyInCardRequestObject) (api.KeyInCardResponseObject, error) {
	e, err := s.Send.Edition(ctx, actorOf(ctx), in.Set, in.Number)
	if err != nil {
		return nil, err
	}
	notes, err := s.notesOf(ctx, actorOf(ctx))
	if err != nil {
		return nil, err
	}
	card, err := keyIn(e, fmt.Sprintf("/h/%d/send/%d", in.House, in.Set), notes)
	if err != nil {
		return nil, err
	}
	var b strings.Builder
	err = keyInTemplate.Execute(&b, card)
	return page{b.String()}, err
}

func (s *server) ListPackings(ctx context.Context, _ api.ListPackingsRequestObject) (api.ListPackingsResponseObject, error) {
	usual, err := s.Send.Usual(ctx, actorOf(ctx))
	out := api.ListPackings200JSONResponse{}
	for _, p := range swatchfile.Packings() {
		to := api.Packing{Name: p.Name, Label: p.Label, For: string(p.For), Extension: p.Extension, Load: p.Load, Usual: []string{},
			Words: p.Words(), Note: p.Loading().Key}
		for _, k := range send.Kinds {
			if slices.Contains(usual[k.Name], p.Name) {
				to.Usual = append(to.Usual, k.Name)
			}
		}
		out = append(out, to)
	}
	return out, err
}

// Recipients

func (s *server) ListRecipients(ctx context.Context, _ api.ListRecipientsRequestObject) (api.ListRecipientsResponseObject, error) {
	list, err := s.Send.Recipients(ctx, actorOf(ctx))
	out := api.ListRecipients200JSONResponse{}
	for _, r := range list {
		out = append(out, standing(r))
	}
	return out, err
}

func (s *server) GetRecipient(ctx context.Context, r api.GetRecipientRequestObject) (api.GetRecipientResponseObject, error) {
	out, err := s.recipient(ctx, r.Recipient, nil)
	return api.GetRecipient200JSONResponse(out), err
}

// recipient is one of the house's, as it stands.
func (s *server) recipient(ctx context.Context, id int64, err error) (api.Recipient, error) {
	if err != nil {
		return api.Recipient{}, err
	}
	list, err := s.Send.Recipients(ctx, actorOf(ctx))
	if err != nil {
		return api.Recipient{}, err
	}
	for _, r := range list {
		if r.ID == id {
			return standing(r), nil
		}
	}
	return api.Recipient{}, keep.None("recipient")
}

func newRecipient(in api.NewRecipient) send.NewRecipient {
	out := send.NewRecipient{Name: in.Name, Kind: in.Kind, Note: text(in.Note), Email: text(in.Email)}
	if in.Sets != nil {
		out.Sets = append([]int64{}, *in.Sets...)
	}
	if in.Packings != nil {
		out.Packings = append([]string{}, *in.Packings...)
	}
	if in.Ways != nil {
		out.Ways = []send.Way{}
		for _, w := range *in.Ways {
			out.Ways = append(out.Ways, send.Way(w))
		}
	}
	if in.Version != nil {
		out.Version = *in.Version
	}
	return out
}

func (s *server) CreateRecipient(ctx context.Context, in api.CreateRecipientRequestObject) (api.CreateRecipientResponseObject, error) {
	r, token, err := s.Send.AddRecipient(ctx, actorOf(ctx), newRecipient(*in.Body))
	out, err := s.recipient(ctx, r.ID, err)
	if token != "" {
		path := pickupPath + token
		out.Path = &path
	}
	return api.CreateRecipient201JSONResponse(out), err
}

func (s *server) ChangeRecipient(ctx context.Context, in api.ChangeRecipientRequestObject) (api.ChangeRecipientResponseObject, error) {
	out, err := s.recipient(ctx, in.Recipient, s.Send.ChangeRecipient(ctx, actorOf(ctx), in.Recipient, newRecipient(*in.Body)))
	return api.ChangeRecipient200JSONResponse(out), err
}

func (s *server) RemoveRecipient(ctx context.Context, in api.RemoveRecipientRequestObject) (api.RemoveRecipientResponseObject, error) {
	return api.RemoveRecipient204Response{}, s.Send.RemoveRecipient(ctx, actorOf(ctx), in.Recipient, true)
}

func (s *server) RestoreRecipient(ctx context.Context, in api.RestoreRecipientRequestObject) (api.RestoreRecipientResponseObject, error) {
	out, err := s.recipient(ctx, in.Recipient, s.Send.RemoveRecipient(ctx, actorOf(ctx), in.Recipient, false))
	return api.RestoreRecipient200JSONResponse(out), err
}

func (s *server) PauseRecipient(ctx context.Context, in api.PauseRecipientRequestObject) (api.PauseRecipientResponseObject, error) {
	out, err := s.recipient(ctx, in.Recipient, s.Send.Pause(ctx, actorOf(ctx), in.Recipient, true))
	return api.PauseRecipient200JSONResponse(out), err
}

func (s *server) ResumeRecipient(ctx context.Context, in api.ResumeRecipientRequestObject) (api.ResumeRecipientResponseObject, error) {
	out, err := s.recipient(ctx, in.Recipient, s.Send.Pause(ctx, actorOf(ctx), in.Recipient, false))
	return api.ResumeRecipient200JSONResponse(out), err
}

func (s *server) OpenPickup(ctx context.Context, in api.OpenPickupRequestObject) (api.OpenPickupResponseObject, error) {
	token, err := s.Send.OpenPickup(ctx, actorOf(ctx), in.Recipient)
	return api.OpenPickup201JSONResponse{Path: pickupPath + token}, err
}

func (s *server) ClosePickup(ctx context.Context, in api.ClosePickupRequestObject) (api.ClosePickupResponseObject, error) {
	return api.ClosePickup204Response{}, s.Send.ClosePickup(ctx, actorOf(ctx), in.Recipient)
}

func (s *server) ListReceipts(ctx context.Context, in api.ListReceiptsRequestObject) (api.ListReceiptsResponseObject, error) {
	before := int64(0)
	if in.Params.Before != nil {
		before = *in.Params.Before
	}
	list, err := s.Send.Receipts(ctx, actorOf(ctx), in.Recipient, before, text(in.Params.Words))
	out := api.ListReceipts200JSONResponse{}
	for _, r := range list {
		to := *receipt(&r)
		to.Id = &r.ID
		out = append(out, to)
	}
	return out, err
}

func (s *server) AddReceipt(ctx context.Context, in api.AddReceiptRequestObject) (api.AddReceiptResponseObject, error) {
	out, err := s.set(ctx, in.Body.Set, s.Send.Told(ctx, actorOf(ctx), in.Recipient, in.Body.Set, in.Body.Edition, text(in.Body.Note)))
	return api.AddReceipt201JSONResponse(out), err
}

func (s *server) JoinSet(ctx context.Context, in api.JoinSetRequestObject) (api.JoinSetResponseObject, error) {
	out, err := s.set(ctx, in.Set, s.Send.Join(ctx, actorOf(ctx), in.Set, in.Recipient, true))
	return api.JoinSet200JSONResponse(out), err
}

func (s *server) LeaveSet(ctx context.Context, in api.LeaveSetRequestObject) (api.LeaveSetResponseObject, error) {
	out, err := s.set(ctx, in.Set, s.Send.Join(ctx, actorOf(ctx), in.Set, in.Recipient, false))
	return api.LeaveSet200JSONResponse(out), err
}

// The outbox

func (s *server) ListMails(ctx context.Context, _ api.ListMailsRequestObject) (api.ListMailsResponseObject, error) {
	list, err := s.Send.Mails(ctx, actorOf(ctx))
	out := api.ListMails200JSONResponse{}
	for _, m := range list {
		line := api.Mail{Id: m.ID, Recipient: m.Recipient, To: m.To, Subject: m.Subject, State: api.MailState(m.State),
			Attempts: m.Attempts, Problem: filled(m.Problem), At: m.At}
		if s.Outbox != nil {
			_, line.Kept = s.Outbox.Letter(m.MessageID)
		}
		out = append(out, line)
	}
	return out, err
}

func (s *server) OpenMail(ctx context.Context, in api.OpenMailRequestObject) (api.OpenMailResponseObject, error) {
	list, err := s.Send.Mails(ctx, actorOf(ctx))
	if err != nil {
		return nil, err
	}
	at := slices.IndexFunc(list, func(m send.Mail) bool { return m.ID == in.Mail })
	if at < 0 {
		return nil, keep.None("mail")
	}
	if s.Outbox != nil {
		if l, ok := s.Outbox.Letter(list[at].MessageID); ok {
			return api.OpenMail200JSONResponse{From: l.From, To: l.To, Subject: l.Subject, At: l.At, Text: l.Text, Picture: l.Picture}, nil
		}
	}
	return nil, &keep.Error{Kind: keep.NotFound, Message: "This mail went to a real mail server, which does not show it."}
}

// What the contract says of them

func swatchSet(s send.Set) api.SwatchSet {
	out := api.SwatchSet{Id: s.ID, Name: s.Name, Version: s.Version, Colors: []api.ColorRef{}, Editions: []api.EditionLine{},
		Changed: s.Current() == 0 || len(s.Changes) > 0, Recipients: []api.Holding{}, Current: s.Current(), Slots: slots(s.Theme(),
			s.Members),
		Follows: api.Follows{Role: filled(s.Follows.Role), Tag: filled(s.Follows.Tag)}, Boxes: api.Boxes{Count: s.Boxes.Count,
			Order: []int64{}}}
	for _, c := range s.Members {
		out.Colors = append(out.Colors, ref(c))
	}
	for _, r := range s.Boxes.Order {
		out.Boxes.Order = append(out.Boxes.Order, r.ID)
	}
	for _, e := range s.Editions {
		line := api.EditionLine{Number: e.Number, At: e.At, By: e.By, Count: e.Count, Note: filled(e.Note)}
		if w := e.Withdrawn; w != nil {
			line.Withdrawn = &api.Withdrawal{At: w.At, By: w.By, Why: w.Why}
		}
		out.Editions = append(out.Editions, line)
	}
	if len(s.Changes) > 0 {
		out.Changes = &s.Changes
	}
	for _, h := range s.Holdings {
		out.Recipients = append(out.Recipients, holding(h))
	}
	return out
}

func slots(list []swatchfile.Slot, members []library.Color) []api.ThemeSlot {
	out := []api.ThemeSlot{}
	for _, s := range list {
		line := api.ThemeSlot{Slot: s.Name, Name: s.Color.Name, Hex: s.Color.RGB.Hex(), Why: s.Why, Given: s.Given}
		if s.Color.ID != 0 && slices.ContainsFunc(members, func(c library.Color) bool { return c.ID == s.Color.ID }) {
			id := s.Color.ID
			line.Color = &id
		}
		out = append(out, line)
	}
	return out
}

func holding(h send.Holding) api.Holding {
	out := api.Holding{Recipient: h.ID, Name: h.Name, Kind: h.Kind, Packings: nonNil(h.Packings), Ways: ways(h.Ways),
		State: api.HoldingState(h.State),
		Set:   h.Set, SetName: h.SetName, Current: h.Current, Steps: h.Steps, Since: h.Since, Receipt: receipt(h.Last)}
	out.Edition, out.Sent = given(h.Edition), given(h.Sent)
	if h.Has != nil {
		out.Held = &h.Has
	}
	if h.Now != nil {
		out.Now = &h.Now
	}
	return out
}

func ways(list []send.Way) []string {
	out := []string{}
	for _, w := range list {
		out = append(out, string(w))
	}
	return out
}

func receipt(r *send.Receipt) *api.Receipt {
	if r == nil {
		return nil
	}
	return &api.Receipt{Edition: r.Edition, Taken: r.Taken, Slots: r.Slots, At: r.At, Message: r.Message, Ok: r.OK,
		Way: filled(string(r.Way)), Packing: filled(r.Packing),
		Client: filled(r.Client), Times: &r.Times, Until: r.Until, By: filled(r.By), Set: &r.Set, SetName: filled(r.SetName)}
}

func standing(r send.Standing) api.Recipient {
	out := api.Recipient{Id: r.ID, Name: r.Name, Kind: api.RecipientKind(r.Kind), Note: r.Note, Packings: nonNil(r.Packings),
		Email: r.Email, Version: r.Version,
		Paused: r.Paused, Holdings: []api.Holding{}, Ways: []api.RecipientWays{}, Fetched: r.Fetched}
	for _, w := range r.Ways {
		out.Ways = append(out.Ways, api.RecipientWays(w))
	}
	for _, h := range r.Holdings {
		out.Holdings = append(out.Holdings, holding(h))
	}
	if r.Pickup != nil {
		out.Pickup = &struct {
			At time.Time `json:"at"`
			By string    `json:"by"`
		}{r.Pickup.At, r.Pickup.By}
	}
	return out
}

func edition(e library.Edition) api.Edition {
	out := api.Edition{Set: e.Set, Number: e.Number, At: e.FixedAt, By: e.By.Name, Packings: []api.PackingLine{}}
	type named = struct {
		Hex  string `json:"hex"`
		Name string `json:"name"`
	}
	out.Colors = []named{}
	for _, c := range e.Colors {
		out.Colors = append(out.Colors, named{c.RGB.Hex(), c.Name})
	}
	for _, p := range swatchfile.Packings() {
		line := api.PackingLine{Name: p.Name, Label: p.Label, File: p.FileName(e), Loses: nonNil(p.Loses(e)), Leaves: p.LeavesOut(e),
			For: string(p.For), Load: p.Load, Slots: []api.ThemeSlot{}}
		if p.Name == "deck" && len(e.Colors) > 0 {
			theme := swatchfile.ThemeSlots(e.Colors, e.Slots...)
			line.Slots = slots(theme[:], e.Colors)
		}
		out.Packings = append(out.Packings, line)
	}
	return out
}

// filled is a text for a member of the contract that is left out where there is none.
func filled(s string) *string {
	if s == "" {
		return nil
	}
	return &s
}
