package audit_test

import (
	"testing"

	"github.com/stretchr/testify/assert"

	"huekeep/core/audit"
)

// A verdict is told from the others by its word and by its shape, in a report as in a bar.
func TestNoTwoVerdictsLookAlike(t *testing.T) {
	shapes, tiles := map[string]audit.Verdict{}, map[string]audit.Verdict{}
	for _, s := range audit.Sorts() {
		assert.NotEmpty(t, s.Means, s.Word)
		assert.Contains(t, []string{"none", "note", "warning", "error"}, s.Level, s.Word)
		assert.Empty(t, shapes[s.Shape.Fill+s.Shape.Line], s.Word)
		assert.Empty(t, tiles[s.Shape.Tile], s.Word)
		shapes[s.Shape.Fill+s.Shape.Line], tiles[s.Shape.Tile] = s.Word, s.Word
		assert.Equal(t, s.Fine, s.Word.Fine())
		assert.False(t, s.Fine && !s.Known, "%s is good in a score that does not know it", s.Word)
	}
	assert.Equal(t, audit.Sort{Word: "lost"}, audit.Verdict("lost").Sort())
}

// What a verdict counts as, in scores and builds, is what people were told of it.
func TestWhatVerdictsCountAs(t *testing.T) {
	type row struct {
		fine, known bool
		level       string
	}
	got := map[audit.Verdict]row{}
	for _, s := range audit.Sorts() {
		got[s.Word] = row{s.Fine, s.Known, s.Level}
	}
	assert.Equal(t, map[audit.Verdict]row{"drifted": {false, true, "warning"}, "retired": {false, true, "error"}, "off-brand": {false, true, "error"},
		"unjudged": {false, false, "note"}, "excused": {true, true, "note"}, "on-brand": {true, true, "none"}}, got)
}
