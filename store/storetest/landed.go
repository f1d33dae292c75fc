package storetest

import (
	"compress/gzip"
	"context"
	"database/sql"
	"io"
	"os"
	"path/filepath"
	"runtime"
	"testing"

	"github.com/stretchr/testify/require"
)

// Landed lists databases as versions of this program left them that people may have: their own demo with work on top. They are never made
// anew.
func Landed(t testing.TB) []string {
	_, here, _, _ := runtime.Caller(0)
	list, err := filepath.Glob(filepath.Join(filepath.Dir(here), "..", "testdata", "landed", "*.sql.gz"))
	require.NoError(t, err)
	require.GreaterOrEqual(t, len(list), 10)
	return list
}

// Restored is a database of a version before, not upgraded yet.
func Restored(t testing.TB, path string) (dsn string) {
	t.Helper()
	ctx := context.Background()
	dsn = DSN(t)
	pool, err := sql.Open("mysql", dsn+"?multiStatements=true")
	require.NoError(t, err)
	defer pool.Close()
	f, err := os.Open(path)
	require.NoError(t, err)
	defer f.Close()
	z, err := gzip.NewReader(f)
	require.NoError(t, err)
	text, err := io.ReadAll(z)
	require.NoError(t, err)
	one, err := pool.Conn(ctx)
	require.NoError(t, err)
	defer one.Close()
	for _, q := range []string{"SET FOREIGN_KEY_CHECKS = 0", string(text), "SET FOREIGN_KEY_CHECKS = 1"} {
		_, err = one.ExecContext(ctx, q)
		require.NoError(t, err)
	}
	return dsn
}
