package standin

import (
	"strings"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"huekeep/core/hostile"
)

const plain = "From: a@b.example\r\nTo: <c@d.example>\r\nSubject: =?UTF-8?q?Gr=C3=B6=C3=9Fe?=\r\nDate: Thu, 26 Nov 2026 10:00:00 +0000\r\nMessage-ID: <x@y>\r\n"

func TestLetters(t *testing.T) {
	l, err := letter([]byte(plain + "Content-Type: multipart/mixed; boundary=\"z\"\r\n\r\n--z\r\nContent-Type: text/plain; charset=utf-8\r\nContent-Transfer-Encoding: quoted-printable\r\n\r\nTide =23\r\n--z\r\nContent-Type: image/png\r\nContent-Transfer-Encoding: base64\r\n\r\niVBO\r\n--z--\r\n"))
	require.NoError(t, err)
	assert.Equal(t, [4]string{"x@y", "c@d.example", "Größe", "Tide #"}, [4]string{l.ID, l.To, l.Subject, l.Text})
	assert.Equal(t, "\x89PN", string(l.Picture))
	for _, bad := range []string{"", "Subject: x", plain, plain + "Content-Type: ;\r\n\r\nx", strings.Replace(plain, "26 Nov", "99 Nov", 1) + "\r\nx"} {
		_, err := letter([]byte(bad))
		assert.Error(t, err, bad)
	}
}

func FuzzLetter(f *testing.F) {
	f.Add([]byte(plain + "Content-Type: text/plain\r\n\r\nx"))
	f.Add([]byte(plain + "Content-Type: multipart/mixed; boundary=z\r\n\r\n--z\r\nContent-Type: multipart/mixed; boundary=y\r\n\r\n--y--\r\n--z--\r\n"))
	f.Fuzz(func(t *testing.T, data []byte) {
		defer hostile.Timely(t, len(data))()
		if l, err := letter(data); err == nil {
			assert.False(t, l.At.IsZero() && l.ID != "" && l.Text == "" && len(data) == 0)
		}
	})
}
