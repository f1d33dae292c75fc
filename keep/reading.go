package keep

import (
	"context"
	"errors"
	"slices"
	"strings"
	"sync"
	"time"

	"huekeep/core/limits"
	"huekeep/reading"
)

// Apart does a task with a file that a member brought, in a process of its own; what is wrong with it is an error of the field "file". The
// name is what a sentence calls the file.
func Apart[A any](ctx context.Context, b *Base, a Actor, task reading.Task[A], name string, arg A, data []byte) ([]byte, error) {
	made, err := task.Do(ctx, b.Apart, a.House.ID, name, arg, data)
	var said reading.Sentence
	if !errors.As(err, &said) {
		return made, err
	}
	text := said.Error() + "."
	if strings.HasPrefix(name, "the ") || !strings.HasPrefix(text, name) { // a file's name stays as it is
		text = Sentence(said.Error())
	}
	return nil, &Error{Kind: Invalid, Field: "file", Message: text}
}

// Reading waits until something heavy may be done in this process, as drawing a sheet with a logo and typefaces that somebody brought: it
// can take hundreds of megabytes, so that only a few are done at the same time, whoever asks. The function that it returns says that it is
// done. What somebody brings is read elsewhere, by Apart and the package reading, which has turns of its own.
func Reading(ctx context.Context, house int64) (done func(), err error) {
	return readingHere.Take(ctx, house)
}

var readingHere = NewTurns(limits.ReadAtOnce)

// Turns are places that houses take turns at. None takes the last one while it has another, and of those that wait the house comes next
// that had its turn the longest ago, so that no house keeps another waiting for longer than one file takes.
type Turns struct {
	mutex   sync.Mutex
	places  int
	taken   map[int64]int
	last    map[int64]int // the turn that a house had last, while it has or wants one
	turn    int
	waiting []*waiter // in the order in which they came
}

type waiter struct {
	house int64
	since time.Time
	let   chan struct{}
}

// NewTurns makes so many places.
func NewTurns(places int) *Turns {
	return &Turns{places: places, taken: map[int64]int{}, last: map[int64]int{}}
}

// Take waits for a place.
func (t *Turns) Take(ctx context.Context, house int64) (done func(), err error) {
	w := &waiter{house, time.Now(), make(chan struct{})}
	t.mutex.Lock()
	t.waiting = append(t.waiting, w)
	t.next()
	t.mutex.Unlock()
	select {
	case <-w.let:
		return sync.OnceFunc(func() { t.leave(house) }), nil
	case <-ctx.Done():
	}
	t.mutex.Lock()
	i := slices.Index(t.waiting, w)
	if i >= 0 {
		t.waiting = slices.Delete(t.waiting, i, i+1)
	}
	t.mutex.Unlock()
	if i < 0 { // it was let in at this moment
		t.leave(house)
	}
	return nil, ctx.Err()
}

func (t *Turns) leave(house int64) {
	t.mutex.Lock()
	defer t.mutex.Unlock()
	if t.taken[house]--; t.taken[house] == 0 {
		delete(t.taken, house)
	}
	t.next()
}

// next lets in who may be.
func (t *Turns) next() {
	for {
		used := 0
		for _, n := range t.taken {
			used += n
		}
		best := -1
		for i, w := range t.waiting {
			if n := t.taken[w.house]; used+n >= t.places && (n > 0 || used >= t.places) {
				continue // with what it has, the last place is not for it
			}
			if best < 0 || t.last[w.house] < t.last[t.waiting[best].house] {
				best = i
			}
		}
		if best < 0 {
			break
		}
		w := t.waiting[best]
		t.waiting = slices.Delete(t.waiting, best, best+1)
		t.taken[w.house]++
		t.turn++
		t.last[w.house] = t.turn
		close(w.let)
	}
	for house := range t.last {
		if t.taken[house] == 0 && !slices.ContainsFunc(t.waiting, func(w *waiter) bool { return w.house == house }) {
			delete(t.last, house)
		}
	}
}

// Now says how many places are taken, how many wait, and for how long the first of these does.
func (t *Turns) Now() (taken, waiting int, longest time.Duration) {
	t.mutex.Lock()
	defer t.mutex.Unlock()
	for _, n := range t.taken {
		taken += n
	}
	if len(t.waiting) > 0 {
		longest = time.Since(t.waiting[0].since)
	}
	return taken, len(t.waiting), longest
}

// ReadingNow is Now of the files that are read here.
func ReadingNow() (taken, waiting int, longest time.Duration) { return readingHere.Now() }
