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

// Membership is a house with the role that somebody has in it.
type Membership struct {
	House
	Role   string
	Marked *time.Time // when the house's mark was last changed
}

func (d *DB) Memberships(user int64) ([]Membership, error) {
	return many[Membership](d.g.Table("houses").Select("houses.*, members.role, house_marks.changed_at AS marked").Joins("LEFT JOIN house_marks ON house_marks.house_id = houses.id").
		Joins("JOIN members ON members.house_id = houses.id").Where("members.user_id = ?", user).Order("houses.id"))
}

// Membership finds the role of a user in a house; without one the house does not exist for them.
func (d *DB) Membership(user, house int64) (Membership, error) {
	return one[Membership](d.g.Table("houses").Select("houses.*, members.role").
		Joins("JOIN members ON members.house_id = houses.id").Where("members.user_id = ? AND houses.id = ?", user, house))
}

func (d *DB) House(house int64) (House, error) { return one[House](d.g.Where("id = ?", house)) }

func (d *DB) HouseByName(name string) (House, error) {
	return one[House](d.g.Where("name_key = ?", NameKey(name)))
}

// Empty says whether nobody has an account, and there is no house.
func (d *DB) Empty() (empty bool, err error) {
	return empty, known(d.g.Raw("SELECT NOT EXISTS (SELECT 1 FROM users) AND NOT EXISTS (SELECT 1 FROM houses)").Row().Scan(&empty))
}

// DropHousesWithoutMembers deletes houses from before a time that nobody can enter, with all that is in them.
func (d *DB) DropHousesWithoutMembers(before time.Time) error {
	var houses []int64
	if err := d.g.Model(&House{}).Where("created_at <= ? AND id NOT IN (SELECT house_id FROM members)", before).Pluck("id",
		&houses).Error; err != nil {
		return err
	}
	for _, h := range houses {
		if err := d.DropHouse(h); err != nil {
			return err
		}
	}
	return nil
}

// LockHouse keeps others from changing anything in a house's library until the transaction ends. Whoever changes several
// things of a house locks it first, so that two never wait for each other. In a cluster, a lock is one node's own: there the turn that is
// written lets the later of two that change a house at once begin again.
func (d *DB) LockHouse(house int64) error {
	if _, err := one[House](d.locked().Where("id = ?", house)); err != nil {
		return err
	}
	next := clause.Assignments(map[string]any{"turn": gorm.Expr("turn + 1")})
	return known(d.g.Clauses(clause.OnConflict{DoUpdates: next}).Create(&HouseTurn{house, 1}).Error)
}

// The tray

func (d *DB) Tray(user, house int64) ([]Candidate, error) {
	return many[Candidate](d.g.Where("user_id = ? AND house_id = ?", user, house).Order("position, id"))
}

// TrayToAdmit reads the tray and keeps a second admission of the same candidates waiting.
func (d *DB) TrayToAdmit(user, house int64) ([]Candidate, error) {
	return many[Candidate](d.locked().Where("user_id = ? AND house_id = ?", user, house).Order("position, id"))
}

// Candidate reads a candidate to change it.
func (d *DB) Candidate(user, house, id int64) (Candidate, error) {
	return one[Candidate](d.locked().Where("user_id = ? AND house_id = ? AND id = ?", user, house, id))
}

// LastOnTray is the greatest position on a tray, 0 for an empty one.
func (d *DB) LastOnTray(user, house int64) (int, error) {
	return d.last(&Candidate{}, "user_id = ? AND house_id = ?", user, house)
}

// ChangeCandidate writes what a person may change of a candidate.
func (d *DB) ChangeCandidate(c Candidate) error {
	return known(d.g.Model(&c).Select("name", "hex", "remark", "master", "screen", "cmyk", "spot").Updates(&c).Error)
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
