package demo_test

import (
	"fmt"
	"sort"
	"strings"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"huekeep/core/audit"
	"huekeep/core/audit/kinds"
	"huekeep/core/color"
	"huekeep/core/library"
	"huekeep/demo"
)

func rules() audit.Rules {
	r := audit.Rules{Neutrals: true}
	for _, c := range demo.Ferries.Colors {
		rgb, err := color.FromHex(c.Hex)
		if err != nil {
			panic(err)
		}
		s := library.Color{Name: c.Name, RGB: rgb, Status: "approved", Successor: library.Ref{Name: c.Successor}}
		if c.Successor != "" {
			s.Status = "retired"
		}
		r.Colors = append(r.Colors, s)
	}
	return r
}

// Every planted color is found in its place, and nothing else is.
func TestAuditFindsWhatWasPlantedAndNothingElse(t *testing.T) {
	for _, f := range demo.Files() {
		t.Run(f.Name, func(t *testing.T) {
			scan, err := kinds.Read(f.Name, f.Data)
			require.NoError(t, err)
			var want, got []string
			for _, p := range f.Planted {
				want = append(want, fmt.Sprintf("%s %s linked:%t", p.Hex, strings.ReplaceAll(p.Where, "&gt;", ">"), p.Linked))
			}
			for _, u := range scan.Uses {
				if u.Hidden {
					continue
				}
				for range u.Count {
					got = append(got, fmt.Sprintf("%s %s linked:%t", u.RGB.Hex(), u.Where, u.Linked()))
				}
			}
			sort.Strings(want)
			sort.Strings(got)
			assert.Equal(t, want, got)
		})
	}
}

func TestVerdictsOnTheDemoFiles(t *testing.T) {
	want := map[string]map[string]audit.Verdict{
		"winter-timetable.pptx": {"#E1572C": audit.Drifted, "#F2B530": audit.Drifted, "#C8D0D2": audit.Drifted, "#D9482B": audit.Retired,
			"#D94A2D": audit.Retired, "#2F80ED": audit.OffBrand, "#00A34F": audit.OffBrand, "#FFFFFF": audit.OnBrand, "#0E3A53": audit.OnBrand},
		"harbor-poster.svg":  {"#7A4E80": audit.Drifted, "#E0562C": audit.Drifted, "#F3B633": audit.Drifted, "#8FC1D4": audit.OnBrand},
		"booking.css":        {"#F2B530": audit.Drifted, "#E1572C": audit.Drifted, "#D9482B": audit.Retired, "#2F80ED": audit.OffBrand, "#E2572B": audit.OnBrand},
		"fares.xlsx":         {"#E1572C": audit.Drifted, "#0E3A53": audit.OnBrand, "#F2B632": audit.OnBrand},
		"crew-notice.docx":   {"#E1572C": audit.Drifted, "#F3B633": audit.Drifted, "#D9482B": audit.Retired, "#E2572B": audit.OnBrand},
		"crew-notice.odt":    {"#E1572C": audit.Drifted, "#D9482B": audit.Retired, "#0E3A53": audit.OnBrand},
		"booking-site.zip":   {"#E1572C": audit.Drifted, "#E2572B": audit.OnBrand, "#2F80ED": audit.OffBrand},
		"safety-titles.json": {"#E3592D": audit.Drifted, "#2F80ED": audit.OffBrand, "#8FC1D4": audit.OnBrand},
		"harbor-poster.pdf":  {"#E1572C": audit.Drifted, "#C9D1D3": audit.OnBrand},
	}
	for _, f := range demo.Files() {
		scan, err := kinds.Read(f.Name, f.Data)
		require.NoError(t, err)
		report := audit.NewJudge(rules()).Judge(f.Name, scan)
		got := map[string]audit.Verdict{}
		uses := 0
		for _, c := range report.Colors {
			got[c.Hex] = c.Verdict
			uses += c.Count
		}
		for hex, v := range want[f.Name] {
			assert.Equal(t, v, got[hex], "%s in %s", hex, f.Name)
		}
		assert.Equal(t, len(f.Planted), uses)
		assert.Equal(t, uses, report.Uses)
	}
}

func TestEveryPartOfTheDeckIsRead(t *testing.T) {
	scan, err := kinds.Read("winter-timetable.pptx", demo.TimetableDeck().Data)
	require.NoError(t, err)
	assert.Empty(t, scan.Notes)
	assert.Empty(t, scan.Unread)
}

func TestTheDemoFilesAreTheSameEveryTime(t *testing.T) {
	a, b := demo.Files(), demo.Files()
	for i := range a {
		assert.Equal(t, a[i].Data, b[i].Data, a[i].Name)
	}
}
