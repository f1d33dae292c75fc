package typeface_test

import (
	"bytes"
	"encoding/binary"
	"os"
	"os/exec"
	"path/filepath"
	"strings"
	"testing"

	"github.com/go-fonts/latin-modern/lmroman10regular"
	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"
	"golang.org/x/image/font/gofont/goregular"

	"huekeep/core/hostile"
	"huekeep/core/limits"
	"huekeep/core/typeface"
)

func TestWhatShips(t *testing.T) {
	all := typeface.Shipped()
	assert.GreaterOrEqual(t, len(all), 6)
	kinds := map[string]bool{}
	for _, f := range all {
		kinds[f.Kind] = true
		for _, file := range append(f.Regular, f.Bold...) {
			name, err := typeface.Check(file)
			if err != nil { // the files for more letters have no plain ones
				assert.ErrorContains(t, err, "it needs A to Z", f.Name)
				continue
			}
			assert.Contains(t, strings.ReplaceAll(name, " ", ""), strings.ReplaceAll(f.Name, " ", ""))
		}
		missing, err := f.Missing("Winter crossings 12–14 €, “Größe” à la carte, Řeka, Łódź, Reykjavík, İstanbul")
		require.NoError(t, err)
		assert.Empty(t, missing, "%s writes the languages of Europe that use Latin letters", f.Name)
		missing, err = f.Missing("Ж日 Ж")
		require.NoError(t, err)
		assert.Subset(t, []rune("Ж日"), missing)
		assert.Contains(t, missing, '日')
	}
	for _, kind := range []string{"grotesque", "humanist sans", "slab serif", "monospaced", "for display"} {
		assert.True(t, kinds[kind], kind)
	}
	_, ok := typeface.Find("spectral")
	assert.True(t, ok)
	_, ok = typeface.Find("none")
	assert.False(t, ok)
}

// The files are those of the packages, where these are installed.
func TestTheFilesAreThoseOfTheirPackages(t *testing.T) {
	packages := filepath.Join("..", "..", "ui", "node_modules", "@fontsource")
	if _, err := os.Stat(packages); err != nil {
		t.Skip("the npm packages are not installed")
	}
	for _, f := range typeface.Shipped() {
		for _, part := range typeface.Parts {
			for weight, name := range map[int]string{400: "-400-normal.woff2", 700: "-700-normal.woff2"} {
				want, err := os.ReadFile(filepath.Join(packages, f.Key, "files", f.Key+"-"+part+name))
				require.NoError(t, err)
				assert.True(t, bytes.Equal(want, typeface.File(f.Key, part, weight)), "%s: run scripts/typefaces.sh", f.Key)
			}
		}
	}
}

// otf is a font with PostScript outlines, from the tests of the font reader.
func otf(t testing.TB) []byte {
	dir, err := exec.Command("go", "list", "-m", "-f", "{{.Dir}}", "github.com/tdewolff/font").Output()
	require.NoError(t, err)
	data, err := os.ReadFile(filepath.Join(strings.TrimSpace(string(dir)), "resources", "EBGaramond12-Regular.otf"))
	require.NoError(t, err)
	return data
}

// restricted says in a font's OS/2 table that it may not be embedded.
func restricted(data []byte) []byte {
	out := bytes.Clone(data)
	for at := 12; ; at += 16 {
		if string(out[at:at+4]) == "OS/2" {
			binary.BigEndian.PutUint16(out[binary.BigEndian.Uint32(out[at+8:])+8:], 2)
			return out
		}
	}
}

func TestAFontThatSomebodyBrings(t *testing.T) {
	garamond := otf(t)
	for what, sample := range map[string]struct {
		data []byte
		kind string
		name string
	}{
		"TTF":   {goregular.TTF, "ttf", "Go"},
		"OTF":   {garamond, "otf", "EB Garamond"},
		"WOFF2": {typeface.File("spectral", "latin", 400), "woff2", "Spectral"},
	} {
		name, err := typeface.Check(sample.data)
		require.NoError(t, err, what)
		assert.Equal(t, sample.kind, typeface.Kind(sample.data), what)
		assert.Equal(t, sample.name, name, what)
	}
	for what, bad := range map[string]struct {
		data []byte
		says string
	}{
		"a text":            {[]byte("hello"), "no font"},
		"nothing":           {nil, "no font"},
		"a page":            {[]byte("<!doctype html><title>404"), "no font"},
		"only its head":     {goregular.TTF[:200], "damaged"},
		"half of it":        {goregular.TTF[:len(goregular.TTF)/2], "damaged"},
		"half of a WOFF2":   {typeface.File("spectral", "latin", 400)[:9000], "damaged"},
		"not for embedding": {restricted(goregular.TTF), "may not be embedded"},
		"too large":         {append(bytes.Clone(goregular.TTF), make([]byte, limits.FontBytes)...), "at most 8.4 MB"},
		"not to be drawn":   {lmroman10regular.TTF, "its '$' cannot be drawn here"},
		"no plain letters":  {typeface.File("spectral", "latin-ext", 400), "it needs A to Z"},
	} {
		_, err := typeface.Check(bad.data)
		assert.ErrorContains(t, err, bad.says, what)
	}
}

// Whatever the bytes are, the answer is a name or a sentence.
func FuzzCheck(f *testing.F) {
	f.Add(goregular.TTF)
	f.Add(lmroman10regular.TTF)
	f.Add(typeface.File("jetbrains-mono", "latin-ext", 400))
	f.Add([]byte("wOF2"))
	f.Fuzz(func(t *testing.T, data []byte) {
		defer hostile.Timely(t, len(data))()
		_, err := typeface.Check(data)
		if err != nil && err.Error() == "" {
			t.Error("an error without a sentence")
		}
	})
}
