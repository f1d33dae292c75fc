package audit_test

import (
	"fmt"
	"math"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"huekeep/core/audit"
	"huekeep/core/audit/audittest"
	"huekeep/core/color"
	"huekeep/core/library"
)

func hex(t *testing.T, text string) color.RGB8 {
	t.Helper()
	c, err := color.FromHex(text)
	require.NoError(t, err)
	return c
}

// on is a use of a color at a place.
func on(c color.RGB8, where string) *audit.Use {
	return &audit.Use{Value: c.Hex(), Color: audit.Screen(c), Where: where}
}

// pixels is an area of a picture.
func pixels(c color.RGB8, more audit.More) *audit.Use {
	u := on(c, "all")
	u.Pixels, u.More = true, &more
	return u
}

func TestNumbersOfThings(t *testing.T) {
	for n, want := range map[int]string{0: "0 lines", 1: "1 line", 2: "2 lines", 999: "999 lines", 1000: "1,000 lines", 50_001: "50,001 lines",
		123_456: "123,456 lines", 1_234_567: "1,234,567 lines"} {
		assert.Equal(t, want, audit.Plural(n, "line"))
	}
	assert.Equal(t, "1 line is", audit.PluralAre(1, "line"))
	assert.Equal(t, "2 lines are", audit.PluralAre(2, "line"))
}

// A place without its line stays the same when lines are put in above it; what is no line and column stays as it is.
func TestPlacesWithoutTheirLines(t *testing.T) {
	for where, want := range map[string]string{"app.css 41:12, .a, color": "app.css, .a, color", "a 4:9, .a": "a, .a", "page 3, the path": "page 3, the path",
		"slide 4": "slide 4", "my file.css 4:9": "my file.css 4:9", "my file.css 4:9, x": "my file.css, x"} {
		assert.Equal(t, want, audit.WithoutLine(where), where)
	}
}

// Every opacity in steps of 5 % is told, over white as over black.
func TestOpacitiesInStepsOfFiveAreTold(t *testing.T) {
	for _, over := range []struct {
		name string
		with color.RGB8
	}{{"white", color.RGB8{R: 255, G: 255, B: 255}}, {"black", color.RGB8{}}} {
		told := 0
		for percent := 1; percent < 100; percent++ {
			buoy := color.RGB8{R: 0x3B, G: 0xC4, B: 0x8E}
			mix := func(a, b uint8) uint8 {
				return uint8(math.Round(float64(a)*float64(100-percent)/100 + float64(b)*float64(percent)/100))
			}
			found := color.RGB8{R: mix(buoy.R, over.with.R), G: mix(buoy.G, over.with.G), B: mix(buoy.B, over.with.B)}
			k := audit.NewJudge(audittest.Rules("Buoy #3BC48E")).Judge("a.css", scan(on(found, "a.css 1:1, .a, color"))).Colors[0]
			if k.Verdict != audit.OffBrand {
				continue
			}
			said := fmt.Sprintf("Buoy under %d %% %s", percent, over.name)
			if percent%5 != 0 {
				assert.NotEqual(t, said, k.Reason)
				continue
			}
			told++
			assert.Equal(t, said, k.Reason, found.Hex())
			assert.Equal(t, "an opacity over "+over.name, k.Cause)
		}
		assert.Greater(t, told, 14, over.name)
	}
}

// Up to two levels in a channel are a slip of whoever wrote it; three are not.
func TestASlipIsTwoLevelsAtTheMost(t *testing.T) {
	for found, cause := range map[string]string{"#0F3A53": "typed or rounded", "#103C51": "typed or rounded", "#113A53": "", "#0E3A50": ""} {
		k := audit.NewJudge(audittest.Rules("Sound #0E3A53")).Judge("a.css", scan(on(hex(t, found), "a.css 1:1, .a, color"))).Colors[0]
		assert.Equal(t, audit.Drifted, k.Verdict, found)
		assert.Equal(t, cause, k.Cause, found)
	}
}

// A file whose colors are all opaque has nothing to be said of that.
func TestOfOpaqueFilesNothingIsSaid(t *testing.T) {
	assert.Empty(t, audit.NewJudge(audittest.Rules("Buoy #E2572B")).Judge("a.pdf", scan(on(hex(t, "#E2572B"), "page 1"))).Notes)
}

// A library without colors is near to nothing.
func TestNothingIsMeantWhereThereIsNoLibrary(t *testing.T) {
	c, ok := audit.NewJudge(audit.Rules{}).Base(hex(t, "#E2572B"))
	assert.False(t, ok)
	assert.Equal(t, "#E2572B", c.Hex())
}

// An excuse follows its place: within its line before any other line, however far along the line that is.
func TestAnExcuseStaysInItsLine(t *testing.T) {
	rules := audittest.Rules("Buoy #E2572B")
	rules.Excuses = []audit.Excuse{{Color: "#00FF00", File: "a.css", Where: "a.css 4:1, .a, color", Reason: "sponsor"}}
	at := func(line, column int) *audit.Use {
		u := on(hex(t, "#00FF00"), fmt.Sprintf("a.css %d:%d, .a, color", line, column))
		u.Line, u.Column = line, column
		return u
	}
	for _, uses := range [][]*audit.Use{{at(5, 1), at(4, 20_001)}, {at(4, 20_001), at(5, 1)}} {
		for _, k := range audit.NewJudge(rules).Judge("a.css", scan(uses...)).Colors {
			for _, p := range k.Places {
				assert.Equal(t, p.Where == "a.css 4:20001, .a, color", k.Verdict == audit.Excused, p.Where)
			}
		}
	}
}

// A brief report lists fewer places of what nobody has to decide, and counts the others.
func TestABriefReportCountsWhatItDoesNotList(t *testing.T) {
	var uses []*audit.Use
	for i := range 300 {
		uses = append(uses, on(hex(t, "#E2572B"), fmt.Sprintf("page %d, a", i)), on(hex(t, "#00FF00"), fmt.Sprintf("page %d, b", i)),
			&audit.Use{Value: "auto", Where: fmt.Sprintf("page %d, c", i), Why: "it is worked out by a program"})
	}
	r := audit.NewJudge(audittest.Rules("Buoy #E2572B")).Judge("a.pdf", scan(uses...)).Brief(audit.BriefPlaces)
	listed := map[audit.Verdict]int{}
	for _, k := range r.Colors {
		listed[k.Verdict] = len(k.Places)
		assert.Equal(t, 300, len(k.Places)+k.Unlisted.Places)
		assert.Equal(t, 300, k.Count)
	}
	assert.Equal(t, map[audit.Verdict]int{audit.OnBrand: 20, audit.OffBrand: 200}, listed)
	assert.Len(t, r.Unjudged, 20)
	assert.Equal(t, 300, r.UnjudgedUses())
	few := audit.NewJudge(audittest.Rules("Buoy #E2572B")).Judge("a.pdf", scan(uses...)).Brief(5)
	assert.Len(t, few.Colors[0].Places, 5)
	assert.Len(t, few.Unjudged, 5)
}

// A style sheet is judged by the tolerance for what is written, a picture by that for pictures, beyond sRGB as within.
func TestPicturesHaveATolerance(t *testing.T) {
	rules := audittest.Rules("Buoy #E2572B", "Sound #0E3A53", "Lamp #F2B632")
	rules.Tolerance, rules.Pictures = 1, 5
	near := hex(t, "#E85E33") // between the two
	for _, c := range []struct {
		use  *audit.Use
		want audit.Verdict
	}{{on(near, "a"), audit.OffBrand}, {pixels(near, audit.More{}), audit.Drifted}, {pixels(hex(t, "#00FF00"), audit.More{}), audit.OffBrand}} {
		k := audit.NewJudge(rules).Judge("a.png", scan(c.use)).Colors[0]
		assert.Equal(t, c.want, k.Verdict)
		assert.Equal(t, k.Verdict == audit.OffBrand, len(k.Others) == 2, "the two next of what is off")
	}
	wide, err := color.ParseCSS("color(display-p3 0.1 0.95 0.2)")
	require.NoError(t, err)
	u := &audit.Use{Value: "p3", Color: audit.Seen(wide), Where: "a"}
	k := audit.NewJudge(rules).Judge("a.css", scan(u)).Colors[0]
	assert.Equal(t, audit.OffBrand, k.Verdict)
	assert.Len(t, k.Others, 2)
}

// A gradient of the library is in a picture where three of its colors between the stops are; fewer are colors of their own.
func TestAGradientIsThreeOfItsColors(t *testing.T) {
	rules := audittest.Rules("Buoy #E2572B", "Sound #0E3A53")
	for i := range rules.Colors {
		rules.Colors[i].ID = int64(i + 1)
	}
	rules.Gradients = []library.Gradient{{Name: "Dusk", Space: "srgb", Stops: []library.Stop{{Color: rules.Colors[0].Ref()}, {Color: rules.Colors[1].Ref(), Place: 100}}}}
	between := []string{"#AD5037", "#784940", "#43414A"} // a quarter, a half, three of the way
	for n := 1; n <= 3; n++ {
		var uses []*audit.Use
		for _, h := range between[:n] {
			uses = append(uses, pixels(hex(t, h), audit.More{}))
		}
		for _, k := range audit.NewJudge(rules).Judge("a.png", scan(uses...)).Colors {
			if n < 3 {
				assert.NotEqual(t, audit.OnBrand, k.Verdict, "%d: %s", n, k.Hex)
			} else {
				assert.Equal(t, audit.OnBrand, k.Verdict, k.Hex)
				assert.Equal(t, "between the stops of the gradient Dusk", k.Reason)
			}
		}
	}
}

// Every variant that menus of theme colors offer is told (ECMA-376 part 1, 20.1.2.3.20 and 21: luminance as HSL, multiplied and moved).
func TestEveryVariantOfAThemeIsTold(t *testing.T) {
	base := hex(t, "#207C48") // its parts give no halves, which programs round either way
	h, s, l := hsl(base)
	for way, list := range map[string][]int{"lighter": {5, 10, 15, 25, 35, 40, 50, 60, 75, 80, 90}, "darker": {5, 10, 15, 25, 35, 50, 75, 90}} {
		told := 0
		for _, percent := range list {
			v := float64(percent) / 100
			to := l * (1 - v)
			if way == "lighter" {
				to += v
			}
			found := ofHSL(h, s, to)
			k := audit.NewJudge(audittest.Rules("Fern #207C48")).Judge("a.css", scan(on(found, "a.css 1:1, .a, color"))).Colors[0]
			if k.Verdict != audit.OffBrand {
				continue // too near
			}
			told++
			said := fmt.Sprintf("Fern, %d %% %s as a theme's menu makes it", percent, way)
			if way == "darker" {
				said = fmt.Sprintf("Fern under %d %% black", percent) // which is the same color
			}
			assert.Equal(t, said, k.Reason, found.Hex())
		}
		assert.GreaterOrEqual(t, told, len(list)-2, way)
	}
}

func hsl(c color.RGB8) (h, s, l float64) {
	r, g, b := float64(c.R)/255, float64(c.G)/255, float64(c.B)/255
	most, least := max(r, g, b), min(r, g, b)
	d := most - least
	l = (most + least) / 2
	switch most {
	case r:
		h = math.Mod((g-b)/d+6, 6)
	case g:
		h = (b-r)/d + 2
	default:
		h = (r-g)/d + 4
	}
	return h, d / (1 - math.Abs(2*l-1)), l
}

func ofHSL(h, s, l float64) color.RGB8 {
	a := s * min(l, 1-l)
	channel := func(n float64) uint8 {
		k := math.Mod(n+2*h, 12)
		return uint8(math.Round(255 * (l - a*max(-1, min(k-3, 9-k, 1)))))
	}
	return color.RGB8{R: channel(0), G: channel(8), B: channel(4)}
}

// A gray is as light as the color to the eye (Rec. 601 luma), rounded.
func TestTheGrayOfAColor(t *testing.T) {
	for of, gray := range map[string]string{"#000000": "#000000", "#FFFFFF": "#FFFFFF", "#FF0000": "#4C4C4C", "#00FF00": "#969696", "#0000FF": "#1D1D1D",
		"#E2572B": "#7C7C7C", "#010000": "#000000", "#020000": "#010101"} {
		assert.Equal(t, gray, audit.Gray(hex(t, of)).Hex(), of)
	}
}

// Companions may be used of a color that is approved, as one that says nothing is; not of a draft or a retired one.
func TestCompanionsOfWhatIsApprovedMayBeUsed(t *testing.T) {
	for status, n := range map[library.Status]int{library.Approved: 2, "": 2, library.Draft: 1, library.Retired: 1} {
		c := library.Color{Name: "Buoy", RGB: hex(t, "#E2572B"), Status: status, Companions: []library.Companion{{Kind: "tint", Amount: 40, Permitted: true},
			{Kind: "tint", Amount: 20}}}
		assert.Len(t, audit.Allowed([]library.Color{c}), n, status)
	}
}
