package store_test

import (
	"context"
	"database/sql"
	"errors"
	"fmt"
	"math/rand/v2"
	"path/filepath"
	"slices"
	"strings"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"huekeep/store"
	"huekeep/store/storetest"
)

func plain(t *testing.T, dsn string) *sql.DB {
	t.Helper()
	pool, err := sql.Open("mysql", dsn+"?multiStatements=true")
	require.NoError(t, err)
	t.Cleanup(func() { pool.Close() })
	return pool
}

// content is every table with its columns and rows, as text.
func content(t *testing.T, dsn string) map[string][]string {
	t.Helper()
	pool := plain(t, dsn)
	out := map[string][]string{}
	for _, table := range column(t, pool, "SELECT table_name FROM information_schema.tables WHERE table_schema = DATABASE()") {
		if strings.HasPrefix(table, "goose_") {
			continue
		}
		var name, made string
		require.NoError(t, pool.QueryRow("SHOW CREATE TABLE `"+table+"`").Scan(&name, &made))
		if i := strings.Index(made, " AUTO_INCREMENT="); i >= 0 { // what was tried and taken back counts on
			made = made[:i] + made[i+len(" AUTO_INCREMENT=")+strings.IndexAny(made[i+len(" AUTO_INCREMENT="):]+" ", " "):]
		}
		rows, err := pool.Query("SELECT * FROM `" + table + "`")
		require.NoError(t, err)
		names, err := rows.Columns()
		require.NoError(t, err)
		into := make([]any, len(names))
		values := make([]sql.RawBytes, len(names))
		for i := range into {
			into[i] = &values[i]
		}
		var lines []string
		for rows.Next() {
			require.NoError(t, rows.Scan(into...))
			lines = append(lines, fmt.Sprintf("%q", values))
		}
		require.NoError(t, rows.Err())
		slices.Sort(lines)
		out[table] = append([]string{made}, lines...)
	}
	return out
}

func column(t *testing.T, pool *sql.DB, query string) (out []string) {
	rows, err := pool.Query(query)
	require.NoError(t, err)
	defer rows.Close()
	for rows.Next() {
		var v string
		require.NoError(t, rows.Scan(&v))
		out = append(out, v)
	}
	return out
}

// An upgrade that is killed after any statement, or in the midst of one, goes on where it stopped, and comes to what an undisturbed one
// comes to. Some statements are even begun by the program from before, which runs a migration as one text and dies in it.
func TestAnUpgradeThatIsKilledGoesOn(t *testing.T) {
	for _, path := range storetest.Landed(t) {
		t.Run(filepath.Base(path), func(t *testing.T) {
			undisturbed := storetest.Restored(t, path)
			statements := 0
			from, to := int64(0), int64(0)
			db, err := store.OpenWith(ctx, undisturbed, store.Upgrade{Done: func(int64, int) { statements++ },
				Before: func(_ context.Context, f, l int64) error { from, to = f, l; return nil }})
			require.NoError(t, err)
			require.NoError(t, db.Close())
			if statements == 0 { // it has this very schema
				assert.Equal(t, []int64{0, 0}, []int64{from, to})
				return
			}
			assert.Less(t, from, to)
			want := content(t, undisturbed)
			random := rand.New(rand.NewPCG(uint64(from), 7))
			for range storetest.Hard(4, 20) {
				dsn := storetest.Restored(t, path)
				left := 1 + random.IntN(statements)
				again := 1 + random.IntN(statements)
				for _, after := range []int{left, again} {
					n := 0
					ctx, kill := context.WithCancel(ctx)
					db, err := store.OpenWith(ctx, dsn, store.Upgrade{Done: func(int64, int) {
						if n++; n == after {
							kill() // before it is noted that the migration is done, and what comes next is cut off
						}
					}})
					kill()
					if err == nil {
						require.NoError(t, db.Close())
					}
					_, err = plain(t, dsn).Exec("DELETE FROM goose_lock") // whose time is over soon
					require.NoError(t, err)
				}
				db, err := store.Open(t.Context(), dsn)
				require.NoError(t, err, "killed after %d and %d statements", left, again)
				require.NoError(t, db.Close())
				got := content(t, dsn)
				for table := range want {
					require.Equal(t, want[table], got[table], "table %s, killed after %d and %d statements", table, left, again)
				}
				require.Len(t, got, len(want))
			}
		})
	}
}

func TestAnUpgradeThatCannotBeDumpedIsNotBegun(t *testing.T) {
	dsn := storetest.Restored(t, storetest.Landed(t)[0])
	before := content(t, dsn)
	_, err := store.OpenWith(ctx, dsn, store.Upgrade{Before: func(context.Context, int64, int64) error { return errors.New("the disk is full") }})
	var failed *store.UpgradeError
	require.ErrorAs(t, err, &failed)
	assert.ErrorContains(t, err, "the disk is full")
	assert.Positive(t, failed.From)
	after := content(t, dsn)
	assert.Equal(t, before, after)
	_, err = plain(t, dsn).Exec("UPDATE goose_db_version SET version_id = version_id + 1000 ORDER BY version_id DESC LIMIT 1")
	require.NoError(t, err)
	_, err = store.Open(ctx, dsn)
	assert.ErrorContains(t, err, "newer Hue Keep")
}

// A dump from before an upgrade comes back, and is upgraded.
func TestADumpOfAVersionBeforeIsLoaded(t *testing.T) {
	for _, path := range storetest.Landed(t) {
		dsn := storetest.Restored(t, path)
		var dump strings.Builder
		db, err := store.OpenWith(ctx, dsn, store.Upgrade{Before: func(ctx context.Context, _, _ int64) error {
			_, err := store.Dump(ctx, dsn, &dump)
			return err
		}})
		require.NoError(t, err)
		require.NoError(t, db.Close())
		if dump.Len() == 0 { // it has this very schema
			_, err := store.Dump(ctx, dsn, &dump)
			require.NoError(t, err)
		}
		other := storetest.DSN(t)
		held, err := store.TryDump(ctx, other, strings.NewReader(dump.String()))
		require.NoError(t, err)
		counted, err := store.CountDump(strings.NewReader(dump.String()))
		require.NoError(t, err)
		assert.Equal(t, counted.Tables, held.Tables)
		want, got := content(t, dsn), content(t, other)
		for table := range want {
			assert.Equal(t, want[table][1:], got[table][1:], table) // keys may have other names
		}
	}
}

// A dump is loaded where an earlier try was killed after whatever statement, or in the midst of writing rows. What a database holds that is
// none of ours is not touched, nor one of a later version.
func TestADumpIsLoadedAfterOneThatWasKilled(t *testing.T) {
	from := storetest.DSN(t)
	statements := 0
	db, err := store.OpenWith(ctx, from, store.Upgrade{Done: func(int64, int) { statements++ }})
	require.NoError(t, err)
	defer db.Close()
	house(t, db, "Odelwick")
	var dump strings.Builder
	_, err = store.Dump(ctx, from, &dump)
	require.NoError(t, err)
	random := rand.New(rand.NewPCG(3, 9))
	kills := []int{1, 2, statements - 1} // the second statement points to what the first one made
	for range storetest.Hard(4, 40) {
		kills = append(kills, 1+random.IntN(statements))
	}
	for _, after := range kills {
		dsn := storetest.DSN(t)
		_, err := plain(t, dsn).Exec("CREATE TABLE elsewhere (id INT)")
		require.NoError(t, err)
		n := 0
		ctx, kill := context.WithCancel(ctx)
		_, err = store.OpenWith(ctx, dsn, store.Upgrade{Done: func(int64, int) {
			if n++; n == after {
				kill()
			}
		}})
		require.Error(t, err)
		require.NoError(t, store.LoadDump(t.Context(), dsn, strings.NewReader(dump.String())), "killed after %d statements", after)
		assert.Equal(t, content(t, from)["houses"], content(t, dsn)["houses"])
		assert.Contains(t, content(t, dsn), "elsewhere")
		assert.ErrorIs(t, store.LoadDump(t.Context(), dsn, strings.NewReader(dump.String())), store.ErrNotEmpty)
	}
	later := storetest.DSN(t)
	db, err = store.Open(ctx, later)
	require.NoError(t, err)
	require.NoError(t, db.Close())
	_, err = plain(t, later).Exec("UPDATE goose_db_version SET version_id = version_id + 1000 ORDER BY version_id DESC LIMIT 1")
	require.NoError(t, err)
	assert.ErrorContains(t, store.LoadDump(ctx, later, strings.NewReader(dump.String())), "newer Hue Keep")
	assert.Contains(t, content(t, later), "houses")
}
