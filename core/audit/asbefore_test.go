package audit_test

import (
	"encoding/json"
	"fmt"
	"math"
	"math/rand/v2"
	"strings"
	"testing"
	"time"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"huekeep/core/asbefore"
	"huekeep/core/audit"
	"huekeep/core/audit/audittest"
	"huekeep/core/color"
	"huekeep/core/library"
)

// ofAll are rules with some of all that a library may hold.
func ofAll(t *testing.T) audit.Rules {
	r := audittest.Rules("Buoy #E2572B", "Sound #0E3A53", "Old #7A4E7E retired", "Fog #B9C4C9", "Twin #0E3A53 retired", "Draft #112233 draft", "Moss #5E7A3A", "Glow #00E64D")
	for i := range r.Colors {
		r.Colors[i].ID = int64(i + 1)
	}
	r.Colors[0].Builds = []library.Build{{Press: "coated", Value: color.CMYK{C: 0, M: 78, Y: 90, K: 2}}}
	r.Colors[0].Spots = []library.Spot{{Code: "Quern 118"}}
	r.Colors[0].Companions = []library.Companion{{Kind: "sheer", Amount: 50, Permitted: true, Over: library.White}, {Kind: "tint", Amount: 40, Permitted: true}}
	r.Colors[1].Companions = []library.Companion{{Kind: "shade", Amount: 20, Permitted: true}, {Kind: "tint", Amount: 30}}
	r.Colors[2].Successor = r.Colors[0].Ref()
	r.Colors[2].Builds = []library.Build{{Press: "coated", Value: color.CMYK{C: 55, M: 75, Y: 25, K: 10}}}
	r.Colors[2].Spots = []library.Spot{{Code: "Quern  7"}}
	wide, err := color.ParseCSS("color(display-p3 0 0.9 0.2)")
	require.NoError(t, err)
	r.Colors[7].Master, r.Colors[7].RGB = library.MasterOf(wide)
	r.Colors = audit.Allowed(r.Colors)
	r.Neutrals = true
	r.Gradients = []library.Gradient{{Name: "Dusk", Space: "oklab", Stops: []library.Stop{{Color: library.Ref{ID: 1, Name: "Buoy"}}, {Color: library.Ref{ID: 2, Name: "Sound"}, Place: 100}}}}
	r.Formers = []audit.Former{{RGB: color.RGB8{R: 0xD9, G: 0x4F, B: 0x2B}, Color: library.Ref{ID: 1, Name: "Buoy"}, When: "edition 1 of Core"},
		{RGB: color.RGB8{R: 0x20, G: 0x40, B: 0x60}, Color: library.Ref{ID: 2, Name: "Sound"}, When: "June 3, 2026", Until: true}}
	r.Excuses = []audit.Excuse{{Color: "#123456", Reason: "a partner's mark"}, {Color: "#654321", File: "deck.pptx", Reason: "of this file"},
		{Color: "#ABCDEF", Where: "slide 3, title", Reason: "there"}, {Color: "#FEDCBA", Where: "app.css 12:3, .a, color", Reason: "moved", Until: time.Date(2027, 1, 1, 0, 0, 0, 0, time.UTC)},
		{Color: "#0F0F0F", File: "another.pptx", Reason: "of another"}}
	return r
}

// found are uses of all sorts: each color of the rules, near to it and far, by pixels and by inks.
func found() (out []*audit.Use) {
	r := rand.New(rand.NewPCG(6, 6))
	add := func(u audit.Use) { out = append(out, &u) }
	base := []color.RGB8{{R: 0xE2, G: 0x57, B: 0x2B}, {R: 0x0E, G: 0x3A, B: 0x53}, {R: 0x7A, G: 0x4E, B: 0x7E}, {R: 0xB9, G: 0xC4, B: 0xC9}, {R: 0x11, G: 0x22, B: 0x33}, {R: 0x5E, G: 0x7A, B: 0x3A}, {R: 0x00, G: 0xE6, B: 0x4D},
		{R: 0xD9, G: 0x4F, B: 0x2B}, {R: 0x20, G: 0x40, B: 0x60}, {R: 0x12, G: 0x34, B: 0x56}, {R: 0x65, G: 0x43, B: 0x21}, {R: 0xAB, G: 0xCD, B: 0xEF}, {R: 0xFE, G: 0xDC, B: 0xBA}, {R: 0x0F, G: 0x0F, B: 0x0F}, {R: 0xF1, G: 0xAB, B: 0x95}, {R: 0x80, G: 0x80, B: 0x80}}
	for i, c := range base {
		for k := range 6 {
			d := func(v uint8) uint8 { return uint8(min(255, max(0, int(v)+r.IntN(2*k*k+1)-k*k))) }
			rgb := color.RGB8{R: d(c.R), G: d(c.G), B: d(c.B)}
			u := audit.Use{Value: rgb.Hex(), Color: audit.Screen(rgb), Alpha: 1, Where: fmt.Sprintf("slide %d, title", i%4+1), Count: 1 + r.IntN(5)}
			if k%3 == 1 {
				u.Where, u.Line, u.Column = fmt.Sprintf("app.css %d:%d, .a, color", 10+k, i), 10+k, i
			}
			if i%5 == 0 {
				u.Link = "accent"
			}
			if i%7 == 3 {
				u.Fixed = "it is of a kind that is not written"
			}
			if k == 2 {
				u.Alpha = []float64{0.5, 0.25, 0.8}[i%3]
			}
			if k == 4 {
				u.Pixels, u.More = true, &audit.More{Slack: [3]float64{float64(i % 3), float64(i % 4), float64(i % 4)}, Area: &audit.Area{Flat: i%2 == 0}}
			}
			if k == 5 {
				u.Why = "it depends on a condition"
			}
			add(u)
		}
	}
	for i := range 40 {
		b := []color.CMYK{{C: 0, M: 78, Y: 90, K: 2}, {C: 55, M: 75, Y: 25, K: 10}, {K: 60}, {C: 95, M: 60, Y: 40, K: 45}}[i%4]
		b.M, b.K = min(100, b.M+float64(r.IntN(5))*0.5*float64(i%3)), b.K+float64(i/8)
		add(audit.Use{Value: "build", Color: audit.InksColor(b), Alpha: 1, Where: fmt.Sprintf("page %d", i%3+1), Count: 1 + i%2})
	}
	for i, name := range []string{"Quern 118", "QUERN 7", "Sound", "Unknown 9", "buoy"} {
		look := color.RGB8{R: uint8(40 * i), G: 90, B: 60}
		add(audit.Use{Value: name, Color: audit.InColor(look, audit.Ink{Spot: name, Tint: 1}), Alpha: 1, Where: "page 9", Count: 2})
	}
	for i := range 8 {
		t, err := color.ParseCSS(fmt.Sprintf("color(display-p3 0.0%d 0.%d 0.2%d)", i, 90+i%3, i))
		if err != nil {
			panic(err)
		}
		add(audit.Use{Value: "wide", Color: audit.Seen(t), Alpha: 1, Where: "a.css 3:4, .wide, color", Line: 3, Column: 4, Count: 1, Pixels: i%2 == 1})
	}
	return out
}

// The same file judged by the same rules has the same report in every version: the verdicts, what is near, what is said of each, the order,
// the causes, the score. People compare runs.
func TestAReportIsAsBefore(t *testing.T) {
	rules := ofAll(t)
	var b strings.Builder
	for _, kind := range []string{"pptx", "picture", "pdf"} {
		for _, neutrals := range []bool{true, false} {
			rules.Neutrals = neutrals
			s := &audit.Scan{Kind: kind, Uses: found(), Notes: []string{}, Parts: 3}
			report := audit.NewJudge(rules).Judge("deck.pptx", s)
			told := report.Brief(1)
			if b.Len() == 0 {
				told = report
			}
			text, err := json.Marshal(told)
			require.NoError(t, err)
			fmt.Fprintf(&b, "%s %t, %d findings, %d unjudged\n", kind, neutrals, report.Findings(), report.UnjudgedUses())
			b.WriteString(strings.ReplaceAll(strings.ReplaceAll(string(text), `},{"key"`, "},\n{\"key\""), `},{"where"`, "},\n  {\"where\""))
			b.WriteByte('\n')
		}
	}
	judge := audit.NewJudge(rules)
	// One mistake in all colors of a file is told as one.
	each := func(f func(v float64) float64) func(c color.RGB) color.RGB {
		return func(c color.RGB) color.RGB { return color.RGB{R: f(c.R), G: f(c.G), B: f(c.B)} }
	}
	numbers := func(space string) func(c color.RGB) color.RGB {
		return func(c color.RGB) color.RGB {
			v, _ := color.Numbers(space, c)
			return color.RGB{R: v[0], G: v[1], B: v[2]}
		}
	}
	matrices := func(made, taken color.VideoMatrix) func(c color.RGB) color.RGB {
		return func(c color.RGB) color.RGB { return taken.RGB(made.YCbCr(c, 8, false), 8, false) }
	}
	for i, mistake := range []func(c color.RGB) color.RGB{numbers("display-p3"), numbers("a98-rgb"), numbers("prophoto-rgb"), numbers("rec2020"),
		each(func(v float64) float64 { return math.Pow(v, 1.8/2.2) }), each(func(v float64) float64 { return math.Pow(v, 2.2/1.8) }),
		each(func(v float64) float64 { return (16 + 219*v) / 255 }), each(func(v float64) float64 { return (255*v - 16) / 219 }),
		matrices(color.BT601, color.BT709), matrices(color.BT709, color.BT601), each(func(v float64) float64 { return v + 1./255 }), each(func(v float64) float64 { return 1 - v })} {
		for _, most := range []int{2, 4, 7} {
			s := &audit.Scan{Kind: "css"}
			for _, c := range rules.Colors[:most] {
				was := mistake(c.RGB.RGB()).Clip().RGB8()
				s.Uses = append(s.Uses, &audit.Use{Value: was.Hex(), Color: audit.Screen(was), Where: "a.css 1:1", Count: 2, Alpha: 1})
			}
			r := judge.Judge("a.css", s)
			fmt.Fprintf(&b, "mistake %d in %d: %+v\n", i, most, r.Causes)
			for _, c := range r.Colors {
				fmt.Fprintf(&b, "  %s %s %s %q %q\n", c.Hex, c.Verdict, c.Nearest.Name, c.Reason, c.Cause)
			}
		}
	}
	// In a picture that was compressed, a color within what that spoils is the color itself.
	s := &audit.Scan{Kind: "picture"}
	for i, c := range append(rules.Colors, library.Color{RGB: color.RGB8{R: 120, G: 120, B: 120}}) {
		for k := range 27 {
			was := color.RGB8{R: c.RGB.R + uint8(2*(k%3)) - 2, G: c.RGB.G + uint8(2*(k/3%3)) - 2, B: c.RGB.B + uint8(2*(k/9)) - 2}
			s.Uses = append(s.Uses, &audit.Use{Value: was.Hex(), Color: audit.Screen(was), Where: "picture", Count: 1, Alpha: 1, Pixels: true,
				More: &audit.More{Slack: [3]float64{1 + float64(i%3)/2, 1.2, 1.4}}})
		}
	}
	for _, c := range judge.Judge("a.jpg", s).Colors {
		fmt.Fprintf(&b, "%s %s %v %q\n", c.Key, c.Verdict, *c.Nearest, c.Reason)
	}
	// An excuse holds where the place moved; the nearest of several is the one.
	moved := &audit.Scan{Kind: "css"}
	for i := range 6 {
		moved.Uses = append(moved.Uses, &audit.Use{Value: "#FEDCBA", Color: audit.Screen(color.RGB8{R: 0xFE, G: 0xDC, B: 0xBA}), Where: fmt.Sprintf("app.css %d:%d, .a, color", 9+i/2, 2+i), Line: 9 + i/2, Column: 2 + i, Count: 1, Alpha: 1})
	}
	for _, c := range judge.Judge("app.css", moved).Colors {
		fmt.Fprintf(&b, "%s %s %+v\n", c.Key, c.Verdict, c.Places)
	}
	for _, c := range rules.Colors {
		build, ok := judge.Build(c.Name)
		base, based := judge.Base(c.RGB)
		fmt.Fprintf(&b, "%s %v %t, base %s %t\n", c.Name, build, ok, base.Hex(), based)
	}
	asbefore.Is(t, "report.txt", b.String())
}

// No color of a library means that all is off-brand, and nothing near.
func TestAnEmptyLibraryHasNothingNear(t *testing.T) {
	for _, u := range found() {
		r := audit.NewJudge(audit.Rules{}).Judge("a.css", &audit.Scan{Kind: "css", Uses: []*audit.Use{u}})
		for _, c := range r.Colors {
			assert.Nil(t, c.Nearest, c.Key)
			assert.Equal(t, audit.OffBrand, c.Verdict, c.Key)
			assert.NotNil(t, r.Notes)
		}
	}
}
