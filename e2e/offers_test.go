package e2e

import (
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"huekeep/e2e/browser"
)

// A keeper lets a color lie over another one, and looks for an ink of another class; both stand on the sheet.
func TestASheerIsKeptAndInksAreOfAClass(t *testing.T) {
	u := visit(t)
	u.enter("keeper")
	u.click(`a`, `^Buoy`)
	u.see("aside h2", "Buoy")
	u.click("aside h3 button", "keep some")
	u.paste(`[aria-label="Sheers, opacity"]`, "40 70")
	u.page.MustElement(`select[aria-label=over]`).MustSelect("Deep Sound")
	u.steps++
	u.click("button", "Keep these")
	u.see("aside li", "#634643") // 0.4·226 + 0.6·14 and so on
	u.see("aside li", `rgb\(226 87 43 / 70%\)`)
	u.within(5, "two opacities over a color are kept")

	u.page.MustElement(`[aria-label="of class: the inks to choose from"]`).MustSelect("metallic")
	u.see("aside li", "metallic")
	u.click("aside button", "^approve$")
	u.see("[role=status]", "approved")
	u.page.MustElement("aside h2").MustWaitVisible()
	u.accessible("the sheet with sheers")
}

// A picker of the screen stays on until somebody ends it; what it picked stands where one types.
func TestPickingFromTheScreenStaysOn(t *testing.T) {
	s := serve(t)
	b, stop, err := browser.Start()
	require.NoError(t, err)
	t.Cleanup(stop)
	p, err := browser.Open(b, s.url)
	require.NoError(t, err)
	p.MustEvalOnNewDocument(`
		const picked = ['#e2572b', '#0e3a53', '#f2b632']
		window.EyeDropper = class {
			open() {
				const next = picked.shift()
				return next ? Promise.resolve({ sRGBHex: next }) : Promise.reject(new DOMException('ended', 'AbortError'))
			}
		}`)
	u := &user{site: s, t: t, page: p.Timeout(patience)}
	u.page.MustReload().MustWaitLoad()
	u.enter("keeper")
	u.open("/h/1/gather/paste")
	u.click("button", "Pick from the screen")
	u.see("#understood", "3 colors understood")
	u.see("button", "Pick from the screen")
	assert.Equal(t, "#E2572B\n#0E3A53\n#F2B632", u.page.MustElement("#paste").MustProperty("value").Str())
}
