package store

import (
	"crypto/sha256"
	"database/sql"
	"fmt"
	"time"

	"gorm.io/gorm"
	"gorm.io/gorm/clause"

	"huekeep/core/color"
	"huekeep/core/library"
)

// Groups lists the groups of a house in order.
func (d *DB) Groups(house int64) ([]ColorGroup, error) {
	return many[ColorGroup](d.g.Where("house_id = ?", house).Order("position, id"))
}

// EnsureGroup finds a group by name or makes it, last in order. The house should be locked.
func (d *DB) EnsureGroup(house int64, name string) (int64, error) {
	g, err := d.GroupNamed(house, name)
	if err == nil {
		return g.ID, nil
	}
	if err != ErrNotFound {
		return 0, err
	}
	last, err := d.last(&ColorGroup{}, "house_id = ?", house)
	if err != nil {
		return 0, err
	}
	g = ColorGroup{HouseID: house, Name: name, NameKey: NameKey(name), Position: last + 1}
	err = d.Add(&g)
	return g.ID, err
}

// last is the greatest position of rows, 0 without any.
func (d *DB) last(model any, where string, args ...any) (int, error) {
	var last int
	err := d.g.Model(model).Where(where, args...).Select("COALESCE(MAX(position), 0)").Scan(&last).Error
	return last, err
}

// GroupNamed finds a group by name and locks it, so that nobody deletes it before the color that moves into it is saved.
func (d *DB) GroupNamed(house int64, name string) (ColorGroup, error) {
	return one[ColorGroup](d.locked().Where("house_id = ? AND name_key = ?", house, NameKey(name)))
}

// DeleteGroup deletes a group; its colors stay, without one.
func (d *DB) DeleteGroup(house, id int64) error {
	return gone(d.g.Where("house_id = ? AND id = ?", house, id).Delete(&ColorGroup{}))
}

// colorColumns are what readColors scans of a color.
const colorColumns = `c.id, c.name, c.hex, c.role, c.rule, c.status, c.successor_id, c.position, c.version, c.aliases, c.tags, c.master, c.ground_id, c.ground_ratio,
	c.plain_origin, c.plain_by, c.plain_name, c.plain_at, c.created_at, c.updated_at, COALESCE(g.name, '')`

// readColors reads colors with what was approved of them and is kept with them: four queries, however many there are. where
// speaks of the alias c. The names of what they point to are those of their house.
func (d *DB) readColors(house int64, where string, args ...any) ([]library.Color, error) {
	var out []library.Color
	at := map[int64]int{}
	err := d.scan("SELECT "+colorColumns+" FROM colors c LEFT JOIN color_groups g ON g.id = c.group_id WHERE "+where+
		" ORDER BY c.position, c.id", args, func(rows *sql.Rows) error {
		var r Color
		var group string
		err := rows.Scan(&r.ID, &r.Name, &r.Hex, &r.Role, &r.Rule, &r.Status, &r.SuccessorID, &r.Position, &r.Version, &r.Aliases, &r.Tags,
			&r.Master, &r.GroundID,
			&r.GroundRatio, &r.PlainOrigin, &r.PlainBy, &r.PlainName, &r.PlainAt, &r.CreatedAt, &r.UpdatedAt, &group)
		at[r.ID] = len(out)
		out = append(out, r.color(group))
		return err
	})
	if err != nil || len(out) == 0 {
		return nil, err
	}
	err = d.scan(`SELECT b.color_id, b.press, b.c, b.m, b.y, b.k, b.by_user, b.by_name, b.approved_at, b.for_hex, b.meant, b.origin FROM builds b JOIN colors c ON c.id = b.color_id WHERE `+
		where+` ORDER BY b.color_id, b.press`, args, func(rows *sql.Rows) error {
		var r Build
		err := rows.Scan(&r.ColorID, &r.Press, &r.C, &r.M, &r.Y, &r.K, &r.ByUser, &r.ByName, &r.ApprovedAt, &r.ForHex, &r.Meant, &r.Origin)
		if i, ok := at[r.ColorID]; ok {
			out[i].Builds = append(out[i].Builds, r.build())
		}
		return err
	})
	if err != nil {
		return nil, err
	}
	err = d.scan(`SELECT b.color_id, b.stock, b.code, b.by_user, b.by_name, b.approved_at, b.for_hex, b.meant, b.origin FROM spots b JOIN colors c ON c.id = b.color_id WHERE `+
		where+` ORDER BY b.color_id, b.stock`, args, func(rows *sql.Rows) error {
		var r Spot
		err := rows.Scan(&r.ColorID, &r.Stock, &r.Code, &r.ByUser, &r.ByName, &r.ApprovedAt, &r.ForHex, &r.Meant, &r.Origin)
		if i, ok := at[r.ColorID]; ok {
			out[i].Spots = append(out[i].Spots, r.spot())
		}
		return err
	})
	if err != nil {
		return nil, err
	}
	err = d.scan(`SELECT b.color_id, b.kind, b.amount, b.permitted, b.ground_id FROM companions b JOIN colors c ON c.id = b.color_id WHERE `+
		where+` ORDER BY b.color_id, b.kind, b.amount, b.ground_id`, args, func(rows *sql.Rows) error {
		var r Companion
		err := rows.Scan(&r.ColorID, &r.Kind, &r.Amount, &r.Permitted, &r.GroundID)
		if i, ok := at[r.ColorID]; ok {
			out[i].Companions = append(out[i].Companions, library.Companion{Kind: r.Kind, Amount: r.Amount, Permitted: r.Permitted,
				Ground: library.Ref{ID: r.GroundID}})
		}
		return err
	})
	if err != nil {
		return nil, err
	}
	return out, d.nameRefs(house, out, at)
}

// nameRefs puts the names to what colors point to, and the values to the grounds of sheers; most are among them, and most colors point to
// nothing.
func (d *DB) nameRefs(house int64, list []library.Color, at map[int64]int) error {
	type named struct {
		name string
		rgb  color.RGB8
	}
	found := map[int64]named{}
	var ids []int64
	for i := range list {
		list[i].Point(func(ref library.Ref) library.Ref {
			if k, ok := at[ref.ID]; ok {
				found[ref.ID] = named{list[k].Name, list[k].RGB}
			} else {
				ids = append(ids, ref.ID)
			}
			return ref
		})
	}
	if len(ids) > 0 {
		err := d.scan("SELECT id, name, hex FROM colors WHERE house_id = ? AND id IN ?", []any{house, ids}, func(rows *sql.Rows) error {
			var id int64
			var name, hex string
			err := rows.Scan(&id, &name, &hex)
			found[id] = named{name, rgb(hex)}
			return err
		})
		if err != nil {
			return err
		}
	}
	for i := range list {
		list[i].Point(func(ref library.Ref) library.Ref {
			to, ok := found[ref.ID]
			if !ok {
				return library.Ref{}
			}
			return library.Ref{ID: ref.ID, Name: to.name}
		})
		for k, m := range list[i].Companions {
			list[i].Companions[k].Over = found[m.Ground.ID].rgb
		}
	}
	return nil
}

// scan runs a query and hands each of its rows to f.
func (d *DB) scan(query string, args []any, f func(*sql.Rows) error) error {
	rows, err := d.g.Raw(query, args...).Rows()
	if err != nil {
		return known(err)
	}
	defer rows.Close()
	for rows.Next() {
		if err := f(rows); err != nil {
			return err
		}
	}
	return known(rows.Err())
}

// Colors lists a house's colors in the order by hand, with what was approved of them; without their history.
func (d *DB) Colors(house int64) ([]library.Color, error) {
	return d.readColors(house, "c.house_id = ?", house)
}

// Color reads one color, without its history.
func (d *DB) Color(house, id int64) (library.Color, error) {
	return single(d.readColors(house, "c.house_id = ? AND c.id = ?", house, id))
}

// ColorByName finds a color by its name.
func (d *DB) ColorByName(house int64, name string) (library.Color, error) {
	return single(d.readColors(house, "c.house_id = ? AND c.name_key = ?", house, NameKey(name)))
}

// ColorToChange reads a color and keeps others from changing it until the transaction ends.
func (d *DB) ColorToChange(house, id int64) (library.Color, error) {
	if err := d.lockColors(house, []int64{id}); err != nil {
		return library.Color{}, err
	}
	return d.Color(house, id)
}

// ColorsToChange reads colors, in the order by hand, and keeps others from changing them until the transaction ends. One that is
// not there is ErrNotFound.
func (d *DB) ColorsToChange(house int64, ids []int64) ([]library.Color, error) {
	if err := d.lockColors(house, ids); err != nil {
		return nil, err
	}
	return d.readColors(house, "c.house_id = ? AND c.id IN ?", house, ids)
}

func (d *DB) lockColors(house int64, ids []int64) error {
	var found []int64
	if err := d.locked().Model(&Color{}).Where("house_id = ? AND id IN ?", house, ids).Pluck("id", &found).Error; err != nil {
		return known(err)
	}
	if len(found) < len(ids) {
		return ErrNotFound
	}
	return nil
}

func single[T any](list []T, err error) (T, error) {
	if err == nil && len(list) == 0 {
		err = ErrNotFound
	}
	if err != nil {
		var none T
		return none, err
	}
	return list[0], nil
}

// AddColors inserts colors with all that belongs to them, and sets their ids; one that has an id keeps it. groups gives the id
// of each group that they name.
func (d *DB) AddColors(house int64, groups map[string]int64, colors []library.Color) error {
	if len(colors) == 0 {
		return nil
	}
	rows := make([]Color, len(colors))
	for i, c := range colors {
		rows[i] = rowOf(house, c)
		rows[i].GroupID = pointer(groups[c.Group])
	}
	if err := d.Add(&rows); err != nil {
		return err
	}
	var builds []Build
	var spots []Spot
	var companions []Companion
	for i := range colors {
		colors[i].ID = rows[i].ID
		b, s, m := childrenOf(colors[i])
		builds, spots, companions = append(builds, b...), append(spots, s...), append(companions, m...)
	}
	return d.addAll(builds, spots, companions)
}

func (d *DB) addAll(builds []Build, spots []Spot, companions []Companion) error {
	if len(builds) > 0 {
		if err := d.Add(&builds); err != nil {
			return err
		}
	}
	if len(spots) > 0 {
		if err := d.Add(&spots); err != nil {
			return err
		}
	}
	if len(companions) > 0 {
		return d.Add(&companions)
	}
	return nil
}

// SaveColor writes a color that was read to be changed, with all that belongs to it. Its group must exist.
func (d *DB) SaveColor(house int64, c library.Color) error {
	row := rowOf(house, c)
	if c.Group != "" {
		g, err := d.GroupNamed(house, c.Group)
		if err != nil {
			return err
		}
		row.GroupID = &g.ID
	}
	if err := d.Save(&row); err != nil {
		return err
	}
	if err := d.SaveCompanions([]library.Color{c}); err != nil {
		return err
	}
	return d.SavePrint([]library.Color{c})
}

// SaveCompanions writes the companions of colors that were read to be changed.
func (d *DB) SaveCompanions(colors []library.Color) error {
	var ids []int64
	var list []Companion
	for _, c := range colors {
		_, _, m := childrenOf(c)
		ids, list = append(ids, c.ID), append(list, m...)
	}
	if err := d.g.Where("color_id IN ?", ids).Delete(&Companion{}).Error; err != nil {
		return err
	}
	return d.addAll(nil, nil, list)
}

// SavePrint writes the builds and the inks of colors that were read to be changed.
func (d *DB) SavePrint(colors []library.Color) error {
	if len(colors) == 0 {
		return nil
	}
	var ids []int64
	var builds []Build
	var spots []Spot
	for _, c := range colors {
		b, s, _ := childrenOf(c)
		ids, builds, spots = append(ids, c.ID), append(builds, b...), append(spots, s...)
	}
	for _, table := range []any{&Build{}, &Spot{}} {
		if err := d.g.Where("color_id IN ?", ids).Delete(table).Error; err != nil {
			return err
		}
	}
	return d.addAll(builds, spots, nil)
}

// SaveColors writes many colors that were read to be changed, a few queries in all: all but their names, what was approved of
// them in print and what is kept with them.
func (d *DB) SaveColors(house int64, groups map[string]int64, colors []library.Color) error {
	rows := make([]Color, len(colors))
	for i, c := range colors {
		rows[i] = rowOf(house, c)
		rows[i].GroupID = pointer(groups[c.Group])
	}
	// The rows are there and locked, so that none is inserted.
	return known(d.g.Clauses(clause.OnConflict{DoUpdates: clause.AssignmentColumns([]string{"group_id", "hex", "master", "role", "rule",
		"status", "successor_id", "position", "version",
		"aliases", "tags", "plain_origin", "plain_by", "plain_name", "plain_at", "ground_id", "ground_ratio",
		"updated_at"})}).CreateInBatches(&rows, 1000).Error)
}

// PlaceColor puts a color before another one in the order by hand, or last if before is 0. The others keep theirs.
func (d *DB) PlaceColor(house, id, before int64) error {
	if before == 0 {
		last, err := d.LastPosition(house)
		if err != nil {
			return err
		}
		return d.g.Model(&Color{}).Where("house_id = ? AND id = ?", house, id).UpdateColumn("position", last+1).Error
	}
	next, err := one[Color](d.locked().Where("house_id = ? AND id = ?", house, before))
	if err != nil {
		return err
	}
	if err := d.g.Model(&Color{}).Where("house_id = ? AND (position > ? OR position = ? AND id >= ?)", house, next.Position, next.Position,
		next.ID).
		UpdateColumn("position", gorm.Expr("position + 1")).Error; err != nil {
		return err
	}
	return d.g.Model(&Color{}).Where("house_id = ? AND id = ?", house, id).UpdateColumn("position", next.Position).Error
}

// MoveToGroup gives a color another group, or none for 0, without counting it as a change.
func (d *DB) MoveToGroup(house, id int64, group string) error {
	var to *int64
	if group != "" {
		g, err := d.GroupNamed(house, group)
		if err != nil {
			return err
		}
		to = &g.ID
	}
	return d.g.Model(&Color{}).Where("house_id = ? AND id = ?", house, id).UpdateColumn("group_id", to).Error
}

// CountColors is how many colors a house has.
func (d *DB) CountColors(house int64) (int, error) {
	var n int64
	err := d.g.Model(&Color{}).Where("house_id = ?", house).Count(&n).Error
	return int(n), err
}

// LastPosition is the greatest position of the house's colors, 0 without any.
func (d *DB) LastPosition(house int64) (int, error) { return d.last(&Color{}, "house_id = ?", house) }

func (d *DB) DeleteColors(house int64, ids []int64) error {
	return known(d.g.Where("house_id = ? AND id IN ?", house, ids).Delete(&Color{}).Error)
}

// ColorIDs lists which of these ids are taken by colors of any house.
func (d *DB) ColorIDs(ids []int64) (map[int64]bool, error) { return d.taken(&Color{}, ids) }

// SetIDs and the like say which of these ids are taken by rows of any house.
func (d *DB) SetIDs(ids []int64) (map[int64]bool, error) { return d.taken(&SwatchSet{}, ids) }

func (d *DB) GradientIDs(ids []int64) (map[int64]bool, error) { return d.taken(&Gradient{}, ids) }

func (d *DB) RecipientIDs(ids []int64) (map[int64]bool, error) { return d.taken(&Recipient{}, ids) }

func (d *DB) taken(model any, ids []int64) (map[int64]bool, error) {
	var found []int64
	if len(ids) > 0 {
		if err := d.g.Model(model).Where("id IN ?", ids).Pluck("id", &found).Error; err != nil {
			return nil, err
		}
	}
	out := map[int64]bool{}
	for _, id := range found {
		out[id] = true
	}
	return out, nil
}

// PointingAt lists the names of the colors whose successor or ground a color is.
func (d *DB) PointingAt(house, id int64) ([]string, error) {
	var names []string
	err := d.g.Model(&Color{}).Where("house_id = ? AND (successor_id = ? OR ground_id = ? OR id IN (SELECT color_id FROM companions WHERE ground_id = ?))",
		house, id, id, id).Order("position, id").Pluck("name", &names).Error
	return names, err
}

// DraftNames lists the names of a house's drafts.
func (d *DB) DraftNames(house int64) ([]string, error) {
	var names []string
	err := d.g.Model(&Color{}).Where("house_id = ? AND status = 'draft'", house).Pluck("name", &names).Error
	return names, err
}

// Events lists the history of a color, newest first: those before an event, or the newest for 0; most of them.
func (d *DB) Events(color, before int64, most int) ([]library.Event, error) {
	q := d.g.Where("color_id = ?", color)
	if before != 0 {
		q = q.Where("id < ?", before)
	}
	rows, err := many[ColorEvent](q.Order("id DESC").Limit(most))
	var out []library.Event
	for _, r := range rows {
		out = append(out, r.event())
	}
	return out, err
}

// AllEvents lists the history of every color of a house, oldest first.
func (d *DB) AllEvents(house int64) (map[int64][]library.Event, error) {
	rows, err := many[ColorEvent](d.g.Select("color_events.*").Joins("JOIN colors ON colors.id = color_events.color_id").Where("colors.house_id = ?", house).Order("color_events.id"))
	out := map[int64][]library.Event{}
	for _, r := range rows {
		out[r.ColorID] = append(out[r.ColorID], r.event())
	}
	return out, err
}

// EventsSince lists what happened to the colors of a house from a time on, oldest first, by color.
func (d *DB) EventsSince(house int64, since time.Time) (map[int64][]library.Event, error) {
	rows, err := many[ColorEvent](d.g.Select("color_events.*").Joins("JOIN colors ON colors.id = color_events.color_id").Where("colors.house_id = ? AND color_events.at >= ?", house, since).Order("color_events.id"))
	out := map[int64][]library.Event{}
	for _, r := range rows {
		out[r.ColorID] = append(out[r.ColorID], r.event())
	}
	return out, err
}

// StatesAt is the state of each color of a house that was there before a time, as it was left last then; empty where it was not kept.
func (d *DB) StatesAt(house int64, at time.Time) (map[int64]string, error) {
	rows, err := many[ColorEvent](d.g.Select("color_events.color_id, color_events.state").
		Joins("JOIN (SELECT e.color_id, MAX(e.id) AS last FROM color_events e JOIN colors c ON c.id = e.color_id WHERE c.house_id = ? AND e.at < ? GROUP BY e.color_id) m ON m.last = color_events.id", house, at))
	out := map[int64]string{}
	for _, r := range rows {
		out[r.ColorID] = r.State
	}
	return out, err
}

// NewestChange is when something of the colors of a house last changed; the zero time where it has none.
func (d *DB) NewestChange(house int64) (time.Time, error) {
	var at sql.NullTime
	err := d.g.Raw("SELECT MAX(e.at) FROM color_events e JOIN colors c ON c.id = e.color_id WHERE c.house_id = ?", house).Row().Scan(&at)
	return at.Time, known(err)
}

// NewestEvents finds the newest entry in the history of each of these colors.
func (d *DB) NewestEvents(colors []int64) (map[int64]int64, error) {
	out := map[int64]int64{}
	if len(colors) == 0 {
		return out, nil
	}
	rows, err := many[ColorEvent](d.g.Select("color_id, MAX(id) AS id").Where("color_id IN ?", colors).Group("color_id"))
	for _, r := range rows {
		out[r.ColorID] = r.ID
	}
	return out, err
}

func (d *DB) Event(color, id int64) (library.Event, error) {
	r, err := one[ColorEvent](d.g.Where("color_id = ? AND id = ?", color, id))
	return r.event(), err
}

// AddEvents writes history, oldest first; each color's events by its id.
func (d *DB) AddEvents(of map[int64][]library.Event, order []int64) error {
	var rows []ColorEvent
	for _, id := range order {
		for _, e := range of[id] {
			rows = append(rows, eventRow(id, e))
		}
	}
	if len(rows) == 0 {
		return nil
	}
	return d.Add(&rows)
}

// KeepRemoved keeps a color that is removed. Removed takes it back out.
func (d *DB) KeepRemoved(r RemovedColor) error { return d.Save(&r) }

func (d *DB) Removed(house, color int64) (RemovedColor, error) {
	r, err := one[RemovedColor](d.locked().Where("house_id = ? AND color_id = ?", house, color))
	if err != nil {
		return r, err
	}
	return r, d.g.Where("house_id = ? AND color_id = ?", house, color).Delete(&RemovedColor{}).Error
}

// Presses lists the press conditions of a house's own, without their profiles.
func (d *DB) Presses(house int64) ([]Press, error) {
	return many[Press](d.g.Omit("profile").Where("house_id = ?", house).Order("id"))
}

func (d *DB) Press(house int64, name string) (Press, error) {
	return one[Press](d.g.Where("house_id = ? AND name = ?", house, name))
}

func (d *DB) DeletePress(house int64, name string) error {
	return gone(d.g.Where("house_id = ? AND name = ?", house, name).Delete(&Press{}))
}

// BuiltFor names the colors of a house that have an approved build for a press.
func (d *DB) BuiltFor(house int64, press string) (names []string, err error) {
	return names, d.g.Model(&Color{}).Joins("JOIN builds ON builds.color_id = colors.id").Where("colors.house_id = ? AND builds.press = ?",
		house, press).Order("colors.name").Pluck("colors.name", &names).Error
}

// BuiltCounts counts the colors of a house that have an approved build, by press.
func (d *DB) BuiltCounts(house int64) (map[string]int, error) {
	var rows []struct {
		Press string
		N     int
	}
	err := d.g.Model(&Build{}).Joins("JOIN colors ON colors.id = builds.color_id").Where("colors.house_id = ?",
		house).Select("builds.press, COUNT(*) AS n").Group("builds.press").Scan(&rows).Error
	out := map[string]int{}
	for _, r := range rows {
		out[r.Press] = r.N
	}
	return out, err
}

// InkClasses are the classes of inks that are meant in a house, one a line; empty for all.
func (d *DB) InkClasses(house int64) (classes string, err error) {
	return classes, d.g.Model(&House{}).Where("id = ?", house).Pluck("ink_classes", &classes).Error
}

// InkBookLine is a house's own ink book without its inks.
func (d *DB) InkBookLine(house int64) (InkBook, error) {
	return one[InkBook](d.g.Omit("data").Where("house_id = ?", house))
}

func (d *DB) InkBook(house int64) (InkBook, error) {
	return one[InkBook](d.g.Where("house_id = ?", house))
}

func (d *DB) DeleteInkBook(house int64) error {
	return gone(d.g.Where("house_id = ?", house).Delete(&InkBook{}))
}

// ApprovedInk is an ink that was approved for a color on a stock.
type ApprovedInk struct {
	ColorID     int64
	Name        string // of the color
	Stock, Code string
}

// ApprovedInks lists the inks that are approved in a house. An ink that decides a color is kept with how it looks, and needs no book.
func (d *DB) ApprovedInks(house int64) (out []ApprovedInk, err error) {
	err = d.g.Model(&Spot{}).Select("spots.color_id, colors.name, spots.stock, spots.code").Joins("JOIN colors ON colors.id = spots.color_id").
		Where("colors.house_id = ? AND spots.origin <> 'master'", house).Order("colors.id, spots.stock").Scan(&out).Error
	return out, err
}

// Gradients lists the gradients of a house with the names of their colors.
func (d *DB) Gradients(house int64) ([]library.Gradient, error) {
	rows, err := many[Gradient](d.g.Where("house_id = ?", house).Order("id"))
	if err != nil {
		return nil, err
	}
	out := make([]library.Gradient, len(rows))
	at := map[int64]int{}
	for i, r := range rows {
		out[i], at[r.ID] = r.gradient(), i
	}
	return out, d.scan(`SELECT s.gradient_id, s.color_id, s.place, c.name FROM gradient_stops s JOIN gradients g ON g.id = s.gradient_id JOIN colors c ON c.id = s.color_id
		WHERE g.house_id = ? ORDER BY s.gradient_id, s.position`, []any{house}, func(rows *sql.Rows) error {
		var id int64
		var s library.Stop
		err := rows.Scan(&id, &s.Color.ID, &s.Place, &s.Color.Name)
		if i, ok := at[id]; ok {
			out[i].Stops = append(out[i].Stops, s)
		}
		return err
	})
}

// GradientToChange reads a gradient without its stops and keeps others from changing it.
func (d *DB) GradientToChange(house, id int64) (library.Gradient, error) {
	r, err := one[Gradient](d.locked().Where("house_id = ? AND id = ?", house, id))
	return r.gradient(), err
}

// PutGradient writes a gradient with its stops. One with an id is there already, unless it is fresh.
func (d *DB) PutGradient(house int64, g library.Gradient, fresh bool) error {
	row, stops := gradientRow(house, g)
	var err error
	if fresh || g.ID == 0 {
		err = d.Add(&row)
	} else {
		err = d.Save(&row)
	}
	if err != nil {
		return err
	}
	if err := d.g.Where("gradient_id = ?", row.ID).Delete(&GradientStop{}).Error; err != nil {
		return err
	}
	for i := range stops {
		stops[i].GradientID = row.ID
	}
	return d.Add(&stops)
}

func (d *DB) DeleteGradient(house, id int64) error {
	return gone(d.g.Where("house_id = ? AND id = ?", house, id).Delete(&Gradient{}))
}

// GradientsOf lists the names of the gradients that run through a color.
func (d *DB) GradientsOf(house, color int64) ([]string, error) {
	var names []string
	err := d.g.Model(&Gradient{}).Where("house_id = ? AND id IN (SELECT gradient_id FROM gradient_stops WHERE color_id = ?)", house,
		color).Order("name").Pluck("name", &names).Error
	return names, err
}

// Pairs lists the rules about pairs of a house, in the order of its colors, with their names.
func (d *DB) Pairs(house int64) (out []library.Pair, err error) {
	return out, d.scan(`SELECT p.color_id, c.name, p.ground_id, g.name, p.may, p.ratio, p.by_user, p.by_name, p.at FROM pairs p
		JOIN colors c ON c.id = p.color_id JOIN colors g ON g.id = p.ground_id
		WHERE p.house_id = ? ORDER BY c.position, c.id, p.may DESC, g.position, g.id`, []any{house}, func(rows *sql.Rows) error {
		var p library.Pair
		var by *int64
		err := rows.Scan(&p.Color.ID, &p.Color.Name, &p.Ground.ID, &p.Ground.Name, &p.May, &p.Ratio, &by, &p.By.Name, &p.At)
		p.By = person(by, p.By.Name)
		out = append(out, p)
		return err
	})
}

// PutPair writes the rule about a pair, in place of one that there was.
func (d *DB) PutPair(house int64, p library.Pair) error {
	return d.Save(&Pair{p.Color.ID, p.Ground.ID, house, p.May, p.Ratio, pointer(p.By.Account), p.By.Name, p.At})
}

func (d *DB) DeletePair(house, of, ground int64) error {
	return gone(d.g.Where("house_id = ? AND color_id = ? AND ground_id = ?", house, of, ground).Delete(&Pair{}))
}

// ComputedKey names a master value among what was computed: its hex where that decides, else a hash of what does.
func ComputedKey(c library.Color) string {
	if c.Master.Kind == library.OfHex {
		return c.RGB.Hex()
	}
	sum := sha256.Sum256([]byte(c.Master.String()))
	return fmt.Sprintf("~%x", sum[:20])
}

// computedKey is ComputedKey in the database.
const computedKey = "CASE WHEN master = '' THEN hex ELSE CONCAT('~', LEFT(SHA2(master, 256), 40)) END"

// Computed reads what is known for a subject of the master values of a house's colors, by ComputedKey.
func (d *DB) Computed(subject string, house int64) (map[string][]byte, error) {
	out := map[string][]byte{}
	return out, d.scan("SELECT x.hex, x.answer FROM computed x JOIN (SELECT DISTINCT "+computedKey+
		" AS k FROM colors WHERE house_id = ?) c ON c.k = x.hex WHERE x.subject = ?",
		[]any{house, subject}, func(rows *sql.Rows) error {
			var hex string
			var answer []byte
			err := rows.Scan(&hex, &answer)
			out[hex] = answer
			return err
		})
}

// KeepComputed keeps answers, whoever computed them first.
func (d *DB) KeepComputed(rows []Computed) error {
	return known(d.g.Clauses(clause.OnConflict{DoNothing: true}).CreateInBatches(&rows, 2000).Error)
}

// ForgetComputed drops answers for values that no color has.
func (d *DB) ForgetComputed() error {
	return known(d.g.Where("hex NOT IN (SELECT " + computedKey + " FROM colors)").Delete(&Computed{}).Error)
}

// EmptyHouse takes everything of a house away but its members, trays, starters and audits.
func (d *DB) EmptyHouse(house int64) error {
	if err := d.dropEditions(house); err != nil {
		return err
	}
	for _, table := range []any{&Gradient{}, &Pair{}, &SwatchSet{}, &Recipient{}, &Color{}, &ColorGroup{}, &Press{}, &InkBook{},
		&RemovedColor{}} {
		if err := d.g.Where("house_id = ?", house).Delete(table).Error; err != nil {
			return fmt.Errorf("emptying the house: %w", known(err))
		}
	}
	return nil
}
