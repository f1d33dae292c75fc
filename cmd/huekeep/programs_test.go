package main

import (
	"os"
	"os/exec"
	"path/filepath"
	"regexp"
	"strings"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"
)

// code is the example of a document in a language.
func code(t *testing.T, name, language string) string {
	t.Helper()
	text, err := os.ReadFile(filepath.Join("..", "..", name))
	require.NoError(t, err)
	m := regexp.MustCompile("(?s)\n```" + language + "\n(.*?\n)```\n").FindSubmatch(text)
	require.NotNil(t, m, "%s has no example in %s", name, language)
	return string(m[1])
}

// tokenOf is an access token of the keeper of a running demo, for its first house and everything.
func tokenOf(v *victim) string {
	v.t.Helper()
	status, answer := v.send("/account/tokens", map[string]any{"name": "day", "house": 1, "role": "keeper", "purpose": "everything", "days": 1})
	require.Equal(v.t, 201, status, answer)
	return answer["token"].(string)
}

// The day of docs/programs.md is done by a client that a generator makes of the contract; the programs are those of the document, word for word.
func TestTheProgramsOfTheDocuments(t *testing.T) {
	v := running(t)
	t.Setenv("HUEKEEP", "http://"+v.address)
	t.Setenv("HUEKEEP_TOKEN", tokenOf(v))

	t.Run("Go", func(t *testing.T) {
		require.NoError(t, os.MkdirAll("testdata/day", 0o755)) // within the module, for what the client is built on; not a package of it
		defer os.RemoveAll("testdata/day")
		require.NoError(t, os.Mkdir("testdata/day/colors", 0o755))
		out, err := exec.Command("go", "tool", "oapi-codegen", "-generate", "types,client", "-package", "colors", "-o", "testdata/day/colors/colors.gen.go", "../../api/openapi.yaml").CombinedOutput()
		require.NoError(t, err, string(out))
		day := strings.Replace(code(t, "docs/programs.md", "go"), "house.example/day/colors", "huekeep/cmd/huekeep/testdata/day/colors", 1)
		require.NoError(t, os.WriteFile("testdata/day/main.go", []byte(day), 0o644))
		out, err = exec.Command("go", "run", "./testdata/day").CombinedOutput()
		require.NoError(t, err, string(out))
		for _, said := range []string{"added Night Boat #102030\n", "amended to #102438\n", "picked up 200 then 304\n", "harbor.css:1:16: drifted #112439, nearest Night Boat", ".boat { color: #102438 }\n"} {
			assert.Contains(t, string(out), said)
		}
		var ledger struct{ Colors []struct{ Name string } }
		v.get("/houses/1/colors", &ledger)
		boats := 0
		for _, c := range ledger.Colors {
			if strings.HasPrefix(c.Name, "Night Boat") {
				boats++
			}
		}
		assert.Equal(t, 1, boats, "asked for twice with one key")
	})

	t.Run("a shell", func(t *testing.T) {
		e := newExamples(t)
		e.put("harbor.css", ".boat { color: #112439 }\n")
		out, status := e.sh(code(t, "docs/programs.md", "sh"))
		assert.Zero(t, status, out)
		assert.Contains(t, out, "drifted #112439, nearest Night Boat")
		assert.Contains(t, out, `"kind":"audit"`)
	})
}

// What is written in TypeScript against the types that a generator makes of the contract is without fault to the compiler, and one wrong word is not.
func TestTheTypeScriptOfTheDocuments(t *testing.T) {
	ui, err := filepath.Abs("../../ui")
	require.NoError(t, err)
	folder, err := os.MkdirTemp(filepath.Join(ui, "node_modules"), "day-") // beside the packages that it imports
	require.NoError(t, err)
	defer os.RemoveAll(folder)
	run := func(name string, arguments ...string) (string, error) {
		c := exec.Command("npx", append([]string{"--no-install", name}, arguments...)...)
		c.Dir = ui
		out, err := c.CombinedOutput()
		return string(out), err
	}
	out, err := run("openapi-typescript", "../api/openapi.yaml", "-o", filepath.Join(folder, "colors.d.ts"))
	require.NoError(t, err, out)
	day := code(t, "docs/programs.md", "ts")
	compile := func(text string) (string, error) {
		require.NoError(t, os.WriteFile(filepath.Join(folder, "day.ts"), []byte(text), 0o644))
		return run("tsc", "--noEmit", "--strict", "--noUncheckedIndexedAccess", "--module", "esnext", "--moduleResolution", "bundler", "--target", "es2022", "--skipLibCheck", filepath.Join(folder, "day.ts"))
	}
	out, err = compile(day)
	assert.NoError(t, err, out)
	out, err = compile(strings.Replace(day, `value: "#102030"`, `valeu: "#102030"`, 1))
	assert.Error(t, err)
	assert.Contains(t, out, "valeu")
}
