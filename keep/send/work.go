package send

import (
	"context"

	"huekeep/core/library"
	"huekeep/core/swatchfile"
	"huekeep/core/work"
	"huekeep/keep"
)

// AtWork puts colors to work in the slots of an office theme: those of a set as it is, of one of its editions, or any colors in their
// order.
func (r *Rules) AtWork(ctx context.Context, a keep.Actor, set int64, edition int, colors []library.Color) (work.Work, error) {
	if err := a.May(keep.RoleReader); err != nil {
		return work.Work{}, err
	}
	var given []library.Assigned
	switch {
	case set != 0 && edition != 0:
		e, err := r.Edition(ctx, a, set, edition)
		if err != nil {
			return work.Work{}, err
		}
		colors, given = e.Colors, e.Slots
	case set != 0:
		s, err := r.Set(ctx, a, set)
		if err != nil {
			return work.Work{}, err
		}
		colors, given = s.Members, s.Slots
	}
	if len(colors) == 0 {
		return work.Work{}, keep.Wrong("colors", "there is no color to put to work")
	}
	var slots [12]work.Paint
	for i, s := range swatchfile.ThemeSlots(colors, given...) {
		slots[i] = work.Paint{Slot: s.Name, Name: s.Color.Name, RGB: s.Color.RGB}
	}
	return work.Of(slots), nil
}
