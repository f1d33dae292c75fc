package repaint_test

import (
	"strings"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"huekeep/core/color"
	"huekeep/core/library"
	"huekeep/core/repaint"
)

func mapColors() []library.Color {
	of := func(id int64, name, hex string, s library.Status) library.Color {
		rgb, err := color.FromHex(hex)
		if err != nil {
			panic(err)
		}
		return library.Color{ID: id, Name: name, RGB: rgb, Status: s}
	}
	return []library.Color{of(1, "Buoy", "#E2572B", library.Approved), of(2, "Harbor Teal", "#1D6F6A", library.Approved), of(3, "Old Funnel", "#D9482B", library.Retired),
		of(4, "Sea to Shore", "#0E3A53", library.Approved), of(5, "Maybe", "#112233", library.Draft)}
}

func TestAMapOfOldToNewIsReadAsItIsWritten(t *testing.T) {
	for line, wanted := range map[string]string{
		"#d9482b → Buoy":                         "#D9482B Buoy",
		"#D9482B -> buoy":                        "#D9482B Buoy",
		"#D9482B\tBuoy":                          "#D9482B Buoy",
		"Old Funnel to Buoy":                     "#D9482B Buoy",
		"old funnel becomes Sea to Shore":        "#D9482B Sea to Shore",
		"Sea to Shore to Buoy":                   "#0E3A53 Buoy",
		"“Old Funnel” = \"Harbor Teal\"":         "#D9482B Harbor Teal",
		"#D9482B #E2572B":                        "#D9482B Buoy",
		"#D9482B, #E2572B":                       "#D9482B Buoy",
		"D9482B Harbor Teal":                     "#D9482B Harbor Teal",
		"rgb(217, 72, 43), Buoy":                 "#D9482B Buoy",
		"217, 72, 43 → 29 111 106":               "#D9482B Harbor Teal",
		"C0 M78 Y94 K5 → Buoy":                   "0 78 94 5 Buoy",
		"Funnel red #D9482B → Buoy #E2572B":      "#D9482B Buoy",
		"color(display-p3 1 0.2 0.1) → Buoy":     "color(display-p3 1 0.2 0.1) Buoy",
		"#D9482B → Buoy #E1572B":                 "! Buoy is #E2572B in the library, not #E1572B",
		"#D9482B → #E1572B":                      "! the library has no color #E1572B",
		"#D9482B → Nowhere":                      `! the library has no color "Nowhere"`,
		"Nowhere → Buoy":                         `! "Nowhere" is no value, and no color of the library`,
		"#D9482B → Old Funnel":                   "! Old Funnel is retired",
		"#123456 → Maybe":                        "! Maybe is proposed only",
		"#E2572B → Buoy":                         "! Buoy is #E2572B already",
		"#D9482B →":                              "! what it becomes is missing",
		"→ Buoy":                                 "! the old value is missing",
		"#D9482B":                                "! it does not say what becomes of what",
		"Old\tNew":                               `! "Old" is no value`,
		"10":                                     "! it does not say",
		"7 Buoy":                                 "! it does not say",
		"a → b → c":                              `! "a" is no value`,
		strings.Repeat("x", 5000):                "! it is too long",
		strings.Repeat("x", 90) + " → " + "Buoy": "…",
	} {
		list := repaint.ReadPairs(line, mapColors())
		require.Len(t, list, 1, line)
		p := list[0]
		if why, wrong := strings.CutPrefix(wanted, "! "); wrong || wanted == "…" {
			assert.Contains(t, p.Why, why, line)
			assert.Empty(t, p.Step, line)
			continue
		}
		assert.Empty(t, p.Why, line)
		assert.Equal(t, wanted, p.From+" "+p.To, line)
	}
	list := repaint.ReadPairs("\ufeffold; new\r\n\r\n#D9482B;Buoy\n#d9482b;Buoy\nOld Funnel;Harbor Teal\n", mapColors())
	require.Len(t, list, 4)
	assert.Equal(t, []int{1, 3, 4, 5}, []int{list[0].Line, list[1].Line, list[2].Line, list[3].Line})
	assert.Equal(t, repaint.Step{From: "#D9482B", To: "Buoy"}, list[1].Step)
	assert.Equal(t, "line 3 says so already", list[2].Why)
	assert.Equal(t, "line 3 says that #D9482B becomes Buoy", list[3].Why)
}

func FuzzReadPairs(f *testing.F) {
	f.Add("#d9482b → Buoy\nOld Funnel, Harbor Teal")
	f.Fuzz(func(t *testing.T, text string) {
		seen := map[string]bool{}
		for _, p := range repaint.ReadPairs(text, mapColors()) {
			if p.Why == "" {
				assert.NotEmpty(t, p.From)
				assert.False(t, seen[p.From])
				seen[p.From] = true
				assert.Contains(t, []string{"Buoy", "Harbor Teal", "Sea to Shore"}, p.To)
			} else {
				assert.Empty(t, p.Step)
			}
		}
	})
}

func TestTwoSetsArePairedByPosition(t *testing.T) {
	c := mapColors()
	old := c[2]
	old.Builds = []library.Build{{Value: color.CMYK{M: 85, Y: 90, K: 5}}}
	list := repaint.ByPosition([]library.Color{old, c[1], c[0], old}, []library.Color{c[0], c[1], c[2]})
	said := []string{}
	for _, p := range list {
		said = append(said, strings.TrimSpace(p.From+" "+p.To+" "+p.Why))
	}
	assert.Equal(t, []string{"#D9482B Buoy", old.Builds[0].Value.String() + " Buoy", "it stays as it is", "Old Funnel is retired; nothing becomes it", "the new set has no color at this place"}, said)
}
