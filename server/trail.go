package server

import (
	"bufio"
	"context"
	"encoding/csv"
	"encoding/json"
	"io"
	"log/slog"
	"slices"
	"strconv"
	"strings"
	"time"

	"github.com/gofiber/fiber/v3"
	openapi_types "github.com/oapi-codegen/runtime/types"

	"huekeep/api"
	"huekeep/keep"
	"huekeep/keep/trail"
)

// houseOps change the house itself.
var houseOps = map[string]bool{"setSettings": true, "setJudging": true, "giveUpHouse": true}

// thing is what a request is about.
func thing(c fiber.Ctx, a api.Access, houseID int64) trail.Thing {
	if houseOps[a.Operation] {
		return trail.Thing{Kind: "house", ID: houseID}
	}
	for _, kind := range trail.Things() {
		if id, err := strconv.ParseInt(c.Params(kind), 10, 64); err == nil && kind != "house" {
			return trail.Thing{Kind: kind, ID: id}
		}
	}
	return trail.Thing{}
}

// asked is what a request asks for, and what it calls the thing that it makes.
func asked(c fiber.Ctx) (body map[string]any, name string) {
	if !strings.HasPrefix(c.Get("Content-Type"), "application/json") || json.Unmarshal(c.Body(), &body) != nil {
		return nil, ""
	}
	for _, k := range []string{"name", "title", "email", "color"} {
		if text, ok := body[k].(string); ok {
			return body, text
		}
	}
	return body, ""
}

// details are what an operation says of itself for the trail, beside what was asked for: the names of files that came.
type details map[string]any

func tell(ctx context.Context, key string, value any) {
	if d, ok := ctx.Value(detailsKey).(details); ok {
		d[key] = value
	}
}

// trailed does what an operation does and puts it on the trail of its house.
func (s *server) trailed(c fiber.Ctx, a api.Access, actor keep.Actor) error {
	step, err := s.Trail.Begin(c.Context(), actor, a.Operation, thing(c, a, actor.House.ID))
	if err != nil {
		return err // what cannot be put on the trail is not done
	}
	body, called := asked(c)
	told := details{}
	c.SetContext(context.WithValue(c.Context(), detailsKey, told))
	err = c.Next()
	if body == nil {
		body = map[string]any{}
	}
	for k, v := range c.Queries() {
		if k != "version" {
			told[strings.Clone(k)] = strings.Clone(v)
		}
	}
	for _, k := range []string{"press", "stock", "packing", "number", "format"} { // of the address
		if v := c.Params(k); v != "" {
			told[k] = strings.Clone(v)
		}
	}
	for k, v := range told {
		if _, there := body[k]; !there {
			body[k] = v
		}
	}
	outcome := c.Response().StatusCode()
	if err != nil {
		outcome = statusOf(err)
	}
	s.Trail.End(c.Context(), actor, step, outcome, body, called)
	return err
}

// Reading the trail

func trailEntry(t trail.Entry) api.TrailEntry {
	return api.TrailEntry{Id: t.ID, At: t.At, By: t.By, Member: t.Account, Via: t.Via, Address: t.Address, Request: t.Request, What: t.What,
		About: t.About, Said: t.Said(), Times: t.Times,
		Before: given(t.Before), After: given(t.After), Outcome: t.Outcome}
}

func trailQuery(account *int64, what, find *string, from, to *openapi_types.Date) trail.Query {
	q := trail.Query{Account: value(account), What: value(what), Find: value(find)}
	if from != nil {
		q.From = &from.Time
	}
	if to != nil {
		end := to.AddDate(0, 0, 1) // the day itself is part of it
		q.To = &end
	}
	return q
}

func value[T any](p *T) (v T) {
	if p != nil {
		v = *p
	}
	return v
}

func (s *server) GetTrail(ctx context.Context, in api.GetTrailRequestObject) (api.GetTrailResponseObject, error) {
	p := in.Params
	q := trailQuery(p.Member, p.What, p.Find, p.From, p.To)
	q.Before = value(p.Before)
	rows, next, err := s.Trail.Entries(ctx, actorOf(ctx), q)
	if err != nil {
		return nil, err
	}
	out := api.TrailPage{Entries: []api.TrailEntry{}, Whats: []api.TrailWhat{}}
	for _, t := range rows {
		out.Entries = append(out.Entries, trailEntry(t))
	}
	if next > 0 {
		out.Next = &next
	}
	whats, err := s.Trail.Whats(ctx, actorOf(ctx))
	for _, w := range whats {
		out.Whats = append(out.Whats, api.TrailWhat{What: w, Said: trail.InWords(w)})
	}
	slices.SortFunc(out.Whats, func(a, b api.TrailWhat) int { return strings.Compare(a.Said, b.Said) })
	return api.GetTrail200JSONResponse(out), err
}

func (s *server) ExportTrail(ctx context.Context, in api.ExportTrailRequestObject) (api.ExportTrailResponseObject, error) {
	p := in.Params
	q := trailQuery(p.Member, p.What, p.Find, p.From, p.To)
	actor := actorOf(ctx)
	if err := actor.May(keep.RoleKeeper); err != nil {
		return nil, err
	}
	return streamed{func(w io.Writer) error {
			if in.Format == "csv" {
				out := csv.NewWriter(w)
				// the end tells
				_ = out.Write([]string{"at", "by", "said", "what", "about", "before", "after", "via", "address", "request", "outcome"})
				err := s.Trail.Whole(context.WithoutCancel(ctx), actor, q, func(t trail.Entry) error {
					row := []string{t.At.Format(time.RFC3339), t.By, t.Said(), t.What, t.About, t.Before, t.After, t.Via, t.Address,
						t.Request,
						strconv.Itoa(t.Outcome)}
					for i, cell := range row {
						if cell != "" && strings.ContainsRune("=+-@\t\r", rune(cell[0])) {
							row[i] = "'" + cell // a table must not take it for a formula
						}
					}
					return out.Write(row)
				})
				out.Flush()
				return err
			}
			out := json.NewEncoder(w)
			return s.Trail.Whole(context.WithoutCancel(ctx), actor, q, func(t trail.Entry) error { return out.Encode(trailEntry(t)) })
		}, map[string]string{"csv": "text/csv; charset=utf-8", "jsonl": "application/jsonl"}[string(in.Format)],
			"trail." + string(in.Format)},
		nil
}

// streamed is a file that is written while it is sent, since it may be large.
type streamed struct {
	write           func(io.Writer) error
	mediaType, name string
}

func (f streamed) send(c fiber.Ctx) error {
	c.Set("Content-Type", f.mediaType)
	c.Set("Content-Disposition", attachment(f.name))
	return c.SendStreamWriter(func(w *bufio.Writer) {
		if err := f.write(w); err != nil {
			slog.Error("a file broke off while it was sent", "name", f.name, "error", err)
		}
	})
}

// VisitExportTrailResponse implements the generated interface.
func (f streamed) VisitExportTrailResponse(c fiber.Ctx) error { return f.send(c) }

// VisitExportHouseResponse implements the generated interface.
func (f streamed) VisitExportHouseResponse(c fiber.Ctx) error { return f.send(c) }
