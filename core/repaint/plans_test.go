package repaint_test

import (
	"maps"
	"math/rand/v2"
	"slices"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"huekeep/core/audit"
	"huekeep/core/audit/kinds"
	"huekeep/core/color"
	"huekeep/core/library"
	"huekeep/core/repaint"
	"huekeep/core/swatchfile"
)

// mixedUp gives each color of the brand another one, or its own, at random: chains, swaps and cycles of any length.
func mixedUp(r *rand.Rand, link bool) (plan repaint.Plan, becomes map[color.RGB8]color.RGB8) {
	becomes = map[color.RGB8]color.RGB8{}
	to := r.Perm(len(brand))
	if r.IntN(3) == 0 { // two may become one
		to[r.IntN(len(to))] = r.IntN(len(brand))
	}
	for i, k := range to {
		if i == k || r.IntN(6) == 0 {
			continue
		}
		plan.Colors = append(plan.Colors, repaint.Step{From: brand[i].RGB.Hex(), To: brand[k].Name})
		becomes[brand[i].RGB] = brand[k].RGB
	}
	plan.Link = link
	return plan, becomes
}

// counted counts uses by color.
func counted(scan *audit.Scan, becomes map[color.RGB8]color.RGB8) map[string]int {
	out := map[string]int{}
	for _, u := range scan.Uses {
		_, inks := u.Ink()
		if u.Hidden || u.Why != "" || inks {
			continue
		}
		c := u.RGB
		if to, ok := becomes[c]; ok {
			c = to
		}
		out[c.Hex()] += u.Count
	}
	return out
}

// A plan is applied to the file as it came, and never to what it wrote itself: after a swap, a chain or a cycle each use has become what the plan
// says of the color that it had.
func TestPlansAreNotAppliedToTheirOwnOutput(t *testing.T) {
	files := map[string][]byte{
		"x.scss":  []byte("$a: #0E3A53; $b: $a; $m: (x: #E2572B, y: $a);\n.p { color: $b; fill: map-get($m, x); border: 1px solid #F2B632; background: #4E7D5B }\n.q{color:#8FC1D4;fill:#7A4E7E;stroke:$a}"),
		"x.css":   []byte(":root{--a:#0E3A53;--b:var(--a);--c:#E2572B}@media(prefers-color-scheme:dark){:root{--a:#F2B632}}a{color:var(--b);fill:var(--c);stroke:#4E7D5B;background:linear-gradient(#8FC1D4,#7A4E7E)}"),
		"x.html":  []byte(`<style>a{color:#E2572B}</style><p style="color:#F2B632;fill:#0E3A53"><svg><path fill="#4E7D5B" stroke="#E2572B"/></svg><script>const a = '#8FC1D4'</script><font color="#7A4E7E">a</font>`),
		"x.pptx":  zipped(t, office("ppt/presentation.xml", "", `<p:presentation xmlns:r="r"><p:sldId r:id="s"/></p:presentation>`, [2]string{"ppt/_rels/presentation.xml.rels", `<r><Relationship Id="s" Type="x/relationships/slide" Target="s.xml"/></r>`}, [2]string{"ppt/s.xml", `<p:sld><p:sp><p:cNvPr name="A"/><p:spPr><a:solidFill><a:srgbClr val="E2572B"/></a:solidFill><a:ln><a:solidFill><a:srgbClr val="F2B632"/></a:solidFill></a:ln></p:spPr></p:sp><p:sp><p:cNvPr name="B"/><p:spPr><a:solidFill><a:srgbClr val="F2B632"/></a:solidFill></p:spPr></p:sp></p:sld>`})...),
		"x.pdf":   page("q 0.054902 0.227451 0.32549 rg 0 0 9 9 re f 0.886275 0.341176 0.168627 rg 0 0 5 5 re f 0.94902 0.713725 0.196078 RG 0 0 m 9 9 l S Q"),
		"all.zip": zipped(t, [2]string{"a.css", "a{color:#E2572B;fill:#F2B632}"}, [2]string{"b.svg", `<svg><path fill="#E2572B" stroke="#F2B632"/></svg>`}),
	}
	e := typed(0)
	for _, p := range swatchfile.Packings() {
		if p.Name != "kit" && p.Name != "card-2160" && p.Name != "print-pdf" { // the pages for a printer are in inks
			data, err := p.Pack(e)
			require.NoError(t, err)
			if name := p.FileName(e); kinds.Recognize(name, data) == nil {
				files[name] = data
			}
		}
	}
	for _, name := range slices.Sorted(maps.Keys(files)) {
		t.Run(name, func(t *testing.T) {
			t.Parallel()
			data := files[name]
			r := rand.New(rand.NewPCG(7, uint64(len(name))))
			before, err := kinds.Read(name, data)
			require.NoError(t, err)
			rounds := 12
			if len(data) > 30000 || len(before.Uses) > 500 {
				rounds = 4
			}
			for round := range rounds {
				plan, becomes := mixedUp(r, round%3 == 2)
				if round == 0 { // a swap, as the first
					plan = repaint.Plan{Colors: []repaint.Step{{From: brand[1].RGB.Hex(), To: brand[2].Name}, {From: brand[2].RGB.Hex(), To: brand[1].Name}}}
					becomes = map[color.RGB8]color.RGB8{brand[1].RGB: brand[2].RGB, brand[2].RGB: brand[1].RGB}
				}
				done, err := repaint.File(name, data, audit.Rules{Colors: brand}, plan, kinds.Options{})
				require.NoError(t, err)
				after, err := kinds.Read(name, done.Data)
				require.NoError(t, err)
				assert.Equal(t, counted(before, becomes), counted(after, nil), "%v", plan.Colors)
				assert.Empty(t, done.Left, "%v", plan.Colors)
				planned := 0
				for _, u := range before.Uses {
					if to, ok := becomes[u.RGB]; ok && to != u.RGB && !u.Hidden {
						planned += u.Count
					}
				}
				assert.Equal(t, planned, done.Uses, "as many as it says")
			}
		})
	}
}

// What is worked out of a definition is held to the color that it had, and what is told of a swap is true.
func TestWhatIsWorkedOutIsDecidedOnce(t *testing.T) {
	rules := audit.Rules{Colors: []library.Color{{Name: "Ember", RGB: hex("#C0392B"), Status: library.Approved}, {Name: "Moss", RGB: hex("#3B7A57"), Status: library.Approved}, {Name: "Plum", RGB: hex("#5B2A4E"), Status: library.Approved}}}
	for name, c := range map[string]struct{ file, text, want string }{
		"a swap":              {"x.css", "a{color:#C0392B;fill:#3B7A57}", "a{color:#3B7A57;fill:#C0392B}"},
		"through a variable":  {"x.css", ":root{--a:#C0392B;--b:#3B7A57}a{color:var(--a);fill:var(--b)}", ":root{--a:#3B7A57;--b:#C0392B}a{color:var(--a);fill:var(--b)}"},
		"from another color":  {"x.css", ":root{--a:#C0392B}a{color:rgb(from var(--a) r g b);fill:rgb(from #3B7A57 r g b / .5)}", ""},
		"worked out":          {"x.scss", "$a:#C0392B;a{color:rgba($a,.5);fill:#3B7A57}", "$a:#3B7A57;a{color:rgba($a,.5);fill:#C0392B}"},
		"by a function":       {"x.scss", "@function t($c){@return rgba($c,.5);}$a:#C0392B;a{color:t($a);fill:#3B7A57}", "@function t($c){@return rgba($c,.5);}$a:#3B7A57;a{color:t($a);fill:#C0392B}"},
		"out of a map":        {"x.scss", "$m:(x:#C0392B,y:#3B7A57);@function k($n){@return map-get($m,$n);}a{color:k(x);fill:k(y)}", "$m:(x:#3B7A57,y:#C0392B);@function k($n){@return map-get($m,$n);}a{color:k(x);fill:k(y)}"},
		"two definitions":     {"x.scss", "$a:#C0392B;$b:#3B7A57;$c:$a;a{color:$c;fill:$b}", "$a:#3B7A57;$b:#C0392B;$c:$a;a{color:$c;fill:$b}"},
		"a drawing inside it": {"x.html", `<style>a{background:url("data:image/svg+xml,%3Csvg%3E%3Cpath fill='%23C0392B' stroke='%233B7A57'/%3E%3C/svg%3E")}</style>`, `<style>a{background:url("data:image/svg+xml,%3Csvg%3E%3Cpath fill='%233B7A57' stroke='%23C0392B'/%3E%3C/svg%3E")}</style>`},
	} {
		t.Run(name, func(t *testing.T) {
			plan := repaint.Plan{Colors: []repaint.Step{{From: "#C0392B", To: "Moss"}, {From: "#3B7A57", To: "Ember"}}}
			r, err := repaint.File(c.file, []byte(c.text), rules, plan, kinds.Options{})
			require.NoError(t, err)
			assert.Empty(t, r.Left)
			if c.want != "" {
				assert.Equal(t, c.want, string(r.Data))
			}
			// A swap of a swap is what was there, and the chain ends with its first step.
			back, err := repaint.File(c.file, r.Data, rules, plan, kinds.Options{})
			require.NoError(t, err)
			before, err := kinds.Read(c.file, []byte(c.text))
			require.NoError(t, err)
			again, err := kinds.Read(c.file, back.Data)
			require.NoError(t, err)
			assert.Equal(t, counted(before, nil), counted(again, nil))
			plan.Colors[1].To = "Plum"
			r, err = repaint.File(c.file, []byte(c.text), rules, plan, kinds.Options{})
			require.NoError(t, err)
			after, err := kinds.Read(c.file, r.Data)
			require.NoError(t, err)
			assert.Equal(t, counted(before, map[color.RGB8]color.RGB8{hex("#C0392B"): hex("#3B7A57"), hex("#3B7A57"): hex("#5B2A4E")}), counted(after, nil))
		})
	}
}
