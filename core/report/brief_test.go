package report_test

import (
	"bytes"
	"encoding/json"
	"fmt"
	"math/rand/v2"
	"strings"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"huekeep/core/audit"
	"huekeep/core/audit/kinds"
	"huekeep/core/report"
)

// sheet is a style sheet with rules, judged.
func sheet(t *testing.T, rules []string) report.Document {
	t.Helper()
	scan, err := kinds.Read("a.css", []byte(strings.Join(rules, "\n")))
	require.NoError(t, err)
	return report.Document{Files: []audit.Report{audit.NewJudge(audit.Rules{}).Judge("a.css", scan)}}
}

func jsonOf(t *testing.T, d report.Document) []byte {
	t.Helper()
	var b bytes.Buffer
	require.NoError(t, report.JSON(&b, d))
	return b.Bytes()
}

// A report lists some places of each color and counts the others; nothing of it is lost for those who add up.
func TestAReportIsBrief(t *testing.T) {
	var rules []string
	for i := range 3000 {
		rules = append(rules, fmt.Sprintf(".r%d{color:#E1572C}.v%d{fill:var(--none)}", i, i))
	}
	d := sheet(t, rules)
	text := jsonOf(t, d)
	assert.Less(t, len(text), 60_000)
	var back report.Document
	require.NoError(t, json.Unmarshal(text, &back))
	r := back.Files[0]
	assert.Len(t, r.Colors[0].Places, audit.BriefPlaces)
	assert.Equal(t, audit.Unlisted{Uses: 2800, Places: 2800}, r.Colors[0].Unlisted)
	assert.Len(t, r.Unjudged, 20)
	assert.Equal(t, 2980, r.Unjudged[19].Unlisted.Uses)
	assert.Equal(t, d.Files[0].Findings(), r.Findings())
	assert.Equal(t, 3000, r.UnjudgedUses())
	var one, other bytes.Buffer
	require.NoError(t, report.Text(&one, d))
	require.NoError(t, report.Text(&other, back))
	assert.Equal(t, one.String(), other.String())
	assert.Contains(t, other.String(), "and 2992 more places of #E1572C")
	var page bytes.Buffer
	require.NoError(t, report.HTML(&page, back))
	assert.Contains(t, page.String(), "and 2800 more places")
	d.All = true
	var all report.Document
	require.NoError(t, json.Unmarshal(jsonOf(t, d), &all))
	assert.Len(t, all.Files[0].Colors[0].Places, 3000)
	assert.Empty(t, all.Files[0].Unjudged[19].Unlisted)
}

// What is new is as many whether the reports list all places or some of them.
func TestABriefBaselineCountsAsAWholeOne(t *testing.T) {
	random := rand.New(rand.NewPCG(7, 31))
	fails := map[audit.Verdict]bool{audit.OffBrand: true, audit.Unjudged: true}
	for range 60 {
		var before, after []string
		for i := range random.IntN(900) {
			rule := fmt.Sprintf(".r%d{color:#%s}", i, []string{"E1572C", "00A34F"}[random.IntN(2)])
			if random.IntN(4) == 0 {
				rule = fmt.Sprintf(".v%d{fill:var(--none)}", i)
			}
			if random.IntN(10) > 0 {
				before = append(before, rule)
			}
			if random.IntN(10) > 0 {
				after = append(after, rule)
			}
		}
		old := sheet(t, before)
		whole, some := old, old
		whole.All = true
		fresh := func(base report.Document, brief bool) int {
			b, err := report.ReadBaseline(jsonOf(t, base))
			require.NoError(t, err)
			now := sheet(t, after)
			if brief {
				now.Files[0] = now.Files[0].Brief(audit.BriefPlaces)
			}
			now.Compare(b)
			return now.Failing(fails)
		}
		wanted := fresh(whole, false)
		// Of what is only counted it is not known which is gone: as many as came are the same.
		for _, got := range []int{fresh(some, false), fresh(some, true), fresh(whole, true)} {
			assert.LessOrEqual(t, got, wanted)
			assert.GreaterOrEqual(t, got, max(0, sheet(t, after).Files[0].Findings()-old.Files[0].Findings()))
		}
	}
}
