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
	session := r.Apart.Begin(w.actor.House.ID)
	defer func() { session.End() }()
	f := finding{Rules: r, w: w, p: p, files: files, bases: known}
	if err := f.read(ctx, &session); err != nil {
		return err
	}
	w.report("judging what was found", 0.9)
	return r.keepRun(ctx, w, p, rules, session, f)
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
func (r *Rules) keepRun(ctx context.Context, w running, p payload, rules audit.Rules, session reading.Session, f finding) error {
	judge := audit.NewJudge(rules)
	run := store.Run{HouseID: w.actor.House.ID, ProjectID: p.Project, ByUser: w.actor.ByUser(), ByName: w.actor.Name, At: w.at,
		Tolerance: rules.Tolerance, Files: len(f.has)}
	if len(f.unread) > 0 {
		text, err := json.Marshal(f.unread)
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
	wanting := map[string]map[string]bool{} // what wants a decision, in files that were judged now
	put := func(row store.Audit, found []store.AuditColor) {
		row.HouseID, row.ByUser, row.ByName, row.At = run.HouseID, run.ByUser, run.ByName, run.At
		rows, colors = append(rows, row), append(colors, found)
		run.Uses += row.Uses
		run.Findings += row.Findings
		run.Unjudged += row.Unjudged
		good += row.Uses - row.Unjudged - row.Findings
		decided += row.Uses - row.Unjudged
	}
	// what is as it was, up to the next file that was read
	same := func() error {
		for len(rows) < len(f.has) && f.same[f.has[len(rows)].Path] {
			at := f.has[len(rows)]
			row := f.bases.before[at.Path]
			found, err := r.DB.With(ctx).AuditColors(row.ID)
			if err != nil {
				return err
			}
			row.BlobKey, row.Basis = at.BlobKey, f.basis[at.Path]
			run.Same++
			put(row, found)
		}
		return nil
	}
	each := func(report audit.Report) error {
		if err := same(); err != nil {
			return err
		}
		if len(rows) == len(f.has) || report.Path != f.has[len(rows)].Path {
			return fmt.Errorf("a report of %s came out of its turn", report.Path)
		}
		at := f.has[len(rows)]
		w.report(fmt.Sprintf("judging file %d of %d", len(rows)+1, len(f.has)), 0.9+0.1*float64(len(rows))/float64(len(f.has)))
		text, err := writeReport(report)
		if err != nil {
			return err
		}
		key, err := r.Store(ctx, w.actor.House.ID, "reports", text)
		if err != nil {
			return err
		}
		keys = append(keys, key)
		var found []store.AuditColor
		wanting[at.Path] = map[string]bool{}
		for _, u := range report.Unjudged {
			wanting[at.Path][u.Value] = true
		}
		for _, c := range report.Colors {
			wanting[at.Path][c.Key] = !c.Verdict.Fine()
			found = append(found, store.AuditColor{Hex: c.Hex, Verdict: string(c.Verdict), Uses: c.Count, Places: len(c.Places)})
		}
		put(store.Audit{Path: at.Path, FileName: path.Base(at.Path), Kind: report.Kind, Size: at.Size, BlobKey: at.BlobKey, ReportKey: key,
			Basis:     f.basis[at.Path],
			Tolerance: judge.Tolerance(report.Kind), Uses: report.Uses, Score: report.Score, Findings: report.Findings(),
			Unjudged: report.UnjudgedUses()}, found)
		return nil
	}
	var err error
	if len(f.same) < len(f.has) {
		err = session.Judge(ctx, rules, each)
	}
	if err == nil {
		err = same()
	}
	var said reading.Sentence
	if errors.As(err, &said) {
		err = &keep.Error{Kind: keep.Invalid, Message: err.Error()}
	}
	if err == nil && len(rows) < len(f.has) {
		err = fmt.Errorf("%d of %d reports came", len(rows), len(f.has))
	}
	if err != nil {
		return fail(err)
	}
	run.Score = audit.Score(good, decided)
	unkept := false
	err = r.Change(ctx, w.actor, func(tx *store.DB) error {
		project, err := r.projectOfRun(tx, w, p)
		if err != nil {
			return err
		}
		run.ID, run.ProjectID, unkept = 0, project, false
		if run.Number, err = tx.NextRun(project); err != nil {
			return err
		}
		before, err := tx.NewestRun(project)
		if err != nil && !errors.Is(err, store.ErrNotFound) {
			return err
		}
		if p.Quiet && before.ID != 0 {
			nothing, err := f.nothingNew(tx, before, run, rows)
			if err != nil {
				return err
			}
			if nothing {
				unkept = true
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
		if err := r.settle(tx, run, f, wanting); err != nil {
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
	if err != nil || unkept {
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
