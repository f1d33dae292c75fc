package audits

import (
	"bytes"
	"context"
	"strings"

	"huekeep/core/report"
	"huekeep/keep"
)

// Paper writes what was changed where as a page to print, for whoever signs it. The name is that of the file.
func (r *Rules) Paper(ctx context.Context, a keep.Actor, id int64) (name string, data []byte, err error) {
	made, err := r.Repainted(ctx, a, id)
	if err != nil {
		return "", nil, err
	}
	db := r.DB.With(ctx)
	project, err := db.Project(a.House.ID, made.Project)
	if err != nil {
		return "", nil, keep.Missing(err, "project")
	}
	row, err := db.Repaint(a.House.ID, id)
	if err != nil {
		return "", nil, keep.Missing(err, "repainted file")
	}
	p := report.Paper{House: a.House.Name, Project: project.Name, Title: project.Name + ", " + made.At.Format("January 2, 2006"),
		By: made.By, Dry: made.Dry, Total: made.Changed}
	if row.BlobKey != "" {
		sums, err := db.Sums([]string{row.BlobKey})
		if err != nil {
			return "", nil, err
		}
		p.Sum = sums[row.BlobKey]
	}
	for _, f := range made.Files {
		p.Files = append(p.Files, report.PaperFile{Path: f.Path, Before: f.Before.Score, After: f.After.Score, Changes: f.Changes,
			More: f.Places - len(f.Changes), Left: f.Left, Parts: f.Parts, Why: f.Why})
	}
	var b bytes.Buffer
	err = p.Print(&b)
	what := "what was changed"
	if made.Dry {
		what = "what would be changed"
	}
	return strings.TrimSpace(keep.Short(project.Name, 100)) + ", " + what + ".html", b.Bytes(), err
}
