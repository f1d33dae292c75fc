package archive_test

import (
	"archive/zip"
	"bytes"
	"io"
	"strings"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"huekeep/core/archive"
)

func zipped(t testing.TB, parts map[string]string) []byte {
	var b bytes.Buffer
	z := zip.NewWriter(&b)
	for name, text := range parts {
		w, err := z.Create(name)
		require.NoError(t, err)
		_, err = io.WriteString(w, text)
		require.NoError(t, err)
	}
	require.NoError(t, z.Close())
	return b.Bytes()
}

func TestPartsAreReadByName(t *testing.T) {
	a, err := archive.Open(zipped(t, map[string]string{"/a/b.xml": "one", "c": ""}))
	require.NoError(t, err)
	text, err := a.Read("a/b.xml")
	require.NoError(t, err)
	assert.Equal(t, "one", string(text), "a leading slash does not matter")
	_, err = a.Read("nothing.xml")
	assert.ErrorContains(t, err, `"nothing.xml" is missing`)
	assert.True(t, archive.Is([]byte("PK\x03\x04")))
	assert.False(t, archive.Is([]byte("hello")))
}

func TestBrokenArchivesAreRefusedInASentence(t *testing.T) {
	whole := zipped(t, map[string]string{"a": strings.Repeat("harbor ", 5000)})
	for _, cut := range []int{0, 4, len(whole) / 2, len(whole) - 10} {
		_, err := archive.Open(whole[:cut])
		assert.ErrorContains(t, err, "not a whole ZIP archive", "cut at %d", cut)
	}
	// The directory is whole, the part inside is not.
	damaged := bytes.Clone(whole)
	copy(damaged[40:60], make([]byte, 20))
	a, err := archive.Open(damaged)
	require.NoError(t, err)
	_, err = a.Read("a")
	assert.ErrorContains(t, err, `its part "a" is damaged`)
}
