package house

import (
	"context"
	"fmt"
	"strings"
	"time"

	"huekeep/core/limits"
	"huekeep/keep"
	"huekeep/store"
)

// GoBack takes a change of many things at once back. Where somebody did something since, it says what, and is done only over that.
func (r *Rules) GoBack(ctx context.Context, a keep.Actor, id int64, over bool) error {
	return r.Base.GoBack(ctx, a, id, over, func(at time.Time) (string, error) {
		rows, err := r.DB.With(ctx).TrailRows(store.TrailQuery{House: a.House.ID, From: &at}, limits.Page)
		if err != nil {
			return "", err
		}
		var said []string
		more := 0
		for _, t := range rows {
			if t.HouseID == nil || t.Outcome == 0 || t.Outcome >= 400 || strings.HasPrefix(t.What, "download") || strings.HasPrefix(t.What, "export") {
				continue // it is about people, was refused, is being done, as this is, or changed nothing
			}
			if len(said) == 3 {
				more++
				continue
			}
			e := TrailEntry{What: t.What, About: t.About, Before: t.BeforeState, After: t.AfterState, Outcome: t.Outcome}
			said = append(said, t.ByName+" "+e.Said())
		}
		switch {
		case len(said) == 0:
			return "Something was changed.", nil
		case more > 0:
			return fmt.Sprintf("%s, and %d more.", strings.Join(said, "; "), more), nil
		}
		return strings.Join(said, "; ") + ".", nil
	})
}
