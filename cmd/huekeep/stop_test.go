package main

import (
	"bytes"
	"context"
	"errors"
	"fmt"
	"os"
	"os/exec"
	"path/filepath"
	"strings"
	"syscall"
	"testing"
	"time"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"
)

// A build that is given up ends at once, says what was done, and leaves no cut file.
func TestWhatIsStopped(t *testing.T) {
	if testing.Short() {
		t.Skip("it starts the program")
	}
	dir := t.TempDir()
	site := filepath.Join(dir, "site")
	require.NoError(t, os.Mkdir(site, 0o755))
	sheet := []byte(strings.Repeat("a{color:#E2572C;background:linear-gradient(#0E3A54,#F2B633)}\n", 400))
	for i := range 1500 {
		require.NoError(t, os.WriteFile(filepath.Join(site, fmt.Sprintf("s%d.css", i)), sheet, 0o600))
	}
	each, err := filepath.Glob(filepath.Join(site, "*"))
	require.NoError(t, err)
	library := filepath.Join(dir, "library.json")
	require.NoError(t, os.WriteFile(library, []byte(libraryFile), 0o600))
	for _, c := range []struct {
		name   string
		signal syscall.Signal
		args   []string
		says   string
	}{
		{"an audit", syscall.SIGTERM, []string{"audit", site, "--library", library}, "of 1500 files; there is no report"},
		{"an audit, by hand", syscall.SIGINT, []string{"audit", site, "--library", library, "--format", "json"}, "stopped by SIGINT at"},
		{"a repaint", syscall.SIGTERM, []string{"repaint", site, "--library", library, "-o", filepath.Join(dir, "out")}, "of 1500 files; those that are told of are whole"},
		{"gathering", syscall.SIGTERM, append([]string{"gather"}, each...), "stopped by SIGTERM"},
	} {
		t.Run(c.name, func(t *testing.T) {
			var out, said bytes.Buffer
			var exit *exec.ExitError
			var took time.Duration
			for _, delay := range []time.Duration{400 * time.Millisecond, 1500 * time.Millisecond, 4 * time.Second} {
				out.Reset()
				said.Reset()
				cmd := exec.Command(program, c.args...)
				cmd.Stdout, cmd.Stderr = &out, &said
				require.NoError(t, cmd.Start())
				time.Sleep(delay)
				require.NoError(t, cmd.Process.Signal(c.signal))
				begun := time.Now()
				err := cmd.Wait()
				took = time.Since(begun)
				assert.Less(t, took, 10*time.Second, "a second, and what else this machine does")
				require.True(t, errors.As(err, &exit), "%v: %s", err, said.String())
				if exit.ExitCode() >= 0 { // else it had not even begun, on a busy machine
					break
				}
			}
			assert.Equal(t, 128+int(c.signal), exit.ExitCode(), said.String())
			assert.Contains(t, said.String(), "stopped by SIG")
			if took < respite { // it had the time to say where it was
				assert.Contains(t, said.String(), c.says)
			}
			if c.args[0] == "audit" {
				assert.Empty(t, out.String())
			}
		})
	}
	written, _ := filepath.Glob(filepath.Join(dir, "out", "site", "*"))
	t.Logf("%d files were written before it was stopped", len(written))
	assert.Less(t, len(written), 1500)
	whole := strings.Count(string(sheet), "\n")
	for _, f := range written {
		data, err := os.ReadFile(f)
		require.NoError(t, err)
		assert.Equal(t, whole, strings.Count(string(data), "\n"), f)
		assert.True(t, strings.HasSuffix(f, ".css"), f)
	}
}

// A file that takes too long is told of, whether its reader looks at its time or not.
func TestInTime(t *testing.T) {
	_, err := inTime(t.Context(), 20*time.Millisecond, func(ctx context.Context) (int, error) { <-ctx.Done(); return 0, ctx.Err() })
	assert.EqualError(t, err, "it takes too long to read (over 0.02 seconds)")
	block := make(chan bool)
	defer close(block)
	_, err = inTime(t.Context(), 20*time.Millisecond, func(context.Context) (int, error) { <-block; return 0, nil })
	assert.ErrorAs(t, err, &errStuck{})
	v, err := inTime(t.Context(), time.Minute, func(context.Context) (int, error) { return 7, nil })
	assert.NoError(t, err)
	assert.Equal(t, 7, v)
	ctx, cancel := context.WithCancelCause(t.Context())
	cancel(stopped{syscall.SIGTERM})
	_, err = inTime(ctx, time.Minute, func(context.Context) (int, error) { <-block; return 0, nil })
	assert.ErrorAs(t, err, &stopped{})
}

// What cannot be written is no success.
func TestAFullDiskIsNoSuccess(t *testing.T) {
	full, err := os.OpenFile("/dev/full", os.O_WRONLY, 0)
	require.NoError(t, err)
	defer full.Close()
	sheet := filepath.Join(t.TempDir(), "a.css")
	require.NoError(t, os.WriteFile(sheet, []byte("a{color:#E2572B}"), 0o600))
	library := filepath.Join(t.TempDir(), "library.json")
	require.NoError(t, os.WriteFile(library, []byte(libraryFile), 0o600))
	for _, args := range [][]string{{"convert", "#123456"}, {"convert", "#123456", "--json"}, {"gather", sheet}, {"audit", sheet, "--library", library}, {"inks", "#123456"}, {"version"}, {"contrast", "#123456", "#FFFFFF"}} {
		cmd := exec.Command(program, args...)
		var said bytes.Buffer
		cmd.Stdout, cmd.Stderr = full, &said
		err := cmd.Run()
		var exit *exec.ExitError
		require.ErrorAs(t, err, &exit, "%v", args)
		assert.Equal(t, 2, exit.ExitCode(), "%v", args)
		assert.Contains(t, said.String(), "no space left", "%v", args)
	}
}

// What a command is told to read or write lies in the folder that it judges, as builds have it: it is no project file. Excuses hold however their
// paths were typed, and what is misspelled in a file is told.
func TestFilesOfTheCommandItself(t *testing.T) {
	root := t.TempDir()
	put := func(name, text string) string {
		path := filepath.Join(root, filepath.FromSlash(name))
		require.NoError(t, os.MkdirAll(filepath.Dir(path), 0o755))
		require.NoError(t, os.WriteFile(path, []byte(text), 0o600))
		return path
	}
	put("site/css/a.css", "a{color:#00A34F}")
	library := put("colors/library.json", libraryFile)
	excuses := put("colors/excuses.json", `{"excuses":[{"color":"#00A34F","file":"../site/css/a.css","reason":"the partner's own"}]}`)
	out, errs, code := huekeep(t, "audit", root, "--library", library, "--excuses", excuses, "--json")
	require.Zero(t, code, "%s %s", out, errs)
	assert.NotContains(t, out, "library.json")
	assert.NotContains(t, out, "excuses.json")
	for _, file := range []string{"css/a.css", "site/css/a.css", filepath.ToSlash(filepath.Join(root, "site/css/a.css"))} { // from a root, and whole
		put("colors/excuses.json", `{"excuses":[{"color":"#00A34F","file":"`+file+`","reason":"the partner's own"}]}`)
		for _, arg := range []string{filepath.Join(root, "site"), root} {
			_, _, code = huekeep(t, "audit", arg, "--library", library, "--excuses", excuses)
			if file == "css/a.css" && arg == root || file == "site/css/a.css" && arg != root {
				assert.Equal(t, 1, code, "%s from %s is another file", file, arg)
			} else {
				assert.Zero(t, code, "%s from %s", file, arg)
			}
		}
	}
	put("colors/excuses.json", `{"excuses":[]}`)
	out, errs, code = huekeep(t, "audit", root, "--library", library, "--excuses", excuses, "--json")
	require.Equal(t, 1, code, errs)
	report := put("colors/report.json", out)
	_, errs, code = huekeep(t, "audit", root, "--library", library, "--excuses", excuses, "--baseline", report)
	assert.Zero(t, code, errs)

	fixed := filepath.Join(root, "fixed")
	for range 2 { // the second time the output is there
		_, errs, _ = huekeep(t, "repaint", root, "--library", library, "-o", fixed)
		assert.NoDirExists(t, filepath.Join(fixed, filepath.Base(root), "fixed"), errs)
		assert.NoFileExists(t, filepath.Join(fixed, filepath.Base(root), "colors", "library.json"))
	}
	for name, args := range map[string][]string{
		`"untill"`:         {"audit", root, "--library", library, "--excuses", put("bad1.json", `{"excuses":[{"color":"#00A34F","reason":"x","untill":"2030-01-01"}]}`)},
		`"colros"`:         {"repaint", root, "--library", library, "-o", fixed, "--plan", put("bad2.json", `{"colros":[]}`)},
		`no list "colors"`: {"repaint", root, "--library", library, "-o", fixed, "--plan", put("bad3.json", `{}`)},
		`no list "files"`:  {"audit", root, "--library", library, "--baseline", library},
		"no list \"exc":    {"audit", root, "--library", library, "--excuses", put("bad4.json", `{}`)},
	} {
		_, errs, code := huekeep(t, args...)
		assert.Equal(t, 2, code, name)
		assert.Contains(t, errs, name)
	}
}
