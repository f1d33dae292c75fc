package manual_test

import (
	"encoding/json"
	"os"
	"path/filepath"
	"strings"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"huekeep/core/gather"
	"huekeep/core/ink"
	"huekeep/core/press"
)

// written is what a manual is known to say of a color; testdata/make.py made the manuals by other programs.
type written struct {
	Name, Hex, RGB, CMYK, Spot string
	Page                       int
	Disagree                   []string // what of it is another color than the rest
}

func manuals(t *testing.T) (all map[string][]written) {
	t.Helper()
	data, err := os.ReadFile("testdata/expected.json")
	require.NoError(t, err)
	require.NoError(t, json.Unmarshal(data, &all))
	return all
}

// numbers are those of a value, however they are parted.
func numbers(text string) string {
	return strings.Join(strings.FieldsFunc(text, func(r rune) bool { return r < '0' || r > '9' }), " ")
}

// Manuals in twelve layouts, by five programs: every name has its values, page and swatch, and what contradicts is said and nothing else.
func TestManuals(t *testing.T) {
	for file, colors := range manuals(t) {
		t.Run(file, func(t *testing.T) {
			data, err := os.ReadFile(filepath.Join("testdata", file))
			require.NoError(t, err)
			found, err := gather.Read(file, data)
			require.NoError(t, err)
			var got []gather.Candidate
			for _, c := range found.Colors {
				if c.Written != nil {
					got = append(got, c)
				}
			}
			require.Len(t, got, len(colors))
			for i, want := range colors {
				c := got[i]
				require.Equal(t, want.Name, c.Name)
				said := map[string]string{}
				for _, g := range c.Written.Given {
					said[g.Kind] = g.Text
				}
				assert.Equal(t, want.Hex, "#"+strings.ToUpper(strings.TrimPrefix(said["hex"], "#")), want.Name)
				assert.Equal(t, want.RGB, numbers(said["rgb"]), want.Name)
				assert.Equal(t, want.CMYK, numbers(said["cmyk"]), want.Name)
				assert.Equal(t, want.Spot, said["spot"], want.Name)
				assert.Equal(t, want.Page, c.Written.Page, want.Name)
				var kinds []string
				for _, d := range append(c.Written.Disagree, c.Printed(press.Coated(), ink.Quern())...) {
					kinds = append(kinds, map[string]string{"screen": "rgb"}[d.Kind]+map[string]string{"painted": "painted", "page": "page", "cmyk": "cmyk", "ink": "ink"}[d.Kind])
				}
				assert.Equal(t, want.Disagree, append([]string{}, kinds...), "%s: %v", want.Name, c.Written.Disagree)
				if at := c.Written.At; found.Of > 0 {
					assert.True(t, 0 <= at[0] && at[0] < at[2] && at[2] <= 1 && 0 <= at[1] && at[1] < at[3] && at[3] <= 1, "%s lies at %v", want.Name, at)
				}
			}
		})
	}
}
