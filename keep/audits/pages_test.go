package audits

import (
	"fmt"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"huekeep/core/audit"
	"huekeep/core/color"
)

// TestPagesOfAReport reads a report of 50,000 colors in pages: together they are all of it, in order.
func TestPagesOfAReport(t *testing.T) {
	var r audit.Report
	for i := range 50_000 {
		hex := color.RGB8{R: uint8(i >> 16), G: uint8(i >> 8), B: uint8(i)}.Hex()
		r.Colors = append(r.Colors, audit.Judged{Key: hex, Hex: hex, Count: 1, Places: []audit.Place{{Where: fmt.Sprint("line ", i)}}})
	}
	text, err := writeReport(r)
	require.NoError(t, err)
	var got []string
	for from, most := 0, firstColors; ; most = moreColors {
		k, count, err := readPage(text, from, most)
		require.NoError(t, err)
		require.Equal(t, 50_000, count)
		if len(k.Colors) == 0 {
			break
		}
		for _, c := range k.Colors {
			got = append(got, c.Hex)
		}
		from += len(k.Colors)
	}
	require.Len(t, got, 50_000)
	for i, hex := range got {
		if hex != r.Colors[i].Hex {
			assert.Equal(t, r.Colors[i].Hex, hex, i)
			break
		}
	}
	k, _, err := readPage(text, 70_000, 10)
	require.NoError(t, err)
	assert.Empty(t, k.Colors)
}
