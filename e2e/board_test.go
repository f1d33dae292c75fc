package e2e

import (
	"bytes"
	"image/color"
	"image/png"
	"os"
	"path/filepath"
	"strings"
	"testing"
	"time"

	"github.com/go-rod/rod/lib/input"
	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"
	"golang.org/x/image/font/gofont/goregular"
)

// client opens a link as somebody who never was here, on a phone.
func (u *user) client(link string) *user {
	u.t.Helper()
	b := u.page.Browser().MustIncognito()
	mayCopy(u.t, b, u.url)
	page := b.MustPage(link)
	u.t.Cleanup(page.MustClose)
	page.MustSetViewport(390, 844, 1, true).MustWaitLoad()
	return &user{t: u.t, page: page.Timeout(time.Minute)}
}

// Four options for a client, as a link on the clipboard, and the same as PDF; two clients answer; the choice becomes a set.
func TestFourOptionsForAClient(t *testing.T) {
	u := visit(t)
	u.enter("keeper")
	u.open("/h/1/proof/contrast/set-1")
	u.see("main .specimen", "Hull White")
	u.steps = 0
	u.click("main nav a", "^Boards$")
	u.click("main button", "^Options from this subject$")
	u.see("main", "most different first")
	u.accessible("proposed options")
	u.click("main button", "^Make a board of these 4$")
	u.see("aside h2", "Option A, ground")
	u.click("main button", "^Fix as sheet 1 and copy a link$")
	u.see("[role=status]", "The link to sheet 1 copied")
	u.within(4, "four options for a client, as a link on the clipboard")
	link := u.clipboard()
	require.Regexp(t, `^http://[^/]+/b/[\w-]{22,}$`, link)
	u.accessible("a board")

	wait := u.page.Browser().MustWaitDownload()
	u.click("main article a", "^PDF$")
	assert.Equal(t, "%PDF", string(wait()[:4]))
	u.within(1, "the same as PDF")

	// On a phone, without account, script or cookie.
	c := u.client(link)
	c.see("h1", "Core, four options")
	c.accessible("the client's page")
	assert.LessOrEqual(t, c.page.MustEval(`() => document.documentElement.scrollWidth`).Int(), 390, "nothing sticks out on a phone")
	assert.Empty(t, c.page.MustCookies())
	assert.Zero(t, c.page.MustEval(`() => document.scripts.length`).Int())
	before := c.page.MustElement(".specimen").MustEval(`() => getComputedStyle(this).backgroundColor`).Str()
	c.page.MustElementR("a", "see it on paper").MustClick()
	c.see("[aria-current]", "see it on paper")
	assert.NotEqual(t, before, c.page.MustElement(".specimen").MustEval(`() => getComputedStyle(this).backgroundColor`).Str())
	c.page.MustElements(".choice")[1].MustClick()
	c.page.MustElement("textarea").MustInput("The hour before dawn.")
	c.page.MustElement("input[name=name]").MustInput("Ines")
	c.page.MustElementR("button", "Send my choice").MustClick()
	c.see("[role=status]", "Thank you, Ines. Odelwick Ferries knows that you chose B")

	other := u.client(link)
	other.page.MustElements(".choice")[2].MustClick()
	other.page.MustElement("input[name=name]").MustInput("Otto").MustType(input.Enter)
	other.see("[role=status]", "you chose C")

	// The keeper sees it without asking, and takes the choice into the library.
	u.see("main article", "Ines: The hour before dawn")
	u.see("main article", "Otto")
	u.click("main article button", "^make B a swatch set with rules$")
	u.see("[role=status]", "The swatch set Core, four options, option B is there, with \\d rules")
	u.click("[role=status] a", "look at it")
	u.see("body", "Core, four options, option B")

	// Closed, and one that never was.
	u.page.MustNavigateBack()
	u.click("main article button", "^close it$")
	u.see("main article", "closed")
	other.page.MustNavigate(link).MustWaitLoad()
	other.see("h1", "This link was closed. Ask Odelwick Ferries for a new one")
	other.page.MustNavigate(link[:len(link)-3] + "abc").MustWaitLoad()
	other.see("h1", "This link leads nowhere")
}

// An option is changed by pressing its parts and colors, with the house's own typeface and logo, and everything can be undone.
func TestABoardIsWorkedOn(t *testing.T) {
	u := visit(t)
	u.enter("keeper")
	u.open("/h/1/proof/boards/set-1/1")
	u.see("aside h2", "Option A, ground")
	ground := func(at int) string {
		time.Sleep(200 * time.Millisecond)
		return u.page.MustElements("main section [data-specimen]")[at].MustEval(`() => getComputedStyle(this).backgroundColor`).Str()
	}
	u.page.MustElements("main section [data-specimen]")[3].MustElement("p").MustClick()
	u.see("aside h2", "Option D, type")
	u.page.MustElement("aside [aria-label='Colors of the library'] button[aria-label='Heather Cliff']").MustClick()
	u.see("[role=status]", "Heather Cliff is the type of D")
	u.click("aside button", "^exchange ground and type$")
	u.see("[role=status]", "Ground and type of D exchanged")
	assert.Equal(t, "rgb(122, 78, 126)", ground(3))
	u.click("[role=status] button", "Undo")
	u.see("[role=status]", "It is as it was")
	assert.Equal(t, "rgb(247, 245, 240)", ground(3))

	// What cannot be read is said where it is.
	u.page.MustElement("aside [aria-label='Colors of the library'] button[aria-label='Lamp']").MustClick()
	u.see("main section[aria-label='Option D']", "Not legible: word 1.6 of 3")
	u.see("main section[aria-label='Option D']", "Rule: Lamp may not stand on Hull White")
	u.see("aside", "Rule: Lamp may not stand on Hull White")

	u.page.MustElement("aside select").MustSelect("Spectral, serif for reading")
	u.see("[role=status]", "D is set in another typeface")
	dir := t.TempDir()
	font := filepath.Join(dir, "house.ttf")
	require.NoError(t, os.WriteFile(font, goregular.TTF, 0o600))
	u.page.MustElement("aside input[accept='.woff2,.ttf,.otf']").MustSetFiles(font)
	u.see("[role=status]", "D is set in Go")
	require.NoError(t, os.WriteFile(font, []byte("hello"), 0o600))
	u.page.MustElement("aside input[accept='.woff2,.ttf,.otf']").MustSetFiles(font)
	u.see("aside [role=alert]", "this is no font")

	drawing := filepath.Join(dir, "mark.svg")
	require.NoError(t, os.WriteFile(drawing, []byte(`<svg xmlns="http://www.w3.org/2000/svg" viewBox="0 0 100 50" width="100" height="50"><rect width="100" height="50" fill="#12AB34"/></svg>`), 0o600))
	u.page.MustElement("aside input[accept='.svg,.png']").MustSetFiles(drawing)
	u.see("[role=status]", "The logo is on the board")
	u.page.MustElement("main section[aria-label='Option D'] img")

	// Own texts, in one option only.
	u.page.MustElementR("aside label", "in every option").MustElement("input").MustClick()
	u.page.MustElementR("aside label", "^Headline").MustElement("input").MustSelectAllText().MustInput("Only here")
	u.see("[role=status]", "The texts of D are changed")
	u.see("main section[aria-label='Option D']", "Only here")
	u.see("main section[aria-label='Option A']", "Winter crossings start Monday")

	u.click("aside button", "^duplicate$")
	u.see("main section[aria-label='Option E']", "Only here")
	u.click("aside button", "^earlier$")
	u.see("[role=status]", "E is D now")
	u.click("aside button", "^remove D$")
	u.see("[role=status]", "D removed")
	u.accessible("a board that is worked on")

	// A picture of the sheet has the logo's color in it.
	u.click("main button", "^fix it only$")
	u.see("main article", "Sheet 2")
	wait := u.page.Browser().MustWaitDownload()
	u.page.MustElementR("main article a", "^PNG$").MustClick()
	img, err := png.Decode(bytes.NewReader(wait()))
	require.NoError(t, err)
	found := false
	for y := 0; y < img.Bounds().Dy() && !found; y += 4 {
		for x := 0; x < img.Bounds().Dx() && !found; x += 4 {
			found = color.NRGBAModel.Convert(img.At(x, y)) == color.NRGBA{0x12, 0xAB, 0x34, 0xFF}
		}
	}
	assert.True(t, found, "the drawing is on the sheet")
}

// By keyboard alone: a board is made of the subject, a part is reached and changed, and it is fixed.
func TestBoardsByKeyboard(t *testing.T) {
	u := visit(t)
	u.enter("keeper")
	u.open("/h/1/proof/boards/set-1")
	u.see("main", "1 board")
	reach := func(text string) {
		t.Helper()
		for range 80 {
			u.press(input.Tab)
			if strings.Contains(u.focus(), text) {
				return
			}
		}
		t.Fatalf("the keyboard does not reach %q", text)
	}
	reach("Options from this subject")
	u.press(input.Enter)
	u.see("main", "most different first")
	reach("Make a board of these 4")
	u.press(input.Enter)
	u.see("aside h2", "Option A, ground")
	reach("Deep Sound type")
	u.press(input.Enter)
	u.see("aside h2", "type")
	reach("Saltmarsh")
	u.press(input.Enter)
	u.see("[role=status]", "Saltmarsh is the type of")
	reach("exchange ground and type")
	u.press(input.Enter)
	u.see("[role=status]", "exchanged")
	reach("fix it only")
	u.press(input.Enter)
	u.see("main article", "Sheet 1")
}
