package repaint_test

import (
	"strings"
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

func hex(s string) color.RGB8 {
	c, err := color.FromHex(s)
	if err != nil {
		panic(err)
	}
	return c
}

// brand is the library of the tests, and typed what somebody made of it by hand.
var brand = []library.Color{
	{Name: "Deep Sound", RGB: hex("#0E3A53"), Status: library.Approved},
	{Name: "Buoy", RGB: hex("#E2572B"), Status: library.Approved},
	{Name: "Lamp", RGB: hex("#F2B632"), Status: library.Approved},
	{Name: "Saltmarsh", RGB: hex("#4E7D5B"), Status: library.Approved},
	{Name: "Ice Ramp", RGB: hex("#8FC1D4"), Status: library.Approved},
	{Name: "Heather Cliff", RGB: hex("#7A4E7E"), Status: library.Approved},
}

func typed(shift int) library.Edition {
	e := library.Edition{House: "Odelwick Ferries", Set: "Core", Number: 1}
	for i, c := range brand {
		if i%2 == 0 {
			c.RGB.R = uint8(int(c.RGB.R) + shift)
		} else {
			c.RGB.B = uint8(int(c.RGB.B) - shift)
		}
		e.Colors = append(e.Colors, c)
	}
	return e
}

// Whatever is sent to an application is read in an audit: every color of the set is found in every packing that has colors, and one that was
// typed wrongly is put right in the file, with all else as it was.
func TestEveryPackingIsReadAndRepainted(t *testing.T) {
	for _, p := range swatchfile.Packings() {
		if p.Name == "kit" || p.Name == "card-2160" { // all of the others, and one of the others larger
			continue
		}
		t.Run(p.Name, func(t *testing.T) {
			t.Parallel()
			e := typed(2)
			data, err := p.Pack(e)
			require.NoError(t, err)
			name := p.FileName(e)
			if err := kinds.Recognize(name, data); err != nil {
				t.Skipf("not a project file: %v", err)
			}
			scan, err := kinds.Read(name, data)
			require.NoError(t, err)
			spansLie(t, scan)
			same, err := scan.File.Apply(nil)
			require.NoError(t, err)
			assert.Equal(t, data, same, "no edit, same bytes")
			assert.Empty(t, scan.Unread)

			rules := audit.Rules{Colors: brand, Neutrals: true}
			report := audit.NewJudge(rules).Judge(name, scan)
			drifted := map[string]bool{}
			for _, c := range report.Colors {
				if c.Verdict == audit.Drifted {
					drifted[c.Nearest.Name] = true
					assert.Zero(t, c.Fixed, "%s can be written everywhere", c.Value)
				}
			}
			if p.Name == "print-pdf" { // whole percents of ink hide a level or two
				assert.NotEmpty(t, drifted)
			} else {
				assert.Len(t, drifted, len(brand), "each color of the set is found as one that drifted")
			}
			var before *repaint.Result
			for _, link := range []bool{false, true} {
				plan := repaint.Usual(report)
				plan.Link = link
				r, err := repaint.File(name, data, rules, plan, kinds.Options{})
				require.NoError(t, err)
				assert.Empty(t, r.Left)
				assert.Positive(t, r.Uses)
				assert.Greater(t, r.Parts.Changed, 0)
				for _, c := range r.After.Colors {
					assert.NotEqual(t, audit.Drifted, c.Verdict, "%s at %s", c.Value, c.Places[0].Where)
				}
				assert.Equal(t, report.Uses, r.After.Uses, "nothing came or went")
				if !link {
					before = r
				}
			}
			again, err := repaint.File(name, before.Data, rules, repaint.Usual(before.After), kinds.Options{})
			require.NoError(t, err)
			assert.Equal(t, before.Data, again.Data, "what is right stays as it is, byte for byte")
		})
	}
}

// spansLie checks that the bytes of uses lie in their parts and hold something, and that two that cover each other are the same.
func spansLie(t *testing.T, scan *audit.Scan) {
	t.Helper()
	for _, u := range scan.Uses {
		for _, at := range u.At {
			text, err := at.Text()
			if assert.NoError(t, err, u.Where) {
				assert.NotEmpty(t, strings.TrimSpace(text), u.Where)
			}
		}
		if u.Form == nil && u.Why == "" && u.Rare().Paint == nil && !u.Linked() {
			assert.NotEmpty(t, u.Fixed, "%s cannot be repainted and does not say why", u.Where)
		}
	}
}
