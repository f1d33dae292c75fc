package office_test

import (
	"bytes"
	"context"
	"net"
	"os"
	"path/filepath"
	"strings"
	"sync/atomic"
	"testing"
	"time"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"huekeep/core/pdfpage"
	"huekeep/demo"
	"huekeep/office"
)

func present(t *testing.T) {
	if !office.Present() {
		if os.Getenv("CI") != "" {
			t.Fatal("LibreOffice must be installed in CI")
		}
		t.Skip("LibreOffice is not installed")
	}
}

func TestPagesOfDocuments(t *testing.T) {
	present(t)
	t.Setenv("TMPDIR", t.TempDir()) // what others left elsewhere when they were killed is not counted
	deck, notice := demo.TimetableDeck(), demo.CrewNoticeText()
	pdfs, err := office.PDFs(t.Context(), office.Document{Extension: ".pptx", Data: deck.Data}, office.Document{Extension: ".odt", Data: notice.Data})
	require.NoError(t, err)
	require.Len(t, pdfs, 2)
	for _, data := range pdfs {
		f, err := pdfpage.Open(data)
		require.NoError(t, err)
		assert.Positive(t, f.Pages)
		f.Close()
	}
	left, err := filepath.Glob(filepath.Join(os.TempDir(), "huekeep-pages*"))
	require.NoError(t, err)
	assert.Empty(t, left, "nothing stays behind")
}

func TestDocumentsAreNotTrusted(t *testing.T) {
	present(t)
	// A page that shows what lies elsewhere: on the network, and on the machine.
	l, err := net.Listen("tcp", "127.0.0.1:0")
	require.NoError(t, err)
	defer l.Close()
	var asked atomic.Int32
	go func() {
		for {
			c, err := l.Accept()
			if err != nil {
				return
			}
			asked.Add(1)
			_ = c.Close()
		}
	}()
	secret := filepath.Join(t.TempDir(), "secret.svg")
	require.NoError(t, os.WriteFile(secret, []byte(`<svg xmlns="http://www.w3.org/2000/svg" width="400" height="400"><rect width="400" height="400" fill="#E2572B"/></svg>`), 0o644))
	text := `<?xml version="1.0"?><office:document xmlns:office="urn:oasis:names:tc:opendocument:xmlns:office:1.0" xmlns:text="urn:oasis:names:tc:opendocument:xmlns:text:1.0" xmlns:draw="urn:oasis:names:tc:opendocument:xmlns:drawing:1.0" xmlns:svg="urn:oasis:names:tc:opendocument:xmlns:svg-compatible:1.0" xmlns:xlink="http://www.w3.org/1999/xlink" office:version="1.3" office:mimetype="application/vnd.oasis.opendocument.text"><office:body><office:text><text:p>x` +
		`<draw:frame svg:width="5cm" svg:height="5cm"><draw:image xlink:href="http://` + l.Addr().String() + `/a.png" xlink:type="simple"/></draw:frame>` +
		`<draw:frame svg:width="8cm" svg:height="8cm"><draw:image xlink:href="file://` + secret + `" xlink:type="simple"/></draw:frame></text:p></office:text></office:body></office:document>`
	pdfs, err := office.PDFs(t.Context(), office.Document{Extension: ".fodt", Data: []byte(text)})
	require.NoError(t, err)
	assert.Zero(t, asked.Load(), "nobody on the network was asked")
	f, err := pdfpage.Open(pdfs[0])
	require.NoError(t, err)
	defer f.Close()
	p, err := f.Page(1)
	require.NoError(t, err)
	defer p.Close()
	img, _, err := p.Picture(400, 600)
	require.NoError(t, err)
	for i := 0; i < len(img.Pix); i += 4 {
		require.False(t, img.Pix[i] > 200 && img.Pix[i+1] > 60 && img.Pix[i+1] < 110 && img.Pix[i+2] < 70, "a file of the machine is not shown")
	}

	_, err = office.PDFs(t.Context(), office.Document{Extension: ".pptx", Data: bytes.Repeat([]byte("PK\x03\x04"), 100)})
	if err != nil {
		assert.Contains(t, err.Error(), "could not make its pages")
	}
	ctx, cancel := context.WithTimeout(t.Context(), 300*time.Millisecond)
	defer cancel()
	begun := time.Now()
	_, err = office.PDFs(ctx, office.Document{Extension: ".fodt", Data: []byte(strings.ReplaceAll(text, ">x<", ">"+strings.Repeat("x ", 1<<20)+"<"))})
	assert.ErrorIs(t, err, context.DeadlineExceeded)
	assert.Less(t, time.Since(begun), 30*time.Second, "who gives it up does not wait")
}
