package library_test

import (
	"testing"

	"github.com/stretchr/testify/assert"

	"huekeep/core/color"
	"huekeep/core/library"
)

func TestCompareSaysWhatBecameOfEachColor(t *testing.T) {
	of := func(id int64, name string, r uint8) library.Color {
		return library.Color{ID: id, Name: name, RGB: color.RGB8{R: r}, Status: library.Approved}
	}
	signed := of(4, "D", 4)
	signed.Builds = []library.Build{{Press: "coated", Value: color.CMYK{K: 90}, Origin: library.Signed, By: library.Person{Name: "Kim"}}}
	derived := of(5, "E", 5)
	derived.Builds = []library.Build{{Press: "coated", Value: color.CMYK{K: 90}, Origin: library.Derived}}
	old := []library.Color{of(1, "A", 10), of(2, "B", 20), of(3, "C", 30), of(4, "D", 4), of(5, "E", 5)}
	now := []library.Color{of(2, "B", 200), of(6, "F", 60), of(1, "Alpha", 10), signed, derived}
	type line struct {
		name, what, before, after string
		far                       bool
	}
	hex := func(c *color.RGB8) string {
		if c == nil {
			return "none"
		}
		return c.Hex()
	}
	var got []line
	for _, d := range library.Compare(old, now) {
		got = append(got, line{d.Name, d.What[0], hex(d.Before), hex(d.After), d.DeltaE > 5})
	}
	assert.Equal(t, []line{
		{"B", "B amended from #140000 to #C80000", "#140000", "#C80000", true},
		{"F", "F added", "none", "#3C0000", false},
		{"Alpha", "A renamed to Alpha", "#0A0000", "#0A0000", false},
		{"D", "D: print values changed", "#040000", "#040000", false},
		{"C", "C removed", "#1E0000", "none", false},
	}, got, "a derived build is no change, and an order is none of a color")
	assert.Empty(t, library.Compare(now, now))
	assert.Empty(t, library.Compare(nil, nil))
	file := []library.Color{{Name: "A", RGB: color.RGB8{R: 1}}, {Name: "B", RGB: color.RGB8{R: 2}}} // without numbers: by name
	assert.Len(t, library.Compare(file, file[:1]), 1)
}

func TestRefsPointByNumberOrByName(t *testing.T) {
	c := library.Color{ID: 7, Name: "Buoy"}
	for r, want := range map[library.Ref]bool{{ID: 7, Name: "Old name"}: true, {ID: 8, Name: "Buoy"}: false, {Name: "Buoy"}: true, {Name: "buoy"}: false, {}: false} {
		assert.Equal(t, want, r.Is(c), "%v", r)
	}
	assert.False(t, library.Ref{}.Is(library.Color{}), "the zero Ref points to none")
}
