package e2e

import (
	"archive/zip"
	"bytes"
	"fmt"
	"image"
	"image/color"
	"image/draw"
	"image/jpeg"
	"os"
	"path/filepath"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"
)

// A color that was admitted by mistake goes and comes back; one that somebody holds stays, and the sentence stands where one looks.
func TestAColorAdmittedByMistake(t *testing.T) {
	u := visit(t)
	u.enter("keeper")
	u.open("/h/1/gather")
	u.paste("#paste", "Mistake  #1D6F6A")
	u.click("button", "Put 1 color")
	u.click("aside button", "Admit 1")
	u.see("[role=status]", "Mistake admitted")
	u.open("/h/1/library")
	u.click("[role=row] a", "^Mistake")
	u.see("aside h2", "Mistake")
	u.click("aside button", "Remove it from the library")
	u.see("[role=status]", "Mistake removed")
	u.see("main", "10 colors")
	u.click("[role=status] button", "Undo")
	u.see("[role=status]", "Mistake is back")
	u.click("[role=row] a", "^Mistake")
	u.see("aside li", "removed by Keeper and brought back")

	u.click("[role=row] a", "^Buoy")
	u.see("aside h2", "Buoy")
	u.click("aside button", "Remove it from the library")
	alert := u.find("aside [role=alert]", "Buoy cannot be removed: edition 2 of Core holds it")
	seen, err := alert.Interactable()
	require.NoError(t, err)
	assert.NotNil(t, seen, "it is in view")
	u.see("[role=row] a", "Buoy")
}

// Another color succeeds a retired one, in the interface as well.
func TestARetiredColorGetsAnotherSuccessor(t *testing.T) {
	u := visit(t)
	u.enter("keeper")
	u.open("/h/1/library")
	u.click("[role=row] a", "^Old Funnel")
	u.see("aside p", "use Buoy instead")
	u.click("aside button", "Replace it by another color")
	u.page.MustElement("aside form select").MustSelect("Lamp")
	u.click("aside button", "Keep Old Funnel")
	u.see("aside p", "use Lamp instead")
	u.see("aside li", "replaced by Lamp")
}

// A long file says how far it is, can be given up, and leaves nothing; the next one is judged.
func TestJudgingALongFileIsGivenUp(t *testing.T) {
	u := visit(t)
	u.enter("contributor")
	u.open("/h/1/audit")
	dir := t.TempDir()
	long, short := filepath.Join(dir, "long.zip"), filepath.Join(dir, "short.css")
	var packed bytes.Buffer
	z := zip.NewWriter(&packed)
	for i := range 10 { // ten seconds of reading, on a machine that does nothing else
		w, err := z.Create(fmt.Sprintf("%d.css", i))
		require.NoError(t, err)
		_, err = w.Write(bytes.Repeat([]byte(".a{background:url(a) 0 0 / 1px}\n"), 1_040_000))
		require.NoError(t, err)
	}
	require.NoError(t, z.Close())
	require.NoError(t, os.WriteFile(long, packed.Bytes(), 0o644))
	require.NoError(t, os.WriteFile(short, []byte("a{color:#E2572C}"), 0o644))
	u.page.MustElement("input[aria-label='Files to judge']").MustSetFiles(long)
	u.see("[role=status]", `Reading long.zip: .*[\d.]+ MB of 33.3 MB`)
	u.click("[role=status] button", "give up")
	u.see("[role=alert]", "It was given up")
	u.page.MustElement("input[aria-label='Files to judge']").MustSetFiles(short)
	u.see("h1", "short.css")
	u.open("/h/1/audit")
	u.see("main td", "short.css")
	assert.Len(t, u.page.MustElements("main tbody tr"), 1)
}

// A color in a picture that cannot be written is not promised to be: no button for it, and the sheet and the plan say why.
func TestWhatCannotBeRepaintedIsNotPromised(t *testing.T) {
	u := visit(t)
	u.enter("contributor")
	u.open("/h/1/audit")
	img := image.NewNRGBA(image.Rect(0, 0, 160, 80))
	draw.Draw(img, img.Rect, image.White, image.Point{}, draw.Src)
	draw.Draw(img, image.Rect(16, 16, 96, 64), image.NewUniform(color.NRGBA{0xEE, 0x62, 0x27, 255}), image.Point{}, draw.Src)
	var photo bytes.Buffer
	require.NoError(t, jpeg.Encode(&photo, img, &jpeg.Options{Quality: 95}))
	file := filepath.Join(t.TempDir(), "quay.jpg")
	require.NoError(t, os.WriteFile(file, photo.Bytes(), 0o644))
	u.page.MustElement("input[aria-label='Files to judge']").MustSetFiles(file)
	u.see("h1", "quay.jpg")
	u.see("aside p", "It cannot be repainted: a JPEG is not repainted")
	u.see("[role=row]", "drifted")
	for _, b := range u.page.MustElements("main button") {
		assert.NotContains(t, b.MustText(), "of the area")
	}
	u.click("main a", "Repaint plan")
	u.see("[role=row]", "drifted")
	assert.True(t, u.find("[role=row] button", "^repaint$").MustProperty("disabled").Bool())
	assert.True(t, u.find("main button", "Repaint and judge again").MustProperty("disabled").Bool())
}
