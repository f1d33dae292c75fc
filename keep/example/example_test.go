package example

import (
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"
)

func TestTheExampleMailsNobody(t *testing.T) {
	h := exampleHouse("An example")
	assert.Equal(t, "An example", h.Name)
	require.NotEmpty(t, h.Recipients)
	for _, r := range h.Recipients {
		assert.Empty(t, r.Email, r.Name)
		assert.NotContains(t, r.Ways, "mail", r.Name)
		assert.NotEmpty(t, r.Ways, r.Name)
	}
}
