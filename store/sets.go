package store

import (
	"database/sql"

	"gorm.io/gorm"

	"huekeep/core/library"
)

// SetWith is a swatch set with the ids of its colors in order.
type SetWith struct {
	SwatchSet
	Colors []int64
}

func (d *DB) sets(q *gorm.DB, where string, args ...any) ([]SetWith, error) {
	rows, err := many[SwatchSet](q.Where(where, args...).Order("position, id"))
	if err != nil || len(rows) == 0 {
		return nil, err
	}
	out := make([]SetWith, len(rows))
	at := map[int64]int{}
	for i, r := range rows {
		out[i].SwatchSet, at[r.ID] = r, i
	}
	return out, d.scan("SELECT m.set_id, m.color_id FROM set_colors m JOIN swatch_sets s ON s.id = m.set_id WHERE s.house_id = ? ORDER BY m.set_id, m.position",
		[]any{rows[0].HouseID}, func(rows *sql.Rows) error {
			var set, color int64
			err := rows.Scan(&set, &color)
			if i, ok := at[set]; ok {
				out[i].Colors = append(out[i].Colors, color)
			}
			return err
		})
}

// Sets lists the swatch sets of a house in order.
func (d *DB) Sets(house int64) ([]SetWith, error) { return d.sets(d.g, "house_id = ?", house) }

func (d *DB) Set(house, id int64) (SetWith, error) {
	return single(d.sets(d.g, "house_id = ? AND id = ?", house, id))
}

// SetToChange reads a set and keeps others from changing it, from fixing it and from deleting it.
func (d *DB) SetToChange(house, id int64) (SetWith, error) {
	return single(d.sets(d.locked(), "house_id = ? AND id = ?", house, id))
}

// AddSet inserts a set with its colors.
func (d *DB) AddSet(s *SetWith) error {
	if err := d.Add(&s.SwatchSet); err != nil {
		return err
	}
	return d.putSetColors(s.ID, s.Colors)
}

// SaveSet writes a set with its colors.
func (d *DB) SaveSet(s SetWith) error {
	if err := d.Save(&s.SwatchSet); err != nil {
		return err
	}
	return d.putSetColors(s.ID, s.Colors)
}

func (d *DB) putSetColors(set int64, colors []int64) error {
	if err := d.g.Where("set_id = ?", set).Delete(&SetColor{}).Error; err != nil {
		return err
	}
	rows := make([]SetColor, len(colors))
	for i, c := range colors {
		rows[i] = SetColor{set, c, i}
	}
	if len(rows) == 0 {
		return nil
	}
	return d.Add(&rows)
}

// DeleteSet deletes a set; one with editions is ErrGone.
func (d *DB) DeleteSet(house, id int64) error {
	return gone(d.g.Where("house_id = ? AND id = ?", house, id).Delete(&SwatchSet{}))
}

// SetsOf lists the sets that a color is in, by id, with its place there.
func (d *DB) SetsOf(house, color int64) ([]SetPlace, error) {
	var out []SetPlace
	return out, d.scan("SELECT s.id, s.name, m.position FROM set_colors m JOIN swatch_sets s ON s.id = m.set_id WHERE s.house_id = ? AND m.color_id = ? ORDER BY s.position, s.id",
		[]any{house, color}, func(rows *sql.Rows) error {
			var p SetPlace
			err := rows.Scan(&p.Set, &p.Name, &p.Position)
			out = append(out, p)
			return err
		})
}

// SetPlace is the place of a color in a set.
type SetPlace struct {
	Set      int64
	Name     string
	Position int
}

// EditionLines lists the editions of every set of a house, newest first within a set, without their content.
func (d *DB) EditionLines(house int64) ([]EditionLine, error) {
	var out []EditionLine
	return out, d.scan(`SELECT e.set_id, e.number, e.fixed_at, e.by_user, e.by_name, (SELECT COUNT(*) FROM edition_colors c WHERE c.set_id = e.set_id AND c.number = e.number)
		FROM editions e WHERE e.house_id = ? ORDER BY e.set_id, e.number DESC`, []any{house}, func(rows *sql.Rows) error {
		var l EditionLine
		var by *int64
		err := rows.Scan(&l.SetID, &l.Number, &l.FixedAt, &by, &l.By.Name, &l.Count)
		l.By.Account = number(by)
		out = append(out, l)
		return err
	})
}

// NewestEditions reads the newest edition of each set of a house, by set.
func (d *DB) NewestEditions(house int64) (map[int64]library.Edition, error) {
	rows, err := many[Edition](d.g.Where("house_id = ? AND number = (SELECT MAX(n.number) FROM editions n WHERE n.set_id = editions.set_id)", house))
	return editionsOf(rows, err, func(e Edition) int64 { return e.SetID })
}

func editionsOf(rows []Edition, err error, key func(Edition) int64) (map[int64]library.Edition, error) {
	out := map[int64]library.Edition{}
	for _, r := range rows {
		if out[key(r)], err = r.edition(); err != nil {
			return nil, err
		}
	}
	return out, err
}

// EditionsOf lists every edition of a set, oldest first, with its content.
func (d *DB) EditionsOf(house, set int64) ([]library.Edition, error) {
	rows, err := many[Edition](d.g.Where("house_id = ? AND set_id = ?", house, set).Order("number"))
	var out []library.Edition
	for _, r := range rows {
		e, err := r.edition()
		if err != nil {
			return nil, err
		}
		out = append(out, e)
	}
	return out, err
}

func (d *DB) Edition(house, set int64, number int) (library.Edition, error) {
	r, err := one[Edition](d.g.Where("house_id = ? AND set_id = ? AND number = ?", house, set, number))
	if err != nil {
		return library.Edition{}, err
	}
	return r.edition()
}

// AddEdition writes an edition of a set, once and for all.
func (d *DB) AddEdition(house, set int64, e library.Edition) error {
	row, colors, err := editionRows(house, set, e)
	if err != nil {
		return err
	}
	if err := d.Add(&row); err != nil || len(colors) == 0 {
		return err
	}
	return d.Add(&colors)
}

// dropEditions deletes the editions of a house, with who got them; only for a house that is emptied whole.
func (d *DB) dropEditions(house int64) error {
	return known(d.g.Where("house_id = ?", house).Delete(&Edition{}).Error)
}

// Holding is an edition that holds a color.
type Holding struct {
	Set    int64
	Name   string // of the set
	Number int
	Newest bool // of its set
	Hex    string
}

// HoldingsOf lists every edition that holds a color, newest first within a set.
func (d *DB) HoldingsOf(house, color int64) ([]Holding, error) {
	var out []Holding
	return out, d.scan(`SELECT s.id, s.name, c.number, c.number = (SELECT MAX(e.number) FROM editions e WHERE e.set_id = s.id), c.hex
		FROM edition_colors c JOIN swatch_sets s ON s.id = c.set_id WHERE s.house_id = ? AND c.color_id = ? ORDER BY s.position, s.id, c.number DESC`,
		[]any{house, color}, func(rows *sql.Rows) error {
			var h Holding
			err := rows.Scan(&h.Set, &h.Name, &h.Number, &h.Newest, &h.Hex)
			out = append(out, h)
			return err
		})
}

// Taken is the newest edition of a set that a recipient took.
type Taken struct {
	Set, Recipient int64
	Name           string // of the recipient
	Number         int
}

// Taken lists the newest edition of each set that each recipient of a house took.
func (d *DB) Taken(house int64) ([]Taken, error) {
	var out []Taken
	return out, d.scan(`SELECT d.set_id, r.id, r.name, MAX(d.number) FROM deliveries d JOIN recipients r ON r.id = d.recipient_id WHERE r.house_id = ? AND d.ok
		GROUP BY d.set_id, r.id, r.name ORDER BY r.id`, []any{house}, func(rows *sql.Rows) error {
		var t Taken
		err := rows.Scan(&t.Set, &t.Recipient, &t.Name, &t.Number)
		out = append(out, t)
		return err
	})
}

func (d *DB) Recipients(house int64) ([]Recipient, error) {
	return many[Recipient](d.g.Where("house_id = ?", house).Order("id"))
}

// Suggestions lists those of a house that wait for an answer, newest first.
func (d *DB) Suggestions(house int64) ([]Suggestion, error) {
	return many[Suggestion](d.g.Where("house_id = ?", house).Order("id DESC"))
}

func (d *DB) Suggestion(house, id int64) (Suggestion, error) {
	return one[Suggestion](d.locked().Where("house_id = ? AND id = ?", house, id))
}

func (d *DB) DropSuggestion(id int64) error {
	return d.g.Where("id = ?", id).Delete(&Suggestion{}).Error
}

// RepointEditions counts the editions that hold a color as holding another.
func (d *DB) RepointEditions(from, to int64) error {
	return d.g.Exec("UPDATE edition_colors SET color_id = ? WHERE color_id = ?", to, from).Error
}

// SetRecipients lists the recipients that each set of a house has.
func (d *DB) SetRecipients(house int64) (map[int64][]int64, error) {
	out := map[int64][]int64{}
	return out, d.scan(`SELECT l.set_id, l.recipient_id FROM set_recipients l JOIN recipients r ON r.id = l.recipient_id WHERE r.house_id = ? ORDER BY l.recipient_id`,
		[]any{house}, func(rows *sql.Rows) error {
			var set, recipient int64
			err := rows.Scan(&set, &recipient)
			out[set] = append(out[set], recipient)
			return err
		})
}

// JoinSet puts a recipient on a set; one that is there stays.
func (d *DB) JoinSet(set, recipient int64) error {
	return d.g.Exec("INSERT IGNORE INTO set_recipients (set_id, recipient_id) VALUES (?, ?)", set, recipient).Error
}

// LeaveSet takes a recipient off a set; what it was sent stays on record.
func (d *DB) LeaveSet(set, recipient int64) error {
	return d.g.Exec("DELETE FROM set_recipients WHERE set_id = ? AND recipient_id = ?", set, recipient).Error
}

func (d *DB) Recipient(house, id int64) (Recipient, error) {
	return one[Recipient](d.g.Where("house_id = ? AND id = ?", house, id))
}

// Deliveries lists what went out of a house, oldest first.
func (d *DB) Deliveries(house int64) ([]Delivery, error) {
	return many[Delivery](d.g.Select("deliveries.*").Joins("JOIN recipients ON recipients.id = deliveries.recipient_id").
		Where("recipients.house_id = ?", house).Order("deliveries.id"))
}
