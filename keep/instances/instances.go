// Package instances lets the instances of the program that share a database hear of each other: which houses were changed, so that pages
// which are open at another one read anew, and how often somebody did what is done so often at most.
package instances

import (
	"context"
	"encoding/json"
	"log/slog"
	"os"
	"sync"
	"time"

	"huekeep/keep"
	"huekeep/store"
)

// Every is how often an instance says what is new and hears the others: what one says reaches the pages of all within twice that.
const Every = 700 * time.Millisecond

// here is in every how many rounds an instance says that it is there, and Silence for how long one may say nothing that is.
const (
	here    = 20
	Silence = time.Minute
)

// News is what an instance says at once.
type News struct {
	Changed []Change                  `json:"changed,omitempty"`
	Counts  map[string]map[string]int `json:"counts,omitempty"` // by what is counted, then by who: how often since it was last said
}

// Change says that a page, empty if it does not say which, changed something in a house.
type Change struct {
	House int64  `json:"house"`
	Page  string `json:"page,omitempty"`
}

// Of what has not been said yet, as much at most; the database may be away.
const (
	mostChanges = 1000
	mostCounts  = 10_000
)

// Rules say and hear. One who never hears is alone, which does no harm.
type Rules struct {
	*keep.Base
	Version string // of this program
	name    string

	mutex sync.Mutex
	next  News
	count int
	heard func(News)
	seen  map[int64]time.Time
}

// New makes an instance with a name of its own.
func New(b *keep.Base) *Rules {
	return &Rules{Base: b, name: keep.Random()[:16], seen: map[int64]time.Time{}}
}

// OnNews sets what is done with the news of others.
func (r *Rules) OnNews(f func(News)) {
	r.mutex.Lock()
	defer r.mutex.Unlock()
	r.heard = f
}

// Changed says that a page changed something in a house.
func (r *Rules) Changed(house int64, page string) {
	r.mutex.Lock()
	defer r.mutex.Unlock()
	for i, c := range r.next.Changed {
		if c.House == house {
			if c.Page != page {
				r.next.Changed[i].Page = "" // nobody's own
			}
			return
		}
	}
	if len(r.next.Changed) < mostChanges {
		r.next.Changed = append(r.next.Changed, Change{house, page})
	}
}

// Counted says that somebody did something so often more.
func (r *Rules) Counted(what, who string, n int) {
	r.mutex.Lock()
	defer r.mutex.Unlock()
	of := r.next.Counts[what]
	if of[who] == 0 {
		if r.count >= mostCounts {
			return
		}
		r.count++
	}
	if of == nil {
		of = map[string]int{}
		if r.next.Counts == nil {
			r.next.Counts = map[string]map[string]int{}
		}
		r.next.Counts[what] = of
	}
	of[who] += n
}

// Serve says and hears until the context ends.
func (r *Rules) Serve(ctx context.Context, every time.Duration) {
	tick := time.NewTicker(every)
	defer tick.Stop()
	host, err := os.Hostname()
	if err != nil {
		host = "unknown"
	}
	defer func() { _ = r.DB.With(context.WithoutCancel(ctx)).InstanceGone(r.name) }() // else it is forgotten after a day
	well := true
	for n := 0; ; n++ {
		err := r.Exchange(ctx)
		if err == nil && n%64 == 0 {
			err = r.DB.With(ctx).ForgetInstanceNews()
		}
		if err == nil && n%here == 0 {
			err = r.DB.With(ctx).InstanceHere(store.Instance{Name: r.name, Host: keep.Short(host, 250),
				Version: keep.Short(r.Version, 100)})
		}
		if err != nil && well && ctx.Err() == nil {
			slog.Warn("other instances are not heard", "error", err)
		}
		well = err == nil
		select {
		case <-ctx.Done():
			return
		case <-tick.C:
		}
	}
}

// Exchange says what is new and hears what others said. What could not be said is said the next time.
func (r *Rules) Exchange(ctx context.Context) error {
	r.mutex.Lock()
	said := r.next
	r.next, r.count = News{}, 0
	heard := r.heard
	r.mutex.Unlock()
	db := r.DB.With(ctx)
	if len(said.Changed)+len(said.Counts) > 0 {
		text, err := json.Marshal(said)
		if err == nil {
			err = db.TellInstances(r.name, string(text))
		}
		if err != nil {
			r.again(said)
			return err
		}
	}
	rows, err := db.HearInstances(r.name)
	if err != nil {
		return err
	}
	now := time.Now()
	for _, row := range rows {
		if _, known := r.seen[row.ID]; known {
			continue
		}
		r.seen[row.ID] = now
		var news News
		if err := json.Unmarshal([]byte(row.News), &news); err != nil {
			slog.Error("news of another instance could not be read", "error", err)
			continue
		}
		if heard != nil {
			heard(news)
		}
	}
	for id, at := range r.seen {
		if now.Sub(at) > time.Minute {
			delete(r.seen, id)
		}
	}
	return nil
}

func (r *Rules) again(said News) {
	for _, c := range said.Changed {
		r.Changed(c.House, c.Page)
	}
	for what, by := range said.Counts {
		for who, n := range by {
			r.Counted(what, who, n)
		}
	}
}
