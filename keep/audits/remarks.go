package audits

import (
	"cmp"
	"context"
	"fmt"
	"slices"
	"strings"
	"time"

	"huekeep/core/audit"
	"huekeep/keep"
	"huekeep/store"
)

// Remark is what somebody says about a color that was found in a file of a project, and who is to see to it.
type Remark struct {
	ID      int64
	Path    string
	Color   string // its key in reports
	Text    string
	By      string
	At      time.Time
	For     string // who is to see to it; empty for nobody
	Mine    bool   // it is for whoever reads it
	May     bool   // whoever reads it may delete it
	Settled int    // the number of the run in which it was found no more; 0 for none yet
	Mailed  bool   // a mail goes to whom it is for
}

// The limits of remarks.
const (
	mostRemarks = 1000
	remarkRunes = 500
)

func remarkOf(a keep.Actor, row store.Remark) Remark {
	own := func(user *int64) bool { return user != nil && a.Account != 0 && *user == a.Account }
	return Remark{ID: row.ID, Path: row.Path, Color: row.Color, Text: row.Text, By: row.ByName, At: row.At, For: row.ForName,
		Settled: row.SettledRun,
		Mine:    own(row.ForUser), May: a.Role.Reaches(keep.RoleKeeper) || a.Role.Reaches(keep.RoleContributor) && own(row.ByUser)}
}

// Remarks lists what was said about the files of a project, oldest first.
func (r *Rules) Remarks(ctx context.Context, a keep.Actor, project int64) (list []Remark, err error) {
	db := r.DB.With(ctx)
	if _, err := db.Project(a.House.ID, project); err != nil {
		return nil, keep.Missing(err, "project")
	}
	rows, err := db.Remarks(project, mostRemarks)
	for _, row := range rows {
		list = append(list, remarkOf(a, row))
	}
	return list, err
}

// AddRemark says something about a color of a file, as the newest run of its project found it, and may ask a member of the house to see to
// it, who is mailed.
func (r *Rules) AddRemark(ctx context.Context, a keep.Actor, project int64, in Remark, to int64) (Remark, error) {
	if err := a.May(keep.RoleContributor); err != nil {
		return in, err
	}
	text := strings.TrimSpace(in.Text)
	switch n := len([]rune(text)); {
	case n == 0 && to == 0:
		return in, keep.Wrong("text", "say something, or who is to see to it")
	case n > remarkRunes:
		return in, keep.Wrong("text", "a remark has at most %d letters; this one has %d", remarkRunes, n)
	}
	db := r.DB.With(ctx)
	p, err := db.Project(a.House.ID, project)
	if err != nil || p.Removed != 0 {
		return in, keep.Missing(cmp.Or(err, store.ErrNotFound), "project")
	}
	found, err := r.finds(ctx, project, in.Path, in.Color)
	if err != nil {
		return in, err
	}
	if found.Fine() {
		return in, keep.Wrong("color", "%s is %s in %s; there is nothing to see to", in.Color, found, in.Path)
	}
	row := store.Remark{ProjectID: project, Path: in.Path, Color: in.Color, Text: text, ByUser: a.ByUser(), ByName: a.Name, At: r.Now()}
	email := ""
	if to != 0 {
		members, err := db.Members(a.House.ID)
		if err != nil {
			return in, err
		}
		i := slices.IndexFunc(members, func(m store.MemberRow) bool { return m.ID == to })
		if i < 0 {
			return in, keep.Wrong("for", "nobody of this number belongs to the house")
		}
		row.ForUser, row.ForName = &to, members[i].Name
		if to != a.Account {
			email = members[i].Email
		}
	}
	count, err := db.Remarks(project, mostRemarks)
	if err != nil {
		return in, err
	}
	if len(count) == mostRemarks {
		return in, keep.Clash("", "%d remarks were made on this project; delete some that are settled", mostRemarks)
	}
	if err := db.Add(&row); err != nil {
		return in, err
	}
	out := remarkOf(a, row)
	if email != "" && r.Letter != nil {
		says := fmt.Sprintf("%s asks you to see to %s (%s) in %s of %s, %s.", a.Name, in.Color, found, in.Path, p.Name, a.House.Name)
		if text != "" {
			says += "\n\n" + text
		}
		out.Mailed = r.Letter(ctx, email, fmt.Sprintf("%s in %s", in.Color, keep.Short(in.Path, 80)), says,
			fmt.Sprintf("/h/%d/audit/project/%d", a.House.ID, project))
	}
	return out, nil
}

// finds is the verdict of a color that wants a decision in a file of the newest run of a project.
func (r *Rules) finds(ctx context.Context, project int64, path, key string) (audit.Verdict, error) {
	db := r.DB.With(ctx)
	run, err := db.NewestRun(project)
	if err != nil {
		return "", keep.Missing(err, "run of this project")
	}
	rows, err := db.RunAudits(run.ID)
	if err != nil {
		return "", err
	}
	i := slices.IndexFunc(rows, func(row store.Audit) bool { return row.Path == path })
	if i < 0 {
		return "", keep.None("file of this path in the newest run")
	}
	text, err := r.report(ctx, rows[i])
	if err != nil {
		return "", err
	}
	k, err := readReport(text)
	if err != nil {
		return "", err
	}
	for _, c := range k.Colors {
		if c.Key == key {
			return c.Verdict, nil
		}
	}
	return "", keep.None("color of this name in the file")
}

// DropRemark deletes a remark: whoever made it may, and a keeper.
func (r *Rules) DropRemark(ctx context.Context, a keep.Actor, id int64) error {
	if err := a.May(keep.RoleContributor); err != nil {
		return err
	}
	row, err := r.DB.With(ctx).RemarkIn(a.House.ID, id)
	if err != nil {
		return keep.Missing(err, "remark")
	}
	if !remarkOf(a, row).May {
		return &keep.Error{Kind: keep.Forbidden, Message: fmt.Sprintf("The remark is %s's; they or a keeper may delete it.", row.ByName)}
	}
	return keep.Missing(r.DB.With(ctx).DropRemark(id), "remark")
}

// settle notes of remarks that what they are about is found no more: the color in its file, or the file in the project. Of a file that
// could not be read nobody knows.
func (r *Rules) settle(tx *store.DB, run store.Run, f *finding) error {
	rows, err := tx.OpenRemarks(run.ProjectID)
	if err != nil {
		return err
	}
	for _, row := range rows {
		unread := slices.ContainsFunc(f.unread, func(u audit.Unread) bool { return u.Path == row.Path })
		if f.same[row.Path] || unread || f.judged[row.Path].wanting[row.Color] {
			continue
		}
		if err := tx.SettleRemark(row.ID, run.Number, run.At); err != nil {
			return err
		}
	}
	return nil
}
