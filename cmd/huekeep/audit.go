package main

import (
	"bytes"
	"context"
	"encoding/json"
	"errors"
	"fmt"
	"io"
	"io/fs"
	"net/http"
	"os"
	"path/filepath"
	"slices"
	"strings"
	"time"

	ignore "github.com/sabhiram/go-gitignore"
	"github.com/spf13/cobra"

	"huekeep/core/audit"
	"huekeep/core/audit/kinds"
	"huekeep/core/library"
	"huekeep/core/limits"
	"huekeep/core/repaint"
	"huekeep/core/report"
	"huekeep/core/swatchfile"
	"huekeep/frames"
	"huekeep/reading"
)

// judging are the flags of both commands that judge files.
type judging struct {
	library   string
	tolerance float64
	neutrals  bool
	excuses   string
}

func (j *judging) flags(c *cobra.Command) {
	c.Flags().StringVar(&j.library, "library", "", "library or design tokens file, or the address of a pickup")
	c.Flags().Float64Var(&j.tolerance, "tolerance", audit.DefaultTolerance, "ΔE00 within which a color counts as drifted")
	c.Flags().BoolVar(&j.neutrals, "neutrals", false, "pure grays, black and white are on-brand too")
	c.Flags().StringVar(&j.excuses, "excuses", "", "file with what differs on purpose (JSON)")
}

// given is the first of the flags that was given; empty for none.
func (j *judging) given(c *cobra.Command) string {
	for _, name := range []string{"library", "tolerance", "neutrals", "excuses", "cache"} {
		if c.Flags().Changed(name) {
			return name
		}
	}
	return ""
}

// rules reads what is judged by.
func (j *judging) rules(c *cobra.Command) (audit.Rules, error) {
	if j.library == "" {
		return audit.Rules{}, errors.New("--library is missing: name the file with the colors to judge by, or a house with --server and --project")
	}
	lib, err := openLibrary(c.Context(), j.library)
	if err != nil {
		return audit.Rules{}, err
	}
	rules := audit.Rules{Tolerance: lib.Tolerance, Neutrals: lib.Neutrals || j.neutrals, Colors: audit.Allowed(lib.Colors)}
	if lib.Backup != nil {
		var editions []library.Edition
		for _, e := range lib.Backup.Editions {
			editions = append(editions, e.Edition)
		}
		rules.Formers = audit.Formers(editions, lib.Colors)
	}
	if c.Flags().Changed("tolerance") {
		if !(j.tolerance > 0 && j.tolerance <= 100) {
			return rules, fmt.Errorf("the tolerance %g is not between 0 and 100", j.tolerance)
		}
		rules.Tolerance = j.tolerance
	}
	if j.excuses != "" {
		if rules.Excuses, err = readExcuses(j.excuses, time.Now()); err != nil {
			return rules, err
		}
	}
	return rules, nil
}

// openLibrary reads a library from a file or, as a build does, from a pickup, or with the access token of HUEKEEP_TOKEN from a house.
func openLibrary(ctx context.Context, name string) (swatchfile.Library, error) {
	if !strings.HasPrefix(name, "http://") && !strings.HasPrefix(name, "https://") {
		return readLibrary(name)
	}
	ctx, cancel := context.WithTimeout(ctx, 30*time.Second)
	defer cancel()
	request, err := http.NewRequestWithContext(ctx, http.MethodGet, name, nil)
	if err != nil {
		return swatchfile.Library{}, fmt.Errorf("%s is not an address", name)
	}
	request.Header.Set("User-Agent", "huekeep/"+version())
	if token := setting("TOKEN", ""); token != "" && strings.HasPrefix(request.URL.Path, "/api/houses/") {
		if err := keepsSecret(request.URL); err != nil {
			return swatchfile.Library{}, err
		}
		request.Header.Set("Authorization", "Bearer "+token)
	}
	answer, err := http.DefaultClient.Do(request)
	if err != nil {
		return swatchfile.Library{}, fmt.Errorf("%s does not answer: %w", name, err)
	}
	defer answer.Body.Close()
	data, err := io.ReadAll(io.LimitReader(answer.Body, limits.LibraryBytes+1))
	switch {
	case err != nil:
		return swatchfile.Library{}, fmt.Errorf("%s breaks off: %w", name, err)
	case answer.StatusCode != http.StatusOK:
		return swatchfile.Library{}, fmt.Errorf("%s answers with %s", name, answer.Status)
	case len(data) > limits.LibraryBytes:
		return swatchfile.Library{}, fmt.Errorf("%s gives more than %s", name, limits.Size(limits.LibraryBytes))
	}
	lib, _, err := swatchfile.Read(request.URL.Path, data)
	if err == nil && len(lib.Colors) == 0 { // nothing but questions
		err = swatchfile.ErrNone
	}
	if err != nil {
		return lib, fmt.Errorf("%s: %w", name, err)
	}
	return lib, nil
}

type excusesFile struct {
	Excuses []struct{ Color, File, Where, Reason, By, Until string }
}

// readExcuses reads recorded exceptions; those that are over do not hold.
func readExcuses(name string, now time.Time) ([]audit.Excuse, error) {
	data, err := readFile(name, limits.TextBytes)
	if err != nil {
		return nil, err
	}
	var file excusesFile
	if err := asFile(data, &file); err != nil {
		return nil, fmt.Errorf("%s is not a file of excuses: %w", name, err)
	}
	if file.Excuses == nil {
		return nil, fmt.Errorf("%s is not a file of excuses: it has no list %q", name, "excuses")
	}
	var out []audit.Excuse
	for i, e := range file.Excuses {
		x := audit.Excuse{Color: e.Color, File: e.File, Where: e.Where, Reason: e.Reason, By: e.By}
		if e.Color == "" || e.Reason == "" {
			return nil, fmt.Errorf("%s: excuse %d has no color or no reason", name, i+1)
		}
		if e.Until != "" {
			if x.Until, err = time.Parse(time.DateOnly, e.Until); err != nil {
				return nil, fmt.Errorf("%s: excuse %d ends on %q, which is not a date such as 2027-03-31", name, i+1, e.Until)
			}
		}
		if !x.Ended(now) {
			out = append(out, x)
		}
	}
	return out, nil
}

// asFile reads a JSON file that somebody wrote by hand: what is misspelled in it is an error, and not left out.
func asFile(data []byte, into any) error {
	d := json.NewDecoder(bytes.NewReader(data))
	d.DisallowUnknownFields()
	err := d.Decode(into)
	if name, ok := strings.CutPrefix(fmt.Sprint(err), "json: unknown field "); ok {
		return fmt.Errorf("there is no member %s", name)
	}
	if err == nil && d.More() {
		return errors.New("something stands behind its end")
	}
	return err
}

// placed gives excuses of files the paths by which these are called here, however somebody typed them: relative to the file of excuses, to
// a folder that is judged, or to where the command runs.
func placed(excuses []audit.Excuse, beside string, roots []string, list []input) []audit.Excuse {
	called := map[string]string{}
	for _, in := range list {
		if abs, err := filepath.Abs(in.path); err == nil {
			called[abs] = in.name
		}
	}
	var out []audit.Excuse
	for _, e := range excuses {
		if e.File == "" {
			out = append(out, e)
			continue
		}
		given, found := filepath.FromSlash(e.File), map[string]bool{}
		for _, from := range append([]string{".", filepath.Dir(beside)}, roots...) {
			at := filepath.Join(from, given)
			if filepath.IsAbs(given) {
				at = given
			}
			abs, err := filepath.Abs(at)
			if name, ok := called[abs]; err == nil && ok && !found[name] {
				found[name] = true
				e.File = name
				out = append(out, e)
			}
		}
		if len(found) == 0 {
			out = append(out, e)
		}
	}
	return out
}

// input is a file to read: where it is, and what it is called in reports.
type input struct{ path, name string }

// inputs lists the files of paths: a folder without what its .gitignore files leave out, and without what is of no kind that is read. What
// the command itself is told to read is no project file, even where it is named as one, since a hook names whatever changed; what it is
// told to write (out) is none of a folder.
func inputs(says io.Writer, paths []string, out string, reads ...string) (list []input, unread []audit.Unread) {
	own, named := map[string]bool{}, map[string]bool{}
	for _, l := range append(slices.Clone(reads), out) {
		if abs, err := filepath.Abs(l); l != "" && err == nil {
			own[abs] = true
			named[abs] = l != out
		}
	}
	for _, p := range paths {
		info, err := os.Stat(p)
		switch {
		case err != nil:
			unread = append(unread, audit.Unread{Path: p, Why: reason(err)})
		case info.IsDir():
			more, failed := folder(p, own)
			list, unread = append(list, more...), append(unread, failed...)
		default:
			if abs, err := filepath.Abs(p); err == nil && named[abs] {
				continue
			}
			list = append(list, input{p, filepath.ToSlash(p)})
		}
	}
	list = slices.DeleteFunc(list, func(in input) bool {
		what := ours(in.path)
		if what != "" {
			fmt.Fprintf(says, "huekeep: %s is %s and no project file; it is left out\n", in.name, what)
		}
		return what != ""
	})
	return list, unread
}

// sameFile says whether two names are those of one file that is there.
func sameFile(one, other string) bool {
	a, err := os.Stat(one)
	if err != nil {
		return false
	}
	b, err := os.Stat(other)
	return err == nil && os.SameFile(a, b)
}

// ours says what a file of this program is that lies among the files of a project: a report, excuses or a plan; empty for anything else.
func ours(name string) string {
	if !strings.EqualFold(filepath.Ext(name), ".json") {
		return ""
	}
	data, err := readFile(name, limits.UploadBytes)
	if err != nil {
		return ""
	}
	if len(data) == 0 { // as the answer of this very command, which a shell begins to write
		return "empty"
	}
	if _, err := report.ReadBaseline(data); err == nil {
		return "a report"
	}
	var file excusesFile
	if asFile(data, &file) == nil && file.Excuses != nil {
		return "a file of excuses"
	}
	var plan repaint.Plan
	if asFile(data, &plan) == nil && len(plan.Colors) > 0 {
		return "a repaint plan"
	}
	return ""
}

// progress says now and then how far work with many things has come, where errors are said.
type progress struct {
	to   io.Writer
	what string
	last time.Time
}

// A person looks on at a terminal; a log takes a line now and then.
const progressEvery, progressInLog = time.Second, 15 * time.Second

// at says that n of all are done, if it is time to.
func (p *progress) at(n, all int) {
	p.say(func() string { return fmt.Sprintf("%d of %d %s", n, all, p.what) })
}

// say says how far it is, if it is time to.
func (p *progress) say(how func() string) {
	now := time.Now()
	if p.last.IsZero() {
		p.last = now
	}
	every := progressInLog
	if f, ok := p.to.(*os.File); ok {
		if info, err := f.Stat(); err == nil && info.Mode()&os.ModeCharDevice != 0 {
			every = progressEvery
		}
	}
	if now.Sub(p.last) >= every {
		p.last = now
		fmt.Fprintf(p.to, "huekeep: %s\n", how())
	}
}

func reason(err error) string {
	var p *fs.PathError
	if errors.As(err, &p) {
		return p.Err.Error()
	}
	return err.Error()
}

func folder(root string, own map[string]bool) (list []input, unread []audit.Unread) {
	type rules struct {
		at string
		*ignore.GitIgnore
	}
	var all []rules
	known := kinds.Extensions()
	err := filepath.WalkDir(root, func(path string, d fs.DirEntry, err error) error {
		if err != nil {
			unread = append(unread, audit.Unread{Path: filepath.ToSlash(path), Why: reason(err)})
			return nil
		}
		if path != root {
			if abs, err := filepath.Abs(path); err == nil && own[abs] {
				if d.IsDir() {
					return fs.SkipDir
				}
				return nil
			}
			if kinds.Skipped(d.Name()) {
				if d.IsDir() {
					return fs.SkipDir
				}
				return nil
			}
			for _, r := range all {
				rel, err := filepath.Rel(r.at, path)
				if err != nil || strings.HasPrefix(rel, "..") {
					continue
				}
				if r.MatchesPath(filepath.ToSlash(rel)) || d.IsDir() && r.MatchesPath(filepath.ToSlash(rel)+"/") {
					if d.IsDir() {
						return fs.SkipDir
					}
					return nil
				}
			}
		}
		if d.IsDir() {
			if g, err := ignore.CompileIgnoreFile(filepath.Join(path, ".gitignore")); err == nil {
				all = append(all, rules{path, g})
			}
			return nil
		}
		if d.Type().IsRegular() && slices.Contains(known, strings.ToLower(filepath.Ext(path))) {
			list = append(list, input{path, filepath.ToSlash(path)})
		}
		return nil
	})
	if err != nil {
		unread = append(unread, audit.Unread{Path: filepath.ToSlash(root), Why: reason(err)})
	}
	return list, unread
}

// auditing is what the command audit is asked for.
type auditing struct {
	judging
	to                           toHouse
	asJSON, all                  bool
	format, baseline, out, cache string
	failOn                       []string // verdicts
}

// wanting are the verdicts that builds may fail for.
func wanting() (out []string) {
	for _, v := range audit.Verdicts {
		if !v.Fine() {
			out = append(out, string(v))
		}
	}
	return out
}

// fails are the verdicts that end with status 1.
func (o *auditing) fails() (map[audit.Verdict]bool, error) {
	fail := map[audit.Verdict]bool{}
	for _, v := range o.failOn {
		if !slices.Contains(audit.Verdicts, audit.Verdict(v)) {
			return nil, fmt.Errorf("--fail-on: there is no verdict %q; there are %s", v, strings.Join(wanting(), ", "))
		}
		fail[audit.Verdict(v)] = true
	}
	return fail, nil
}

// judge judges files, here or in a house.
func (o *auditing) judge(cmd *cobra.Command, args []string, all bool) (doc report.Document, err error) {
	house, err := o.to.of(cmd.ErrOrStderr())
	if err != nil {
		return doc, err
	}
	if house != nil {
		if given := o.given(cmd); given != "" {
			return doc, fmt.Errorf("--%s and --server exclude each other: the house judges by its own", given)
		}
		list, unread := inputs(cmd.ErrOrStderr(), args, o.out, o.baseline, o.cache)
		return house.judge(cmd.Context(), args, list, unread)
	}
	rules, err := o.rules(cmd)
	if err != nil {
		return doc, err
	}
	var kept reports
	if o.cache != "" {
		if kept, err = keptReports(o.cache); err != nil {
			return doc, err
		}
	}
	return auditFiles(cmd.Context(), cmd.ErrOrStderr(), args, o.out, rules, kept, all, o.excuses, o.library, o.baseline, o.cache)
}

// run judges files and writes the report.
func (o *auditing) run(cmd *cobra.Command, args []string) error {
	if o.asJSON {
		o.format = "json"
	}
	as, err := report.Find(o.format)
	if err != nil {
		return err
	}
	fail, err := o.fails()
	if err != nil {
		return err
	}
	if i := slices.IndexFunc(args, func(p string) bool { return sameFile(p, o.out) }); i >= 0 {
		return fmt.Errorf("-o %s would write the report over a file that is judged", o.out)
	}
	before, err := readBaseline(o.baseline)
	if err != nil {
		return err
	}
	doc, err := o.judge(cmd, args, o.all || as.All || before != nil)
	if err != nil {
		return err
	}
	if before != nil {
		doc.Compare(before)
	}
	doc.Version, _, _ = made()
	doc.All = o.all
	if o.out != "" && o.out != "-" {
		err = publicFile(o.out, func(w io.Writer) error { return as.Write(w, doc) })
	} else {
		err = as.Write(cmd.OutOrStdout(), doc)
	}
	if err != nil {
		return err
	}
	for _, u := range doc.Unread {
		fmt.Fprintf(cmd.ErrOrStderr(), "huekeep: %s: %s\n", u.Path, u.Why)
	}
	switch { // a part that is in no format that is read is told of, and unjudged; a file that cannot be read is a failure
	case len(doc.Unread) > 0:
		return exitError{code: 2}
	case doc.Failing(fail) > 0:
		return exitError{code: 1}
	}
	return nil
}

func auditCommand() *cobra.Command {
	o := auditing{failOn: wanting()}
	var names []string
	for _, f := range report.Formats {
		names = append(names, f.Name)
	}
	c := &cobra.Command{
		Use:   "audit PATH...",
		Short: "Find every color in project files and judge it against a library",
		Long: "Finds every color in project files and judges it against a library: a Hue Keep library or any design tokens file.\n" +
			"PATH is a file, a folder or an archive; files of a folder that its .gitignore leaves out are not read.\n" +
			"With --server and --project the house judges them, by its own library, rules and excuses, and keeps the run; only files that\n" +
			"changed are sent. HUEKEEP_TOKEN is an access token of the house for judging files.\n" +
			"Exit status: 0 all on-brand or excused, 1 findings, 2 something could not be read,\n" +
			"130 or 143 it was stopped, without a report.",
		Example: "  huekeep audit timetable.pptx site/ --library ferries.json --format sarif\n" +
			"  huekeep audit site/ --server https://colors.house.example/h/1 --project Website",
		Args: cobra.MinimumNArgs(1),
		RunE: o.run,
	}
	o.flags(c)
	c.Flags().StringVar(&o.to.server, "server", "",
		"address of a house that is to judge and keep the run, as a browser shows it: https://…/h/1")
	c.Flags().StringVar(&o.to.project, "project", "", "name of the project in the house; it is begun if there is none")
	c.Flags().BoolVar(&o.to.exactly, "exactly", false, "files that the project has and that are not here are taken out of it")
	c.Flags().StringVar(&o.cache, "cache", "", "folder of reports: what did not change since they were written is not judged again")
	c.Flags().BoolVar(&o.all, "all-places", false, "JSON lists all places of each color; else the first ones, and how many more there are")
	c.Flags().BoolVar(&o.asJSON, "json", false, "answer in JSON, as --format json does")
	c.Flags().StringVar(&o.format, "format", "text", strings.Join(names, ", "))
	c.Flags().StringVarP(&o.out, "output", "o", "-", `file to write, "-" for standard output`)
	c.Flags().StringVar(&o.baseline, "baseline", "", "report (JSON) of before: only what is not in it fails")
	c.Flags().StringSliceVar(&o.failOn, "fail-on", o.failOn, "verdicts that end with status 1")
	return c
}

// auditFiles judges files; those of one run belong together, so that there is no report of some of them.
func auditFiles(ctx context.Context, says io.Writer, paths []string, out string, rules audit.Rules, kept reports, all bool, excuses string,
	own ...string) (report.Document, error) {
	list, unread := inputs(says, paths, out, append(own, excuses)...)
	rules.Excuses = placed(rules.Excuses, excuses, paths, list)
	limit, err := fileTime()
	if err != nil {
		return report.Document{}, err
	}
	doc := report.Document{Files: []audit.Report{}, Unread: unread}
	for _, p := range paths {
		if info, err := os.Stat(p); err == nil && info.IsDir() {
			doc.Roots = append(doc.Roots, filepath.ToSlash(p))
		}
	}
	look, err := newLooker(rules, limit, says, kept, all)
	if err != nil {
		return doc, err
	}
	files, more, err := look.at(ctx, list)
	if err != nil {
		return doc, fmt.Errorf("%w; there is no report", err)
	}
	doc.Files, doc.Unread = files, append(doc.Unread, more...)
	look.tell()
	return doc, nil
}

// fileTime is how long one file may take.
func fileTime() (time.Duration, error) {
	seconds, err := number("FILE_SECONDS", reading.TimePerFile.Seconds(), 1, 3600)
	return time.Duration(seconds * float64(time.Second)), err
}

// readBaseline reads the report of before; nil for none.
func readBaseline(name string) (*report.Baseline, error) {
	if name == "" {
		return nil, nil
	}
	data, err := readFile(name, limits.UploadBytes)
	if err != nil {
		return nil, err
	}
	b, err := report.ReadBaseline(data)
	if err != nil {
		return nil, fmt.Errorf("--baseline %s: %w", name, err)
	}
	return b, nil
}

// repainted is one file of the answer of the command repaint.
type repainted struct {
	Path    string           `json:"path"`
	Out     string           `json:"out"`
	Changed int              `json:"changed"`
	Changes []repaint.Change `json:"changes"`
	Left    []repaint.Left   `json:"left"`
	Parts   repaint.Parts    `json:"parts"`
	After   audit.Report     `json:"after"`
}

// repainting is what the command repaint is asked for.
type repainting struct {
	judging
	plan, out         string
	link, dry, asJSON bool
}

// files are those of the command, and where each is written.
func (o *repainting) files(cmd *cobra.Command, args []string) (list []input, to []string, unread []audit.Unread, err error) {
	if o.out == "" && !o.dry {
		return nil, nil, nil, errors.New("-o is missing: name the file or the folder to write to")
	}
	list, unread = inputs(cmd.ErrOrStderr(), args, o.out, o.library, o.excuses, o.plan)
	if len(list) == 1 && len(args) == 1 && list[0].path == args[0] {
		return list, []string{o.out}, unread, nil
	}
	to, err = outputs(args, list, o.out)
	return list, to, unread, err
}

// decider is how the plan is, of a file that was judged.
func (o *repainting) decider() (func(before audit.Report) repaint.Plan, error) {
	given, err := readPlan(o.plan)
	return func(before audit.Report) repaint.Plan {
		plan := repaint.Usual(before)
		if given != nil {
			plan = *given
		}
		plan.Link = plan.Link || o.link
		return plan
	}, err
}

// run repaints files and tells what became of them.
func (o *repainting) run(cmd *cobra.Command, args []string) error {
	rules, err := o.rules(cmd)
	if err != nil {
		return err
	}
	decide, err := o.decider()
	if err != nil {
		return err
	}
	list, to, unread, err := o.files(cmd, args)
	if err != nil {
		return err
	}
	rules.Excuses = placed(rules.Excuses, o.excuses, args, list)
	limit, err := fileTime()
	if err != nil {
		return err
	}
	answer := struct {
		Files  []repainted    `json:"files"`
		Unread []audit.Unread `json:"unread"`
	}{[]repainted{}, append([]audit.Unread{}, unread...)}
	left := false
	var broken error
	ctx := cmd.Context()
	stay := staying(ctx, limit, list, rules, decide)
	told := progress{to: cmd.ErrOrStderr(), what: "files are done"}
	for i, in := range list {
		told.at(i, len(list))
		done, err := repaintFile(ctx, limit, in, to[i], rules, func(before audit.Report) repaint.Plan {
			plan := decide(before)
			plan.Stay = stay
			return plan
		}, o.dry)
		if ctx.Err() != nil { // what was written before it stays, and is told
			broken = fmt.Errorf("%w at %s, after %d of %d files; those that are told of are whole, the others are not written",
				context.Cause(ctx), in.name, i, len(list))
			break
		}
		if err != nil {
			answer.Unread = append(answer.Unread,
				audit.Unread{Path: in.name, Why: strings.TrimPrefix(err.Error(), filepath.Base(in.path)+": ")})
			fmt.Fprintf(cmd.ErrOrStderr(), "huekeep: %s\n", err)
			continue
		}
		left = left || len(done.Left) > 0
		answer.Files = append(answer.Files, *done)
	}
	if o.asJSON {
		err = writeJSON(cmd.OutOrStdout(), answer)
	} else {
		printRepainted(cmd.OutOrStdout(), answer.Files, o.dry)
	}
	switch {
	case broken != nil:
		return broken
	case err != nil:
		return err
	case len(answer.Unread) > 0:
		return exitError{code: 2}
	case left:
		return exitError{code: 1}
	}
	return nil
}

func repaintCommand() *cobra.Command {
	var o repainting
	c := &cobra.Command{
		Use:   "repaint PATH... -o OUT",
		Short: "Put the colors of project files right, in the files themselves",
		Long: "Rewrites project files so that found colors become library colors: without a plan, what drifted becomes the nearest color and what\n" +
			"is retired its successor. Only the bytes that say a color change. OUT is a file for one file, else a folder; never the input.\n" +
			"Exit status: 0 all that was planned is written, 1 some of it is left, 2 something could not be read or written,\n" +
			"130 or 143 it was stopped; what it tells of is written whole, nothing else.",
		Example: "  huekeep repaint timetable.pptx --library ferries.json -o timetable-fixed.pptx",
		Args:    cobra.MinimumNArgs(1),
		RunE:    o.run,
	}
	o.flags(c)
	c.Flags().StringVarP(&o.out, "output", "o", "", "file to write for one file, else a folder")
	c.Flags().StringVar(&o.plan, "plan", "", "repaint plan (JSON): which found color becomes which library color")
	c.Flags().BoolVar(&o.link, "link", false, "write references instead of values where a definition of the file has the color")
	c.Flags().BoolVar(&o.dry, "dry-run", false, "say what would change and write nothing")
	c.Flags().BoolVar(&o.asJSON, "json", false, "answer in JSON")
	return c
}

func readPlan(name string) (*repaint.Plan, error) {
	if name == "" {
		return nil, nil
	}
	data, err := readFile(name, limits.TextBytes)
	if err != nil {
		return nil, err
	}
	var p repaint.Plan
	if err := asFile(data, &p); err != nil {
		return nil, fmt.Errorf("%s is not a repaint plan: %w", name, err)
	}
	if p.Colors == nil && p.Theme == nil && !p.Link {
		return nil, fmt.Errorf("%s is not a repaint plan: it has no list %q", name, "colors")
	}
	for i, s := range p.Colors {
		if s.From == "" || s.To == "" && !s.Leave {
			return nil, fmt.Errorf("%s: step %d says not what becomes of which color", name, i+1)
		}
	}
	return &p, nil
}

// outputs says where files are written below a folder; no two in one place.
func outputs(args []string, list []input, folder string) (to []string, err error) {
	taken := map[string]string{}
	for _, in := range list {
		path := filepath.Join(folder, within(args, in.path))
		if other, twice := taken[path]; twice {
			return nil, fmt.Errorf("%s and %s would both be written to %s; repaint them one after the other", other, in.path, path)
		}
		taken[path] = in.path
		to = append(to, path)
	}
	return to, nil
}

// within is the path of a file below the argument that it came with.
func within(args []string, path string) string {
	for _, a := range args {
		if rel, err := filepath.Rel(a, path); err == nil && !strings.HasPrefix(rel, "..") && rel != "." {
			return filepath.Join(filepath.Base(a), rel)
		}
	}
	return filepath.Base(path)
}

// staying are the utility classes that keep their names because one of the files excuses them. Files that cannot be read are told of when
// they are to be repainted.
func staying(ctx context.Context, limit time.Duration, list []input, rules audit.Rules,
	decide func(audit.Report) repaint.Plan) map[string]string {
	stay := map[string]string{}
	if len(list) == 1 || len(rules.Excuses) == 0 { // nothing else holds a class in one file that is not held in another
		return stay
	}
	for _, in := range list {
		data, err := readFile(in.path, limits.UploadBytes)
		if err != nil || !repaint.MayHaveClasses(data) || ctx.Err() != nil {
			continue
		}
		held, err := inTime(ctx, limit, func(ctx context.Context) ([]string, error) {
			_, held, err := repaint.Classes(in.name, data, rules, decide,
				kinds.Options{Frames: frames.Reader(ctx), Watch: func(string, float64) error { return ctx.Err() }})
			return held, err
		})
		if err == nil {
			repaint.Stay(stay, held, in.name, false)
		}
	}
	return stay
}

// repaintFile repaints one file. What was written is whole or not there.
func repaintFile(ctx context.Context, limit time.Duration, in input, to string, rules audit.Rules, decide func(audit.Report) repaint.Plan,
	dry bool) (*repainted, error) {
	data, err := readFile(in.path, limits.UploadBytes)
	if err != nil {
		return nil, err
	}
	r, err := inTime(ctx, 3*limit, func(ctx context.Context) (*repaint.Result, error) { // it is read three times
		o := kinds.Options{Frames: frames.Reader(ctx), Watch: func(string, float64) error { return ctx.Err() }}
		return repaint.FileBy(in.name, data, rules, decide, o)
	})
	if err != nil {
		return nil, err
	}
	done := &repainted{Path: in.name, Out: filepath.ToSlash(to), Changed: r.Uses, Changes: r.Changes, Left: r.Left, Parts: r.Parts,
		After: r.After}
	if done.Changes == nil {
		done.Changes = []repaint.Change{}
	}
	if done.Left == nil {
		done.Left = []repaint.Left{}
	}
	if dry {
		done.Out = ""
		return done, nil
	}
	if sameFile(to, in.path) {
		return nil, fmt.Errorf("%s: it would be written over itself; name another file with -o", in.path)
	}
	if err := os.MkdirAll(filepath.Dir(to), 0o755); err != nil {
		return nil, err
	}
	return done, writeWhole(to, r.Data)
}

// printRepainted tells what became of files, place by place; those in which there was nothing to do are only counted.
func printRepainted(w io.Writer, files []repainted, dry bool) {
	verb := "repainted"
	if dry {
		verb = "would be repainted"
	}
	same := 0
	for _, f := range files {
		if f.Changed == 0 && len(f.Left) == 0 && len(files) > 1 {
			same++
			continue
		}
		uses := "uses"
		if f.Changed == 1 {
			uses = "use"
		}
		fmt.Fprintf(w, "%s: %d %s %s, %d of %d parts changed; then %s\n", f.Path, f.Changed, uses, verb, f.Parts.Changed,
			f.Parts.Changed+f.Parts.Same, report.Score(f.After.Score))
		for _, c := range f.Changes {
			fmt.Fprintf(w, "  %s becomes %s at %s: %s -> %s\n", c.From, c.To, c.Where, c.Before, c.After)
		}
		for _, l := range f.Left {
			fmt.Fprintf(w, "  left %s at %s: %s\n", l.Value, l.Where, l.Why)
		}
	}
	switch {
	case same == 1:
		fmt.Fprintln(w, "1 file stays as it is")
	case same > 1:
		fmt.Fprintf(w, "%d files stay as they are\n", same)
	}
}
