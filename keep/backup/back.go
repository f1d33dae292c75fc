package backup

import (
	"context"
	"fmt"
	"slices"
	"strings"

	"huekeep/core/limits"
	"huekeep/keep"
	"huekeep/keep/trail"
)

// beside are operations that a way back does not undo, as downloads and exports are, and refused ones.
var beside = []string{"joined", "invite", "uninvite", "setRole", "endMembership", "endHouseToken", "setMark", "setSettings"}

// GoBack takes a change of many things at once back. Where somebody did something since, it says what, and is done only over that.
func (r *Rules) GoBack(ctx context.Context, a keep.Actor, id int64, over bool) error {
	return r.Base.GoBack(ctx, a, id, over, func(added keep.Added) (string, error) {
		rows, err := r.DB.With(ctx).TrailSince(a.House.ID, added.Trail, added.Open, limits.Page)
		if err != nil {
			return "", err
		}
		var said []string
		for _, t := range rows {
			if t.Outcome == 0 || t.Outcome >= 400 || slices.Contains(beside, t.What) || strings.HasPrefix(t.What, "download") ||
				strings.HasPrefix(t.What, "export") {
				continue
			}
			e := trail.Entry{What: t.What, About: t.About, Before: t.BeforeState, After: t.AfterState, Outcome: t.Outcome}
			said = append(said, t.ByName+" "+e.Said())
		}
		switch n := len(said); {
		case n == 0:
			return "", nil
		case n > 3:
			return fmt.Sprintf("%s, and %d more.", strings.Join(said[:3], "; "), n-3), nil
		}
		return strings.Join(said, "; ") + ".", nil
	})
}
