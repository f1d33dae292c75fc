package e2e

import (
	"context"
	"fmt"
	"io"
	"os"
	"os/exec"
	"path/filepath"
	"strings"
	"testing"

	"github.com/go-rod/rod/lib/input"
	"github.com/go-rod/rod/lib/proto"
	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"huekeep/e2e/browser"
	"huekeep/keep/gathering"
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

// Many colors at once: a run with Shift, single ones with Ctrl, a group, all that are shown; their tints are copied in one go.
func TestManyAreMarkedAndTheirTintsCopied(t *testing.T) {
	u := visit(t)
	u.enter("keeper")
	row := func(name string) { u.click("[role=row] span.line-clamp-2", name) }
	box := func(label string) {
		u.steps++
		e, err := u.page.Timeout(patience).Element(`input[aria-label="` + label + `"]`)
		require.NoError(t, err, label)
		require.NoError(t, e.Click(proto.InputMouseButtonLeft, 1), label)
	}
	with := func(k input.Key, f func()) {
		require.NoError(t, u.page.Keyboard.Press(k))
		f()
		require.NoError(t, u.page.Keyboard.Release(k))
	}
	box("Mark Deep Sound")
	with(input.ShiftLeft, func() { row("Replaced|use Buoy") })
	u.see("form b", "^5 marked")
	u.page.MustElement("[aria-label='What to copy']").MustSelect("tints 80 to 20 %")
	u.steps++
	u.click("form button", "^Copy 5")
	u.see("[role=status]", "20 lines copied")
	u.within(4, "five colors tinted and copied")
	text := u.clipboard()
	assert.Equal(t, 20, len(strings.Split(text, "\n")))
	assert.True(t, strings.HasPrefix(text, "Deep Sound 80 %\t#"), text)

	with(input.ControlLeft, func() { row("use Buoy") })
	u.see("form b", "^4 marked")
	box("Mark the 2 of Hull")
	u.see("form b", "^2 marked")
	box("Mark the 2 of Hull")
	u.see("form b", "^4 marked")
	// What is marked in part is drawn by a pseudo-element, which Rod takes for something in front of it: by the keyboard then.
	require.NoError(t, u.page.MustElement(`input[aria-label="Mark all 10 that are shown"]`).Focus())
	require.NoError(t, u.page.Keyboard.Type(input.Space)) // which counts when it is let go
	u.see("form b", "^10 marked")
	u.paste("input[placeholder='name, value or rule']", "lamp")
	u.see("form b", "10 marked, 9 not shown")
	u.accessible("many that are marked")
}

// On paper: every color with its whole rule, and on each page whose it is, for which press, and which page of how many.
func TestThePrintedLibrary(t *testing.T) {
	u := visit(t)
	_, err := u.keeper.Gathering.AddToTray(context.Background(), u.actor(), manyLines(60))
	require.NoError(t, err)
	tray, err := u.keeper.Gathering.Tray(context.Background(), u.actor())
	require.NoError(t, err)
	var items []int64
	for _, c := range tray {
		items = append(items, c.ID)
	}
	_, err = u.keeper.Gathering.Admit(context.Background(), u.actor(), gathering.Admission{Items: items})
	require.NoError(t, err)
	u.enter("reader")
	u.open("/h/1/library/2")
	u.see("[role=row]", "Buoy")
	out, err := u.page.PDF(&proto.PagePrintToPDF{PreferCSSPageSize: true, PrintBackground: true})
	require.NoError(t, err)
	file := filepath.Join(t.TempDir(), "library.pdf")
	data, err := io.ReadAll(out)
	require.NoError(t, err)
	require.NoError(t, os.WriteFile(file, data, 0o600))
	if _, err := exec.LookPath("pdftotext"); err != nil && os.Getenv("CI") == "" {
		t.Skip("pdftotext is not installed")
	}
	text, err := exec.Command("pdftotext", "-layout", file, "-").Output()
	require.NoError(t, err)
	pages := strings.Split(strings.TrimRight(string(text), "\f\n"), "\f")
	require.Greater(t, len(pages), 2)
	for i, p := range pages {
		assert.Contains(t, p, "Odelwick Ferries")
		assert.Contains(t, p, fmt.Sprintf("page %d of %d", i+1, len(pages)))
		assert.Contains(t, p, "CMYK and distances for coated paper")
		assert.Contains(t, p, "Hex, RGB", "the head stands on each page")
	}
	all := strings.Join(strings.Fields(string(text)), " ")
	for _, part := range []string{"#E2572B", "226 87 43", "0 77 92 6", "QN-0076", "Line 59"} {
		assert.Contains(t, all, part)
	}
	assert.NotContains(t, all, "Nearest inks", "the sheet stays on the screen")
}

func manyLines(n int) string {
	var b strings.Builder
	for i := range n {
		fmt.Fprintf(&b, "Line %d #%02X%02X%02X\n", i, 20+i*3, 200-i*2, 90+i)
	}
	return b.String()
}
