// Package trail is what a house keeps of who did what: written with each change, read in sentences, and chained so that a hole shows.
package trail

import (
	"context"
	"fmt"
	"log/slog"
	"maps"
	"slices"
	"strings"
	"time"

	"huekeep/core/limits"
	"huekeep/keep"
	"huekeep/store"
)

// Rules are the rules of the trail.
type Rules struct{ *keep.Base }

// Thing is what a change is about, as far as it is one row.
type Thing struct {
	Kind string // of things, or "house"
	ID   int64
}

// things are the tables of what changes are about, with the column of their key and where the name is. What hangs on a row, as the builds
// of a color, has its own history.
var things = map[string]struct{ table, key, name string }{
	"house":      {"houses", "id", "name"},
	"member":     {"members", "user_id", ""},
	"color":      {"colors", "id", "name"},
	"set":        {"swatch_sets", "id", "name"},
	"recipient":  {"recipients", "id", "name"},
	"board":      {"boards", "id", "title"},
	"project":    {"projects", "id", "name"},
	"excuse":     {"excuses", "id", "color"},
	"plan":       {"plans", "id", "name"},
	"gradient":   {"gradients", "id", "name"},
	"suggestion": {"suggestions", "id", ""},
	"typeface":   {"typefaces", "id", "name"},
	"audit":      {"audits", "id", "file_name"},
	"run":        {"runs", "id", ""},
	"repaint":    {"repaints", "id", "name"},
}

// Things lists the kinds of things, in the order in which they are asked for.
func Things() []string { return slices.Sorted(maps.Keys(things)) }

// snapshot reads a thing of a house, and what it is called; nil if there is none.
func (r *Rules) snapshot(db *store.DB, house int64, what Thing) (row map[string]any, name string) {
	t, ok := things[what.Kind]
	if !ok {
		return nil, ""
	}
	key := map[string]any{t.key: what.ID}
	if what.Kind != "house" {
		key["house_id"] = house
	}
	row, err := db.Row(t.table, key)
	if err != nil || row == nil {
		return nil, ""
	}
	if what.Kind == "run" {
		if run, err := db.Run(house, what.ID); err == nil {
			if p, err := db.Project(house, run.ProjectID); err == nil {
				name = fmt.Sprintf("run %d of %s", run.Number, p.Name)
			}
		}
	} else if what.Kind == "member" {
		if u, err := db.User(what.ID); err == nil {
			name = u.Name + ", " + u.Email
		}
	} else if said, ok := plainValue(row[t.name]).(string); ok {
		name = said
	}
	return row, name
}

// unsaid are columns and fields that the trail does not repeat: secrets, contents of files, and what follows from the rest.
var unsaid = map[string]bool{"id": true, "house_id": true, "name_key": true, "data": true, "profile": true, "content": true,
	"password": true, "phrase": true, "code": true, "old": true,
	"token": true, "updated_at": true, "created_at": true, "version": true, "file": true, "user_id": true}

// differences are the columns of two states of a row that differ.
func differences(before, after map[string]any) (was, is map[string]any) {
	was, is = map[string]any{}, map[string]any{}
	for k := range before {
		if !unsaid[k] && !same(before[k], after[k]) {
			was[k] = plainValue(before[k])
		}
	}
	for k := range after {
		if !unsaid[k] && !same(before[k], after[k]) {
			is[k] = plainValue(after[k])
		}
	}
	return was, is
}

func same(a, b any) bool { return fmt.Sprint(plainValue(a)) == fmt.Sprint(plainValue(b)) }

// longestSaid is how much of one value the trail repeats.
const longestSaid = 2000

func plainValue(v any) any {
	switch v := v.(type) {
	case nil:
		return nil
	case []byte:
		return keep.Short(strings.ToValidUTF8(string(v), "?"), longestSaid)
	case string:
		return keep.Short(v, longestSaid)
	case time.Time:
		return v.UTC().Format(time.RFC3339)
	}
	return v
}

// Step is something that is being done and stands on the trail already.
type Step struct {
	row    store.Trail
	thing  Thing
	before map[string]any
}

// Begin puts on the trail of a house that something was begun, so that nothing happens unseen.
func (r *Rules) Begin(ctx context.Context, a keep.Actor, what string, about Thing) (Step, error) {
	before, name := r.snapshot(r.DB.With(ctx), a.House.ID, about)
	// That something begins is kept whether it is done or not.
	row, err := keep.Trail(store.WithoutClaim(ctx), r.DB, keep.Did{House: a.House.ID, Account: a.Account, Name: a.Name, What: what,
		About: name}, r.Now)
	return Step{row, about, before}, err
}

// End says on the trail how it ended and what is different since; for what is no row, or is new, what was asked for and what it calls it.
func (r *Rules) End(ctx context.Context, a keep.Actor, s Step, outcome int, asked map[string]any, called string) {
	ctx = context.WithoutCancel(ctx)
	s.row.Outcome = outcome
	if s.row.About == "" {
		s.row.About = keep.Short(called, 190)
	}
	after, _ := r.snapshot(r.DB.With(ctx), a.House.ID, s.thing)
	was, is := differences(s.before, after)
	if outcome < 400 && len(was)+len(is) > 0 {
		s.row.BeforeState, s.row.AfterState = keep.TrailState(was), keep.TrailState(is)
	} else {
		for k, v := range asked {
			if asked[k] = plainValue(v); unsaid[k] {
				delete(asked, k)
			}
		}
		if len(asked) > 0 {
			s.row.AfterState = keep.TrailState(map[string]any{"asked": asked})
		}
	}
	if err := r.DB.With(ctx).Ended(s.row); err != nil {
		slog.Error("the trail does not say how something ended", "request", s.row.Request, "what", s.row.What, "error", err)
	}
}

// Entry is one thing that somebody did, or tried to.
type Entry struct {
	ID            int64
	At            time.Time
	By            string
	Account       *int64
	Via, Address  string
	Request       string
	What, About   string
	Before, After string // JSON; empty for nothing
	Outcome       int    // the status of the answer; 0 where it is not known
	Times         int    // how often it happened in that hour
}

// Query says which entries are asked for.
type Query struct {
	Before   int64 // entries before this one; 0 for the newest
	Account  int64 // 0 for anybody
	What     string
	Find     string
	From, To *time.Time
}

// Entries reads a page of a house's trail, newest first; next is where the next page begins, 0 for none. Keepers read it.
func (r *Rules) Entries(ctx context.Context, a keep.Actor, q Query) (list []Entry, next int64, err error) {
	if err := a.May(keep.RoleKeeper); err != nil {
		return nil, 0, err
	}
	rows, err := r.DB.With(ctx).TrailRows(store.TrailQuery{House: a.House.ID, Before: q.Before, User: q.Account, What: q.What, Find: q.Find,
		From: q.From, To: q.To}, limits.Page+1)
	if len(rows) > limits.Page {
		rows = rows[:limits.Page]
		next = rows[limits.Page-1].ID
	}
	for _, t := range rows {
		list = append(list, Entry{t.ID, t.At, t.ByName, t.UserID, t.Via, t.Address, t.Request, t.What, t.About, t.BeforeState, t.AfterState,
			t.Outcome, t.Times})
	}
	return list, next, err
}

// Whole gives each entry of a house's trail that is asked for, newest first.
func (r *Rules) Whole(ctx context.Context, a keep.Actor, q Query, each func(Entry) error) error {
	for {
		list, next, err := r.Entries(ctx, a, q)
		if err != nil {
			return err
		}
		for _, e := range list {
			if err := each(e); err != nil {
				return err
			}
		}
		if q.Before = next; next == 0 {
			return nil
		}
	}
}

// Whats lists what was ever done in a house.
func (r *Rules) Whats(ctx context.Context, a keep.Actor) ([]string, error) {
	if err := a.May(keep.RoleKeeper); err != nil {
		return nil, err
	}
	return r.DB.With(ctx).TrailWhats(a.House.ID)
}
