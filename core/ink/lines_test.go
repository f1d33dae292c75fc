package ink_test

import (
	"errors"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"huekeep/core/color"
	"huekeep/core/ink"
)

func TestInksOnLines(t *testing.T) {
	for text, want := range map[string]struct {
		name, code string
		stock      ink.Stock
		note       string
		understood bool
	}{
		"Deep Sound QN-0453":              {"Deep Sound", "QN-0453", ink.Coated, "", true},
		"qn 453 Deep Sound":               {"Deep Sound", "QN-0453", ink.Coated, "", true},
		"Deep Sound QN-0453 C":            {"Deep Sound", "QN-0453", ink.Coated, "", true},
		"Deep Sound QN 0453U":             {"Deep Sound", "QN-0453", ink.Uncoated, "", true},
		"Deep Sound QN-0453 on uncoated":  {"Deep Sound", "QN-0453", ink.Uncoated, "", true},
		"QN-0453 (uncoated paper) Sea":    {"Sea", "QN-0453", ink.Uncoated, "", true},
		"Buoy #E2572B QN-0076":            {"Buoy", "QN-0076", ink.Coated, "", true},
		"Cello 0 77 92 6 QN-0076":         {"Cello", "QN-0076", ink.Coated, "", true},
		"Deep Sound #0E3A53":              {"Deep Sound", "", "", "", true},
		"Deep Sound QN-9999":              {"", "", "", "", false},
		"Two QN-0453 and QN-0076":         {"", "QN-0453", ink.Coated, "", false},
		"Sea 0453 14 58 83 12 13 QN-0453": {"", "QN-0453", ink.Coated, "", false},
	} {
		lines := color.ReadList(text)
		require.Len(t, lines, 1, text)
		m := ink.Quern().Mark(lines[0])
		understood := m.Err == nil || errors.Is(m.Err, color.ErrInkOnly)
		assert.Equal(t, want.understood, understood, "%s: %v", text, m.Err)
		assert.Equal(t, [2]string{want.code, string(want.stock)}, [2]string{m.Ink.Code, string(m.Stock)}, text)
		if want.understood {
			assert.Equal(t, [2]string{want.name, want.note}, [2]string{m.Name, m.Note}, text)
		}
	}
}
