package color_test

import (
	"slices"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"huekeep/core/color"
	"huekeep/core/hostile"
)

// flat is a spectrum of one value from a wavelength on.
func flat(start, step, value float64, n int) color.Spectrum {
	return color.Spectrum{Start: start, Step: step, Values: slices.Repeat([]float64{value}, n)}
}

func TestSpectraLookAsTheyReturnLight(t *testing.T) {
	for _, s := range []color.Spectrum{flat(380, 10, 1, 36), flat(400, 20, 1, 15), flat(360, 5, 1, 95), flat(380, 1, 1, 401)} {
		lab, err := s.Lab()
		require.NoError(t, err)
		assert.InDelta(t, 0, color.DeltaE00(color.Lab{L: 100}, lab), 1e-9, "what returns all is white, %v nm", s.Step)
		gray := s
		gray.Values = slices.Repeat([]float64{0.184187}, len(s.Values))
		lab, err = gray.Lab()
		require.NoError(t, err)
		assert.InDelta(t, 0, color.DeltaE00(color.Lab{L: 50}, lab), 0.001)
	}
	step := flat(380, 10, 0.03, 41) // an edge at 580 nm: a red
	for i := 20; i < 41; i++ {
		step.Values[i] = 0.8
	}
	lab, err := step.Lab()
	require.NoError(t, err)
	assert.True(t, lab.A > 40 && lab.B > 40, "%v", lab)
	for wrong, s := range map[string]color.Spectrum{"does not reach from 400 to 680": flat(420, 10, 0.5, 31), "a reflectance of 5 is none": flat(380, 10, 5, 36),
		"no wavelengths": flat(380, 0, 0.5, 36), "spectrum has no": {}} {
		_, err := s.Lab()
		assert.ErrorContains(t, err, wrong)
	}
}

// Of a spectrum with a value each nanometer those at every ten are kept, which look the same.
func TestSpectraAreKeptInALine(t *testing.T) {
	fine := flat(380, 1, 0, 351)
	for i := range fine.Values {
		fine.Values[i] = 0.1 + 0.8*float64(i)/350
	}
	kept, thinned := fine.Kept()
	assert.True(t, thinned)
	assert.Equal(t, []float64{380, 10, 36}, []float64{kept.Start, kept.Step, float64(len(kept.Values))})
	was, err := fine.Lab()
	require.NoError(t, err)
	is, err := kept.Lab()
	require.NoError(t, err)
	assert.Less(t, color.DeltaE00(was, is), 0.1)
	same, thinned := flat(400, 10, 0.123456, 31).Kept()
	assert.False(t, thinned)
	assert.Equal(t, 0.1235, same.Values[30])
	back, err := color.ParseSpectrum(same.String())
	require.NoError(t, err)
	assert.Equal(t, same, back)
	assert.Equal(t, 700.0, back.End())
}

// FuzzParseSpectrum holds that what is read is written and read again the same.
func FuzzParseSpectrum(f *testing.F) {
	f.Add("400 10 0.05 0.0612")
	f.Add("400 -1 1e9 NaN")
	f.Fuzz(func(t *testing.T, text string) {
		defer hostile.Timely(t, len(text))()
		s, err := color.ParseSpectrum(text)
		if err != nil {
			return
		}
		kept, _ := s.Kept()
		again, err := color.ParseSpectrum(kept.String())
		require.NoError(t, err)
		require.Equal(t, kept.String(), again.String())
		_, _ = kept.Lab()
	})
}
