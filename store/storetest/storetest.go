// Package storetest gives tests a real MariaDB.
package storetest

import (
	"context"
	"fmt"
	"os"
	"path/filepath"
	"sync/atomic"
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
func Main(m *testing.M) {
	dir, err := os.MkdirTemp("", "huekeep-test-")
	if err != nil {
		panic(err)
	}
	if server, err = local.Start(context.Background(), filepath.Join(dir, "db")); err != nil {
		panic(err)
	}
	code := m.Run()
	if err := server.Stop(); err != nil {
		fmt.Fprintln(os.Stderr, err)
		code = 1
	}
	os.RemoveAll(dir)
	os.Exit(code)
}

// DSN is a new, empty database.
func DSN(t testing.TB) string {
	name := fmt.Sprintf("test%d", made.Add(1))
	require.NoError(t, server.Create(context.Background(), name, true))
	return server.DSN(name)
}

// Open is a new database with the current schema.
func Open(t testing.TB) *store.DB {
	db, err := store.Open(context.Background(), DSN(t))
	require.NoError(t, err)
	t.Cleanup(func() { db.Close() })
	return db
}
