package server

import (
	"bytes"
	"cmp"
	"context"
	"maps"
	"slices"
	"time"

	openapi "github.com/oapi-codegen/runtime/types"

	"huekeep/api"
	"huekeep/core/audit"
	"huekeep/core/library"
	"huekeep/core/repaint"
	"huekeep/core/report"
	"huekeep/core/swatchfile"
	"huekeep/keep"
	"huekeep/keep/audits"
)

// Projects, their runs, and what is done about what they found.

func (s *server) ListProjects(ctx context.Context, in api.ListProjectsRequestObject) (api.ListProjectsResponseObject, error) {
	out := api.ListProjects200JSONResponse{Projects: []api.Project{}}
	if hex := text(in.Params.With); hex != "" {
		list, err := s.Audits.ProjectsWith(ctx, actorOf(ctx), hex)
		for _, p := range list {
			out.Projects = append(out.Projects, project(p))
		}
		return out, err
	}
	if in.Params.Holding != nil {
		list, err := s.Audits.ProjectsHolding(ctx, actorOf(ctx), *in.Params.Holding)
		for _, p := range list {
			out.Projects = append(out.Projects, project(p))
		}
		return out, err
	}
	before := int64(0)
	if in.Params.Before != nil {
		before = *in.Params.Before
	}
	list, next, err := s.Audits.Projects(ctx, actorOf(ctx), before)
	for _, p := range list {
		out.Projects = append(out.Projects, project(p))
	}
	if next != 0 {
		out.Next = &next
	}
	return out, err
}

func (s *server) ListColorUses(ctx context.Context, in api.ListColorUsesRequestObject) (api.ListColorUsesResponseObject, error) {
	const most = 100
	u, err := s.Audits.Used(ctx, actorOf(ctx), in.Color)
	out := api.ListColorUses200JSONResponse{Uses: u.Uses, Projects: u.Projects, Files: len(u.Files), All: []api.ColorUse{}}
	if u.More {
		out.More = &u.More
	}
	for _, f := range u.Files[:min(len(u.Files), most)] {
		out.All = append(out.All, api.ColorUse{Project: f.ProjectID, Name: f.Project, Audit: f.AuditID, Path: f.Path, Kind: f.Kind,
			Uses: f.Uses})
	}
	return out, err
}

func (s *server) AddProject(ctx context.Context, in api.AddProjectRequestObject) (api.AddProjectResponseObject, error) {
	p, err := s.Audits.AddProject(ctx, actorOf(ctx), in.Body.Name)
	return api.AddProject201JSONResponse(project(p)), err
}

func (s *server) GetProject(ctx context.Context, in api.GetProjectRequestObject) (api.GetProjectResponseObject, error) {
	p, files, runs, err := s.Audits.Project(ctx, actorOf(ctx), in.Project)
	out := api.GetProject200JSONResponse{Project: project(p), Files: []api.ProjectFile{}, Runs: []api.Run{}}
	for _, f := range files {
		out.Files = append(out.Files, projectFile(f))
	}
	for _, r := range runs {
		out.Runs = append(out.Runs, run(r))
	}
	return out, err
}

func (s *server) RenameProject(ctx context.Context, in api.RenameProjectRequestObject) (api.RenameProjectResponseObject, error) {
	return api.RenameProject204Response{}, s.Audits.RenameProject(ctx, actorOf(ctx), in.Project, in.Body.Name)
}

func (s *server) RemoveProject(ctx context.Context, in api.RemoveProjectRequestObject) (api.RemoveProjectResponseObject, error) {
	return api.RemoveProject204Response{}, s.Audits.RemoveProject(ctx, actorOf(ctx), in.Project)
}

func (s *server) RestoreProject(ctx context.Context, in api.RestoreProjectRequestObject) (api.RestoreProjectResponseObject, error) {
	return api.RestoreProject204Response{}, s.Audits.RestoreProject(ctx, actorOf(ctx), in.Project)
}

func (s *server) AddProjectFile(ctx context.Context, in api.AddProjectFileRequestObject) (api.AddProjectFileResponseObject, error) {
	_, data, err := s.upload(ctx, in.Body)
	if err != nil {
		return nil, err
	}
	f, err := s.Audits.AddFile(ctx, actorOf(ctx), in.Project, in.Params.Path, data)
	return api.AddProjectFile201JSONResponse(projectFile(f)), err
}

func (s *server) AddProjectFiles(ctx context.Context, in api.AddProjectFilesRequestObject) (api.AddProjectFilesResponseObject, error) {
	next, err := s.manyUploads(ctx)
	if err != nil {
		return nil, err
	}
	list, err := s.Audits.AddFiles(ctx, actorOf(ctx), in.Project, next)
	out := api.AddProjectFiles200JSONResponse{}
	for _, f := range list {
		out = append(out, projectFile(f))
	}
	return out, err
}

func (s *server) RestoreProjectFile(ctx context.Context, in api.RestoreProjectFileRequestObject) (api.RestoreProjectFileResponseObject,
	error) {
	return api.RestoreProjectFile204Response{}, s.Audits.RestoreFile(ctx, actorOf(ctx), in.Project, in.Params.Path)
}

func (s *server) DropProjectFile(ctx context.Context, in api.DropProjectFileRequestObject) (api.DropProjectFileResponseObject, error) {
	return api.DropProjectFile204Response{}, s.Audits.DropFile(ctx, actorOf(ctx), in.Project, in.Params.Path)
}

func (s *server) ListRemarks(ctx context.Context, in api.ListRemarksRequestObject) (api.ListRemarksResponseObject, error) {
	list, err := s.Audits.Remarks(ctx, actorOf(ctx), in.Project)
	out := api.ListRemarks200JSONResponse{}
	for _, r := range list {
		out = append(out, remark(r))
	}
	return out, err
}

func (s *server) AddRemark(ctx context.Context, in api.AddRemarkRequestObject) (api.AddRemarkResponseObject, error) {
	r := audits.Remark{Path: in.Body.Path, Color: in.Body.Color, Text: text(in.Body.Text)}
	r, err := s.Audits.AddRemark(ctx, actorOf(ctx), in.Project, r, value(in.Body.For))
	return api.AddRemark201JSONResponse(remark(r)), err
}

func (s *server) DropRemark(ctx context.Context, in api.DropRemarkRequestObject) (api.DropRemarkResponseObject, error) {
	return api.DropRemark204Response{}, s.Audits.DropRemark(ctx, actorOf(ctx), in.Remark)
}

func remark(r audits.Remark) api.Remark {
	return api.Remark{Id: r.ID, Path: r.Path, Color: r.Color, Text: r.Text, By: r.By, At: r.At, For: given(r.For), Mine: r.Mine, May: r.May,
		Settled: given(r.Settled), Mailed: given(r.Mailed)}
}

func (s *server) BeginRun(ctx context.Context, in api.BeginRunRequestObject) (api.BeginRunResponseObject, error) {
	j, err := s.Audits.BeginRun(ctx, actorOf(ctx), in.Project, in.Params.Quiet != nil && *in.Params.Quiet)
	return api.BeginRun202JSONResponse(job(j)), err
}

func (s *server) GetJudging(ctx context.Context, _ api.GetJudgingRequestObject) (api.GetJudgingResponseObject, error) {
	j, err := s.Audits.Judging(ctx, actorOf(ctx))
	return api.GetJudging200JSONResponse{Tolerance: j.Tolerance, Pictures: j.Pictures, Neutrals: j.Neutrals, KeepDays: j.KeepDays,
		Again: j.Again}, err
}

func (s *server) SetJudging(ctx context.Context, in api.SetJudgingRequestObject) (api.SetJudgingResponseObject, error) {
	j := audits.Judging{Tolerance: in.Body.Tolerance, Pictures: in.Body.Pictures, Neutrals: in.Body.Neutrals, KeepDays: in.Body.KeepDays,
		Again: in.Body.Again}
	return api.SetJudging204Response{}, s.Audits.SetJudging(ctx, actorOf(ctx), j)
}

func (s *server) ListRuns(ctx context.Context, _ api.ListRunsRequestObject) (api.ListRunsResponseObject, error) {
	list, err := s.Audits.Runs(ctx, actorOf(ctx))
	out := api.ListRuns200JSONResponse{}
	for _, r := range list {
		out = append(out, run(r))
	}
	return out, err
}

func (s *server) GetRun(ctx context.Context, in api.GetRunRequestObject) (api.GetRunResponseObject, error) {
	r, files, err := s.Audits.Run(ctx, actorOf(ctx), in.Run)
	out := api.GetRun200JSONResponse{Run: run(r), Files: []api.AuditLine{}, Unread: unread(r.Unread)}
	for _, f := range files {
		out.Files = append(out.Files, auditLine(f))
	}
	return out, err
}

func (s *server) DropRun(ctx context.Context, in api.DropRunRequestObject) (api.DropRunResponseObject, error) {
	return api.DropRun204Response{}, s.Audits.DropRun(ctx, actorOf(ctx), in.Run)
}

func (s *server) CompareRuns(ctx context.Context, in api.CompareRunsRequestObject) (api.CompareRunsResponseObject, error) {
	mended, fresh, same, err := s.Audits.Changes(ctx, actorOf(ctx), in.Run, in.Params.Since)
	list := func(of []audits.Change) []api.RunChange {
		out := []api.RunChange{}
		for _, c := range of[:min(len(of), 2000)] {
			k := api.RunChange{Path: c.Path, Found: c.Found, Hex: c.Hex, Count: c.Count}
			if c.Was != "" {
				v := api.Verdict(c.Was)
				k.Was = &v
			}
			if c.Is != "" {
				v := api.Verdict(c.Is)
				k.Is = &v
			}
			k.Of = given(c.Of)
			if c.Since != "" {
				v := api.RunChangeSince(c.Since)
				k.Since = &v
			}
			out = append(out, k)
		}
		return out
	}
	return api.CompareRuns200JSONResponse{Mended: list(mended), Fresh: list(fresh), Same: same}, err
}

// written is a report in a format, with the name of its file and what stands on each page in print.
func (s *server) written(ctx context.Context, name, format string, all *bool, at time.Time, files []audit.Report,
	missing []audit.Unread) (file, error) {
	f, err := report.Find(format)
	if err != nil {
		return file{}, &keep.Error{Kind: keep.NotFound, Message: keep.Sentence(err.Error())}
	}
	var b bytes.Buffer
	err = f.Write(&b, report.Document{Files: files, Unread: missing, All: yes(all), House: actorOf(ctx).House.Name,
		Title: name + ", judged " + at.Format("January 2, 2006")})
	extension := map[string]string{"text": "txt", "sarif": "sarif.json", "junit": "xml"}[format]
	return file{b.Bytes(), f.Media, name + ", audit." + cmp.Or(extension, format)}, err
}

func (s *server) ExportRun(ctx context.Context, in api.ExportRunRequestObject) (api.ExportRunResponseObject, error) {
	r, files, err := s.Audits.Reports(ctx, actorOf(ctx), in.Run)
	if err != nil {
		return nil, err
	}
	p, _, _, err := s.Audits.Project(ctx, actorOf(ctx), r.Project)
	if err != nil {
		return nil, err
	}
	return s.written(ctx, p.Name, in.Format, in.Params.All, r.At, files, r.Unread)
}

func (s *server) ExportAudit(ctx context.Context, in api.ExportAuditRequestObject) (api.ExportAuditResponseObject, error) {
	r, err := s.Audits.Whole(ctx, actorOf(ctx), in.Audit)
	if err != nil {
		return nil, err
	}
	line, err := s.Audits.Audit(ctx, actorOf(ctx), in.Audit, 0)
	if err != nil {
		return nil, err
	}
	return s.written(ctx, r.Path, in.Format, in.Params.All, line.At, []audit.Report{r}, nil)
}

func (s *server) Repaint(ctx context.Context, in api.RepaintRequestObject) (api.RepaintResponseObject, error) {
	b := in.Body
	j, err := s.repaint(ctx, in.Run, value(b.Audit), b.Colors, b.Theme, yes(b.Link), yes(b.Dry))
	return api.Repaint202JSONResponse(j), err
}

func (s *server) RepaintAudit(ctx context.Context, in api.RepaintAuditRequestObject) (api.RepaintAuditResponseObject, error) {
	r, err := s.Audits.RunOf(ctx, actorOf(ctx), in.Audit)
	if err != nil {
		return nil, err
	}
	b := in.Body
	j, err := s.repaint(ctx, r, in.Audit, b.Colors, b.Theme, yes(b.Link), yes(b.Dry))
	return api.RepaintAudit202JSONResponse(j), err
}

func (s *server) repaint(ctx context.Context, run, of int64, steps *[]api.PlanStep, theme *int64, link, dry bool) (j api.Job, err error) {
	plan, err := s.planOf(ctx, steps, theme, link)
	if err != nil {
		return j, err
	}
	queued, err := s.Audits.Repaint(ctx, actorOf(ctx), run, of, plan, dry)
	return job(queued), err
}

// planOf is a plan as a body has it, with the theme of a set where it names one.
func (s *server) planOf(ctx context.Context, steps *[]api.PlanStep, theme *int64, link bool) (plan repaint.Plan, err error) {
	plan = repaint.Plan{Colors: stepsOf(steps), Link: link}
	if theme != nil {
		plan.Theme, err = s.themeOf(ctx, *theme)
	}
	return plan, err
}

// themeOf are the colors that a set gives to the slots of an office theme, as its packings have them.
func (s *server) themeOf(ctx context.Context, set int64) (map[string]string, error) {
	sets, err := s.Send.Sets(ctx, actorOf(ctx))
	if err != nil {
		return nil, err
	}
	for _, k := range sets {
		if k.ID != set {
			continue
		}
		known := map[string]bool{}
		for _, c := range k.Members {
			known[c.Name] = c.Status == library.Approved
		}
		out := map[string]string{}
		for _, slot := range swatchfile.ThemeSlots(k.Members, k.Slots...) {
			if known[slot.Color.Name] { // black, white and tints that fill up are no colors of the library
				out[slot.Name] = slot.Color.Name
			}
		}
		return out, nil
	}
	return nil, keep.None("set")
}

func yes(b *bool) bool { return b != nil && *b }

func stepsOf(list *[]api.PlanStep) (out []repaint.Step) {
	if list == nil {
		return nil
	}
	for _, s := range *list {
		step := repaint.Step{From: s.From, To: text(s.To), Leave: yes(s.Leave)}
		if s.Where != nil {
			step.Where = *s.Where
		}
		out = append(out, step)
	}
	return out
}

func steps(list []repaint.Step) []api.PlanStep {
	out := []api.PlanStep{}
	for _, s := range list {
		p := api.PlanStep{From: s.From, To: given(s.To)}
		if s.Leave {
			p.Leave = &s.Leave
		}
		if len(s.Where) > 0 {
			p.Where = &s.Where
		}
		out = append(out, p)
	}
	return out
}

func (s *server) ListRepaints(ctx context.Context, in api.ListRepaintsRequestObject) (api.ListRepaintsResponseObject, error) {
	list, err := s.Audits.Repaints(ctx, actorOf(ctx), in.Project)
	out := api.ListRepaints200JSONResponse{}
	for _, r := range list {
		out = append(out, repainted(r))
	}
	return out, err
}

func (s *server) GetRepainted(ctx context.Context, in api.GetRepaintedRequestObject) (api.GetRepaintedResponseObject, error) {
	r, err := s.Audits.Repainted(ctx, actorOf(ctx), in.Repaint)
	return api.GetRepainted200JSONResponse(repainted(r)), err
}

func (s *server) DownloadRepainted(ctx context.Context, in api.DownloadRepaintedRequestObject) (api.DownloadRepaintedResponseObject,
	error) {
	name, from, err := s.Audits.RepaintedFileOf(ctx, actorOf(ctx), in.Repaint)
	return largeFile{from, name}, err
}

func (s *server) TakeRepainted(ctx context.Context, in api.TakeRepaintedRequestObject) (api.TakeRepaintedResponseObject, error) {
	j, err := s.Audits.Take(ctx, actorOf(ctx), in.Repaint)
	return api.TakeRepainted202JSONResponse(job(j)), err
}

func (s *server) ListExcuses(ctx context.Context, in api.ListExcusesRequestObject) (api.ListExcusesResponseObject, error) {
	project := int64(0)
	if in.Params.Project != nil {
		project = *in.Params.Project
	}
	list, err := s.Audits.Excuses(ctx, actorOf(ctx), project)
	out := api.ListExcuses200JSONResponse{}
	for _, e := range list {
		out = append(out, s.excuse(e))
	}
	return out, err
}

func (s *server) AddExcuse(ctx context.Context, in api.AddExcuseRequestObject) (api.AddExcuseResponseObject, error) {
	e := audits.Excuse{Excuse: audit.Excuse{Color: in.Body.Color, File: text(in.Body.File), Where: text(in.Body.Where),
		Reason: in.Body.Reason}}
	if in.Body.Project != nil {
		e.Project = *in.Body.Project
	}
	if in.Body.Until != nil {
		e.Until = in.Body.Until.Time
	}
	e, err := s.Audits.AddExcuse(ctx, actorOf(ctx), e)
	return api.AddExcuse201JSONResponse(s.excuse(e)), err
}

func (s *server) EndExcuse(ctx context.Context, in api.EndExcuseRequestObject) (api.EndExcuseResponseObject, error) {
	return api.EndExcuse204Response{}, s.Audits.EndExcuse(ctx, actorOf(ctx), in.Excuse)
}

func (s *server) ListPlans(ctx context.Context, _ api.ListPlansRequestObject) (api.ListPlansResponseObject, error) {
	list, err := s.Audits.Plans(ctx, actorOf(ctx))
	out := api.ListPlans200JSONResponse{}
	for _, p := range list {
		out = append(out, savedPlan(p))
	}
	return out, err
}

func (s *server) SavePlan(ctx context.Context, in api.SavePlanRequestObject) (api.SavePlanResponseObject, error) {
	p := audits.SavedPlan{Name: in.Body.Name, Steps: stepsOf(&in.Body.Colors)}
	if in.Body.Id != nil {
		p.ID = *in.Body.Id
	}
	if in.Body.Version != nil {
		p.Version = *in.Body.Version
	}
	p, err := s.Audits.SavePlan(ctx, actorOf(ctx), p)
	return api.SavePlan200JSONResponse(savedPlan(p)), err
}

func (s *server) ProposePlan(ctx context.Context, in api.ProposePlanRequestObject) (api.ProposePlanResponseObject, error) {
	if in.Params.Set != nil {
		to := 0
		if in.Params.To != nil {
			to = *in.Params.To
		}
		list, err := s.planBetween(ctx, *in.Params.Set, from(in.Params.From), to)
		return api.ProposePlan200JSONResponse(steps(list)), err
	}
	if in.Params.Since != nil {
		list, err := s.Audits.PlanSince(ctx, actorOf(ctx), in.Params.Since.Time)
		return api.ProposePlan200JSONResponse(steps(list)), err
	}
	if in.Params.Moment != nil {
		list, err := s.Audits.PlanSince(ctx, actorOf(ctx), *in.Params.Moment)
		return api.ProposePlan200JSONResponse(steps(list)), err
	}
	if in.Params.Run != nil {
		r, _, err := s.Audits.Run(ctx, actorOf(ctx), *in.Params.Run)
		if err != nil {
			return nil, err
		}
		list, err := s.Audits.PlanSince(ctx, actorOf(ctx), r.At)
		return api.ProposePlan200JSONResponse(steps(list)), err
	}
	if in.Params.Color == nil {
		return nil, keep.Wrong("color", "name a color, a set with two of its editions, a day or a run")
	}
	list, err := s.Audits.PlanOf(ctx, actorOf(ctx), *in.Params.Color)
	return api.ProposePlan200JSONResponse(steps(list)), err
}

// planBetween proposes a plan from two editions of a set.
func (s *server) planBetween(ctx context.Context, set int64, from, to int) ([]repaint.Step, error) {
	a := actorOf(ctx)
	if err := a.May(keep.RoleContributor); err != nil {
		return nil, err
	}
	old, err := s.Send.Edition(ctx, a, set, from)
	if err != nil {
		return nil, err
	}
	now, err := s.Send.Edition(ctx, a, set, to)
	if err != nil {
		return nil, err
	}
	return audits.PlanBetween(old.Colors, now.Colors), nil
}

func (s *server) ReadPlan(ctx context.Context, in api.ReadPlanRequestObject) (api.ReadPlanResponseObject, error) {
	var list []repaint.Pair
	var err error
	switch b := in.Body; {
	case b.Text != nil && b.Old == nil && b.New == nil:
		list, err = s.Audits.ReadMap(ctx, actorOf(ctx), *b.Text)
	case b.Text == nil && b.Old != nil && b.New != nil:
		list, err = s.Audits.MapOfSets(ctx, actorOf(ctx), *b.Old, *b.New)
	default:
		err = keep.Wrong("text", "send a text, or the numbers of two sets as old and new")
	}
	out := api.ReadPlan200JSONResponse{}
	for _, p := range list {
		out = append(out, api.PlanPair{Line: p.Line, Text: p.Text, From: given(p.From), To: given(p.To), Why: given(p.Why)})
	}
	return out, err
}

func (s *server) ListPlanUses(ctx context.Context, in api.ListPlanUsesRequestObject) (api.ListPlanUsesResponseObject, error) {
	u, err := s.Audits.UsesOfPlan(ctx, actorOf(ctx), stepsOf(&in.Body.Colors))
	out := api.ListPlanUses200JSONResponse{Steps: []api.PlanStepUses{}, Projects: []api.PlanProject{}, Left: []api.PlanLeft{},
		LeftUses: u.LeftUses, LeftColors: u.LeftColors}
	for _, one := range u.Steps {
		step := api.PlanStepUses{From: one.From}
		if one.Counted {
			step.Uses, step.Files, step.Pictures = &one.Uses, &one.Files, &one.Pictures
		}
		out.Steps = append(out.Steps, step)
	}
	for _, p := range u.Projects {
		out.Projects = append(out.Projects, api.PlanProject{Project: p.ID, Name: p.Name, Uses: p.Uses, Files: p.Files})
	}
	for _, l := range u.Left {
		out.Left = append(out.Left, api.PlanLeft{Hex: l.Hex, Verdict: api.Verdict(l.Verdict), Uses: l.Uses, Files: l.Files})
	}
	return out, err
}

func (s *server) PrintRepaint(ctx context.Context, in api.PrintRepaintRequestObject) (api.PrintRepaintResponseObject, error) {
	name, data, err := s.Audits.Paper(ctx, actorOf(ctx), in.Repaint)
	return file{data, "text/html; charset=utf-8", name}, err
}

func (s *server) DropPlan(ctx context.Context, in api.DropPlanRequestObject) (api.DropPlanResponseObject, error) {
	return api.DropPlan204Response{}, s.Audits.DropPlan(ctx, actorOf(ctx), in.Plan)
}

// Conversions.

func project(p audits.Project) api.Project {
	out := api.Project{Id: p.ID, Name: p.Name, At: p.At, By: p.By, Removed: p.Removed}
	if p.Last != nil {
		r := run(*p.Last)
		out.Last = &r
	}
	return out
}

func projectFile(f audits.File) api.ProjectFile {
	return api.ProjectFile{Path: f.Path, Size: f.Size, At: f.At, Why: given(f.Why), Sum: given(f.Sum)}
}

func run(r audits.Run) api.Run {
	return api.Run{Id: r.ID, Project: r.Project, Number: r.Number, At: r.At, By: r.By, Tolerance: r.Tolerance, Files: r.Files, Uses: r.Uses,
		Findings: r.Findings, Unjudged: r.Unjudged, Same: given(r.Same), Score: r.Score, Together: r.Together, Projects: given(r.Projects)}
}

func unread(list []audit.Unread) []api.UnreadPart {
	out := []api.UnreadPart{}
	for _, u := range list {
		out = append(out, api.UnreadPart{Path: u.Path, Why: u.Why})
	}
	return out
}

func repainted(r audits.Repainted) api.Repainted {
	out := api.Repainted{Id: r.ID, Project: r.Project, Run: r.Run, At: r.At, By: r.By, Name: r.Name, Dry: r.Dry, Changed: r.Changed,
		Left: r.Left, Before: r.Before, After: r.After, Files: []api.RepaintedFile{}}
	for _, f := range r.Files {
		to := api.RepaintedFile{Path: f.Path, Changed: f.Changed, Places: f.Places, PartsChanged: f.Parts.Changed, PartsSame: f.Parts.Same,
			Why:    given(f.Why),
			Before: fileTotals(f.Before), After: fileTotals(f.After), Changes: []api.RepaintChange{}, Left: []api.Undecided{}}
		if f.Audit != 0 {
			to.Audit, to.Kind = &f.Audit, &f.Kind
		}
		for _, c := range f.Changes {
			to.Changes = append(to.Changes, api.RepaintChange{From: c.From, To: c.To, Hex: c.Hex, Where: c.Where, Count: c.Count,
				Before: c.Before, After: c.After})
		}
		for _, l := range f.Left {
			to.Left = append(to.Left, api.Undecided{Value: l.Value, Where: l.Where, Why: l.Why, Count: l.Count})
		}
		out.Files = append(out.Files, to)
	}
	return out
}

func fileTotals(t audits.Totals) api.FileTotals {
	out := api.FileTotals{Score: t.Score, Uses: []api.VerdictTotal{}}
	for _, v := range slices.Sorted(maps.Keys(t.Uses)) {
		out.Uses = append(out.Uses, api.VerdictTotal{Verdict: api.Verdict(v), Uses: t.Uses[v]})
	}
	return out
}

func (s *server) excuse(e audits.Excuse) api.Excuse {
	out := api.Excuse{Id: e.ID, Color: e.Color, File: given(e.File), Where: given(e.Where), Reason: e.Reason, By: e.By, At: e.At,
		EndedBy: given(e.OverBy), State: "holds"}
	if e.Project != 0 {
		out.Project = &e.Project
	}
	if !e.Until.IsZero() {
		out.Until = &openapi.Date{Time: e.Until}
	}
	now := s.Base.Now()
	switch {
	case e.Over != nil:
		out.State = "ended"
	case e.Ended(now):
		out.State = "over"
	case !e.Until.IsZero() && e.Ended(now.Add(audit.Soon)):
		out.State = "ending"
	}
	return out
}

func savedPlan(p audits.SavedPlan) api.RepaintPlan {
	return api.RepaintPlan{Id: p.ID, Name: p.Name, Version: p.Version, By: p.By, At: p.At, Colors: steps(p.Steps)}
}
