package server

import "huekeep/keep/instances"

// limiters are those that instances count together, by the names under which they tell each other.
func (s *server) limiters() map[string]*limiter {
	return map[string]*limiter{"guesses": &s.guesses, "phrases": &s.phrases, "answers": &s.answers, "followed": &s.followed,
		"fetches": &s.fetches,
		"reads":   &s.paces.reads, "writes": &s.paces.writes, "uploads": &s.paces.uploads, "address": &s.paces.address}
}

// together tells other instances of changes and counts, and takes theirs.
func (s *server) together() {
	s.hub.others = s.Instances.Changed
	limiters := s.limiters()
	for name, l := range limiters {
		l.others = func(who string, n int) { s.Instances.Counted(name, who, n) }
	}
	s.Instances.OnNews(func(n instances.News) {
		for _, c := range n.Changed {
			s.hub.here(c.House, c.Page)
		}
		for name, by := range n.Counts {
			if l := limiters[name]; l != nil {
				for who, times := range by {
					l.counted(who, times)
				}
			}
		}
	})
}
