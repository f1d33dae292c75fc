// Package whole takes a house along as one archive, the files of its projects, excuses and plans with the library, and brings it back.
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
	"slices"
	"strconv"
	"time"

	"huekeep/core/limits"
	"huekeep/core/repaint"
	"huekeep/core/swatchfile"
	"huekeep/keep"
	"huekeep/keep/audits"
	"huekeep/keep/house"
	"huekeep/store"
)

// Rules take houses along.
type Rules struct {
	House  *house.Rules
	Audits *audits.Rules
}

// The archive has the library, as its backup has it, the files of projects under files/, and at its end what is told of them.
const (
	libraryEntry  = "library.json"
	projectsEntry = "projects.json"
	format        = "huekeep projects"
	version       = 1
)

// content is what projects.json holds.
type content struct {
	Format   string    `json:"format"`
	Version  int       `json:"version"`
	Projects []project `json:"projects"`
	Excuses  []excuse  `json:"excuses"`
	Plans    []plan    `json:"plans"`
}

type project struct {
	Name  string    `json:"name"`
	By    string    `json:"by"`
	At    time.Time `json:"at"`
	Files []file    `json:"files"`
	Runs  []run     `json:"runs"` // for people: what is brought back is judged anew
}

type file struct {
	Path   string    `json:"path"`
	Entry  string    `json:"entry,omitempty"` // of the archive; empty for one that was no longer kept
	SHA256 string    `json:"sha256,omitempty"`
	At     time.Time `json:"at"`
	Why    string    `json:"why,omitempty"` // it is not read, and is not in the archive
}

type run struct {
	Number    int       `json:"number"`
	At        time.Time `json:"at"`
	By        string    `json:"by"`
	Tolerance float64   `json:"tolerance"`
	Files     int       `json:"files"`
	Uses      int       `json:"uses"`
	Findings  int       `json:"findings"`
	Unjudged  int       `json:"unjudged"`
	Score     *float64  `json:"score"`
}

type excuse struct {
	Project string     `json:"project,omitempty"` // empty for everywhere
	Color   string     `json:"color"`
	File    string     `json:"file,omitempty"`
	Where   string     `json:"where,omitempty"`
	Reason  string     `json:"reason"`
	By      string     `json:"by"`
	At      time.Time  `json:"at"`
	Until   *time.Time `json:"until,omitempty"`
	Ended   *time.Time `json:"ended,omitempty"`
	EndedBy string     `json:"endedBy,omitempty"`
}

type plan struct {
	Name  string         `json:"name"`
	By    string         `json:"by"`
	At    time.Time      `json:"at"`
	Steps []repaint.Step `json:"colors"`
}

// Write writes the archive of a house.
func (r *Rules) Write(ctx context.Context, a keep.Actor, w io.Writer) error {
	if err := a.May(keep.RoleKeeper); err != nil {
		return err
	}
	lib, err := r.House.Export(ctx, a)
	if err != nil {
		return err
	}
	text, err := swatchfile.WriteLibrary(lib)
	if err != nil {
		return err
	}
	out, keys, err := r.read(ctx, a)
	if err != nil {
		return err
	}
	z := zip.NewWriter(w)
	if err := entry(z, libraryEntry, text, r.House.Now()); err != nil {
		return err
	}
	for i, p := range out.Projects {
		for k := range p.Files {
			f := &out.Projects[i].Files[k]
			if f.Why != "" {
				continue
			}
			data, err := r.House.Load(ctx, keys[i][k])
			if errors.Is(err, keep.ErrLost) || errors.Is(err, keep.ErrSpoiled) {
				continue // the list says that it is not there
			} else if err != nil {
				return err
			}
			sum := sha256.Sum256(data)
			f.Entry, f.SHA256 = "files/"+strconv.Itoa(i+1)+"/"+f.Path, hex.EncodeToString(sum[:])
			if err := entry(z, f.Entry, data, f.At); err != nil {
				return err
			}
		}
	}
	if text, err = json.MarshalIndent(out, "", "  "); err != nil {
		return err
	}
	return errors.Join(entry(z, projectsEntry, text, r.House.Now()), z.Close())
}

func entry(z *zip.Writer, name string, data []byte, at time.Time) error {
	w, err := z.CreateHeader(&zip.FileHeader{Name: name, Method: zip.Deflate, Modified: at.UTC()})
	if err == nil {
		_, err = w.Write(data)
	}
	return err
}

// read gathers what is told of projects, with the keys of their stored files.
func (r *Rules) read(ctx context.Context, a keep.Actor) (out content, keys [][]string, err error) {
	out = content{Format: format, Version: version, Projects: []project{}, Excuses: []excuse{}, Plans: []plan{}}
	err = r.House.DB.In(ctx, func(tx *store.DB) error { // of one moment
		out.Projects, out.Excuses, out.Plans, keys = out.Projects[:0], out.Excuses[:0], out.Plans[:0], nil
		names := map[int64]string{}
		for before := int64(0); ; {
			rows, err := tx.Projects(a.House.ID, before, limits.Page)
			if err != nil {
				return err
			}
			for _, row := range rows {
				p, own, err := projectOf(tx, row)
				if err != nil {
					return err
				}
				names[row.ID], before = row.Name, row.ID
				out.Projects, keys = append(out.Projects, p), append(keys, own)
			}
			if len(rows) < limits.Page {
				break
			}
		}
		excuses, err := tx.Excuses(a.House.ID, 0)
		if err != nil {
			return err
		}
		for _, e := range excuses {
			line := excuse{Color: e.Color, File: e.Path, Where: e.Place, Reason: e.Reason, By: e.ByName, At: e.At, Until: e.UntilDay, Ended: e.EndedAt, EndedBy: e.EndedBy}
			if e.ProjectID != nil {
				if line.Project = names[*e.ProjectID]; line.Project == "" {
					continue // of a project that was removed
				}
			}
			out.Excuses = append(out.Excuses, line)
		}
		plans, err := tx.Plans(a.House.ID)
		for _, p := range plans {
			line := plan{Name: p.Name, By: p.ByName, At: p.ChangedAt}
			if err := json.Unmarshal([]byte(p.Steps), &line.Steps); err != nil {
				return err
			}
			out.Plans = append(out.Plans, line)
		}
		return err
	})
	return out, keys, err
}

func projectOf(tx *store.DB, row store.Project) (p project, keys []string, err error) {
	p = project{Name: row.Name, By: row.ByName, At: row.CreatedAt, Files: []file{}, Runs: []run{}}
	files, err := tx.ProjectFiles(row.ID)
	if err != nil {
		return p, nil, err
	}
	for _, f := range files {
		p.Files, keys = append(p.Files, file{Path: f.Path, At: f.AddedAt, Why: f.Why}), append(keys, f.BlobKey)
	}
	runs, err := tx.Runs(row.ID, 500)
	for _, l := range runs {
		p.Runs = append(p.Runs, run{l.Number, l.At, l.ByName, l.Tolerance, l.Files, l.Uses, l.Findings, l.Unjudged, l.Score})
	}
	return p, keys, err
}

// Restored says what came in.
type Restored struct {
	house.Restored
	Projects, Excuses, Plans int
	There                    []string // projects and plans of that name were there already, and stay as they are
}

// most is how many entries an archive may have.
const most = 200_000

// Restore brings the archive of a house back, wholly or not at all: its library as a backup of it does, replaced or added to; projects, plans
// and excuses that are not there yet. Projects are judged anew, one after the other, as jobs.
func (r *Rules) Restore(ctx context.Context, a keep.Actor, in io.ReaderAt, size int64, replace bool) (done Restored, err error) {
	if err := a.May(keep.RoleKeeper); err != nil {
		return done, err
	}
	z, err := zip.NewReader(in, size)
	if err != nil {
		return done, keep.Wrong("file", "the archive cannot be read: %v", err)
	}
	if len(z.File) > most {
		return done, keep.Wrong("file", "the archive has %d entries; at most %d are read", len(z.File), most)
	}
	entries := map[string]*zip.File{}
	for _, f := range z.File {
		entries[f.Name] = f
	}
	text, err := inflate(entries[libraryEntry], libraryEntry, limits.LibraryBytes)
	if err != nil {
		return done, err
	}
	told, err := inflate(entries[projectsEntry], projectsEntry, limits.LibraryBytes)
	if err != nil {
		return done, err
	}
	var list content
	if err := json.Unmarshal(told, &list); err != nil || list.Format != format {
		return done, keep.Wrong("file", "%s is not what a house's archive has there", projectsEntry)
	}
	if list.Version > version {
		return done, keep.Wrong("file", "the archive is of a newer version of Hue Keep (form %d; this one reads up to %d)", list.Version, version)
	}
	files, there, err := r.store(ctx, a, list, entries)
	defer func() {
		if err != nil {
			for _, f := range files {
				r.House.Drop(context.WithoutCancel(ctx), f.BlobKey)
			}
		}
	}()
	if err != nil {
		return done, err
	}
	var begun []int64
	lib, err := r.House.RestoreWith(ctx, a, text, replace, func(tx *store.DB) error {
		done, begun = Restored{There: slices.Clone(there)}, nil
		add := adding{tx: tx, a: a, done: &done, ids: map[string]int64{}}
		for i, p := range list.Projects {
			if err := add.project(i, p, files); err != nil {
				return err
			}
		}
		begun = add.begun
		if err := add.excuses(list.Excuses); err != nil {
			return err
		}
		return add.plans(list.Plans)
	})
	if err != nil {
		return done, err
	}
	files = nil // they are the projects' now, whatever comes after
	done.Restored = lib
	for _, id := range begun {
		if _, err := r.Audits.BeginRun(ctx, a, id); err != nil {
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

// stored is a file of a project of the archive, by the project's place in the list.
type stored struct {
	store.ProjectFile
	of int
}

// store keeps the files of the projects that are not there yet.
func (r *Rules) store(ctx context.Context, a keep.Actor, list content, entries map[string]*zip.File) (out []stored, there []string, err error) {
	db := r.House.DB.With(ctx)
	for i, p := range list.Projects {
		if _, err := db.ProjectNamed(a.House.ID, p.Name); err == nil {
			there = append(there, p.Name)
			continue
		} else if !errors.Is(err, store.ErrNotFound) {
			return out, nil, err
		}
		for _, f := range p.Files {
			if f.Entry == "" && f.Why == "" {
				continue
			}
			name, err := audits.PathIn(f.Path)
			if err != nil {
				return out, nil, err
			}
			if f.Why != "" {
				out = append(out, stored{store.ProjectFile{Path: name, AddedAt: f.At, Why: keep.Short(f.Why, 300)}, i})
				continue
			}
			data, err := inflate(entries[f.Entry], f.Entry, limits.UploadBytes)
			if err != nil {
				return out, nil, err
			}
			if sum := sha256.Sum256(data); hex.EncodeToString(sum[:]) != f.SHA256 {
				return out, nil, keep.Wrong("file", "%s of the archive is not what was put there: its checksum does not fit; nothing was restored", f.Entry)
			}
			key, err := r.House.Store(ctx, a.House.ID, "audits", data)
			if err != nil {
				return out, nil, err
			}
			out = append(out, stored{store.ProjectFile{Path: name, BlobKey: key, Size: int64(len(data)), AddedAt: f.At}, i})
		}
	}
	return out, there, nil
}

// adding puts what an archive holds into a house, in a transaction.
type adding struct {
	tx    *store.DB
	a     keep.Actor
	done  *Restored
	ids   map[string]int64 // of projects, by name
	begun []int64
}

func (d *adding) project(at int, p project, files []stored) error {
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
	row := store.Project{HouseID: d.a.House.ID, Name: name, NameKey: store.NameKey(name), ByName: keep.Short(p.By, 120), CreatedAt: p.At}
	if err := d.tx.Add(&row); err != nil {
		return err
	}
	d.ids[p.Name] = row.ID
	d.done.Projects++
	n := 0
	for _, f := range files {
		if f.of == at {
			f.ProjectID = row.ID
			if err := d.tx.PutProjectFile(f.ProjectFile); err != nil {
				return err
			}
			if f.Why == "" {
				n++
			}
		}
	}
	if n > 0 {
		d.begun = append(d.begun, row.ID)
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
		row := store.Excuse{HouseID: d.a.House.ID, Color: e.Color, Path: e.File, Place: e.Where, Reason: e.Reason, ByName: keep.Short(e.By, 120), At: e.At, UntilDay: e.Until, EndedAt: e.Ended, EndedBy: keep.Short(e.EndedBy, 120)}
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
		row := store.Plan{HouseID: d.a.House.ID, Name: name, NameKey: store.NameKey(name), Steps: string(steps), Version: 1, ByName: keep.Short(p.By, 120), ChangedAt: p.At}
		if err := d.tx.Add(&row); err != nil {
			return err
		}
		d.done.Plans++
	}
	return nil
}
