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

// documents are all of them, by their paths from the root.
func documents(t *testing.T) map[string]string {
	t.Helper()
	out := map[string]string{}
	for _, pattern := range []string{"*.md", "docs/*.md"} {
		list, err := filepath.Glob(filepath.Join("../..", pattern))
		require.NoError(t, err)
		for _, path := range list {
			text, err := os.ReadFile(path)
			require.NoError(t, err)
			name, err := filepath.Rel("../..", path)
			require.NoError(t, err)
			out[name] = string(text)
		}
	}
	require.Greater(t, len(out), 12)
	return out
}

// Every command and every flag that the documents name is one of the program.
func TestTheCommandsOfTheDocuments(t *testing.T) {
	help := map[string]string{}
	of := func(command string) string {
		if _, known := help[command]; !known {
			text, _, code := huekeep(t, append(strings.Fields(command), "--help")...)
			if code != 0 || !strings.Contains(text, "huekeep "+command) { // a command that is none gets the help of what is above it
				text = ""
			}
			help[command] = text
		}
		return help[command]
	}
	flags, commands := 0, 0
	for name, text := range documents(t) {
		whole := regexp.MustCompile(`\n +\[`).ReplaceAllString(text, " [")
		for _, m := range regexp.MustCompile("(?m)(?:^|[`(]|\\| )(?:\\./)?huekeep(?:-do)? ([a-z-]+)([^`\n]*)").FindAllStringSubmatch(whole, -1) {
			command, rest := m[1], m[2]
			if of(command) == "" {
				if strings.Contains(m[0], "`") || strings.HasPrefix(m[0], "huekeep") {
					t.Errorf("%s: there is no command %q", name, strings.TrimSpace(m[0]))
				}
				continue
			}
			commands++
			if next := strings.Fields(rest); len(next) > 0 && regexp.MustCompile(`^[a-z]+$`).MatchString(next[0]) && of(command+" "+next[0]) != "" {
				command += " " + next[0]
			}
			rest, _, _ = strings.Cut(rest, " #")
			rest, _, _ = strings.Cut(rest, " | ")
			for _, flag := range regexp.MustCompile(`(?:^|[ \[])(--?[a-z][a-z-]*)`).FindAllStringSubmatch(rest, -1) {
				assert.Regexp(t, regexp.QuoteMeta(flag[1])+`\b`, of(command), "%s: huekeep %s", name, command)
				flags++
			}
		}
	}
	assert.Greater(t, flags, 60)
	assert.Greater(t, commands, 60)
}

// Every link of the documents leads to a file that is there, and to a heading of it; every document and every picture is led to; every target of make is one.
func TestTheDocumentsLeadSomewhere(t *testing.T) {
	all := documents(t)
	led := map[string]bool{"README.md": true}
	makefile, err := os.ReadFile("../../Makefile")
	require.NoError(t, err)
	heading := func(text, mark string) bool {
		for _, m := range regexp.MustCompile(`(?m)^#+ (.*)$`).FindAllStringSubmatch(text, -1) {
			plain := regexp.MustCompile(`[^a-z0-9 -]`).ReplaceAllString(strings.ToLower(m[1]), "")
			if strings.ReplaceAll(plain, " ", "-") == mark {
				return true
			}
		}
		return false
	}
	links := 0
	for name, text := range all {
		prose := regexp.MustCompile("(?s)```.*?```").ReplaceAllString(text, "")
		for _, m := range regexp.MustCompile(`\]\(([^)\s]+)\)`).FindAllStringSubmatch(prose, -1) {
			if strings.Contains(m[1], "://") {
				continue
			}
			links++
			path, mark, marked := strings.Cut(m[1], "#")
			to := name
			if path != "" {
				to = filepath.Join(filepath.Dir(name), path)
			}
			assert.FileExists(t, filepath.Join("../..", to), "%s leads to %s", name, m[1])
			led[to] = true
			if marked {
				assert.True(t, heading(all[to], mark), "%s: %s has no heading %q", name, to, mark)
			}
		}
		for _, m := range regexp.MustCompile("(?m)(?:^|`)make ([a-z][a-z-]+)").FindAllStringSubmatch(text, -1) {
			assert.Regexp(t, `(?m)^`+m[1]+`:`, string(makefile), "%s names make %s", name, m[1])
		}
	}
	assert.Greater(t, links, 60)
	for name := range all {
		assert.True(t, led[name], "nothing leads to %s", name)
	}
	pictures, err := filepath.Glob("../../docs/screenshots/*.png")
	require.NoError(t, err)
	for _, p := range pictures {
		assert.True(t, led["docs/screenshots/"+filepath.Base(p)], "nothing leads to %s", p)
	}
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

// The list of changes and the program go by the same number.
func TestTheNumberIsThatOfTheChanges(t *testing.T) {
	text, err := os.ReadFile("../../CHANGELOG.md")
	require.NoError(t, err)
	released := regexp.MustCompile(`(?m)^## (\d+\.\d+\.\d+), \d{4}-\d\d-\d\d$`).FindStringSubmatch(string(text))
	require.NotNil(t, released, "a number with its day")
	assert.Equal(t, released[1], lastNumber)
	assert.Contains(t, version(), "Hue Keep "+lastNumber)
}
