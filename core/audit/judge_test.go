package audit_test

import (
	"fmt"
	"testing"
	"time"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"huekeep/core/audit"
	"huekeep/core/audit/audittest"
	"huekeep/core/color"
	"huekeep/core/library"
)

// scan is a file in which colors were found.
func scan(uses ...*audit.Use) *audit.Scan {
	for _, u := range uses {
		u.Count, u.Alpha = max(1, u.Count), 1
	}
	return &audit.Scan{Kind: "pdf", Uses: uses, Notes: []string{}}
}

func built(c, m, y, k float64) *audit.Use {
	return &audit.Use{Value: "build", Color: audit.InksColor(color.CMYK{C: c, M: m, Y: y, K: k}), Where: "page 1"}
}

// A build is that of the library within 1 % of each ink, and one of now before one that was replaced.
func TestABuildIsThatOfTheLibraryWithinOnePercent(t *testing.T) {
	rules := audittest.Rules("Old #7A4E7E retired", "Buoy #E2572B", "Sound #0E3A53")
	rules.Colors[0].Builds = []library.Build{{Press: "coated", Value: color.CMYK{C: 0, M: 70, Y: 80, K: 0}}}
	rules.Colors[1].Builds = []library.Build{{Press: "coated", Value: color.CMYK{C: 1, M: 71, Y: 81, K: 1}}}
	rules.Colors[2].Builds = []library.Build{{Press: "coated", Value: color.CMYK{C: 95, M: 60, Y: 40, K: 45}}}
	verdict := func(u *audit.Use) (audit.Verdict, string) {
		k := audit.NewJudge(rules).Judge("a.pdf", scan(u)).Colors[0]
		return k.Verdict, k.Nearest.Name
	}
	for _, c := range []struct {
		found *audit.Use
		want  audit.Verdict
		name  string
	}{
		{built(1, 71, 81, 1), audit.OnBrand, "Buoy"},
		{built(0.5, 70.5, 80.5, 0.5), audit.OnBrand, "Buoy"}, // both are that near
		{built(2, 71, 81, 1), audit.OnBrand, "Buoy"},
		{built(0, 69, 79, 0), audit.Retired, "Old"}, // 2 % from the other
		{built(95, 60, 41, 46), audit.OnBrand, "Sound"},
		{built(97, 60, 40, 45), audit.Drifted, "Sound"},
		{built(95, 62, 40, 45), audit.Drifted, "Sound"},
		{built(95, 60, 42, 45), audit.Drifted, "Sound"},
		{built(95, 60, 40, 47), audit.Drifted, "Sound"},
		{built(0, 0, 0, 60), audit.OffBrand, ""},
		{built(80, 0, 90, 0), audit.OffBrand, ""},
	} {
		got, name := verdict(c.found)
		assert.Equal(t, c.want, got, c.found.Color.Name())
		if c.name != "" {
			assert.Equal(t, c.name, name, c.found.Color.Name())
		}
	}
	rules.Neutrals = true
	got, _ := verdict(built(0, 0, 0, 60))
	assert.Equal(t, audit.OnBrand, got, "black alone is a gray")
	for _, u := range []*audit.Use{built(5, 0, 0, 60), built(0, 5, 0, 60), built(0, 0, 5, 60)} {
		got, _ = verdict(u)
		assert.NotEqual(t, audit.OnBrand, got, "black with another ink is none")
	}
}

// What differs on purpose is excused where it was said, in the narrowest of the excuses that hold, and its place is found again when lines moved.
func TestAnExcuseHoldsWhereItWasGiven(t *testing.T) {
	rules := audittest.Rules("Buoy #E2572B")
	at := func(line, column int) *audit.Use {
		return &audit.Use{Value: "#00A34F", Color: audit.Screen(color.RGB8{G: 0xA3, B: 0x4F}), Line: line, Column: column,
			Where: fmt.Sprintf("a.css %d:%d, .a, color", line, column)}
	}
	excused := func(uses []*audit.Use, excuses ...audit.Excuse) map[int]string {
		for i := range excuses {
			excuses[i].Color = "#00a34f"
		}
		rules.Excuses = excuses
		s := scan(uses...)
		out := map[int]string{}
		for u, i := range audit.NewJudge(rules).Excused(s, "a.css") {
			out[u.Line] = excuses[i].Reason
		}
		return out
	}
	two := func() []*audit.Use { return []*audit.Use{at(4, 9), at(14, 9)} }
	assert.Equal(t, map[int]string{4: "all", 14: "all"}, excused(two(), audit.Excuse{Reason: "all"}))
	assert.Empty(t, excused(two(), audit.Excuse{File: "b.css", Reason: "another file"}))
	assert.Equal(t, map[int]string{4: "file", 14: "file"}, excused(two(), audit.Excuse{Reason: "all"}, audit.Excuse{File: "a.css", Reason: "file"}))
	assert.Equal(t, map[int]string{4: "place", 14: "file"}, excused(two(), audit.Excuse{File: "a.css", Reason: "file"},
		audit.Excuse{Where: "a.css 4:9, .a, color", Reason: "place"}), "a place is narrower than a file")
	assert.Equal(t, map[int]string{4: "both"}, excused(two(), audit.Excuse{Where: "a.css 4:9, .a, color", Reason: "place"},
		audit.Excuse{File: "a.css", Where: "a.css 4:9, .a, color", Reason: "both"}))
	assert.Equal(t, map[int]string{4: "moved"}, excused(two(), audit.Excuse{Where: "a.css 8:9, .a, color", Reason: "moved"}), "the nearer line")
	assert.Equal(t, map[int]string{14: "moved"}, excused(two(), audit.Excuse{Where: "a.css 10:9, .a, color", Reason: "moved"}))
	assert.Equal(t, map[int]string{4: "exact"}, excused(two(), audit.Excuse{Where: "a.css 4:9, .a, color", Reason: "exact"}), "one that is there is not looked for")
	assert.Equal(t, map[int]string{9: "column"}, excused([]*audit.Use{at(9, 1)}, audit.Excuse{Where: "a.css 9:40, .a, color", Reason: "column"}))
	assert.Empty(t, excused(two(), audit.Excuse{Where: "a.css 4:9, .b, color", Reason: "another rule"}))

	day := time.Date(2026, 12, 2, 0, 0, 0, 0, time.UTC)
	e := audit.Excuse{Until: day}
	assert.False(t, e.Ended(day.Add(23*time.Hour)), "it holds through its last day")
	assert.True(t, e.Ended(day.Add(24*time.Hour+time.Second)))
	assert.False(t, audit.Excuse{}.Ended(day.AddDate(9, 0, 0)))
}

// What a color was meant to be is itself, what it drifted from, or what replaced that.
func TestWhatAColorWasMeantToBe(t *testing.T) {
	rules := audittest.Rules("Buoy #E2572B", "Old #7A4E7E retired", "Gone #4E7D5B retired")
	rules.Colors[1].Successor = library.Ref{Name: "Buoy"}
	j := audit.NewJudge(rules)
	for found, want := range map[string]string{"#E2572B": "#E2572B", "#E1572C": "#E2572B", "#7A4E7E": "#E2572B", "#4E7D5B": "", "#00A34F": ""} {
		c, err := color.FromHex(found)
		require.NoError(t, err)
		base, ok := j.Base(c)
		assert.Equal(t, want != "", ok, found)
		if want != "" {
			assert.Equal(t, want, base.Hex(), found)
		} else {
			assert.Equal(t, c, base)
		}
	}
}

// Pictures are judged by their own tolerance, and what compression may have made of a color of the library is that color.
func TestPicturesAreJudgedByWhatTheyCanHold(t *testing.T) {
	rules := audittest.Rules("Buoy #E2572B")
	rules.Tolerance, rules.Pictures = 2, 5
	j := audit.NewJudge(rules)
	assert.Equal(t, [3]float64{2, 5, 5}, [3]float64{j.Tolerance("css"), j.Tolerance("picture"), j.Tolerance("video")})
	off, err := color.FromHex("#E55C2F") // 3 in Y', under 2 in both others
	require.NoError(t, err)
	judged := func(slack [3]float64) audit.Verdict {
		u := &audit.Use{Value: off.Hex(), Color: audit.Screen(off), Pixels: true, Where: "all", More: &audit.More{Slack: slack}}
		s := scan(u)
		s.Kind = "picture"
		return j.Judge("a.jpg", s).Colors[0].Verdict
	}
	assert.Equal(t, audit.OnBrand, judged([3]float64{6, 3, 3}))
	assert.Equal(t, audit.Drifted, judged([3]float64{1, 3, 3}))
	assert.Equal(t, audit.Drifted, judged([3]float64{}))
}
