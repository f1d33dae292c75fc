// Package whole takes a house along as one archive, the files of its projects, excuses and plans with the library, and brings it back.
package whole

import (
	"archive/zip"
	"context"
	"crypto/sha256"
	"encoding/hex"
	"encoding/json"
	"errors"
	"io"
	"strconv"
	"time"

	"huekeep/core/audit"
	"huekeep/core/limits"
	"huekeep/core/repaint"
	"huekeep/core/swatchfile"
	"huekeep/keep"
	"huekeep/keep/audits"
	"huekeep/keep/backup"
	"huekeep/store"
)

// Rules take houses along.
type Rules struct {
	Backup *backup.Rules
	Audits *audits.Rules
}

// The archive has the library, as its backup has it, the files of projects under files/, and at its end what is told of them.
const (
	libraryEntry  = "library.json"
	projectsEntry = "projects.json"
	runsEntry     = "runs/" // what runs judged, found and repainted, by checksum
	format        = "huekeep projects"
	version       = 2 // 1 had no reports
)

// Runs come along with their reports from the newest on, as long as the archive has room for them.
const (
	mostEntries = 200_000
	mostOfRuns  = 150_000
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
	Runs  []run     `json:"runs"`
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

	Unread   json.RawMessage `json:"unread,omitempty"`  // files that could not be read, and why
	Reports  []report        `json:"reports,omitempty"` // none of runs that had no room, or whose reports were no longer kept
	Repaints []repainted     `json:"repaints,omitempty"`
}

// report is what a run found in a file. Entries of the archive under runs/ are named by their checksum.
type report struct {
	Path string `json:"path"`
	Kind string `json:"kind"`
	Size int64  `json:"size"`
	// the checksum of the file, which may stand under files/ instead; empty if it was no longer kept
	File      string   `json:"file,omitempty"`
	Report    string   `json:"report"` // the checksum of the report
	Tolerance float64  `json:"tolerance"`
	Uses      int      `json:"uses"`
	Findings  int      `json:"findings"`
	Unjudged  int      `json:"unjudged"`
	Score     *float64 `json:"score"`
	Colors    []found  `json:"colors"`
}

type found struct {
	Hex     string        `json:"hex"`
	Verdict audit.Verdict `json:"verdict"`
	Uses    int           `json:"uses"`
	Places  int           `json:"places"`
}

// repainted is what was repainted of a run.
type repainted struct {
	At      time.Time `json:"at"`
	By      string    `json:"by"`
	Name    string    `json:"name"`
	File    string    `json:"file,omitempty"`
	Report  string    `json:"report"`
	Changed int       `json:"changed"`
	Left    int       `json:"left"`
	Before  *float64  `json:"before"`
	After   *float64  `json:"after"`
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
	lib, err := r.Backup.Export(ctx, a)
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
	if err := entry(z, libraryEntry, text, r.Backup.Now()); err != nil {
		return err
	}
	put := putter{Rules: r, z: z, there: map[string]bool{}}
	for i, p := range out.Projects {
		for k := range p.Files {
			f := &p.Files[k]
			if f.Why != "" {
				continue
			}
			name := "files/" + strconv.Itoa(i+1) + "/" + f.Path
			if f.SHA256, err = put.file(ctx, keys[i].files[k], name, f.At); err != nil {
				return err
			} else if f.SHA256 != "" { // else the list says that it is not there
				f.Entry = name
			}
		}
	}
	for i := range out.Projects {
		if err := put.runs(ctx, &out.Projects[i], keys[i].runs); err != nil {
			return err
		}
	}
	if text, err = json.MarshalIndent(out, "", "  "); err != nil {
		return err
	}
	return errors.Join(entry(z, projectsEntry, text, r.Backup.Now()), z.Close())
}

// putter puts stored files into an archive, each content once.
type putter struct {
	*Rules
	z       *zip.Writer
	there   map[string]bool // by checksum
	entries int
}

// file puts a stored file under a name, or under its checksum for none, and gives that; empty for one that is no longer kept.
func (p *putter) file(ctx context.Context, key, name string, at time.Time) (sum string, err error) {
	if key == "" {
		return "", nil
	}
	data, err := p.Backup.Load(ctx, key)
	if errors.Is(err, keep.ErrLost) || errors.Is(err, keep.ErrSpoiled) {
		return "", nil
	} else if err != nil {
		return "", err
	}
	digest := sha256.Sum256(data)
	sum = hex.EncodeToString(digest[:])
	if name == "" {
		if p.there[sum] {
			return sum, nil
		}
		name = runsEntry + sum
		p.entries++
	}
	p.there[sum] = true
	return sum, entry(p.z, name, data, at)
}

// runs puts what the runs of a project found into the archive, the newest first, as long as there is room.
func (p *putter) runs(ctx context.Context, of *project, stored []runRows) error {
	for i := range stored {
		to, rows := &of.Runs[i], stored[i]
		if p.entries+2*len(rows.audits) > mostOfRuns {
			return nil
		}
		var reports []report
		for _, row := range rows.audits {
			l := report{Path: row.Path, Kind: row.Kind, Size: row.Size, Tolerance: row.Tolerance, Uses: row.Uses, Findings: row.Findings,
				Unjudged: row.Unjudged, Score: row.Score, Colors: []found{}}
			var err error
			if l.Report, err = p.file(ctx, row.ReportKey, "", row.At); err != nil {
				return err
			} else if l.Report == "" {
				reports = nil // a run without one of its reports is none
				break
			}
			if l.File, err = p.file(ctx, row.BlobKey, "", row.At); err != nil {
				return err
			}
			colors, err := p.Backup.DB.With(ctx).AuditColors(row.ID)
			if err != nil {
				return err
			}
			for _, c := range colors {
				l.Colors = append(l.Colors, found{c.Hex, audit.Verdict(c.Verdict), c.Uses, c.Places})
			}
			reports = append(reports, l)
		}
		if to.Reports = reports; reports == nil {
			continue
		}
		for _, row := range rows.repaints {
			l := repainted{At: row.At, By: row.ByName, Name: row.Name, Changed: row.Changed, Left: row.LeftOver, Before: row.ScoreBefore,
				After: row.ScoreAfter}
			var err error
			if l.Report, err = p.file(ctx, row.ReportKey, "", row.At); err != nil {
				return err
			}
			if l.File, err = p.file(ctx, row.BlobKey, "", row.At); err != nil {
				return err
			}
			if l.Report != "" && (l.File != "" || row.BlobKey == "") {
				to.Repaints = append(to.Repaints, l)
			}
		}
	}
	return nil
}

func entry(z *zip.Writer, name string, data []byte, at time.Time) error {
	w, err := z.CreateHeader(&zip.FileHeader{Name: name, Method: zip.Deflate, Modified: at.UTC()})
	if err == nil {
		_, err = w.Write(data)
	}
	return err
}

// rows are what is stored of a project.
type rows struct {
	files []string // keys
	runs  []runRows
}

type runRows struct {
	audits   []store.Audit
	repaints []store.Repaint
}

// read gathers what is told of projects, with what is stored of them.
func (r *Rules) read(ctx context.Context, a keep.Actor) (out content, keys []rows, err error) {
	out = content{Format: format, Version: version, Projects: []project{}, Excuses: []excuse{}, Plans: []plan{}}
	err = r.Backup.DB.In(ctx, func(tx *store.DB) error { // of one moment
		out.Projects, out.Excuses, out.Plans, keys = out.Projects[:0], out.Excuses[:0], out.Plans[:0], nil
		room := mostOfRuns / 2 // for a file and a report each
		names := map[int64]string{}
		for before := int64(0); ; {
			rows, err := tx.Projects(a.House.ID, before, limits.Page)
			if err != nil {
				return err
			}
			for _, row := range rows {
				p, own, err := projectOf(tx, row, &room)
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
			line := excuse{Color: e.Color, File: e.Path, Where: e.Place, Reason: e.Reason, By: e.ByName, At: e.At, Until: e.UntilDay,
				Ended: e.EndedAt, EndedBy: e.EndedBy}
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

// projectOf reads a project, with the files of its runs from the newest on as long as there is room.
func projectOf(tx *store.DB, row store.Project, room *int) (p project, keys rows, err error) {
	p = project{Name: row.Name, By: row.ByName, At: row.CreatedAt, Files: []file{}, Runs: []run{}}
	files, err := tx.ProjectFiles(row.ID)
	if err != nil {
		return p, keys, err
	}
	for _, f := range files {
		p.Files, keys.files = append(p.Files, file{Path: f.Path, At: f.AddedAt, Why: f.Why}), append(keys.files, f.BlobKey)
	}
	runs, err := tx.Runs(row.ID, 500)
	if err != nil {
		return p, keys, err
	}
	repaints, err := tx.Repaints(row.HouseID, row.ID, 500)
	if err != nil {
		return p, keys, err
	}
	for _, l := range runs {
		to := run{Number: l.Number, At: l.At, By: l.ByName, Tolerance: l.Tolerance, Files: l.Files, Uses: l.Uses, Findings: l.Findings,
			Unjudged: l.Unjudged, Score: l.Score}
		if l.Unread != "" {
			to.Unread = json.RawMessage(l.Unread)
		}
		of := runRows{}
		if *room -= l.Files; *room < 0 {
			p.Runs, keys.runs = append(p.Runs, to), append(keys.runs, of)
			continue
		}
		if of.audits, err = tx.RunAudits(l.ID); err != nil {
			return p, keys, err
		}
		for _, x := range repaints {
			if x.RunID == l.ID {
				of.repaints = append(of.repaints, x)
			}
		}
		p.Runs, keys.runs = append(p.Runs, to), append(keys.runs, of)
	}
	return p, keys, nil
}
