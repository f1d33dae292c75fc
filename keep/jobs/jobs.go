// Package jobs runs long work: a row in the database that any instance of the program on that database claims, with a lease
// that it renews. What a killed instance was at is claimed again by another; what somebody gives up stops.
package jobs

import (
	"context"
	"encoding/json"
	"errors"
	"fmt"
	"log/slog"
	"runtime/debug"
	"sync"
	"sync/atomic"
	"time"

	"huekeep/keep"
	"huekeep/store"
)

// Job is long work as its house sees it.
type Job struct {
	ID      int64
	Kind    string
	State   State
	Stage   string  // what is being done, in the user's terms: "slide 12 of 200"
	Share   float64 // of the whole, 0 to 1
	Result  string  // of work that is done: what the kind says
	Problem *keep.Error
	By      string
	At      time.Time
}

// State is how far a job is.
type State string

const (
	Waiting State = store.JobWaiting
	Running State = store.JobRunning
	Done    State = store.JobDone
	Failed  State = store.JobFailed
	GivenUp State = store.JobGivenUp
)

// Ended says whether a job will not change any more.
func (s State) Ended() bool { return s == Done || s == Failed || s == GivenUp }

// Work is a job in a worker's hands.
type Work struct {
	ID      int64
	Actor   keep.Actor
	Payload string // JSON
	Blob    string // the stored file that it works on
	report  func(stage string, share float64)
	finish  func(db *store.DB, result string) error
}

// Report says what is being done and which share of the whole is, 0 to 1.
func (w Work) Report(stage string, share float64) { w.report(stage, share) }

// Finish ends the job as done, in the transaction that holds what it made, so that both are kept or neither. It fails if the
// job is no longer the worker's.
func (w Work) Finish(tx *store.DB, result string) error { return w.finish(tx, result) }

// Run does the work of a kind. It calls Finish when it is done, returns early when the context ends, and an error otherwise. It
// may run again from the beginning, on another instance, so what it does outside the database must bear that.
type Run func(ctx context.Context, w Work) error

// Rules are the rules of jobs.
type Rules struct {
	*keep.Base
	kinds  map[string]Run
	wake   chan struct{}
	lease  time.Duration
	idle   time.Duration
	mute   bool
	forget []func(ctx context.Context, now time.Time) error
	Worker string // tells this instance from others
	Most   int    // jobs of one house that this instance works on at once; what another one waits for is never behind all of one's

	claiming        sync.Mutex // so that what others have just claimed counts
	still, patience time.Duration
	stalled         atomic.Int64
}

// Lease is how long an instance that says nothing more keeps a job.
const Lease = 15 * time.Second

// attempts is how often a job is begun. One that takes the program down with it must not do so for ever.
const attempts = 3

// waits is why a job waits that was begun already.
const waits = "what it needs cannot be reached at this moment; it goes on by itself"

// longest is how old a job may be that waits for files or a database that are away.
const longest = 24 * time.Hour

// stillness is how long a job may be at the same place before it counts as stalled, and patience how long one may go on that was asked to
// stop. A job that stalled is not begun again.
const (
	stillness = 10 * time.Minute
	patience  = 5 * time.Second
)

// Stalled is how many jobs of this instance have stalled.
func (r *Rules) Stalled() int64 { return r.stalled.Load() }

// OldestWait is how long the job has waited that is due and was not begun.
func (r *Rules) OldestWait(ctx context.Context) (time.Duration, error) {
	return r.DB.With(ctx).OldestWait()
}

// New makes the rules. Kinds are added before Serve.
func New(b *keep.Base) *Rules {
	return &Rules{Base: b, kinds: map[string]Run{}, wake: make(chan struct{}, 1), lease: Lease, idle: time.Second, Worker: keep.Random(),
		Most: 2, still: stillness, patience: patience}
}

// Hurry shortens leases, for tests.
func (r *Rules) Hurry(lease time.Duration) { r.lease, r.idle = lease, lease/4 }

// Impatient shortens how long a job may be at the same place, and go on when it was asked to stop; for tests.
func (r *Rules) Impatient(still, patience time.Duration) { r.still, r.patience = still, patience }

// Mute stops heartbeats, as if the instance were killed while it works; for tests.
func (r *Rules) Mute() { r.mute = true }

// Kind says how jobs of a kind are run.
func (r *Rules) Kind(name string, run Run) { r.kinds[name] = run }

// Add queues a job of the actor's. The payload is kept as JSON; blob is the stored file that it works on, or empty.
func (r *Rules) Add(ctx context.Context, a keep.Actor, kind string, payload any, blob string) (Job, error) {
	text, err := json.Marshal(payload)
	if err != nil {
		return Job{}, err
	}
	row := store.Job{ByUser: a.ByUser(), ByName: a.Name, Kind: kind, Payload: string(text), BlobKey: blob, CreatedAt: r.Now()}
	if a.House.ID != 0 {
		row.HouseID = &a.House.ID
	}
	if err := r.DB.With(ctx).AddJob(&row); err != nil {
		return Job{}, err
	}
	select {
	case r.wake <- struct{}{}:
	default:
	}
	return job(row), nil
}

// Later queues a job that begins after a time, in a transaction.
func (r *Rules) Later(tx *store.DB, a keep.Actor, kind string, payload any, after time.Duration) error {
	text, err := json.Marshal(payload)
	if err != nil {
		return err
	}
	row := store.Job{ByUser: a.ByUser(), ByName: a.Name, Kind: kind, Payload: string(text), CreatedAt: r.Now(), State: store.JobWaiting,
		RunAt: r.Now().Add(after)}
	if a.House.ID != 0 {
		row.HouseID = &a.House.ID
	}
	return tx.Add(&row)
}

func job(row store.Job) Job {
	j := Job{ID: row.ID, Kind: row.Kind, State: State(row.State), Stage: row.Stage, Share: row.Share, Result: row.Result, By: row.ByName,
		At: row.CreatedAt}
	if row.Problem != "" {
		j.Problem = &keep.Error{}
		if err := json.Unmarshal([]byte(row.Problem), j.Problem); err != nil {
			j.Problem = &keep.Error{Kind: keep.Invalid, Message: row.Problem}
		}
	}
	return j
}

// Job reads a job of the actor's house.
func (r *Rules) Job(ctx context.Context, a keep.Actor, id int64) (Job, error) {
	row, err := r.DB.With(ctx).Job(a.House.ID, id)
	return job(row), keep.Missing(err, "job")
}

// Hook is the kind of job that posts a message of a webhook. Nobody waits for one, which may be put off for a day; what became of it stands
// with the webhook.
const Hook = "hook"

// Open lists the jobs of the actor's house that have not ended and that somebody waits for, oldest first.
func (r *Rules) Open(ctx context.Context, a keep.Actor) ([]Job, error) {
	rows, err := r.DB.With(ctx).OpenJobs(a.House.ID, Hook, 100)
	var out []Job
	for _, row := range rows {
		out = append(out, job(row))
	}
	return out, err
}

// GiveUp ends a job that has not ended; whoever is at it stops.
func (r *Rules) GiveUp(ctx context.Context, a keep.Actor, id int64) error {
	if err := a.May(keep.RoleContributor); err != nil {
		return err
	}
	db := r.DB.With(ctx)
	row, err := db.Job(a.House.ID, id)
	if err == nil && row.Kind == Hook { // a webhook is paused or taken away instead
		err = store.ErrNotFound
	}
	if err != nil {
		return keep.Missing(err, "job")
	}
	err = db.GiveUpJob(a.House.ID, id, r.Now())
	if errors.Is(err, store.ErrNotFound) {
		return keep.Clash("", "it has ended already")
	}
	if err == nil && row.BlobKey != "" {
		r.Drop(ctx, row.BlobKey)
	}
	return err
}

// Wait returns a job once it has ended, or as it is when the context ends.
func (r *Rules) Wait(ctx context.Context, a keep.Actor, id int64) (Job, error) {
	for {
		j, err := r.Job(ctx, a, id)
		if err != nil || j.State.Ended() {
			return j, err
		}
		select {
		case <-ctx.Done():
			return j, nil
		case <-time.After(20 * time.Millisecond):
		}
	}
}

// Serve works on jobs, several at a time, until the context ends.
func (r *Rules) Serve(ctx context.Context, workers int) {
	var all sync.WaitGroup
	for range workers {
		all.Go(func() {
			for ctx.Err() == nil {
				found, err := r.one(ctx)
				if err != nil && ctx.Err() == nil {
					slog.Error("jobs cannot be read", "error", err)
				}
				if found {
					continue
				}
				select {
				case <-ctx.Done():
				case <-r.wake:
				case <-time.After(r.idle):
				}
			}
		})
	}
	all.Wait()
}

// one claims and runs a job, if there is one.
func (r *Rules) one(ctx context.Context) (bool, error) {
	var row store.Job
	kinds := make([]string, 0, len(r.kinds))
	for k := range r.kinds {
		kinds = append(kinds, k)
	}
	r.claiming.Lock()
	err := r.DB.In(ctx, func(tx *store.DB) error {
		var err error
		row, err = tx.ClaimJob(r.Worker, kinds, r.lease, r.Most)
		return err
	})
	r.claiming.Unlock()
	if errors.Is(err, store.ErrNotFound) {
		return false, nil
	} else if err != nil {
		return false, err
	}
	r.work(ctx, row)
	return true, nil
}

// work runs a claimed job to its end.
func (r *Rules) work(ctx context.Context, row store.Job) {
	running, stop := context.WithCancelCause(ctx)
	defer stop(nil)
	var mu sync.Mutex
	stage, share := row.Stage, 0.0
	moved := time.Now()
	beat := func() error {
		mu.Lock()
		s, f, at := stage, share, moved
		mu.Unlock()
		if time.Since(at) > r.still {
			return errStill
		}
		return r.DB.With(ctx).RenewLease(row.ID, r.Worker, s, f, r.lease)
	}
	// The heartbeat: it carries the progress, and ends the work when the job is no longer ours or was given up.
	var beating sync.WaitGroup
	beating.Go(func() {
		// Progress is to be seen soon; the lease alone would do with less.
		for tick := time.NewTicker(min(r.lease/4, 400*time.Millisecond)); ; {
			select {
			case <-running.Done():
				tick.Stop()
				return
			case <-tick.C:
				if r.mute {
					continue
				}
				switch err := beat(); {
				case errors.Is(err, store.ErrNotFound):
					stop(nil)
				case errors.Is(err, errStill):
					stop(errStill)
				}
			}
		}
	})
	var ended atomic.Bool
	w := Work{ID: row.ID, Payload: row.Payload, Blob: row.BlobKey,
		report: func(s string, f float64) {
			mu.Lock()
			defer mu.Unlock()
			if s, f = keep.Short(s, 250), min(1, max(0, f)); s != stage || f != share {
				stage, share, moved = s, f, time.Now()
			}
		},
		finish: func(db *store.DB, result string) error {
			err := db.EndJob(row.ID, r.Worker, store.JobDone, result, "", r.Now())
			ended.Store(err == nil)
			return err
		}}
	err := r.actor(running, row, &w.Actor)
	if row.Attempts > attempts {
		err = &keep.Error{Kind: keep.Invalid,
			Message: fmt.Sprintf("It was begun %d times and never came to an end, so it is not tried again.", attempts)}
	} else if err == nil {
		err = r.patiently(running, r.kinds[row.Kind], w)
	}
	if errors.Is(context.Cause(running), errStill) {
		err = errStill
	}
	stop(nil)
	beating.Wait()
	if err == nil && ended.Load() {
		return
	}
	r.failed(ctx, row, err)
}

// errStill says that a job stays where it is, or does not stop when it is asked to.
var errStill = errors.New("the job does not move")

// patiently runs the work. One that goes on when it was asked to stop is left to itself.
func (r *Rules) patiently(ctx context.Context, run Run, w Work) error {
	done := make(chan error, 1)
	go func() { done <- call(ctx, run, w) }()
	select {
	case err := <-done:
		return err
	case <-ctx.Done():
	}
	select {
	case err := <-done:
		return err
	case <-time.After(r.patience):
		return errStill
	}
}

// call runs the work; a panic in it fails the job and not the program.
func call(ctx context.Context, run Run, w Work) (err error) {
	defer func() {
		if p := recover(); p != nil {
			err = fmt.Errorf("panic: %v", p)
			slog.Error("a job panicked", "job", w.ID, "panic", p, "stack", string(debug.Stack()))
		}
	}()
	return run(ctx, w)
}

// failed puts down why a job did not end well. An instance that stops leaves its job to another.
func (r *Rules) failed(ctx context.Context, row store.Job, err error) {
	db := r.DB.With(context.WithoutCancel(ctx))
	still := errors.Is(err, errStill)
	if still {
		r.stalled.Add(1)
		slog.Error("a job stalled", "job", row.ID, "kind", row.Kind)
		err = &keep.Error{Kind: keep.Invalid,
			Message: "It stayed at the same place for too long and was ended. It is not tried again by itself."}
	}
	if ctx.Err() != nil && !still {
		if err := db.PutBack(row.ID, r.Worker, 0, true, ""); err != nil && !errors.Is(err, store.ErrNotFound) {
			slog.Error("a job could not be put back", "job", row.ID, "error", err)
		}
		return
	}
	said := keep.Explain(err)
	switch {
	case errors.Is(err, context.Canceled), errors.Is(err, store.ErrNotFound):
		return // given up, or somebody else's now
	case said != nil && said.Kind == keep.Away && r.Now().Sub(row.CreatedAt) < longest:
		slog.Warn("a job waits for what is away", "job", row.ID, "kind", row.Kind, "error", said)
		if err := db.PutBack(row.ID, r.Worker, 2*r.lease, true, waits); err != nil && !errors.Is(err, store.ErrNotFound) {
			slog.Error("a job could not be put back", "job", row.ID, "error", err) // its lease will run out
		}
		return
	case err == nil:
		err = errors.New("it ended without a result")
		fallthrough
	case said == nil:
		slog.Error("a job failed", "job", row.ID, "kind", row.Kind, "error", err)
		if row.Attempts < attempts {
			if err := db.PutBack(row.ID, r.Worker, time.Duration(row.Attempts)*r.lease/4, false, ""); err != nil &&
				!errors.Is(err, store.ErrNotFound) {
				slog.Error("a job could not be put back", "job", row.ID, "error", err)
			}
			return
		}
		said = &keep.Error{Kind: keep.Invalid, Message: "Something went wrong here; it was noted. Try again."}
	}
	text, encodeErr := json.Marshal(said)
	if encodeErr != nil {
		text = []byte(said.Message)
	}
	if err := db.EndJob(row.ID, r.Worker, store.JobFailed, "", string(text), r.Now()); err != nil {
		if !errors.Is(err, store.ErrNotFound) {
			slog.Error("a job could not be ended", "job", row.ID, "error", err)
		}
		return
	}
	if row.BlobKey != "" {
		r.Drop(context.WithoutCancel(ctx), row.BlobKey)
	}
}

// actor is who asked for the work, with the role that they have now.
func (r *Rules) actor(ctx context.Context, row store.Job, out *keep.Actor) error {
	*out = keep.Actor{Name: row.ByName, Role: keep.RoleKeeper}
	if row.HouseID == nil {
		return nil
	}
	db := r.DB.With(ctx)
	h, err := db.House(*row.HouseID)
	if err != nil {
		return err
	}
	out.House = keep.HouseOf(h)
	if row.ByUser == nil {
		return nil
	}
	m, err := db.Membership(*row.ByUser, h.ID)
	if err != nil {
		return &keep.Error{Kind: keep.Forbidden, Message: fmt.Sprintf("%s does not belong to %s any more.", row.ByName, h.Name)}
	}
	out.Account, out.Role = *row.ByUser, keep.Role(m.Role)
	return nil
}
