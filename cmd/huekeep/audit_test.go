package main

import (
	"encoding/csv"
	"encoding/json"
	"encoding/xml"
	"net/http"
	"net/http/httptest"
	"os"
	"os/exec"
	"path/filepath"
	"strings"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"huekeep/core/audit"
	"huekeep/core/report"
	"huekeep/demo"
)

// site is a folder with a site in it, and what does not belong to it.
func site(t *testing.T) string {
	root := t.TempDir()
	for name, text := range map[string]string{
		"tokens.css":            ":root { --buoy: #E1572C }",
		"css/app.css":           ".call { color: var(--buoy) }\n.logo { color: #00A34F }",
		"page.html":             `<p style="color: #E2572B">Harbor</p>`,
		"dist/bundle.css":       "a { color: #123456 }",
		"css/old.css":           "a { color: #123456 }",
		"node_modules/x/a.css":  "a { color: #123456 }",
		".hidden/a.css":         "a { color: #123456 }",
		"README.rst":            "#123456",
		".gitignore":            "dist/\n",
		"css/.gitignore":        "old.css\n",
		"broken/not-really.png": "no",
	} {
		path := filepath.Join(root, name)
		require.NoError(t, os.MkdirAll(filepath.Dir(path), 0o755))
		require.NoError(t, os.WriteFile(path, []byte(text), 0o644))
	}
	return root
}

func TestAFolderIsAuditedAsABuildWants(t *testing.T) {
	lib := write(t, "lib.json", []byte(libraryFile))
	root := site(t)
	_, errs, code := huekeep(t, "audit", root, "--library", lib, "--json")
	assert.Equal(t, 2, code, "one file could not be read")
	assert.Contains(t, errs, "not-really.png")
	require.NoError(t, os.RemoveAll(filepath.Join(root, "broken")))
	out, _, code := huekeep(t, "audit", root, "--library", lib, "--json")
	assert.Equal(t, 1, code)
	var doc report.Document
	require.NoError(t, json.Unmarshal([]byte(out), &doc))
	var files []string
	uses := map[string]int{}
	for _, f := range doc.Files {
		rel, err := filepath.Rel(root, f.Path)
		require.NoError(t, err)
		files = append(files, filepath.ToSlash(rel))
		for _, c := range f.Colors {
			uses[c.Hex+" "+string(c.Verdict)] += c.Count
		}
	}
	assert.ElementsMatch(t, []string{"tokens.css", "css/app.css", "page.html"}, files)
	assert.Equal(t, map[string]int{"#E1572C drifted": 2, "#00A34F off-brand": 1, "#E2572B on-brand": 1}, uses, "what one file defines, another uses")

	// What differs on purpose, and what was there before.
	excuses := write(t, "excuses.json", []byte(`{"excuses":[{"color":"#00A34F","reason":"the partner's own"},{"color":"#E1572C","reason":"over","until":"2020-01-01"}]}`))
	_, _, code = huekeep(t, "audit", root, "--library", lib, "--excuses", excuses, "--fail-on", "off-brand")
	assert.Equal(t, 0, code)
	_, _, code = huekeep(t, "audit", root, "--library", lib, "--excuses", excuses)
	assert.Equal(t, 1, code, "an excuse that is over does not hold")
	baseline := write(t, "before.json", []byte(out))
	_, _, code = huekeep(t, "audit", root, "--library", lib, "--baseline", baseline)
	assert.Equal(t, 0, code)
	require.NoError(t, os.WriteFile(filepath.Join(root, "tokens.css"), []byte("\n\n:root { --buoy: #E1572C }\na { color: #E1572C }"), 0o644))
	_, _, code = huekeep(t, "audit", root, "--library", lib, "--baseline", baseline)
	assert.Equal(t, 1, code, "one use is new; the others only moved")

	for _, args := range [][]string{{"--fail-on", "odd"}, {"--format", "odd"}, {"--baseline", lib + "x"}, {"--baseline", root + "/page.html"}, {"--excuses", root + "/page.html"}} {
		_, errs, code := huekeep(t, append([]string{"audit", root, "--library", lib}, args...)...)
		assert.Equal(t, 2, code, args)
		assert.NotEmpty(t, errs, args)
	}
}

func TestReportsForPrograms(t *testing.T) {
	lib := write(t, "lib.json", []byte(libraryFile))
	file := write(t, "a & b.css", []byte(".call { color: #E1572C }\n.x { color: rgb(var(--r) 2 3) }"))
	get := func(format string) string {
		out, errs, code := huekeep(t, "audit", file, "--library", lib, "--format", format)
		require.Equal(t, 1, code, errs)
		return out
	}
	assert.Contains(t, get("text"), file+":1:16: drifted #E1572C, nearest Buoy #E2572B (0.3 invisible) (#E1572C, .call, color)\n")
	assert.Contains(t, get("text"), file+":2:13: unjudged rgb(var(--r) 2 3): ")
	rows, err := csv.NewReader(strings.NewReader(get("csv"))).ReadAll()
	require.NoError(t, err)
	assert.Len(t, rows, 3)
	var junit struct {
		Suites []struct {
			Tests    int `xml:"tests,attr"`
			Failures int `xml:"failures,attr"`
		} `xml:"testsuite"`
	}
	require.NoError(t, xml.Unmarshal([]byte(get("junit")), &junit))
	require.Len(t, junit.Suites, 1)
	assert.Equal(t, 2, junit.Suites[0].Failures)
	var sarif struct {
		Version string
		Runs    []struct {
			Results []struct {
				RuleID    string `json:"ruleId"`
				Locations []struct {
					Physical struct {
						Artifact struct{ URI string } `json:"artifactLocation"`
						Region   struct{ StartLine, StartColumn int }
					} `json:"physicalLocation"`
				}
			}
		}
	}
	require.NoError(t, json.Unmarshal([]byte(get("sarif")), &sarif))
	assert.Equal(t, "2.1.0", sarif.Version)
	first := sarif.Runs[0].Results[0]
	assert.Equal(t, "drifted", first.RuleID)
	assert.Equal(t, 16, first.Locations[0].Physical.Region.StartColumn)
	assert.True(t, strings.HasSuffix(first.Locations[0].Physical.Artifact.URI, "a%20%26%20b.css"))
	page := get("html")
	assert.Contains(t, page, "Buoy")
	assert.Contains(t, page, "background:#E1572C")
	if _, err := exec.LookPath("xmllint"); err == nil {
		check := exec.Command("xmllint", "--noout", "-")
		check.Stdin = strings.NewReader(get("junit"))
		assert.NoError(t, check.Run())
	}
}

func TestTheLibraryMayComeFromAPickup(t *testing.T) {
	served := httptest.NewServer(http.HandlerFunc(func(w http.ResponseWriter, r *http.Request) {
		if r.URL.Path != "/core.json" {
			http.NotFound(w, r)
			return
		}
		_, _ = w.Write([]byte(libraryFile))
	}))
	defer served.Close()
	file := write(t, "a.css", []byte("a{color:#E2572B}"))
	_, errs, code := huekeep(t, "audit", file, "--library", served.URL+"/core.json")
	assert.Equal(t, 0, code, errs)
	_, errs, code = huekeep(t, "audit", file, "--library", served.URL+"/gone.json")
	assert.Equal(t, 2, code)
	assert.Contains(t, errs, "404")
}

func TestRepaintOnTheCommandLine(t *testing.T) {
	lib := write(t, "lib.json", []byte(libraryFile))
	in := write(t, "a.css", []byte("a { color: #e1572c; fill: #00A34F }"))
	out := filepath.Join(t.TempDir(), "b.css")
	text, errs, code := huekeep(t, "repaint", in, "--library", lib, "-o", out, "--json")
	require.Equal(t, 0, code, errs)
	data, err := os.ReadFile(out)
	require.NoError(t, err)
	assert.Equal(t, "a { color: #e2572b; fill: #00A34F }", string(data))
	var answer struct {
		Files []struct {
			Path, Out string
			Changed   int
			Left      []any
			Parts     struct{ Changed, Same int }
			After     audit.Report
		}
	}
	require.NoError(t, json.Unmarshal([]byte(text), &answer))
	assert.Equal(t, 1, answer.Files[0].Changed)
	assert.NotNil(t, answer.Files[0].Left)

	_, errs, code = huekeep(t, "repaint", in, "--library", lib, "-o", in)
	assert.Equal(t, 2, code)
	assert.Contains(t, errs, "over itself")
	data, _ = os.ReadFile(in)
	assert.Equal(t, "a { color: #e1572c; fill: #00A34F }", string(data))

	twin := write(t, "a.css", []byte("a { color: #e1572c }"))
	folder := filepath.Join(t.TempDir(), "out")
	_, errs, code = huekeep(t, "repaint", in, twin, "--library", lib, "-o", folder)
	assert.NotZero(t, code)
	assert.Contains(t, errs, "would both be written to")
	assert.NoDirExists(t, folder, "nothing is written where something would be lost")

	plan := write(t, "plan.json", []byte(`{"colors":[{"from":"#E1572C","leave":true},{"from":"#00A34F","to":"Buoy"}]}`))
	_, errs, code = huekeep(t, "repaint", in, "--library", lib, "-o", out, "--plan", plan)
	require.Equal(t, 0, code, errs)
	data, _ = os.ReadFile(out)
	assert.Equal(t, "a { color: #e1572c; fill: #E2572B }", string(data))
	_, errs, code = huekeep(t, "repaint", in, "--library", lib, "-o", out, "--plan", write(t, "p.json", []byte(`{"colors":[{"from":"#E1572C","to":"Nothing"}]}`)))
	assert.Equal(t, 2, code)
	assert.Contains(t, errs, "Nothing")

	// A folder is written beside the other one, and a deck is put right whole.
	root := site(t)
	require.NoError(t, os.RemoveAll(filepath.Join(root, "broken")))
	require.NoError(t, os.WriteFile(filepath.Join(root, "deck.pptx"), demo.TimetableDeck().Data, 0o644))
	to := t.TempDir()
	_, errs, code = huekeep(t, "repaint", root, "--library", lib, "-o", to, "--dry-run")
	require.LessOrEqual(t, code, 1, errs)
	entries, err := os.ReadDir(to)
	require.NoError(t, err)
	assert.Empty(t, entries, "a dry run writes nothing")
	told, errs, code := huekeep(t, "repaint", root, "--library", lib, "-o", to)
	require.LessOrEqual(t, code, 1, errs)
	assert.Contains(t, told, "tokens.css: 1 use repainted")
	assert.Regexp(t, `(?m)^(1 file stays as it is|\d+ files stay as they are)$`, told)
	assert.NotRegexp(t, `: 0 uses repainted, 0 of \d+ parts changed; then .*\n([^ ]|$)`, told, "what stays is only counted")
	data, err = os.ReadFile(filepath.Join(to, filepath.Base(root), "tokens.css"))
	require.NoError(t, err)
	assert.Equal(t, ":root { --buoy: #E2572B }", string(data))
	_, _, code = huekeep(t, "audit", filepath.Join(to, filepath.Base(root), "deck.pptx"), "--library", lib, "--fail-on", "drifted")
	assert.Equal(t, 0, code)
}
