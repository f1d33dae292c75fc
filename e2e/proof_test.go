package e2e

import (
	"bytes"
	"context"
	"image"
	"image/color"
	_ "image/png"
	"os"
	"path/filepath"
	"testing"

	"github.com/go-rod/rod/lib/input"
	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"huekeep/keep"

	"huekeep/demo"
)

// Does this set read? The pairs, the one that nearly passes, and it mended on the tray.
func TestDoesThisSetRead(t *testing.T) {
	u := visit(t)
	u.enter("keeper")
	u.click("header nav a", "^Proof$")
	u.see("main", `\d+ pairs for any text, \d+ for large text and signs only, \d+ not legible`)
	u.see("aside h2", "Saltmarsh on Hull White")
	u.see("aside", "4.37")
	u.click("aside button", "put on the tray")
	u.see("[role=status]", "1 color is on the tray")
	u.within(3, "the pairs of a set, one mended on the tray")
	u.see("footer", "Saltmarsh for Hull White")
	u.accessible("contrast")

	u.click("main button", "^Buoy")
	u.see("aside h2", "Buoy on Deep Sound")
	u.see("aside", "Library colors that pass here")
	u.page.MustElement("aside select").MustSelect("large text and signs, 3.0")
	u.see("aside", "It passes as it is")

	u.click("main section button", "2 of 7 not legible")
	u.see("main .specimen", "not legible")
	u.page.MustElementR("label", "^show").MustElement("select").MustSelect("signs and graphics")
	u.see("main", "Enough for signs and graphics")

	// The address carries subject and view; a subject that is not there says so.
	u.page.MustElement("main select").MustSelect("all approved colors")
	u.see("aside h2", " on ")
	assert.Contains(t, u.page.MustInfo().URL, "/h/1/proof/contrast/approved")
	u.open("/h/1/proof/contrast/set-99")
	u.see("main", "There is no such swatch set")
	u.open("/h/1/proof/contrast/marked")
	u.see("main", "No color is marked")
}

// By keyboard alone: a pair is reached, chosen and mended.
func TestContrastByKeyboard(t *testing.T) {
	u := visit(t)
	u.enter("keeper")
	u.open("/h/1/proof/contrast/set-1")
	u.see("aside h2", "Saltmarsh on Hull White")
	reach := func(script string) {
		t.Helper()
		for range 80 {
			require.NoError(t, u.page.Keyboard.Press(input.Tab))
			if u.page.MustEval(`() => ` + script).Bool() {
				return
			}
		}
		require.Fail(t, "not reached", script)
	}
	reach(`document.activeElement.textContent.startsWith('Buoy')`)
	u.press(input.Enter)
	u.see("aside h2", "Buoy on Deep Sound")
	reach(`document.activeElement.textContent.startsWith('put on the tray')`)
	u.press(input.Enter)
	u.see("[role=status]", "1 color is on the tray")
}

// What weak color vision makes of a set: pairs that fall together, and one kept apart.
func TestColorVisionOfASet(t *testing.T) {
	u := visit(t)
	u.enter("keeper")
	u.open("/h/1/proof/vision/approved")
	u.see("main", "hard to tell apart")
	u.accessible("color vision")
	u.page.MustElementR("label", "Weak in").MustElement("select").MustSelect("all colors")
	u.see("aside h2", "To keep .+ apart")
	u.see("main h2", "All colors missing")
	u.click("aside button", "^Put #[0-9A-F]{6} on the tray")
	u.see("[role=status]", "1 color is on the tray")
	u.see("footer", " beside ")

	// The slider is live, and without any severity nothing falls together.
	slider := u.page.MustElement("input[type=range]")
	slider.MustFocus()
	require.NoError(t, u.page.Keyboard.Press(input.Home))
	u.see("main", "no pair becomes hard to tell apart")
	u.see("aside", "stay at least 10 apart")
	require.NoError(t, u.page.Reload())
	u.see("main", "no pair becomes hard to tell apart")
}

// A photo on newsprint, with its ink over the limit marked.
func TestAPhotoOnNewsprint(t *testing.T) {
	u := visit(t)
	u.enter("keeper")
	u.open("/h/1/proof/print/set-1")
	u.see("main", "How does it print")
	photo := writePicture(t, "photo.png", 400, 300, func(x, _ int) string {
		if x < 100 {
			return "#00FF00"
		}
		return "#0A0608"
	})
	u.page.MustElement("input[type=file]").MustSetFiles(photo)
	u.steps++ // as dropped
	u.page.MustElement("#proof-press").MustSelect("newsprint, web offset")
	u.steps++
	u.click("aside label", "hatch what is over the ink limit")
	u.page.MustElement("canvas[aria-label^='Over the ink limit']")
	u.within(3, "a photo on newsprint, its ink over 240 % marked")
	u.see("aside", "Over 240 % of ink")
	u.see("aside dd", `^7[0-9]\.\d %|^100\.0 %|^2[0-9]\.\d %`)
	u.accessible("print")

	// The print side is darker and duller than the screen's green; the line between them slides.
	pixel := `(name) => { const c = document.querySelector("canvas[aria-label^='" + name + "']"); return [...c.getContext('2d').getImageData(10, 10, 1, 1).data] }`
	screen := u.page.MustEval(pixel, "The picture on the screen").Arr()
	print := u.page.MustEval(pixel, "The picture on newsprint").Arr()
	assert.Equal(t, 255, screen[1].Int())
	assert.Less(t, print[1].Int(), 220)
	u.page.MustElement("#proof-limit").MustSelectAllText().MustInput("400")
	u.see("aside", "Over 400 % of ink")
	u.see("aside dd", `^0\.0 %`)

	// The set itself: worst first, with what to tell the printer; and the proof as files.
	u.see("aside h2", "Core on newsprint, web offset")
	u.see("aside li", "Buoy")
	u.page.MustWaitStable() // what was just measured anew moves what one would press
	u.click("aside button", "^copy for the printer$")
	u.see("[role=status]", "What to tell the printer copied")
	assert.Regexp(t, `(?s)^Odelwick Ferries, Core, on newsprint, web offset\n.*Buoy #E2572B: C \d+ M`, u.clipboard())
	wait := u.page.Browser().MustWaitDownload()
	u.click("aside button", "^download the inks as TIFF$")
	assert.Equal(t, "II*\x00", string(wait()[:4]))
	wait = u.page.Browser().MustWaitDownload()
	u.click("aside button", "^download as PNG$")
	img, _, err := image.Decode(bytes.NewReader(wait()))
	require.NoError(t, err)
	assert.Equal(t, image.Rect(0, 0, 400, 300), img.Bounds())

	// A printer's own press works in the page as those that ship do.
	profile, err := os.ReadFile("../core/press/profiles/uncoated.icc")
	require.NoError(t, err)
	require.NoError(t, u.keeper.Media.AddPress(context.Background(), keep.Actor{Name: "Keeper", Role: keep.RoleKeeper, House: keep.House{ID: 1}}, "Quay printers", 0, profile))
	u.open("/h/1/proof/print/set-1")
	u.page.MustElement("input[type=file]").MustSetFiles(photo)
	u.page.MustElement("canvas[aria-label^='The picture on newsprint']")
	u.page.MustElement("#proof-press").MustSelect("Quay printers")
	u.page.MustElement("canvas[aria-label='The picture on Quay printers']")

	broken := filepath.Join(t.TempDir(), "no.png")
	require.NoError(t, os.WriteFile(broken, []byte("not a picture"), 0o600))
	u.page.MustElement("input[type=file]").MustSetFiles(broken)
	u.see("[role=alert]", "no.png: ")
}

// What is decided about a pair becomes a rule; when an amendment breaks it, the library says so.
// Measuring says how far it is, can be given up without losing the look, and be done after all.
func TestMeasuringIsGivenUp(t *testing.T) {
	u := visit(t)
	u.enter("contributor")
	u.open("/h/1/proof/print/set-1")
	photo := demo.Photo()
	path := filepath.Join(t.TempDir(), photo.Name)
	require.NoError(t, os.WriteFile(path, photo.Data, 0o644))
	u.page.MustElement("input[type=file]").MustSetFiles(path)
	u.see("aside [role=status]", "Measuring")
	u.until(`() => { const p = document.querySelector('aside progress'); return !p || p.value > 0 }`)
	u.click("aside button", "^give up$")
	u.see("aside p", "Not measured")
	u.page.MustElement("canvas[aria-label^='The picture on coated']")
	u.click("aside button", "^measure it$")
	u.see("dl.report", "Out of gamut")
}

func TestAPairBecomesARule(t *testing.T) {
	u := visit(t)
	u.enter("keeper")
	u.click("header nav a", "^Proof$")
	u.see("aside", "No rule about this pair yet|may stand")
	u.click("main section[aria-label='On Hull White'] button", "^Slate Quay")
	u.see("aside", "No rule about this pair yet")
	u.click("aside button", "may stand as any text")
	u.see("[role=status]", "Rule: Slate Quay may stand on Hull White")
	u.see("aside", "Slate Quay may stand on Hull White as any text. By Kim|Slate Quay may stand on Hull White as any text")
	u.see("main .specimen", "ruled")
	u.click("[role=status] button", "Undo")
	u.see("aside", "No rule about this pair yet")
	u.click("aside button", "may stand as any text")
	u.see("aside", "take the rule back")

	// Both colors say it, and lead back to the pair.
	u.click("header nav a", "^Library$")
	u.click("main a", "^Slate Quay$")
	u.see("aside [aria-label='Rules about pairs']", "may stand on Hull White as any text")
	u.click("main a", "^Hull White$")
	u.see("aside [aria-label='Rules about pairs']", "Slate Quay may stand on it as any text")
	u.accessible("a sheet with rules")

	// The ground is amended to something dark.
	u.click("aside button", "^amend$")
	u.paste("form input.font-mono", "#6A6F73")
	u.click("aside button", "Amend to #6A6F73")
	u.see("main", "pairs no longer keep their rule")
	u.see("aside [aria-label='Rules about pairs']", "It no longer does: it needs 4.5")
	u.page.MustElementR("aside [aria-label='Rules about pairs'] a", "Slate Quay").MustClick()
	u.see("aside h2", "Slate Quay on Hull White")
	u.see("aside", "It no longer does: it needs 4.5")
	u.see("aside", "Library colors that pass here")
}

// A palette held against a photo: the poorest match is found, seen where it is, tried with another value, and taken along.
func TestAPaletteHeldAgainstAPhoto(t *testing.T) {
	u := visit(t)
	u.enter("keeper")
	u.open("/h/1/proof/print/set-1")
	u.steps = 0
	u.click("main nav a", "^Picture$")
	photo := writePicture(t, "deck.png", 600, 300, func(x, y int) string {
		switch {
		case x < 200:
			return "#0E3A53" // Deep Sound as it is
		case x < 400:
			return "#DA5026" // Buoy, off by a step
		}
		return "#30D040"
	})
	u.page.MustElement("input[type=file]").MustSetFiles(photo)
	u.steps++ // as dropped
	u.see("aside h2", "8 colors, the poorest match first")
	u.see("aside [aria-pressed=true]", "Buoy")
	u.within(2, "a palette held against a photo, the poorest match found")
	u.see("main", "2 of 8 colors are in the picture; 33.3 % of it is none of them")
	u.see("aside", `on 33\.3 % of it`)
	u.see("aside", "#DA5026")
	u.see("aside", "What no color answers")
	u.accessible("picture")

	// Gray but for what is near it; sliding the tolerance decides.
	pixel := func(x int) []int {
		var out []int
		for _, v := range u.page.MustEval(`(x) => { const c = document.querySelector("main canvas"); return [...c.getContext('2d').getImageData(x, 100, 1, 1).data] }`, x).Arr() {
			out = append(out, v.Int())
		}
		return out
	}
	u.page.MustElement("canvas[aria-label='The picture, gray but for what is near Buoy']")
	assert.Equal(t, []int{0xDA, 0x50, 0x26, 255}, pixel(300))
	gray := pixel(500)
	assert.Equal(t, gray[0], gray[1])
	assert.Equal(t, gray[1], gray[2])

	// While the button is held, the area has the set's color in its place.
	b := u.page.MustElementR("main button", "^Hold to see Buoy in its place$")
	b.MustFocus()
	require.NoError(t, u.page.Keyboard.Press(input.Space))
	u.page.MustElement("canvas[aria-label='The picture in the set’s colors']")
	assert.Equal(t, []int{0xE2, 0x57, 0x2B, 255}, pixel(300))
	assert.Equal(t, []int{0x30, 0xD0, 0x40, 255}, pixel(500), "what no color answers stays")
	require.NoError(t, u.page.Keyboard.Release(input.Space))
	u.page.MustElement("canvas[aria-label='The picture, gray but for what is near Buoy']")

	// A click says what is there; another value is tried; both go to the tray.
	u.page.MustElement("main canvas").MustClick()
	u.see("aside h2", `At (29|30)\d, 1\d\d`)
	u.page.MustElement("aside input").MustInput("#DA5026")
	u.see("aside p", `0\.0\s*identical, on 33`)
	u.click("aside button", "^to the tray$")
	u.see("footer", "Buoy corrected")
	u.click("aside button", "^put the picture’s #DA5026 on the tray$")
	u.see("footer", "Buoy of deck.png")

	wait := u.page.Browser().MustWaitDownload()
	u.page.MustElement("aside input").MustSelectAllText().MustInput("#E2572B")
	u.see("aside", "on 33")
	u.click("aside button", "^Download it$")
	img, _, err := image.Decode(bytes.NewReader(wait()))
	require.NoError(t, err)
	assert.Equal(t, image.Rect(0, 0, 600, 300), img.Bounds())
	assert.Equal(t, color.NRGBA{0xE2, 0x57, 0x2B, 255}, color.NRGBAModel.Convert(img.At(300, 100)))

	// The same picture is there for other eyes.
	u.click("main nav a", "^Color vision$")
	u.see("main", "A picture of yours")
	u.page.MustElement("canvas[aria-label='The picture, for ordinary vision']")
	seen := u.page.MustEval(`() => { const c = document.querySelector("canvas[aria-label^='The picture, with']"); return [...c.getContext('2d').getImageData(500, 100, 1, 1).data] }`).Arr()
	assert.NotEqual(t, 0xD0, seen[1].Int(), "green is another one without green cones")
	u.accessible("color vision of a picture")
}
