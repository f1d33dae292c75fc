package store

import (
	"time"

	"gorm.io/gorm"
	"gorm.io/gorm/clause"
)

func one[T any](q *gorm.DB) (T, error) {
	var row T
	err := known(q.Take(&row).Error)
	return row, err
}

func many[T any](q *gorm.DB) ([]T, error) {
	var rows []T
	err := known(q.Find(&rows).Error)
	return rows, err
}

func gone(q *gorm.DB) error {
	if q.Error != nil {
		return known(q.Error)
	}
	if q.RowsAffected == 0 {
		return ErrNotFound
	}
	return nil
}

// locked reads rows that a transaction is going to change, so that another one waits.
func (d *DB) locked() *gorm.DB { return d.g.Clauses(clause.Locking{Strength: "UPDATE"}) }

// People and houses

func (d *DB) UserByEmail(email string) (User, error) { return one[User](d.g.Where("email = ?", email)) }

func (d *DB) User(id int64) (User, error) { return one[User](d.g.Where("id = ?", id)) }

func (d *DB) Users() (int64, error) {
	var n int64
	err := d.g.Model(&User{}).Count(&n).Error
	return n, err
}

// SessionByHash finds a session that has not expired.
func (d *DB) SessionByHash(hash string, now time.Time) (Session, error) {
	return one[Session](d.g.Where("token_hash = ? AND expires_at > ?", hash, now))
}

func (d *DB) EndSession(hash string) error {
	return d.g.Where("token_hash = ?", hash).Delete(&Session{}).Error
}

func (d *DB) EndExpiredSessions(now time.Time) error {
	return d.g.Where("expires_at <= ?", now).Delete(&Session{}).Error
}

func (d *DB) SignInFailure(key string) (SignInFailure, error) {
	return one[SignInFailure](d.g.Where("email_key = ?", key))
}

// CountFailure adds one failed sign-in.
func (d *DB) CountFailure(key string, now time.Time) error {
	return d.g.Clauses(clause.OnConflict{DoUpdates: clause.Assignments(map[string]any{"failures": gorm.Expr("failures + 1"), "last_at": now})}).
		Create(&SignInFailure{key, 1, now}).Error
}

func (d *DB) ForgetFailures(key string) error {
	return d.g.Where("email_key = ?", key).Delete(&SignInFailure{}).Error
}

// Membership is a house with the role that somebody has in it.
type Membership struct {
	House
	Role string
}

func (d *DB) Memberships(user int64) ([]Membership, error) {
	return many[Membership](d.g.Table("houses").Select("houses.*, members.role").
		Joins("JOIN members ON members.house_id = houses.id").Where("members.user_id = ?", user).Order("houses.id"))
}

// Membership finds the role of a user in a house; without one the house does not exist for them.
func (d *DB) Membership(user, house int64) (Membership, error) {
	return one[Membership](d.g.Table("houses").Select("houses.*, members.role").
		Joins("JOIN members ON members.house_id = houses.id").Where("members.user_id = ? AND houses.id = ?", user, house))
}

func (d *DB) House(house int64) (House, error) { return one[House](d.g.Where("id = ?", house)) }

func (d *DB) HouseByName(name string) (House, error) { return one[House](d.g.Where("name = ?", name)) }

// DropHousesWithoutMembers deletes houses that nobody can enter, with all that is in them.
func (d *DB) DropHousesWithoutMembers() error {
	return d.g.Where("id NOT IN (SELECT house_id FROM members)").Delete(&House{}).Error
}

// Colors

func (d *DB) Groups(house int64) ([]ColorGroup, error) {
	return many[ColorGroup](d.g.Where("house_id = ?", house).Order("position, id"))
}

// EnsureGroup finds a group by name or makes it, last in order.
func (d *DB) EnsureGroup(house int64, name string) (int64, error) {
	g, err := d.GroupNamed(house, name)
	if err == nil {
		return g.ID, nil
	}
	if err != ErrNotFound {
		return 0, err
	}
	var last int
	if err := d.g.Model(&ColorGroup{}).Where("house_id = ?", house).Select("COALESCE(MAX(position), 0)").Scan(&last).Error; err != nil {
		return 0, err
	}
	g = ColorGroup{HouseID: house, Name: name, NameKey: NameKey(name), Position: last + 1}
	err = d.Add(&g)
	return g.ID, err
}

// GroupNamed finds a group by name and locks it, so that nobody deletes it before the color that moves into it is saved.
func (d *DB) GroupNamed(house int64, name string) (ColorGroup, error) {
	return one[ColorGroup](d.locked().Where("house_id = ? AND name_key = ?", house, NameKey(name)))
}

// DeleteGroup deletes a group; its colors stay, without one.
func (d *DB) DeleteGroup(house, id int64) error {
	return gone(d.g.Where("house_id = ? AND id = ?", house, id).Delete(&ColorGroup{}))
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
	if err := d.g.Model(&Color{}).Where("house_id = ? AND (position > ? OR position = ? AND id >= ?)", house, next.Position, next.Position, next.ID).
		UpdateColumn("position", gorm.Expr("position + 1")).Error; err != nil {
		return err
	}
	return d.g.Model(&Color{}).Where("house_id = ? AND id = ?", house, id).UpdateColumn("position", next.Position).Error
}

func (d *DB) DeleteColors(house int64, ids []int64) error {
	return d.g.Where("house_id = ? AND id IN ?", house, ids).Delete(&Color{}).Error
}

// PutCompanions replaces the companions of a color.
func (d *DB) PutCompanions(color int64, rows []Companion) error {
	if err := d.g.Where("color_id = ?", color).Delete(&Companion{}).Error; err != nil {
		return err
	}
	if len(rows) == 0 {
		return nil
	}
	return d.Add(&rows)
}

// PutValues replaces the approved builds and inks of a color.
func (d *DB) PutValues(color int64, builds []Build, spots []Spot) error {
	for _, q := range []*gorm.DB{d.g.Where("color_id = ?", color).Delete(&Build{}), d.g.Where("color_id = ?", color).Delete(&Spot{})} {
		if q.Error != nil {
			return q.Error
		}
	}
	if len(builds) > 0 {
		if err := d.Add(&builds); err != nil {
			return err
		}
	}
	if len(spots) > 0 {
		return d.Add(&spots)
	}
	return nil
}

func (d *DB) Event(color, id int64) (ColorEvent, error) {
	return one[ColorEvent](d.g.Where("color_id = ? AND id = ?", color, id))
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

// BuildsFor counts the approved builds of a house for a press.
func (d *DB) BuildsFor(house int64, press string) (int64, error) {
	var n int64
	err := d.g.Model(&Build{}).Joins("JOIN colors ON colors.id = builds.color_id").Where("colors.house_id = ? AND builds.press = ?", house, press).Count(&n).Error
	return n, err
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

// SpotCodes lists the ink codes that are approved in a house, each once.
func (d *DB) SpotCodes(house int64) ([]string, error) {
	var codes []string
	err := d.g.Model(&Spot{}).Joins("JOIN colors ON colors.id = spots.color_id").Where("colors.house_id = ?", house).Distinct().Order("code").Pluck("code", &codes).Error
	return codes, err
}

// Gradients

func byPosition(q *gorm.DB) *gorm.DB { return q.Order("position") }

func (d *DB) Gradients(house int64) ([]Gradient, error) {
	return many[Gradient](d.g.Preload("Stops", byPosition).Where("house_id = ?", house).Order("id"))
}

func (d *DB) GradientToChange(house, id int64) (Gradient, error) {
	return one[Gradient](d.locked().Where("house_id = ? AND id = ?", house, id))
}

func (d *DB) DeleteGradient(house, id int64) error {
	return gone(d.g.Where("house_id = ? AND id = ?", house, id).Delete(&Gradient{}))
}

// PutStops replaces the stops of a gradient.
func (d *DB) PutStops(gradient int64, rows []GradientStop) error {
	if err := d.g.Where("gradient_id = ?", gradient).Delete(&GradientStop{}).Error; err != nil {
		return err
	}
	return d.Add(&rows)
}

// LockHouse keeps other restores of a house waiting until the transaction ends.
func (d *DB) LockHouse(house int64) error {
	_, err := one[House](d.locked().Where("id = ?", house))
	return err
}

// EmptyHouse takes everything of a house away but its members, trays, starters and audits.
func (d *DB) EmptyHouse(house int64) error {
	for _, table := range []any{&Gradient{}, &SwatchSet{}, &Recipient{}, &Color{}, &ColorGroup{}, &Press{}, &InkBook{}} {
		if err := d.g.Where("house_id = ?", house).Delete(table).Error; err != nil {
			return err
		}
	}
	return nil
}

// Colors lists a house's colors in order, with what was approved of them.
func (d *DB) Colors(house int64) ([]Color, error) {
	return many[Color](d.g.Preload("Builds").Preload("Spots").Preload("Companions").Where("house_id = ?", house).Order("position, id"))
}

func (d *DB) Color(house, id int64) (Color, error) {
	return one[Color](d.g.Preload("Builds").Preload("Spots").Preload("Companions").Where("house_id = ? AND id = ?", house, id))
}

func (d *DB) ColorByName(house int64, name string) (Color, error) {
	return one[Color](d.g.Where("house_id = ? AND name_key = ?", house, NameKey(name)))
}

// ColorToChange reads a color and keeps others from changing it until the transaction ends.
func (d *DB) ColorToChange(house, id int64) (Color, error) {
	return one[Color](d.locked().Preload("Builds").Preload("Spots").Preload("Companions").Where("house_id = ? AND id = ?", house, id))
}

// LastPosition is the greatest position of the house's colors, 0 without any.
func (d *DB) LastPosition(house int64) (int, error) {
	var last int
	err := d.g.Model(&Color{}).Where("house_id = ?", house).Select("COALESCE(MAX(position), 0)").Scan(&last).Error
	return last, err
}

func (d *DB) DropBuild(color int64, press string) error {
	return gone(d.g.Where("color_id = ? AND press = ?", color, press).Delete(&Build{}))
}

func (d *DB) DropSpot(color int64, stock string) error {
	return gone(d.g.Where("color_id = ? AND stock = ?", color, stock).Delete(&Spot{}))
}

func (d *DB) Events(color int64) ([]ColorEvent, error) {
	return many[ColorEvent](d.g.Where("color_id = ?", color).Order("id DESC").Limit(500))
}

// AllEvents lists the history of every color of a house, oldest first.
func (d *DB) AllEvents(house int64) ([]ColorEvent, error) {
	return many[ColorEvent](d.g.Joins("JOIN colors ON colors.id = color_events.color_id").Where("colors.house_id = ?", house).Order("color_events.id"))
}

// The tray

func (d *DB) Tray(user, house int64) ([]Candidate, error) {
	return many[Candidate](d.g.Where("user_id = ? AND house_id = ?", user, house).Order("position, id"))
}

// TrayToAdmit reads the tray and keeps a second admission of the same candidates waiting.
func (d *DB) TrayToAdmit(user, house int64) ([]Candidate, error) {
	return many[Candidate](d.locked().Where("user_id = ? AND house_id = ?", user, house).Order("position, id"))
}

func (d *DB) Candidate(user, house, id int64) (Candidate, error) {
	return one[Candidate](d.g.Where("user_id = ? AND house_id = ? AND id = ?", user, house, id))
}

// LastOnTray is the greatest position on a tray, 0 for an empty one.
func (d *DB) LastOnTray(user, house int64) (int, error) {
	var last int
	err := d.g.Model(&Candidate{}).Where("user_id = ? AND house_id = ?", user, house).Select("COALESCE(MAX(position), 0)").Scan(&last).Error
	return last, err
}

// PlaceCandidate gives a candidate a position.
func (d *DB) PlaceCandidate(user, house, id int64, position int) error {
	return d.g.Model(&Candidate{}).Where("user_id = ? AND house_id = ? AND id = ?", user, house, id).Update("position", position).Error
}

func (d *DB) RemoveCandidates(user, house int64, ids ...int64) error {
	return gone(d.g.Where("user_id = ? AND house_id = ? AND id IN ?", user, house, ids).Delete(&Candidate{}))
}

func (d *DB) ClearTray(user, house int64) error {
	return d.g.Where("user_id = ? AND house_id = ?", user, house).Delete(&Candidate{}).Error
}

// Starters

// Starters lists what members of a house added, without the private ones of others.
func (d *DB) Starters(user, house int64) ([]Starter, error) {
	return many[Starter](d.g.Where("house_id = ? AND (NOT private OR user_id = ?)", house, user).Order("id"))
}

func (d *DB) DeleteStarter(user, house, id int64) error {
	return gone(d.g.Where("house_id = ? AND user_id = ? AND id = ?", house, user, id).Delete(&Starter{}))
}

// StarterMarks lists what anybody in a house marked.
func (d *DB) StarterMarks(house int64) ([]StarterMark, error) {
	return many[StarterMark](d.g.Where("house_id = ?", house))
}

// MarkStarter notes a like or its end, and adds uses.
func (d *DB) MarkStarter(user, house int64, key string, liked *bool, uses int) error {
	m := StarterMark{house, user, key, liked != nil && *liked, uses}
	change := map[string]any{"uses": gorm.Expr("uses + ?", uses)}
	if liked != nil {
		change["liked"] = *liked
	}
	return d.g.Clauses(clause.OnConflict{DoUpdates: clause.Assignments(change)}).Create(&m).Error
}

// Swatch sets, editions, recipients

func (d *DB) Sets(house int64) ([]SwatchSet, error) {
	return many[SwatchSet](d.g.Preload("Colors", byPosition).Where("house_id = ?", house).Order("position, id"))
}

func (d *DB) Set(house, id int64) (SwatchSet, error) {
	return one[SwatchSet](d.g.Preload("Colors", byPosition).Where("house_id = ? AND id = ?", house, id))
}

func (d *DB) SetToChange(house, id int64) (SwatchSet, error) {
	return one[SwatchSet](d.locked().Preload("Colors", byPosition).Where("house_id = ? AND id = ?", house, id))
}

// PutSetColors replaces the colors of a set.
func (d *DB) PutSetColors(set int64, colors []int64) error {
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

func (d *DB) DeleteSet(house, id int64) error {
	return gone(d.g.Where("house_id = ? AND id = ?", house, id).Delete(&SwatchSet{}))
}

// Editions lists the editions of every set of a house, newest first.
func (d *DB) Editions(house int64) ([]Edition, error) {
	return many[Edition](d.g.Where("house_id = ?", house).Order("set_id, number DESC"))
}

func (d *DB) Edition(house, set int64, number int) (Edition, error) {
	return one[Edition](d.g.Where("house_id = ? AND set_id = ? AND number = ?", house, set, number))
}

func (d *DB) Recipients(house int64) ([]Recipient, error) {
	return many[Recipient](d.g.Where("house_id = ?", house).Order("id"))
}

func (d *DB) Recipient(house, id int64) (Recipient, error) {
	return one[Recipient](d.g.Where("house_id = ? AND id = ?", house, id))
}

// Deliveries lists what went out of a house, oldest first.
func (d *DB) Deliveries(house int64) ([]Delivery, error) {
	return many[Delivery](d.g.Joins("JOIN recipients ON recipients.id = deliveries.recipient_id").
		Where("recipients.house_id = ?", house).Order("deliveries.id"))
}

// Audits

// Audits lists a house's audits, newest first, without their reports.
func (d *DB) Audits(house int64) ([]Audit, error) {
	return many[Audit](d.g.Omit("report").Where("house_id = ?", house).Order("id DESC").Limit(200))
}

// AuditsWith lists the files, newest audit first and each once, whose report holds a color.
func (d *DB) AuditsWith(house int64, hex string) ([]string, error) {
	var names []string
	err := d.g.Model(&Audit{}).Where("house_id = ? AND report LIKE ?", house, `%"`+hex+`"%`).
		Group("file_name").Order("MAX(id) DESC").Limit(20).Pluck("file_name", &names).Error
	return names, err
}

func (d *DB) Audit(house, id int64) (Audit, error) {
	return one[Audit](d.g.Where("house_id = ? AND id = ?", house, id))
}
