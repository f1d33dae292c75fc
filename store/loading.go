package store

import (
	"time"

	"gorm.io/gorm"
	"gorm.io/gorm/clause"
)

// LoadingNote is what a house says of how files are loaded, by a key of core/swatchfile/loading.txt.
type LoadingNote struct {
	HouseID   int64  `gorm:"primaryKey;autoIncrement:false"`
	Note      string `gorm:"primaryKey"`
	Text      string
	Picture   []byte // PNG; empty for none
	Version   int
	ByName    string
	ChangedAt time.Time
}

// Trouble is a file that a recipient could not load.
type Trouble struct {
	ID          int64 `gorm:"primaryKey"`
	HouseID     int64
	RecipientID int64
	SetID       int64
	Number      int
	Packing     string
	Tried       string // what was done and seen; empty if nothing was said
	Times       int    // that it was said
	At          time.Time
	LastAt      time.Time
	SettledAt   *time.Time
	SettledBy   string
}

// LoadingNotes lists what a house says, with pictures or, where they are not wanted, a byte for each.
func (d *DB) LoadingNotes(house int64, pictures bool) ([]LoadingNote, error) {
	q := d.g.Where("house_id = ?", house).Order("note")
	if !pictures {
		q = q.Select("house_id, note, text, LEFT(picture, 1) AS picture, version, by_name, changed_at")
	}
	return many[LoadingNote](q)
}

// LoadingNote is one of them, with its picture; ErrNotFound if there is none.
func (d *DB) LoadingNote(house int64, note string) (LoadingNote, error) {
	return one[LoadingNote](d.g.Where("house_id = ? AND note = ?", house, note))
}

// DropLoadingNote takes one back.
func (d *DB) DropLoadingNote(house int64, note string) error {
	return d.g.Where("house_id = ? AND note = ?", house, note).Delete(&LoadingNote{}).Error
}

// DropLoadingNotes takes all of a house back.
func (d *DB) DropLoadingNotes(house int64) error {
	return d.g.Where("house_id = ?", house).Delete(&LoadingNote{}).Error
}

// Trouble notes that a recipient could not load a file. The same again is counted; what is said of it then takes the place of what was
// said.
func (d *DB) Trouble(t Trouble) error {
	again := map[string]any{"times": gorm.Expr("times + 1"), "last_at": t.LastAt, "settled_at": nil, "settled_by": ""}
	if t.Tried != "" {
		again["tried"] = t.Tried
	}
	return d.g.Clauses(clause.OnConflict{DoUpdates: clause.Assignments(again)}).Create(&t).Error
}

// OpenTrouble is a trouble that nobody settled, with the names of what it is about.
type OpenTrouble struct {
	Trouble
	Recipient, SetName string
}

// OpenTroubles lists what recipients of the house could not load and nobody settled, newest first. Those of recipients and sets that were
// removed are not among them.
func (d *DB) OpenTroubles(house int64, most int) ([]OpenTrouble, error) {
	return many[OpenTrouble](d.g.Table("troubles").Select("troubles.*, recipients.name AS recipient, swatch_sets.name AS set_name").
		Joins("JOIN recipients ON recipients.id = troubles.recipient_id AND recipients.removed = 0 AND recipients.house_id = troubles.house_id").
		Joins("JOIN swatch_sets ON swatch_sets.id = troubles.set_id AND swatch_sets.removed = 0").
		Where("troubles.house_id = ? AND troubles.settled_at IS NULL", house).Order("troubles.last_at DESC, troubles.id DESC").Limit(most))
}

// SettleTrouble marks one as settled, or opens it again.
func (d *DB) SettleTrouble(house, id int64, at *time.Time, by string) error {
	var n int64
	if err := d.g.Model(&Trouble{}).Where("house_id = ? AND id = ?", house, id).Count(&n).Error; err != nil {
		return err
	} else if n == 0 {
		return ErrNotFound
	}
	return d.g.Model(&Trouble{}).Where("house_id = ? AND id = ?", house,
		id).Updates(map[string]any{"settled_at": at, "settled_by": by}).Error
}

// SettleTroublesOf settles what a recipient could not load of an edition, since it did.
func (d *DB) SettleTroublesOf(recipient, set int64, number int, at time.Time, by string) error {
	return d.g.Model(&Trouble{}).Where("recipient_id = ? AND set_id = ? AND number = ? AND settled_at IS NULL", recipient, set, number).
		Updates(map[string]any{"settled_at": at, "settled_by": by}).Error
}

// LoadedBy is how many recipients of a kind took or fetched a packing.
type LoadedBy struct {
	Kind, Packing string
	Recipients    int
}

// LoadedByKind counts who took or fetched what; the rows without a packing count who took or fetched anything.
func (d *DB) LoadedByKind(house int64) ([]LoadedBy, error) {
	var out []LoadedBy
	err := d.g.Raw(`SELECT r.kind, COALESCE(d.packing, '') AS packing, COUNT(DISTINCT d.recipient_id) AS recipients FROM deliveries d JOIN recipients r ON r.id = d.recipient_id
		WHERE r.house_id = ? AND r.removed = 0 AND d.packing <> '' AND (d.ok OR d.way = 'pickup') GROUP BY r.kind, d.packing WITH ROLLUP HAVING r.kind IS NOT NULL`, house).Scan(&out).Error
	return out, known(err)
}

// LoadedAt is when a recipient took an edition, or said that it is loaded.
type LoadedAt struct {
	Recipient int64
	Number    int
	At        time.Time
}

// LoadedOf lists who loaded which edition of a set when, oldest first. What a browser fetched does not count.
func (d *DB) LoadedOf(set int64) ([]LoadedAt, error) {
	var out []LoadedAt
	err := d.g.Raw(`SELECT recipient_id AS recipient, number, MIN(COALESCE(received_at, sent_at)) AS at FROM deliveries
		WHERE set_id = ? AND ok AND NOT (way = 'pickup' AND packing <> '' AND client = 'a browser') GROUP BY recipient_id, number ORDER BY at`, set).Scan(&out).Error
	return out, known(err)
}
