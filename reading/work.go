package reading

import (
	"bufio"
	"context"
	"encoding/gob"
	"encoding/json"
	"errors"
	"fmt"
	"io"
	"path"
	"runtime/debug"
	"time"

	"huekeep/core/audit"
	"huekeep/core/audit/kinds"
	"huekeep/core/gather"
	"huekeep/core/limits"
	"huekeep/core/repaint"
	"huekeep/frames"
)

// What is asked of a process, one after the other. The bytes of a file follow the request as they are.
type request struct {
	What  what
	Name  string
	Size  int64
	Limit time.Duration
	Rules audit.Rules
	Plan  Plan
	Task  string
	Arg   []byte // JSON
}

type what int

const (
	askRead what = iota + 1
	askJudge
	askRepaint
	askGather
	askTask
	askClasses
	askAfresh // another project begins, with its rules
)

// answer is what comes back: how far it is, a report, and at the end Done with what came of it. The bytes of a file that was made follow.
type answer struct {
	Stage         string
	Share         float64
	Over          *audit.Unread // a file that was read and cannot be judged
	Report        []byte        // JSON: gob takes a pointer to 0, as a score is, for none
	Result        []byte        // JSON, without its data
	Found         *gather.Found
	Classes, Held []string
	Size          int64
	Done          bool
	Late          bool
	Wrong         string // a sentence
}

// report is what an answer says of a file; nil for nothing.
func (a answer) report() (*audit.Report, error) {
	if a.Report == nil {
		return nil, nil
	}
	r := &audit.Report{}
	return r, json.Unmarshal(a.Report, r)
}

// Work answers requests until there are no more. It is what a process does.
func Work(ctx context.Context, in io.Reader, out io.Writer) error {
	from, to := bufio.NewReaderSize(in, 1<<16), bufio.NewWriterSize(out, 1<<16)
	w := &worker{ctx: ctx, in: from, out: to, decode: gob.NewDecoder(from), encode: gob.NewEncoder(to)}
	w.afresh(audit.Rules{})
	for {
		var r request
		if err := w.decode.Decode(&r); errors.Is(err, io.EOF) {
			return nil
		} else if err != nil {
			return err
		}
		if err := w.answer(r); err != nil {
			return err
		}
	}
}

type worker struct {
	ctx    context.Context
	in     *bufio.Reader
	out    *bufio.Writer
	decode *gob.Decoder
	encode *gob.Encoder
	rules  audit.Rules
	judge  *audit.Judge // by them; nil until there is something to judge
	with   *kinds.Together
	scans  []named // that hang on each other
}

type named struct {
	name string
	scan *audit.Scan
}

func (w *worker) afresh(rules audit.Rules) {
	w.rules, w.judge, w.with, w.scans = rules, nil, kinds.NewTogether(), nil
}

func (w *worker) say(a answer) error {
	if err := w.encode.Encode(a); err != nil {
		return err
	}
	return w.out.Flush()
}

func (w *worker) answer(r request) error {
	if r.Size < 0 || r.Size > limits.UploadBytes {
		return fmt.Errorf("a file of %d bytes was announced", r.Size)
	}
	data := make([]byte, r.Size)
	if _, err := io.ReadFull(w.in, data); err != nil {
		return err
	}
	switch r.What {
	case askAfresh:
		w.afresh(r.Rules)
		debug.FreeOSMemory()
		return w.say(answer{Done: true})
	case askJudge:
		return w.judgeTogether()
	case askRepaint:
		return w.repaint(r, data)
	case askGather:
		return w.gather(r, data)
	case askClasses:
		return w.classes(r, data)
	case askTask:
		return w.task(r, data)
	}
	return w.read(r, data)
}

// within runs f with options whose watch tells how far it is, and ends it when its time is over.
func (w *worker) within(r request, share func(float64) float64, f func(o kinds.Options) error) (a answer, err error) {
	ctx, stop := context.WithTimeout(w.ctx, r.Limit)
	defer stop()
	var said error
	told := time.Time{}
	defer func() {
		if p := recover(); p != nil {
			err = fmt.Errorf("panic while %s was read: %v\n%s", path.Base(r.Name), p, debug.Stack())
		}
	}()
	err = f(kinds.Options{Frames: frames.Reader(ctx), Watch: func(stage string, s float64) error {
		if now := time.Now(); now.Sub(told) > 100*time.Millisecond {
			told = now
			if said = w.say(answer{Stage: stage, Share: share(s)}); said != nil {
				return said
			}
		}
		if ctx.Err() != nil {
			return errLate
		}
		return nil
	}})
	switch {
	case said != nil:
		return a, said
	case w.ctx.Err() != nil:
		return a, w.ctx.Err()
	case err != nil && ctx.Err() != nil:
		return answer{Done: true, Late: true}, nil
	case err != nil:
		return answer{Done: true, Wrong: err.Error()}, nil
	}
	return answer{Done: true}, nil
}

// read reads a file, and judges it at once if it hangs on no other, so that its scan need not be kept.
func (w *worker) read(r request, data []byte) error {
	var report *audit.Report
	a, err := w.within(r, func(s float64) float64 { return s }, func(o kinds.Options) error {
		o.With = kinds.NewTogether()
		scan, err := kinds.ReadWith(r.Name, data, o)
		if err != nil {
			return err
		}
		scan.File = nil // it is not written, and may be large
		if scan.Alone {
			if o.With.Finish(); scan.Over != nil {
				return fmt.Errorf("%s: %w", path.Base(r.Name), scan.Over)
			}
			its := w.judgeOne(r.Name, scan)
			report = &its
			return nil
		}
		if err := w.with.Join(o.With); err != nil {
			return fmt.Errorf("%s: together with what the files before it define, %w", path.Base(r.Name), err)
		}
		w.scans = append(w.scans, named{r.Name, scan})
		return nil
	})
	if err != nil {
		return err
	}
	if report != nil && a.Wrong == "" && !a.Late {
		if a.Report, err = json.Marshal(report); err != nil {
			return err
		}
	}
	return w.say(a)
}

// judgeOne judges a scan that is whole.
func (w *worker) judgeOne(name string, scan *audit.Scan) audit.Report {
	if w.judge == nil {
		w.judge = audit.NewJudge(w.rules)
	}
	return w.judge.Judge(name, scan)
}

// judgeTogether judges the files that hang on each other.
func (w *worker) judgeTogether() error {
	w.with.Finish()
	for i, s := range w.scans {
		w.scans[i] = named{}
		if over := s.scan.Over; over != nil {
			if err := w.say(answer{Over: &audit.Unread{Path: s.name, Why: over.Error()}}); err != nil {
				return err
			}
			continue
		}
		text, err := json.Marshal(w.judgeOne(s.name, s.scan))
		if err != nil {
			return err
		}
		if err := w.say(answer{Report: text}); err != nil {
			return err
		}
	}
	w.with, w.scans = kinds.NewTogether(), nil
	return w.say(answer{Done: true})
}

func (w *worker) repaint(r request, data []byte) error {
	turn, last := 0.0, 0.0
	thirds := func(s float64) float64 { // it is read three times
		if s < last {
			turn = min(turn+1.0/3, 2.0/3)
		}
		last = s
		return turn + s/3
	}
	var result *repaint.Result
	a, err := w.within(r, thirds, func(o kinds.Options) (err error) {
		result, err = repaint.FileBy(r.Name, data, w.rules, r.Plan.of, o)
		return err
	})
	if err != nil {
		return err
	}
	if result == nil || a.Late || a.Wrong != "" {
		return w.say(a)
	}
	written := result.Data
	result.Data = nil
	if a.Result, err = json.Marshal(result); err != nil {
		return err
	}
	return w.send(a, written)
}

func (w *worker) classes(r request, data []byte) error {
	var all, held []string
	a, err := w.within(r, func(s float64) float64 { return s }, func(o kinds.Options) (err error) {
		all, held, err = repaint.Classes(r.Name, data, w.rules, r.Plan.of, o)
		return err
	})
	if err != nil {
		return err
	}
	a.Classes, a.Held = all, held
	return w.say(a)
}

// send answers with bytes behind the answer, if all went well.
func (w *worker) send(a answer, made []byte) error {
	if a.Late || a.Wrong != "" {
		return w.say(a)
	}
	a.Size = int64(len(made))
	if err := w.encode.Encode(a); err != nil {
		return err
	}
	if _, err := w.out.Write(made); err != nil {
		return err
	}
	return w.out.Flush()
}

func (w *worker) gather(r request, data []byte) error {
	var found gather.Found
	a, err := w.within(r, func(s float64) float64 { return s }, func(kinds.Options) (err error) {
		found, err = gather.Read(r.Name, data)
		return err
	})
	if err != nil {
		return err
	}
	if a.Wrong == "" && !a.Late {
		a.Found = &found
	}
	return w.say(a)
}
