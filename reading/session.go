package reading

import (
	"context"
	"encoding/json"
	"errors"
	"fmt"
	"log/slog"
	"path"
	"time"

	"huekeep/core/audit"
	"huekeep/core/gather"
	"huekeep/core/limits"
	"huekeep/core/repaint"
)

// mostBad is how many files of a project may end a process before the rest of them is not tried any more.
const mostBad = 5

// judging is how many times longer than a file the judging of a project may take.
const judging = 10

// session is work on a project. What was read is remembered by how it is loaded, since a process that ends takes what it knew with it.
type session struct {
	pool  *Pool
	house int64
	rules *audit.Rules // nil where nothing is judged
	at    *process
	read  []file // that the process has to have: those whose reports hang on each other
	has   int    // how many of them it has
	bad   int
}

type file struct {
	name string
	load Load
}

// Read implements Session.
func (s *session) Read(ctx context.Context, name string, load Load, watch Watch) (report *audit.Report, err error) {
	if s.bad >= mostBad {
		return nil, Sentence(fmt.Sprintf("%s: it was not read, since %d files before it could not be read to their end", path.Base(name),
			s.bad))
	}
	if err := s.ready(ctx, watch); err != nil {
		return nil, err
	}
	report, err = s.one(ctx, file{name, load}, watch)
	var died errDied
	if errors.As(err, &died) && len(s.read) > 0 { // was it this one, or what is kept of those before it?
		other := &session{pool: s.pool, house: s.house, rules: s.rules}
		_, err = other.one(ctx, file{name, load}, watch)
		other.End()
		if err == nil {
			return nil, s.together()
		}
	}
	if err != nil {
		return nil, s.said(name, err)
	}
	if report == nil {
		s.read, s.has = append(s.read, file{name, load}), s.has+1
	}
	return report, nil
}

// together is said of a project that a process cannot hold.
func (s *session) together() error {
	return Sentence(fmt.Sprintf("The files of this project take over %s of memory together. Judge them in several projects.",
		limits.Size(s.pool.Memory)))
}

// said turns what became of a process into a sentence about the file that it was at.
func (s *session) said(name string, err error) error {
	var died errDied
	switch {
	case errors.Is(err, errLate):
		s.bad++
		s.pool.late.Add(1)
		return tooLong(name, s.pool.Limit)
	case errors.As(err, &died):
		s.bad++
		if died.memory() {
			return Sentence(fmt.Sprintf("%s: it takes over %s of memory to read", path.Base(name), limits.Size(s.pool.Memory)))
		}
		slog.Error("a process that read a file ended by itself", "file", path.Base(name), "said", died.complaint)
		return Sentence(fmt.Sprintf("%s: its reader broke off, which was noted here", path.Base(name)))
	}
	return err
}

// ready has a process that knows the files that were read.
func (s *session) ready(ctx context.Context, watch Watch) error {
	if s.at != nil {
		return nil
	}
	s.has = 0
	for _, f := range s.read {
		if _, err := s.one(ctx, f, watch); err != nil {
			var said Sentence
			if ctx.Err() != nil || errors.As(err, &said) {
				return err
			}
			return s.together()
		}
		s.has++
	}
	return nil
}

// one reads a file, in its turn.
func (s *session) one(ctx context.Context, f file, watch Watch) (report *audit.Report, err error) {
	err = s.turn(ctx, f.load, func(data []byte) error {
		_, err := s.ask(ctx, request{What: askRead, Name: f.name, Limit: s.pool.Limit}, data, patience, func(a answer) (err error) {
			if !a.Done {
				watch(a.Stage, a.Share)
			}
			report, err = a.report()
			return err
		})
		return err
	})
	return report, err
}

// turn waits for a turn and loads a file.
func (s *session) turn(ctx context.Context, load Load, f func(data []byte) error) error {
	done, err := s.pool.Turns.Take(ctx, s.house)
	if err != nil {
		return err
	}
	defer done()
	var data []byte
	if load != nil {
		if data, err = load(ctx); err != nil {
			return err
		}
	}
	return f(data)
}

// ask asks the session's process, and forgets one that has ended. A file that says itself that it is late leaves the process as it was.
func (s *session) ask(ctx context.Context, r request, data []byte, patience time.Duration, each func(a answer) error) (written []byte,
	err error) {
	if s.at == nil {
		if s.at, err = s.pool.take(); err != nil {
			return nil, err
		}
		if s.rules != nil {
			if err := s.afresh(ctx, s.at, *s.rules, s.pool.Limit); err != nil {
				s.at = nil
				return nil, err
			}
		}
	}
	inTime := false
	written, err = s.pool.ask(ctx, s.at, r, data, patience, func(a answer) error {
		inTime = a.Done
		return each(a)
	})
	if err != nil && !inTime {
		s.at.kill()
		s.at = nil
		var died errDied
		if errors.As(err, &died) {
			s.pool.died.Add(1)
		}
	}
	return written, err
}

// Judge implements Session.
func (s *session) Judge(ctx context.Context, each func(report audit.Report) error, over func(file audit.Unread)) error {
	if len(s.read) == 0 {
		return nil
	}
	quiet := func(string, float64) {}
	if err := s.ready(ctx, quiet); err != nil {
		return err
	}
	err := s.turn(ctx, nil, func([]byte) error {
		_, err := s.ask(ctx, request{What: askJudge, Limit: judging * s.pool.Limit}, nil, patience, func(a answer) error {
			if a.Over != nil {
				over(*a.Over)
			}
			report, err := a.report()
			if err != nil || report == nil {
				return err
			}
			return each(*report)
		})
		return err
	})
	s.read, s.has = nil, 0
	var died errDied
	switch {
	case errors.Is(err, errLate):
		return Sentence(fmt.Sprintf("Judging the files of this project takes too long (over %s). Judge them in several projects.",
			seconds(judging*s.pool.Limit)))
	case errors.As(err, &died) && died.memory():
		return s.together()
	}
	return err
}

// Repaint implements Session.
func (s *session) Repaint(ctx context.Context, name string, load Load, plan Plan, watch Watch) (result *repaint.Result, err error) {
	err = s.turn(ctx, load, func(data []byte) error {
		written, err := s.ask(ctx, request{What: askRepaint, Name: name, Plan: plan, Limit: 3 * s.pool.Limit}, data, patience,
			func(a answer) error {
				if !a.Done {
					watch(a.Stage, a.Share)
				}
				if a.Result == nil {
					return nil
				}
				result = &repaint.Result{}
				return json.Unmarshal(a.Result, result)
			})
		if err == nil && result != nil {
			result.Data = written
		}
		return err
	})
	if err != nil {
		return nil, s.said(name, err)
	}
	return result, nil
}

// Classes implements Session.
func (s *session) Classes(ctx context.Context, name string, load Load, plan Plan) (all, held []string, err error) {
	err = s.turn(ctx, load, func(data []byte) error {
		if !repaint.MayHaveClasses(data) {
			return nil
		}
		_, err := s.ask(ctx, request{What: askClasses, Name: name, Plan: plan, Limit: s.pool.Limit}, data, patience,
			func(a answer) error {
				if a.Done {
					all, held = a.Classes, a.Held
				}
				return nil
			})
		return err
	})
	if err != nil {
		return nil, nil, s.said(name, err)
	}
	return all, held, nil
}

// Gather implements Reader.
func (p *Pool) Gather(ctx context.Context, house int64, name string, data []byte) (found gather.Found, err error) {
	s := &session{pool: p, house: house}
	defer s.End()
	err = s.turn(ctx, func(context.Context) ([]byte, error) { return data, nil }, func(data []byte) error {
		_, err := s.ask(ctx, request{What: askGather, Name: name, Limit: p.Limit}, data, patience, func(a answer) error {
			if a.Found != nil {
				found = *a.Found
			}
			return nil
		})
		return err
	})
	if err != nil {
		return found, s.said(name, err)
	}
	return found, nil
}

// afresh has a process forget what it knows and judge by rules from now on; one that cannot within a time is ended. One that has just been
// started takes as long as the machine is busy.
func (s *session) afresh(ctx context.Context, w *process, rules audit.Rules, limit time.Duration) error {
	_, err := s.pool.ask(ctx, w, request{What: askAfresh, Rules: rules, Limit: limit}, nil, patience, func(answer) error { return nil })
	if err != nil {
		w.kill()
	}
	return err
}

// End implements Session.
func (s *session) End() {
	if s.at == nil {
		return
	}
	w := s.at
	s.at = nil
	if s.afresh(context.Background(), w, audit.Rules{}, 0) == nil {
		s.pool.put(w)
	}
}
