package pdfdoc_test

import (
	"bytes"
	"fmt"
	"os"
	"os/exec"
	"path/filepath"
	"strings"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"huekeep/core/hostile"
	"huekeep/core/limits"
	"huekeep/core/pdfdoc"
)

// onePage is a PDF of one page with a plain table of its objects.
func onePage(content string) []byte {
	return pdfdoc.Plain("<</Type/Catalog/Pages 2 0 R>>", "<</Type/Pages/Count 1/Kids[3 0 R]>>", "<</Type/Page/Parent 2 0 R/MediaBox[0 0 100 100]/Contents 4 0 R/Resources<<>>>>",
		fmt.Sprintf("<</Length %d>>\nstream\n%s\nendstream", len(content), content))
}

func qpdf(t *testing.T, dir string, args ...string) string {
	t.Helper()
	if _, err := exec.LookPath("qpdf"); err != nil {
		if os.Getenv("CI") != "" {
			t.Fatal("qpdf must be installed in CI")
		}
		t.Skip("qpdf is not installed")
	}
	cmd := exec.Command("qpdf", args...)
	cmd.Dir = dir
	out, err := cmd.CombinedOutput()
	require.NoError(t, err, "%s", out)
	return string(out)
}

// What is appended is what readers see, whichever way the file lists its objects, once and again.
func TestObjectsAreAppended(t *testing.T) {
	dir := t.TempDir()
	plain := onePage("1 0 0 rg 0 0 50 50 re f")
	require.NoError(t, os.WriteFile(filepath.Join(dir, "plain.pdf"), plain, 0o600))
	qpdf(t, dir, "--object-streams=generate", "plain.pdf", "packed.pdf")
	packed, err := os.ReadFile(filepath.Join(dir, "packed.pdf"))
	require.NoError(t, err)
	for name, data := range map[string][]byte{"table.pdf": plain, "stream.pdf": packed} {
		number := 4
		if name == "stream.pdf" { // renumbered by whoever packed it
			for n := 1; n < 10; n++ {
				if strings.Contains(string(data), fmt.Sprintf("\n%d 0 obj\n<< /Length", n)) || strings.Contains(string(data), fmt.Sprintf("\n%d 0 obj\n<< /Filter", n)) {
					number = n
					break
				}
			}
		}
		for turn, content := range []string{"0 1 0 rg 0 0 50 50 re f", "0 0 1 rg 0 0 50 50 re f"} {
			ctx, err := pdfdoc.Open(data)
			require.NoError(t, err, name)
			out, err := pdfdoc.Update(data, ctx, map[int]pdfdoc.Object{number: {Body: pdfdoc.Stream("", []byte(content))}})
			require.NoError(t, err, name)
			assert.True(t, bytes.HasPrefix(out, data), "its own bytes stay in front")
			require.NoError(t, os.WriteFile(filepath.Join(dir, name), out, 0o600))
			assert.Contains(t, qpdf(t, dir, "--check", name), "No syntax or stream encoding errors found")
			qpdf(t, dir, "--qdf", "--object-streams=disable", name, "shown.pdf")
			shown, err := os.ReadFile(filepath.Join(dir, "shown.pdf"))
			require.NoError(t, err)
			assert.Contains(t, string(shown), content, "%s, turn %d", name, turn)
			assert.NotContains(t, string(shown), "1 0 0 rg")
			data = out
		}
	}
}

func TestPDFsThatCannotBeContinued(t *testing.T) {
	whole := onePage("")
	ctx, err := pdfdoc.Open(whole)
	require.NoError(t, err)
	for want, data := range map[string][]byte{
		"does not say where its objects are listed":    bytes.ReplaceAll(whole, []byte("startxref"), []byte("startwhat")),
		"says wrongly where its objects are listed":    bytes.ReplaceAll(whole, []byte("startxref\n"), []byte("startxref\n99999")),
		"has no list of objects that can be continued": nil,
	} {
		c := ctx
		if data == nil {
			none := *ctx
			xref := *ctx.XRefTable
			xref.Root = nil
			none.XRefTable = &xref
			c, data = &none, whole
		}
		_, err := pdfdoc.Update(data, c, nil)
		assert.ErrorContains(t, err, want)
	}
	for name, data := range map[string][]byte{"nothing": nil, "text": []byte("hello"), "cut": whole[:60]} {
		_, err := pdfdoc.Open(data)
		assert.Error(t, err, name)
	}
}

// A file whose objects unpack to far more than it has is refused before that, also where its name for that is written with escapes.
func TestObjectsThatWouldFillTheMemory(t *testing.T) {
	bomb := pdfdoc.Stream("/Type/ObjStm/N 1/First 4", bytes.Repeat([]byte(" "), limits.PDFObjects+1))
	for name, body := range map[string][]byte{"plain": bomb, "escaped": bytes.Replace(bomb, []byte("/ObjStm"), []byte("/Obj#53tm"), 1)} {
		data := onePage("")
		at := bytes.Index(data, []byte("xref"))
		data = bytes.Join([][]byte{data[:at], []byte("5 0 obj\n"), body, []byte("\nendobj\n"), data[at:]}, nil)
		assert.Less(t, len(data), 1<<20)
		_, err := pdfdoc.Open(data)
		assert.ErrorContains(t, err, "unpacked, more than can be read", name)
	}
}

// FuzzUpdate continues whatever can be opened; what comes out can be opened again, with as many pages.
func FuzzUpdate(f *testing.F) {
	f.Add(onePage("1 0 0 rg"))
	f.Add(bytes.ReplaceAll(onePage("1 0 0 rg"), []byte("/Kids[3 0 R]"), []byte("/Kids[2 0 R]")))
	f.Fuzz(func(t *testing.T, data []byte) {
		defer hostile.Timely(t, len(data))()
		if len(data) > 1<<13 {
			t.Skip()
		}
		ctx, err := pdfdoc.Open(data)
		if err != nil {
			return
		}
		out, err := pdfdoc.Update(data, ctx, map[int]pdfdoc.Object{ctx.MaxObjNr + 1: {Body: []byte("<</A 1>>")}})
		if err != nil {
			return
		}
		again, err := pdfdoc.Open(out)
		if err == nil {
			assert.Equal(t, ctx.PageCount, again.PageCount)
		}
	})
}
