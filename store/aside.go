package store

import (
	"encoding/base64"
	"encoding/json"
	"errors"
	"fmt"
	"io"
	"slices"
	"strconv"
	"strings"
	"time"
	"unicode/utf8"
)

// A library can be set aside, and brought back as it was: every row of it, under its own numbers, as lines of JSON like those of a dump.

// asideTable is a table that is set aside, with the condition for the rows of a house.
type asideTable struct {
	name, where string
	versions    bool // its rows have versions that whoever changes them must know
	colors      bool // a change of colors may change it
}

const ofHouse = "house_id = ?"

func under(column, table string) string {
	return column + " IN (SELECT id FROM " + table + " WHERE house_id = ?)"
}

// asideTables are the tables of a library, parents before what hangs on them. What else a house has is not set aside: notAside says why.
var asideTables = []asideTable{
	{name: "color_groups", where: ofHouse, colors: true}, {name: "colors", where: ofHouse, versions: true, colors: true},
	{name: "builds", where: under("color_id", "colors"), colors: true}, {name: "spots", where: under("color_id", "colors"), colors: true},
	{name: "color_events", where: under("color_id", "colors"), colors: true}, {name: "companions", where: under("color_id", "colors"),
		colors: true},
	{name: "suggestions", where: ofHouse, colors: true}, {name: "removed_colors", where: ofHouse, colors: true}, {name: "pairs",
		where: ofHouse, colors: true},
	{name: "gradients", where: ofHouse, versions: true, colors: true}, {name: "gradient_stops", where: under("gradient_id", "gradients"),
		colors: true},
	{name: "swatch_sets", where: ofHouse, versions: true, colors: true}, {name: "set_colors", where: under("set_id", "swatch_sets"),
		colors: true},
	{name: "edition_colors", where: under("set_id", "swatch_sets"), colors: true},
	{name: "recipients", where: ofHouse}, {name: "set_recipients", where: under("set_id", "swatch_sets")}, {name: "editions",
		where: ofHouse},
	{name: "packed_files", where: ofHouse}, {name: "deliveries", where: under("recipient_id", "recipients")}, {name: "mails",
		where: ofHouse},
	{name: "presses", where: ofHouse}, {name: "ink_books", where: ofHouse}, {name: "boards", where: ofHouse, versions: true},
	{name: "board_sheets", where: ofHouse},
	{name: "board_answers", where: under("sheet_id", "board_sheets")}, {name: "typefaces", where: ofHouse}, {name: "logos", where: ofHouse},
	{name: "starters", where: ofHouse},
	{name: "loading_notes", where: ofHouse},
}

// notAside are the other tables.
var notAside = map[string]string{
	"houses": "its two columns are written by themselves", "ways_back": "it is the way", "way_files": "it is the way",
	"files":    "they are kept as long as somebody names them",
	"projects": "a restore only adds to them", "project_files": "a restore only adds to them", "runs": "a restore only adds to them",
	"audits":       "a restore only adds to them",
	"audit_colors": "a restore only adds to them", "repaints": "a restore only adds to them", "excuses": "a restore only adds to them",
	"remarks": "a restore only adds projects", "plans": "a restore only adds to them",
	"links": "they name things by number, and numbers stay", "house_marks": "a restore leaves it", "house_turns": "it counts on",
	"jobs":  "work goes on",
	"trail": "it is added to and never changed", "trail_chains": "it is added to and never changed",
	"candidates": "a tray is its person's", "starter_marks": "a mark is its person's", "claims": "a request is its person's",
	"users": "of people", "sessions": "of people", "members": "of people", "tickets": "of people", "access_tokens": "of people",
	"devices": "of people", "recovery_codes": "of people",
	"passkeys": "of people", "ceremonies": "of people", "sign_in_tries": "of people", "sign_in_pending": "of people",
	"computed": "it can be computed again", "instance_news": "it is over in a minute", "instances": "of the server",
	"dumps": "of the server",
	"hooks": "programs are told on", "hook_messages": "what was told was told", "hook_colors": "it is what programs know",
	"troubles": "a restore leaves them; they name things by number, and numbers stay",
}

// AsideTables lists the tables that are set aside with a library, and why the others are not.
func AsideTables() (set []string, not map[string]string) {
	for _, t := range asideTables {
		set = append(set, t.name)
	}
	return set, notAside
}

// asideHead is the first line of what is set aside.
type asideHead struct {
	Tables    []string `json:"tables"`
	Tolerance float64  `json:"tolerance"`
	Neutrals  bool     `json:"neutrals"`
}

// SetAside writes the library of a house, or what a change of colors may change of it, in a transaction, so that it is of one moment. The
// files that it names are listed.
func (d *DB) SetAside(house int64, colors bool, w io.Writer) (files []string, err error) {
	h, err := d.House(house)
	if err != nil {
		return nil, err
	}
	out := json.NewEncoder(w)
	out.SetEscapeHTML(false)
	var tables []asideTable
	head := asideHead{Tolerance: h.Tolerance, Neutrals: h.Neutrals}
	for _, t := range asideTables {
		if t.colors || !colors {
			tables, head.Tables = append(tables, t), append(head.Tables, t.name)
		}
	}
	if err := out.Encode(head); err != nil {
		return nil, err
	}
	for _, t := range tables {
		if err := d.writeAside(out, t, house); err != nil {
			return nil, fmt.Errorf("table %s: %w", t.name, known(err))
		}
	}
	if !colors {
		err = known(d.g.Model(&PackedFile{}).Where(ofHouse, house).Pluck("blob_key", &files).Error)
	}
	return files, err
}

func (d *DB) writeAside(out *json.Encoder, t asideTable, house int64) error {
	rows, err := d.g.Raw("SELECT * FROM `"+t.name+"` WHERE "+t.where, house).Rows()
	if err != nil {
		return err
	}
	defer rows.Close()
	columns, err := rows.Columns()
	if err != nil {
		return err
	}
	if err := out.Encode(dumpTable{t.name, columns}); err != nil {
		return err
	}
	values, into := make([]any, len(columns)), make([]any, len(columns))
	for i := range values {
		into[i] = &values[i]
	}
	for rows.Next() {
		if err := rows.Scan(into...); err != nil {
			return err
		}
		line := make([]any, len(columns))
		for i, v := range values {
			line[i] = asideValue(v)
		}
		if err := out.Encode(line); err != nil {
			return err
		}
	}
	return rows.Err()
}

// asideValue is a value as a line of a dump has it.
func asideValue(v any) any {
	switch v := v.(type) {
	case nil:
		return nil
	case []byte:
		if utf8.Valid(v) {
			return string(v)
		}
		return bytesValue{base64.StdEncoding.EncodeToString(v)}
	case time.Time:
		return v.UTC().Format("2006-01-02 15:04:05.000000")
	case float64:
		return strconv.FormatFloat(v, 'g', -1, 64)
	case float32:
		return strconv.FormatFloat(float64(v), 'g', -1, 32)
	case bool:
		if v {
			return "1"
		}
		return "0"
	}
	return fmt.Sprint(v)
}

// BringBack puts a library that was set aside in the place of the one that the house has, in a transaction. Versions go on from both, so
// that nobody writes over what he does not know.
func (d *DB) BringBack(house int64, r io.Reader) (err error) {
	in := json.NewDecoder(r)
	var head asideHead
	if err := in.Decode(&head); err != nil {
		return fmt.Errorf("what was set aside is damaged: %w", err)
	}
	// What points to what is whole when all rows are there.
	if err := d.g.Exec("SET FOREIGN_KEY_CHECKS = 0").Error; err != nil {
		return err
	}
	defer func() { err = errors.Join(err, d.g.Exec("SET FOREIGN_KEY_CHECKS = 1").Error) }() // the connection is used again
	newest := map[string]int64{}
	for _, t := range slices.Backward(asideTables) {
		if !slices.Contains(head.Tables, t.name) {
			continue
		}
		if t.versions {
			var n int64
			if err := d.g.Raw("SELECT COALESCE(MAX(version), 0) FROM `"+t.name+"` WHERE "+t.where, house).Scan(&n).Error; err != nil {
				return known(err)
			}
			newest[t.name] = n
		}
		if err := d.g.Exec("DELETE FROM `"+t.name+"` WHERE "+t.where, house).Error; err != nil {
			return fmt.Errorf("table %s: %w", t.name, known(err))
		}
	}
	has := func(name string) bool { return slices.Contains(head.Tables, name) }
	if _, err := readRows(in, has, func(q string, values ...any) error { return d.g.Exec(q, values...).Error }); err != nil {
		return err
	}
	for _, t := range asideTables {
		if n := newest[t.name]; t.versions && n > 0 {
			if err := d.g.Exec("UPDATE `"+t.name+"` SET version = GREATEST(version, ?) + 1 WHERE "+t.where, n, house).Error; err != nil {
				return err
			}
		}
	}
	return d.g.Model(&House{}).Where("id = ?", house).Updates(map[string]any{"tolerance": head.Tolerance, "neutrals": head.Neutrals}).Error
}

// WayBack finds a way back of a house.
func (d *DB) WayBack(house, id int64) (WayBack, error) {
	return one[WayBack](d.g.Where("house_id = ? AND id = ?", house, id))
}

// AddWayBack notes a way back, with the files that it needs.
func (d *DB) AddWayBack(w *WayBack, files []string) error {
	if err := d.Add(w); err != nil {
		return err
	}
	rows := []WayFile{}
	for _, f := range files {
		if f != "" && !slices.ContainsFunc(rows, func(o WayFile) bool { return o.BlobKey == f }) {
			rows = append(rows, WayFile{w.ID, f})
		}
	}
	return d.g.CreateInBatches(&rows, 500).Error
}

// WentBack notes that a way was gone.
func (d *DB) WentBack(id int64, now time.Time) error {
	return gone(d.g.Model(&WayBack{}).Where("id = ? AND gone_at IS NULL", id).Update("gone_at", now))
}

// ForgetWaysBack forgets ways back of before a time.
func (d *DB) ForgetWaysBack(before time.Time) error {
	return d.g.Where("at < ?", before).Delete(&WayBack{}).Error
}

// TakeOut deletes what came into a house: rows of tables that a restore adds to.
func (d *DB) TakeOut(house int64, projects, excuses, plans []int64) error {
	for _, of := range []struct {
		model any
		ids   []int64
	}{{&Excuse{}, excuses}, {&Plan{}, plans}, {&Project{}, projects}} {
		if len(of.ids) > 0 {
			if err := d.g.Where("house_id = ? AND id IN ?", house, of.ids).Delete(of.model).Error; err != nil {
				return known(err)
			}
		}
	}
	return nil
}

// Turn is how many changes a house has had.
func (d *DB) Turn(house int64) (n int64, err error) {
	row, err := one[HouseTurn](d.g.Where(ofHouse, house))
	return row.Turn, err
}

// FetchedSince counts what recipients fetched or answered of a house after a time.
func (d *DB) FetchedSince(house int64, after time.Time) (n int64, err error) {
	err = d.g.Model(&Delivery{}).Where(strings.ReplaceAll(under("recipient_id", "recipients"), "?", "@house")+
		" AND (sent_at > @at OR received_at > @at OR last_at > @at)",
		map[string]any{"house": house, "at": after}).Count(&n).Error
	return n, known(err)
}
