package server

import (
	"bufio"
	"bytes"
	"context"
	"encoding/base64"
	"encoding/json"
	"fmt"
	"time"

	"github.com/gofiber/fiber/v3"

	"huekeep/api"
	"huekeep/core/audit/kinds"
	"huekeep/core/limits"
	"huekeep/keep"
	"huekeep/keep/audits"
	"huekeep/keep/jobs"
)

// Audit, and the jobs that audits are run as.

func (s *server) ListAudits(ctx context.Context, in api.ListAuditsRequestObject) (api.ListAuditsResponseObject, error) {
	before := int64(0)
	if in.Params.Before != nil {
		before = *in.Params.Before
	}
	list, next, err := s.Audits.List(ctx, actorOf(ctx), before)
	out := api.ListAudits200JSONResponse{Audits: []api.AuditLine{}}
	for _, a := range list {
		out.Audits = append(out.Audits, auditLine(a))
	}
	if next != 0 {
		out.Next = &next
	}
	return out, err
}

func (s *server) CreateAudit(ctx context.Context, in api.CreateAuditRequestObject) (api.CreateAuditResponseObject, error) {
	name, data, err := s.upload(ctx, in.Body)
	if err != nil {
		return nil, err
	}
	j, err := s.Audits.Begin(ctx, actorOf(ctx), name, data)
	return api.CreateAudit202JSONResponse(job(j)), err
}

func from(p *int) int {
	if p == nil {
		return 0
	}
	return *p
}

func (s *server) GetAudit(ctx context.Context, in api.GetAuditRequestObject) (api.GetAuditResponseObject, error) {
	a, err := s.Audits.Audit(ctx, actorOf(ctx), in.Audit, from(in.Params.From))
	return api.GetAudit200JSONResponse(audited(a)), err
}

func (s *server) ListPlaces(ctx context.Context, in api.ListPlacesRequestObject) (api.ListPlacesResponseObject, error) {
	list, next, err := s.Audits.Places(ctx, actorOf(ctx), in.Audit, in.Params.Key, text(in.Params.Find), from(in.Params.From))
	out := api.ListPlaces200JSONResponse{Places: places(list)}
	if next != 0 {
		out.Next = &next
	}
	return out, err
}

func (s *server) GetMarked(ctx context.Context, in api.GetMarkedRequestObject) (api.GetMarkedResponseObject, error) {
	data, err := s.Audits.Marked(ctx, actorOf(ctx), in.Audit, in.Params.Hex)
	return api.GetMarked200ImagepngResponse{Body: bytes.NewReader(data), ContentLength: int64(len(data))}, err
}

func (s *server) ViewAudit(ctx context.Context, in api.ViewAuditRequestObject) (api.ViewAuditResponseObject, error) {
	var after *audits.After
	if made := value(in.Params.Repaint); made != 0 || yes(in.Params.After) {
		after = &audits.After{Repaint: made}
	}
	v, err := s.view(ctx, in.Audit, value(in.Params.Key), value(in.Params.Page), after)
	return api.ViewAudit200JSONResponse(v), err
}

func (s *server) ViewPlanned(ctx context.Context, in api.ViewPlannedRequestObject) (api.ViewPlannedResponseObject, error) {
	b := in.Body
	if len(b.Colors) == 0 {
		return nil, keep.Wrong("colors", "a plan says at least of one color what becomes of it")
	}
	plan, err := s.planOf(ctx, &b.Colors, b.Theme, yes(b.Link))
	if err != nil {
		return nil, err
	}
	v, err := s.view(ctx, in.Audit, "", value(b.Page), &audits.After{Plan: plan})
	return api.ViewPlanned200JSONResponse(v), err
}

// markups are the media types of what a browser shows from its text.
var markups = map[string]string{"svg": "image/svg+xml", "html": "text/html"}

func (s *server) view(ctx context.Context, audit int64, key string, page int, after *audits.After) (out api.AuditView, err error) {
	v, err := s.Audits.View(ctx, actorOf(ctx), audit, key, page, after)
	if err != nil {
		return out, err
	}
	out = api.AuditView{Form: api.AuditViewForm(v.Form), Why: given(v.Why), Page: v.Page, Pages: v.Pages, On: append([]int{}, v.On...),
		Boxes: []api.AuditBox{}}
	drawing := func(data []byte) *string {
		if len(data) == 0 {
			return nil
		}
		return given("data:" + markups[v.Markup] + ";base64," + base64.StdEncoding.EncodeToString(data))
	}
	switch {
	case len(v.Drawn) > 0:
		out.Picture, out.Before, out.Coded = drawing(v.Drawn), drawing(v.Before), drawing(v.Coded)
		codes := []api.AuditCode{}
		for _, c := range v.Codes {
			codes = append(codes, api.AuditCode{Key: c.Key, Hex: c.RGB.Hex()})
		}
		out.Codes = &codes
	case len(v.PNG) > 0:
		out.Picture = given("data:image/png;base64," + base64.StdEncoding.EncodeToString(v.PNG))
		out.Width, out.Height = &v.Width, &v.Height
	}
	for _, b := range v.Boxes {
		out.Boxes = append(out.Boxes, api.AuditBox{Key: b.Key, X: round(b.X, 4), Y: round(b.Y, 4), Width: round(b.Width, 4),
			Height: round(b.Height, 4)})
	}
	if len(v.Names) > 0 {
		out.Names = &v.Names
	}
	if v.More > 0 {
		out.More = &v.More
	}
	if v.Others > 0 {
		out.Moved, out.Others = &v.Moved, &v.Others
	}
	return out, nil
}

func (s *server) ListAuditLines(ctx context.Context, in api.ListAuditLinesRequestObject) (api.ListAuditLinesResponseObject, error) {
	list, next, err := s.Audits.Lines(ctx, actorOf(ctx), in.Audit, value(in.Params.Key), from(in.Params.From))
	out := api.ListAuditLines200JSONResponse{Lines: []api.AuditTextLine{}}
	for _, l := range list {
		line := api.AuditTextLine{Number: l.Number, Text: l.Text, Before: l.Before, After: l.After, Marks: []api.AuditMark{}}
		for _, m := range l.Marks {
			line.Marks = append(line.Marks, api.AuditMark{Key: m.Key, Column: m.Column, Value: m.Value})
		}
		if l.More > 0 {
			line.More = &l.More
		}
		out.Lines = append(out.Lines, line)
	}
	if next != 0 {
		out.Next = &next
	}
	return out, err
}

func (s *server) ListUndecided(ctx context.Context, in api.ListUndecidedRequestObject) (api.ListUndecidedResponseObject, error) {
	list, next, err := s.Audits.Undecided(ctx, actorOf(ctx), in.Audit, from(in.Params.From))
	out := api.ListUndecided200JSONResponse{Undecided: []api.Undecided{}}
	for _, u := range list {
		out.Undecided = append(out.Undecided, api.Undecided{Value: u.Value, Where: u.Where, Why: u.Why, Count: u.Count})
	}
	if next != 0 {
		out.Next = &next
	}
	return out, err
}

func (s *server) AuditAgain(ctx context.Context, in api.AuditAgainRequestObject) (api.AuditAgainResponseObject, error) {
	j, err := s.Audits.Again(ctx, actorOf(ctx), in.Audit)
	return api.AuditAgain202JSONResponse(job(j)), err
}

func (s *server) ListJobs(ctx context.Context, _ api.ListJobsRequestObject) (api.ListJobsResponseObject, error) {
	list, err := s.Jobs.Open(ctx, actorOf(ctx))
	out := api.ListJobs200JSONResponse{}
	for _, j := range list {
		out = append(out, job(j))
	}
	return out, err
}

func (s *server) GetJob(ctx context.Context, in api.GetJobRequestObject) (api.GetJobResponseObject, error) {
	j, err := s.Jobs.Job(ctx, actorOf(ctx), in.Job)
	return api.GetJob200JSONResponse(job(j)), err
}

func (s *server) GiveUpJob(ctx context.Context, in api.GiveUpJobRequestObject) (api.GiveUpJobResponseObject, error) {
	return api.GiveUpJob204Response{}, s.Jobs.GiveUp(ctx, actorOf(ctx), in.Job)
}

func (s *server) FollowJob(ctx context.Context, in api.FollowJobRequestObject) (api.FollowJobResponseObject, error) {
	if _, err := s.Jobs.Job(ctx, actorOf(ctx), in.Job); err != nil {
		return nil, err
	}
	return following{s, actorOf(ctx), in.Job}, nil
}

// following streams how far a job is.
type following struct {
	*server
	actor keep.Actor
	id    int64
}

// A stream looks for news this often, says that it is there at least that often, and ends after a while: the browser asks again.
const (
	lookEvery   = 150 * time.Millisecond
	beatEvery   = 10 * time.Second
	longestLook = 10 * time.Minute
)

// VisitFollowJobResponse implements the generated interface.
func (f following) VisitFollowJobResponse(c fiber.Ctx) error {
	c.Set("Content-Type", "text/event-stream")
	c.Set("X-Accel-Buffering", "no") // a proxy must not hold events back
	return c.SendStreamWriter(func(w *bufio.Writer) {
		ctx, cancel := context.WithTimeout(f.hub.serving, longestLook)
		defer cancel()
		last, beat := "", time.Now()
		for {
			j, err := f.Jobs.Job(ctx, f.actor, f.id)
			if err != nil {
				return
			}
			text, err := json.Marshal(job(j))
			if err != nil {
				return
			}
			switch {
			case string(text) != last:
				last, beat = string(text), time.Now()
				fmt.Fprintf(w, "data: %s\n\n", text)
			case time.Since(beat) > beatEvery:
				beat = time.Now()
				fmt.Fprint(w, ": still at it\n\n")
			}
			if w.Flush() != nil || j.State.Ended() { // nobody listens any more, or nothing more will come
				return
			}
			select {
			case <-ctx.Done():
				return
			case <-time.After(lookEvery):
			}
		}
	})
}

func job(j jobs.Job) api.Job {
	out := api.Job{Id: j.ID, Kind: j.Kind, State: api.JobState(j.State), Stage: j.Stage, Share: round(j.Share, 3), Result: given(j.Result),
		By: j.By, At: j.At}
	if j.Problem != nil {
		p := problem(j.Problem)
		out.Problem = &p
	}
	return out
}

func (s *server) GetLimits(context.Context, api.GetLimitsRequestObject) (api.GetLimitsResponseObject, error) {
	out := api.GetLimits200JSONResponse{UploadBytes: limits.UploadBytes, PasteBytes: limits.PasteBytes, PasteLines: limits.PasteLines,
		TrayItems:     limits.TrayItems,
		LibraryColors: limits.LibraryColors, SetColors: limits.SetColors, NameRunes: limits.NameRunes, RuleRunes: limits.RuleRunes,
		KeywordBytes: limits.KeywordBytes, Readings: limits.Readings,
		BoardOptions: limits.BoardOptions, BoardAccents: limits.BoardAccents}
	for _, k := range kinds.Kinds() {
		out.AuditKinds = append(out.AuditKinds, struct {
			Extensions []string `json:"extensions"`
			Label      string   `json:"label"`
			Name       string   `json:"name"`
		}{k.Extensions, k.Label, k.Name})
	}
	t := &out.BoardTexts
	t.Word, t.Headline, t.Lines, t.Small, t.Button = limits.BoardWord, limits.BoardHeadline, limits.BoardLines, limits.BoardSmall,
		limits.BoardButton
	return out, nil
}
