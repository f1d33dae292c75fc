package audits

import (
	"context"
	"log/slog"
	"math"
	"time"

	"huekeep/keep"
	"huekeep/store"
)

// Judging is what a house judges by.
type Judging struct {
	Tolerance float64 // ΔE00 within which a color counts as drifted
	Pictures  float64 // the same for the colors of pictures and frames
	Neutrals  bool    // pure grays, black and white are on-brand
	KeepDays  int     // for how long runs that are not the last of their project are kept; 0 for good
	Again     *bool   // projects are judged again by themselves when the library moved; nil leaves it as it is
}

// The limits of what a house may say.
const (
	leastTolerance = 0.1
	mostTolerance  = 20.0
	leastDays      = 7
	mostDays       = 3650
)

// Judging reads what a house judges by.
func (r *Rules) Judging(ctx context.Context, a keep.Actor) (Judging, error) {
	h, err := r.DB.With(ctx).House(a.House.ID)
	return Judging{h.Tolerance, h.Pictures, h.Neutrals, h.KeepDays, &h.Again}, err
}

// SetJudging changes what the next runs of a house are judged by; runs that were made stay as they are.
func (r *Rules) SetJudging(ctx context.Context, a keep.Actor, j Judging) error {
	if err := a.May(keep.RoleKeeper); err != nil {
		return err
	}
	for _, t := range []struct {
		field string
		value float64
	}{{"tolerance", j.Tolerance}, {"pictures", j.Pictures}} {
		if math.IsNaN(t.value) || t.value < leastTolerance || t.value > mostTolerance {
			return keep.Wrong(t.field, "a tolerance is %.1f to %.0f (ΔE00)", leastTolerance, mostTolerance)
		}
	}
	if j.KeepDays != 0 && (j.KeepDays < leastDays || j.KeepDays > mostDays) {
		return keep.Wrong("keepDays", "runs are kept for good, or for %d to %d days", leastDays, mostDays)
	}
	return r.Change(ctx, a, func(tx *store.DB) error {
		h, err := tx.House(a.House.ID)
		if err != nil {
			return err
		}
		h.Tolerance, h.Pictures, h.Neutrals, h.KeepDays = j.Tolerance, j.Pictures, j.Neutrals, j.KeepDays
		if j.Again != nil {
			h.Again = *j.Again
		}
		return tx.Save(&h)
	})
}

// keptDropped is for how long a file that was taken out of a project can be put back.
const keptDropped = 24 * time.Hour

// Forget deletes the runs that their houses keep no longer, with what was repainted of them. The last run of a project stays. Their files
// go with the sweep, unless something else names them.
func (r *Rules) Forget(ctx context.Context, now time.Time) error {
	if err := r.DB.With(ctx).ForgetDroppedFiles(now.Add(-keptDropped)); err != nil {
		return err
	}
	n, err := r.DB.With(ctx).ForgetRuns(now)
	if n > 0 {
		slog.Info("runs were removed whose time is over", "runs", n)
	}
	return err
}
