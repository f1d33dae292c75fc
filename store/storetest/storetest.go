// Package storetest gives tests a real MariaDB.
package storetest

import (
	"context"
	"database/sql"
	"fmt"
	"os"
	"path/filepath"
	"sync"
	"sync/atomic"
	"syscall"
	"testing"

	"github.com/stretchr/testify/require"

	"huekeep/store"
	"huekeep/store/local"
)

var (
	server *local.Server
	made   atomic.Int64
)

// Main runs a package's tests with a server of their own; call it from TestMain.
func Main(m *testing.M, after ...func()) {
	dir, err := os.MkdirTemp(quick(), "huekeep-test-")
	if err != nil {
		panic(err)
	}
	if server, err = local.Start(context.Background(), filepath.Join(dir, "db")); err != nil {
		panic(err)
	}
	code := m.Run()
	for _, f := range after {
		f()
	}
	if err := server.Stop(); err != nil {
		fmt.Fprintln(os.Stderr, err)
		code = 1
	}
	os.RemoveAll(dir)
	os.Exit(code)
}

// quick is a place in memory, if there is one with room: what tests write need not survive. Empty for the usual one.
func quick() string {
	const place, room = "/dev/shm", 4 << 30
	var fs syscall.Statfs_t
	if syscall.Statfs(place, &fs) != nil || int64(fs.Bavail)*fs.Bsize < room {
		return ""
	}
	return place
}

// DSN is a new, empty database.
func DSN(t testing.TB) string {
	name := fmt.Sprintf("test%d", made.Add(1))
	require.NoError(t, server.Create(context.Background(), name, true))
	return server.DSN(name)
}

// Template is a database that is filled once and copied for each test, which is many times as fast as filling each.
type Template struct {
	Fill func(db *store.DB) error

	once   sync.Once
	name   string
	tables []string // their names
	made   []string // how each is made
	err    error
}

// Open is a copy of the template.
func (f *Template) Open(t testing.TB) *store.DB {
	ctx := context.Background()
	f.once.Do(func() { f.err = f.fill(ctx) })
	require.NoError(t, f.err)
	dsn := DSN(t)
	raw, err := sql.Open("mysql", dsn)
	require.NoError(t, err)
	defer raw.Close()
	one, err := raw.Conn(ctx) // what is set counts for one connection
	require.NoError(t, err)
	defer one.Close()
	_, err = one.ExecContext(ctx, "SET FOREIGN_KEY_CHECKS = 0")
	require.NoError(t, err)
	for i, table := range f.tables {
		_, err = one.ExecContext(ctx, f.made[i])
		require.NoError(t, err)
		_, err = one.ExecContext(ctx, "INSERT INTO `"+table+"` SELECT * FROM `"+f.name+"`.`"+table+"`")
		require.NoError(t, err, table)
	}
	db, err := store.Open(ctx, dsn)
	require.NoError(t, err)
	t.Cleanup(func() { db.Close() })
	return db
}

func (f *Template) fill(ctx context.Context) error {
	f.name = fmt.Sprintf("template%d", made.Add(1))
	if err := server.Create(ctx, f.name, true); err != nil {
		return err
	}
	db, err := store.Open(ctx, server.DSN(f.name))
	if err != nil {
		return err
	}
	defer db.Close()
	if err := f.Fill(db); err != nil {
		return err
	}
	raw, err := sql.Open("mysql", server.DSN(f.name))
	if err != nil {
		return err
	}
	defer raw.Close()
	rows, err := raw.QueryContext(ctx, "SELECT table_name FROM information_schema.tables WHERE table_schema = DATABASE()")
	if err != nil {
		return err
	}
	defer rows.Close()
	for rows.Next() {
		var name, again, how string
		if err := rows.Scan(&name); err != nil {
			return err
		}
		if err := raw.QueryRowContext(ctx, "SHOW CREATE TABLE `"+name+"`").Scan(&again, &how); err != nil {
			return err
		}
		f.tables, f.made = append(f.tables, name), append(f.made, how)
	}
	return rows.Err()
}

// Open is a new database with the current schema.
func Open(t testing.TB) *store.DB {
	db, err := store.Open(context.Background(), DSN(t))
	require.NoError(t, err)
	t.Cleanup(func() { db.Close() })
	return db
}

// Hard is how much a test does: as usual, or with HUEKEEP_HARD set (make test-hard) as much as showed every defect that it is there for.
func Hard(usual, hard int) int {
	if os.Getenv("HUEKEEP_HARD") != "" {
		return hard
	}
	return usual
}
