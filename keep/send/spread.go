package send

import (
	"context"
	"math"
	"slices"
	"time"

	"huekeep/keep"
	"huekeep/store"
)

// Spread is who had which edition of a set over time.
type Spread struct {
	Recipients int // that get the set
	Editions   []Loaded
	Days       []Day
	Quiet      []Recipient // who was sent it and never said anything
}

// Loaded is how an edition came to those who get it.
type Loaded struct {
	EditionLine
	Loaded int      // recipients that said or showed that they have it, or a newer one after it
	Median *float64 // days from when it was fixed until it was loaded, in the middle of those who did; nil for none
}

// Day is who had what at a time.
type Day struct {
	At   time.Time
	Have []int // how many had none, then how many each of the editions, oldest first
}

// mostDays is at how many times a spread is told of.
const mostDays = 60

// Spread tells how editions of a set spread among those who get it now. Who is paused is among them.
func (r *Rules) Spread(ctx context.Context, a keep.Actor, id int64) (Spread, error) {
	db := r.DB.With(ctx)
	row, err := db.Set(a.House.ID, id)
	if err != nil {
		return Spread{}, keep.Missing(err, "swatch set")
	}
	lines, err := db.EditionLines(a.House.ID)
	if err != nil {
		return Spread{}, err
	}
	held, err := r.held(db, a)
	if err != nil {
		return Spread{}, err
	}
	s := Set{ID: row.ID, Name: row.Name, Editions: linesBySet(lines)[row.ID]}
	s.Holdings = held.ofSet(s)
	rows, err := db.LoadedOf(id)
	if err != nil {
		return Spread{}, err
	}
	return spread(s, rows, r.Now()), nil
}

func spread(s Set, rows []store.LoadedAt, now time.Time) Spread {
	out := Spread{Recipients: len(s.Holdings), Editions: []Loaded{}, Days: []Day{}, Quiet: []Recipient{}}
	members := map[int64]bool{}
	for _, h := range s.Holdings {
		members[h.ID] = true
	}
	first := map[int64]map[int]time.Time{} // when a recipient first had an edition
	for _, l := range rows {
		if !members[l.Recipient] {
			continue
		}
		if first[l.Recipient] == nil {
			first[l.Recipient] = map[int]time.Time{}
		}
		if at, ok := first[l.Recipient][l.Number]; !ok || l.At.Before(at) {
			first[l.Recipient][l.Number] = l.At
		}
	}
	for _, h := range s.Holdings {
		if h.Sent > 0 && len(first[h.ID]) == 0 {
			out.Quiet = append(out.Quiet, h.Recipient)
		}
	}
	editions := slices.Clone(s.Editions)
	slices.Reverse(editions) // oldest first
	for _, e := range editions {
		l := Loaded{EditionLine: e}
		var took []float64
		for _, of := range first {
			if at, ok := of[e.Number]; ok {
				took = append(took, max(0, at.Sub(e.At).Hours()/24))
			}
		}
		l.Loaded = len(took)
		if n := len(took); n > 0 {
			slices.Sort(took)
			middle := math.Round((took[(n-1)/2]+took[n/2])/2*100) / 100
			l.Median = &middle
		}
		out.Editions = append(out.Editions, l)
	}
	if len(editions) == 0 {
		return out
	}
	from := editions[0].At
	steps := min(mostDays, max(2, int(now.Sub(from).Hours()/24)+1))
	for i := range steps {
		at := from.Add(time.Duration(float64(now.Sub(from)) * float64(i) / float64(steps-1)))
		d := Day{At: at, Have: make([]int, len(editions)+1)}
		for member := range members {
			has := 0
			for k, e := range editions {
				if t, ok := first[member][e.Number]; ok && !t.After(at) {
					has = k + 1
				}
			}
			d.Have[has]++
		}
		out.Days = append(out.Days, d)
	}
	return out
}
