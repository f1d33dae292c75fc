package store

import (
	"database/sql"
	"encoding/json"
	"slices"
	"strings"
	"time"

	"gorm.io/gorm"
	"gorm.io/gorm/clause"

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
func (d *DB) Sets(house int64) ([]SetWith, error) {
	return d.sets(d.g, "house_id = ? AND removed = 0", house)
}

// RemovedSet reads a set that was removed.
func (d *DB) RemovedSet(house, id int64) (SetWith, error) {
	return single(d.sets(d.locked(), "house_id = ? AND id = ? AND removed > 0", house, id))
}

func (d *DB) Set(house, id int64) (SetWith, error) {
	return single(d.sets(d.g, "house_id = ? AND id = ? AND removed = 0", house, id))
}

// SetToChange reads a set and keeps others from changing it, from fixing it and from deleting it.
func (d *DB) SetToChange(house, id int64) (SetWith, error) {
	return single(d.sets(d.locked(), "house_id = ? AND id = ? AND removed = 0", house, id))
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

// SetsOf lists the sets that colors are in, in the order of the sets, with their places there.
func (d *DB) SetsOf(house int64, colors ...int64) ([]SetPlace, error) {
	var out []SetPlace
	return out, d.scan(`SELECT m.color_id, s.id, s.name, m.position FROM set_colors m JOIN swatch_sets s ON s.id = m.set_id
		WHERE s.house_id = ? AND s.removed = 0 AND m.color_id IN ? ORDER BY s.position, s.id`,
		[]any{house, colors}, func(rows *sql.Rows) error {
			var p SetPlace
			err := rows.Scan(&p.Color, &p.Set, &p.Name, &p.Position)
			out = append(out, p)
			return err
		})
}

// SetPlace is the place of a color in a set.
type SetPlace struct {
	Color    int64
	Set      int64
	Name     string
	Position int
}

// EditionLines lists the editions of every set of a house, newest first within a set, without their content.
func (d *DB) EditionLines(house int64) ([]EditionLine, error) {
	var out []EditionLine
	return out, d.scan(`SELECT e.set_id, e.number, e.fixed_at, e.by_user, e.by_name, e.note, e.withdrawn_at, e.withdrawn_by, e.withdrawn_why, (SELECT COUNT(*) FROM edition_colors c WHERE c.set_id = e.set_id AND c.number = e.number)
		FROM editions e WHERE e.house_id = ? ORDER BY e.set_id, e.number DESC`, []any{house}, func(rows *sql.Rows) error {
		var l EditionLine
		var by *int64
		err := rows.Scan(&l.SetID, &l.Number, &l.FixedAt, &by, &l.By.Name, &l.Note, &l.WithdrawnAt, &l.WithdrawnBy, &l.WithdrawnWhy,
			&l.Count)
		l.By.Account = number(by)
		out = append(out, l)
		return err
	})
}

// NewestEditions reads the newest edition in force of each set of a house, by set.
func (d *DB) NewestEditions(house int64) (map[int64]library.Edition, error) {
	rows, err := many[Edition](d.g.Where("house_id = ? AND number = (SELECT MAX(n.number) FROM editions n WHERE n.set_id = editions.set_id AND n.withdrawn_at IS NULL)", house))
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

// Withdraw says of an edition that it is withdrawn, or no longer.
func (d *DB) Withdraw(house, set int64, number int, at *time.Time, by, why string) error {
	r := d.g.Model(&Edition{}).Where("house_id = ? AND set_id = ? AND number = ?", house, set, number).
		Updates(map[string]any{"withdrawn_at": at, "withdrawn_by": by, "withdrawn_why": why})
	return gone(r)
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
	Color  int64
	Set    int64
	Name   string // of the set
	Number int
	Newest bool // in force of its set
	Hex    string
}

// HoldingsOf lists every edition that holds one of these colors, newest first within a set.
func (d *DB) HoldingsOf(house int64, colors ...int64) ([]Holding, error) {
	var out []Holding
	return out, d.scan(`SELECT c.color_id, s.id, s.name, c.number, c.number <=> (SELECT MAX(e.number) FROM editions e WHERE e.set_id = s.id AND e.withdrawn_at IS NULL), c.hex
		FROM edition_colors c JOIN swatch_sets s ON s.id = c.set_id WHERE s.house_id = ? AND s.removed = 0 AND c.color_id IN ? ORDER BY s.position, s.id, c.number DESC`,
		[]any{house, colors}, func(rows *sql.Rows) error {
			var h Holding
			err := rows.Scan(&h.Color, &h.Set, &h.Name, &h.Number, &h.Newest, &h.Hex)
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
	return out, d.scan(`SELECT d.set_id, r.id, r.name, MAX(d.number) FROM deliveries d JOIN recipients r ON r.id = d.recipient_id WHERE r.house_id = ? AND r.removed = 0 AND d.ok
		GROUP BY d.set_id, r.id, r.name ORDER BY r.id`, []any{house}, func(rows *sql.Rows) error {
		var t Taken
		err := rows.Scan(&t.Set, &t.Recipient, &t.Name, &t.Number)
		out = append(out, t)
		return err
	})
}

func (d *DB) Recipients(house int64) ([]Recipient, error) {
	return many[Recipient](d.g.Where("house_id = ? AND removed = 0", house).Order("id"))
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
	return one[Recipient](d.g.Where("house_id = ? AND id = ? AND removed = 0", house, id))
}

// RecipientToChange reads a recipient, one that was removed too, and keeps others from changing it.
func (d *DB) RecipientToChange(house, id int64) (Recipient, error) {
	return one[Recipient](d.locked().Where("house_id = ? AND id = ?", house, id))
}

// Receive puts a receipt on record that may come again: the same one is counted and not repeated.
func (d *DB) Receive(r Delivery) error {
	return d.g.Clauses(clause.OnConflict{DoUpdates: clause.Assignments(map[string]any{"times": gorm.Expr("times + ?", r.Times),
		"last_at": r.LastAt})}).Create(&r).Error
}

// ReceiptsOf lists what a recipient was sent and what came back, newest first: from behind one on, 0 for the newest, and only those with
// all the words in them or in the name of their set.
func (d *DB) ReceiptsOf(recipient, before int64, words []string, most int) ([]Delivery, error) {
	q := d.g.Select("deliveries.*").Joins("JOIN swatch_sets s ON s.id = deliveries.set_id").Where("deliveries.recipient_id = ?", recipient)
	if before > 0 {
		q = q.Where("deliveries.id < ?", before)
	}
	for _, w := range words {
		q = q.Where("LOCATE(?, LOWER(CONCAT_WS(' ', s.name, CONCAT('edition ', deliveries.number), deliveries.packing, deliveries.message, deliveries.client, deliveries.by_name))) > 0", strings.ToLower(w))
	}
	return many[Delivery](q.Order("deliveries.id DESC").Limit(most))
}

// Answer says of a sending what is known of it by now; refused means that it came back without having been taken.
func (d *DB) Answer(delivery int64, message string, refused bool, at time.Time) error {
	values := map[string]any{"message": message}
	if refused {
		values["received_at"] = at
	}
	return d.g.Model(&Delivery{}).Where("id = ?", delivery).Updates(values).Error
}

// SetSlug puts down what the files of a set are called.
func (d *DB) SetSlug(set int64, slug string) error {
	return d.g.Model(&SwatchSet{}).Where("id = ?", set).Update("slug", slug).Error
}

// EditionHexes lists the values of editions, in order, by set and number.
func (d *DB) EditionHexes(house int64, which [][2]int64) (map[[2]int64][]string, error) {
	out := map[[2]int64][]string{}
	if len(which) == 0 {
		return out, nil
	}
	places, args := strings.Repeat(", (?, ?)", len(which))[2:], []any{house}
	for _, w := range which {
		args = append(args, w[0], w[1])
	}
	return out, d.scan("SELECT c.set_id, c.number, c.hex FROM edition_colors c JOIN swatch_sets s ON s.id = c.set_id WHERE s.house_id = ? AND (c.set_id, c.number) IN ("+places+") ORDER BY c.set_id, c.number, c.position",
		args, func(rows *sql.Rows) error {
			var k [2]int64
			var hex string
			err := rows.Scan(&k[0], &k[1], &hex)
			out[k] = append(out[k], hex)
			return err
		})
}

// SetNames names the sets of a house by id, removed ones too.
func (d *DB) SetNames(house int64) (map[int64]string, error) {
	rows, err := many[SwatchSet](d.g.Select("id, name").Where("house_id = ?", house))
	out := map[int64]string{}
	for _, r := range rows {
		out[r.ID] = r.Name
	}
	return out, err
}

// Mails lists what a house mailed, newest first.
func (d *DB) Mails(house int64, most int) ([]Mail, error) {
	return many[Mail](d.g.Where("house_id = ?", house).Order("id DESC").Limit(most))
}

// WasMailed says whether a notice of an edition has left for a recipient.
func (d *DB) WasMailed(recipient, set int64, number int) (bool, error) {
	var n int64
	err := d.g.Model(&Mail{}).Where("recipient_id = ? AND set_id = ? AND number = ? AND state = ?", recipient, set, number,
		MailSent).Count(&n).Error
	return n > 0, err
}

func (d *DB) Mail(id int64) (Mail, error) { return one[Mail](d.locked().Where("id = ?", id)) }

// FollowColors brings the sets of a house that follow a role or a tag up to date: approved colors that belong stay in their order or come
// behind in the library's, what no longer belongs leaves.
func (d *DB) FollowColors(house int64) error {
	sets, err := many[SwatchSet](d.g.Where("house_id = ? AND removed = 0 AND follows <> ''", house))
	if err != nil || len(sets) == 0 {
		return err
	}
	colors, err := many[Color](d.g.Where("house_id = ? AND status = 'approved'", house).Order("position, id"))
	if err != nil {
		return err
	}
	for _, s := range sets {
		now, err := many[SetColor](d.g.Where("set_id = ?", s.ID).Order("position"))
		if err != nil {
			return err
		}
		var was, is []int64
		belongs := map[int64]bool{}
		for _, c := range colors {
			if FollowsOf(s.Follows).takes(c) {
				belongs[c.ID] = true
			}
		}
		for _, m := range now {
			was = append(was, m.ColorID)
			if belongs[m.ColorID] {
				is = append(is, m.ColorID)
				delete(belongs, m.ColorID)
			}
		}
		for _, c := range colors {
			if belongs[c.ID] {
				is = append(is, c.ID)
			}
		}
		if slices.Equal(was, is) {
			continue
		}
		if err := d.putSetColors(s.ID, is); err != nil {
			return err
		}
	}
	return nil
}

// Follows is what makes a color belong to a set that keeps itself current; empty for none.
type Follows struct {
	Role string `json:"role,omitempty"`
	Tag  string `json:"tag,omitempty"`
}

// FollowsOf reads what a set follows.
func FollowsOf(text string) (f Follows) {
	_ = json.Unmarshal([]byte(text), &f) // it is written below, and an empty text follows nothing
	return f
}

// String is how it is kept; empty for nothing.
func (f Follows) String() string {
	if f == (Follows{}) {
		return ""
	}
	text, err := json.Marshal(f)
	if err != nil {
		return ""
	}
	return string(text)
}

func (f Follows) takes(c Color) bool {
	if f == (Follows{}) || f.Role != "" && c.Role != f.Role {
		return false
	}
	tagged := func(t string) bool { return NameKey(t) == NameKey(f.Tag) }
	return f.Tag == "" || slices.ContainsFunc(strings.Split(c.Tags, "\n"), tagged)
}

// Standing lists those deliveries of a house that say how its recipients stand, oldest first: for each set and recipient the last sending,
// what was taken of the newest edition that was, and what was fetched last. What was sent over the years before is not read.
func (d *DB) Standing(house int64) ([]Delivery, error) {
	var out []Delivery
	err := d.g.Raw(`SELECT d.* FROM deliveries d JOIN (
			SELECT x.set_id, x.recipient_id, MAX(x.id) AS last, MAX(IF(x.ok AND NOT (x.way = 'pickup' AND x.packing <> '' AND x.client = 'a browser'), x.number, 0)) AS best, MAX(x.number) AS newest, MAX(x.last_at) AS fetched
			FROM deliveries x JOIN recipients r ON r.id = x.recipient_id WHERE r.house_id = ? GROUP BY x.set_id, x.recipient_id
		) m ON m.set_id = d.set_id AND m.recipient_id = d.recipient_id JOIN deliveries l ON l.id = m.last
		WHERE d.id = m.last OR d.sent_at = l.sent_at OR d.ok AND d.number = m.best OR d.number = m.newest OR d.last_at = m.fetched ORDER BY d.id`, house).Scan(&out).Error
	return out, err
}

// Deliveries lists what went out of a house, oldest first.
func (d *DB) Deliveries(house int64) ([]Delivery, error) {
	return many[Delivery](d.g.Select("deliveries.*").Joins("JOIN recipients ON recipients.id = deliveries.recipient_id").
		Where("recipients.house_id = ?", house).Order("deliveries.id"))
}

// PackedFile is what was packed of an edition once, by what was asked for.
// PackedFiles lists what was packed of a house's editions.
func (d *DB) PackedFiles(house int64) ([]PackedFile, error) {
	return many[PackedFile](d.g.Where("house_id = ?", house))
}

func (d *DB) PackedFile(house, set int64, number int, key string) (PackedFile, error) {
	return one[PackedFile](d.g.Where("house_id = ? AND set_id = ? AND number = ? AND packing_key = ?", house, set, number, key))
}
