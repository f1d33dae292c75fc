package report_test

import (
	"bytes"
	"encoding/csv"
	"encoding/json"
	"encoding/xml"
	"strings"
	"testing"

	"github.com/owenrumney/go-sarif/v3/pkg/report/v210/sarif"
	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"huekeep/core/audit"
	"huekeep/core/audit/kinds"
	"huekeep/core/color"
	"huekeep/core/library"
	"huekeep/core/report"
)

// judged is a document of style sheets by path, judged from folders.
func judged(t *testing.T, roots []string, files ...string) report.Document {
	t.Helper()
	judge := audit.NewJudge(audit.Rules{Colors: []library.Color{{Name: "Buoy", RGB: color.RGB8{R: 0xE2, G: 0x57, B: 0x2B}, Status: library.Approved}}})
	d := report.Document{Roots: roots, Version: "abc"}
	for i := 0; i < len(files); i += 2 {
		scan, err := kinds.Read(files[i], []byte(files[i+1]))
		require.NoError(t, err)
		d.Files = append(d.Files, judge.Judge(files[i], scan))
	}
	return d
}

func baseline(t *testing.T, d report.Document) *report.Baseline {
	t.Helper()
	var b bytes.Buffer
	require.NoError(t, report.JSON(&b, d))
	out, err := report.ReadBaseline(b.Bytes())
	require.NoError(t, err)
	return out
}

var failing = map[audit.Verdict]bool{audit.Drifted: true, audit.OffBrand: true, audit.Unjudged: true}

// A file is the same one however its path is typed and from wherever it is judged.
func TestABaselineKnowsAFileHoweverItsPathIsTyped(t *testing.T) {
	const css = ".a{color:#E1572C}.b{color:var(--gone)}"
	before := baseline(t, judged(t, []string{"site"}, "site/css/a.css", css, "site/a.css", ".a{color:#123456}"))
	for typed, roots := range map[string][]string{
		"site/css/a.css": {"site"}, "./site/css/a.css": {"./site"}, "/home/me/site/css/a.css": {"/home/me/site"}, "../other/site/css/a.css": {"../other/site/"},
		"css/a.css": {"."}, "../site/css/./a.css": nil, "/tmp/checkout/css/a.css": nil, "C:\\site\\css\\a.css": nil,
	} {
		d := judged(t, roots, typed, css)
		d.Compare(before)
		assert.Zero(t, d.Failing(failing), typed)
	}
	d := judged(t, nil, "site/b.css", css)
	d.Compare(before)
	assert.Equal(t, 2, d.Failing(failing), "it is another file")
	// A part of what was judged then, as a folder of its own.
	d = judged(t, []string{"css"}, "css/a.css", css)
	d.Compare(baseline(t, judged(t, []string{"."}, "site/css/a.css", css)))
	assert.Zero(t, d.Failing(failing))
	// The same name in another folder is another file, with several folders too.
	one := baseline(t, judged(t, []string{"a", "b"}, "a/x.css", css, "b/x.css", ".z{color:#E2572B}"))
	d = judged(t, []string{"a", "b"}, "a/x.css", css, "b/x.css", css)
	d.Compare(one)
	assert.Equal(t, 2, d.Failing(failing))
	for _, roots := range [][]string{{"a", "b"}, nil} {
		d = judged(t, roots, "b/x.css", css)
		d.Compare(baseline(t, judged(t, []string{"a"}, "a/x.css", css)))
		assert.Equal(t, 2, d.Failing(failing), roots)
	}
	// Which of two files is meant is not guessed.
	d = judged(t, []string{"css"}, "css/x.css", css)
	d.Compare(baseline(t, judged(t, []string{"."}, "one/css/x.css", css, "two/css/x.css", ".z{color:red}")))
	assert.Equal(t, 2, d.Failing(failing))
}

// What is new is told apart in every format; a color that was there once and is there twice now is new once.
func TestReportsTellWhatIsNew(t *testing.T) {
	before := baseline(t, judged(t, []string{"."}, "a.css", ".a{color:#E1572C}\n.b{color:#00A34F}"))
	d := judged(t, []string{"."}, "a.css", "\n\n.a{color:#E1572C}\n.b{color:#00A34F}\n.c{color:#00A34F}\n.d{color:var(--gone)}")
	d.Compare(before)
	assert.Equal(t, 2, d.Failing(failing))
	write := func(name string) string {
		f, err := report.Find(name)
		require.NoError(t, err)
		var b bytes.Buffer
		require.NoError(t, f.Write(&b, d))
		return b.String()
	}
	text := write("text")
	assert.Contains(t, text, "a.css:5:10: off-brand #00A34F")
	assert.Contains(t, text, "a.css:6:10: unjudged var(--gone)")
	assert.NotContains(t, text, "#E1572C")
	assert.Contains(t, text, "a.css: 2 uses are in the baseline")

	r, err := sarif.FromString(write("sarif"))
	require.NoError(t, err)
	states := map[int]string{}
	for _, x := range r.Runs[0].Results {
		states[*x.Locations[0].PhysicalLocation.Region.StartLine] = *x.BaselineState
	}
	assert.Equal(t, map[int]string{3: "unchanged", 4: "unchanged", 5: "new", 6: "new"}, states)
	assert.Equal(t, "abc", *r.Runs[0].Tool.Driver.Version)

	var junit struct {
		Suites []struct {
			Failures int `xml:"failures,attr"`
			Skipped  int `xml:"skipped,attr"`
			Cases    []struct {
				Name    string `xml:"name,attr"`
				Failure *struct {
					Text string `xml:",chardata"`
				} `xml:"failure"`
				Skipped *struct{} `xml:"skipped"`
			} `xml:"testcase"`
		} `xml:"testsuite"`
	}
	require.NoError(t, xml.Unmarshal([]byte(write("junit")), &junit))
	assert.Equal(t, [2]int{2, 1}, [2]int{junit.Suites[0].Failures, junit.Suites[0].Skipped})
	for _, c := range junit.Suites[0].Cases {
		assert.Equal(t, c.Name == "#E1572C", c.Skipped != nil, c.Name)
		if c.Name == "#00A34F" {
			assert.Contains(t, c.Failure.Text, ".c")
			assert.NotContains(t, c.Failure.Text, ".b")
		}
	}
	rows, err := csv.NewReader(strings.NewReader(write("csv"))).ReadAll() // which wants as many cells in each row
	require.NoError(t, err)
	news := map[string]string{}
	for _, row := range rows {
		news[row[12]] = row[15]
	}
	assert.Equal(t, map[string]string{"line": "new", "3": "", "4": "", "5": "1", "6": "1"}, news)
	assert.Equal(t, 2, strings.Count(write("html"), "; new"))
	var again report.Document
	require.NoError(t, json.Unmarshal([]byte(write("json")), &again))
	assert.True(t, again.Compared)
}

// Fingerprints stay when lines move, and when the folder is called in another way.
func TestFingerprintsStay(t *testing.T) {
	prints := func(d report.Document) (out []string) {
		var b bytes.Buffer
		require.NoError(t, report.SARIF(&b, d))
		r, err := sarif.FromString(b.String())
		require.NoError(t, err)
		for _, x := range r.Runs[0].Results {
			out = append(out, x.PartialFingerprints["hueKeep/v1"])
		}
		return out
	}
	assert.Equal(t, prints(judged(t, []string{"site"}, "site/a.css", ".a{color:#E1572C}.b{color:#E1572C}")), prints(judged(t, []string{"/x/site"}, "/x/site/a.css", "\n\n.a{color:#E1572C}\n.b{color:#E1572C}")))
}

// Nothing but a report is taken for one.
func TestAnythingElseIsNoBaseline(t *testing.T) {
	for text, want := range map[string]string{
		"": "not a report in JSON", "[]": "not a report in JSON", "{}": `no list "files"`, `{"excuses":[]}`: `no list "files"`, `{"colors":[{"from":"#111111","to":"Buoy"}]}`: `no list "files"`,
		`{"files":[{"path":"a.css","kind":"css","colors":[]}]}`: `file 1 has no member "uses"`, `{"files":[{"path":1,"uses":1,"colors":[],"unjudged":[]}]}`: "not a report in JSON",
	} {
		_, err := report.ReadBaseline([]byte(text))
		assert.ErrorContains(t, err, want, text)
	}
}

func FuzzReadBaseline(f *testing.F) {
	f.Add([]byte(`{"files":[{"path":"a.css","uses":1,"colors":[{"key":"#1","verdict":"drifted","places":[{"where":"a","count":1}]}],"unjudged":[{"value":"x","count":2}]}]}`))
	f.Fuzz(func(t *testing.T, data []byte) {
		b, err := report.ReadBaseline(data)
		if err != nil {
			return
		}
		d := judged(t, []string{"."}, "a.css", ".a{color:#E1572C}")
		d.Compare(b)
		assert.LessOrEqual(t, d.Failing(failing), 1)
		assert.GreaterOrEqual(t, d.Failing(failing), 0)
	})
}
