package main

import (
	"bytes"
	"context"
	"crypto/sha256"
	"encoding/hex"
	"encoding/json"
	"errors"
	"fmt"
	"io"
	"os"
	"path/filepath"
	"runtime"
	"strings"
	"sync"
	"time"

	"huekeep/core/audit"
	"huekeep/core/audit/kinds"
	"huekeep/core/limits"
	"huekeep/frames"
	"huekeep/reading"
)

// reports keeps what was made of files, by a checksum of all that it hangs on.
type reports interface {
	get(key string) ([]byte, bool)
	put(key string, text []byte) error
}

// inMemory keeps reports from one turn to the next.
type inMemory struct{ now, before map[string][]byte }

// turn forgets what the last turn did not use.
func (m *inMemory) turn() { m.before, m.now = m.now, map[string][]byte{} }

func (m *inMemory) get(key string) ([]byte, bool) {
	text, ok := m.before[key]
	if ok {
		m.now[key] = text
	}
	return text, ok
}

func (m *inMemory) put(key string, text []byte) error { m.now[key] = text; return nil }

// inFolder keeps reports in a folder, a file each.
type inFolder string

// keptReports opens a folder of reports, which is made if it is not there.
func keptReports(folder string) (reports, error) {
	if err := os.MkdirAll(folder, 0o755); err != nil {
		return nil, fmt.Errorf("--cache: %w", err)
	}
	return inFolder(folder), nil
}

// path is where a report lies; it is no name of a project file.
func (f inFolder) path(key string) string { return filepath.Join(string(f), key[:2], key+".report") }

// get reads a report; one that is cut off or was changed is none.
func (f inFolder) get(key string) ([]byte, bool) {
	text, err := os.ReadFile(f.path(key))
	if err != nil {
		return nil, false
	}
	sum, text, ok := bytes.Cut(text, []byte("\n"))
	return text, ok && string(sum) == sumOf(text)
}

func (f inFolder) put(key string, text []byte) error {
	path := f.path(key)
	if err := os.MkdirAll(filepath.Dir(path), 0o755); err != nil {
		return err
	}
	return writeWhole(path, append([]byte(sumOf(text)+"\n"), text...))
}

// looker judges files, as many at once as there are processors; those whose reports are kept are not judged again.
type looker struct {
	rules audit.Rules
	of    string // a checksum of the rules and of this program
	limit time.Duration
	says  io.Writer
	kept  reports
	all   bool // reports list all places

	guard  sync.Mutex // of what is kept
	broken bool       // nothing can be kept
	files  int
	same   int // whose reports were kept
}

func newLooker(rules audit.Rules, limit time.Duration, says io.Writer, kept reports, all bool) (*looker, error) {
	l := &looker{rules: rules, limit: limit, says: says, kept: kept, all: all}
	if kept == nil {
		return l, nil
	}
	text, err := json.Marshal(struct {
		audit.Rules
		All bool
	}{rules, all})
	if err != nil {
		return nil, err
	}
	if reading.Itself() == "" { // nothing says by which program a report was made
		l.kept = nil
	}
	l.of = sumOf([]byte(reading.Itself()), text)
	return l, nil
}

// looked is what became of a file.
type looked struct {
	input
	sum    string        // of its bytes
	report *audit.Report // nil until it is judged
	unread string        // why it could not be read; empty for one that could
	kept   bool          // the report was
	alone  bool          // it hangs on no other file
	with   *kinds.Together
	scan   *audit.Scan
}

// key is what the report of a file that hangs on no other is kept under; of one that hangs on others a mark is kept there that says so.
func (l *looker) key(f *looked, group string) string {
	return sumOf([]byte(l.of), []byte(f.name), []byte(f.sum), []byte(group))
}

const hangs = "hangs on others"

// find looks for the report of a file.
func (l *looker) find(f *looked, group string) (mark bool) {
	if l.kept == nil || f.unread != "" {
		return false
	}
	l.guard.Lock()
	text, ok := l.kept.get(l.key(f, group))
	l.guard.Unlock()
	if ok && string(text) == hangs {
		return true
	}
	var r audit.Report
	if ok && json.Unmarshal(text, &r) == nil {
		f.report, f.kept = &r, true
	}
	return false
}

// keep keeps what was made of a file; what cannot be kept is judged again, and said once.
func (l *looker) keep(f *looked, group string, value any) {
	if l.kept == nil {
		return
	}
	text, ok := value.(string)
	if !ok {
		data, err := json.Marshal(value)
		if err != nil {
			return
		}
		text = string(data)
	}
	l.guard.Lock()
	defer l.guard.Unlock()
	if l.broken {
		return
	}
	if err := l.kept.put(l.key(f, group), []byte(text)); err != nil {
		fmt.Fprintf(l.says, "huekeep: reports are not kept: %v\n", err)
		l.broken = true
	}
}

// at judges files, in their order.
func (l *looker) at(ctx context.Context, list []input) (out []audit.Report, unread []audit.Unread, err error) {
	l.files, l.same = len(list), 0
	files := make([]*looked, len(list))
	var again []*looked // that hang on others, and were judged before
	told := progress{to: l.says, what: "files are read"}
	err = l.each(ctx, list, func(i int, judge *audit.Judge) error {
		f := &looked{input: list[i]}
		files[i] = f
		data, err := readFile(f.path, limits.UploadBytes)
		if err != nil {
			f.unread = reason(err)
			return nil
		}
		if l.kept != nil {
			f.sum = sumOf(data)
		}
		if l.find(f, "") {
			l.guard.Lock()
			again = append(again, f)
			l.guard.Unlock()
			return nil
		}
		if f.report != nil {
			f.alone = true
			return nil
		}
		return l.read(ctx, f, data, judge)
	}, func(n int) { told.at(n, len(list)) })
	if err != nil {
		return nil, nil, err
	}
	if err := l.together(ctx, files, again); err != nil {
		return nil, nil, err
	}
	for _, f := range files {
		if f.kept {
			l.same++
		}
		if f.unread != "" {
			unread = append(unread, audit.Unread{Path: f.name, Why: f.unread})
		} else {
			out = append(out, *f.report)
		}
	}
	return out, unread, nil
}

// each does something with each of a list, several at once, until one fails. It says how many are done.
func (l *looker) each(whole context.Context, list []input, f func(i int, judge *audit.Judge) error, done func(n int)) error {
	ctx, stop := context.WithCancelCause(whole)
	defer stop(nil)
	var guard sync.Mutex
	next, n := 0, 0
	take := func() int {
		guard.Lock()
		defer guard.Unlock()
		next++
		return next - 1
	}
	var all sync.WaitGroup
	for range min(runtime.GOMAXPROCS(0), max(1, len(list))) {
		all.Go(func() {
			judge := audit.NewJudge(l.rules)
			for i := take(); i < len(list); i = take() {
				if ctx.Err() != nil {
					return
				}
				if err := f(i, judge); err != nil {
					stop(err)
					return
				}
				guard.Lock()
				n++
				done(n)
				guard.Unlock()
			}
		})
	}
	all.Wait()
	if whole.Err() != nil {
		return fmt.Errorf("%w at %s, after %d of %d files", context.Cause(whole), list[min(next, len(list))-1].name, n, len(list))
	}
	return context.Cause(ctx) // of the first that failed; nil for none
}

// read reads a file by itself, and judges it if it hangs on no other.
func (l *looker) read(ctx context.Context, f *looked, data []byte, judge *audit.Judge) error {
	f.with = kinds.NewTogether()
	scan, err := inTime(ctx, l.limit, func(ctx context.Context) (*audit.Scan, error) {
		return kinds.ReadWith(f.path, data, kinds.Options{Frames: frames.Reader(ctx), With: f.with,
			Watch: func(string, float64) error { return ctx.Err() }})
	})
	if ctx.Err() != nil {
		return ctx.Err()
	}
	if stuck := (errStuck{}); errors.As(err, &stuck) {
		return fmt.Errorf("%s: %w, and does not end; leave it out", f.name, stuck.error)
	}
	if err != nil {
		f.unread, f.with = strings.TrimPrefix(err.Error(), filepath.Base(f.path)+": "), nil
		return nil
	}
	scan.File = nil // it is not written, and may be large
	if f.scan, f.alone = scan, scan.Alone; !f.alone {
		l.keep(f, "", hangs)
		return nil
	}
	if f.with.Finish(); scan.Over != nil {
		f.unread, f.scan, f.with = scan.Over.Error(), nil, nil
		return nil
	}
	r := l.brief(judge.Judge(f.name, scan))
	f.report, f.scan, f.with = &r, nil, nil
	l.keep(f, "", r)
	return nil
}

// brief is a report with as many places as are wanted.
func (l *looker) brief(r audit.Report) audit.Report {
	if l.all {
		return r
	}
	return r.Brief(audit.BriefPlaces)
}

// together judges the files that hang on each other: all of them, or none where nothing of them changed.
func (l *looker) together(ctx context.Context, files, again []*looked) error {
	var list []*looked
	group := sha256.New()
	for _, f := range files {
		if f.unread == "" && !f.alone {
			list = append(list, f)
			group.Write([]byte(sumOf([]byte(f.name), []byte(f.sum))))
		}
	}
	of := hex.EncodeToString(group.Sum(nil))
	for _, f := range again {
		l.find(f, of)
	}
	missing := false
	for _, f := range list {
		missing = missing || f.report == nil
	}
	if !missing {
		return nil
	}
	var unread []input
	var which []*looked
	for _, f := range again {
		unread, which = append(unread, f.input), append(which, f)
	}
	err := l.each(ctx, unread, func(i int, judge *audit.Judge) error {
		data, err := readFile(unread[i].path, limits.UploadBytes)
		if err != nil {
			which[i].unread = reason(err)
			return nil
		}
		return l.read(ctx, which[i], data, judge)
	}, func(int) {})
	if err != nil {
		return err
	}
	all := kinds.NewTogether()
	for _, f := range list {
		if f.with == nil {
			continue
		}
		if err := all.Join(f.with); err != nil {
			return fmt.Errorf("the files hang on each other, and are too many to be judged together: %w", err)
		}
	}
	all.Finish()
	judge := audit.NewJudge(l.rules)
	for _, f := range list {
		if ctx.Err() != nil {
			return fmt.Errorf("%w while the files were judged", context.Cause(ctx))
		}
		if f.with == nil {
			continue
		}
		if f.scan.Over != nil {
			f.unread, f.scan, f.with = f.scan.Over.Error(), nil, nil
			continue
		}
		r := l.brief(judge.Judge(f.name, f.scan))
		f.report, f.kept, f.scan, f.with = &r, false, nil, nil
		l.keep(f, of, r)
	}
	return nil
}

// tell says which share was not judged again.
func (l *looker) tell() {
	if l.kept != nil && l.files > 0 {
		fmt.Fprintf(l.says, "huekeep: %d of %d files are as they were and were not judged again (%.0f %%)\n", l.same, l.files,
			100*float64(l.same)/float64(l.files))
	}
}
