package store

import (
	"database/sql"
	"math"
	"time"

	"gorm.io/gorm"
	"gorm.io/gorm/clause"
)

// TableName keeps the plural that is one already.
func (SignInTries) TableName() string { return "sign_in_tries" }

// TableName is one word.
func (Trail) TableName() string { return "trail" }

// Sessions

// SessionByHash finds a session that has not expired.
func (d *DB) SessionByHash(hash string, now time.Time) (Session, error) {
	return one[Session](d.g.Where("token_hash = ? AND expires_at > ?", hash, now))
}

// Seen notes when and from where a session was last used.
func (d *DB) Seen(hash, address string, now time.Time) error {
	return d.g.Model(&Session{}).Where("token_hash = ?", hash).Updates(map[string]any{"seen_at": now, "address": address}).Error
}

// Sessions lists a person's open sessions, the last used first.
func (d *DB) Sessions(user int64, now time.Time) ([]Session, error) {
	return many[Session](d.g.Where("user_id = ? AND expires_at > ?", user, now).Order("seen_at DESC, id DESC"))
}

// OpenSessions counts the sessions that are open.
func (d *DB) OpenSessions(now time.Time) (n int64, err error) {
	err = d.g.Model(&Session{}).Where("expires_at > ?", now).Count(&n).Error
	return n, err
}

func (d *DB) EndSession(hash string) error {
	return d.g.Where("token_hash = ?", hash).Delete(&Session{}).Error
}

// EndSessionOf ends one of a person's sessions.
func (d *DB) EndSessionOf(user, id int64) error {
	return gone(d.g.Where("user_id = ? AND id = ?", user, id).Delete(&Session{}))
}

// EndSessions ends all of a person's sessions but the one with the hash.
func (d *DB) EndSessions(user int64, but string) error {
	return d.g.Where("user_id = ? AND token_hash <> ?", user, but).Delete(&Session{}).Error
}

func (d *DB) EndExpiredSessions(now time.Time) error {
	return d.g.Where("expires_at <= ?", now).Delete(&Session{}).Error
}

// Try counts one more try of somebody and returns how many there are with it, each counting half after every halving.
func (d *DB) Try(who string, halving time.Duration, now time.Time) (float64, error) {
	row := SignInTries{Who: who, Tries: 1, LastAt: now}
	// The order matters: the second assignment is what the first one reads.
	err := d.g.Clauses(clause.OnConflict{DoUpdates: clause.Set{
		{Column: clause.Column{Name: "tries"}, Value: gorm.Expr("tries * POW(0.5, GREATEST(0, TIMESTAMPDIFF(MICROSECOND, last_at, ?)) / ?) + 1", now, halving.Microseconds())},
		{Column: clause.Column{Name: "last_at"}, Value: gorm.Expr("GREATEST(last_at, ?)", now)}}}).Create(&row).Error
	if err != nil {
		return 0, known(err)
	}
	return d.Tries(who, halving, now)
}

// Untry takes back one try that was none of guessing.
func (d *DB) Untry(who string) error {
	return d.g.Model(&SignInTries{}).Where("who = ?", who).Update("tries", gorm.Expr("GREATEST(0, tries - 1)")).Error
}

// Tries says how many tries of somebody still count.
func (d *DB) Tries(who string, halving time.Duration, now time.Time) (float64, error) {
	rows, err := many[SignInTries](d.g.Where("who = ?", who))
	if err != nil || len(rows) == 0 {
		return 0, err
	}
	return rows[0].Tries * math.Pow(0.5, max(0, float64(now.Sub(rows[0].LastAt))/float64(halving))), nil
}

// ForgetTries forgets the tries of somebody.
func (d *DB) ForgetTries(who string) error {
	return d.g.Where("who = ?", who).Delete(&SignInTries{}).Error
}

// ForgetOldTries forgets tries that no longer count.
func (d *DB) ForgetOldTries(before time.Time) error {
	return d.g.Where("last_at < ?", before).Delete(&SignInTries{}).Error
}

// Devices

// Device finds a browser that somebody signed in from before.
func (d *DB) Device(hash string) (Device, error) {
	return one[Device](d.g.Where("token_hash = ?", hash))
}

// ForgetDevices forgets a person's browsers, or those of anybody that were not seen since a time.
func (d *DB) ForgetDevices(user int64) error {
	return d.g.Where("user_id = ?", user).Delete(&Device{}).Error
}

func (d *DB) ForgetOldDevices(before time.Time) error {
	return d.g.Where("seen_at < ?", before).Delete(&Device{}).Error
}

// Second factors

// UseRecoveryCode takes a code away; ErrNotFound if there is no such code.
func (d *DB) UseRecoveryCode(user int64, hash string) error {
	return gone(d.g.Where("user_id = ? AND code_hash = ?", user, hash).Delete(&RecoveryCode{}))
}

func (d *DB) RecoveryCodes(user int64) (n int64, err error) {
	err = d.g.Model(&RecoveryCode{}).Where("user_id = ?", user).Count(&n).Error
	return n, err
}

func (d *DB) ForgetRecoveryCodes(user int64) error {
	return d.g.Where("user_id = ?", user).Delete(&RecoveryCode{}).Error
}

// UserToChange reads a user whom a transaction is going to change.
func (d *DB) UserToChange(id int64) (User, error) { return one[User](d.locked().Where("id = ?", id)) }

func (d *DB) UserBySubject(subject string) (User, error) {
	return one[User](d.g.Where("subject = ?", subject))
}

// Access tokens

func (d *DB) AccessTokenByHash(hash string, now time.Time) (AccessToken, error) {
	return one[AccessToken](d.g.Where("token_hash = ? AND expires_at > ?", hash, now))
}

func (d *DB) AccessTokens(user int64) ([]AccessToken, error) {
	return many[AccessToken](d.g.Where("user_id = ?", user).Order("id"))
}

// Used notes when and from where an access token was last used.
func (d *DB) Used(token int64, address string, now time.Time) error {
	return d.g.Model(&AccessToken{}).Where("id = ?", token).Updates(map[string]any{"used_at": now, "used_from": address}).Error
}

func (d *DB) DropAccessToken(user, id int64) error {
	return gone(d.g.Where("user_id = ? AND id = ?", user, id).Delete(&AccessToken{}))
}

func (d *DB) DropAccessTokens(user int64) error {
	return d.g.Where("user_id = ?", user).Delete(&AccessToken{}).Error
}

// Tickets

// Ticket finds a ticket that is still good.
func (d *DB) Ticket(hash string, now time.Time) (Ticket, error) {
	return one[Ticket](d.g.Where("token_hash = ? AND expires_at > ?", hash, now))
}

// TakeTicket takes a ticket away; ErrNotFound if somebody else was faster.
func (d *DB) TakeTicket(id int64) error { return gone(d.g.Where("id = ?", id).Delete(&Ticket{})) }

// DropTickets takes away a person's tickets of a kind.
func (d *DB) DropTickets(user int64, kind string) error {
	return d.g.Where("user_id = ? AND kind = ?", user, kind).Delete(&Ticket{}).Error
}

func (d *DB) DropOldTickets(now time.Time) error {
	return d.g.Where("expires_at < ?", now).Delete(&Ticket{}).Error
}

// Invitations lists a house's tickets that are still good.
func (d *DB) Invitations(house int64, now time.Time) ([]Ticket, error) {
	return many[Ticket](d.g.Where("house_id = ? AND expires_at > ?", house, now).Order("id"))
}

func (d *DB) DropInvitation(house, id int64) error {
	return gone(d.g.Where("house_id = ? AND id = ?", house, id).Delete(&Ticket{}))
}

// DropInvitationsTo takes away what invites an address into a house.
func (d *DB) DropInvitationsTo(house int64, email string) error {
	return d.g.Where("house_id = ? AND email = ?", house, email).Delete(&Ticket{}).Error
}

// Members

// MemberRow is a person with their role in a house.
type MemberRow struct {
	User
	Role string
	Seen *time.Time // the last time that a session of theirs was used
}

// Members lists a house's people by name.
func (d *DB) Members(house int64) ([]MemberRow, error) {
	return many[MemberRow](d.g.Table("users").Select("users.*, members.role, (SELECT MAX(seen_at) FROM sessions WHERE sessions.user_id = users.id) AS seen").
		Joins("JOIN members ON members.user_id = users.id").Where("members.house_id = ?", house).Order("users.name, users.id"))
}

func (d *DB) Member(user, house int64) (Member, error) {
	return one[Member](d.g.Where("user_id = ? AND house_id = ?", user, house))
}

// Keepers counts a house's keepers.
func (d *DB) Keepers(house int64) (n int64, err error) {
	err = d.g.Model(&Member{}).Where("house_id = ? AND role = 'keeper'", house).Count(&n).Error
	return n, err
}

// KeepsAny says whether somebody is a keeper of any house.
func (d *DB) KeepsAny(user int64) (bool, error) {
	var n int64
	err := d.g.Model(&Member{}).Where("user_id = ? AND role = 'keeper'", user).Count(&n).Error
	return n > 0, err
}

// EndMembership takes somebody out of a house, with their tray there.
func (d *DB) EndMembership(user, house int64) error {
	if err := d.ClearTray(user, house); err != nil {
		return err
	}
	return gone(d.g.Where("user_id = ? AND house_id = ?", user, house).Delete(&Member{}))
}

// Houses that end

// EndingHouses lists houses whose time is over.
func (d *DB) EndingHouses(now time.Time) ([]House, error) {
	return many[House](d.g.Where("ends_at <= ?", now))
}

// DropHouse deletes a house with all that is in it.
func (d *DB) DropHouse(house int64) error {
	if err := d.dropEditions(house); err != nil {
		return err
	}
	if err := d.g.Where("house_id = ?", house).Delete(&HouseTurn{}).Error; err != nil {
		return err
	}
	return d.g.Where("id = ?", house).Delete(&House{}).Error
}

func (d *DB) HouseMark(house int64) (HouseMark, error) {
	return one[HouseMark](d.g.Where("house_id = ?", house))
}

func (d *DB) DropHouseMark(house int64) error {
	return d.g.Where("house_id = ?", house).Delete(&HouseMark{}).Error
}

// StoredBytes is how much the files of a house have, each counted once.
func (d *DB) StoredBytes(house int64) (n int64, err error) {
	err = d.g.Model(&File{}).Where("house_id = ?", house).Select("COALESCE(SUM(size), 0)").Scan(&n).Error
	return n, err
}

// Connections says how the connections to the database are used.
func (d *DB) Connections() (sql.DBStats, error) {
	pool, err := d.g.DB()
	if err != nil {
		return sql.DBStats{}, err
	}
	return pool.Stats(), nil
}

// JobStates counts the jobs of each state.
func (d *DB) JobStates() (map[string]int64, error) {
	var rows []struct {
		State string
		N     int64
	}
	out := map[string]int64{}
	err := d.g.Model(&Job{}).Select("state, COUNT(*) AS n").Group("state").Scan(&rows).Error
	for _, r := range rows {
		out[r.State] = r.N
	}
	return out, err
}

// The trail

// Ended notes how something ended that is on the trail.
func (d *DB) Ended(t Trail) error {
	return d.g.Model(&Trail{}).Where("id = ?", t.ID).Select("outcome", "about", "before_state", "after_state").Updates(&t).Error
}

// TrailQuery says which rows of a trail are asked for.
type TrailQuery struct {
	House    int64
	Before   int64 // rows before this one; 0 for the newest
	User     int64 // 0 for anybody
	What     string
	Find     string // in what it was done to, by whom, from where
	From, To *time.Time
}

// TrailRows lists rows of a house's trail, and what its members' sign-ins left, newest first.
func (d *DB) TrailRows(q TrailQuery, most int) ([]Trail, error) {
	g := d.g.Where("(house_id = ? OR house_id IS NULL AND user_id IN (SELECT user_id FROM members WHERE house_id = ?))", q.House, q.House)
	if q.Before > 0 {
		g = g.Where("id < ?", q.Before)
	}
	if q.User > 0 {
		g = g.Where("user_id = ?", q.User)
	}
	if q.What != "" {
		g = g.Where("what = ?", q.What)
	}
	if q.Find != "" {
		g = g.Where("LOCATE(LOWER(?), LOWER(CONCAT_WS(' ', about, by_name, address, before_state, after_state))) > 0", q.Find)
	}
	if q.From != nil {
		g = g.Where("at >= ?", *q.From)
	}
	if q.To != nil {
		g = g.Where("at < ?", *q.To)
	}
	return many[Trail](g.Order("id DESC").Limit(most))
}

// TrailWhats lists what was ever done in a house.
func (d *DB) TrailWhats(house int64) (list []string, err error) {
	err = d.g.Model(&Trail{}).Where("house_id = ?", house).Distinct().Order("what").Pluck("what", &list).Error
	return list, err
}

// ForgetTrail deletes rows of the trail from before a time.
func (d *DB) ForgetTrail(before time.Time) error {
	return d.g.Where("at < ?", before).Delete(&Trail{}).Error
}

// Row reads a row of a table as the trail keeps it; nil if there is none.
func (d *DB) Row(table string, key map[string]any) (map[string]any, error) {
	row := map[string]any{}
	err := d.g.Table(table).Where(key).Take(&row).Error
	if err = known(err); err == ErrNotFound {
		return nil, nil
	}
	return row, err
}
