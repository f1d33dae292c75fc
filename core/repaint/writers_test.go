package repaint_test

import (
	"encoding/json"
	"os"
	"os/exec"
	"path/filepath"
	"strings"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"huekeep/core/audit"
	"huekeep/core/audit/kinds"
	"huekeep/core/repaint"
)

// writers runs the script that writes files with other programs' libraries, and reads them with those; it answers in JSON.
func writers(t *testing.T, args ...string) []byte {
	t.Helper()
	python := "/usr/bin/python3" // Debian's, which has Debian's libraries
	if err := exec.Command(python, "-c", "import openpyxl, xlsxwriter, docx, odf, reportlab").Run(); err != nil {
		if os.Getenv("CI") != "" {
			t.Fatal("Debian's Python, or one of the libraries that write files, is not installed")
		}
		t.Skip("Debian's Python, or one of the libraries that write files, is not installed")
	}
	var said strings.Builder
	c := exec.Command(python, append([]string{"-W", "ignore", "testdata/writers.py"}, args...)...)
	c.Stderr = &said
	out, err := c.Output()
	require.NoError(t, err, said.String())
	return out
}

// Whatever another program can color is found, and what that program reads out of the repainted file is what the plan says.
func TestFilesOfOtherWritersAreReadAndRepaintedWhole(t *testing.T) {
	dir := t.TempDir()
	writers(t, "write", dir)
	data, err := os.ReadFile(filepath.Join(dir, "planted.json"))
	require.NoError(t, err)
	var planted map[string]map[string]string
	require.NoError(t, json.Unmarshal(data, &planted))
	require.Len(t, planted, 6)
	files := []string{"read"}
	becomes := map[string]string{}
	for name, colors := range planted {
		path := filepath.Join(dir, name)
		data, err := os.ReadFile(path)
		require.NoError(t, err)
		scan, err := kinds.Read(name, data)
		require.NoError(t, err)
		found := map[string]bool{}
		for _, u := range scan.Uses {
			if u.Why == "" {
				found[u.RGB.Hex()[1:]] = true
			}
		}
		var plan repaint.Plan
		for hex, what := range colors {
			assert.True(t, found[hex], "%s: %s, %s, was not found", name, hex, what)
			to := brand[len(plan.Colors)%len(brand)]
			plan.Colors = append(plan.Colors, repaint.Step{From: "#" + hex, To: to.Name})
			becomes[hex] = to.RGB.Hex()[1:]
		}
		r, err := repaint.File(name, data, audit.Rules{Colors: brand}, plan, kinds.Options{})
		require.NoError(t, err)
		assert.Empty(t, r.Left, name)
		again, err := kinds.Read(name, r.Data)
		require.NoError(t, err)
		for _, u := range again.Uses {
			assert.NotContains(t, colors, u.RGB.Hex()[1:], "%s: %s is left", name, u.Where)
		}
		mended := filepath.Join(dir, "mended-"+name)
		require.NoError(t, os.WriteFile(mended, r.Data, 0o644))
		if filepath.Ext(name) == ".pdf" {
			run(t, dir, "qpdf", "--check", mended)
			continue
		}
		files = append(files, path, mended)
	}
	var read map[string][]string
	require.NoError(t, json.Unmarshal(writers(t, files...), &read))
	require.Len(t, read, len(files)-1)
	some := 0
	for name := range planted {
		before, after := read[filepath.Join(dir, name)], read[filepath.Join(dir, "mended-"+name)]
		for i, hex := range before {
			if to := becomes[hex]; to != "" {
				before[i] = to
				some++
			}
		}
		assert.Equal(t, before, after, name)
	}
	assert.Greater(t, some, 50)
}
