package store

import (
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"huekeep/core/hostile"
)

func TestRowsOfADump(t *testing.T) {
	row, err := dumpedRow([]byte(`["a",null,{"base64":"/wD/"},""]`), 4)
	require.NoError(t, err)
	assert.Equal(t, []any{"a", nil, []byte{0xff, 0, 0xff}, ""}, row, "no value, no text and bytes are three things")
	for _, bad := range []string{`["a"]`, `["a","b","c","d","e"]`, `{}`, `["a",1,"c","d"]`, `["a",{"base64":"?"},"c","d"]`, `["a",{"base64":3},"c","d"]`, `[`, ``} {
		_, err := dumpedRow([]byte(bad), 4)
		assert.Error(t, err, bad)
	}
}

// FuzzDumpedRow holds that a line that is taken has a value for each column, and that none of them is anything but text, bytes or nothing.
func FuzzDumpedRow(f *testing.F) {
	f.Add([]byte(`["a",null,{"base64":"/wD/"}]`), 3)
	f.Add([]byte(`[{"base64":""},"\u0000",[]]`), 3)
	f.Fuzz(func(t *testing.T, line []byte, columns int) {
		defer hostile.Timely(t, len(line))()
		row, err := dumpedRow(line, columns)
		if err != nil {
			return
		}
		require.Len(t, row, columns)
		for _, v := range row {
			switch v.(type) {
			case nil, string, []byte:
			default:
				t.Fatalf("%T", v)
			}
		}
	})
}
