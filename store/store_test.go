package store_test

import (
	"context"
	"errors"
	"maps"
	"math/rand/v2"
	"os"
	"os/exec"
	"path/filepath"
	"reflect"
	"slices"
	"strings"
	"sync"
	"syscall"
	"testing"
	"time"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"
	gormmysql "gorm.io/driver/mysql"
	"gorm.io/gorm"
	"gorm.io/gorm/schema"

	"huekeep/core/library"
	"huekeep/store"
	"huekeep/store/local"
	"huekeep/store/storetest"
)

func TestMain(m *testing.M) { storetest.Main(m) }

func TestModelsEqualTheMigratedSchema(t *testing.T) {
	dsn := storetest.DSN(t)
	db, err := store.Open(context.Background(), dsn)
	require.NoError(t, err)
	defer db.Close()
	g, err := gorm.Open(gormmysql.Open(dsn+"?parseTime=true"), &gorm.Config{})
	require.NoError(t, err)
	tables := map[string]bool{"goose_db_version": true, "goose_lock": true}
	for _, m := range store.Models {
		s, err := schema.Parse(m, &sync.Map{}, g.NamingStrategy)
		require.NoError(t, err)
		tables[s.Table] = true
		columns, err := g.Migrator().ColumnTypes(m)
		require.NoError(t, err)
		inTable := map[string]gorm.ColumnType{}
		for _, c := range columns {
			inTable[c.Name()] = c
		}
		for _, f := range s.Fields {
			if f.DBName == "" {
				continue
			}
			c, ok := inTable[f.DBName]
			if !assert.True(t, ok, "%s.%s is in the model only", s.Table, f.DBName) {
				continue
			}
			delete(inTable, f.DBName)
			nullable, _ := c.Nullable()
			assert.Equal(t, f.FieldType.Kind() == reflect.Pointer, nullable, "%s.%s nullable", s.Table, f.DBName)
			primary, _ := c.PrimaryKey()
			assert.Equal(t, f.PrimaryKey, primary, "%s.%s primary key", s.Table, f.DBName)
			kind := strings.ToLower(c.DatabaseTypeName())
			want := map[schema.DataType][]string{schema.Int: {"bigint", "int"}, schema.String: {"varchar", "char", "text", "mediumtext", "longtext"}, schema.Bytes: {"longblob", "varbinary"},
				schema.Float: {"double"}, schema.Bool: {"tinyint"}, schema.Time: {"datetime"}}[f.GORMDataType]
			assert.Contains(t, want, kind, "%s.%s", s.Table, f.DBName)
		}
		assert.Empty(t, inTable, "columns of %s that no model has", s.Table)
	}
	all, err := g.Migrator().GetTables()
	require.NoError(t, err)
	for _, name := range all {
		assert.True(t, tables[name], "table %s has no model", name)
	}
}

func TestMigratingTwiceChangesNothing(t *testing.T) {
	dsn := storetest.DSN(t)
	for range 2 {
		db, err := store.Open(context.Background(), dsn)
		require.NoError(t, err)
		require.NoError(t, db.Ping(context.Background()))
		require.NoError(t, db.Close())
	}
	_, err := store.Open(context.Background(), "nonsense")
	assert.ErrorContains(t, err, "data source name")
}

func house(t *testing.T, db *store.DB, name string) store.House {
	h := store.House{Name: name, NameKey: store.NameKey(name), Tolerance: 3}
	require.NoError(t, db.Add(&h))
	return h
}

func TestNamesAreUniqueInAHouseOnly(t *testing.T) {
	db := storetest.Open(t)
	a, b := house(t, db, "A"), house(t, db, "B")
	color := func(h store.House, name string) error {
		return db.Add(&store.Color{HouseID: h.ID, Name: name, NameKey: store.NameKey(name), Hex: "#112233", Status: "approved", Version: 1})
	}
	require.NoError(t, color(a, "Deep Sound"))
	assert.ErrorIs(t, color(a, "deep  SOUND"), store.ErrDuplicate)
	assert.NoError(t, color(b, "Deep Sound"))
	assert.NoError(t, color(a, "Deep Söund"), "an accent makes another name")
	assert.ErrorIs(t, color(a, "Deep So\u0308und"), store.ErrDuplicate, "but not how the accent is encoded")
	assert.Error(t, color(a, strings.Repeat("x", 121)), "too long is an error, not cut off")
}

func TestAnotherHousesRowsDoNotExist(t *testing.T) {
	db := storetest.Open(t)
	a, b := house(t, db, "A"), house(t, db, "B")
	c := store.Color{HouseID: a.ID, Name: "x", NameKey: "x", Hex: "#112233", Status: "approved", Version: 1}
	require.NoError(t, db.Add(&c))
	s := store.SwatchSet{HouseID: a.ID, Name: "x", NameKey: "x", Version: 1}
	require.NoError(t, db.Add(&s))
	_, err := db.Color(b.ID, c.ID)
	assert.ErrorIs(t, err, store.ErrNotFound)
	_, err = db.Set(b.ID, s.ID)
	assert.ErrorIs(t, err, store.ErrNotFound)
	list, err := db.Colors(b.ID)
	require.NoError(t, err)
	assert.Empty(t, list)
}

func TestATransactionKeepsAllOrNothing(t *testing.T) {
	db := storetest.Open(t)
	h := house(t, db, "A")
	err := db.In(context.Background(), func(tx *store.DB) error {
		require.NoError(t, tx.Add(&store.Color{HouseID: h.ID, Name: "x", NameKey: "x", Hex: "#112233", Status: "approved"}))
		return errors.New("no")
	})
	assert.EqualError(t, err, "no")
	list, err := db.Colors(h.ID)
	require.NoError(t, err)
	assert.Empty(t, list)
}

// The server that a killed process leaves behind is taken over; one that was killed itself is started again.
func TestTheLocalServerSurvivesKills(t *testing.T) {
	dir := filepath.Join(t.TempDir(), strings.Repeat("a-rather-long-folder-name-", 4))
	ctx := context.Background()
	s, err := local.Start(ctx, dir)
	require.NoError(t, err)
	require.NoError(t, s.Create(ctx, "keep", false))
	db, err := store.Open(ctx, s.DSN("keep"))
	require.NoError(t, err)
	house(t, db, "Kept")
	_, err = local.Start(ctx, dir)
	assert.ErrorIs(t, err, local.ErrBusy)
	db.Close()

	pid, err := os.ReadFile(filepath.Join(dir, "mariadb.pid"))
	require.NoError(t, err)
	require.NoError(t, exec.Command("kill", "-9", strings.TrimSpace(string(pid))).Run())
	time.Sleep(200 * time.Millisecond)
	require.NoError(t, s.Stop())

	s, err = local.Start(ctx, dir)
	require.NoError(t, err, "after a kill")
	db, err = store.Open(ctx, s.DSN("keep"))
	require.NoError(t, err)
	h, err := db.House(1)
	require.NoError(t, err)
	assert.Equal(t, "Kept", h.Name)
	db.Close()
	require.NoError(t, s.Stop())
	assert.Error(t, syscall.Kill(mustPID(t, string(pid)), 0), "nothing keeps running")
}

func mustPID(t *testing.T, s string) int {
	n := 0
	for _, r := range strings.TrimSpace(s) {
		n = n*10 + int(r-'0')
	}
	require.Positive(t, n)
	return n
}

// What says how recipients stand is a part of all deliveries, and no other part.
func TestStandingIsTheLastSendingAndTheBestThatWasTaken(t *testing.T) {
	db := storetest.Open(t)
	h := house(t, db, "A")
	for _, name := range []string{"One", "Two"} {
		require.NoError(t, db.Add(&store.SwatchSet{HouseID: h.ID, Name: name, NameKey: store.NameKey(name), Version: 1}))
		require.NoError(t, db.Add(&store.Recipient{HouseID: h.ID, Name: name, NameKey: store.NameKey(name), Kind: "web", Version: 1}))
	}
	for set := int64(1); set <= 2; set++ {
		for n := 1; n <= 5; n++ {
			require.NoError(t, db.AddEdition(h.ID, set, library.Edition{Number: n, FixedAt: time.Now().UTC().Truncate(time.Millisecond)}))
		}
	}
	random := rand.New(rand.NewPCG(1, 2))
	day := time.Date(2026, 3, 4, 5, 6, 7, 0, time.UTC)
	for i := range 200 {
		sent := day.Add(time.Duration(i/3) * time.Minute) // three packings a sending
		d := store.Delivery{RecipientID: 1 + random.Int64N(2), SetID: 1 + random.Int64N(2), Number: 1 + random.IntN(5), SentAt: sent, OK: random.IntN(3) > 0, Way: "application", Times: 1}
		if random.IntN(4) == 0 {
			at := sent.Add(time.Duration(random.IntN(500)) * time.Hour)
			d.LastAt = &at
		}
		require.NoError(t, db.Add(&d))
	}
	all, err := db.Deliveries(h.ID)
	require.NoError(t, err)
	part, err := db.Standing(h.ID)
	require.NoError(t, err)
	assert.Less(t, len(part), len(all))
	got := map[int64]bool{}
	for i, d := range part {
		got[d.ID] = true
		assert.True(t, i == 0 || part[i-1].ID < d.ID, "oldest first")
	}
	for recipient := int64(1); recipient <= 2; recipient++ {
		for set := int64(1); set <= 2; set++ {
			var last store.Delivery
			best, newest, fetched := 0, 0, time.Time{}
			for _, d := range all {
				if d.RecipientID == recipient && d.SetID == set {
					last, newest = d, max(newest, d.Number)
					if d.OK {
						best = max(best, d.Number)
					}
					if d.LastAt != nil && d.LastAt.After(fetched) {
						fetched = *d.LastAt
					}
				}
			}
			for _, d := range all {
				if d.RecipientID == recipient && d.SetID == set {
					want := d.ID == last.ID || d.SentAt.Equal(last.SentAt) || d.OK && d.Number == best || d.Number == newest || d.LastAt != nil && d.LastAt.Equal(fetched)
					assert.Equal(t, want, got[d.ID], "delivery %d", d.ID)
				}
			}
		}
	}
}

// Every table is set aside with a library, or says why it is not, so that none is forgotten.
func TestEveryTableIsSetAsideOrSaysWhyNot(t *testing.T) {
	dsn := storetest.DSN(t)
	_, err := store.Open(context.Background(), dsn)
	require.NoError(t, err)
	set, not := store.AsideTables()
	rows, err := plain(t, dsn).Query("SELECT table_name FROM information_schema.tables WHERE table_schema = DATABASE() AND table_name NOT LIKE 'goose%'")
	require.NoError(t, err)
	defer rows.Close()
	var all []string
	for rows.Next() {
		var name string
		require.NoError(t, rows.Scan(&name))
		assert.True(t, slices.Contains(set, name) != (not[name] != ""), name)
		all = append(all, name)
	}
	assert.ElementsMatch(t, all, slices.AppendSeq(slices.Clone(set), maps.Keys(not)))
}
