package demo_test

import (
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"huekeep/core/color"
	"huekeep/core/gather"
	"huekeep/demo"
)

func TestThePicturesShowTheColorsThatTheyList(t *testing.T) {
	for _, p := range demo.Pictures() {
		found, err := gather.Read(p.Name, p.Data)
		require.NoError(t, err)
		require.Len(t, found.Colors, len(p.Colors), p.Name)
		for i, c := range found.Colors {
			want, err := color.FromHex(p.Colors[i])
			require.NoError(t, err)
			assert.LessOrEqual(t, color.DeltaE00(c.RGB.Lab(), want.Lab()), 1.0, "%s: %s instead of %s", p.Name, c.RGB.Hex(), p.Colors[i])
		}
	}
}
