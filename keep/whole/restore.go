package whole

import (
	"archive/zip"
	"context"
	"crypto/sha256"
	"encoding/hex"
	"encoding/json"
	"errors"
	"fmt"
	"io"
	"path"
	"slices"

	"huekeep/core/audit"
	"huekeep/core/limits"
	"huekeep/keep"
	"huekeep/keep/audits"
	"huekeep/keep/backup"
	"huekeep/store"
)

// Restored says what came in.
type Restored struct {
	backup.Restored
	Projects, Runs, Excuses, Plans int
	There                          []string // projects and plans of that name were there already, and stay as they are
}

// archive is one that was opened.
type archive struct {
	library []byte
	list    content
	entries map[string]*zip.File
}

func open(in io.ReaderAt, size int64) (out archive, err error) {
	z, err := zip.NewReader(in, size)
	if err != nil {
		return out, keep.Wrong("file", "the archive cannot be read: %v", err)
	}
	if len(z.File) > mostEntries {
		return out, keep.Wrong("file", "the archive has %d entries; at most %d are read", len(z.File), mostEntries)
	}
	out.entries = map[string]*zip.File{}
	for _, f := range z.File {
		out.entries[f.Name] = f
	}
	if out.library, err = inflate(out.entries[libraryEntry], libraryEntry, limits.LibraryBytes); err != nil {
		return out, err
	}
	told, err := inflate(out.entries[projectsEntry], projectsEntry, limits.LibraryBytes)
	if err != nil {
		return out, err
	}
	if err := json.Unmarshal(told, &out.list); err != nil || out.list.Format != format {
		return out, keep.Wrong("file", "%s is not what a house's archive has there", projectsEntry)
	}
	if out.list.Version > version {
		return out, keep.Wrong("file", "the archive is of a newer version of Hue Keep (form %d; this one reads up to %d)", out.list.Version,
			version)
	}
	return out, nil
}

// Restore brings the archive of a house back, wholly or not at all: its library as a backup of it does, replaced or added to; projects with
// their runs, plans and excuses that are not there yet. A project of which no run came along is judged anew, as a job.
func (r *Rules) Restore(ctx context.Context, a keep.Actor, in io.ReaderAt, size int64, replace bool) (done Restored, err error) {
	if err := a.May(keep.RoleKeeper); err != nil {
		return done, err
	}
	box, err := open(in, size)
	if err != nil {
		return done, err
	}
	put := &storing{Rules: r, a: a, entries: box.entries, keys: map[string]string{}}
	defer func() {
		if err != nil {
			for _, key := range put.stored {
				r.Backup.Drop(context.WithoutCancel(ctx), key)
			}
		}
	}()
	projects, there, err := put.projects(ctx, box.list.Projects)
	if err != nil {
		return done, err
	}
	var begun []int64
	lib, err := r.Backup.RestoreWith(ctx, a, box.library, replace, func(tx *store.DB) (keep.Added, error) {
		done, begun = Restored{There: slices.Clone(there)}, nil
		add := adding{tx: tx, a: a, done: &done, ids: map[string]int64{}}
		for i, p := range box.list.Projects {
			if err := add.project(p, projects[i]); err != nil {
				return add.added, err
			}
		}
		begun = add.begun
		if err := add.excuses(box.list.Excuses); err != nil {
			return add.added, err
		}
		return add.added, add.plans(box.list.Plans)
	})
	if err != nil {
		return done, err
	}
	put.stored = nil // they are the projects' now, whatever comes after
	done.Restored = lib
	for _, id := range begun {
		if _, err := r.Audits.BeginRun(ctx, a, id, false); err != nil {
			return done, err
		}
	}
	return done, nil
}

// inflate reads an entry of an archive, which must be there and within a size.
func inflate(f *zip.File, name string, limit int64) ([]byte, error) {
	if f == nil {
		return nil, keep.Wrong("file", "the archive has no %s; it is not that of a house", name)
	}
	r, err := f.Open()
	if err == nil {
		defer r.Close()
		var data []byte
		if data, err = io.ReadAll(io.LimitReader(r, limit+1)); err == nil {
			if int64(len(data)) > limit {
				return nil, keep.Wrong("file", "%s has over %s", name, limits.Size(limit))
			}
			return data, nil
		}
	}
	return nil, keep.Wrong("file", "%s of the archive is damaged: %v", name, err)
}

// brought is what is stored of a project of the archive, nil for one that is not brought in.
type brought struct {
	files []store.ProjectFile
	runs  []broughtRun
}

type broughtRun struct {
	run      store.Run
	audits   []store.Audit
	colors   [][]store.AuditColor
	repaints []store.Repaint
}

// storing keeps files of an archive, each content once.
type storing struct {
	*Rules
	a       keep.Actor
	entries map[string]*zip.File
	names   map[string]string // of entries under files/, by checksum
	keys    map[string]string // of what is stored already, by kind and checksum
	stored  []string
}

// file stores an entry of the archive with a checksum, under its name or, for none, under that; empty stays so.
func (s *storing) file(ctx context.Context, kind, name, sum string) (key string, size int64, err error) {
	if sum == "" {
		return "", 0, nil
	}
	if key := s.keys[kind+sum]; key != "" {
		return key, 0, nil
	}
	if name == "" {
		if name = runsEntry + sum; s.entries[name] == nil && s.names[sum] != "" {
			name = s.names[sum]
		}
	}
	data, err := inflate(s.entries[name], name, limits.UploadBytes)
	if err != nil {
		return "", 0, err
	}
	if got := sha256.Sum256(data); hex.EncodeToString(got[:]) != sum {
		return "", 0, keep.Wrong("file", "%s of the archive is not what was put there: its checksum does not fit; nothing was restored",
			name)
	}
	if key, err = s.Backup.Store(ctx, s.a.House.ID, kind, data); err != nil {
		return "", 0, err
	}
	s.stored, s.keys[kind+sum] = append(s.stored, key), key
	return key, int64(len(data)), nil
}

// projects stores what there is of the projects that are not there yet.
func (s *storing) projects(ctx context.Context, list []project) (out []*brought, there []string, err error) {
	s.names = map[string]string{}
	for _, p := range list {
		for _, f := range p.Files {
			s.names[f.SHA256] = f.Entry
		}
	}
	db := s.Backup.DB.With(ctx)
	for _, p := range list {
		if _, err := db.ProjectNamed(s.a.House.ID, p.Name); err == nil {
			there, out = append(there, p.Name), append(out, nil)
			continue
		} else if !errors.Is(err, store.ErrNotFound) {
			return nil, nil, err
		}
		of := &brought{}
		for _, f := range p.Files {
			if f.Entry == "" && f.Why == "" {
				continue
			}
			name, err := audits.PathIn(f.Path)
			if err != nil {
				return nil, nil, err
			}
			row := store.ProjectFile{Path: name, AddedAt: f.At, Why: keep.Short(f.Why, 300)}
			if f.Why == "" {
				if f.SHA256 == "" {
					return nil, nil, keep.Wrong("file", "the archive does not say the checksum of %s; nothing was restored", f.Entry)
				}
				if row.BlobKey, row.Size, err = s.file(ctx, "audits", f.Entry, f.SHA256); err != nil {
					return nil, nil, err
				}
				if row.Size == 0 {
					row.Size = int64(s.entries[f.Entry].UncompressedSize64)
				}
			}
			of.files = append(of.files, row)
		}
		for _, l := range p.Runs {
			if len(l.Reports) == 0 {
				continue
			}
			run, err := s.run(ctx, l)
			if err != nil {
				return nil, nil, err
			}
			of.runs = append(of.runs, run)
		}
		out = append(out, of)
	}
	return out, there, nil
}

// run stores what a run found.
func (s *storing) run(ctx context.Context, l run) (out broughtRun, err error) {
	house, by := s.a.House.ID, keep.Short(l.By, 120)
	out.run = store.Run{HouseID: house, Number: l.Number, ByName: by, At: l.At, Tolerance: l.Tolerance, Files: l.Files, Uses: l.Uses,
		Findings: l.Findings, Unjudged: l.Unjudged, Score: l.Score}
	if len(l.Unread) > 0 {
		var unread []audit.Unread
		if err := json.Unmarshal(l.Unread, &unread); err != nil {
			return out, keep.Wrong("file", "run %d of the archive does not say what was not read; nothing was restored", l.Number)
		}
		out.run.Unread = string(l.Unread)
	}
	for _, f := range l.Reports {
		name, err := audits.PathIn(f.Path)
		if err != nil {
			return out, err
		}
		row := store.Audit{HouseID: house, Path: name, ByName: by, At: l.At, FileName: keep.Short(path.Base(name), 250),
			Kind: keep.Short(f.Kind, 16), Size: f.Size,
			Tolerance: f.Tolerance, Uses: f.Uses, Findings: f.Findings, Unjudged: f.Unjudged, Score: f.Score}
		if f.Report == "" {
			return out, keep.Wrong("file", "run %d of the archive has no report on %s; nothing was restored", l.Number, name)
		}
		if row.ReportKey, _, err = s.file(ctx, "reports", "", f.Report); err != nil {
			return out, err
		}
		if row.BlobKey, _, err = s.file(ctx, "audits", "", f.File); err != nil {
			return out, err
		}
		var colors []store.AuditColor
		for _, c := range f.Colors {
			if !slices.Contains(audit.Verdicts, c.Verdict) || len(c.Hex) > 7 {
				return out, keep.Wrong("file", "run %d of the archive has a color that says nothing; nothing was restored", l.Number)
			}
			colors = append(colors, store.AuditColor{Hex: c.Hex, Verdict: string(c.Verdict), Uses: c.Uses, Places: c.Places})
		}
		out.audits, out.colors = append(out.audits, row), append(out.colors, colors)
	}
	for _, f := range l.Repaints {
		row := store.Repaint{HouseID: house, ByName: keep.Short(f.By, 120), At: f.At, Name: keep.Short(f.Name, 250), Changed: f.Changed,
			LeftOver: f.Left, ScoreBefore: f.Before, ScoreAfter: f.After}
		if row.ReportKey, _, err = s.file(ctx, "reports", "", f.Report); err != nil {
			return out, err
		}
		if row.BlobKey, _, err = s.file(ctx, "repainted", "", f.File); err != nil {
			return out, err
		}
		out.repaints = append(out.repaints, row)
	}
	return out, nil
}

// adding puts what an archive holds into a house, in a transaction.
type adding struct {
	tx    *store.DB
	a     keep.Actor
	done  *Restored
	ids   map[string]int64 // of projects, by name
	begun []int64
	added keep.Added
}

func (d *adding) project(p project, of *brought) error {
	name, err := keep.Name("name", p.Name)
	if err != nil {
		return err
	}
	if row, err := d.tx.ProjectNamed(d.a.House.ID, name); err == nil {
		d.ids[p.Name] = row.ID
		return nil
	} else if !errors.Is(err, store.ErrNotFound) {
		return err
	}
	if of == nil {
		return keep.Clash("", "the project %s was removed meanwhile; try again", name)
	}
	row := store.Project{HouseID: d.a.House.ID, Name: name, NameKey: store.NameKey(name), ByName: keep.Short(p.By, 120), CreatedAt: p.At}
	if err := d.tx.Add(&row); err != nil {
		return err
	}
	d.ids[p.Name] = row.ID
	d.added.Projects = append(d.added.Projects, row.ID)
	d.done.Projects++
	read := 0
	for _, f := range of.files {
		f.ProjectID = row.ID
		if err := d.tx.PutProjectFile(f); err != nil {
			return err
		}
		if f.Why == "" {
			read++
		}
	}
	for _, l := range slices.Backward(of.runs) { // the oldest first, as they were made
		if err := d.run(row.ID, l); err != nil {
			return err
		}
	}
	if read > 0 && len(of.runs) == 0 {
		d.begun = append(d.begun, row.ID)
	}
	return nil
}

func (d *adding) run(project int64, l broughtRun) error {
	row := l.run
	row.ProjectID = project
	if err := d.tx.Add(&row); err != nil {
		return err
	}
	d.done.Runs++
	for i, f := range l.audits {
		f.ProjectID, f.RunID = &project, &row.ID
		if err := d.tx.AddAudit(&f, slices.Clone(l.colors[i])); err != nil {
			return err
		}
	}
	for _, x := range l.repaints {
		x.ProjectID, x.RunID = project, row.ID
		if err := d.tx.Add(&x); err != nil {
			return err
		}
	}
	return nil
}

func (d *adding) excuses(list []excuse) error {
	key := func(project *int64, color, path, place, reason string) string {
		of := int64(0)
		if project != nil {
			of = *project
		}
		return fmt.Sprintf("%d\x00%s\x00%s\x00%s\x00%s", of, color, path, place, reason)
	}
	have, err := d.tx.Excuses(d.a.House.ID, 0)
	if err != nil {
		return err
	}
	there := map[string]bool{}
	for _, e := range have {
		there[key(e.ProjectID, e.Color, e.Path, e.Place, e.Reason)] = true
	}
	for i := len(list) - 1; i >= 0; i-- { // the oldest first, as they were made
		e := list[i]
		if e.Color == "" || e.Reason == "" {
			return keep.Wrong("file", "an excuse of the archive has no color or no reason; nothing was restored")
		}
		row := store.Excuse{HouseID: d.a.House.ID, Color: e.Color, Path: e.File, Place: e.Where, Reason: e.Reason,
			ByName: keep.Short(e.By, 120), At: e.At, UntilDay: e.Until, EndedAt: e.Ended, EndedBy: keep.Short(e.EndedBy, 120)}
		if e.Project != "" {
			id, ok := d.ids[e.Project]
			if !ok {
				continue
			}
			row.ProjectID = &id
		}
		if there[key(row.ProjectID, row.Color, row.Path, row.Place, row.Reason)] {
			continue
		}
		if err := d.tx.Add(&row); err != nil {
			return err
		}
		d.added.Excuses = append(d.added.Excuses, row.ID)
		d.done.Excuses++
	}
	return nil
}

func (d *adding) plans(list []plan) error {
	have, err := d.tx.Plans(d.a.House.ID)
	if err != nil {
		return err
	}
	there := map[string]bool{}
	for _, p := range have {
		there[p.NameKey] = true
	}
	for _, p := range list {
		name, err := keep.Name("name", p.Name)
		if err != nil {
			return err
		}
		if there[store.NameKey(name)] {
			d.done.There = append(d.done.There, name)
			continue
		}
		steps, err := json.Marshal(p.Steps)
		if err != nil {
			return err
		}
		row := store.Plan{HouseID: d.a.House.ID, Name: name, NameKey: store.NameKey(name), Steps: string(steps), Version: 1,
			ByName: keep.Short(p.By, 120), ChangedAt: p.At}
		if err := d.tx.Add(&row); err != nil {
			return err
		}
		d.added.Plans = append(d.added.Plans, row.ID)
		d.done.Plans++
	}
	return nil
}
