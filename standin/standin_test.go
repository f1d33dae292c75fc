package standin_test

import (
	"fmt"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"huekeep/core/color"
	"huekeep/core/library"
	"huekeep/core/swatchfile"
	"huekeep/outside"
	"huekeep/standin"
)

func edition(n int) library.Edition {
	e := library.Edition{House: "A & B", Set: "Core", Number: 3}
	for i := range n {
		e.Colors = append(e.Colors, library.Color{ID: int64(i + 1), Name: fmt.Sprintf("Sea %d", i+1), RGB: color.RGB8{R: uint8(1 + 11*i), G: uint8(200 - 9*i), B: uint8(40 + 7*i)},
			Spots: []library.Spot{{Stock: "coated", Code: fmt.Sprintf("QN %d", i)}}})
	}
	return e
}

// Each kind of application opens what is packed for its kind, and has the colors then.
func TestApplicationsTakeWhatIsPackedForThem(t *testing.T) {
	apps := standin.Applications()
	e := edition(6)
	for kind, uses := range map[string][]swatchfile.Use{"office": {swatchfile.Office}, "video": {swatchfile.Video}, "web": {swatchfile.Web}, "print": {swatchfile.Print}, "client": {swatchfile.Client}} {
		for _, p := range swatchfile.Packings() {
			if p.For != uses[0] {
				continue
			}
			t.Run(kind+" "+p.Name, func(t *testing.T) {
				data, err := p.Pack(e)
				require.NoError(t, err)
				file := p.FileName(e)
				r, err := apps[kind].Receive(file, data)
				require.NoError(t, err)
				has := map[string]bool{}
				for _, c := range r.Colors {
					has[c.Hex], has[c.Slot] = true, true
				}
				for _, c := range e.Colors {
					if p.Name == "print-pdf" {
						assert.True(t, has[c.Spots[0].Code], c.Spots[0].Code)
						continue
					}
					assert.True(t, has[c.RGB.Hex()], c.Name)
				}
				for _, broken := range [][]byte{nil, []byte("hello"), {0x50, 0x4b, 3, 4}} {
					_, err := apps[kind].Receive(file, broken)
					assert.ErrorContains(t, err, file, "a sentence that names the file")
				}
			})
		}
	}
}

func TestOfficeTakesTheTwelveSlots(t *testing.T) {
	for _, write := range []struct {
		file string
		pack func(library.Edition) ([]byte, error)
	}{{"x.pptx", swatchfile.WriteDeck}, {"x.xlsx", swatchfile.WriteBook}, {"x.dotx", swatchfile.WriteDocumentTemplate}, {"x.theme.xml", swatchfile.WriteThemePart}} {
		data, err := write.pack(edition(2))
		require.NoError(t, err)
		r, err := standin.Applications()["office"].Receive(write.file, data)
		require.NoError(t, err)
		assert.Equal(t, "A & B, Core", r.Title, "each edition takes the place of the one before")
		require.Len(t, r.Colors, 12)
		assert.Equal(t, "dk1", r.Colors[0].Slot)
	}
	_, err := standin.Applications()["office"].Receive("x.css", nil)
	assert.ErrorContains(t, err, "it cannot take x.css; it takes .pptx")
}

// Sixteen boxes are sixteen, and what does not fit is said.
func TestAVideoApplicationHasSixteenBoxes(t *testing.T) {
	for n, left := range map[int]int{16: 0, 20: 4} {
		data, err := swatchfile.WriteVideoCSV(edition(n))
		require.NoError(t, err)
		r, err := standin.Applications()["video"].Receive("x.video.csv", data)
		require.NoError(t, err)
		assert.Len(t, r.Colors, 16)
		assert.Equal(t, "box 1", r.Colors[0].Slot)
		if left > 0 {
			assert.Equal(t, "It has 16 boxes; 4 of 20 colors did not fit.", r.Note)
		} else {
			assert.Empty(t, r.Note)
		}
	}
}

func TestWebTakesThePropertiesOfRoot(t *testing.T) {
	data, err := swatchfile.WriteCSS(edition(2))
	require.NoError(t, err)
	r, err := standin.Applications()["web"].Receive("x.css", data)
	require.NoError(t, err)
	assert.Equal(t, "A & B, Core, edition 3", r.Title)
	assert.Equal(t, []outside.Taken{{Slot: "--sea-1", Hex: "#01C828"}, {Slot: "--sea-2", Hex: "#0CBF2F"}}, r.Colors)
	for _, broken := range []string{"", "a{color:red}", ":root { --x: blue; }"} {
		_, err := standin.Applications()["web"].Receive("x.css", []byte(broken))
		assert.Error(t, err)
	}
}
