package trail

import (
	"strings"
	"testing"
	"time"

	"github.com/stretchr/testify/assert"

	"huekeep/keep"
)

func TestWhatTheTrailSays(t *testing.T) {
	at := time.Date(2026, 11, 26, 12, 0, 0, 0, time.UTC)
	was, is := differences(
		map[string]any{"name": []byte("Buoy"), "hex": "#E2572B", "position": int64(2), "updated_at": at, "version": int64(1), "data": []byte("long")},
		map[string]any{"name": "Buoy", "hex": "#E1572C", "position": int64(2), "updated_at": at.Add(time.Hour), "version": int64(2), "data": []byte("longer"), "ends_at": at})
	assert.Equal(t, map[string]any{"hex": "#E2572B"}, was, "bytes and text are compared as what they say; what follows from the rest is not said")
	assert.Equal(t, map[string]any{"hex": "#E1572C", "ends_at": "2026-11-26T12:00:00Z"}, is)
	was, is = differences(nil, map[string]any{"name": "New", "id": int64(7)})
	assert.Empty(t, was)
	assert.Equal(t, map[string]any{"name": "New"}, is)
	was, is = differences(map[string]any{"name": "Old"}, nil)
	assert.Equal(t, map[string]any{"name": "Old"}, was)
	assert.Empty(t, is)
	assert.Len(t, []rune(plainValue(strings.Repeat("ä", 5000)).(string)), longestSaid)

	assert.Empty(t, keep.TrailState(nil))
	assert.Empty(t, keep.TrailState(map[string]any(nil)))
	assert.JSONEq(t, `{"a":1}`, keep.TrailState(map[string]int{"a": 1}))
	assert.Less(t, len(keep.TrailState(map[string]string{"a": strings.Repeat("ä", 50_000)})), 17<<10)
}
