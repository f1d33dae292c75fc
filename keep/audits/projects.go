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
	"huekeep/core/audit/kinds"
	"huekeep/core/limits"
	"huekeep/core/repaint"
	"huekeep/keep"
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
	Same      int            // files whose reports are those of the run before, since neither they nor what they are judged by changed
	Together  *float64       // the score of the last runs of all projects when this one was done; nil but in a list of all
	Projects  int            // how many those are
}

// File is a file of a project: one that its next run reads, or says why it does not.
type File struct {
	Path string
	Size int64
	At   time.Time
	Why  string // it is not read; empty for one that is
	Sum  string // SHA-256, where it was asked for; empty for one that is not read
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
	r := Run{row.ID, row.ProjectID, row.Number, row.At, row.ByName, row.Tolerance, row.Files, row.Uses, row.Findings, row.Unjudged,
		audit.Kept(row.Score), nil, row.Same, nil, 0}
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
	var keys []string
	for _, f := range list {
		keys = append(keys, f.BlobKey)
	}
	sums, err := db.Sums(keys)
	if err != nil {
		return p, nil, nil, err
	}
	for _, f := range list {
		file := fileOf(f)
		file.Sum = sums[f.BlobKey]
		files = append(files, file)
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
	row := store.Project{HouseID: a.House.ID, Name: name, NameKey: store.NameKey(name), ByUser: a.ByUser(), ByName: a.Name,
		CreatedAt: r.Now()}
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
	if !utf8.ValidString(name) || name == "" || name == "." || len([]rune(name)) > 400 ||
		len([]rune(path.Base(name))) > limits.FileNameRunes || strings.ContainsFunc(name, func(r rune) bool { return r < ' ' }) {
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

func fileOf(f store.ProjectFile) File { return File{f.Path, f.Size, f.AddedAt, f.Why, ""} }

// AddFiles puts files into a project, in place of those with their paths, until next says io.EOF. Those that are not read are named with
// why: in the project, so that nobody takes them for judged, as long as they have a usable name and there is room. All are put there, or
// none.
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
			nameless = append(nameless, File{Path: keep.Short(strings.ToValidUTF8(in.Path, "?"), limits.FileNameRunes), Size: in.Size,
				At: r.Now(), Why: "it has no usable name"})
			continue
		}
		f := store.ProjectFile{ProjectID: project, Path: name, Size: in.Size, AddedAt: r.Now()}
		if in.Data == nil {
			f.Why = fmt.Sprintf("it has %s; at most %s are read", limits.Size(in.Size), limits.Size(limits.UploadBytes))
		} else if err := kinds.Recognize(name, in.Data); err != nil {
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
	var kind *kinds.NotRead
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
		return "", &keep.Error{Kind: keep.TooLarge, Field: "file", Message: fmt.Sprintf("%s has %s; at most %s are read.", path.Base(name),
			limits.Size(int64(len(data))), limits.Size(limits.UploadBytes))}
	}
	if err := kinds.Recognize(name, data); err != nil {
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
				if c.Verdict.Fine() {
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
				fresh = append(fresh, Change{Path: k.path, Found: k.name, Hex: now.hex, Was: old.fine, Is: now.wanted, Count: there,
					Of: old.of})
				more -= there
			}
			if more > 0 {
				fresh = append(fresh, Change{Path: k.path, Found: k.name, Hex: now.hex, Was: old.wanted, Is: now.wanted, Count: more})
			}
		case now.wants < old.wants && now.wants > 0:
			mended = append(mended, Change{Path: k.path, Found: k.name, Hex: now.hex, Was: old.wanted, Is: now.wanted,
				Count: old.wants - now.wants})
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
