package audits

import (
	"archive/zip"
	"bytes"
	"context"
	"encoding/json"
	"errors"
	"fmt"
	"io"
	"os"
	"path"
	"path/filepath"
	"slices"
	"strings"
	"time"

	"huekeep/core/audit"
	"huekeep/core/limits"
	"huekeep/core/repaint"
	"huekeep/keep"
	"huekeep/keep/jobs"
	"huekeep/reading"
	"huekeep/store"
)

// Repainted is what repainting a file or a project made.
type Repainted struct {
	ID      int64
	Project int64
	Run     int64
	At      time.Time
	By      string
	Name    string // of the file to download
	Dry     bool   // nothing was written
	Changed int    // uses
	Left    int
	Before  *float64
	After   *float64
	Files   []RepaintedFile
}

// RepaintedFile is one file of it.
type RepaintedFile struct {
	Path    string           `json:"path"`
	Changed int              `json:"changed"`
	Changes []repaint.Change `json:"changes"` // the first of them
	Places  int              `json:"places"`  // of changes in all
	Left    []repaint.Left   `json:"left"`
	Parts   repaint.Parts    `json:"parts"`
	Before  Totals           `json:"before"`
	After   Totals           `json:"after"`
	Why     string           `json:"why,omitempty"` // why the file could not be repainted at all

	Audit int64  `json:"-"` // of the judged file, as long as its run is kept; 0 for none
	Kind  string `json:"-"` // of that file
}

// Totals are the uses of a file by verdict.
type Totals struct {
	Score *float64              `json:"score"`
	Uses  map[audit.Verdict]int `json:"uses"`
}

func totals(r audit.Report) Totals {
	t := Totals{r.Score, map[audit.Verdict]int{}}
	for _, c := range r.Colors {
		t.Uses[c.Verdict] += c.Count
	}
	if n := r.UnjudgedUses(); n > 0 {
		t.Uses[audit.Unjudged] = n
	}
	return t
}

// toldPlaces is how many changed places of a file are told of.
const toldPlaces = 2000

// repaintPayload is what the job of repainting is told.
type repaintPayload struct {
	Run   int64             `json:"run"`
	Audit int64             `json:"audit,omitempty"` // 0 for all files of the run
	Steps []repaint.Step    `json:"steps"`
	Link  bool              `json:"link,omitempty"`
	Theme map[string]string `json:"theme,omitempty"`
	Dry   bool              `json:"dry,omitempty"`
}

// Repaint queues a file of a run, or all of them for audit 0, to be repainted. Without steps, what needs no decision is done. A dry run
// tells what would change.
func (r *Rules) Repaint(ctx context.Context, a keep.Actor, run, of int64, plan repaint.Plan, dry bool) (jobs.Job, error) {
	if err := a.May(keep.RoleContributor); err != nil {
		return jobs.Job{}, err
	}
	db := r.DB.With(ctx)
	if of != 0 {
		row, err := db.Audit(a.House.ID, of)
		if err != nil {
			return jobs.Job{}, keep.Missing(err, "audit")
		}
		if row.RunID == nil {
			return jobs.Job{}, errOfBefore
		}
		if *row.RunID != run {
			return jobs.Job{}, keep.None("audit in this run")
		}
	} else if _, err := db.Run(a.House.ID, run); err != nil {
		return jobs.Job{}, keep.Missing(err, "run")
	}
	if err := r.checkSteps(ctx, a, plan.Colors); err != nil {
		return jobs.Job{}, err
	}
	return r.Jobs.Add(ctx, a, RepaintKind, repaintPayload{run, of, plan.Colors, plan.Link, plan.Theme, dry}, "")
}

// RunOf is the run that a judged file is of.
func (r *Rules) RunOf(ctx context.Context, a keep.Actor, of int64) (run int64, err error) {
	row, err := r.DB.With(ctx).Audit(a.House.ID, of)
	if err != nil {
		return 0, keep.Missing(err, "audit")
	}
	if row.RunID == nil {
		return 0, errOfBefore
	}
	return *row.RunID, nil
}

// errOfBefore is about a judged file that is of no run.
var errOfBefore = keep.Clash("", "this audit is of an older Hue Keep; judge the file again first")

// repaint does the work. The result is the number of what was made. The files themselves stay as they are.
func (r *Rules) repaint(ctx context.Context, w jobs.Work) error {
	var p repaintPayload
	if err := json.Unmarshal([]byte(w.Payload), &p); err != nil {
		return err
	}
	db := r.DB.With(ctx)
	run, err := db.Run(w.Actor.House.ID, p.Run)
	if err != nil {
		return keep.Missing(err, "run")
	}
	every, err := db.RunAudits(p.Run)
	if err != nil {
		return err
	}
	rows := every
	if at := slices.IndexFunc(every, func(row store.Audit) bool { return row.ID == p.Audit }); at >= 0 {
		rows = every[at : at+1]
	}
	rules, err := r.rules(ctx, w.Actor, run.ProjectID)
	if err != nil {
		return err
	}
	session := r.Apart.Begin(w.Actor.House.ID, rules)
	defer session.End()
	plan := reading.Plan{Colors: p.Steps, Link: p.Link, Theme: p.Theme}
	if plan.Stay, err = r.staying(ctx, session, every, rows, rules, plan); err != nil {
		return err
	}
	made := making{out: store.Repaint{HouseID: run.HouseID, ProjectID: run.ProjectID, RunID: run.ID, ByUser: w.Actor.ByUser(),
		ByName: w.Actor.Name, At: r.Now()}}
	defer made.close()
	for i, row := range rows {
		file, data, err := r.repaintOne(ctx, w, session, row, plan, float64(i)/float64(len(rows)), 1/float64(len(rows)))
		if ctx.Err() != nil {
			return ctx.Err()
		}
		var said reading.Sentence
		switch {
		case err != nil && !errors.As(err, &said):
			return err
		case err != nil && len(rows) == 1:
			return unreadable(err)
		case err != nil:
			file = RepaintedFile{Path: row.Path, Why: whyNot(row.Path, err)}
		}
		made.count(file)
		switch {
		case data == nil || p.Dry:
		case len(rows) == 1:
			made.single = data
		default:
			if err := made.pack(row.Path, data); err != nil {
				return err
			}
		}
	}
	project, err := db.Project(run.HouseID, run.ProjectID)
	if err != nil {
		return keep.Missing(err, "project")
	}
	made.out.Name = keep.Short(project.Name, 200) + ", repainted.zip"
	if len(rows) == 1 {
		extension := path.Ext(rows[0].FileName)
		made.out.Name = strings.TrimSuffix(rows[0].FileName, extension) + ", repainted" + extension
	}
	return r.keepMade(ctx, w, &made)
}

// making is what a repaint has made so far. Several files are packed on the disk: together they may have hundreds of megabytes.
type making struct {
	out    store.Repaint
	files  []RepaintedFile
	sums   [2]struct{ good, judged int } // before and after
	single []byte                        // the file, where it is one
	folder string                        // of the archive; empty for none
	packed *os.File
	zip    *zip.Writer
}

// count takes up what became of a file.
func (m *making) count(file RepaintedFile) {
	m.files = append(m.files, file)
	m.out.Changed += file.Changed
	for _, l := range file.Left {
		m.out.LeftOver += l.Count
	}
	for k, t := range []Totals{file.Before, file.After} {
		for v, n := range t.Uses {
			if !v.Sort().Known {
				continue
			}
			m.sums[k].judged += n
			if v.Fine() {
				m.sums[k].good += n
			}
		}
	}
}

// pack adds a file to the archive.
func (m *making) pack(name string, data []byte) (err error) {
	if m.zip == nil {
		if m.folder, err = os.MkdirTemp("", "huekeep-repaint"); err != nil {
			return err
		}
		if m.packed, err = os.Create(filepath.Join(m.folder, "repainted.zip")); err != nil {
			return err
		}
		m.zip = zip.NewWriter(m.packed)
	}
	at, err := m.packed.Seek(0, io.SeekCurrent)
	if err != nil {
		return err
	}
	if at+int64(len(data)) > limits.UnpackedBytes {
		return &keep.Error{Kind: keep.TooLarge,
			Message: fmt.Sprintf("The repainted files come to over %s; repaint them in smaller numbers.", limits.Size(limits.UnpackedBytes))}
	}
	to, err := m.zip.CreateHeader(&zip.FileHeader{Name: name, Method: zip.Deflate, Modified: m.out.At})
	if err == nil {
		_, err = to.Write(data)
	}
	return err
}

// content is what was made, with its size; 0 for nothing.
func (m *making) content() (io.ReadSeeker, int64, error) {
	if m.zip == nil {
		return bytes.NewReader(m.single), int64(len(m.single)), nil
	}
	if err := m.zip.Close(); err != nil {
		return nil, 0, err
	}
	size, err := m.packed.Seek(0, io.SeekEnd)
	return m.packed, size, err
}

// close takes the archive off the disk again.
func (m *making) close() {
	if m.packed != nil {
		_ = m.packed.Close() // it is stored elsewhere, or of no use
	}
	if m.folder != "" {
		_ = os.RemoveAll(m.folder)
	}
}

// keepMade keeps what a repaint made, all or nothing, and ends its job.
func (r *Rules) keepMade(ctx context.Context, w jobs.Work, m *making) error {
	m.out.ScoreBefore, m.out.ScoreAfter = audit.Score(m.sums[0].good, m.sums[0].judged), audit.Score(m.sums[1].good, m.sums[1].judged)
	w.Report("keeping what was made", 0.98)
	text, err := json.Marshal(m.files)
	if err != nil {
		return err
	}
	content, size, err := m.content()
	if err != nil {
		return err
	}
	var keys []string
	fail := func(err error) error {
		for _, k := range keys {
			r.Drop(context.WithoutCancel(ctx), k)
		}
		return err
	}
	if m.out.ReportKey, err = r.Store(ctx, m.out.HouseID, "reports", text); err != nil {
		return err
	}
	keys = append(keys, m.out.ReportKey)
	if size > 0 {
		if m.out.BlobKey, err = r.StoreFrom(ctx, m.out.HouseID, "repainted", content, size); err != nil {
			return fail(err)
		}
		keys = append(keys, m.out.BlobKey)
	}
	err = r.DB.In(ctx, func(tx *store.DB) error {
		m.out.ID = 0
		if err := tx.Add(&m.out); err != nil {
			return err
		}
		return w.Finish(tx, fmt.Sprint(m.out.ID))
	})
	if err != nil {
		return fail(err)
	}
	return nil
}

// kept gives the bytes of a file of a run.
func (r *Rules) kept(row store.Audit) reading.Load {
	return func(ctx context.Context) ([]byte, error) {
		data, err := r.Load(ctx, row.BlobKey)
		if errors.Is(err, keep.ErrLost) || errors.Is(err, keep.ErrSpoiled) {
			return nil, reading.Sentence(fmt.Sprintf("%s: the file is no longer kept (%v)", row.FileName, err))
		}
		return data, err
	}
}

// staying are the utility classes that keep their names since they stand in other files of the run, or are excused in one.
func (r *Rules) staying(ctx context.Context, session reading.Session, every, rows []store.Audit, rules audit.Rules,
	plan reading.Plan) (map[string]string, error) {
	stay := map[string]string{}
	alone := len(rows) == 1
	if len(every) == 1 || !alone && len(rules.Excuses) == 0 {
		return stay, nil
	}
	for _, row := range every {
		if alone && row.ID == rows[0].ID {
			continue
		}
		all, held, err := session.Classes(ctx, row.Path, r.kept(row), plan)
		var said reading.Sentence
		if errors.As(err, &said) {
			continue // repainting says what is wrong with it
		} else if err != nil {
			return nil, err
		}
		if alone {
			held = all
		}
		repaint.Stay(stay, held, row.Path, alone)
	}
	return stay, nil
}

// repaintOne repaints one file, within what may be read at once.
func (r *Rules) repaintOne(ctx context.Context, w jobs.Work, session reading.Session, row store.Audit, plan reading.Plan,
	from, share float64) (out RepaintedFile, data []byte, err error) {
	result, err := session.Repaint(ctx, row.Path, r.kept(row), plan, func(what string, s float64) {
		w.Report(row.FileName+": "+what, 0.97*(from+share*s))
	})
	if err != nil {
		return out, nil, err
	}
	out = RepaintedFile{Path: row.Path, Changed: result.Uses, Changes: result.Changes[:min(len(result.Changes), toldPlaces)],
		Places: len(result.Changes),
		Left:   result.Left[:min(len(result.Left), toldPlaces)], Parts: result.Parts, Before: totals(result.Before),
		After: totals(result.After)}
	return out, result.Data, nil
}

func repaintedOf(row store.Repaint) Repainted {
	return Repainted{ID: row.ID, Project: row.ProjectID, Run: row.RunID, At: row.At, By: row.ByName, Name: row.Name, Dry: row.BlobKey == "",
		Changed: row.Changed, Left: row.LeftOver, Before: audit.Kept(row.ScoreBefore), After: audit.Kept(row.ScoreAfter)}
}

// Repainted reads what repainting made.
func (r *Rules) Repainted(ctx context.Context, a keep.Actor, id int64) (Repainted, error) {
	row, err := r.DB.With(ctx).Repaint(a.House.ID, id)
	if err != nil {
		return Repainted{}, keep.Missing(err, "repainted file")
	}
	out := repaintedOf(row)
	text, err := r.Load(ctx, row.ReportKey)
	if err != nil {
		return out, keep.Clash("", "what was told of it is no longer kept; repaint again")
	}
	if err := json.Unmarshal(text, &out.Files); err != nil {
		return out, err
	}
	judged, err := r.DB.With(ctx).RunAudits(row.RunID)
	for i, f := range out.Files {
		if at := slices.IndexFunc(judged, func(j store.Audit) bool { return j.Path == f.Path }); at >= 0 {
			out.Files[i].Audit, out.Files[i].Kind = judged[at].ID, judged[at].Kind
		}
	}
	return out, err
}

// Repaints lists what was repainted of a project, newest first.
func (r *Rules) Repaints(ctx context.Context, a keep.Actor, project int64) ([]Repainted, error) {
	rows, err := r.DB.With(ctx).Repaints(a.House.ID, project, limits.Page)
	var out []Repainted
	for _, row := range rows {
		out = append(out, repaintedOf(row))
	}
	return out, err
}

// RepaintedFileOf gives the file to download, to be closed.
func (r *Rules) RepaintedFileOf(ctx context.Context, a keep.Actor, id int64) (name string, file keep.Spooled, err error) {
	row, err := r.DB.With(ctx).Repaint(a.House.ID, id)
	if err != nil {
		return "", file, keep.Missing(err, "repainted file")
	}
	if row.BlobKey == "" {
		return "", file, keep.Clash("", "it was a dry run; nothing was written")
	}
	file, err = r.Spool(ctx, row.BlobKey)
	if errors.Is(err, keep.ErrLost) || errors.Is(err, keep.ErrSpoiled) {
		return "", file, keep.Clash("", "the file is no longer kept; repaint again")
	}
	return row.Name, file, err
}

// Take puts the repainted files into their project, in place of those that were judged, and queues its next run. A file that was replaced
// meanwhile is in the way: the newer one would be lost.
func (r *Rules) Take(ctx context.Context, a keep.Actor, id int64) (jobs.Job, error) {
	if err := a.May(keep.RoleContributor); err != nil {
		return jobs.Job{}, err
	}
	row, err := r.DB.With(ctx).Repaint(a.House.ID, id)
	if err != nil {
		return jobs.Job{}, keep.Missing(err, "repainted file")
	}
	made, err := r.Repainted(ctx, a, id)
	if err != nil {
		return jobs.Job{}, err
	}
	_, packed, err := r.RepaintedFileOf(ctx, a, id)
	if err != nil {
		return jobs.Job{}, err
	}
	defer packed.Close()
	judged, err := r.judgedFiles(ctx, row.RunID)
	if err != nil {
		return jobs.Job{}, err
	}
	var rows []store.ProjectFile
	fail := func(err error) (jobs.Job, error) {
		for _, f := range rows {
			r.drop(ctx, f)
		}
		return jobs.Job{}, err
	}
	for _, f := range made.Files {
		if f.Changed == 0 && f.Parts.Changed == 0 {
			continue // it stayed as it was
		}
		data, err := madeFile(packed, len(made.Files), f.Path)
		if err != nil {
			return fail(err)
		}
		if data == nil {
			continue
		}
		key, err := r.Store(ctx, a.House.ID, "audits", data)
		if err != nil {
			return fail(err)
		}
		rows = append(rows, store.ProjectFile{ProjectID: row.ProjectID, Path: f.Path, BlobKey: key, Size: int64(len(data)),
			AddedAt: r.Now()})
	}
	if len(rows) == 0 {
		return jobs.Job{}, keep.Clash("", "nothing was repainted, so there is nothing to take into the project")
	}
	err = r.Change(ctx, a, func(tx *store.DB) error {
		p, err := tx.Project(a.House.ID, row.ProjectID)
		if err != nil || p.Removed != 0 {
			return keep.Clash("", "the project was removed; bring it back first")
		}
		paths := make([]string, len(rows))
		for i, f := range rows {
			paths[i] = f.Path
		}
		there, err := tx.ProjectFilesNamed(row.ProjectID, paths)
		if err != nil {
			return err
		}
		for _, f := range there {
			if f.BlobKey != judged[f.Path] {
				return keep.Clash("", "the file %s was replaced in the project after it was judged; judge the project again and repaint that", f.Path)
			}
		}
		for _, f := range rows {
			if err := tx.PutProjectFile(f); err != nil {
				return err
			}
		}
		return nil
	})
	if err != nil {
		return fail(err)
	}
	return r.BeginRun(ctx, a, row.ProjectID, false)
}

// judgedFiles are the stored files that a run judged, by their paths.
func (r *Rules) judgedFiles(ctx context.Context, run int64) (map[string]string, error) {
	rows, err := r.DB.With(ctx).RunAudits(run)
	out := map[string]string{}
	for _, row := range rows {
		out[row.Path] = row.BlobKey
	}
	return out, err
}

// madeFile is one of so many files that a repaint made: the file itself, or one of an archive of ours; nil if it is not there.
func madeFile(packed keep.Spooled, of int, path string) ([]byte, error) {
	if of == 1 {
		return io.ReadAll(io.NewSectionReader(packed, 0, packed.Size))
	}
	z, err := zip.NewReader(packed, packed.Size)
	if err != nil {
		return nil, err
	}
	for _, f := range z.File {
		if f.Name == path {
			in, err := f.Open()
			if err != nil {
				return nil, err
			}
			return io.ReadAll(in)
		}
	}
	return nil, nil
}
