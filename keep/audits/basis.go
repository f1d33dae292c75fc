package audits

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
	"path"
	"slices"
	"strings"

	"huekeep/core/audit"
	"huekeep/keep"
	"huekeep/reading"
	"huekeep/store"
)

// What a report hangs on: the file, what is judged by, the program that judges, and, where a file uses what others define, those. As long
// as none of that changed the report is that of the run before.

// bases tells what the reports of a run hang on.
type bases struct {
	rules  string            // a checksum of what is judged by, and by which program
	sums   map[string]string // of the files, by path
	before map[string]store.Audit
}

// The first letter of a basis tells whether the file hangs on others.
const (
	apart  = "a"
	shared = "s"
)

// basesOf gathers what is known of files of a project and of its newest run.
func (r *Rules) basesOf(ctx context.Context, project int64, files []store.ProjectFile, rules audit.Rules) (bases, error) {
	db := r.DB.With(ctx)
	b := bases{sums: map[string]string{}, before: map[string]store.Audit{}}
	text, err := json.Marshal(rules)
	if err != nil {
		return b, err
	}
	b.rules = sumOf(reading.Itself(), string(text))
	run, err := db.NewestRun(project)
	if err != nil && !errors.Is(err, store.ErrNotFound) {
		return b, err
	}
	rows, err := db.RunAudits(run.ID)
	if err != nil {
		return b, err
	}
	var keys []string
	for _, f := range files {
		keys = append(keys, f.BlobKey)
	}
	sums, err := db.Sums(keys)
	if err != nil {
		return b, err
	}
	for _, f := range files {
		b.sums[f.Path] = sums[f.BlobKey]
	}
	for _, row := range rows {
		if reading.Itself() != "" && row.Basis != "" {
			b.before[row.Path] = row
		}
	}
	return b, nil
}

// sumOf is a checksum of texts, each with its length.
func sumOf(texts ...string) string {
	h := sha256.New()
	for _, t := range texts {
		fmt.Fprintf(h, "%d:%s", len(t), t)
	}
	return hex.EncodeToString(h.Sum(nil))
}

// start is how a basis begins: whether the file hangs on others, and what it is judged by.
func (b bases) start(kind string) string { return kind + b.rules[:14] }

// alone is the basis of a file that hangs on no other.
func (b bases) alone(path string) string { return b.start(apart) + sumOf(b.rules, path, b.sums[path]) }

// shared is the basis of each file that hangs on others, by their paths.
func (b bases) shared(paths []string) map[string]string {
	all := []string{b.rules}
	for _, p := range slices.Sorted(slices.Values(paths)) {
		all = append(all, p, b.sums[p])
	}
	group := sumOf(all...)
	out := map[string]string{}
	for _, p := range paths {
		out[p] = b.start(shared) + sumOf(p, group)
	}
	return out
}

// unchanged says whether a file has the bytes that the run before judged.
func (b bases) unchanged(f store.ProjectFile, sumBefore map[string]string) bool {
	row, ok := b.before[f.Path]
	return ok && b.sums[f.Path] != "" && sumBefore[row.BlobKey] == b.sums[f.Path]
}

// finding is what a run reads: all files, or only those whose reports would not be those of the run before.
type finding struct {
	*Rules
	w      running
	p      payload
	files  []store.ProjectFile
	bases  bases
	has    []store.ProjectFile // that have a report, in their order
	same   map[string]bool     // that of the run before
	basis  map[string]string
	unread []audit.Unread
	judged map[string]judgedFile // now, by path
	text   *os.File              // their reports, one after the other
	rules  audit.Rules
	judge  *audit.Judge // for its tolerances
}

// judgedFile is what is put down of a file.
type judgedFile struct {
	row     store.Audit // but for where its report is stored
	report  *io.SectionReader
	colors  []store.AuditColor
	wanting map[string]bool // what in it wants a decision
}

// keep keeps the report of a file until all are there.
func (f *finding) keep(at store.ProjectFile, report audit.Report) error {
	if report.Path != at.Path {
		return fmt.Errorf("a report of %s came for %s", report.Path, at.Path)
	}
	text, err := writeReport(report)
	if err != nil {
		return err
	}
	if text, err = packed(text); err != nil {
		return err
	}
	from, err := f.text.Seek(0, io.SeekEnd)
	if err != nil {
		return err
	}
	if _, err := f.text.Write(text); err != nil {
		return err
	}
	j := judgedFile{wanting: map[string]bool{}, report: io.NewSectionReader(f.text, from, int64(len(text))),
		row: store.Audit{Path: at.Path, FileName: path.Base(at.Path), Kind: report.Kind, Size: at.Size, BlobKey: at.BlobKey,
			Tolerance: f.judge.Tolerance(report.Kind), Uses: report.Uses, Score: report.Score, Findings: report.Findings(),
			Unjudged: report.UnjudgedUses()}}
	for _, u := range report.Unjudged {
		j.wanting[u.Value] = true
	}
	for _, c := range report.Colors {
		j.wanting[c.Key] = !c.Verdict.Fine()
		j.colors = append(j.colors, store.AuditColor{Hex: c.Hex, Verdict: string(c.Verdict), Uses: c.Count, Places: len(c.Places)})
	}
	f.judged[at.Path] = j
	return nil
}

// read reads and judges what has to be, in the order of the files. Those that hang on others are read together or not at all.
func (f *finding) read(ctx context.Context) error {
	session := f.Apart.Begin(f.w.actor.House.ID, f.rules)
	defer func() { session.End() }()
	sums, err := f.sumsBefore(ctx)
	if err != nil {
		return err
	}
	// whether a file whose bytes were judged before hangs on others is known; whether what it hangs on changed is known once the others
	// were read
	may := map[string]bool{}
	for _, file := range f.files {
		if file.Why == "" && f.bases.unchanged(file, sums) {
			basis := f.bases.before[file.Path].Basis
			may[file.Path] = (basis == f.bases.alone(file.Path) || strings.HasPrefix(basis, f.bases.start(shared))) &&
				f.readable(ctx, f.bases.before[file.Path])
		}
	}
	for {
		again, err := f.turn(ctx, session, may)
		if err != nil {
			return err
		}
		if !again {
			return f.together(ctx, session)
		}
		session.End()
		session = f.Apart.Begin(f.w.actor.House.ID, f.rules)
	}
}

// together judges the files that hang on each other.
func (f *finding) together(ctx context.Context, session reading.Session) error {
	f.w.report("judging what was found", 0.9)
	at := map[string]store.ProjectFile{}
	for _, file := range f.has {
		if _, ok := f.judged[file.Path]; !ok && !f.same[file.Path] {
			at[file.Path] = file
		}
	}
	n := 0
	err := session.Judge(ctx, func(report audit.Report) error {
		n++
		f.w.report(fmt.Sprintf("judging file %d of %d", n, len(at)), 0.9+0.1*float64(n-1)/float64(len(at)))
		return f.keep(at[report.Path], report)
	}, func(file audit.Unread) {
		n++
		f.unread = append(f.unread, file)
		f.has = slices.DeleteFunc(f.has, func(o store.ProjectFile) bool { return o.Path == file.Path })
	})
	if i := slices.IndexFunc(f.unread, func(u audit.Unread) bool { return u.Path == f.p.Path || len(f.files) == 1 }); err == nil && i >= 0 {
		return unreadable(fmt.Errorf("%s: %s", path.Base(f.unread[i].Path), f.unread[i].Why))
	}
	var said reading.Sentence
	if errors.As(err, &said) {
		return &keep.Error{Kind: keep.Invalid, Message: err.Error()}
	}
	if err == nil && n < len(at) {
		err = fmt.Errorf("%d of %d reports came", n, len(at))
	}
	return err
}

// readable says whether the report of before can be shown. Where nobody asked for a run it is taken for granted: who opens it and cannot
// will ask.
func (f *finding) readable(ctx context.Context, row store.Audit) bool {
	if f.p.Quiet {
		return true
	}
	_, err := f.Load(ctx, row.ReportKey)
	return err == nil
}

// turn reads the files but those whose reports may be those of before, and those that were judged in a turn before; again says that there
// are some that are not, which it takes out.
func (f *finding) turn(ctx context.Context, session reading.Session, may map[string]bool) (again bool, err error) {
	f.has, f.same, f.basis, f.unread = nil, map[string]bool{}, map[string]string{}, nil
	var together []string
	for i, file := range f.files {
		if file.Why != "" {
			f.unread = append(f.unread, audit.Unread{Path: file.Path, Why: file.Why})
			continue
		}
		_, alone := f.judged[file.Path]
		if may[file.Path] {
			f.same[file.Path] = true
			alone = strings.HasPrefix(f.bases.before[file.Path].Basis, apart)
		} else if !alone {
			report, err := session.Read(ctx, file.Path, f.loading(file), f.watch(i))
			var said reading.Sentence
			switch {
			case ctx.Err() != nil:
				return false, ctx.Err()
			case err != nil && !errors.As(err, &said):
				return false, err
			case err != nil && (file.Path == f.p.Path || len(f.files) == 1):
				return false, unreadable(err)
			case err != nil:
				f.unread = append(f.unread, audit.Unread{Path: file.Path, Why: whyNot(file.Path, err)})
				continue
			}
			if alone = report != nil; alone {
				if err := f.keep(file, *report); err != nil {
					return false, err
				}
			}
		}
		f.has = append(f.has, file)
		if alone {
			f.basis[file.Path] = f.bases.alone(file.Path)
		} else {
			together = append(together, file.Path)
		}
	}
	for path, basis := range f.bases.shared(together) {
		f.basis[path] = basis
		if may[path] && f.bases.before[path].Basis != basis {
			delete(may, path)
			again = true
		}
	}
	return again, nil
}

// watch says how far the reading of a file is.
func (f *finding) watch(i int) reading.Watch {
	return func(what string, share float64) {
		if len(f.files) > 1 {
			what = fmt.Sprintf("file %d of %d, %s: %s", i+1, len(f.files), path.Base(f.files[i].Path), what)
		}
		f.w.report(what, 0.9*(float64(i)+share)/float64(len(f.files)))
	}
}

// sumsBefore are checksums of the files that the run before judged.
func (f *finding) sumsBefore(ctx context.Context) (map[string]string, error) {
	var keys []string
	for _, row := range f.bases.before {
		keys = append(keys, row.BlobKey)
	}
	return f.DB.With(ctx).Sums(keys)
}

// sameReport says whether two reports say the same: one of before may be stored otherwise.
func (f *finding) sameReport(ctx context.Context, before, now store.Audit, alike func(a, b string) bool) (bool, error) {
	if alike(before.ReportKey, now.ReportKey) {
		return true, nil
	}
	was, err := f.report(ctx, before)
	if said := new(keep.Error); errors.As(err, &said) {
		return false, nil // it cannot be shown any more
	} else if err != nil {
		return false, err
	}
	is, err := f.report(ctx, now)
	return bytes.Equal(was, is), err
}

// nothingNew says whether a run came out as the one before: the same files to the byte, each with the same report. A file that changed in
// what is no color makes a run, so that what is repainted of the newest run is the file as it is.
func (f *finding) nothingNew(ctx context.Context, tx *store.DB, before, now store.Run, rows []store.Audit) (bool, error) {
	was, err := tx.RunAudits(before.ID)
	if err != nil || len(was) != len(rows) || before.Unread != now.Unread || before.Tolerance != now.Tolerance {
		return false, err
	}
	of := map[string]store.Audit{}
	var keys []string
	for _, row := range was {
		of[row.Path] = row
	}
	for _, row := range slices.Concat(was, rows) {
		keys = append(keys, row.ReportKey, row.BlobKey)
	}
	sums, err := tx.Sums(keys)
	if err != nil {
		return false, err
	}
	alike := func(a, b string) bool { return a == b || sums[a] != "" && sums[a] == sums[b] }
	for _, row := range rows {
		before, ok := of[row.Path]
		if !ok || !alike(before.BlobKey, row.BlobKey) {
			return false, nil
		}
		if same, err := f.sameReport(ctx, before, row, alike); err != nil || !same {
			return false, err
		}
	}
	for _, row := range was { // it holds by what is judged by now
		if err := tx.SetBasis(row.ID, f.basis[row.Path]); err != nil {
			return false, err
		}
	}
	return true, nil
}
