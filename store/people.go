package store

import (
	"database/sql"
	"slices"
	"strings"
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

// SessionVia notes how a session was opened.
func (d *DB) SessionVia(hash, via string) error {
	return d.g.Model(&Session{}).Where("token_hash = ?", hash).Update("via", via).Error
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

// Vessel is what wrong passwords fill: it holds so many and runs dry at an even pace.
type Vessel struct {
	Who   string
	Holds float64
	Refit time.Duration // after which one more is let in
}

// pendingCounts is how long a try counts of which it is not known what it was. Whoever asked has no answer of an older one: its process
// ended.
const pendingCounts = time.Minute

// BeginTry lets a try in, or says how long it has to wait until none of the vessels is full. What was let in is ended with EndTry.
func (d *DB) BeginTry(list []Vessel, now time.Time) (tried []int64, wait time.Duration, err error) {
	err = d.alone(func(tx *DB) error {
		tried, wait = nil, 0
		// so that nobody waits for each other
		list := slices.SortedFunc(slices.Values(list), func(a, b Vessel) int { return strings.Compare(a.Who, b.Who) })
		for _, v := range list {
			row, err := tx.level(v, now)
			if err != nil {
				return err
			}
			var pending int64
			if err := tx.g.Model(&SignInPending{}).Where("who = ? AND at > ? AND at <= ?", v.Who, now.Add(-pendingCounts),
				now.Add(pendingCounts)).Count(&pending).Error; err != nil {
				return err
			}
			if over := row.Tries + float64(pending) + 1 - v.Holds; over > 1e-9 {
				wait = max(wait, time.Duration(over*float64(v.Refit)))
			}
		}
		if wait > 0 {
			return nil
		}
		for _, v := range list {
			p := SignInPending{Who: v.Who, At: now}
			if err := tx.Add(&p); err != nil {
				return err
			}
			tried = append(tried, p.ID)
		}
		return nil
	})
	return tried, wait, err
}

// level is how full a vessel is at a time; its row is locked. A clock that ran ahead once has filled nothing for longer than from now on.
func (d *DB) level(v Vessel, now time.Time) (SignInTries, error) {
	if err := d.g.Clauses(clause.OnConflict{DoNothing: true}).Create(&SignInTries{Who: v.Who, LastAt: now}).Error; err != nil {
		return SignInTries{}, known(err)
	}
	row, err := one[SignInTries](d.locked().Where("who = ?", v.Who))
	if err != nil {
		return row, err
	}
	row.Tries = max(0, row.Tries-float64(max(0, now.Sub(row.LastAt)))/float64(v.Refit))
	row.LastAt = now
	return row, known(d.g.Model(&SignInTries{}).Where("who = ?", v.Who).Updates(map[string]any{"tries": row.Tries, "last_at": now}).Error)
}

// EndTry says what became of a try: whether it was one of guessing.
func (d *DB) EndTry(tried []int64, list []Vessel, wrong bool, now time.Time) error {
	return d.alone(func(tx *DB) error {
		if err := tx.g.Where("id IN ?", tried).Delete(&SignInPending{}).Error; err != nil || !wrong {
			return err
		}
		for _, v := range slices.SortedFunc(slices.Values(list), func(a, b Vessel) int { return strings.Compare(a.Who, b.Who) }) {
			if _, err := tx.level(v, now); err != nil {
				return err
			}
			if err := tx.g.Model(&SignInTries{}).Where("who = ?", v.Who).Update("tries", gorm.Expr("tries + 1")).Error; err != nil {
				return err
			}
		}
		return nil
	})
}

// ForgetTries forgets the tries of somebody.
func (d *DB) ForgetTries(who ...string) error {
	return d.g.Where("who IN ?", who).Delete(&SignInTries{}).Error
}

// ForgetOldTries forgets tries that no longer count.
func (d *DB) ForgetOldTries(before time.Time) error {
	if err := d.g.Where("at < ?", before).Delete(&SignInPending{}).Error; err != nil {
		return err
	}
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

// Passkeys

// Passkeys lists somebody's passkeys.
func (d *DB) Passkeys(user int64) ([]Passkey, error) {
	return many[Passkey](d.g.Where("user_id = ?", user).Order("id"))
}

// PasskeyByHash finds a passkey by the hash of its credential's id.
func (d *DB) PasskeyByHash(hash string) (Passkey, error) {
	return one[Passkey](d.locked().Where("credential_hash = ?", hash))
}

// DropPasskey takes one of somebody's passkeys away, or for 0 all of them.
func (d *DB) DropPasskey(user, id int64) error {
	if id == 0 {
		return d.g.Where("user_id = ?", user).Delete(&Passkey{}).Error
	}
	return gone(d.g.Where("user_id = ? AND id = ?", user, id).Delete(&Passkey{}))
}

// TakeCeremony reads what is between the two halves of using a passkey, once.
func (d *DB) TakeCeremony(hash string, now time.Time) (c Ceremony, err error) {
	err = d.alone(func(tx *DB) error {
		if c, err = one[Ceremony](tx.locked().Where("id_hash = ? AND expires_at > ?", hash, now)); err != nil {
			return err
		}
		return gone(tx.g.Where("id_hash = ?", hash).Delete(&Ceremony{}))
	})
	return c, err
}

func (d *DB) ForgetOldCeremonies(now time.Time) error {
	return d.g.Where("expires_at < ?", now).Delete(&Ceremony{}).Error
}

// Secrets lists the people who have a secret of a second factor.
func (d *DB) Secrets() ([]User, error) {
	return many[User](d.g.Where("totp <> '' OR totp_new <> ''").Order("id"))
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

// TokenRow is an access token with whose it is.
type TokenRow struct {
	AccessToken
	Owner string
}

// HouseTokens lists the access tokens with which somebody reaches a house.
func (d *DB) HouseTokens(house int64, now time.Time) ([]TokenRow, error) {
	return many[TokenRow](d.g.Table("access_tokens").Select("access_tokens.*, users.name AS owner").Joins("JOIN users ON users.id = access_tokens.user_id").
		Joins("JOIN members ON members.user_id = access_tokens.user_id AND members.house_id = ?", house).
		Where("(access_tokens.house_id = ? OR access_tokens.house_id IS NULL) AND access_tokens.expires_at > ?", house,
			now).Order("access_tokens.id"))
}

// DropHouseToken takes away an access token of a house. One of before that is for all houses of its owner goes as a whole.
func (d *DB) DropHouseToken(house, id int64) error {
	return gone(d.g.Where("id = ? AND (house_id = ? OR house_id IS NULL AND user_id IN (SELECT user_id FROM members WHERE house_id = ?))",
		id, house, house).Delete(&AccessToken{}))
}

// DropTokensOf takes away the access tokens that somebody has for a house.
func (d *DB) DropTokensOf(user, house int64) error {
	return d.g.Where("user_id = ? AND house_id = ?", user, house).Delete(&AccessToken{}).Error
}

// Tickets

// Ticket finds a ticket that is still good.
func (d *DB) Ticket(hash string, now time.Time) (Ticket, error) {
	return one[Ticket](d.g.Where("token_hash = ? AND expires_at > ?", hash, now))
}

// TakeTicket takes a ticket away; ErrNotFound if somebody else was faster.
func (d *DB) TakeTicket(id int64) error { return gone(d.g.Where("id = ?", id).Delete(&Ticket{})) }

// DropTickets takes away all tickets of a person's account.
func (d *DB) DropTickets(user int64) error {
	return d.g.Where("user_id = ?", user).Delete(&Ticket{}).Error
}

// DropInvitationsBy takes away what somebody invites into a house, to more than a role if one is given.
func (d *DB) DropInvitationsBy(house, user int64, but []string) error {
	g := d.g.Where("house_id = ? AND by_user = ?", house, user)
	if len(but) > 0 {
		g = g.Where("role NOT IN ?", but)
	}
	return g.Delete(&Ticket{}).Error
}

// DropInvitationsOfRoles takes away what those members invite into a house whose role is one of some.
func (d *DB) DropInvitationsOfRoles(house int64, roles []string) error {
	return d.g.Where("house_id = ? AND by_user IN (SELECT user_id FROM members WHERE house_id = ? AND role IN ?)", house, house,
		roles).Delete(&Ticket{}).Error
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
	Role     string
	Passkeys int
	Seen     *time.Time // the last time that a session of theirs was used
}

// Members lists a house's people by name.
func (d *DB) Members(house int64) ([]MemberRow, error) {
	return many[MemberRow](d.g.Table("users").Select("users.*, members.role, (SELECT COUNT(*) FROM passkeys WHERE passkeys.user_id = users.id) AS passkeys, (SELECT MAX(seen_at) FROM sessions WHERE sessions.user_id = users.id) AS seen").
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
	for _, row := range []struct {
		of  any
		key string
	}{{&HouseTurn{}, "house_id"}, {&TrailChain{}, "chain"}} {
		if err := d.g.Where(row.key+" = ?", house).Delete(row.of).Error; err != nil {
			return err
		}
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

// Again counts a row of the trail that is there for what happens again and again, or adds it.
func (d *DB) Again(row *Trail) error {
	return known(d.g.Clauses(clause.OnConflict{DoUpdates: clause.Assignments(map[string]any{"times": gorm.Expr("times + 1")})}).Create(row).Error)
}

// Ended notes how something ended that is on the trail.
func (d *DB) Ended(t Trail) error {
	return d.g.Model(&Trail{}).Where("id = ? AND seal = ''", t.ID).Select("outcome", "about", "before_state",
		"after_state").Updates(&t).Error
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

// TrailNow is the newest row of a house's trail, and those that have not ended but for a request's own.
func (d *DB) TrailNow(house int64, request string) (newest int64, open []int64, err error) {
	if err := d.g.Model(&Trail{}).Where("house_id = ?", house).Select("COALESCE(MAX(id), 0)").Scan(&newest).Error; err != nil {
		return 0, nil, known(err)
	}
	err = d.g.Model(&Trail{}).Where("house_id = ? AND outcome = 0 AND request <> ?", house,
		request).Order("id DESC").Limit(1000).Pluck("id", &open).Error
	return newest, open, known(err)
}

// TrailSince lists the rows of a house's trail after one, and some of before, newest first; most of them.
func (d *DB) TrailSince(house, after int64, also []int64, most int) ([]Trail, error) {
	return many[Trail](d.g.Where("house_id = ? AND (id > ? OR id IN ?)", house, after, append(also, 0)).Order("id DESC").Limit(most))
}

// TrailWhats lists what was ever done in a house.
func (d *DB) TrailWhats(house int64) (list []string, err error) {
	err = d.g.Model(&Trail{}).Where("house_id = ?", house).Distinct().Order("what").Pluck("what", &list).Error
	return list, err
}

// TrailChains lists the chains of the trail: the houses, and 0 for what concerns people only.
func (d *DB) TrailChains() ([]int64, error) {
	var ids []int64
	err := d.g.Model(&House{}).Order("id").Pluck("id", &ids).Error
	return append([]int64{0}, ids...), known(err)
}

// TrailChain is how far a chain is sealed; it is locked.
func (d *DB) TrailChain(chain int64) (TrailChain, error) {
	if err := d.g.Clauses(clause.OnConflict{DoNothing: true}).Create(&TrailChain{Chain: chain}).Error; err != nil {
		return TrailChain{}, known(err)
	}
	return one[TrailChain](d.locked().Where("chain = ?", chain))
}

// SaveChain writes how far a chain is sealed.
func (d *DB) SaveChain(c TrailChain) error {
	return known(d.g.Model(&TrailChain{}).Where("chain = ?", c.Chain).Select("*").Updates(&c).Error)
}

// TrailHead is how far a chain is sealed.
func (d *DB) TrailHead(chain int64) (TrailChain, error) {
	c, err := one[TrailChain](d.g.Where("chain = ?", chain))
	if err == ErrNotFound {
		return TrailChain{Chain: chain}, nil
	}
	return c, err
}

func (d *DB) ofChain(chain int64) *gorm.DB {
	if chain == 0 {
		return d.g.Where("house_id IS NULL")
	}
	return d.g.Where("house_id = ?", chain)
}

// ChainRows lists rows of a chain behind one, oldest first.
func (d *DB) ChainRows(chain, after int64, most int) ([]Trail, error) {
	return many[Trail](d.ofChain(chain).Where("id > ?", after).Order("id").Limit(most))
}

// SealRow seals a row of the trail.
func (d *DB) SealRow(id int64, seal string) error {
	return d.g.Model(&Trail{}).Where("id = ?", id).Update("seal", seal).Error
}

// ForgetTrail deletes the sealed rows of a chain from before a time, as far as none is younger in front of them, and gives the last of
// them; 0 for none.
func (d *DB) ForgetTrail(chain, sealedTo int64, before time.Time) (gone int64, seal string, err error) {
	var young *int64
	if err := d.ofChain(chain).Model(&Trail{}).Where("at >= ?", before).Select("MIN(id)").Scan(&young).Error; err != nil {
		return 0, "", known(err)
	}
	end := sealedTo
	if young != nil {
		end = min(end, *young-1)
	}
	last, err := one[Trail](d.ofChain(chain).Where("id <= ?", end).Order("id DESC"))
	if err == ErrNotFound {
		return 0, "", nil
	} else if err != nil {
		return 0, "", err
	}
	return last.ID, last.Seal, d.ofChain(chain).Where("id <= ?", last.ID).Delete(&Trail{}).Error
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

// MonthlyOf is a membership with whether its person wants the mail of the month.
func (d *DB) MonthlyOf(user, house int64) (Member, error) {
	return one[Member](d.g.Where("user_id = ? AND house_id = ?", user, house))
}

// SetMonthly says whether somebody wants the mail of the month, from now on.
func (d *DB) SetMonthly(user, house int64, on bool, now time.Time) error {
	if _, err := d.MonthlyOf(user, house); err != nil {
		return err
	}
	return d.g.Model(&Member{}).Where("user_id = ? AND house_id = ?", user,
		house).Updates(map[string]any{"monthly": on, "monthly_at": now}).Error
}

// MonthlyMember is somebody who wants the mail of the month.
type MonthlyMember struct {
	UserID, HouseID int64
	Role, Email     string
}

// MonthlyDue lists those who want the mail of the month and had none since a time.
func (d *DB) MonthlyDue(since time.Time) ([]MonthlyMember, error) {
	return many[MonthlyMember](d.g.Table("members").Select("members.user_id, members.house_id, members.role, users.email").Joins("JOIN users ON users.id = members.user_id").
		Where("members.monthly AND (members.monthly_at IS NULL OR members.monthly_at < ?)",
			since).Order("members.house_id, members.user_id"))
}

// MonthlySent notes that somebody had the mail of the month.
func (d *DB) MonthlySent(user, house int64, now time.Time) error {
	return d.g.Model(&Member{}).Where("user_id = ? AND house_id = ?", user, house).Update("monthly_at", now).Error
}
