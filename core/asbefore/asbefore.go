// Package asbefore is for tests of what must not change unnoticed: numbers and words that people have written down, and that a version of
// the program works out as those before it did.
package asbefore

import (
	"os"
	"path/filepath"
	"strings"
	"testing"

	"github.com/stretchr/testify/require"
)

// Is holds a text against the one that a file of testdata has, line by line. A change that is meant is written with
// HUEKEEP_WRITE_TESTDATA=1; the differences of the file then show what it is.
func Is(t *testing.T, name, text string) {
	t.Helper()
	path := filepath.Join("testdata", name)
	if os.Getenv("HUEKEEP_WRITE_TESTDATA") != "" {
		require.NoError(t, os.MkdirAll("testdata", 0o755))
		require.NoError(t, os.WriteFile(path, []byte(text), 0o644))
		return
	}
	before, err := os.ReadFile(path)
	require.NoError(t, err)
	was, is := strings.Split(string(before), "\n"), strings.Split(text, "\n")
	for i := range min(len(was), len(is)) {
		require.Equal(t, was[i], is[i], "%s:%d", path, i+1)
	}
	require.Len(t, is, len(was), path)
}
