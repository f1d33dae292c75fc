package e2e

import (
	"fmt"
	"io"
	"os"
	"path/filepath"
	"strings"
	"testing"

	"github.com/go-rod/rod/lib/input"
	"github.com/go-rod/rod/lib/proto"
	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"huekeep/core/color"
	"huekeep/core/press"
)

// tenPages is a manual of ten pages as this browser prints it: six colors on two of them, the RGB of one with two digits the wrong way round.
func tenPages(t *testing.T, u *user) string {
	t.Helper()
	colors := []struct{ name, hex, rgb string }{
		{"Kelp Forest", "#2E4A3F", "46 74 63"}, {"Gull", "#DADFE1", "218 223 225"}, {"Rope", "#B08D57", "176 141 75"},
		{"Signal", "#C8102E", "200 16 46"}, {"Deckhouse", "#F4E9D8", "244 233 216"}, {"Bilge", "#4A3B52", "74 59 82"},
	}
	var b strings.Builder
	b.WriteString("<meta charset=utf-8><style>*{-webkit-print-color-adjust:exact}body{font:11pt sans-serif}section{break-after:page}article{display:inline-block;width:45%;margin:2%}i{display:block;height:70pt}</style>")
	for page := 1; page <= 10; page++ {
		fmt.Fprintf(&b, "<section><h1>Chapter %d</h1>", page)
		if page == 4 || page == 5 {
			for _, c := range colors[(page-4)*3 : (page-3)*3] {
				fmt.Fprintf(&b, "<article><i style='background:%s'></i><b>%s</b><br>HEX %s<br>RGB %s<br>CMYK %s</article>", c.hex, c.name, c.hex, c.rgb, built(c.hex))
			}
		} else {
			b.WriteString("<p>The ferries have sailed since 1921, from 6 to 22, every 40 minutes. Call 555 014 220.</p>")
		}
		b.WriteString("</section>")
	}
	page := u.page.Browser().MustPage("about:blank")
	defer page.MustClose()
	page.MustSetDocumentContent(b.String())
	r, err := page.PDF(&proto.PagePrintToPDF{PrintBackground: true})
	require.NoError(t, err)
	data, err := io.ReadAll(r)
	require.NoError(t, err)
	path := filepath.Join(t.TempDir(), "harbor-manual.pdf")
	require.NoError(t, os.WriteFile(path, data, 0o600))
	return path
}

// built is the build of a color on coated paper.
func built(hex string) string {
	t, err := color.ParseCSS(hex)
	if err != nil {
		return err.Error()
	}
	return press.Coated().Build(t.RGB.Lab()).Whole.String()
}

func TestFromATenPageManualToTheLibrary(t *testing.T) {
	u := visit(t)
	u.enter("keeper")
	path := tenPages(t, u)
	u.open("/h/1/gather/file")
	u.choose(path)
	u.see("main", "10 pages, 6 colors written on 2 of them. 5 agree with themselves. One does not: look, and choose.")
	u.see("main li", "176 141 75 is \\d+\\.\\d [a-z]+ from #B08D57\\.")
	u.see("main button[aria-pressed=true]", "page 4")
	assert.True(t, u.page.MustHas(`img[alt="Page 4"]`), "the page stands beside it")
	assert.True(t, u.page.MustHas(`button.place.here[aria-label="Rope on the page"]`), "and the place is marked")
	u.accessible("a manual in gather")
	u.click("main li button", "^176 141 75$")
	u.click("main button", "^Admit 6 colors as Harbor manual$")
	u.see("[role=status]", "6 colors admitted to the library, and on the swatch set Harbor manual")
	u.within(4, "a ten-page manual to the admitted library")
	sets, err := u.keeper.Send.Sets(t.Context(), u.actor())
	require.NoError(t, err)
	var said []string
	for _, c := range sets[len(sets)-1].Members {
		b, _ := c.Build("coated")
		said = append(said, c.Name+" "+c.RGB.Hex()+" "+b.Value.String())
	}
	assert.Equal(t, []string{
		"Kelp Forest #2E4A3F " + built("#2E4A3F"), "Gull #DADFE1 " + built("#DADFE1"), "Rope #B08D4B " + built("#B08D57"),
		"Signal #C8102E " + built("#C8102E"), "Deckhouse #F4E9D8 " + built("#F4E9D8"), "Bilge #4A3B52 " + built("#4A3B52"),
	}, said, "as they stand in the manual, Rope with the value that was chosen")
}

// The first hour of a newcomer, by real clicks and keys: an empty house, the manual, the logo, a mail, the first edition.
func TestTheFirstHour(t *testing.T) {
	u := visit(t)
	u.enter("keeper")
	manual := tenPages(t, u)
	logo := writePicture(t, "museum-logo.png", 300, 200, func(x, y int) string {
		switch {
		case (x-90)*(x-90)+(y-100)*(y-100) < 70*70:
			return "#1B4D89"
		case x > 180 && x < 240 && y > 60 && y < 140:
			return "#F28C28"
		}
		return "#FFFDF7"
	})
	u.open("/h/1/house")
	u.steps = 0
	u.paste("aside input[aria-label='Name of the new house'], main input[aria-label='Name of the new house']", "Quay Museum")
	u.click("button", "^Make it$")
	u.see("summary", "Quay Museum")

	u.click("header a, nav a", "^Gather$")
	u.choose(manual)
	u.see("main", "One does not: look, and choose.")
	u.click("main li button", "^176 141 75$")
	u.click("main button", "^Admit 6 colors as Harbor manual$")
	u.see("[role=status]", "6 colors admitted to the library")

	u.choose(logo)
	u.see("main h2", "museum-logo.png")
	u.paste("input[aria-label='Name of point 1']", "Paper")
	u.paste("input[aria-label='Name of point 2']", "Harbor Blue")
	u.paste("input[aria-label='Name of point 3']", "Buoy Orange")
	require.NoError(t, u.page.Keyboard.Press(input.Tab))
	u.paste("main input[list=bring-sets]", "Logo")
	u.click("main button", "^Admit 3 colors as Logo$")
	u.see("[role=status]", "3 colors admitted to the library, and on the swatch set Logo")

	u.click("main a", "^Type or paste$")
	u.paste("#paste", "Hello Kim,\nhere are the two from the printer:\nSailcloth  C 8 M 10 Y 22 K 0\nNight Tide #14213D\nBest, Ada")
	u.click("main button", "^Put 2 colors on the tray$")
	u.see("aside", "2 candidates")
	u.paste("aside input[list=tray-sets]", "Harbor manual")
	u.click("aside button", "^Admit 2 colors$")
	u.see("[role=status]", "2 colors admitted")

	u.click("header a, nav a", "^Send$")
	u.click("main a", "Harbor manual")
	u.click("aside button", "^Fix as edition 1$")
	u.see("[role=status]", "[Ee]dition 1")
	u.within(39, "an empty house to its first edition")
}
