package media

import (
	"bytes"
	"image"
	"image/color"
	"image/png"
	"testing"
	"time"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"huekeep/core/press"
	"huekeep/keep"
	"huekeep/reading"
)

// A proof on a press of the house's own, whose profile goes along to the process that makes it, is that of the same press that ships.
func TestAProofOnAPressOfTheHousesOwn(t *testing.T) {
	img := image.NewNRGBA(image.Rect(0, 0, 40, 30))
	for y := range 30 {
		for x := range 40 {
			img.SetNRGBA(x, y, color.NRGBA{R: uint8(6 * x), G: uint8(8 * y), B: 90, A: 255})
		}
	}
	var file bytes.Buffer
	require.NoError(t, png.Encode(&file, img))
	pool := &reading.Pool{Limit: time.Minute, Memory: reading.MemoryPerProcess, Turns: keep.NewTurns(2)}
	defer pool.Close()
	c, err := press.Get("newsprint")
	require.NoError(t, err)
	for form := range ProofForms {
		of := proofOf{ProofOf: ProofOf{Press: "newsprint", Intent: 1, BlackPoint: true, Paper: true, Form: form}, pressOf: pressOf{c.Name, c.Label, c.InkLimit}, File: "a.png"}
		shipped, err := proofTask.Do(t.Context(), pool, 1, "a.png", of, file.Bytes())
		require.NoError(t, err)
		of.pressOf.Name, of.ProofOf.Press, of.Profile = "ours", "ours", c.Profile()
		own, err := proofTask.Do(t.Context(), pool, 1, "a.png", of, file.Bytes())
		require.NoError(t, err)
		assert.True(t, bytes.Equal(shipped, own), form)
		assert.NotEmpty(t, own)
	}
	_, err = proofTask.Do(t.Context(), pool, 1, "a.png", proofOf{File: "a.png", pressOf: pressOf{Name: "newsprint"}}, []byte("no picture"))
	var said reading.Sentence
	require.ErrorAs(t, err, &said)
	assert.Contains(t, err.Error(), "a.png: this is not a PNG")
}
