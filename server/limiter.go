package server

import (
	"sync"
	"time"
)

// limiter holds off who did something too often within a time. It lives in this process and forgets when that ends; what others
// counted of the same database comes to it within a second or two.
type limiter struct {
	most   int
	within time.Duration
	others func(who string, n int) // tells the other instances; nil for none

	mutex sync.Mutex
	seen  map[string]*tally
}

type tally struct {
	n     int // here and elsewhere
	own   int // of those, here
	until time.Time
}

// remembered is how many a limiter keeps count of; over that, it starts again with those that are not over.
const remembered = 50_000

// held says how long somebody is still to wait; 0 for not at all.
func (l *limiter) held(who string) time.Duration {
	l.mutex.Lock()
	defer l.mutex.Unlock()
	if t := l.seen[who]; t != nil && t.n >= l.most {
		return max(0, time.Until(t.until))
	}
	return 0
}

// count counts one more of what somebody does.
func (l *limiter) count(who string) {
	l.mutex.Lock()
	defer l.mutex.Unlock()
	t := l.add(who, 1)
	if l.others == nil {
		return
	}
	// The first eighth is not worth telling: who is far from the limit everywhere would be most of what is told.
	switch first := l.most / 8; {
	case t.own > first:
		l.others(who, 1)
	case t.own == first && first > 0:
		l.others(who, t.own)
	}
}

// counted adds what somebody did at another instance.
func (l *limiter) counted(who string, n int) {
	l.mutex.Lock()
	defer l.mutex.Unlock()
	t := l.add(who, n)
	t.own -= n
}

func (l *limiter) add(who string, n int) *tally {
	now := time.Now()
	if l.seen == nil {
		l.seen = map[string]*tally{}
	}
	if len(l.seen) >= remembered {
		for k, t := range l.seen {
			if t.until.Before(now) {
				delete(l.seen, k)
			}
		}
		if len(l.seen) >= remembered {
			clear(l.seen)
		}
	}
	t := l.seen[who]
	if t == nil || t.until.Before(now) {
		t = &tally{until: now.Add(l.within)}
		l.seen[who] = t
	}
	t.n, t.own = t.n+n, t.own+n
	return t
}
