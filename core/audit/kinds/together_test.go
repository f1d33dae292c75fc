package kinds_test

import (
	"fmt"
	"slices"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"huekeep/core/audit"
	"huekeep/core/audit/kinds"
	"huekeep/core/color"
	"huekeep/core/library"
	"huekeep/demo"
)

// Files that are read apart and joined are judged as if they had been read together, and a file that hangs on no other says so.
func TestFilesReadApartAreJoined(t *testing.T) {
	type file struct{ name, text string }
	files := []file{
		{"use.css", ".a{color:var(--deep)}.b{background:color-mix(in srgb, var(--deep), white 50%)}.c{color:var(--nowhere)}"},
		{"define.css", ":root{--deep:#E1572C;--again:var(--deep)}"}, {"twice.css", ".dark{--deep:#101820}"},
		{"lone.css", "d{color:#00A34F}"}, {"page.html", `<p style="color:var(--again)">x</p><style>p{fill:#123456}</style>`},
		{"tokens.json", `{"sea":{"$type":"color","$value":"#1D6F6A"}}`}, {"alias.json", `{"ground":{"$type":"color","$value":"{sea}"}}`}, {"empty.css", ""},
	}
	for _, f := range demo.Files() {
		files = append(files, file{f.Name, string(f.Data)})
	}
	judge := audit.NewJudge(audit.Rules{Colors: []library.Color{{Name: "Buoy", RGB: color.RGB8{R: 0xE2, G: 0x57, B: 0x2B}}, {Name: "Night Tide", RGB: color.RGB8{R: 0x10, G: 0x18, B: 0x20}}}})
	read := func(of file, with *kinds.Together) *audit.Scan {
		s, err := kinds.ReadWith(of.name, []byte(of.text), kinds.Options{With: with})
		require.NoError(t, err)
		return s
	}
	together, apart := kinds.NewTogether(), kinds.NewTogether()
	var one, other []*audit.Scan
	alone := map[string]bool{}
	for _, f := range files {
		one = append(one, read(f, together))
		own := kinds.NewTogether()
		s := read(f, own)
		other, alone[f.name] = append(other, s), s.Alone
		require.NoError(t, apart.Join(own))
	}
	together.Finish()
	apart.Finish()
	for i, f := range files {
		assert.Equal(t, judge.Judge(f.name, one[i]), judge.Judge(f.name, other[i]), f.name)
		if alone[f.name] { // then it is judged by itself as among others
			s, err := kinds.Read(f.name, []byte(f.text))
			require.NoError(t, err)
			assert.Equal(t, judge.Judge(f.name, one[i]), judge.Judge(f.name, s), f.name)
		}
	}
	var hang []string
	for _, f := range files[:8] {
		if !alone[f.name] {
			hang = append(hang, f.name)
		}
	}
	assert.Equal(t, []string{"use.css", "define.css", "twice.css", "page.html", "tokens.json", "alias.json"}, hang)
	assert.Contains(t, fmt.Sprint(judge.Judge("use.css", other[0])), "101820", "of another file")
	assert.True(t, slices.ContainsFunc(files[8:], func(f file) bool { return alone[f.name] }))
}
