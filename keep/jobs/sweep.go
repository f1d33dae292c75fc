package jobs

import (
	"context"
	"log/slog"
	"time"

	"huekeep/keep"
	"huekeep/store"
)

// sweepKind is the job that tidies up; one instance does it for all.
const sweepKind = "sweep"

// What is kept for a while, and for how long.
const (
	keptUnnamed = time.Hour           // stored files that nothing names: of an upload or a run that is under way still
	keptJobs    = 7 * 24 * time.Hour  // jobs that ended
	keptRemoved = 30 * 24 * time.Hour // removed colors
)

// Forgets adds what the sweep does before it looks for files that nothing names.
func (r *Rules) Forgets(f func(ctx context.Context, now time.Time) error) {
	r.forget = append(r.forget, f)
}

// Tidy queues the sweep now and then until the context ends.
func (r *Rules) Tidy(ctx context.Context, every time.Duration) {
	r.Kind(sweepKind, r.sweep)
	go func() {
		for {
			if err := r.queueSweep(ctx); err != nil && ctx.Err() == nil {
				slog.Error("tidying up could not be queued", "error", err)
			}
			select {
			case <-ctx.Done():
				return
			case <-time.After(every):
			}
		}
	}()
}

func (r *Rules) queueSweep(ctx context.Context) error {
	if pending, err := r.DB.With(ctx).Pending(sweepKind); err != nil || pending {
		return err
	}
	_, err := r.Add(ctx, keep.Actor{Name: "Hue Keep"}, sweepKind, struct{}{}, "")
	return err
}

func (r *Rules) sweep(ctx context.Context, w Work) error {
	now := r.Now()
	for _, forget := range r.forget { // first, so that the files of what goes go too
		if err := forget(ctx, now); err != nil {
			return err
		}
	}
	w.Report("files that nothing names", 0)
	n, err := r.Sweep(ctx, now.Add(-keptUnnamed))
	if err != nil {
		return err
	}
	if n > 0 {
		slog.Info("stored files that nothing names were removed", "files", n)
	}
	w.Report("what is kept for a while only", 0.5)
	return r.DB.In(ctx, func(tx *store.DB) error {
		for _, forget := range []func() error{
			func() error { return tx.ForgetJobs(now.Add(-keptJobs)) },
			func() error { return tx.ForgetRemoved(now.Add(-keptRemoved)) },
			func() error { return tx.ForgetWaysBack(now.Add(-keep.WayBackLasts)) },
			tx.ForgetComputed,
		} {
			if err := forget(); err != nil {
				return err
			}
		}
		return w.Finish(tx, "")
	})
}
