package audits

import (
	"cmp"
	"context"
	"slices"

	"huekeep/core/audit"
	"huekeep/core/library"
	"huekeep/core/limits"
	"huekeep/core/repaint"
	"huekeep/keep"
	"huekeep/store"
)

// ReadMap reads a map of old to new as somebody wrote it.
func (r *Rules) ReadMap(ctx context.Context, a keep.Actor, text string) ([]repaint.Pair, error) {
	if err := a.May(keep.RoleContributor); err != nil {
		return nil, err
	}
	if len(text) > limits.PasteBytes {
		return nil, keep.Wrong("text", "the text has %s; at most %s are read", limits.Size(int64(len(text))),
			limits.Size(limits.PasteBytes))
	}
	colors, err := r.DB.With(ctx).Colors(a.House.ID)
	if err != nil {
		return nil, err
	}
	list := repaint.ReadPairs(text, audit.Allowed(colors))
	if len(list) > mostSteps {
		return nil, keep.Wrong("text", "the text has %d lines; a plan has at most %d colors", len(list), mostSteps)
	}
	return list, nil
}

// MapOfSets pairs the colors of two sets by their places.
func (r *Rules) MapOfSets(ctx context.Context, a keep.Actor, old, now int64) ([]repaint.Pair, error) {
	if err := a.May(keep.RoleContributor); err != nil {
		return nil, err
	}
	db := r.DB.With(ctx)
	colors, err := db.Colors(a.House.ID)
	if err != nil {
		return nil, err
	}
	byID := map[int64]library.Color{}
	for _, c := range colors {
		byID[c.ID] = c
	}
	members := func(id int64) (out []library.Color, err error) {
		set, err := db.Set(a.House.ID, id)
		if err != nil {
			return nil, keep.Missing(err, "set")
		}
		for _, c := range set.Colors {
			out = append(out, byID[c])
		}
		return out, nil
	}
	from, err := members(old)
	if err != nil {
		return nil, err
	}
	to, err := members(now)
	if err != nil {
		return nil, err
	}
	return repaint.ByPosition(from, to), nil
}

// PlanUses is where the old values of a plan are, as the newest runs of all projects tell.
type PlanUses struct {
	Steps      []StepUses
	Projects   []PlanProject // that hold one of them, the most uses first
	Left       []PlanLeft    // values in them that want a decision and of which the plan says nothing, the most uses first
	LeftUses   int           // of all of those, listed or not
	LeftColors int
}

// StepUses is where the old value of a step is.
type StepUses struct {
	From     string
	Counted  bool // it is a value of a screen; builds and inks are not counted by value
	Uses     int  // but those of pictures and videos, which are counted by their area
	Files    int
	Pictures int // pictures and videos that hold it
}

// PlanProject is a project that holds old values of a plan.
type PlanProject struct {
	ID    int64
	Name  string
	Uses  int
	Files int
}

// PlanLeft is a value that a plan leaves.
type PlanLeft struct {
	Hex     string
	Verdict audit.Verdict
	Uses    int
	Files   int
}

// mostLeft is how many values that a plan leaves are listed.
const mostLeft = 40

// UsesOfPlan tells what a plan would touch, and what it would leave in the projects that it touches.
func (r *Rules) UsesOfPlan(ctx context.Context, a keep.Actor, steps []repaint.Step) (u PlanUses, err error) {
	if len(steps) > mostSteps {
		return u, keep.Wrong("colors", "the plan has %d colors; at most %d fit", len(steps), mostSteps)
	}
	at := map[string]int{}
	u.Steps = make([]StepUses, len(steps))
	var hexes []string
	for i, s := range steps {
		u.Steps[i].From = s.From
		if _, twice := at[s.From]; len(s.From) == 7 && s.From[0] == '#' && !twice {
			u.Steps[i].Counted = true
			at[s.From] = i
			hexes = append(hexes, s.From)
		}
	}
	db := r.DB.With(ctx)
	rows, err := db.ValueUses(a.House.ID, hexes)
	if err != nil {
		return u, err
	}
	projects := map[int64]*PlanProject{}
	files := map[int64]map[int64]bool{}
	for _, row := range rows {
		s := &u.Steps[at[row.Hex]]
		p := projects[row.ProjectID]
		if p == nil {
			p = &PlanProject{ID: row.ProjectID, Name: row.Project}
			projects[row.ProjectID], files[row.ProjectID] = p, map[int64]bool{}
		}
		files[row.ProjectID][row.AuditID] = true
		if row.Kind == "picture" || row.Kind == "video" {
			s.Pictures++
			continue
		}
		s.Uses += row.Uses
		s.Files++
		p.Uses += row.Uses
	}
	var ids []int64
	for id, p := range projects {
		p.Files = len(files[id])
		u.Projects = append(u.Projects, *p)
		ids = append(ids, id)
	}
	slices.SortFunc(u.Projects, func(a, b PlanProject) int { return cmp.Or(b.Uses-a.Uses, cmp.Compare(a.ID, b.ID)) })
	left, err := db.ValuesLeft(a.House.ID, ids)
	if err != nil {
		return u, err
	}
	left = slices.DeleteFunc(left, func(l store.ValueLeft) bool { _, planned := at[l.Hex]; return planned })
	for i, l := range left {
		u.LeftUses += l.Uses
		u.LeftColors++
		if i < mostLeft {
			u.Left = append(u.Left, PlanLeft{l.Hex, audit.Verdict(l.Verdict), l.Uses, l.Files})
		}
	}
	return u, nil
}
