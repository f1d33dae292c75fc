package store

import (
	"context"
	"database/sql"
	"errors"
	"time"
)

// What there is to know for whoever runs the server, over all houses.

// HouseSize is a house and how much of everything it has.
type HouseSize struct {
	ID       int64
	Name     string
	EndsAt   *time.Time // when it is deleted, of one that was given up
	People   int64
	Colors   int64
	Projects int64
	Bytes    int64      // of its stored files, each counted once
	Last     *time.Time // when somebody last changed something that is on the trail
}

// HouseSizes lists the houses, the largest first.
func (d *DB) HouseSizes() ([]HouseSize, error) {
	return many[HouseSize](d.g.Raw(`SELECT h.id, h.name, h.ends_at, COALESCE(m.n, 0) AS people, COALESCE(c.n, 0) AS colors, COALESCE(p.n, 0) AS projects, COALESCE(f.n, 0) AS bytes, last.at AS last
		FROM houses h
		LEFT JOIN (SELECT house_id, COUNT(*) AS n FROM members GROUP BY house_id) m ON m.house_id = h.id
		LEFT JOIN (SELECT house_id, COUNT(*) AS n FROM colors GROUP BY house_id) c ON c.house_id = h.id
		LEFT JOIN (SELECT house_id, COUNT(*) AS n FROM projects GROUP BY house_id) p ON p.house_id = h.id
		LEFT JOIN (SELECT house_id, SUM(size) AS n FROM files GROUP BY house_id) f ON f.house_id = h.id
		LEFT JOIN (SELECT house_id, MAX(id) AS id FROM trail GROUP BY house_id) t ON t.house_id = h.id
		LEFT JOIN trail last ON last.id = t.id
		ORDER BY bytes DESC, h.name_key, h.id`))
}

// CountHouses counts the houses.
func (d *DB) CountHouses() (n int64, err error) {
	err = d.g.Model(&House{}).Count(&n).Error
	return n, known(err)
}

// People are counts of accounts.
type People struct {
	Accounts int64
	Bare     int64 // of them with a password alone: neither a second factor nor a passkey
	Sessions int64 // that are open
	Tokens   int64 // access tokens that count
}

// CountPeople counts accounts, sessions and access tokens.
func (d *DB) CountPeople(now time.Time) (p People, err error) {
	return p, known(d.g.Raw(`SELECT (SELECT COUNT(*) FROM users), (SELECT COUNT(*) FROM users u WHERE password_hash <> '' AND totp = '' AND NOT EXISTS (SELECT 1 FROM passkeys k WHERE k.user_id = u.id)),
		(SELECT COUNT(*) FROM sessions WHERE expires_at > ?), (SELECT COUNT(*) FROM access_tokens WHERE expires_at > ?)`, now, now).Row().Scan(&p.Accounts, &p.Bare, &p.Sessions, &p.Tokens))
}

// MailStates counts the mails of each state, and says since when the oldest one waits; nil for none. Of those that failed only what was
// made since counts.
func (d *DB) MailStates(since time.Time) (states map[string]int64, oldest *time.Time, err error) {
	var rows []struct {
		State string
		N     int64
	}
	states = map[string]int64{}
	if err := d.g.Model(&Mail{}).Where("state = ? OR created_at > ?", MailWaiting,
		since).Select("state, COUNT(*) AS n").Group("state").Scan(&rows).Error; err != nil {
		return nil, nil, known(err)
	}
	for _, r := range rows {
		states[r.State] = r.N
	}
	var at sql.NullTime
	if err := d.g.Model(&Mail{}).Where("state = ?", MailWaiting).Select("MIN(created_at)").Row().Scan(&at); err != nil {
		return nil, nil, known(err)
	}
	if at.Valid {
		oldest = &at.Time
	}
	return states, oldest, nil
}

// StoredBytesOfAll is how much all files have that are on record.
func (d *DB) StoredBytesOfAll() (n int64, err error) {
	err = d.g.Model(&File{}).Select("COALESCE(SUM(size), 0)").Scan(&n).Error
	return n, known(err)
}

// Night is a dump of a night, or why there is none.
type Night struct {
	ID       int64 `gorm:"primaryKey"`
	Name     string
	BegunAt  time.Time
	EndedAt  time.Time
	Size     int64 // bytes
	RowCount int64
	Files    int64
	Missing  int64  // files that were named and not there
	Problem  string // why there is none; empty where there is one
	TriedAt  *time.Time
	Tried    string // what went wrong when it was restored into a scratch database; empty for nothing
}

// TableName says what it is of.
func (Night) TableName() string { return "dumps" }

// Nights lists the dumps of nights, the last first.
func (d *DB) Nights(most int) ([]Night, error) {
	return many[Night](d.g.Order("begun_at DESC, id DESC").Limit(most))
}

// LastNight is the last dump that there is; ErrNotFound for none.
func (d *DB) LastNight() (Night, error) {
	return one[Night](d.g.Where("problem = ''").Order("begun_at DESC, id DESC"))
}

// OldNights lists the dumps behind the newest ones that are kept.
func (d *DB) OldNights(kept int) ([]Night, error) {
	return many[Night](d.g.Where("problem = ''").Order("begun_at DESC, id DESC").Offset(kept).Limit(1000))
}

// DropNight forgets a dump.
func (d *DB) DropNight(id int64) error { return gone(d.g.Where("id = ?", id).Delete(&Night{})) }

// ForgetNights forgets why there was no dump in nights before a time.
func (d *DB) ForgetNights(before time.Time) error {
	return known(d.g.Where("problem <> '' AND begun_at < ?", before).Delete(&Night{}).Error)
}

// LastOfKind is when the last job of a kind was queued; the zero time for none that is on record.
func (d *DB) LastOfKind(kind string) (time.Time, error) {
	var at sql.NullTime
	err := d.g.Model(&Job{}).Where("kind = ?", kind).Select("MAX(created_at)").Row().Scan(&at)
	return at.Time, known(err)
}

// Running lists the accounts that run the server.
func (d *DB) Running() ([]User, error) { return many[User](d.g.Where("runs").Order("id")) }

// What commands ask of a database beside the program that serves on it, perhaps of another version, whose schema they leave alone.

// NightsOf lists the last dumps of nights, the last first.
func NightsOf(ctx context.Context, dsn string) (list []Night, err error) {
	db, err := raw(dsn)
	if err != nil {
		return nil, err
	}
	defer db.Close()
	rows, err := db.QueryContext(ctx, "SELECT name, begun_at, size, problem FROM dumps ORDER BY begun_at DESC, id DESC LIMIT 10")
	if err != nil {
		return nil, err
	}
	defer func() { err = errors.Join(err, rows.Close()) }()
	for rows.Next() {
		var n Night
		var at string // as the database writes times
		if err := rows.Scan(&n.Name, &at, &n.Size, &n.Problem); err != nil {
			return nil, err
		}
		if n.BegunAt, err = time.Parse("2006-01-02 15:04:05.999", at); err != nil {
			return nil, err
		}
		list = append(list, n)
	}
	return list, rows.Err()
}

// PutTried puts down how restoring a dump into a scratch database went; ErrNotFound if it is not on record.
func PutTried(ctx context.Context, dsn, name string, at time.Time, problem string) error {
	db, err := raw(dsn)
	if err != nil {
		return err
	}
	defer db.Close()
	done, err := db.ExecContext(ctx, "UPDATE dumps SET tried_at = ?, tried = LEFT(?, 1000) WHERE name = ?", at, problem, name)
	if err != nil {
		return err
	}
	if n, err := done.RowsAffected(); err != nil || n == 0 {
		return errors.Join(err, ErrNotFound)
	}
	return nil
}

// CountTables counts the rows of tables.
func CountTables(ctx context.Context, dsn string, tables []string) (map[string]int64, error) {
	db, err := raw(dsn)
	if err != nil {
		return nil, err
	}
	defer db.Close()
	out := map[string]int64{}
	for _, t := range tables {
		var n int64
		if err := db.QueryRowContext(ctx, "SELECT COUNT(*) FROM `"+t+"`").Scan(&n); err != nil {
			return nil, err
		}
		out[t] = n
	}
	return out, nil
}
