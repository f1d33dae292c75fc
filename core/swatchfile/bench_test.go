package swatchfile_test

import (
	"fmt"
	"testing"
	"time"

	"github.com/stretchr/testify/require"

	"huekeep/core/color"
	"huekeep/core/ink"
	"huekeep/core/library"
	"huekeep/core/press"
	"huekeep/core/swatchfile"
)

// sixty is an edition as the house fixes one: a build for every press and an ink for each color.
func sixty(b testing.TB) library.Edition {
	e := library.Edition{House: "Large", Set: "All", Number: 1}
	for _, s := range press.Shipped {
		c, err := press.Get(s.Name)
		require.NoError(b, err)
		e.Profiles = append(e.Profiles, library.Profile{Press: s.Name, Label: s.Label, InkLimit: s.InkLimit, Name: c.Identity().Name, SHA256: c.Identity().SHA256})
	}
	inks := ink.Quern().Nearest(color.Lab{L: 50}, ink.Coated, 60)
	for i := range 60 {
		c := library.Color{ID: int64(i + 1), Name: fmt.Sprintf("Color %d", i), RGB: color.RGB8{R: uint8(i * 4), G: uint8(i * 37), B: uint8(255 - i*3)}, Status: library.Approved}
		for _, s := range press.Shipped {
			p, err := press.Get(s.Name)
			require.NoError(b, err)
			c.Builds = append(c.Builds, library.Build{Press: s.Name, Value: p.Build(c.RGB.Lab()).Whole, Origin: library.Derived})
		}
		lab := inks[i].Ink.Lab(ink.Coated)
		c.Spots = []library.Spot{{Stock: "coated", Code: inks[i].Ink.Code, Lab: &lab, Origin: library.Derived}}
		e.Colors = append(e.Colors, c)
	}
	return e
}

// BenchmarkPackings packs sixty colors in every form, one after the other, and says how long all of them take; under a second is wanted.
func BenchmarkPackings(b *testing.B) {
	e := sixty(b)
	all := time.Duration(0)
	for _, p := range swatchfile.Packings() {
		if p.Name == "kit" {
			continue // it is made of the others
		}
		b.Run(p.Name, func(b *testing.B) {
			for b.Loop() {
				_, err := p.Pack(e)
				require.NoError(b, err)
			}
			all += b.Elapsed() / time.Duration(b.N)
		})
	}
	b.Logf("all packings of 60 colors: %v", all.Round(time.Millisecond))
}
