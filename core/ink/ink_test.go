package ink_test

import (
	"os"
	"os/exec"
	"strings"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"huekeep/core/color"
	"huekeep/core/hostile"
	"huekeep/core/ink"
)

func TestTheQuernBookIsWhole(t *testing.T) {
	b := ink.Quern()
	require.Len(t, b.Inks, 900)
	classes, names := map[string]int{}, map[string]bool{}
	for _, k := range b.Inks {
		classes[k.Class]++
		names[k.Name] = true
		require.True(t, k.Coated.L > 5 && k.Coated.L < 100, k.Code)
		require.LessOrEqual(t, k.Uncoated.LCh().C, k.Coated.LCh().C+1.5, "%s: uncoated paper dulls", k.Code)
	}
	assert.Equal(t, map[string]int{"solid": 640, "pastel": 120, "metallic": 80, "fluorescent": 60}, classes)
	assert.Len(t, names, 900)
	for _, code := range []string{"QN-0132", "qn-0132", "QN0132", "qn 0132"} {
		k, ok := b.Find(code)
		require.True(t, ok, code)
		assert.Equal(t, "QN-0132", k.Code)
	}
	_, ok := b.Find("QN-9999")
	assert.False(t, ok)
}

func TestTheGeneratorWritesTheCommittedBook(t *testing.T) {
	dir := t.TempDir()
	program, err := os.ReadFile("build/quern.go")
	require.NoError(t, err)
	require.NoError(t, os.WriteFile(dir+"/main.go", program, 0o644))
	cmd := exec.Command("go", "run", "main.go")
	cmd.Dir = dir
	out, err := cmd.CombinedOutput()
	require.NoError(t, err, string(out))
	made, err := os.ReadFile(dir + "/quern.csv")
	require.NoError(t, err)
	committed, err := os.ReadFile("quern.csv")
	require.NoError(t, err)
	assert.Equal(t, string(committed), string(made))
}

func TestNearestEqualsBruteForce(t *testing.T) {
	b := ink.Quern()
	target := color.RGB8{R: 0xE2, G: 0x57, B: 0x2B}.Lab()
	for _, stock := range []ink.Stock{ink.Coated, ink.Uncoated} {
		got := b.Nearest(target, stock, 5)
		require.Len(t, got, 5)
		for _, k := range b.Inks {
			de := color.DeltaE00(target, k.Lab(stock))
			if de < got[4].DeltaE {
				assert.Contains(t, []string{got[0].Ink.Code, got[1].Ink.Code, got[2].Ink.Code, got[3].Ink.Code}, k.Code)
			}
		}
	}
	assert.Len(t, b.Nearest(target, ink.Coated, 5000), 900)
}

func TestSearchByPartOfANumberOrName(t *testing.T) {
	b := ink.Quern()
	for _, query := range []string{"013", "qn-013", "QN013"} {
		found := b.Search(query, 100)
		require.NotEmpty(t, found, query)
		for _, k := range found {
			assert.Contains(t, k.Code, "013", query)
		}
	}
	for _, k := range b.Search("heath", 100) {
		assert.Contains(t, k.Name, "Heath")
	}
	assert.Len(t, b.Search("q", 7), 7)
	assert.Empty(t, b.Search("", 7))
	pastels, err := b.OfClass("Pastel")
	require.NoError(t, err)
	assert.Len(t, pastels.Inks, 120)
	_, err = b.OfClass("glitter")
	assert.ErrorContains(t, err, "fluorescent, metallic, pastel, solid")
}

const header = "code,name,class,coated L,coated a,coated b,uncoated L,uncoated a,uncoated b\n"

func TestABrokenBookIsRefusedWithItsLine(t *testing.T) {
	for text, part := range map[string]string{
		"": "no header", "code,name\n": `no column "coated L"`, header + "A,n,c,1,2,3,4,5,x\n": "line 2",
		header + ",n,c,1,2,3,4,5,6\n": "no code", header + "A,n,c,1,2,3,4,5,NaN\n": "line 2",
		header + "A-1,n,c,1,2,3,4,5,6\na1,n,c,1,2,3,4,5,6\n": "line 3", header + "A,n,c\n": "wrong number of fields",
	} {
		_, err := ink.ReadCSV("x", strings.NewReader(text))
		if assert.Error(t, err, text) {
			assert.Contains(t, err.Error(), part)
		}
	}
}

func BenchmarkNearest(b *testing.B) {
	book, target := ink.Quern(), color.RGB8{R: 0xE2, G: 0x57, B: 0x2B}.Lab()
	for b.Loop() {
		book.Nearest(target, ink.Coated, 5)
	}
}

func FuzzReadCSV(f *testing.F) {
	f.Add(header + "A,n,c,1,2,3,4,5,6\n")
	f.Fuzz(func(t *testing.T, s string) {
		defer hostile.Timely(t, len(s))()
		_, _ = ink.ReadCSV("x", strings.NewReader(s))
	})
}

func TestTintsOfAnInkRunFromPaperToSolid(t *testing.T) {
	k, ok := ink.Quern().Find("qn 0007")
	require.True(t, ok)
	assert.Equal(t, color.Lab{L: 100}, k.Tint(ink.Coated, 0))
	assert.Equal(t, k.Coated, k.Tint(ink.Coated, 100))
	half := k.Tint(ink.Uncoated, 50)
	assert.InDelta(t, (100+k.Uncoated.L)/2, half.L, 1e-9)
	assert.InDelta(t, k.Uncoated.A/2, half.A, 1e-9)
}

// A name that says another color than the ink's misleads whoever reads it over the phone.
func TestInkNamesFitTheirHue(t *testing.T) {
	hues := map[string][2]float64{"Russet": {42, 75}, "Umber": {42, 75}, "Fern": {135, 172}, "Moss": {105, 135}, "Gorse": {75, 105}, "Poppy": {12, 42},
		"Heather": {290, 335}, "Larkspur": {255, 290}, "Islet": {215, 255}, "Spruce": {172, 215}}
	found := 0
	names := map[string]bool{}
	for _, k := range ink.Quern().Inks {
		assert.False(t, names[k.Name], "%s stands twice", k.Name)
		names[k.Name] = true
		first, _, _ := strings.Cut(k.Name, " ")
		if span, ok := hues[first]; ok {
			found++
			h := k.Coated.LCh().H
			assert.True(t, h >= span[0]-0.5 && h <= span[1]+0.5, "%s %s has a hue of %.0f", k.Code, k.Name, h)
		}
		if first == "Cinder" || first == "Flint" {
			assert.Less(t, k.Coated.LCh().C, 7.1, k.Name)
		}
	}
	assert.Greater(t, found, 150)
}

// A pastel, a metallic or a fluorescent ink is not taken for a color because it is near; it is shown beside, with its class.
func TestTheNearestInkIsASolidOne(t *testing.T) {
	book, other := ink.Quern(), 0
	for r := 0; r < 256; r += 36 {
		for g := 0; g < 256; g += 36 {
			for b := 0; b < 256; b += 36 {
				lab := color.RGB8{R: uint8(r), G: uint8(g), B: uint8(b)}.Lab()
				faced := book.Faced(lab, ink.Coated, 3)
				for _, m := range faced[:3] {
					assert.Equal(t, ink.Solid, m.Ink.Class)
				}
				if len(faced) > 3 {
					other++
					assert.NotEqual(t, ink.Solid, faced[3].Ink.Class)
					assert.Less(t, faced[3].DeltaE, faced[0].DeltaE)
				}
			}
		}
	}
	assert.Positive(t, other)
	pastels, err := book.Taking([]string{"Pastel", "solid"})
	require.NoError(t, err)
	assert.Equal(t, []string{"pastel", "solid"}, pastels.Meant().Classes())
	for _, classes := range [][]string{nil, {"glitter"}} {
		all, err := book.Taking(classes)
		require.NoError(t, err)
		assert.Len(t, all.Meant().Classes(), 4, "a book without those classes is meant whole")
	}
}
