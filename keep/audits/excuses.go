package audits

import (
	"context"
	"encoding/json"
	"errors"
	"slices"
	"strings"
	"time"

	"huekeep/core/audit"
	"huekeep/core/color"
	"huekeep/core/library"
	"huekeep/core/limits"
	"huekeep/core/repaint"
	"huekeep/keep"
	"huekeep/store"
)

// Excuse is a recorded exception: what differs on purpose, why, who says so, until when.
type Excuse struct {
	audit.Excuse
	Project int64 // 0 for everywhere
	At      time.Time
	Over    *time.Time // when somebody ended it; nil if nobody did
	OverBy  string
}

func excuseOf(row store.Excuse) Excuse {
	e := Excuse{Excuse: audit.Excuse{ID: row.ID, Color: row.Color, File: row.Path, Where: row.Place, Reason: row.Reason, By: row.ByName},
		At: row.At, Over: row.EndedAt, OverBy: row.EndedBy}
	if row.UntilDay != nil {
		e.Until = *row.UntilDay
	}
	if row.ProjectID != nil {
		e.Project = *row.ProjectID
	}
	return e
}

// Excuses lists the excuses of the house, newest first; of a project, those that are for it and those for everywhere. 0 is all.
func (r *Rules) Excuses(ctx context.Context, a keep.Actor, project int64) ([]Excuse, error) {
	rows, err := r.DB.With(ctx).Excuses(a.House.ID, project)
	var out []Excuse
	for _, row := range rows {
		out = append(out, excuseOf(row))
	}
	return out, err
}

// AddExcuse records an exception. It holds from the next run on.
func (r *Rules) AddExcuse(ctx context.Context, a keep.Actor, e Excuse) (Excuse, error) {
	if err := a.May(keep.RoleContributor); err != nil {
		return Excuse{}, err
	}
	e.Color, e.Reason = strings.TrimSpace(e.Color), strings.Join(strings.Fields(e.Reason), " ")
	switch n := len([]rune(e.Reason)); {
	case e.Color == "" || len([]rune(e.Color)) > 190:
		return Excuse{}, keep.Wrong("color", "a color is missing")
	case n == 0:
		return Excuse{}, keep.Wrong("reason", "say why it is meant to differ")
	case n > limits.NoteRunes:
		return Excuse{}, keep.Wrong("reason", "the reason has %d characters; at most %d fit", n, limits.NoteRunes)
	case !e.Until.IsZero() && e.Ended(r.Now()):
		return Excuse{}, keep.Wrong("until", "the last day is over already")
	case e.Where != "" && e.File == "":
		return Excuse{}, keep.Wrong("file", "a place belongs to a file")
	case e.File != "" && e.Project == 0:
		return Excuse{}, keep.Wrong("project", "a file belongs to a project")
	case len([]rune(e.Where)) > 600 || len([]rune(e.File)) > 500:
		return Excuse{}, keep.Wrong("where", "the place is too long")
	}
	db := r.DB.With(ctx)
	row := store.Excuse{HouseID: a.House.ID, Color: e.Color, Path: e.File, Place: e.Where, Reason: e.Reason, ByUser: a.ByUser(),
		ByName: a.Name, At: r.Now()}
	if e.Project != 0 {
		if _, err := db.Project(a.House.ID, e.Project); err != nil {
			return Excuse{}, keep.Missing(err, "project")
		}
		row.ProjectID = &e.Project
	}
	if !e.Until.IsZero() {
		day := e.Until.UTC().Truncate(24 * time.Hour)
		row.UntilDay = &day
	}
	err := r.Change(ctx, a, func(tx *store.DB) error {
		list, err := tx.Excuses(a.House.ID, max(e.Project, -1))
		if err != nil {
			return err
		}
		for _, l := range list {
			same := strings.EqualFold(l.Color, row.Color) && value(l.ProjectID) == value(row.ProjectID) && l.Path == row.Path &&
				l.Place == row.Place
			if was := excuseOf(l); same && l.EndedAt == nil && !was.Ended(r.Now()) {
				return keep.Clash("color", "%s is excused there already, by %s: %s", row.Color, l.ByName, l.Reason)
			}
		}
		row.ID = 0
		return tx.Add(&row)
	})
	return excuseOf(row), err
}

func value(id *int64) int64 {
	if id == nil {
		return 0
	}
	return *id
}

// EndExcuse ends an excuse; it stays on record.
func (r *Rules) EndExcuse(ctx context.Context, a keep.Actor, id int64) error {
	if err := a.May(keep.RoleContributor); err != nil {
		return err
	}
	return keep.Missing(r.DB.With(ctx).EndExcuse(a.House.ID, id, a.Name, r.Now()), "excuse")
}

// SavedPlan is a repaint plan under a name.
type SavedPlan struct {
	ID      int64
	Name    string
	Version int
	By      string
	At      time.Time
	Steps   []repaint.Step
}

func planOf(row store.Plan) (SavedPlan, error) {
	p := SavedPlan{row.ID, row.Name, row.Version, row.ByName, row.ChangedAt, nil}
	err := json.Unmarshal([]byte(row.Steps), &p.Steps)
	return p, err
}

// Plans lists the saved plans by name.
func (r *Rules) Plans(ctx context.Context, a keep.Actor) ([]SavedPlan, error) {
	rows, err := r.DB.With(ctx).Plans(a.House.ID)
	var out []SavedPlan
	for _, row := range rows {
		p, err := planOf(row)
		if err != nil {
			return nil, err
		}
		out = append(out, p)
	}
	return out, err
}

// mostSteps is how many colors a plan may have: each that a report may hold.
const mostSteps = limits.FoundColors

// checkSteps refuses a plan that could not be followed.
func (r *Rules) checkSteps(ctx context.Context, a keep.Actor, steps []repaint.Step) error {
	if len(steps) > mostSteps {
		return keep.Wrong("colors", "the plan has %d colors; at most %d fit", len(steps), mostSteps)
	}
	rules, err := r.rules(ctx, a, -1)
	if err != nil {
		return err
	}
	known := map[string]library.Color{}
	for _, c := range rules.Colors {
		if c.Status != library.Draft {
			known[c.Name] = c
		}
	}
	seen := map[string]bool{}
	for _, s := range steps {
		switch {
		case strings.TrimSpace(s.From) == "":
			return keep.Wrong("colors", "a color that is to be repainted is missing")
		case len(s.Where) == 0 && seen[s.From]:
			return keep.Wrong("colors", "the plan names %s twice", s.From)
		case len(s.Where) > mostPlaces:
			return keep.Wrong("colors", "the plan names %d places of %s; at most %d fit", len(s.Where), s.From, mostPlaces)
		case slices.Contains(s.Where, ""):
			return keep.Wrong("colors", "a place of %s has no name", s.From)
		case s.Leave:
		case s.To == "":
			return keep.Wrong("colors", "the plan does not say what becomes of %s", s.From)
		default:
			c, ok := known[s.To]
			if !ok {
				return keep.Wrong("colors", "the library has no color %s", s.To)
			}
			if c.Retired() {
				return keep.Wrong("colors", "%s is retired; nothing becomes it", s.To)
			}
		}
		seen[s.From] = seen[s.From] || len(s.Where) == 0
	}
	return nil
}

// mostPlaces is how many places a step of a plan names.
const mostPlaces = 1000

// SavePlan keeps a plan: a new one for ID 0, else a change of the version that the caller saw.
func (r *Rules) SavePlan(ctx context.Context, a keep.Actor, p SavedPlan) (SavedPlan, error) {
	if err := a.May(keep.RoleContributor); err != nil {
		return p, err
	}
	name, err := keep.Name("name", p.Name)
	if err != nil {
		return p, err
	}
	if err := r.checkSteps(ctx, a, p.Steps); err != nil {
		return p, err
	}
	text, err := json.Marshal(p.Steps)
	if err != nil {
		return p, err
	}
	row := store.Plan{ID: p.ID, HouseID: a.House.ID, Name: name, NameKey: store.NameKey(name), Steps: string(text), Version: p.Version,
		ByName: a.Name, ChangedAt: r.Now()}
	db := r.DB.With(ctx)
	if p.ID == 0 {
		row.Version = 1
		err = db.Add(&row)
	} else {
		if _, err := db.Plan(a.House.ID, p.ID); err != nil {
			return p, keep.Missing(err, "plan")
		}
		if err = db.SavePlan(row); errors.Is(err, store.ErrNotFound) {
			return p, keep.Clash("", "somebody else changed the plan meanwhile; look at it again")
		}
		row.Version++
	}
	if errors.Is(err, store.ErrDuplicate) {
		return p, keep.Clash("name", "there is a plan called %s already", name)
	} else if err != nil {
		return p, err
	}
	return planOf(row)
}

// DropPlan deletes a plan.
func (r *Rules) DropPlan(ctx context.Context, a keep.Actor, id int64) error {
	if err := a.May(keep.RoleContributor); err != nil {
		return err
	}
	return keep.Missing(r.DB.With(ctx).DropPlan(a.House.ID, id), "plan")
}

// PlanOf proposes a plan for a color of the library: its old values become what it is now, or what replaced it.
func (r *Rules) PlanOf(ctx context.Context, a keep.Actor, id int64) ([]repaint.Step, error) {
	db := r.DB.With(ctx)
	c, err := db.Color(a.House.ID, id)
	if err != nil || !a.Sees(c) {
		if err == nil {
			err = store.ErrNotFound
		}
		return nil, keep.Missing(err, "color")
	}
	to := c.Name
	if c.Retired() {
		if c.Successor.None() {
			return nil, keep.Clash("", "%s has no successor; say first what replaces it", c.Name)
		}
		to = c.Successor.Name
	}
	var out []repaint.Step
	seen := map[string]bool{}
	add := func(hex string) {
		if _, err := color.FromHex(hex); err == nil && !seen[hex] && (c.Retired() || hex != c.RGB.Hex()) {
			seen[hex] = true
			out = append(out, repaint.Step{From: hex, To: to})
		}
	}
	if c.Retired() {
		add(c.RGB.Hex())
	}
	events, err := db.Events(c.ID, 0, limits.Page)
	for _, e := range events {
		add(e.Before)
	}
	return out, err
}

// PlanSince proposes a plan for all that was amended or replaced from a time on: the values that a color had since become what it is now,
// or what replaced it. A value that another color has all along is nobody's to say, and stays.
func (r *Rules) PlanSince(ctx context.Context, a keep.Actor, since time.Time) (out []repaint.Step, err error) {
	if err := a.May(keep.RoleContributor); err != nil {
		return nil, err
	}
	db := r.DB.With(ctx)
	colors, err := db.Colors(a.House.ID)
	if err != nil {
		return nil, err
	}
	events, err := db.EventsSince(a.House.ID, since)
	if err != nil {
		return nil, err
	}
	stays, now := map[string]bool{}, map[string]bool{}
	moved := map[int64]movement{}
	for _, c := range colors {
		m := movementOf(c, events[c.ID])
		moved[c.ID] = m
		if !c.Retired() && c.Status != library.Draft {
			now[c.RGB.Hex()] = true
			stays[c.RGB.Hex()] = stays[c.RGB.Hex()] || len(m.from) == 0
		}
	}
	taken := map[string]bool{}
	// What colors were at that time comes first; a value in between counts where no color has it now.
	for _, between := range []bool{false, true} {
		for _, c := range colors {
			to := c.Name
			if c.Retired() {
				to = c.Successor.Name // none while nobody has said what replaces it
			}
			if to == "" || c.Status == library.Draft {
				continue
			}
			for _, from := range moved[c.ID].from {
				if between != (from != moved[c.ID].first) || stays[from] || taken[from] || between && now[from] {
					continue
				}
				taken[from] = true
				out = append(out, repaint.Step{From: from, To: to})
			}
		}
	}
	return out, nil
}

// movement is how a color moved from a time on.
type movement struct {
	from    []string // the values that it had and does not stand for any more
	first   string   // what it was at that time
	retired bool
}

func movementOf(c library.Color, events []library.Event) (m movement) {
	m.first = c.RGB.Hex()
	for i := len(events) - 1; i >= 0; i-- {
		if _, err := color.FromHex(events[i].Before); err == nil {
			m.first = events[i].Before
		}
	}
	for _, e := range events {
		if _, err := color.FromHex(e.Before); err == nil && e.Before != c.RGB.Hex() && !slices.Contains(m.from, e.Before) {
			m.from = append(m.from, e.Before)
		}
		if was, err := library.ReadState(e.State); e.State != "" && err == nil && was.Retired() && c.Retired() {
			m.retired = true
		}
	}
	if m.retired { // its value never moved, or came last
		m.from = append(m.from, c.RGB.Hex())
	}
	return m
}

// PlanBetween proposes a plan from two editions of a set: the values that a color had become the color.
func PlanBetween(old, now []library.Color) (out []repaint.Step) {
	for _, d := range library.Compare(old, now) {
		if d.Before != nil && d.After != nil && *d.Before != *d.After {
			out = append(out, repaint.Step{From: d.Before.Hex(), To: d.Name})
		}
	}
	return out
}

// ProjectsHolding lists the projects whose newest run holds a value that a color had, or has where it is retired.
func (r *Rules) ProjectsHolding(ctx context.Context, a keep.Actor, color int64) ([]Project, error) {
	db := r.DB.With(ctx)
	c, err := db.Color(a.House.ID, color)
	if err != nil || !a.Sees(c) {
		if err == nil {
			err = store.ErrNotFound
		}
		return nil, keep.Missing(err, "color")
	}
	if c.Retired() && c.Successor.None() {
		return nil, nil // nothing could be done about it yet
	}
	steps, err := r.PlanOf(ctx, a, color)
	if err != nil {
		return nil, err
	}
	var out []Project
	seen := map[int64]bool{}
	for _, s := range steps[:min(len(steps), 20)] {
		list, err := r.ProjectsWith(ctx, a, s.From)
		if err != nil {
			return nil, err
		}
		for _, p := range list {
			if !seen[p.ID] {
				seen[p.ID] = true
				out = append(out, p)
			}
		}
	}
	return out, nil
}

// Used is how often a color is used in the projects of a house, as their newest runs tell.
type Used struct {
	Uses     int // but those of pictures and videos, which are counted by their area
	Projects int
	Files    []store.ColorUse // the most uses first
	More     bool             // there are more files than were counted
}

// mostUsed is how many files are counted.
const mostUsed = 2000

// Used tells where a color is used: what an amendment would leave behind.
func (r *Rules) Used(ctx context.Context, a keep.Actor, color int64) (u Used, err error) {
	db := r.DB.With(ctx)
	c, err := db.Color(a.House.ID, color)
	if err == nil && !a.Sees(c) {
		err = store.ErrNotFound
	}
	if err != nil {
		return u, keep.Missing(err, "color")
	}
	if u.Files, err = db.ColorUses(a.House.ID, c.RGB.Hex(), mostUsed); err != nil {
		return u, err
	}
	u.More = len(u.Files) == mostUsed
	seen := map[int64]bool{}
	for _, f := range u.Files {
		seen[f.ProjectID] = true
		if f.Kind != "picture" && f.Kind != "video" {
			u.Uses += f.Uses
		}
	}
	u.Projects = len(seen)
	return u, nil
}

// ProjectsWith lists the projects whose newest run holds a value.
func (r *Rules) ProjectsWith(ctx context.Context, a keep.Actor, hex string) ([]Project, error) {
	rows, err := r.DB.With(ctx).ProjectsWith(a.House.ID, hex, limits.Page)
	var out []Project
	for _, row := range rows {
		out = append(out, projectOf(row))
	}
	return out, err
}
