package main

import (
	"net/http"
	"net/http/httptest"
	"os"
	"os/exec"
	"path/filepath"
	"strings"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"
)

// A library is packed from wherever it is; nothing that is there is written over unasked, and a name says what is in the file.
func TestPackingFromAnywhereAndOverNothing(t *testing.T) {
	dir := t.TempDir()
	lib := write(t, "lib.json", []byte(libraryFile))
	server := httptest.NewServer(http.HandlerFunc(func(w http.ResponseWriter, _ *http.Request) { _, _ = w.Write([]byte(libraryFile)) }))
	defer server.Close()
	in := func(stdin string, args ...string) (string, int) {
		c := exec.Command(program, args...)
		c.Dir, c.Stdin = dir, strings.NewReader(stdin)
		out, _ := c.CombinedOutput()
		return string(out), c.ProcessState.ExitCode()
	}
	want, code := in("", "pack", lib, "--as", "css", "-o", "-")
	require.Zero(t, code, want)
	got, code := in(libraryFile, "pack", "-", "--as", "css", "-o", "-")
	require.Zero(t, code, got)
	assert.Equal(t, want, got)
	got, code = in("", "pack", server.URL+"/p/x/core.json", "--as", "css", "-o", "-")
	require.Zero(t, code, got)
	assert.Equal(t, want, got)

	out, code := in("", "pack", lib, "--as", "css")
	require.Zero(t, code, out)
	list, err := filepath.Glob(filepath.Join(dir, "*.css"))
	require.NoError(t, err)
	require.Len(t, list, 1)
	assert.Contains(t, out, filepath.Base(list[0])+" is written")
	require.NoError(t, os.WriteFile(list[0], []byte("mine"), 0o644))
	out, code = in("", "pack", lib, "--as", "css")
	assert.Equal(t, 2, code)
	assert.Contains(t, out, "is there already")
	kept, err := os.ReadFile(list[0])
	require.NoError(t, err)
	assert.Equal(t, "mine", string(kept))
	_, code = in("", "pack", lib, "--as", "css", "-o", filepath.Base(list[0]))
	assert.Zero(t, code, "it was asked for")
	require.NoError(t, os.Chmod(list[0], 0o640))
	require.NoError(t, os.Symlink(filepath.Base(list[0]), filepath.Join(dir, "link.css")))
	_, code = in("", "pack", lib, "--as", "css", "-o", "link.css")
	assert.Zero(t, code)
	info, err := os.Stat(list[0])
	require.NoError(t, err)
	assert.Equal(t, os.FileMode(0o640), info.Mode().Perm(), "it stays as open as it was")
	target, err := os.Readlink(filepath.Join(dir, "link.css"))
	require.NoError(t, err)
	assert.Equal(t, filepath.Base(list[0]), target, "a link leads where it led")

	for _, args := range [][]string{{"--as", "deck", "-o", "core.css"}, {"--as", "css", "-o", "core.PPTX"}} {
		out, code = in("", append([]string{"pack", lib}, args...)...)
		assert.Equal(t, 2, code)
		assert.Contains(t, out, "is called otherwise")
	}
	out, code = in("", "pack", lib, "--as", "css", "-o", "/dev/null")
	assert.Zero(t, code, out)
	info, err = os.Stat("/dev/null")
	require.NoError(t, err)
	assert.False(t, info.Mode().IsRegular(), "a device stays one")

	out, code = in("", "convert", "#E2572B", "--to", "nonsense")
	assert.Equal(t, 2, code)
	for _, form := range []string{"cmyk", "ink", "hex", "oklch", "ycbcr709", "ycbcr2020-10-full"} {
		assert.Contains(t, out, form)
	}
	report := filepath.Join(dir, "report.json")
	require.NoError(t, os.WriteFile(filepath.Join(dir, "a.css"), []byte("a{color:#E1572C}"), 0o644))
	for range 2 {
		out, code = in(libraryFile, "audit", ".", "--library", "-", "--json", "-o", "report.json")
		assert.Equal(t, 1, code, out)
	}
	assert.FileExists(t, report)
	out, code = in(libraryFile, "audit", "a.css", "--library", "-", "-o", "./a.css")
	assert.Equal(t, 2, code)
	assert.Contains(t, out, "over a file that is judged")
	kept, err = os.ReadFile(filepath.Join(dir, "a.css"))
	require.NoError(t, err)
	assert.Equal(t, "a{color:#E1572C}", string(kept))
	out, code = in("", "man", "pages")
	require.Zero(t, code, out)
	page, err := os.ReadFile(filepath.Join(dir, "pages", "huekeep-audit.1"))
	require.NoError(t, err)
	assert.Contains(t, string(page), "baseline")
}
