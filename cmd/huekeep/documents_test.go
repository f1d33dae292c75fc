package main

import (
	"debug/buildinfo"
	"net/http"
	"net/http/httptest"
	"os"
	"os/exec"
	"path/filepath"
	"regexp"
	"strings"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"huekeep/demo"
	"huekeep/ui"
)

// blocks are the examples of a document, in order.
func blocks(t *testing.T, name string) (list []string) {
	t.Helper()
	text, err := os.ReadFile(filepath.Join("..", "..", name))
	require.NoError(t, err)
	for _, m := range regexp.MustCompile("(?s)\n```\n(.*?\n)```\n").FindAllStringSubmatch(string(text), -1) {
		list = append(list, m[1])
	}
	return list
}

// examples are run in a folder: with the program on the path, under the name that the documents call it by.
type examples struct {
	t    *testing.T
	root string
}

func newExamples(t *testing.T) examples {
	e := examples{t, t.TempDir()}
	bin := t.TempDir()
	require.NoError(t, os.Symlink(program, filepath.Join(bin, "huekeep")))
	t.Setenv("PATH", bin+string(os.PathListSeparator)+os.Getenv("PATH"))
	for _, name := range []string{"GIT_DIR", "GIT_INDEX_FILE", "GIT_WORK_TREE"} {
		t.Setenv(name, "")
		require.NoError(t, os.Unsetenv(name))
	}
	return e
}

func (e examples) put(name, text string) {
	e.t.Helper()
	at := filepath.Join(e.root, name)
	require.NoError(e.t, os.MkdirAll(filepath.Dir(at), 0o755))
	require.NoError(e.t, os.WriteFile(at, []byte(text), 0o755))
}

func (e examples) sh(script string) (out string, code int) {
	e.t.Helper()
	c := exec.Command("sh", "-c", script)
	c.Dir = e.root
	said, err := c.CombinedOutput()
	if err != nil && c.ProcessState == nil {
		require.NoError(e.t, err)
	}
	return string(said), c.ProcessState.ExitCode()
}

// What the documents tell builds to do is done here, word for word.
func TestTheExamplesForBuilds(t *testing.T) {
	list := blocks(t, "docs/builds.md")
	require.Len(t, list, 6) // the last two are of a house: TestABuildJudgesInAHouse
	hook, job, once, right := list[0], list[1], list[2], list[3]

	t.Run("the hook", func(t *testing.T) {
		if _, err := exec.LookPath("git"); err != nil {
			t.Skip("git is not installed")
		}
		e := newExamples(t)
		out, code := e.sh("git init -q . && git config user.email a@x.example && git config user.name A && git config commit.gpgsign false")
		require.Zero(t, code, out)
		e.put(".git/hooks/pre-commit", hook)
		e.put("colors.json", libraryFile)
		e.put("styles/all of it.css", ".a { color: #E2572B }")
		out, code = e.sh("git add . && git commit -q -m begin")
		assert.Zero(t, code, "its own library and a name with spaces: %s", out)
		e.put("styles/all of it.css", ".a { color: #E1572C }")
		e.put("styles/it's \"new\".css", ".a { color: #E2572B }")
		out, code = e.sh("git add . && git commit -q -m drifted")
		assert.NotZero(t, code)
		assert.Contains(t, out, "all of it.css:1:13: drifted #E1572C, nearest Buoy")
		out, code = e.sh("git reset -q -- 'styles/all of it.css' && git commit -q -m 'the rest'")
		assert.Zero(t, code, out)
		out, code = e.sh("git commit -q --allow-empty -m nothing")
		assert.Zero(t, code, out)
	})

	t.Run("the job", func(t *testing.T) {
		server := httptest.NewServer(http.HandlerFunc(func(w http.ResponseWriter, r *http.Request) {
			assert.Equal(t, "/p/SECRET/core.json", r.URL.Path)
			_, _ = w.Write([]byte(libraryFile))
		}))
		defer server.Close()
		here := func(s string) string { return strings.ReplaceAll(s, "https://colors.house.example", server.URL) }
		script := ""
		for line := range strings.Lines(job) {
			if command, ok := strings.CutPrefix(strings.TrimSpace(line), "- "); ok {
				script += here(command) + "\n"
			}
		}
		require.NotEmpty(t, script)
		e := newExamples(t)
		e.put("site/a.css", ".a { color: #E1572C }")
		e.put("colors-excuses.json", `{"excuses":[]}`)
		out, code := e.sh(here(once))
		assert.Equal(t, 1, code, out)
		for range 2 { // the report of the first run lies there in the second
			out, code = e.sh(script)
			assert.Zero(t, code, out)
		}
		assert.FileExists(t, filepath.Join(e.root, "colors.sarif"))
		e.put("site/b.css", ".a { color: #00A34F }")
		out, code = e.sh(script)
		assert.Equal(t, 1, code, out)
		out, code = e.sh(strings.ReplaceAll(here(once), " -o colors-baseline.json", " > again.json"))
		assert.Equal(t, 1, code, "an empty report that is being written is no project file: %s", out)
	})

	t.Run("putting it right", func(t *testing.T) {
		e := newExamples(t)
		e.put("colors.json", libraryFile)
		e.put("site/a.css", ".a { color: #E1572C }")
		e.put("plan.json", `{"colors":[{"from":"#E1572C","to":"Buoy"}]}`)
		e.put("deck.pptx", string(demo.TimetableDeck().Data))
		for line := range strings.Lines(right) {
			out, code := e.sh(line)
			assert.Contains(t, []int{0, 1}, code, "%s: %s", line, out)
		}
		fixed, err := os.ReadFile(filepath.Join(e.root, "fixed", "site", "a.css"))
		require.NoError(t, err)
		assert.Equal(t, ".a { color: #E2572B }", string(fixed))
		assert.FileExists(t, filepath.Join(e.root, "deck-fixed.pptx"))
	})
}

// Every flag that the README names is one of the command that it names it for.
func TestTheCommandsOfTheREADME(t *testing.T) {
	text, err := os.ReadFile("../../README.md")
	require.NoError(t, err)
	whole := regexp.MustCompile(`\n +\[`).ReplaceAllString(string(text), " [")
	n := 0
	for _, m := range regexp.MustCompile(`(?m)^huekeep ([a-z-]+) (.*)$`).FindAllStringSubmatch(whole, -1) {
		help, _, code := huekeep(t, m[1], "--help")
		require.Zero(t, code, m[1])
		for _, flag := range regexp.MustCompile(`(?:^|[ \[])(--?[a-z][a-z-]*)`).FindAllStringSubmatch(m[2], -1) {
			assert.Regexp(t, regexp.QuoteMeta(flag[1])+`\b`, help, "huekeep %s", m[1])
			n++
		}
	}
	assert.Greater(t, n, 40)
}

// Whatever the program is built of stands in the notices that ship with it, as do the packages of its interface.
func TestTheNoticesNameAllThatShips(t *testing.T) {
	info, err := buildinfo.ReadFile(program)
	require.NoError(t, err)
	require.Greater(t, len(info.Deps), 50)
	for _, m := range info.Deps {
		assert.Contains(t, ui.Notices, m.Path+" "+m.Version)
	}
	for _, name := range []string{"svelte 5", "@tanstack/svelte-query", "openapi-fetch", "sv-router", "daisyui", "tailwindcss", "Go, its library", "SIL OPEN FONT LICENSE", "FOGRA39L"} {
		assert.Contains(t, ui.Notices, name)
	}
}
