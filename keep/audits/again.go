package audits

import (
	"context"
	"encoding/json"
	"fmt"
	"log/slog"
	"slices"
	"time"

	"huekeep/keep"
	"huekeep/store"
)

// itself is who judges where nobody asked for it.
const itself = "Hue Keep"

// stirredFor is for how long back it is looked for what moved: an instance that was away meanwhile catches up.
const stirredFor = 30 * 24 * time.Hour

// JudgeAgain queues a quiet run of each project whose newest run is older than the last movement of its house's library, or the end of one
// of its excuses, once the library has been still for a while: who amends ten colors gets one run. It says how many it queued. Several
// instances may do it at once.
func (r *Rules) JudgeAgain(ctx context.Context, still time.Duration) (queued int, err error) {
	now := r.Now()
	db := r.DB.With(ctx)
	moved, err := db.StirredSince(now.Add(-stirredFor), now)
	if err != nil {
		return 0, err
	}
	for _, m := range moved {
		if m.At.After(now.Add(-still)) {
			continue
		}
		projects, err := db.JudgedBefore(m.HouseID, m.At)
		if err != nil || len(projects) == 0 {
			if err != nil {
				return queued, err
			}
			continue
		}
		n, err := r.queueAgain(ctx, m.HouseID, projects)
		queued += n
		if err != nil {
			return queued, err
		}
	}
	return queued, nil
}

// queueAgain queues quiet runs of projects that no run is queued of.
func (r *Rules) queueAgain(ctx context.Context, house int64, projects []store.Project) (queued int, err error) {
	db := r.DB.With(ctx)
	h, err := db.House(house)
	if err != nil {
		return 0, err
	}
	open, err := db.OpenJobs(house, "", mostRuns)
	if err != nil {
		return 0, err
	}
	waits := map[int64]bool{}
	for _, j := range open {
		var p payload
		if j.Kind == JobKind && json.Unmarshal([]byte(j.Payload), &p) == nil {
			waits[p.Project] = true
		}
	}
	for _, p := range projects {
		files, err := db.ProjectFiles(p.ID)
		if err != nil {
			return queued, err
		}
		if waits[p.ID] || !slices.ContainsFunc(files, func(f store.ProjectFile) bool { return f.Why == "" }) {
			continue
		}
		if _, err := r.Jobs.Add(ctx, keep.Actor{Name: itself, House: keep.HouseOf(h)}, JobKind, payload{Project: p.ID, Quiet: true},
			""); err != nil {
			return queued, err
		}
		queued++
	}
	return queued, nil
}

// ServeAgain judges again now and then until the context ends, once a library has been still for a while; never for 0.
func (r *Rules) ServeAgain(ctx context.Context, still time.Duration) {
	if still <= 0 {
		return
	}
	for {
		select {
		case <-ctx.Done():
			return
		case <-time.After(min(time.Minute, still)):
		}
		n, err := r.JudgeAgain(ctx, still)
		if err != nil && ctx.Err() == nil {
			slog.Error("projects could not be judged again", "error", err)
		} else if n > 0 {
			slog.Info(fmt.Sprintf("%d projects are judged again, since their libraries moved", n))
		}
	}
}
