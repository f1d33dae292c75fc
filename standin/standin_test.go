package standin_test

import (
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"huekeep/core/color"
	"huekeep/core/library"
	"huekeep/core/swatchfile"
	"huekeep/standin"
)

func edition() library.Edition {
	return library.Edition{House: "A & B", Set: "Core", Number: 3, Colors: []library.Color{
		{Name: "Sea", RGB: color.RGB8{R: 1, G: 2, B: 200}}, {Name: "Sand", Role: "neutral", RGB: color.RGB8{R: 250, G: 240, B: 220}}}}
}

func TestOfficeTakesTheTwelveSlots(t *testing.T) {
	data, err := swatchfile.WriteDeck(edition())
	require.NoError(t, err)
	r, err := standin.Office{}.Receive("x.pptx", data)
	require.NoError(t, err)
	assert.Equal(t, "A & B, Core, edition 3", r.Title)
	require.Len(t, r.Colors, 12)
	assert.Equal(t, standin.Taken{Slot: "lt1", Hex: "#FAF0DC"}, r.Colors[1])
	for _, broken := range [][]byte{nil, []byte("hello"), data[:len(data)/2]} {
		_, err := standin.Office{}.Receive("x.pptx", broken)
		assert.ErrorContains(t, err, "x.pptx")
	}
}

func TestWebTakesThePropertiesOfRoot(t *testing.T) {
	data, err := swatchfile.WriteCSS(edition())
	require.NoError(t, err)
	r, err := standin.Web{}.Receive("x.css", data)
	require.NoError(t, err)
	assert.Equal(t, "A & B, Core, edition 3", r.Title)
	assert.Equal(t, []standin.Taken{{Slot: "--sea", Hex: "#0102C8"}, {Slot: "--sand", Hex: "#FAF0DC"}}, r.Colors)
	for _, broken := range []string{"", "a{color:red}", ":root { --x: blue; }"} {
		_, err := standin.Web{}.Receive("x.css", []byte(broken))
		assert.Error(t, err)
	}
}
