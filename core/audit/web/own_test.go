package web_test

import (
	"fmt"
	"strings"
	"testing"
	"time"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"huekeep/core/audit/audittest"
	"huekeep/core/audit/kinds"
)

// What a project's own functions, mixins and loops make is worked out. The colors are those that the reference implementation of Sass writes.
func TestFunctionsLoopsAndMixinsOfAProject(t *testing.T) {
	const head = "$sea: #1C3A4C;\n$all: (\"sea\": $sea, \"buoy\": #E2572B);\n"
	for name, c := range map[string]struct {
		text string
		want []string // of what stands behind the head, without what is found in it
	}{
		"a function": {"@function tone($c, $n: 10%) { @return mix(white, $c, $n); }\n.a { color: tone($sea); fill: tone(#E2572B, 20%); stroke: tone($n: 20%, $c: #E2572B) }",
			[]string{"#334E5E", "#E87955", "#E87955"}},
		"one in another": {"@function half($c) { @return mix(black, $c, 50%); }\n@function quarter($c) { @return half(half($c)); }\n.a { color: quarter(#E2572B) }",
			[]string{"#39160B"}},
		"variables of its own":  {"@function deep($c) { $more: 10%; $x: darken($c, $more); @return $x; }\n.a { color: deep(#E2572B) }", []string{"#C0421A"}},
		"a value of a map":      {"@function of($key) { @return map-get($all, $key); }\n.a { fill: of(\"buoy\") }", []string{"#E2572B"}},
		"a loop through a map":  {"@each $name, $value in $all { .b-#{$name} { border-color: darken($value, 10%) } }", []string{"#0E1E27", "#C0421A"}},
		"through a list":        {"@each $c in #111111, #E2572B { .b { color: darken($c, 10%) } }", []string{"#000000", "#C0421A", "#111111", "#E2572B"}},
		"by numbers":            {"@for $i from 1 through 3 { .s-#{$i} { color: mix(white, $sea, $i * 20%) } }", []string{"#496170", "#778994", "#A4B0B7"}},
		"a mixin":               {"@mixin paint($c) { border-color: darken($c, 10%) }\n.a { @include paint(#E2572B) }\n.b { @include paint($sea) }", []string{"#C0421A", "#0E1E27", "#E2572B"}},
		"one that nobody takes": {"@mixin paint($c) { border-color: darken($c, 10%) }", nil},
		"what it decides is asked": {"@function on($c) { @if lightness($c) > 50% { @return black; } @return white; }\n.a { color: on($sea) }",
			[]string{"? on($sea): on() decides by what it is given"}},
		"beside other things": {"@function tone($c) { @return mix(white, $c, 10%); }\n.a { background: url(a.png) tone($sea); border: size(2) solid tone($sea); box-shadow: 0 0 3px other($sea) }",
			[]string{"#334E5E", "#334E5E", "? other($sea): other() is worked out elsewhere"}},
		"defined twice":         {"@function x($c) { @return darken($c, 10%); }\n@function x($c) { @return lighten($c, 10%); }\n.a { color: x($sea) }", []string{"? x($sea): x() is defined 2 times"}},
		"too little":            {"@function x($c, $n) { @return darken($c, $n); }\n.a { color: x($sea) }", []string{"? x($sea): x() is worked out elsewhere"}},
		"in itself":             {"@function x($c) { @return x($c); }\n.a { color: x($sea) }", []string{"? x($sea): x() is worked out elsewhere"}},
		"no list that is known": {"@each $c in $nothing { .a { border-color: darken($c, 10%) } }", []string{"? darken($c, 10%): what $c goes through is not known"}},
	} {
		t.Run(name, func(t *testing.T) {
			scan, err := kinds.Read("x.scss", []byte(head+c.text))
			require.NoError(t, err)
			var got []string
			for _, u := range scan.Uses {
				switch {
				case u.Line < 3 || u.Linked() && !strings.Contains(u.Value, "("):
				case u.Why != "":
					got = append(got, "? "+u.Value+": "+u.Why)
				default:
					got = append(got, u.RGB.Hex())
				}
			}
			assert.ElementsMatch(t, c.want, got)
		})
	}
}

// A function of one file is known in those that use it, as variables are.
func TestAFunctionOfAnotherFile(t *testing.T) {
	got := audittest.Told(t, "x.zip", audittest.Zip(t, map[string]string{
		"tools.scss": "@function tone($c) { @return mix(white, $c, 10%); }\n@mixin edge($c) { border-color: tone($c) }",
		"a.scss":     "@use 'tools';\n.a { color: tools.tone(#1C3A4C); @include tools.edge(#E2572B) }",
	}))
	assert.ElementsMatch(t, []string{"#334E5E a.scss 2:13, .a, color", "#E2572B a.scss 2:54, .a, @include", "#E56840 tools.scss 2:33, border-color"}, got)
}

// Loops through a long list, by the thousand, and heads that are long themselves, end soon too.
func TestLoopsByTheThousand(t *testing.T) {
	for name, text := range map[string]string{
		"loops": "$l: " + strings.Repeat("#1C3A4C, ", 50_000) + "#111111;\n" + strings.Repeat("@each $c in $l { .a { border-color: darken($c, 10%) } }\n", 5_000),
		"heads": strings.Repeat("@each $c in "+strings.Repeat("a ", 900)+"{ ", 200) + strings.Repeat(".a { border-color: darken($c, 10%) }\n", 20_000),
		"given": "@mixin m(" + strings.Repeat("$a, ", 30_000) + "$c) { " + strings.Repeat(".a { border-color: darken($c, 10%) }\n", 20_000) + "}",
	} {
		start := time.Now()
		_, err := kinds.Read("x.scss", []byte(text))
		require.NoError(t, err, name)
		assert.Less(t, time.Since(start), 30*time.Second, "%s took some tenths when this was written", name)
		t.Log(name, time.Since(start))
	}
}

// Functions that call each other without end, or by the thousand, take no time worth speaking of.
func TestFunctionsThatNeverEnd(t *testing.T) {
	var b strings.Builder
	for i := range 40 {
		fmt.Fprintf(&b, "@function f%d($c) { @return mix(f%d($c), f%d($c), 50%%); }\n", i, i+1, i+1)
	}
	b.WriteString("@function f40($c) { @return $c; }\n")
	for range 2000 {
		b.WriteString(".a { color: f0(#1C3A4C) }\n")
	}
	start := time.Now()
	scan, err := kinds.Read("x.scss", []byte(b.String()))
	require.NoError(t, err)
	assert.Len(t, scan.Uses, 2000)
	assert.Less(t, time.Since(start), 30*time.Second, "it took some tenths when this was written")
}
