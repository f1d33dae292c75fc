package main

import (
	"bytes"
	"context"
	"errors"
	"fmt"
	"io"
	"mime/multipart"
	"net/http"
	"net/url"
	"os"
	"path/filepath"
	"slices"
	"strings"

	"huekeep/api"
	"huekeep/core/audit"
	"huekeep/core/limits"
	"huekeep/core/report"
)

// judgedThere judges files as a project of a house, by what the house judges by; what the house has already is not sent again.
type judgedThere struct {
	*houseClient
	project string
	exactly bool // what the project has and the paths have not is taken out of it

	id    int64
	local map[string]string // what the files are called here, by their paths in the project
	sent  int
	run   api.Run
}

// judge brings the project up to date and judges it. Reports call files as they are called here.
func (p *judgedThere) judge(ctx context.Context, paths []string, list []input, unread []audit.Unread) (doc report.Document, err error) {
	doc.Unread = unread
	p.local, p.sent = map[string]string{}, 0
	for _, in := range list {
		at := filepath.ToSlash(within(paths, in.path))
		if other, twice := p.local[at]; twice {
			return doc, fmt.Errorf("%s and %s would both be %s in the project; name the folder that both are in", other, in.name, at)
		}
		p.local[at] = in.name
	}
	if p.id, err = p.find(ctx); err != nil {
		return doc, err
	}
	var was struct {
		Files []api.ProjectFile `json:"files"`
		Runs  []api.Run         `json:"runs"`
	}
	if err := p.get(ctx, fmt.Sprintf("/projects/%d", p.id), &was); err != nil {
		return doc, err
	}
	if err := p.send(ctx, paths, list, was.Files, &doc); err != nil {
		return doc, err
	}
	if err := p.drop(ctx, was.Files); err != nil {
		return doc, err
	}
	var j api.Job
	if err := p.post(ctx, fmt.Sprintf("/projects/%d/runs?quiet=true", p.id), struct{}{}, &j); err != nil {
		return doc, err
	}
	run, err := p.done(ctx, j)
	if err != nil {
		return doc, fmt.Errorf("the house did not judge it: %w", err)
	}
	var read struct {
		Run api.Run `json:"run"`
	}
	if err := p.get(ctx, "/runs/"+run, &read); err != nil {
		return doc, err
	}
	p.run = read.Run
	unread = doc.Unread
	if err := p.get(ctx, "/runs/"+run+"/report/json?all=true", &doc); err != nil {
		return doc, err
	}
	for i, f := range doc.Files {
		doc.Files[i].Path = p.called(f.Path)
	}
	for i, u := range doc.Unread {
		doc.Unread[i].Path = p.called(u.Path)
	}
	for _, u := range unread {
		if !slices.ContainsFunc(doc.Unread, func(o audit.Unread) bool { return o.Path == u.Path }) {
			doc.Unread = append(doc.Unread, u)
		}
	}
	p.tell(was.Runs, len(list))
	return doc, nil
}

func (p *judgedThere) called(path string) string {
	if name, ok := p.local[path]; ok {
		return name
	}
	return path
}

// tell says what became of the run, with the page of it.
func (p *judgedThere) tell(before []api.Run, files int) {
	what := fmt.Sprintf("run %d of %s", p.run.Number, p.project)
	if len(before) > 0 && before[0].Id == p.run.Id {
		what = fmt.Sprintf("nothing is new since run %d of %s", p.run.Number, p.project)
	}
	same := ""
	if p.run.Same != nil && *p.run.Same > 0 && *p.run.Same < p.run.Files {
		same = fmt.Sprintf(", %d as in the run before", *p.run.Same)
	}
	fmt.Fprintf(p.says, "huekeep: %s: %d of %s sent%s; %s\n", what, p.sent, nFiles(files), same,
		p.page(fmt.Sprintf("audit/project/%d", p.id)))
}

func nFiles(n int) string {
	if n == 1 {
		return "1 file"
	}
	return fmt.Sprintf("%d files", n)
}

// find finds the project by its name, or begins it.
func (p *judgedThere) find(ctx context.Context) (int64, error) {
	for before := int64(0); ; {
		var page struct {
			Projects []api.Project `json:"projects"`
			Next     *int64        `json:"next"`
		}
		path := "/projects"
		if before != 0 {
			path = fmt.Sprintf("/projects?before=%d", before)
		}
		if err := p.get(ctx, path, &page); err != nil {
			return 0, err
		}
		for _, one := range page.Projects {
			if strings.EqualFold(one.Name, p.project) {
				p.project = one.Name
				return one.Id, nil
			}
		}
		if page.Next == nil {
			break
		}
		before = *page.Next
	}
	var made api.Project
	err := p.post(ctx, "/projects", map[string]string{"name": p.project}, &made)
	return made.Id, err
}

// What one upload carries: not many files, and not large ones, so that little is lost when it breaks off.
const (
	filesOfUpload = 100
	bytesOfUpload = 16 << 20
)

// send sends the files that the house does not have as they are here. What is not taken is told of in the document.
func (p *judgedThere) send(ctx context.Context, paths []string, list []input, there []api.ProjectFile, doc *report.Document) error {
	has := map[string]string{}
	for _, f := range there {
		if f.Sum != nil {
			has[f.Path] = *f.Sum
		}
	}
	var form bytes.Buffer
	w := multipart.NewWriter(&form)
	n := 0
	told := progress{to: p.says}
	flush := func(at int) error {
		if n == 0 {
			return nil
		}
		kind := w.FormDataContentType()
		if err := w.Close(); err != nil {
			return err
		}
		var taken []api.ProjectFile
		if err := p.ask(ctx, http.MethodPost, fmt.Sprintf("/projects/%d/files/many", p.id), kind, form.Bytes(), &taken); err != nil {
			return err
		}
		p.sent += n
		for _, f := range taken {
			if f.Why != nil {
				doc.Unread = append(doc.Unread, audit.Unread{Path: p.called(f.Path), Why: *f.Why})
			}
		}
		told.say(func() string { return fmt.Sprintf("%d of %d files looked at, %d sent", at, len(list), p.sent) })
		form.Reset()
		w, n = multipart.NewWriter(&form), 0
		return nil
	}
	for i, in := range list {
		if ctx.Err() != nil {
			return context.Cause(ctx)
		}
		at := filepath.ToSlash(within(paths, in.path))
		data, err := readFile(in.path, limits.UploadBytes)
		if err != nil {
			doc.Unread = append(doc.Unread, audit.Unread{Path: in.name, Why: reason(err)})
			if info, e := os.Stat(in.path); e != nil || info.Size() <= limits.UploadBytes {
				continue
			} else if err := fields(w, at, "size", fmt.Sprint(info.Size())); err != nil { // the house says of it that it is too large
				return err
			}
			n++
			continue
		}
		if has[at] == sumOf(data) {
			continue
		}
		if n > 0 && (n == filesOfUpload || form.Len()+len(data) > bytesOfUpload) {
			if err := flush(i); err != nil {
				return err
			}
		}
		if err := fields(w, at, "", ""); err != nil {
			return err
		}
		part, err := w.CreateFormFile("file", filepath.Base(at))
		if err == nil {
			_, err = part.Write(data)
		}
		if err != nil {
			return err
		}
		n++
	}
	return flush(len(list))
}

func fields(w *multipart.Writer, path, name, value string) error {
	err := w.WriteField("path", path)
	if name != "" {
		err = errors.Join(err, w.WriteField(name, value))
	}
	return err
}

// drop takes out of the project what is not here, if that was asked for; else it says that it stays.
func (p *judgedThere) drop(ctx context.Context, there []api.ProjectFile) error {
	var gone []string
	for _, f := range there {
		if _, here := p.local[f.Path]; !here {
			gone = append(gone, f.Path)
		}
	}
	if len(gone) == 0 {
		return nil
	}
	some := strings.Join(gone[:min(len(gone), 5)], ", ")
	if len(gone) > 5 {
		some += fmt.Sprintf(" and %d more", len(gone)-5)
	}
	if !p.exactly {
		are := "are not here and are judged as they were sent: %s; --exactly takes them out"
		if len(gone) == 1 {
			are = "is not here and is judged as it was sent: %s; --exactly takes it out"
		}
		fmt.Fprintf(p.says, "huekeep: %s has %s that %s\n", p.project, nFiles(len(gone)), fmt.Sprintf(are, some))
		return nil
	}
	for _, path := range gone {
		if err := p.ask(ctx, http.MethodDelete, fmt.Sprintf("/projects/%d/files?path=%s", p.id, url.QueryEscape(path)), "", nil,
			nil); err != nil {
			return err
		}
	}
	are := "are not here and were"
	if len(gone) == 1 {
		are = "is not here and was"
	}
	fmt.Fprintf(p.says, "huekeep: %s %s taken out of %s: %s\n", nFiles(len(gone)), are, p.project, some)
	return nil
}

// toHouse are the flags with which files are judged in a house.
type toHouse struct {
	server, project string
	exactly         bool
}

// of opens the house; nil where the files are judged here.
func (t toHouse) of(says io.Writer) (*judgedThere, error) {
	if t.server == "" && t.project == "" {
		if t.exactly {
			return nil, errors.New("--exactly is of a project of a house; --server and --project are missing")
		}
		return nil, nil
	}
	if t.server == "" || strings.TrimSpace(t.project) == "" {
		return nil, errors.New("--server and --project go together: the address of a house and the name of a project in it")
	}
	client, err := newHouseClient(t.server, says)
	if err != nil {
		return nil, err
	}
	return &judgedThere{houseClient: client, project: strings.TrimSpace(t.project), exactly: t.exactly}, nil
}
