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

// document is a file with a use of every verdict, a name that makes trouble, and a file that could not be read.
func document(t *testing.T) report.Document {
	t.Helper()
	css := ":root{--buoy:#E1572C}\n.a{color:#E2572B}\n.b{color:#00A34F; fill:#00A34F}\n.c{color:var(--gone)}\n.d{color:#7A4E7E}"
	scan, err := kinds.Read("theme/a b.css", []byte(css))
	require.NoError(t, err)
	rules := audit.Rules{Excuses: []audit.Excuse{{Color: "#7A4E7E", Reason: "=the partner's own"}}}
	for name, hex := range map[string]string{"Buoy": "#E2572B", "Deep": "#0E3A53"} {
		c, err := color.FromHex(hex)
		require.NoError(t, err)
		rules.Colors = append(rules.Colors, library.Color{Name: name, RGB: c, Status: library.Approved})
	}
	return report.Document{Files: []audit.Report{audit.NewJudge(rules).Judge("theme/a b.css", scan)}, Unread: []audit.Unread{{Path: "=x\x01.png", Why: "it is cut short"}}}
}

func written(t *testing.T, format string) string {
	t.Helper()
	f, err := report.Find(format)
	require.NoError(t, err)
	var b bytes.Buffer
	require.NoError(t, f.Write(&b, document(t)))
	return b.String()
}

func TestTextIsWrittenAsCompilersDo(t *testing.T) {
	text := written(t, "text")
	assert.Contains(t, text, "theme/a b.css:1:14: drifted #E1572C, nearest Buoy #E2572B (0.3 invisible) (#E1572C, :root, --buoy)\n")
	assert.Contains(t, text, "theme/a b.css:4:10: unjudged var(--gone): ")
	assert.NotContains(t, text, "#7A4E7E", "what is excused wants nothing")
	assert.Contains(t, text, "40.0 % on-brand, 16.7 % unjudged", "two of the five that were judged")
}

// Places come in the order of the file, the same ones together; of many files those without anything to say are only counted.
func TestTextIsInTheOrderOfTheFile(t *testing.T) {
	d := document(t)
	judge := func(name, text string) audit.Report {
		scan, err := kinds.Read(name, []byte(text))
		require.NoError(t, err)
		return audit.NewJudge(audit.Rules{Colors: []library.Color{{Name: "Buoy", RGB: color.RGB8{R: 0xE2, G: 0x57, B: 0x2B}, Status: library.Approved}}}).Judge(name, scan)
	}
	many := strings.Repeat("b{color:#111111}\n", 10)
	d.Files = append(d.Files, judge("plain.css", "a{margin:0}"), judge("page.html", `<p class="bg-[#222222] text-[#222222]">`+"\n"+`<p style="color:#333333">`+"\n"+`<p style="color:#222222">`), judge("many.css", many))
	var b bytes.Buffer
	require.NoError(t, report.Text(&b, d))
	text := b.String()
	assert.NotContains(t, text, "plain.css")
	assert.Regexp(t, `(?s)a b\.css:1:14: .*a b\.css:3:10: .*a b\.css:4:10: unjudged`, text)
	assert.Regexp(t, `(?s)page\.html:1:1: off-brand #222222[^\n]* 2 times\).*page\.html:2:7: off-brand #333333.*page\.html:3:7: off-brand #222222`, text)
	assert.Contains(t, text, "many.css: and 2 more places of #111111\n")
	assert.True(t, strings.HasSuffix(text, "4 files, 3 with colors; 17 uses are neither on-brand nor excused, 1 could not be judged; 1 file or part could not be read\n"), text)
	for line := range strings.Lines(text) {
		assert.NotContains(t, strings.TrimSuffix(line, "\n"), "\x01")
	}
}

// The schema is the one of OASIS, as the package has it; what the package does not know would be lost on the way through it.
func TestSARIFFollowsItsSchema(t *testing.T) {
	text := written(t, "sarif")
	r, err := sarif.FromString(text)
	require.NoError(t, err)
	require.Len(t, r.Runs, 1)
	run := r.Runs[0]
	run.Language, run.Tool.Driver.Language, run.NewlineSequences = "en-US", "en-US", []string{"\n"} // the package writes empty ones, which are the defaults here
	require.NoError(t, r.Validate())
	var lines []int
	for _, result := range r.Runs[0].Results {
		require.NotEmpty(t, result.Locations)
		at := result.Locations[0].PhysicalLocation
		assert.Equal(t, "theme/a%20b.css", *at.ArtifactLocation.URI)
		lines = append(lines, *at.Region.StartLine)
	}
	assert.ElementsMatch(t, []int{1, 3, 3, 4, 5}, lines)
	prints := map[string]bool{}
	for _, result := range run.Results {
		prints[result.PartialFingerprints["hueKeep/v1"]] = true
		if *result.RuleID == "excused" {
			require.Len(t, result.Suppressions, 1)
			assert.Equal(t, "=the partner's own", *result.Suppressions[0].Justification)
		} else {
			assert.Empty(t, result.Suppressions)
		}
	}
	assert.Len(t, prints, 5, "each is known again by itself")
	var before, after map[string]any
	again, err := json.Marshal(r)
	require.NoError(t, err)
	require.NoError(t, json.Unmarshal([]byte(text), &before))
	require.NoError(t, json.Unmarshal(again, &after))
	assert.Empty(t, lost("", before, after), "unknown to the format")
}

// lost names what is in a and not in b.
func lost(at string, a, b any) (out []string) {
	switch a := a.(type) {
	case map[string]any:
		b, _ := b.(map[string]any)
		for k, v := range a {
			if _, ok := b[k]; !ok && v != nil {
				if l, empty := v.([]any); empty && len(l) == 0 {
					continue
				}
				out = append(out, at+"/"+k)
				continue
			}
			out = append(out, lost(at+"/"+k, v, b[k])...)
		}
	case []any:
		b, _ := b.([]any)
		for i := range a {
			if i >= len(b) {
				return append(out, at)
			}
			out = append(out, lost(at, a[i], b[i])...)
		}
	}
	return out
}

func TestJUnitCountsWhatFails(t *testing.T) {
	var out struct {
		Suites []struct {
			Name     string `xml:"name,attr"`
			Tests    int    `xml:"tests,attr"`
			Failures int    `xml:"failures,attr"`
			Errors   int    `xml:"errors,attr"`
			Cases    []struct {
				Failure *struct{} `xml:"failure"`
			} `xml:"testcase"`
		} `xml:"testsuite"`
	}
	require.NoError(t, xml.Unmarshal([]byte(written(t, "junit")), &out))
	require.Len(t, out.Suites, 2)
	s := out.Suites[0]
	failed := 0
	for _, c := range s.Cases {
		if c.Failure != nil {
			failed++
		}
	}
	assert.Equal(t, 3, failed, "two colors and what could not be judged")
	assert.Equal(t, failed, s.Failures)
	assert.Equal(t, len(s.Cases), s.Tests)
	assert.Equal(t, 1, out.Suites[1].Errors)
	assert.Equal(t, "=x.png", out.Suites[1].Name, "without what XML cannot hold")
}

func TestSheetsHaveARowForEachPlaceAndNoFormulas(t *testing.T) {
	rows, err := csv.NewReader(strings.NewReader(written(t, "csv"))).ReadAll()
	require.NoError(t, err)
	assert.Len(t, rows, 1+5+1+1)
	for _, row := range rows {
		for _, c := range row {
			assert.False(t, strings.HasPrefix(c, "="), c)
		}
	}
}

func TestThePageToPrint(t *testing.T) {
	page := written(t, "html")
	for _, want := range []string{"background:#E1572C", "Buoy", ":root, --buoy", "var(--gone)", "it is cut short"} {
		assert.Contains(t, page, want)
	}
	assert.NotContains(t, page, "ZgotmplZ")
	_, err := report.Find("docx")
	assert.ErrorContains(t, err, `"docx"`)
}

func TestEmptyListsAreListsInJSON(t *testing.T) {
	var b bytes.Buffer
	require.NoError(t, report.JSON(&b, report.Document{}))
	assert.JSONEq(t, `{"files":[],"unread":[]}`, b.String())
}

// In print, each page says whose library judged, what, and which page of how many; no name can break out of that.
func TestAPrintedReportSaysWhoseItIs(t *testing.T) {
	d := document(t)
	d.House, d.Title = `Odelwick "Ferries"</style><b>`, "Winter, judged November 30, 2026"
	var b bytes.Buffer
	require.NoError(t, report.HTML(&b, d))
	page := b.String()
	assert.Contains(t, page, `@top-left { content: "Odelwick \22 Ferries\22 \3c /style\3e \3c b\3e "`)
	assert.Contains(t, page, `@top-right { content: "Winter, judged November 30, 2026"`)
	assert.Contains(t, page, `"page " counter(page) " of " counter(pages)`)
	assert.Equal(t, 1, strings.Count(page, "</style>"))
}
