package audits

import (
	"cmp"
	"context"
	"encoding/json"
	"errors"
	"fmt"
	"io"
	"path"
	"slices"
	"strings"
	"time"
	"unicode/utf8"

	"huekeep/core/audit"
	"huekeep/core/color"
	"huekeep/core/library"
	"huekeep/core/limits"
	"huekeep/core/repaint"
	"huekeep/keep"
	"huekeep/keep/hooks"
	"huekeep/keep/jobs"
	"huekeep/reading"
	"huekeep/store"
)

// Project is files that are audited together under one name, run after run.
type Project struct {
	ID      int64
	Name    string
	At      time.Time
	By      string
	Removed bool
	Last    *Run // nil before the first run
}

// Run is one audit of a project.
type Run struct {
	ID        int64
	Project   int64
	Number    int
	At        time.Time
	By        string
	Tolerance float64
	Files     int
	Uses      int
	Findings  int
	Unjudged  int
	Score     *float64
	Unread    []audit.Unread // files that could not be read
	Together  *float64       // the score of the last runs of all projects when this one was done; nil but in a list of all
	Projects  int            // how many those are
}

// File is a file of a project: one that its next run reads, or says why it does not.
type File struct {
	Path string
	Size int64
	At   time.Time
	Why  string // it is not read; empty for one that is
}

// Incoming is a file that is put into a project. One that is too large to be sent has its size only.
type Incoming struct {
	Path string
	Data []byte
	Size int64
}

// most is how many runs of a project, files of one and excuses are told of.
const (
	mostRuns  = 500
	mostFiles = 2000
)

func runOf(row store.Run) Run {
	r := Run{row.ID, row.ProjectID, row.Number, row.At, row.ByName, row.Tolerance, row.Files, row.Uses, row.Findings, row.Unjudged, audit.Kept(row.Score), nil, nil, 0}
	if row.Unread != "" {
		_ = json.Unmarshal([]byte(row.Unread), &r.Unread)
	}
	return r
}

func projectOf(row store.Project) Project {
	return Project{ID: row.ID, Name: row.Name, At: row.CreatedAt, By: row.ByName, Removed: row.Removed != 0}
}

// Projects lists the projects before one, or the newest for 0, newest first; next is where the next page begins, 0 for none.
func (r *Rules) Projects(ctx context.Context, a keep.Actor, before int64) (list []Project, next int64, err error) {
	db := r.DB.With(ctx)
	rows, err := db.Projects(a.House.ID, before, limits.Page+1)
	if err != nil {
		return nil, 0, err
	}
	if len(rows) > limits.Page {
		rows = rows[:limits.Page]
		next = rows[limits.Page-1].ID
	}
	ids := []int64{}
	for _, row := range rows {
		ids = append(ids, row.ID)
	}
	last, err := db.LastRuns(ids)
	for _, row := range rows {
		p := projectOf(row)
		if l, ok := last[row.ID]; ok {
			run := runOf(l)
			p.Last = &run
		}
		list = append(list, p)
	}
	return list, next, err
}

// Project reads a project with its files and its runs, newest first.
func (r *Rules) Project(ctx context.Context, a keep.Actor, id int64) (p Project, files []File, runs []Run, err error) {
	db := r.DB.With(ctx)
	row, err := db.Project(a.House.ID, id)
	if err != nil {
		return p, nil, nil, keep.Missing(err, "project")
	}
	p = projectOf(row)
	list, err := db.ProjectFiles(id)
	if err != nil {
		return p, nil, nil, err
	}
	for _, f := range list {
		files = append(files, fileOf(f))
	}
	rows, err := db.Runs(id, mostRuns)
	for _, row := range rows {
		runs = append(runs, runOf(row))
	}
	if len(runs) > 0 {
		p.Last = &runs[0]
	}
	return p, files, runs, err
}

// Runs lists the newest runs of all projects.
func (r *Rules) Runs(ctx context.Context, a keep.Actor) ([]Run, error) {
	rows, err := r.DB.With(ctx).HouseRuns(a.House.ID, mostRuns)
	if err != nil || len(rows) == 0 {
		return nil, err
	}
	out := make([]Run, len(rows))
	last, err := r.DB.With(ctx).LastRunsBefore(a.House.ID, rows[len(rows)-1].ID)
	if err != nil {
		return nil, err
	}
	good, judged := 0, 0
	for _, before := range last {
		good += before.Uses - before.Unjudged - before.Findings
		judged += before.Uses - before.Unjudged
	}
	for i := len(rows) - 1; i >= 0; i-- {
		row, before := rows[i], last[rows[i].ProjectID]
		last[row.ProjectID] = row
		good += (row.Uses - row.Unjudged - row.Findings) - (before.Uses - before.Unjudged - before.Findings)
		judged += (row.Uses - row.Unjudged) - (before.Uses - before.Unjudged)
		out[i] = runOf(row)
		out[i].Together, out[i].Projects = audit.Score(good, judged), len(last)
	}
	return out, err
}

// AddProject begins a project.
func (r *Rules) AddProject(ctx context.Context, a keep.Actor, name string) (Project, error) {
	if err := a.May(keep.RoleContributor); err != nil {
		return Project{}, err
	}
	name, err := keep.Name("name", name)
	if err != nil {
		return Project{}, err
	}
	row := store.Project{HouseID: a.House.ID, Name: name, NameKey: store.NameKey(name), ByUser: a.ByUser(), ByName: a.Name, CreatedAt: r.Now()}
	err = r.DB.With(ctx).Add(&row)
	if errors.Is(err, store.ErrDuplicate) {
		return Project{}, keep.Clash("name", "there is a project called %s already", name)
	}
	return projectOf(row), err
}

// RenameProject gives a project another name.
func (r *Rules) RenameProject(ctx context.Context, a keep.Actor, id int64, name string) error {
	if err := a.May(keep.RoleContributor); err != nil {
		return err
	}
	name, err := keep.Name("name", name)
	if err != nil {
		return err
	}
	err = r.DB.With(ctx).RenameProject(a.House.ID, id, name)
	if errors.Is(err, store.ErrDuplicate) {
		return keep.Clash("name", "there is a project called %s already", name)
	}
	return keep.Missing(err, "project")
}

// RemoveProject takes a project away; its runs stay on record until it is brought back or forgotten.
func (r *Rules) RemoveProject(ctx context.Context, a keep.Actor, id int64) error {
	if err := a.May(keep.RoleContributor); err != nil {
		return err
	}
	return keep.Missing(r.DB.With(ctx).RemoveProject(a.House.ID, id), "project")
}

// RestoreProject brings a project back.
func (r *Rules) RestoreProject(ctx context.Context, a keep.Actor, id int64) error {
	if err := a.May(keep.RoleContributor); err != nil {
		return err
	}
	err := r.DB.With(ctx).RestoreProject(a.House.ID, id)
	if errors.Is(err, store.ErrDuplicate) {
		return keep.Clash("name", "there is another project of that name now; give it another name first")
	}
	return keep.Missing(err, "project")
}

// PathIn checks the path of a file in a project: parts parted by slashes, none of which leads upward.
func PathIn(name string) (string, error) {
	name = strings.TrimPrefix(path.Clean("/"+strings.ReplaceAll(name, "\\", "/")), "/")
	if !utf8.ValidString(name) || name == "" || name == "." || len([]rune(name)) > 400 || len([]rune(path.Base(name))) > limits.FileNameRunes || strings.ContainsFunc(name, func(r rune) bool { return r < ' ' }) {
		return "", keep.Wrong("file", "the file has no usable name")
	}
	return name, nil
}

// AddFile keeps a file for the next run of a project, in place of the one with its path. A file of a kind that is not read is refused.
func (r *Rules) AddFile(ctx context.Context, a keep.Actor, project int64, name string, data []byte) (File, error) {
	if err := a.May(keep.RoleContributor); err != nil {
		return File{}, err
	}
	name, err := r.checkFile(name, data)
	if err != nil {
		return File{}, err
	}
	if p, err := r.DB.With(ctx).Project(a.House.ID, project); err != nil || p.Removed != 0 {
		return File{}, keep.Missing(cmp.Or(err, store.ErrNotFound), "project")
	}
	key, err := r.Store(ctx, a.House.ID, "audits", data)
	if err != nil {
		return File{}, err
	}
	f := store.ProjectFile{ProjectID: project, Path: name, BlobKey: key, Size: int64(len(data)), AddedAt: r.Now()}
	list := []store.ProjectFile{f}
	if err := r.put(ctx, a, project, list); err != nil {
		r.drop(ctx, f)
		return File{}, err
	}
	if list[0].Why != "" {
		return File{}, keep.Wrong("file", "%s", list[0].Why)
	}
	return fileOf(f), nil
}

func fileOf(f store.ProjectFile) File { return File{f.Path, f.Size, f.AddedAt, f.Why} }

// AddFiles puts files into a project, in place of those with their paths, until next says io.EOF. Those that are not read are named with why: in
// the project, so that nobody takes them for judged, as long as they have a usable name and there is room. All are put there, or none.
func (r *Rules) AddFiles(ctx context.Context, a keep.Actor, project int64, next func() (Incoming, error)) (out []File, err error) {
	if err := a.May(keep.RoleContributor); err != nil {
		return nil, err
	}
	if p, err := r.DB.With(ctx).Project(a.House.ID, project); err != nil || p.Removed != 0 {
		return nil, keep.Missing(cmp.Or(err, store.ErrNotFound), "project")
	}
	var rows []store.ProjectFile
	var nameless []File
	defer func() {
		if err != nil {
			for _, f := range rows {
				r.drop(ctx, f)
			}
		}
	}()
	for n := 0; ; n++ {
		in, err := next()
		if errors.Is(err, io.EOF) {
			break
		} else if err != nil {
			return nil, err
		}
		if n == limits.FilesAtOnce {
			return nil, keep.Wrong("file", "at most %d files are taken at once", limits.FilesAtOnce)
		}
		name, err := PathIn(in.Path)
		if err != nil {
			nameless = append(nameless, File{Path: keep.Short(strings.ToValidUTF8(in.Path, "?"), limits.FileNameRunes), Size: in.Size, At: r.Now(), Why: "it has no usable name"})
			continue
		}
		f := store.ProjectFile{ProjectID: project, Path: name, Size: in.Size, AddedAt: r.Now()}
		if in.Data == nil {
			f.Why = fmt.Sprintf("it has %s; at most %s are read", limits.Size(in.Size), limits.Size(limits.UploadBytes))
		} else if err := audit.Recognize(name, in.Data); err != nil {
			f.Why = keep.Short(whyNot(name, err), 300)
		} else if f.BlobKey, err = r.Store(ctx, a.House.ID, "audits", in.Data); err != nil {
			return nil, err
		}
		if i := slices.IndexFunc(rows, func(o store.ProjectFile) bool { return o.Path == name }); i >= 0 {
			r.drop(ctx, rows[i])
			rows[i] = f
			continue
		}
		rows = append(rows, f)
	}
	if len(rows)+len(nameless) == 0 {
		return nil, keep.Wrong("file", "the form holds no file")
	}
	if err := r.put(ctx, a, project, rows); err != nil {
		return nil, err
	}
	for _, f := range rows {
		out = append(out, fileOf(f))
	}
	return append(out, nameless...), nil
}

// whyNot is an error about a file without the file's name, to stand behind it.
func whyNot(name string, err error) string {
	var kind *audit.NotRead
	if errors.As(err, &kind) {
		return "it is of a kind that is not read"
	}
	base := path.Base(name)
	if rest, ok := strings.CutPrefix(err.Error(), base+" is "); ok {
		return "it is " + rest
	}
	return strings.TrimPrefix(err.Error(), base+": ")
}

// drop forgets the content of a file that was not put into its project.
func (r *Rules) drop(ctx context.Context, f store.ProjectFile) {
	if f.BlobKey != "" {
		r.Drop(context.WithoutCancel(ctx), f.BlobKey)
	}
}

// put puts files into a project. Those for which there is no room say so afterward, and are not put there.
func (r *Rules) put(ctx context.Context, a keep.Actor, project int64, files []store.ProjectFile) error {
	paths := make([]string, len(files))
	for i, f := range files {
		paths[i] = f.Path
	}
	full := map[int]bool{}
	err := r.Change(ctx, a, func(tx *store.DB) error {
		clear(full)
		n, err := tx.CountProjectFiles(project)
		if err != nil {
			return err
		}
		there, err := tx.ProjectFilesNamed(project, paths)
		if err != nil {
			return err
		}
		known := map[string]bool{}
		for _, f := range there {
			known[f.Path] = true
		}
		for i, f := range files {
			if !known[f.Path] && n >= mostFiles {
				full[i] = true
				continue
			}
			if err := tx.PutProjectFile(f); err != nil {
				return err
			}
			if !known[f.Path] {
				n++
			}
		}
		return nil
	})
	if err != nil {
		return err
	}
	for i := range full {
		r.drop(ctx, files[i])
		files[i].Why = fmt.Sprintf("the project has %d files; no more are taken", mostFiles)
	}
	return nil
}

func (r *Rules) checkFile(name string, data []byte) (string, error) {
	name, err := PathIn(name)
	if err != nil {
		return "", err
	}
	if len(data) > limits.UploadBytes {
		return "", &keep.Error{Kind: keep.TooLarge, Field: "file", Message: fmt.Sprintf("%s has %s; at most %s are read.", path.Base(name), limits.Size(int64(len(data))), limits.Size(limits.UploadBytes))}
	}
	if err := audit.Recognize(name, data); err != nil {
		return "", unreadable(err)
	}
	return name, nil
}

// unreadable begins with the file's name as it is.
func unreadable(err error) error {
	return &keep.Error{Kind: keep.Invalid, Field: "file", Message: err.Error() + "."}
}

// DropFile takes a file out of a project; runs that read it keep it.
func (r *Rules) DropFile(ctx context.Context, a keep.Actor, project int64, name string) error {
	if err := a.May(keep.RoleContributor); err != nil {
		return err
	}
	if _, err := r.DB.With(ctx).Project(a.House.ID, project); err != nil {
		return keep.Missing(err, "project")
	}
	return keep.Missing(r.DB.With(ctx).DropProjectFile(project, name, r.Now()), "file")
}

// RestoreFile puts a file back that was taken out of a project within the last day.
func (r *Rules) RestoreFile(ctx context.Context, a keep.Actor, project int64, name string) error {
	if err := a.May(keep.RoleContributor); err != nil {
		return err
	}
	if _, err := r.DB.With(ctx).Project(a.House.ID, project); err != nil {
		return keep.Missing(err, "project")
	}
	err := r.DB.With(ctx).RestoreProjectFile(project, name)
	if errors.Is(err, store.ErrNotFound) {
		return keep.Clash("", "%s was not taken out of the project within the last day, or another file has its place by now", name)
	}
	return err
}

// payload is what the job of a run is told. Path is that of the one file that was asked for, whose audit is the job's result. Without a
// project it is a file that has just come in, the job's own; the project of its name is made once it is judged.
type payload struct {
	Project int64  `json:"project,omitempty"`
	Path    string `json:"path,omitempty"`
	Size    int64  `json:"size,omitempty"`
}

// Begin keeps a single file and queues it to be judged: as the project of its name, whose next run it is where there was one before.
func (r *Rules) Begin(ctx context.Context, a keep.Actor, file string, data []byte) (jobs.Job, error) {
	if err := a.May(keep.RoleContributor); err != nil {
		return jobs.Job{}, err
	}
	file, err := r.checkFile(path.Base(strings.ReplaceAll(file, "\\", "/")), data)
	if err != nil {
		return jobs.Job{}, err
	}
	key, err := r.Store(ctx, a.House.ID, "audits", data)
	if err != nil {
		return jobs.Job{}, err
	}
	j, err := r.Jobs.Add(ctx, a, JobKind, payload{Path: file, Size: int64(len(data))}, key)
	if err != nil {
		r.Drop(context.WithoutCancel(ctx), key)
	}
	return j, err
}

// BeginRun queues the next run of a project.
func (r *Rules) BeginRun(ctx context.Context, a keep.Actor, project int64) (jobs.Job, error) {
	if err := a.May(keep.RoleContributor); err != nil {
		return jobs.Job{}, err
	}
	p, err := r.DB.With(ctx).Project(a.House.ID, project)
	if err != nil || p.Removed != 0 {
		return jobs.Job{}, keep.Missing(cmp.Or(err, store.ErrNotFound), "project")
	}
	files, err := r.DB.With(ctx).ProjectFiles(project)
	if err != nil {
		return jobs.Job{}, err
	}
	if len(files) == 0 {
		return jobs.Job{}, keep.Wrong("", "the project has no files yet; add some first")
	}
	if i := slices.IndexFunc(files, func(f store.ProjectFile) bool { return f.Why == "" }); i < 0 {
		return jobs.Job{}, keep.Wrong("", "none of the files of the project is read: %s, %s", files[0].Path, files[0].Why)
	}
	return r.Jobs.Add(ctx, a, JobKind, payload{Project: project}, "")
}

// Again queues the files of an audit to be judged against the library as it is now, as the next run of its project.
func (r *Rules) Again(ctx context.Context, a keep.Actor, id int64) (jobs.Job, error) {
	if err := a.May(keep.RoleContributor); err != nil {
		return jobs.Job{}, err
	}
	old, err := r.DB.With(ctx).Audit(a.House.ID, id)
	if err != nil {
		return jobs.Job{}, keep.Missing(err, "audit")
	}
	data, err := r.Load(ctx, old.BlobKey)
	if errors.Is(err, keep.ErrLost) {
		return jobs.Job{}, keep.Clash("", "the file %s is no longer kept; upload it again", old.FileName)
	} else if errors.Is(err, keep.ErrSpoiled) {
		return jobs.Job{}, keep.Clash("", "%v; upload %s again", err, old.FileName)
	} else if err != nil {
		return jobs.Job{}, err
	}
	if old.ProjectID == nil {
		return r.Begin(ctx, a, old.FileName, data)
	}
	p, err := r.DB.With(ctx).Project(a.House.ID, *old.ProjectID)
	if err != nil {
		return jobs.Job{}, keep.Missing(err, "project")
	}
	if p.Removed != 0 {
		return jobs.Job{}, keep.Clash("", "the project %s was removed; bring it back first", p.Name)
	}
	return r.Jobs.Add(ctx, a, JobKind, payload{Project: p.ID, Path: old.Path}, "")
}

// run judges the files of a project. The result is the number of the run, or of the audit of the file that was asked for.
func (r *Rules) run(ctx context.Context, w jobs.Work) error {
	var p payload
	if err := json.Unmarshal([]byte(w.Payload), &p); err != nil {
		return err
	}
	if p.Project == 0 && p.Path == "" { // queued by a program of before
		return &keep.Error{Kind: keep.Invalid, Message: "It was begun by an older Hue Keep; judge the file again."}
	}
	to := running{w.Actor, w.Report, w.Finish, r.Now(), nil}
	if p.Project == 0 {
		project, err := r.DB.With(ctx).ProjectNamed(w.Actor.House.ID, keep.Short(p.Path, limits.NameRunes))
		if err != nil && !errors.Is(err, store.ErrNotFound) {
			return err
		}
		p.Project = project.ID
		to.fresh = &store.ProjectFile{Path: p.Path, BlobKey: w.Blob, Size: p.Size, AddedAt: r.Now()}
	}
	return r.judge(ctx, to, p)
}

// running is a run in somebody's hands.
type running struct {
	actor  keep.Actor
	report func(what string, share float64)
	finish func(tx *store.DB, result string) error
	at     time.Time
	fresh  *store.ProjectFile // one that has just come in
}

// RunAt judges the files of a project at once, as if it were at a time; for the demo. It gives the number of the run.
func (r *Rules) RunAt(ctx context.Context, a keep.Actor, project int64, at time.Time) (string, error) {
	var made string
	w := running{a, func(string, float64) {}, func(_ *store.DB, result string) error { made = result; return nil }, at, nil}
	err := r.judge(ctx, w, payload{Project: project})
	return made, err
}

func (r *Rules) judge(ctx context.Context, w running, p payload) error {
	files, err := r.DB.With(ctx).ProjectFiles(p.Project)
	if err != nil {
		return err
	}
	if w.fresh != nil {
		files = slices.DeleteFunc(files, func(f store.ProjectFile) bool { return f.Path == w.fresh.Path })
		files = append(files, *w.fresh)
	}
	session := r.Apart.Begin(w.actor.House.ID)
	defer session.End()
	var read []store.ProjectFile
	var unread []audit.Unread
	for i, f := range files {
		if f.Why != "" {
			unread = append(unread, audit.Unread{Path: f.Path, Why: f.Why})
			continue
		}
		err := session.Read(ctx, f.Path, r.loading(f), func(what string, share float64) {
			if len(files) > 1 {
				what = fmt.Sprintf("file %d of %d, %s: %s", i+1, len(files), path.Base(f.Path), what)
			}
			w.report(what, 0.9*(float64(i)+share)/float64(len(files)))
		})
		var said reading.Sentence
		switch {
		case ctx.Err() != nil:
			return ctx.Err()
		case err != nil && !errors.As(err, &said):
			return err
		case err != nil && (f.Path == p.Path || len(files) == 1):
			return unreadable(err)
		case err != nil:
			unread = append(unread, audit.Unread{Path: f.Path, Why: whyNot(f.Path, err)})
			continue
		}
		read = append(read, f)
	}
	w.report("judging what was found", 0.9)
	rules, err := r.rules(ctx, w.actor, p.Project)
	if err != nil {
		return err
	}
	return r.keepRun(ctx, w, p, rules, session, read, unread)
}

// loading is how a file of a project is loaded.
func (r *Rules) loading(f store.ProjectFile) reading.Load {
	return func(ctx context.Context) ([]byte, error) {
		data, err := r.Load(ctx, f.BlobKey)
		if errors.Is(err, keep.ErrLost) || errors.Is(err, keep.ErrSpoiled) {
			return nil, reading.Sentence(fmt.Sprintf("%s cannot be read any more: %v", path.Base(f.Path), err))
		}
		return data, err
	}
}

// keepRun puts down what a run found, whole or not at all.
func (r *Rules) keepRun(ctx context.Context, w running, p payload, rules audit.Rules, session reading.Session, read []store.ProjectFile, unread []audit.Unread) error {
	judge := audit.NewJudge(rules)
	run := store.Run{HouseID: w.actor.House.ID, ProjectID: p.Project, ByUser: w.actor.ByUser(), ByName: w.actor.Name, At: w.at, Tolerance: rules.Tolerance, Files: len(read)}
	if len(unread) > 0 {
		text, err := json.Marshal(unread)
		if err != nil {
			return err
		}
		run.Unread = string(text)
	}
	var rows []store.Audit
	var colors [][]store.AuditColor
	var keys []string
	fail := func(err error) error {
		for _, k := range keys {
			r.Drop(context.WithoutCancel(ctx), k)
		}
		return err
	}
	good, decided := 0, 0
	err := session.Judge(ctx, rules, func(report audit.Report) error {
		if len(rows) == len(read) || report.Path != read[len(rows)].Path {
			return fmt.Errorf("a report of %s came out of its turn", report.Path)
		}
		f := read[len(rows)]
		w.report(fmt.Sprintf("judging file %d of %d", len(rows)+1, len(read)), 0.9+0.1*float64(len(rows))/float64(len(read)))
		text, err := writeReport(report)
		if err != nil {
			return err
		}
		key, err := r.Store(ctx, w.actor.House.ID, "reports", text)
		if err != nil {
			return err
		}
		keys = append(keys, key)
		row := store.Audit{HouseID: run.HouseID, Path: f.Path, ByUser: run.ByUser, ByName: run.ByName, At: run.At, FileName: path.Base(f.Path), Kind: report.Kind, Size: f.Size,
			BlobKey: f.BlobKey, ReportKey: key, Tolerance: judge.Tolerance(report.Kind), Uses: report.Uses, Score: report.Score, Findings: report.Findings(), Unjudged: report.UnjudgedUses()}
		var found []store.AuditColor
		for _, c := range report.Colors {
			found = append(found, store.AuditColor{Hex: c.Hex, Verdict: string(c.Verdict), Uses: c.Count, Places: len(c.Places)})
		}
		rows, colors = append(rows, row), append(colors, found)
		run.Uses += row.Uses
		run.Findings += row.Findings
		run.Unjudged += row.Unjudged
		good += row.Uses - row.Unjudged - row.Findings
		decided += row.Uses - row.Unjudged
		return nil
	})
	var said reading.Sentence
	if errors.As(err, &said) {
		err = &keep.Error{Kind: keep.Invalid, Message: err.Error()}
	}
	if err == nil && len(rows) < len(read) {
		err = fmt.Errorf("%d of %d reports came", len(rows), len(read))
	}
	if err != nil {
		return fail(err)
	}
	run.Score = audit.Score(good, decided)
	err = r.Change(ctx, w.actor, func(tx *store.DB) error {
		project, err := r.projectOfRun(tx, w, p)
		if err != nil {
			return err
		}
		run.ID, run.ProjectID = 0, project
		if run.Number, err = tx.NextRun(project); err != nil {
			return err
		}
		before, err := tx.NewestRun(project)
		if err != nil && !errors.Is(err, store.ErrNotFound) {
			return err
		}
		if err := tx.Add(&run); err != nil {
			return err
		}
		if err := r.fell(tx, w.actor, before, run); err != nil {
			return err
		}
		result := run.ID
		for i := range rows {
			rows[i].ID, rows[i].RunID, rows[i].ProjectID = 0, &run.ID, &project
			if err := tx.AddAudit(&rows[i], colors[i]); err != nil {
				return err
			}
			if rows[i].Path == p.Path {
				result = rows[i].ID
			}
		}
		return w.finish(tx, fmt.Sprint(result))
	})
	if err != nil {
		return fail(err)
	}
	return nil
}

// fell tells programs when the score of a project is lower than that of its run before.
func (r *Rules) fell(tx *store.DB, a keep.Actor, before, now store.Run) error {
	if before.Score == nil || now.Score == nil || *now.Score >= *before.Score {
		return nil
	}
	project, err := tx.Project(a.House.ID, now.ProjectID)
	if err != nil {
		return err
	}
	return r.Hooks.Say(tx, a, hooks.ProjectFell, map[string]any{"project": map[string]any{"id": project.ID, "name": project.Name}, "run": now.Number, "findings": now.Findings,
		"score": *audit.Kept(now.Score), "before": *audit.Kept(before.Score)})
}

// projectOfRun is the project that a run is of. That of a single file is made now, if there is none of its name.
func (r *Rules) projectOfRun(tx *store.DB, w running, p payload) (int64, error) {
	house := w.actor.House.ID
	if w.fresh == nil {
		project, err := tx.Project(house, p.Project)
		if err != nil || project.Removed != 0 {
			return 0, keep.Clash("", "the project was removed meanwhile")
		}
		return project.ID, nil
	}
	name := keep.Short(w.fresh.Path, limits.NameRunes)
	project, err := tx.ProjectNamed(house, name)
	if errors.Is(err, store.ErrNotFound) {
		project = store.Project{HouseID: house, Name: name, NameKey: store.NameKey(name), ByUser: w.actor.ByUser(), ByName: w.actor.Name, CreatedAt: w.at}
		err = tx.Add(&project)
	}
	if err != nil {
		return 0, err
	}
	w.fresh.ProjectID = project.ID
	return project.ID, tx.PutProjectFile(*w.fresh)
}

// rules are what files of a project are judged by. Drafts are not allowed colors yet; excuses that are over do not hold.
func (r *Rules) rules(ctx context.Context, a keep.Actor, project int64) (audit.Rules, error) {
	out := audit.Rules{Tolerance: a.House.Tolerance, Pictures: a.House.Pictures, Neutrals: a.House.Neutrals}
	db := r.DB.With(ctx)
	colors, err := db.Colors(a.House.ID)
	if err != nil {
		return out, err
	}
	drafts := map[int64]bool{}
	for _, c := range colors {
		drafts[c.ID] = c.Status == library.Draft
	}
	for i := range colors {
		colors[i].Point(func(ref library.Ref) library.Ref {
			if drafts[ref.ID] {
				return library.Ref{}
			}
			return ref
		})
	}
	out.Colors = audit.Allowed(colors)
	if out.Gradients, err = db.Gradients(a.House.ID); err != nil {
		return out, err
	}
	formers, err := db.FormerValues(a.House.ID)
	if err != nil {
		return out, err
	}
	for _, f := range formers {
		rgb, err := color.FromHex(f.Hex)
		if err != nil {
			return out, err
		}
		to := audit.Former{RGB: rgb, Color: library.Ref{ID: f.ColorID, Name: f.Name}, When: f.Until.Format("January 2, 2006"), Until: true}
		if f.Set != "" {
			to.When, to.Until = fmt.Sprintf("edition %d of %s", f.Number, f.Set), false
		}
		out.Formers = append(out.Formers, to)
	}
	excuses, err := db.Excuses(a.House.ID, max(project, -1))
	if err != nil {
		return out, err
	}
	for _, e := range excuses {
		if x := excuseOf(e); e.EndedAt == nil && !x.Ended(r.Now()) && (e.ProjectID == nil || *e.ProjectID == project) {
			out.Excuses = append(out.Excuses, x.Excuse)
		}
	}
	return out, nil
}

// Run reads a run with its judged files, the least on-brand first.
func (r *Rules) Run(ctx context.Context, a keep.Actor, id int64) (Run, []Line, error) {
	db := r.DB.With(ctx)
	row, err := db.Run(a.House.ID, id)
	if err != nil {
		return Run{}, nil, keep.Missing(err, "run")
	}
	rows, err := db.RunAudits(id)
	var list []Line
	for _, a := range rows {
		list = append(list, line(a))
	}
	return runOf(row), list, err
}

// DropRun deletes a run with what it found. Files that nothing else names go with the next sweep.
func (r *Rules) DropRun(ctx context.Context, a keep.Actor, id int64) error {
	if err := a.May(keep.RoleKeeper); err != nil {
		return err
	}
	return keep.Missing(r.DB.With(ctx).DropRun(a.House.ID, id), "run")
}

// Reports reads the reports of a run whole, with what the reader may not know of hidden.
func (r *Rules) Reports(ctx context.Context, a keep.Actor, run int64) (Run, []audit.Report, error) {
	row, err := r.DB.With(ctx).Run(a.House.ID, run)
	if err != nil {
		return Run{}, nil, keep.Missing(err, "run")
	}
	rows, err := r.DB.With(ctx).RunAudits(run)
	if err != nil {
		return Run{}, nil, err
	}
	var out []audit.Report
	for _, a2 := range rows {
		report, err := r.whole(ctx, a, a2)
		if err != nil {
			return Run{}, nil, err
		}
		out = append(out, report)
	}
	return runOf(row), out, nil
}

// Whole reads the report of one audit with all places.
func (r *Rules) Whole(ctx context.Context, a keep.Actor, id int64) (audit.Report, error) {
	row, err := r.DB.With(ctx).Audit(a.House.ID, id)
	if err != nil {
		return audit.Report{}, keep.Missing(err, "audit")
	}
	return r.whole(ctx, a, row)
}

func (r *Rules) whole(ctx context.Context, a keep.Actor, row store.Audit) (audit.Report, error) {
	text, err := r.report(ctx, row)
	if err != nil {
		return audit.Report{}, err
	}
	hidden, err := r.hidden(r.DB.With(ctx), a)
	if err != nil {
		return audit.Report{}, err
	}
	report, err := readWhole(text)
	for i := range report.Colors {
		hidden.hide(&report.Colors[i])
	}
	return report, err
}

// Change is a finding that two runs tell differently.
type Change struct {
	Path  string
	Found string // the color
	Hex   string
	Was   audit.Verdict // empty for one that was not there
	Is    audit.Verdict // empty for one that is gone
	Count int           // uses, of the newer run where there are any
	Of    string        // of one that was right: the library color that it was
	Since string        // and what became of that meanwhile: "amended", "retired"; empty where it is neither
}

// Changes compares a run with an older one of its project: what was mended, what is new, what is as it was.
func (r *Rules) Changes(ctx context.Context, a keep.Actor, newer, older int64) (mended, fresh []Change, same int, err error) {
	runA, after, err := r.Reports(ctx, a, newer)
	if err != nil {
		return nil, nil, 0, err
	}
	runB, before, err := r.Reports(ctx, a, older)
	if err != nil {
		return nil, nil, 0, err
	}
	if runA.Project != runB.Project {
		return nil, nil, 0, keep.Wrong("since", "the two runs are of different projects")
	}
	type id struct{ path, name string }
	type state struct {
		hex    string
		wants  int // uses that want a decision
		wanted audit.Verdict
		fine   audit.Verdict // of the others
		right  int           // how many those are
		of     string        // what they are, of the library
	}
	gather := func(reports []audit.Report) (map[id]*state, []id) {
		out := map[id]*state{}
		var order []id
		for _, rep := range reports {
			for _, c := range rep.Colors {
				k := id{rep.Path, repaint.Name(c)}
				s := out[k]
				if s == nil {
					s = &state{hex: c.Hex}
					out[k] = s
					order = append(order, k)
				}
				if c.Verdict == audit.OnBrand || c.Verdict == audit.Excused {
					s.fine, s.right = c.Verdict, s.right+c.Count
					if c.Verdict == audit.OnBrand && c.Nearest != nil {
						s.of = c.Nearest.Name
					}
				} else {
					s.wants, s.wanted = s.wants+c.Count, c.Verdict
				}
			}
		}
		return out, order
	}
	was, wasOrder := gather(before)
	is, isOrder := gather(after)
	for _, k := range isOrder {
		now, old := is[k], was[k]
		if old == nil {
			old = &state{}
		}
		switch {
		case now.wants > old.wants:
			more := now.wants - old.wants
			// Those that were right and are not any more were there; it is the library that moved, or an excuse that is over.
			if there := min(more, max(0, old.right-now.right)); there > 0 {
				fresh = append(fresh, Change{Path: k.path, Found: k.name, Hex: now.hex, Was: old.fine, Is: now.wanted, Count: there, Of: old.of})
				more -= there
			}
			if more > 0 {
				fresh = append(fresh, Change{Path: k.path, Found: k.name, Hex: now.hex, Was: old.wanted, Is: now.wanted, Count: more})
			}
		case now.wants < old.wants && now.wants > 0:
			mended = append(mended, Change{Path: k.path, Found: k.name, Hex: now.hex, Was: old.wanted, Is: now.wanted, Count: old.wants - now.wants})
		case now.wants < old.wants:
			mended = append(mended, Change{Path: k.path, Found: k.name, Hex: now.hex, Was: old.wanted, Is: now.fine, Count: old.wants})
		}
		if min(now.wants, old.wants) > 0 {
			same++
		}
	}
	for _, k := range wasOrder {
		if old := was[k]; is[k] == nil && old.wants > 0 {
			mended = append(mended, Change{Path: k.path, Found: k.name, Hex: old.hex, Was: old.wanted, Count: old.wants})
		}
	}
	return mended, fresh, same, r.since(ctx, a, fresh, runB.At)
}

// since says of changes of what was right what became of its library color from a time on.
func (r *Rules) since(ctx context.Context, a keep.Actor, changes []Change, at time.Time) error {
	if !slices.ContainsFunc(changes, func(c Change) bool { return c.Of != "" }) {
		return nil
	}
	db := r.DB.With(ctx)
	colors, err := db.Colors(a.House.ID)
	if err != nil {
		return err
	}
	events, err := db.EventsSince(a.House.ID, at)
	if err != nil {
		return err
	}
	said := map[string]string{}
	for _, c := range colors {
		switch m := movementOf(c, events[c.ID]); {
		case m.retired:
			said[c.Name] = "retired"
		case len(m.from) > 0:
			said[c.Name] = "amended"
		}
	}
	for i, c := range changes {
		changes[i].Since = said[c.Of]
	}
	return nil
}
