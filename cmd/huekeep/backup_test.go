package main

import (
	"os"
	"os/exec"
	"path/filepath"
	"strings"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"
)

// A house goes out of one installation and into another by the command line alone.
func TestExportAndImport(t *testing.T) {
	if _, err := exec.LookPath("mariadb-install-db"); err != nil {
		if os.Getenv("CI") != "" {
			t.Fatal("MariaDB must be installed in CI")
		}
		t.Skip("MariaDB is not installed")
	}
	dir := t.TempDir()
	in := func(data, stdin string, args ...string) (string, error) {
		cmd := exec.Command(program, args...)
		cmd.Env = append(os.Environ(), "HUEKEEP_DATABASE=", "HUEKEEP_DATA="+filepath.Join(dir, data))
		cmd.Stdin = strings.NewReader(stdin)
		out, err := cmd.CombinedOutput()
		return string(out), err
	}
	tokens := filepath.Join(dir, "tokens.json")
	require.NoError(t, os.WriteFile(tokens, []byte(`{"a":{"$type":"color","$value":"#123456"}}`), 0o600))
	backup := filepath.Join(dir, "backup.json")
	for _, data := range []string{"one", "two"} {
		out, err := in(data, "a long password\n", "account", "ana@example.org", "--name", "Ana", "--house", "Our House")
		require.NoError(t, err, out)
	}
	out, err := in("one", "", "import", tokens, "--house", "Our House")
	assert.Error(t, err)
	assert.Contains(t, out, "not a whole Hue Keep library")
	out, err = in("one", "", "export", "--house", "Our House", "-o", backup)
	require.NoError(t, err, "an empty house can be kept too: %s", out)
	out, err = in("one", "", "import", backup, "--house", "Our House")
	require.NoError(t, err, out)
	assert.Contains(t, out, "0 colors came in")
	out, err = in("one", "", "export", "--house", "Nobody's")
	assert.Error(t, err)
	assert.Contains(t, out, "There is no house named")

	// The file of a library of two colors, as the program writes it.
	require.NoError(t, os.WriteFile(backup, sample(t), 0o600))
	out, err = in("one", "", "import", backup, "--house", "Our House", "--replace")
	require.NoError(t, err, out)
	assert.Contains(t, out, "2 colors came in, 0 were there already")
	again := filepath.Join(dir, "again.json")
	out, err = in("one", "", "export", "--house", "Our House", "-o", again)
	require.NoError(t, err, out)
	out, err = in("two", "", "import", again, "--house", "Our House")
	require.NoError(t, err, out)
	assert.Contains(t, out, "2 colors came in")
	all := filepath.Join(dir, "house.zip")
	out, err = in("one", "", "export", "--house", "Our House", "--all", "-o", all)
	require.NoError(t, err, out)
	out, err = in("two", "", "import", all, "--house", "Our House")
	require.NoError(t, err, out)
	assert.Contains(t, out, "0 colors came in, 2 were there already\n0 projects")
	text, err := os.ReadFile(again)
	require.NoError(t, err)
	require.NoError(t, os.WriteFile(again, []byte(strings.Replace(string(text), "Buoy", "Boje", 1)), 0o600))
	out, err = in("two", "", "import", again, "--house", "Our House")
	assert.Error(t, err)
	assert.Contains(t, out, "checksum")
}
