package manual_test

import (
	"encoding/json"
	"fmt"
	"os"
	"testing"

	"github.com/stretchr/testify/require"

	"huekeep/core/ink"
	"huekeep/core/manual"
)

type expected struct {
	Name, Hex, RGB, CMYK, Spot string
	Page                       int
	Disagree                   []string
}

func TestTry(t *testing.T) {
	data, err := os.ReadFile("testdata/expected.json")
	require.NoError(t, err)
	var all map[string][]expected
	require.NoError(t, json.Unmarshal(data, &all))
	for file := range all {
		data, err := os.ReadFile("testdata/" + file)
		require.NoError(t, err)
		m, err := manual.FromPDF(data, nil, ink.Quern())
		require.NoError(t, err)
		fmt.Println("==", file, m.Pages, len(m.Colors), m.Notes)
		for _, c := range m.Colors {
			fmt.Printf("  p%d %-16q", c.Page, c.Name)
			for _, v := range c.Values {
				fmt.Printf(" %s=%q", v.Kind, v.Text)
			}
			if c.Swatch != nil {
				fmt.Printf(" swatch %s", c.Swatch.RGB.Hex())
			}
			fmt.Println("", c.Disagree, c.Also)
		}
	}
}
