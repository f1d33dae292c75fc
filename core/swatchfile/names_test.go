package swatchfile_test

import (
	"bytes"
	"encoding/csv"
	"encoding/json"
	"encoding/xml"
	"errors"
	"io"
	"os"
	"strings"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"huekeep/core/color"
	"huekeep/core/hostile"
	"huekeep/core/library"
	"huekeep/core/swatchfile"
)

// Whatever a color is called, and whatever the set and the house are, what is written is what its format is.
func FuzzNamesInPackings(f *testing.F) {
	for _, n := range []string{"Deep Sound", `"a" & <b> 'c'`, "-->", "*/ }", "{\\b1}", "=1+1", "]]>", "a,b;c\td", "1", "$x", "é\u0301", "\x00\x01", "כחול", "${x}", "`"} {
		f.Add(n, "Core", "House")
	}
	f.Fuzz(func(t *testing.T, name, set, house string) {
		defer hostile.Timely(t, len(house))()
		if len(name) > 300 || len(set) > 300 || len(house) > 300 {
			return
		}
		e := library.Edition{House: house, Set: set, Number: 1, Note: name, Colors: []library.Color{{ID: 1, Name: name, Rule: set}, {ID: 2, Name: name + " ", RGB: color.RGB8{R: 200}}}}
		for _, p := range swatchfile.Packings() {
			switch last := p.Extension[strings.LastIndex(p.Extension, ".")+1:]; {
			case last == "json":
				data, err := p.Pack(e)
				require.NoError(t, err)
				require.True(t, json.Valid(data), "%s: %s", p.Name, data)
			case last == "xml" || last == "soc" || last == "svg" || last == "ttml" || last == "mlt" || last == "cxf":
				data, err := p.Pack(e)
				require.NoError(t, err)
				d := xml.NewDecoder(bytes.NewReader(data))
				for {
					_, err := d.Token()
					if errors.Is(err, io.EOF) {
						break
					}
					require.NoError(t, err, "%s: %s", p.Name, data)
				}
			case p.Name == "video-csv" || p.Name == "csv":
				data, err := p.Pack(e)
				require.NoError(t, err)
				rows, err := csv.NewReader(bytes.NewReader(bytes.TrimPrefix(data, []byte("\xef\xbb\xbf")))).ReadAll()
				require.NoError(t, err, "%s: %s", p.Name, data)
				assert.Len(t, rows, 3)
			case last == "css":
				data, err := p.Pack(e)
				require.NoError(t, err)
				assert.Equal(t, bytes.Count(data, []byte("/*")), bytes.Count(data, []byte("*/")), "%s", data)
			case last == "vtt":
				data, err := p.Pack(e)
				require.NoError(t, err)
				assert.Equal(t, 2, bytes.Count(data, []byte("-->")), "%s", data)
			}
			require.NotContains(t, p.FileName(e), "/")
		}
	})
}

// The documents list what there is.
func TestEveryPackingIsDocumented(t *testing.T) {
	text, err := os.ReadFile("../../docs/formats.md")
	require.NoError(t, err)
	for _, p := range swatchfile.Packings() {
		assert.True(t, strings.Contains(string(text), "`"+p.Name+"`") && strings.Contains(string(text), p.Extension), "docs/formats.md has no row of %s with %s", p.Name, p.Extension)
	}
}

func TestWhatAFormatLosesIsSaidInOneLine(t *testing.T) {
	e := edition(t)
	e.Colors[0].Name, e.Colors[1].Name = "1st 🚢", "1st 🚢"
	e.Boxes = library.Boxes{Count: 2}
	said := map[string]string{}
	for _, p := range swatchfile.Packings() {
		said[p.Name] = p.LeavesOut(e)
		assert.Equal(t, said[p.Name] == "", len(p.Loses(e)) == 0)
	}
	for name, part := range map[string]string{"deck": "CMYK builds", "odf-text": "links to a theme", "odf-deck": "some names", "ass": "some names", "scss": "some names", "ts": "some names", "video-csv": "colors beyond the boxes", "sheet-pdf": "some letters",
		"key-in-pdf": "colors beyond the boxes", "card-1080": "spot inks"} {
		assert.Contains(t, said[name], part, name)
	}
	assert.Empty(t, said["json"], "which carries everything")
	boxes, err := swatchfile.InBoxes(e)
	require.NoError(t, err)
	assert.Len(t, boxes, 2)
}

func TestSlotsByHandStay(t *testing.T) {
	e := edition(t)
	find := func(name string) library.Ref {
		for _, c := range e.Colors {
			if c.Name == name {
				return c.Ref()
			}
		}
		panic(name)
	}
	given := []library.Assigned{{Slot: "accent3", Color: find("Deep Sound")}, {Slot: "hlink", Color: find("Deep Sound")}}
	require.NoError(t, swatchfile.CheckSlots(e.Colors, given))
	slots := swatchfile.ThemeSlots(e.Colors, given...)
	assert.Equal(t, "accent3 Deep Sound true", slots[6].Name+" "+slots[6].Color.Name+" "+map[bool]string{true: "true"}[slots[6].Given])
	assert.Equal(t, "Deep Sound", slots[10].Color.Name)
	assert.NotEqual(t, "Deep Sound", slots[2].Color.Name, "a color that was given away is not taken again")
	seen := map[string]bool{}
	for _, s := range slots[4:10] {
		assert.False(t, seen[s.Color.RGB.Hex()], "%s repeats", s.Name)
		seen[s.Color.RGB.Hex()] = true
	}
	// A light text by hand turns the ground around.
	slots = swatchfile.ThemeSlots(e.Colors, library.Assigned{Slot: "dk1", Color: find("Hull White")})
	assert.Equal(t, "Black", slots[1].Color.Name)
	for says, bad := range map[string][]library.Assigned{
		"no slot":     {{Slot: "accent9", Color: find("Lamp")}},
		"given twice": {{Slot: "dk2", Color: find("Lamp")}, {Slot: "dk2", Color: find("Lamp")}},
		"not in":      {{Slot: "dk2", Color: library.Ref{Name: "Nobody"}}},
		"needs 7:1":   {{Slot: "dk2", Color: find("Lamp")}},
		"needs 4.5:1": {{Slot: "folHlink", Color: find("Ice Ramp")}},
	} {
		assert.ErrorContains(t, swatchfile.CheckSlots(e.Colors, bad), says)
	}
}
