package dumps

import (
	"context"
	"errors"
	"fmt"
	"io"
	"log/slog"
	"net"
	"regexp"
	"time"

	"huekeep/core/limits"
	"huekeep/filestore"
	"huekeep/keep"
	"huekeep/keep/jobs"
	"huekeep/store"
)

// Rules make a dump in every night, on one of the instances.
type Rules struct {
	*keep.Base
	Jobs *jobs.Rules
	Set  Settings
	Tell func(ctx context.Context, problem string) // tells those who run the server that there was no dump; nil for nobody
}

// Settings say what is dumped to where, and when.
type Settings struct {
	From    Place
	To      filestore.Store // the place for dumps; nil for none
	At      time.Duration   // since midnight, by the clock of the machine
	Kept    int             // how many dumps are kept
	Version string          // of this program
}

// kind is the job of a night.
const kind = "nightly dump"

// again is how long one that failed is left alone, and keptFailures how long it is told that it did.
const (
	again        = time.Hour
	keptFailures = 30 * 24 * time.Hour
	keptCut      = 24 * time.Hour // what a killed writer left
)

// New makes the rules. They rest until there are settings.
func New(b *keep.Base, j *jobs.Rules) *Rules { return &Rules{Base: b, Jobs: j} }

// On says whether dumps are made.
func (r *Rules) On() bool { return r.Set.To != nil }

// scheduled is the last time before now at which a dump was to be made.
func scheduled(now time.Time, at time.Duration) time.Time {
	now = now.Local()
	day := func(back int) time.Time {
		return time.Date(now.Year(), now.Month(), now.Day()-back, int(at.Hours()), int(at.Minutes())%60, 0, 0, now.Location())
	}
	if t := day(0); !t.After(now) {
		return t
	}
	return day(1)
}

// Next is when the next dump is to be made, after the last try; nil for none.
func (r *Rules) Next(now time.Time, last *store.Night) time.Time {
	t := scheduled(now, r.Set.At)
	next := time.Date(t.Year(), t.Month(), t.Day()+1, t.Hour(), t.Minute(), 0, 0, t.Location())
	if last != nil && last.Problem != "" && last.BegunAt.Add(again).Before(next) {
		return last.BegunAt.Add(again)
	}
	return next
}

// isDue says whether it is time: since the last time that was set there was no dump, and one that failed was left alone for a while.
func isDue(now time.Time, at time.Duration, last, tried time.Time) bool {
	s := scheduled(now, at)
	return last.Before(s) && (tried.Before(s) || now.Sub(tried) >= again)
}

// Use sets what is dumped to where and when, before jobs are served. An instance without a place for dumps leaves them to others.
func (r *Rules) Use(s Settings) {
	if r.Set = s; r.On() {
		r.Jobs.Kind(kind, r.night)
	}
}

// Serve looks now and then whether it is time for a dump, until the context ends.
func (r *Rules) Serve(ctx context.Context, every time.Duration) {
	for r.On() {
		if err := r.queue(ctx); err != nil && ctx.Err() == nil {
			slog.Error("the nightly dump could not be queued", "error", err)
		}
		select {
		case <-ctx.Done():
			return
		case <-time.After(every):
		}
	}
}

func (r *Rules) queue(ctx context.Context) error {
	due, err := r.due(ctx, true)
	if err != nil || !due {
		return err
	}
	if pending, err := r.DB.With(ctx).Pending(kind); err != nil || pending {
		return err
	}
	_, err = r.Jobs.Add(ctx, keep.Actor{Name: "Hue Keep"}, kind, struct{}{}, "")
	return err
}

func (r *Rules) due(ctx context.Context, patient bool) (bool, error) {
	db := r.DB.With(ctx)
	last, err := db.LastNight()
	if err != nil && !errors.Is(err, store.ErrNotFound) {
		return false, err
	}
	var tried time.Time
	if patient {
		if tried, err = db.LastOfKind(kind); err != nil {
			return false, err
		}
	}
	return isDue(r.Now(), r.Set.At, last.BegunAt, tried), nil
}

// night is the job: it writes a dump, opens it again where it lies, and removes those that are not kept any longer. Why there is none is
// put down.
func (r *Rules) night(ctx context.Context, w jobs.Work) error {
	if due, err := r.due(ctx, false); err != nil {
		return err
	} else if !due { // two instances found it to be time at the same moment
		return r.DB.In(ctx, func(tx *store.DB) error { return w.Finish(tx, "") })
	}
	row := store.Night{BegunAt: r.Now()}
	row.Name = fmt.Sprintf("huekeep-%s-%d.tar.gz", row.BegunAt.Format("20060102T150405Z"), w.ID)
	m, err := r.write(ctx, w, row.Name)
	if err == nil {
		if row.RowCount, row.Size, err = r.open(ctx, w, row.Name); err != nil { // nobody may take it for one
			if gone := r.Set.To.Remove(context.WithoutCancel(ctx), row.Name); gone != nil && !errors.Is(gone, filestore.ErrNotFound) {
				err = fmt.Errorf("%w; %s could not be removed: %w", err, row.Name, gone)
			}
		}
	}
	if ctx.Err() != nil {
		return ctx.Err()
	}
	row.Files, row.Missing = int64(m.Files()), int64(len(m.Missing))
	if err != nil {
		slog.Error("there is no dump of this night", "error", err)
		row.Problem = keep.Short(told(err), 1000)
	}
	row.EndedAt = r.Now()
	before, err := r.DB.With(ctx).Nights(1)
	if err != nil {
		return err
	}
	if err := r.DB.In(ctx, func(tx *store.DB) error {
		night := row
		if err := tx.Add(&night); err != nil {
			return err
		}
		if err := tx.ForgetNights(r.Now().Add(-keptFailures)); err != nil {
			return err
		}
		return w.Finish(tx, row.Name)
	}); err != nil {
		return err
	}
	// The job is done, and whoever watches over jobs may end what is left of it: that goes on all the same.
	ctx = context.WithoutCancel(ctx)
	if row.Problem != "" {
		known := len(before) == 1 && before[0].Problem != "" && !before[0].BegunAt.Before(scheduled(row.BegunAt, r.Set.At))
		if r.Tell != nil && !known { // once in a night, however often it is tried
			r.Tell(ctx, row.Problem)
		}
		return nil
	}
	slog.Info("the nightly dump was written, opened and counted", "name", row.Name, "size", limits.Size(row.Size), "rows", row.RowCount,
		"files", row.Files)
	if err := r.prune(ctx); err != nil {
		slog.Error("old dumps could not be removed", "error", err)
	}
	return nil
}

// told is an error for those who can see to it: what the system says, and what to do about it.
func told(err error) string {
	var away net.Error
	if errors.As(err, &away) { // of the database, of the files or of the place for dumps: the address in it tells
		return keep.Sentence(err.Error()) + " See what the doctor says of database, files and dumps."
	}
	if advice := filestore.Advice(err, ""); advice != "" {
		return keep.Sentence(err.Error()) + " " + advice
	}
	if e := keep.Explain(err); e != nil {
		return e.Message
	}
	return keep.Sentence(err.Error())
}

// write writes the dump into its place while it is made, so that it needs no room elsewhere.
func (r *Rules) write(ctx context.Context, w jobs.Work, name string) (m Manifest, err error) {
	read, write := io.Pipe()
	made := make(chan error, 1)
	go func() {
		var err error
		how := How{Version: r.Set.Version, Watch: func(rows io.Writer) io.Writer { return &passing{rows, w, "of rows read", 0} }}
		m, err = Write(ctx, r.Set.From, how, &passing{write, w, "written", 0})
		made <- err
		_ = write.CloseWithError(err) // nil is the end
	}()
	err = r.Set.To.Write(ctx, name, read, filestore.Unsized)
	_ = read.CloseWithError(errors.New("the place for dumps takes no more")) // which ends the writer, whatever it is at
	if wrote := <-made; wrote != nil && err == nil {
		err = wrote
	}
	return m, err
}

// open reads a dump again from where it lies.
func (r *Rules) open(ctx context.Context, w jobs.Work, name string) (rows, size int64, err error) {
	f, size, err := r.Set.To.Open(ctx, name)
	if err != nil {
		return 0, 0, err
	}
	_, read, err := Check(io.TeeReader(f, &passing{io.Discard, w, "read again", 0}))
	return read.Rows(), size, errors.Join(err, f.Close())
}

// passing says of a job how much has passed.
type passing struct {
	io.Writer
	work jobs.Work
	what string
	n    int64
}

func (t *passing) Write(p []byte) (int, error) {
	n, err := t.Writer.Write(p)
	t.n += int64(n)
	t.work.Report(limits.Size(t.n)+" "+t.what, 0)
	return n, err
}

// prune removes the dumps behind those that are kept, and what killed writers left. Only what this server wrote goes.
func (r *Rules) prune(ctx context.Context) error {
	db := r.DB.With(ctx)
	old, err := db.OldNights(r.Set.Kept)
	if err != nil {
		return err
	}
	for _, n := range old {
		if err := r.Set.To.Remove(ctx, n.Name); err != nil && !errors.Is(err, filestore.ErrNotFound) {
			return fmt.Errorf("%s: %w", n.Name, err)
		}
		if err := db.DropNight(n.ID); err != nil && !errors.Is(err, store.ErrNotFound) {
			return err
		}
	}
	var cut []string
	if err := r.Set.To.Each(ctx, func(e filestore.Entry) error {
		if filestore.Unfinished(e.Key) && r.Now().Sub(e.At) > keptCut {
			cut = append(cut, e.Key)
		}
		return nil
	}); err != nil {
		return err
	}
	for _, key := range cut {
		if err := r.Set.To.Remove(ctx, key); err != nil && !errors.Is(err, filestore.ErrNotFound) {
			return err
		}
	}
	return nil
}

var dumpName = regexp.MustCompile(`^huekeep-[0-9]{8}T[0-9]{6}Z-[0-9]+\.tar\.gz$`)

// Newest is the name of the newest dump in a place, by the time that its name tells; ErrNotFound of package filestore if there is none.
func Newest(ctx context.Context, place filestore.Store) (name string, err error) {
	err = place.Each(ctx, func(e filestore.Entry) error {
		if dumpName.MatchString(e.Key) && e.Key > name {
			name = e.Key
		}
		return nil
	})
	if err == nil && name == "" {
		err = fmt.Errorf("no dump of a night: %w", filestore.ErrNotFound)
	}
	return name, err
}

// Last is the last dump that there is, nil for none, and whether there is none of the last night.
func (r *Rules) Last(ctx context.Context) (last *store.Night, failed bool, err error) {
	db := r.DB.With(ctx)
	night, err := db.LastNight()
	if err == nil {
		last = &night
	} else if !errors.Is(err, store.ErrNotFound) {
		return nil, false, err
	}
	newest, err := db.Nights(1)
	return last, err == nil && len(newest) == 1 && newest[0].Problem != "", err
}
