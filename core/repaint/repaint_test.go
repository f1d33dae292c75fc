package repaint_test

import (
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"huekeep/core/audit"
	"huekeep/core/repaint"
)

// linked repaints a text with references wanted.
func linked(t *testing.T, name, text string) string {
	t.Helper()
	rules := audit.Rules{Colors: brand, Neutrals: true}
	scan, err := audit.Read(name, []byte(text))
	require.NoError(t, err)
	plan := repaint.Usual(audit.NewJudge(rules).Judge(name, scan))
	plan.Link = true
	r, err := repaint.File(name, []byte(text), rules, plan, audit.Options{})
	require.NoError(t, err)
	assert.Empty(t, r.Left)
	return string(r.Data)
}

// With links wanted, a place points to what defines the color, so that the next change is one change.
func TestPlacesPointToWhatDefinesTheColor(t *testing.T) {
	for name, c := range map[string]struct{ file, text, want string }{
		"a variable of the sheet": {"x.css", ":root{--buoy:#E2572B}.a{color:#E1572C}", ":root{--buoy:#E2572B}.a{color:var(--buoy)}"},
		"one that drifted itself": {"x.css", ":root{--buoy:#E1572C}.a{color:#E1572C}", ":root{--buoy:#E2572B}.a{color:var(--buoy)}"},
		"of another color":        {"x.css", ":root{--deep:#0E3A53}.a{color:#E1572C}", ":root{--deep:#0E3A53}.a{color:#E2572B}"},
		"defined twice":           {"x.css", ":root{--buoy:#E2572B}.x{--buoy:#0E3A53}.a{color:#E1572C}", ":root{--buoy:#E2572B}.x{--buoy:#0E3A53}.a{color:#E2572B}"},
		"a variable of SCSS":      {"x.scss", "$buoy: #E2572B;\n.a{color:#E1572C}", "$buoy: #E2572B;\n.a{color:$buoy}"},
		"a token before":          {"x.json", `{"brand":{"buoy":{"$type":"color","$value":"#E2572B"}},"button":{"$type":"color","$value":"#E1572C"}}`, `{"brand":{"buoy":{"$type":"color","$value":"#E2572B"}},"button":{"$type":"color","$value":"{brand.buoy}"}}`},
		"the first of two":        {"x.json", `{"a":{"$type":"color","$value":"#E1572C"},"b":{"$type":"color","$value":"#E1572C"}}`, `{"a":{"$type":"color","$value":"#E2572B"},"b":{"$type":"color","$value":"{a}"}}`},
		"a token with alpha":      {"x.json", `{"a":{"$type":"color","$value":"#E2572B"},"b":{"$type":"color","$value":"#E1572C80"}}`, `{"a":{"$type":"color","$value":"#E2572B"},"b":{"$type":"color","$value":"#E2572B80"}}`},
		"a color in a shadow":     {"x.json", `{"a":{"$type":"color","$value":"#E2572B"},"s":{"$type":"shadow","$value":{"color":"#E1572C","blur":"2px"}}}`, `{"a":{"$type":"color","$value":"#E2572B"},"s":{"$type":"shadow","$value":{"color":"{a}","blur":"2px"}}}`},
	} {
		t.Run(name, func(t *testing.T) { assert.Equal(t, c.want, linked(t, c.file, c.text)) })
	}
}
