package audits

import (
	"cmp"
	"context"
	"encoding/json"
	"errors"
	"fmt"
	"path"
	"slices"
	"strings"
	"time"

	"huekeep/core/audit"
	"huekeep/core/color"
	"huekeep/core/library"
	"huekeep/core/limits"
	"huekeep/keep"
	"huekeep/keep/hooks"
	"huekeep/keep/jobs"
	"huekeep/reading"
	"huekeep/store"
)

// payload is what the job of a run is told. Path is that of the one file that was asked for, whose audit is the job's result. Without a
// project it is a file that has just come in, the job's own; the project of its name is made once it is judged.
type payload struct {
	Project int64  `json:"project,omitempty"`
	Path    string `json:"path,omitempty"`
	Size    int64  `json:"size,omitempty"`
	Quiet   bool   `json:"quiet,omitempty"` // there is no new run where all is as in the newest one, which is the result then
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

// BeginRun queues the next run of a project; a quiet one is only made where something is not as in the newest one, which is the job's
// result otherwise.
func (r *Rules) BeginRun(ctx context.Context, a keep.Actor, project int64, quiet bool) (jobs.Job, error) {
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
	return r.Jobs.Add(ctx, a, JobKind, payload{Project: project, Quiet: quiet}, "")
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
	err := r.judge(ctx, to, p)
	if said := new(keep.Error); p.Quiet && errors.As(err, &said) && ctx.Err() == nil {
		// What cannot be judged is not judged better a minute from now: a file that is mended begins a run anyway.
		err = errors.Join(err, r.DB.With(ctx).Checked(p.Project, to.at))
	}
	return err
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
	rules, err := r.rules(ctx, w.actor, p.Project)
	if err != nil {
		return err
	}
	known, err := r.basesOf(ctx, p.Project, files, rules)
	if err != nil {
		return err
	}
	f := finding{Rules: r, w: w, p: p, files: files, bases: known, judged: map[string]judgedFile{}, rules: rules,
		judge: audit.NewJudge(rules)}
	if f.text, err = keep.Scratch(); err != nil {
		return err
	}
	defer f.text.Close()
	if err := f.read(ctx); err != nil {
		return err
	}
	return r.keepRun(ctx, &f)
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
func (r *Rules) keepRun(ctx context.Context, f *finding) (err error) {
	run, rows, colors, err := r.gathered(ctx, f)
	kept := false
	defer func() {
		for i := range rows {
			if !kept && !f.same[rows[i].Path] {
				r.Drop(context.WithoutCancel(ctx), rows[i].ReportKey)
			}
		}
	}()
	if err != nil {
		return err
	}
	w, p := f.w, f.p
	err = r.Change(ctx, w.actor, func(tx *store.DB) error {
		project, err := r.projectOfRun(tx, w, p)
		if err != nil {
			return err
		}
		run.ID, run.ProjectID, kept = 0, project, true
		if run.Number, err = tx.NextRun(project); err != nil {
			return err
		}
		before, err := tx.NewestRun(project)
		if err != nil && !errors.Is(err, store.ErrNotFound) {
			return err
		}
		if p.Quiet && before.ID != 0 {
			nothing, err := f.nothingNew(ctx, tx, before, run, rows)
			if err != nil {
				return err
			}
			if nothing {
				kept = false
				if err := tx.Checked(project, w.at); err != nil {
					return err
				}
				return w.finish(tx, fmt.Sprint(before.ID))
			}
		}
		if err := tx.Add(&run); err != nil {
			return err
		}
		if err := r.fell(tx, w.actor, before, run); err != nil {
			return err
		}
		if err := r.settle(tx, run, f); err != nil {
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
	kept = kept && err == nil
	return err
}

// gathered is a run with the rows of its files, in their order: those that were judged now, whose reports are stored, and those that are as
// in the run before.
func (r *Rules) gathered(ctx context.Context, f *finding) (run store.Run, rows []store.Audit, colors [][]store.AuditColor, err error) {
	run = store.Run{HouseID: f.w.actor.House.ID, ProjectID: f.p.Project, ByUser: f.w.actor.ByUser(), ByName: f.w.actor.Name, At: f.w.at,
		Tolerance: f.rules.Tolerance, Files: len(f.has)}
	if len(f.unread) > 0 {
		text, err := json.Marshal(f.unread)
		if err != nil {
			return run, nil, nil, err
		}
		run.Unread = string(text)
	}
	good, decided := 0, 0
	for _, at := range f.has {
		now := f.judged[at.Path]
		row, found := now.row, now.colors
		if f.same[at.Path] {
			row = f.bases.before[at.Path]
			if found, err = r.DB.With(ctx).AuditColors(row.ID); err != nil {
				return run, rows, nil, err
			}
			row.BlobKey = at.BlobKey
			run.Same++
		} else if row.ReportKey, err = r.StoreFrom(ctx, run.HouseID, "reports", now.report, now.report.Size()); err != nil {
			return run, rows, nil, err
		}
		row.Basis = f.basis[at.Path]
		row.HouseID, row.ByUser, row.ByName, row.At = run.HouseID, run.ByUser, run.ByName, run.At
		rows, colors = append(rows, row), append(colors, found)
		run.Uses += row.Uses
		run.Findings += row.Findings
		run.Unjudged += row.Unjudged
		good += row.Uses - row.Unjudged - row.Findings
		decided += row.Uses - row.Unjudged
	}
	run.Score = audit.Score(good, decided)
	return run, rows, colors, nil
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
	return r.Hooks.Say(tx, a, hooks.ProjectFell, map[string]any{"project": map[string]any{"id": project.ID, "name": project.Name},
		"run": now.Number, "findings": now.Findings,
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
		project = store.Project{HouseID: house, Name: name, NameKey: store.NameKey(name), ByUser: w.actor.ByUser(), ByName: w.actor.Name,
			CreatedAt: w.at}
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
