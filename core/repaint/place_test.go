package repaint_test

import (
	"strings"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"huekeep/core/audit"
	"huekeep/core/audit/kinds"
	"huekeep/core/repaint"
)

// One place by itself becomes a color, or stays while the others become it; nothing else moves.
func TestOnePlaceAlone(t *testing.T) {
	rules := audit.Rules{Colors: mapColors()}
	for name, c := range map[string]struct {
		text, wanted string
		steps        []repaint.Step
		left         int
	}{
		"one":           {"a{color:#111111}\nb{color:#111111}\nc{fill:#111111}", "a{color:#111111}\nb{color:#E2572B}\nc{fill:#111111}", []repaint.Step{{From: "#111111", To: "Buoy", Where: []string{"x.css 2:9, b, color"}}}, 0},
		"two":           {"a{color:#111111}\nb{color:#111111}\nc{fill:#111111}", "a{color:#E2572B}\nb{color:#E2572B}\nc{fill:#111111}", []repaint.Step{{From: "#111111", To: "Buoy", Where: []string{"x.css 2:9, b, color", "x.css 1:9, a, color"}}}, 0},
		"all but one":   {"a{color:#111111}\nb{color:#111111}", "a{color:#111111}\nb{color:#E2572B}", []repaint.Step{{From: "#111111", To: "Buoy"}, {From: "#111111", Leave: true, Where: []string{"x.css 1:9, a, color"}}}, 0},
		"one another":   {"a{color:#111111}\nb{color:#111111}", "a{color:#1D6F6A}\nb{color:#E2572B}", []repaint.Step{{From: "#111111", To: "Buoy"}, {From: "#111111", To: "Harbor Teal", Where: []string{"x.css 1:9, a, color"}}}, 0},
		"nowhere":       {"a{color:#111111}", "a{color:#111111}", []repaint.Step{{From: "#111111", To: "Buoy", Where: []string{"y.css 1:9, a, color"}}}, 0},
		"of a variable": {":root{--x:#111111}\na{color:var(--x)}\nb{color:var(--x)}", ":root{--x:#111111}\na{color:#E2572B}\nb{color:var(--x)}", []repaint.Step{{From: "#111111", To: "Buoy", Where: []string{"x.css 2:9, a, color"}}}, 0},
		"a definition":  {":root{--x:#111111}\na{color:var(--x)}", ":root{--x:#E2572B}\na{color:var(--x)}", []repaint.Step{{From: "#111111", To: "Buoy", Where: []string{"x.css 1:11, :root, --x"}}}, 0}, // what points to it follows
		"another color": {"a{color:#111111}\nb{color:#222222}", "a{color:#111111}\nb{color:#222222}", []repaint.Step{{From: "#222222", To: "Buoy", Where: []string{"x.css 1:9, a, color"}}}, 0},
	} {
		r, err := repaint.File("x.css", []byte(c.text), rules, repaint.Plan{Colors: c.steps}, kinds.Options{})
		require.NoError(t, err, name)
		assert.Equal(t, strings.ToLower(c.wanted), strings.ToLower(string(r.Data)), name)
		assert.Len(t, r.Left, c.left, name)
	}
	_, err := repaint.File("x.css", []byte("a{color:#111111}"), rules, repaint.Plan{Colors: []repaint.Step{{From: "#111111", To: "Nobody", Where: []string{"x"}}}}, kinds.Options{})
	assert.Error(t, err)

	// A utility class and its rule have one name: neither changes by itself.
	page := `<p class="text-[#111111]">a</p><p style="color:#111111">b</p>`
	scan, err := kinds.Read("x.html", []byte(page))
	require.NoError(t, err)
	var where []string
	for _, u := range scan.Uses {
		where = append(where, u.Where)
	}
	r, err := repaint.File("x.html", []byte(page), rules, repaint.Plan{Colors: []repaint.Step{{From: "#111111", To: "Buoy", Where: where}}}, kinds.Options{})
	require.NoError(t, err)
	assert.Equal(t, `<p class="text-[#111111]">a</p><p style="color:#e2572b">b</p>`, string(r.Data))
	require.Len(t, r.Left, 1)
	assert.Contains(t, r.Left[0].Why, "utility class")
}
