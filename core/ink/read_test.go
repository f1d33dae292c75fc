package ink_test

import (
	"strings"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"huekeep/core/color"
	"huekeep/core/ink"
)

func TestTablesAsSuppliersWriteThem(t *testing.T) {
	lab := func(l, a, b float64) color.Lab { return color.Lab{L: l, A: a, B: b} }
	for name, c := range map[string]struct {
		table            string
		coated, uncoated color.Lab
		class            string
		one              bool
	}{
		"as the book that ships":     {"code,name,class,coated L,coated a,coated b,uncoated L,uncoated a,uncoated b\nHX 1,Slip,solid,56.5,54,52,58,48,44\n", lab(56.5, 54, 52), lab(58, 48, 44), "solid", false},
		"semicolons":                 {"Code;Name;L;a;b\r\nHX 1;Slip;56,5;54;-5,2\r\n", lab(56.5, 54, -5.2), lab(56.5, 54, -5.2), "solid", true},
		"tabs, words, another order": {"Name\tInk number\tL* (uncoated)\ta* (uncoated)\tb* (uncoated)\tL* (coated)\ta* (coated)\tb* (coated)\nSlip\tHX 1\t58\t48\t44\t56,5\t54\t52\n", lab(56.5, 54, 52), lab(58, 48, 44), "solid", false},
		"no names, a type":           {"\ufeffRef,Type,Lab L,Lab a,Lab b\nHX 1,metallic,56.5,54,52\n", lab(56.5, 54, 52), lab(56.5, 54, 52), "metallic", true},
	} {
		t.Run(name, func(t *testing.T) {
			b, err := ink.ReadCSV("Harbor", strings.NewReader(c.table))
			require.NoError(t, err)
			assert.Equal(t, ink.Ink{Code: "HX 1", Name: b.Inks[0].Name, Class: c.class, Coated: c.coated, Uncoated: c.uncoated}, b.Inks[0])
			assert.Equal(t, c.one, b.OneStock)
		})
	}
	_, err := ink.ReadCSV("Harbor", strings.NewReader("Code;Name;L;a\nHX 1;Slip;5;4\n"))
	assert.ErrorContains(t, err, `has no column "coated b"`)
	_, err = ink.ReadCSV("Harbor", strings.NewReader("Code;Name;L;a;b\nHX 1;Slip;560;4;4\n"))
	assert.ErrorContains(t, err, `line 2 of the ink book: "560" is not a coated L value`)
}

// A ramp has every ink of its class once; the neutrals come first, each section from light to dark.
func TestTheRampHasAll(t *testing.T) {
	b := ink.Quern()
	for _, class := range b.Classes() {
		of, err := b.OfClass(class)
		require.NoError(t, err)
		seen := map[string]bool{}
		for i, s := range b.Ramp(class) {
			assert.True(t, s.Name != "neutral" || i == 0)
			for k, x := range s.Inks {
				seen[x.Code] = true
				assert.Equal(t, class, x.Class)
				assert.True(t, k == 0 || s.Inks[k-1].Coated.L >= x.Coated.L, "%s after %v", x.Code, k)
			}
		}
		assert.Len(t, seen, len(of.Inks))
	}
}
