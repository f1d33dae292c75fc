package main

import (
	"encoding/json"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"
)

func TestConvertSaysWhatWasGiven(t *testing.T) {
	for given, want := range map[string]masterJSON{
		"#0e3a53":                       {"screen", "#0E3A53"},
		"oklch(0.7 0.3 144)":            {"screen", "oklch(0.7 0.3 144)"},
		"53/68/0/0":                     {"build", "cmyk(53 68 0 0) on newsprint"},
		"qn 0132":                       {"ink", "QN-0132 on coated"},
		"color(display-p3 0.1 0.9 0.3)": {"screen", "color(display-p3 0.1 0.9 0.3)"},
	} {
		out, errs, code := huekeep(t, "convert", given, "--press", "newsprint", "--json")
		require.Zero(t, code, errs)
		var v convertJSON
		require.NoError(t, json.Unmarshal([]byte(out), &v))
		assert.Equal(t, want, v.Master, given)
	}
}
