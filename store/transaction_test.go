package store_test

import (
	"context"
	"database/sql"
	"errors"
	"os"
	"sync"
	"testing"
	"testing/fstest"
	"time"

	"github.com/pressly/goose/v3"
	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"huekeep/core/color"
	"huekeep/core/library"
	"huekeep/store"
	"huekeep/store/storetest"
)

var ctx = context.Background()

// group makes a group whose name proves that a change is there.
func group(tx *store.DB, house int64, name string) error {
	return tx.Add(&store.ColorGroup{HouseID: house, Name: name, NameKey: store.NameKey(name)})
}

func groups(t *testing.T, db *store.DB, house int64) (names []string) {
	list, err := db.Groups(house)
	require.NoError(t, err)
	for _, g := range list {
		names = append(names, g.Name)
	}
	return names
}

// A deadlock in a nested call ends the whole transaction in the database. All of it must be done again, not the nested part.
func TestADeadlockInANestedCallLosesNothing(t *testing.T) {
	db := storetest.Open(t)
	a, b := house(t, db, "A"), house(t, db, "B")
	meet := make(chan bool)
	var once sync.Once
	var all sync.WaitGroup
	var errs [2]error
	all.Go(func() { // locks A, then B inside a nested call
		errs[0] = db.In(ctx, func(tx *store.DB) error {
			if err := group(tx, a.ID, "before"); err != nil {
				return err
			}
			if err := tx.LockHouse(a.ID); err != nil {
				return err
			}
			once.Do(func() { meet <- true; <-meet })
			err := tx.In(ctx, func(tx *store.DB) error {
				if err := tx.LockHouse(b.ID); err != nil {
					return err
				}
				return group(tx, a.ID, "nested")
			})
			if err != nil {
				return err
			}
			return group(tx, a.ID, "after")
		})
	})
	all.Go(func() { // locks B, then A; it did less, so the other one is not always the victim
		first := true
		errs[1] = db.In(ctx, func(tx *store.DB) error {
			if err := tx.LockHouse(b.ID); err != nil {
				return err
			}
			for i := range 20 { // the heavier transaction survives
				if err := group(tx, b.ID, string(rune('a'+i))); err != nil {
					return err
				}
			}
			if first {
				first = false
				<-meet
				meet <- true
				time.Sleep(50 * time.Millisecond) // until the other one waits for B
			}
			return tx.LockHouse(a.ID)
		})
	})
	all.Wait()
	require.NoError(t, errs[0])
	require.NoError(t, errs[1])
	assert.ElementsMatch(t, []string{"before", "nested", "after"}, groups(t, db, a.ID))
	assert.Len(t, groups(t, db, b.ID), 20)
}

func TestANestedErrorUndoesEverything(t *testing.T) {
	db := storetest.Open(t)
	a := house(t, db, "A")
	no := errors.New("no")
	err := db.In(ctx, func(tx *store.DB) error {
		require.NoError(t, group(tx, a.ID, "outer"))
		return tx.In(ctx, func(tx *store.DB) error {
			require.NoError(t, group(tx, a.ID, "inner"))
			return no
		})
	})
	assert.ErrorIs(t, err, no)
	assert.Empty(t, groups(t, db, a.ID))
}

func TestATransactionEndsWithItsContext(t *testing.T) {
	db := storetest.Open(t)
	a := house(t, db, "A")
	cut, stop := context.WithCancel(ctx)
	err := db.In(cut, func(tx *store.DB) error {
		require.NoError(t, group(tx, a.ID, "x"))
		stop()
		return group(tx, a.ID, "y")
	})
	assert.ErrorIs(t, err, context.Canceled)
	assert.Empty(t, groups(t, db, a.ID))
}

// Whoever is in the way for good is said so, after several tries, and nothing is kept.
func TestWhoIsAlwaysInTheWayIsSaidSo(t *testing.T) {
	dsn := storetest.DSN(t)
	db, err := store.Open(ctx, dsn)
	require.NoError(t, err)
	defer db.Close()
	a := house(t, db, "A")
	other, err := sql.Open("mysql", dsn)
	require.NoError(t, err)
	defer other.Close()
	holding, err := other.BeginTx(ctx, nil)
	require.NoError(t, err)
	_, err = holding.Exec("UPDATE houses SET tolerance = 4 WHERE id = ?", a.ID)
	require.NoError(t, err)
	tries := 0
	err = db.In(ctx, func(tx *store.DB) error {
		tries++
		if err := tx.Impatient(); err != nil {
			return err
		}
		return tx.LockHouse(a.ID)
	})
	assert.ErrorIs(t, err, store.ErrBusy)
	assert.Greater(t, tries, 3)
	require.NoError(t, holding.Rollback())
}

// Jobs are claimed, renewed, ended and given up by several at the same moment: whoever comes too late is told that the job is
// not theirs, and nobody that others are in the way.
func TestManyAreAtTheSameJobs(t *testing.T) {
	db := storetest.Open(t)
	h := house(t, db, "A")
	until := time.Now().Add(3 * time.Second)
	var all sync.WaitGroup
	var mu sync.Mutex
	met := map[string]int{}
	told := func(err error) bool {
		if err != nil && !errors.Is(err, store.ErrNotFound) {
			mu.Lock()
			defer mu.Unlock()
			met[err.Error()]++
		}
		return err == nil
	}
	for _, worker := range []string{"a", "b", "c", "d", "e", "f"} {
		all.Go(func() {
			for time.Now().Before(until) {
				var j store.Job
				if !told(db.In(ctx, func(tx *store.DB) (err error) {
					j, err = tx.ClaimJob(worker, []string{"audit"}, time.Minute, 100)
					return err
				})) {
					time.Sleep(2 * time.Millisecond)
					continue
				}
				for range 10 {
					told(db.RenewLease(j.ID, worker, "reading", 0.5, time.Minute))
				}
				told(db.EndJob(j.ID, worker, store.JobDone, "", "", time.Now().UTC()))
			}
		})
		all.Go(func() {
			for time.Now().Before(until) {
				j := store.Job{HouseID: &h.ID, Kind: "audit", Payload: "{}", CreatedAt: time.Now().UTC()}
				if told(db.AddJob(&j)) {
					time.Sleep(2 * time.Millisecond)
					told(db.GiveUpJob(h.ID, j.ID, time.Now().UTC()))
				}
			}
		})
	}
	all.Wait()
	assert.Empty(t, met)
}

func TestInstancesStartAtOnceOnAnEmptyDatabase(t *testing.T) {
	dsn := storetest.DSN(t)
	var all sync.WaitGroup
	errs := make([]error, 4)
	for i := range errs {
		all.Go(func() {
			db, err := store.Open(ctx, dsn)
			if errs[i] = err; err == nil {
				errs[i] = errors.Join(db.Ping(ctx), db.Close())
			}
		})
	}
	all.Wait()
	assert.NoError(t, errors.Join(errs...))
}

// A first start that was killed between making the table of migrations and its first row is gone on with.
func TestAFirstStartThatWasCutOffGoesOn(t *testing.T) {
	dsn := storetest.DSN(t)
	pool, err := sql.Open("mysql", dsn)
	require.NoError(t, err)
	defer pool.Close()
	_, err = pool.Exec(`CREATE TABLE goose_db_version (id bigint(20) unsigned NOT NULL AUTO_INCREMENT, version_id bigint NOT NULL,
		is_applied boolean NOT NULL, tstamp datetime NULL default CURRENT_TIMESTAMP, PRIMARY KEY(id))`)
	require.NoError(t, err)
	db, err := store.Open(ctx, dsn)
	require.NoError(t, err)
	defer db.Close()
	assert.NoError(t, db.Ping(ctx))
	var rows int
	require.NoError(t, pool.QueryRow("SELECT COUNT(*) FROM goose_db_version WHERE version_id = 0").Scan(&rows))
	assert.Equal(t, 1, rows)
}

// old is a database as the version before left it, with one house, its edition and its audit.
func old(t *testing.T) string {
	dsn := storetest.DSN(t)
	pool, err := sql.Open("mysql", dsn+"?parseTime=true&multiStatements=true&interpolateParams=true")
	require.NoError(t, err)
	defer pool.Close()
	before := fstest.MapFS{}
	for _, name := range []string{"00001_foundation.sql", "00002_gather_library.sql", "00003_presses.sql", "00004_ink_books.sql"} {
		data, err := os.ReadFile("migrations/" + name)
		require.NoError(t, err)
		before[name] = &fstest.MapFile{Data: data}
	}
	p, err := goose.NewProvider(goose.DialectMySQL, pool, before)
	require.NoError(t, err)
	_, err = p.Up(ctx)
	require.NoError(t, err)
	edition, err := os.ReadFile("../core/library/testdata/edition.v1.json")
	require.NoError(t, err)
	report := `{"path":"a.css","kind":"css","uses":3,"score":0.3333,"colors":[{"value":"#E2572C","hex":"#E2572C","count":2,"verdict":"drifted","nearest":null,
		"places":[{"where":"a.css 1:1","count":1,"value":"#E2572C","linked":false},{"where":"a.css 2:1","count":1,"value":"#E2572C","linked":false}]},
		{"value":"#0E3A53","hex":"#0E3A53","count":1,"verdict":"on-brand","nearest":null,"places":[{"where":"a.css 3:1","count":1,"value":"#0E3A53","linked":false}]}]}`
	_, err = pool.Exec(`INSERT INTO houses (name, tolerance, neutrals, created_at) VALUES ('Twins', 3, 1, NOW(3)), ('twins', 3, 1, NOW(3));
		INSERT INTO colors (house_id, name, name_key, hex, role, rule, status, position, version, created_at, updated_at, partner_ratio) VALUES
			(1, 'Ground', 'ground', '#FFFFFF', '', '', 'approved', 1, 1, NOW(3), NOW(3), 0), (1, 'Ink', 'ink', '#000000', '', '', 'approved', 2, 1, NOW(3), NOW(3), 4.5);
		UPDATE colors SET partner_id = 1 WHERE id = 2;
		INSERT INTO swatch_sets (house_id, name, name_key, position, version) VALUES (1, 'Core', 'core', 0, 1);
		INSERT INTO editions VALUES (1, 2, 1, NOW(3), 'Kim', ?);
		INSERT INTO audits (house_id, by_name, at, file_name, kind, size, blob_key, tolerance, uses, findings, score, report) VALUES (1, 'Kim', NOW(3), 'a.css', 'css', 9, 'k', 3, 3, 2, 0.3333, ?)`,
		string(edition), report)
	require.NoError(t, err)
	return dsn
}

func TestADatabaseOfTheVersionBeforeIsKept(t *testing.T) {
	db, err := store.Open(ctx, old(t))
	require.NoError(t, err)
	defer db.Close()
	for id, name := range map[int64]string{1: "Twins", 2: "twins 2"} {
		h, err := db.House(id)
		require.NoError(t, err)
		assert.Equal(t, name, h.Name, "two houses of one name get apart")
	}
	c, err := db.Color(1, 2)
	require.NoError(t, err)
	assert.Equal(t, library.Ref{ID: 1, Name: "Ground"}, c.Ground)
	assert.Equal(t, 4.5, c.Ratio)
	e, err := db.Edition(1, 1, 2)
	require.NoError(t, err)
	assert.Equal(t, color.RGB8{R: 0x0E, G: 0x3A, B: 0x53}, e.Colors[0].RGB)
	held, err := db.HoldingsOf(1, e.Colors[0].ID)
	require.NoError(t, err)
	assert.Equal(t, []store.Holding{{Color: 1, Set: 1, Name: "Core", Number: 2, Newest: true, Hex: "#0E3A53"}}, held, "who holds what is known without reading editions")
	files, err := db.AuditsWith(1, "#E2572C", 5)
	require.NoError(t, err)
	assert.Equal(t, []string{"a.css"}, files)
	totals, err := db.AuditTotals(1)
	require.NoError(t, err)
	assert.Equal(t, map[string]int{"drifted": 2, "on-brand": 1}, totals)
}
