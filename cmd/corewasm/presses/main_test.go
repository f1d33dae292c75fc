package main

import (
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"huekeep/core/color"
	"huekeep/core/press"
)

func TestLeanProfilesMakeTheSameBuilds(t *testing.T) {
	for _, s := range press.Shipped {
		whole, err := press.Get(s.Name)
		require.NoError(t, err)
		lean := lean(whole.Profile())
		assert.Less(t, len(lean), len(whole.Profile())/2)
		c, err := press.New(s.Name, s.Label, s.InkLimit, lean)
		require.NoError(t, err)
		assert.Equal(t, whole.Description(), c.Description())
		for _, v := range []color.RGB8{{}, {R: 0xE2, G: 0x57, B: 0x2B}, {G: 255}, {R: 200, G: 210, B: 220}} {
			assert.Equal(t, whole.Build(v.Lab()), c.Build(v.Lab()))
		}
	}
}
