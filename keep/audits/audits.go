// Package audits holds the rules of judged files.
package audits

import (
	"bytes"
	"compress/gzip"
	"context"
	"encoding/json"
	"errors"
	"fmt"
	"io"
	"math"
	"slices"
	"strings"
	"time"

	"huekeep/core/audit"
	"huekeep/core/audit/pixels"
	"huekeep/core/color"
	"huekeep/core/limits"
	"huekeep/keep"
	"huekeep/keep/hooks"
	"huekeep/keep/jobs"
	"huekeep/reading"
	"huekeep/store"
)

// Rules are the rules of audits.
type Rules struct {
	*keep.Base
	Jobs  *jobs.Rules
	Hooks *hooks.Rules
	forms forms

	// Letter mails a text to somebody, with the address of a page, and says whether mail can be sent; nil where it cannot. Nothing waits
	// for it.
	Letter func(ctx context.Context, to, subject, text, page string) bool
}

// What the jobs of audits and of repainting are called.
const (
	JobKind     = "audit"
	RepaintKind = "repaint"
)

// New makes the rules, and lets jobs run audits.
func New(b *keep.Base, j *jobs.Rules, h *hooks.Rules) *Rules {
	r := &Rules{Base: b, Jobs: j, Hooks: h}
	j.Kind(JobKind, r.run)
	j.Kind(RepaintKind, r.repaint)
	j.Forgets(r.Forget)
	return r
}

// Line is an audit without what it found.
type Line struct {
	ID       int64
	Project  int64 // 0 for audits of before
	Run      int64
	Path     string // in the project
	File     string
	Kind     string
	At       time.Time
	By       string
	Uses     int
	Score    *float64 // nil where nothing was judged
	Findings int      // uses that are neither on-brand nor excused
	Unjudged int      // uses of what could not be determined
}

// Audit is a judged file with a page of what it found.
type Audit struct {
	Line
	About     string
	Size      int64
	Tolerance float64
	Notes     []string
	Causes    []audit.Cause // what is behind findings
	Undecided int           // different ones of them
	Unread    []audit.Unread
	Totals    map[string]int // uses by verdict
	Count     int            // of colors
	Colors    []Found
	Next      int // where the next page of colors begins; 0 for none
}

// Found is a color that was found, with the first of its places.
type Found struct {
	audit.Judged
	PlaceCount int `json:"placeCount"`
}

func line(row store.Audit) Line {
	l := Line{ID: row.ID, Path: row.Path, File: row.FileName, Kind: row.Kind, At: row.At, By: row.ByName, Uses: row.Uses,
		Score: audit.Kept(row.Score), Findings: row.Findings, Unjudged: row.Unjudged}
	if row.ProjectID != nil && row.RunID != nil {
		l.Project, l.Run = *row.ProjectID, *row.RunID
	}
	return l
}

// List lists the house's audits before one, or the newest for 0, newest first; next is where the next page begins, 0 for none.
func (r *Rules) List(ctx context.Context, a keep.Actor, before int64) (list []Line, next int64, err error) {
	rows, err := r.DB.With(ctx).Audits(a.House.ID, before, limits.Page+1)
	if err != nil {
		return nil, 0, err
	}
	if len(rows) > limits.Page {
		rows = rows[:limits.Page]
		next = rows[limits.Page-1].ID
	}
	for _, row := range rows {
		list = append(list, line(row))
	}
	return list, next, nil
}

// How many colors of an audit are in the first answer, which is to come soon, and in later ones, each of which reads the report again.
const (
	firstColors = 1000
	moreColors  = 10_000
)

// Audit reads a judged file, with the colors from a place in its list on.
func (r *Rules) Audit(ctx context.Context, a keep.Actor, id int64, from int) (Audit, error) {
	db := r.DB.With(ctx)
	row, err := db.Audit(a.House.ID, id)
	if err != nil {
		return Audit{}, keep.Missing(err, "audit")
	}
	text, err := r.report(ctx, row)
	if err != nil {
		return Audit{}, err
	}
	from = max(0, from)
	most := firstColors
	if from > 0 {
		most = moreColors
	}
	k, count, err := readPage(text, from, most)
	if err != nil {
		return Audit{}, fmt.Errorf("report of audit %d: %w", id, err)
	}
	out := Audit{Line: line(row), About: k.About, Size: row.Size, Tolerance: row.Tolerance, Notes: k.Notes, Causes: k.Causes, Count: count,
		Undecided: k.Unjudged, Unread: k.Unread}
	if out.Totals, err = db.AuditTotals(id); err != nil {
		return out, err
	}
	if row.Unjudged > 0 {
		out.Totals[string(audit.Unjudged)] = row.Unjudged
	}
	if to := from + len(k.Colors); to < count {
		out.Next = to
	}
	hidden, err := r.hidden(db, a)
	if err != nil {
		return out, err
	}
	for _, c := range k.Colors {
		hidden.hide(&c.Judged)
		out.Colors = append(out.Colors, c)
	}
	return out, nil
}

// Places lists where a color of an audit was found, from a place in the list on, those with a text in them if one is given; next is where
// the next page begins, 0 for none.
func (r *Rules) Places(ctx context.Context, a keep.Actor, id int64, found, find string, from int) (list []audit.Place, next int,
	err error) {
	row, err := r.DB.With(ctx).Audit(a.House.ID, id)
	if err != nil {
		return nil, 0, keep.Missing(err, "audit")
	}
	text, err := r.report(ctx, row)
	if err != nil {
		return nil, 0, err
	}
	if list, err = readPlaces(text, found); err != nil {
		return nil, 0, err
	}
	if list == nil {
		return nil, 0, keep.None("color in this audit")
	}
	if find = strings.ToLower(find); find != "" {
		list = slices.DeleteFunc(list, func(p audit.Place) bool {
			return !strings.Contains(strings.ToLower(p.Where), find) && !strings.Contains(strings.ToLower(p.Value), find)
		})
	}
	from = min(max(0, from), len(list))
	to := min(from+limits.Page, len(list))
	if to < len(list) {
		next = to
	}
	return list[from:to], next, nil
}

var markedTask = reading.NewTask("marked", func(found color.RGB8, data []byte) ([]byte, error) { return pixels.Marked(data, found, 0) })

// Marked is a judged picture with one of its colors as it is and all else in gray.
func (r *Rules) Marked(ctx context.Context, a keep.Actor, id int64, hex string) ([]byte, error) {
	row, err := r.DB.With(ctx).Audit(a.House.ID, id)
	if err != nil {
		return nil, keep.Missing(err, "audit")
	}
	rgb, err := color.FromHex(hex)
	if err != nil || row.Kind != "picture" {
		return nil, keep.None("picture of this color in the audit")
	}
	data, err := r.Load(ctx, row.BlobKey)
	if err != nil {
		return nil, keep.Clash("", "the file %s is no longer kept", row.FileName)
	}
	out, err := markedTask.Do(ctx, r.Apart, a.House.ID, row.FileName, rgb, data)
	var said reading.Sentence
	if errors.As(err, &said) {
		return nil, keep.None("picture of this color in the audit")
	}
	return out, err
}

// Undecided lists what could not be judged, from a place in the list on; next is where the next page begins, 0 for none.
func (r *Rules) Undecided(ctx context.Context, a keep.Actor, id int64, from int) (list []audit.Undecided, next int, err error) {
	row, err := r.DB.With(ctx).Audit(a.House.ID, id)
	if err != nil {
		return nil, 0, keep.Missing(err, "audit")
	}
	text, err := r.report(ctx, row)
	if err != nil {
		return nil, 0, err
	}
	if list, err = readUndecided(text); err != nil {
		return nil, 0, err
	}
	from = min(max(0, from), len(list))
	to := min(from+limits.Page, len(list))
	if to < len(list) {
		next = to
	}
	return list[from:to], next, nil
}

func (r *Rules) report(ctx context.Context, row store.Audit) ([]byte, error) {
	text, err := r.Load(ctx, row.ReportKey)
	if errors.Is(err, keep.ErrLost) || errors.Is(err, keep.ErrSpoiled) {
		return nil, keep.Clash("", "the report on %s cannot be shown: %v; judge the file again", row.FileName, err)
	}
	if err != nil || bytes.HasPrefix(text, []byte("{")) { // of before, when they were not packed
		return text, err
	}
	z, err := gzip.NewReader(bytes.NewReader(text))
	if err != nil {
		return nil, err
	}
	return io.ReadAll(z)
}

// packed is a report as it is stored: most of it says the same over and over.
func packed(text []byte) ([]byte, error) {
	var b bytes.Buffer
	z, err := gzip.NewWriterLevel(&b, gzip.BestSpeed)
	if err != nil {
		return nil, err
	}
	_, err = z.Write(text)
	if err := errors.Join(err, z.Close()); err != nil {
		return nil, err
	}
	return b.Bytes(), nil
}

// hidden are the names of colors that the reader of a report may not know of.
type hidden map[string]bool

func (r *Rules) hidden(db *store.DB, a keep.Actor) (hidden, error) {
	if a.Role.Reaches(keep.RoleContributor) {
		return nil, nil
	}
	names, err := db.DraftNames(a.House.ID)
	h := hidden{}
	for _, n := range names {
		h[n] = true
	}
	return h, err
}

func (h hidden) hide(j *audit.Judged) {
	if len(h) == 0 {
		return
	}
	near := func(n *audit.Near) {
		if h[n.Name] {
			n.Name = "a proposed color"
		}
		if h[n.Successor] {
			n.Successor = ""
		}
	}
	if j.Nearest != nil {
		near(j.Nearest)
	}
	for i := range j.Others {
		near(&j.Others[i])
	}
}

// The kept form of a report: a line of JSON with all but most places, then a line of JSON with the places of each color, then one with
// what could not be judged. So a page of it is read without the rest.

// reportVersion is the version that is written; testdata holds a file of each. The first was the report's own JSON, whole; the second had
// no keys of colors, no line of what could not be judged, and a score in any case.
const reportVersion = 3

// firstPlaces is how many places stand with the color itself.
const firstPlaces = 5

type keptReport struct {
	Version  int            `json:"version"`
	Path     string         `json:"path"`
	Kind     string         `json:"kind"`
	About    string         `json:"about,omitempty"`
	Uses     int            `json:"uses"`
	Score    *float64       `json:"score"`
	Notes    []string       `json:"notes,omitempty"`
	Causes   []audit.Cause  `json:"causes,omitempty"`
	Unjudged int            `json:"unjudged,omitempty"` // different ones
	Unread   []audit.Unread `json:"unread,omitempty"`
	Colors   []Found        `json:"colors"`
}

func writeReport(r audit.Report) ([]byte, error) {
	k := keptReport{reportVersion, r.Path, r.Kind, r.About, r.Uses, r.Score, r.Notes, r.Causes, len(r.Unjudged), r.Unread, []Found{}}
	for _, c := range r.Colors {
		n := len(c.Places)
		c.Places = c.Places[:min(n, firstPlaces)]
		k.Colors = append(k.Colors, Found{c, n})
	}
	var b bytes.Buffer
	enc := json.NewEncoder(&b)
	enc.SetEscapeHTML(false)
	if err := enc.Encode(k); err != nil {
		return nil, err
	}
	for _, c := range r.Colors {
		if err := enc.Encode(c.Places); err != nil {
			return nil, err
		}
	}
	return b.Bytes(), enc.Encode(r.Unjudged)
}

func readReport(text []byte) (keptReport, error) {
	k, _, err := readPage(text, 0, math.MaxInt)
	return k, err
}

// readPage reads a report with at most so many of its colors, from a place in their list on, and says how many it has.
func readPage(text []byte, from, most int) (k keptReport, count int, err error) {
	head, _, _ := bytes.Cut(text, []byte("\n"))
	var raw struct {
		keptReport
		Colors []json.RawMessage `json:"colors"` // those that nobody asked for are not read
	}
	if err := json.Unmarshal(head, &raw); err != nil {
		return k, 0, err
	}
	if k = raw.keptReport; k.Version > reportVersion {
		return k, 0, fmt.Errorf("it was written by a newer Hue Keep (version %d; this one reads up to %d)", k.Version, reportVersion)
	}
	page := raw.Colors[min(from, len(raw.Colors)):]
	page = page[:min(most, len(page))]
	k.Colors = make([]Found, len(page))
	for i, text := range page {
		c := &k.Colors[i]
		if err := json.Unmarshal(text, c); err != nil {
			return k, 0, err
		}
		if c.Key == "" {
			c.Key = c.Hex
		}
	}
	return k, len(raw.Colors), nil
}

// readUndecided reads what could not be judged.
func readUndecided(text []byte) ([]audit.Undecided, error) {
	k, err := readReport(text)
	if err != nil || k.Unjudged == 0 {
		return nil, err
	}
	text = bytes.TrimRight(text, "\n")
	var list []audit.Undecided
	err = json.Unmarshal(text[bytes.LastIndexByte(text, '\n')+1:], &list)
	return list, err
}

// readWhole reads a report with all that it holds.
func readWhole(text []byte) (audit.Report, error) {
	k, err := readReport(text)
	if err != nil {
		return audit.Report{}, err
	}
	r := audit.Report{Path: k.Path, Kind: k.Kind, About: k.About, Uses: k.Uses, Score: audit.Kept(k.Score), Notes: k.Notes,
		Causes: k.Causes, Unread: k.Unread, Unjudged: []audit.Undecided{}, Colors: []audit.Judged{}}
	_, rest, _ := bytes.Cut(text, []byte("\n"))
	for _, c := range k.Colors {
		var row []byte
		row, rest, _ = bytes.Cut(rest, []byte("\n"))
		if err := json.Unmarshal(row, &c.Places); err != nil {
			return r, err
		}
		r.Colors = append(r.Colors, c.Judged)
	}
	if k.Unjudged > 0 {
		r.Unjudged, err = readUndecided(text)
	}
	return r, err
}

// readPlaces reads the places of a color by its key, nil if the report has no such color.
func readPlaces(text []byte, found string) ([]audit.Place, error) {
	k, err := readReport(text)
	if err != nil {
		return nil, err
	}
	_, rest, _ := bytes.Cut(text, []byte("\n"))
	for _, c := range k.Colors {
		row, after, _ := bytes.Cut(rest, []byte("\n"))
		if c.Key == found {
			list := []audit.Place{}
			err := json.Unmarshal(row, &list)
			return list, err
		}
		rest = after
	}
	return nil, nil
}

// MoveOldReports puts the reports of the first version, which lie in the database, where reports lie now. Several instances may
// do it at once.
func (r *Rules) MoveOldReports(ctx context.Context) error {
	for {
		row, err := r.DB.With(ctx).OldReport()
		if errors.Is(err, store.ErrNotFound) {
			return nil
		} else if err != nil {
			return err
		}
		text, err := upgradeReport([]byte(row.Report))
		if err != nil {
			return fmt.Errorf("report of audit %d: %w", row.ID, err)
		}
		key, err := r.Store(ctx, row.HouseID, "reports", text)
		if err != nil {
			return err
		}
		if err := r.DB.With(ctx).Moved(row.ID, key); err != nil {
			return err
		}
	}
}

func upgradeReport(text []byte) ([]byte, error) {
	var report audit.Report
	if err := json.Unmarshal(text, &report); err != nil {
		return nil, err
	}
	return writeReport(report)
}
