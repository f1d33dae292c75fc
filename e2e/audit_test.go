package e2e

import (
	"archive/zip"
	"bytes"
	"encoding/base64"
	"fmt"
	"os"
	"path/filepath"
	"strings"
	"testing"
	"time"

	"github.com/go-rod/rod/lib/input"
	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"huekeep/core/audit/kinds"
	"huekeep/demo"
)

// fetched is what the browser gets when a link of the page is followed.
func (u *user) fetched(selector, pattern string) []byte {
	u.t.Helper()
	href := u.find(selector, pattern).MustProperty("href").Str()
	v, err := u.page.Eval(`async (href) => {
		const bytes = new Uint8Array(await (await fetch(href)).arrayBuffer());
		let s = ''; for (const b of bytes) s += String.fromCharCode(b); return btoa(s);
	}`, href)
	require.NoError(u.t, err)
	return decoded(u.t, v.Value.Str())
}

// A project file comes in with 254 where 255 should be, in parts nobody opened: judged, put right in one go, downloaded.
func TestADriftedFileIsPutRight(t *testing.T) {
	u := visit(t)
	u.enter("contributor")
	deck := demo.TimetableDeck()
	path := filepath.Join(t.TempDir(), deck.Name)
	require.NoError(t, os.WriteFile(path, deck.Data, 0o644))
	u.open("/h/1/audit")
	u.steps += 2 // "Judge files", and choosing it in the system's dialog
	u.page.MustElement("input[aria-label='Files to judge']").MustSetFiles(path)
	u.see("h1", deck.Name)
	u.within(2, "a project file judged")
	u.click("main button", "^Repaint 11 uses$")
	u.see("h1", "winter-timetable, repainted.pptx")
	u.see("main", "all others are byte for byte as they were")
	u.steps++ // "Download"
	file := u.fetched("main a", "^Download$")
	u.within(2, "every drifted color in it repaired and the file downloaded")
	scan, err := kinds.Read(deck.Name, file)
	require.NoError(t, err)
	for _, use := range scan.Uses {
		assert.NotContains(t, []string{"#E1572C", "#F2B530", "#C8D0D2", "#D9482B"}, use.RGB.Hex(), use.Where)
	}
	u.accessible("repainted")

	// What differs on purpose is excused with a reason; the next run says so.
	u.click("main a", "^project$")
	u.click("main a", deck.Name)
	u.see("h1", deck.Name)
	u.steps = 0
	u.click("[role=row] .value", "#00A34F")
	u.paste("aside textarea", "The partner line's own mark")
	u.click("aside button", "^Excuse 1 use$")
	u.see("[role=status]", "#00A34F is excused")
	u.within(3, "one found color excused in a project, with a reason")
	u.see("[role=row]", "excused since")
	u.see("aside", "The next run counts it so")
	assert.False(t, u.page.MustHas("aside textarea"), "it is not excused twice")
	u.click("main button", "^judge again$")
	u.see("[role=row]", "excused")
	u.see("[role=status]", "Judged again")

	// The plan: an off-brand color becomes one that somebody chose.
	u.click("main a", "^Repaint plan$")
	u.see("h1", deck.Name)
	u.accessible("repaint plan")
	u.click("[role=row] button", "^Ice Ramp$")
	u.see("main", "12 uses become brand colors")
	u.click("main a", "^back to the verdicts$")
	u.click("main a", "^Repaint plan$")
	u.see("main", "12 uses become brand colors")
	u.click("main button", "^keep under a name$")
	u.typed("Winter decks")
	u.click("main button", "^Keep the plan$")
	u.see("[role=status]", "The plan Winter decks is kept")
	// Who goes elsewhere meanwhile stays there, and is told.
	button := u.find("main button", "^Repaint and judge again$")
	require.NoError(t, button.Timeout(patience).WaitEnabled())
	u.page.MustEval(`() => {
		[...document.querySelectorAll('main button')].find((b) => b.textContent.trim() === 'Repaint and judge again').click();
		[...document.querySelectorAll('nav a')].find((a) => a.textContent.includes('Library')).click();
	}`)
	u.see("[role=status]", "The repaint of .* is done")
	assert.Contains(t, u.page.MustInfo().URL, "/library")
	u.click("a", "^what was repainted$")
	u.see("main li", "Ice Ramp")
}

// Where a wrong color stands is looked at: in a drawing, in a page of a PDF and in the lines of a style sheet. A mark leads to its row, a row to its marks.
func TestWhereAFoundColorStandsIsSeen(t *testing.T) {
	u := visit(t)
	u.enter("contributor")
	judge := func(f demo.File) {
		t.Helper()
		path := filepath.Join(t.TempDir(), f.Name)
		require.NoError(t, os.WriteFile(path, f.Data, 0o644))
		u.open("/h/1/audit")
		u.page.MustElement("input[aria-label='Files to judge']").MustSetFiles(path)
		u.see("h1", f.Name)
	}
	judge(demo.HarborPoster())
	u.click("main a", "^see where$")
	u.see("aside h1", "^3 findings$")
	u.see(".mark .tag", "2")
	u.click(".mark .tag", "2")
	u.see("aside .chosen", "#E0562C")
	u.see("aside .chosen", "Buoy, 0.6")
	u.click("aside button", "#F3B633")
	u.find(".mark.chosen .tag", "3")
	u.accessible("a judged drawing")
	u.click("main button", "^this one alone$")
	require.Eventually(t, func() bool { return !u.page.MustHas(".mark") }, patience, 50*time.Millisecond)
	u.click("main button", "^before$")

	judge(demo.PrintedPoster())
	u.click("aside a", "^see it in the file$")
	u.see("aside .chosen", "#E1572C")
	u.see(".mark.chosen .tag", "1")
	u.click("main button", "^after$")
	u.see("main", "After: 1 found color changes, nothing else on this page moves \\(0 of [\\d,]+ other pixels\\)")
	line := u.find("[role=slider]", "before")
	line.MustFocus()
	require.NoError(t, u.page.Keyboard.Press(input.ArrowRight))
	u.until(`() => document.querySelector('[role=slider]').getAttribute('aria-valuenow') === '52'`)
	u.accessible("a page before and after")
	u.click("aside a", "^Repaint plan$")
	u.click("[role=row] button", "^leave$")
	u.click("main a", "^see it before and after$")
	u.see("main button[aria-pressed=true]", "^after, as planned$")
	u.see("main", "After: 0 found colors change, nothing else on this page moves")
	u.page.MustReload().MustWaitLoad()
	u.see("main", "After: 0 found colors change")
	u.click("main a", "^back to the plan$")
	u.see("[role=row] button[aria-pressed=true]", "^leave$")
	u.page.MustNavigateBack()
	u.click("main button", "^after, as proposed$")
	u.see("main", "After: 1 found color changes")
	u.click("aside button", "#0E3A53") // as it should be: where it is used
	u.find(".mark.chosen[aria-label*='on-brand']", ".?")
	assert.Contains(t, u.page.MustInfo().URL, "look=alone", "the view can be mailed")
	u.page.MustReload().MustWaitLoad()
	u.find(".mark.chosen[aria-label*='on-brand']", ".?")

	judge(demo.BookingStyles())
	u.click("main a", "^see where$")
	u.see("main .line", "--buoy: #[Ee]")
	u.click("aside button", "#2F80ED")
	u.see("main .line.hit", "#2F80ED")
	u.accessible("lines of a judged text")
	u.click("main button", "^this one alone$")
	u.see("main .line", "#2F80ED")
	require.Eventually(t, func() bool { return !u.page.MustHasR("main .line code", "--buoy") }, patience, 50*time.Millisecond)

	// A page of the web is shown as a browser shows it, also one that is no XML; nothing in it runs.
	judge(demo.File{Name: "pier.html", Data: []byte(`<!doctype html><style>:root{--sea:#0E3A54}header{background:var(--sea);height:40vh}</style><header @click=x v-on:a="1"><o:p>Pier 3</o:p></header>` +
		`<!-- a -- b --><table><tr><td bgcolor="#E1572C" width=300 height=80></table><script>document.body.innerHTML = ''</script>`)})
	u.click("main a", "^see where$")
	u.see(".mark .tag", "1")
	u.click(".mark .tag", "2")
	u.see("aside .chosen", "drifted")
	u.accessible("a judged page of the web")
	u.click("main button", "^as text$")
	u.see("main .line", "--sea:#0E3A54")
	u.click("main button", "^as a page$")
	u.click("main button", "^after$")
	u.find("[role=slider]", "before")

	judge(demo.TimetableDeck())
	u.click("main a", "^see where$")
	u.see("main", "page 1 of 6")
	u.click("aside button", "#E1572C")
	u.see("main", "page 3 of 6")
	u.see(".mark.chosen .tag", "1")
	u.click("main button", "^after$")
	u.see("main", "nothing else on this page moves")

	// And once it is done, from the file that was made.
	u.click("aside a", "^Repaint plan$")
	u.click("button", "^Repaint and judge again$")
	u.see("main", "became brand colors")
	u.click("main a", "^see it before and after$")
	u.see("main button[aria-pressed=true]", "^after, as repainted$")
	u.see("main", "Repainted: nothing on this page moves but found colors")
	u.page.MustReload().MustWaitLoad()
	u.see("main", "Repainted: nothing on this page moves but found colors")
	u.click("main a", "^back to what was repainted$")
	u.see("main", "became")
}

// What becomes of what comes as a list: what is no part of it is told, and where the old values are, before anything is done; and a paper says what was.
func TestAMapIsPasted(t *testing.T) {
	u := visit(t)
	u.enter("contributor")
	u.open("/h/1/audit")
	name := filepath.Join(t.TempDir(), "notice.css")
	require.NoError(t, os.WriteFile(name, []byte("a { color: #123ABC; fill: #0000F0 }\n"), 0o644))
	u.page.MustElement("input[aria-label='Files to judge']").MustSetFiles(name)
	u.see("h1", "notice.css")
	u.see("main", "#123ABC")
	u.click("aside button", "^say something, or give it to somebody$")
	u.typed("Old print?")
	u.page.MustElement("aside section[aria-label=Remarks] select").MustSelect("Keeper")
	u.click("aside button", "^Say it$")
	u.see("aside", "Old print\\?")
	u.see("[role=status]", "Keeper")
	u.accessible("a remark on a found color")
	u.click("main a", "^project$")
	u.see("aside", "for Keeper")
	u.open("/h/1/audit/plans")
	u.paste("aside textarea", "#123ABC → Buoy\nNowhere → Lamp\n654321, Lamp")
	u.click("aside button", "^Read the list$")
	u.see("aside", "1 line is no part of it")
	u.see("aside", "\"Nowhere\" is no value, and no color of the library")
	u.typed("New line")
	u.click("aside button", "^Keep the plan$")
	u.see("main", "1 use of the old values is in 1 project, as the newest runs tell. It leaves 1 use of 1 other color")
	u.see("main table", "#654321")
	u.accessible("where a plan applies")
	u.click("main a", "^notice.css$")
	u.see("h1", "notice.css")
	u.see("aside option:checked", "New line")
	u.click("aside button", "^Repaint 1 file$")
	u.see("main", "1 use became a brand color")
	assert.Contains(t, string(u.fetched("main a", "^paper to sign$")), "<h1>What was changed</h1>")
}

// One place of several is put right by itself.
func TestOnePlaceIsPutRight(t *testing.T) {
	u := visit(t)
	u.enter("contributor")
	u.open("/h/1/audit")
	name := filepath.Join(t.TempDir(), "two.css")
	require.NoError(t, os.WriteFile(name, []byte("a { color: #E1572C }\nb { fill: #E1572C }\n"), 0o644))
	u.page.MustElement("input[aria-label='Files to judge']").MustSetFiles(name)
	u.see("h1", "two.css")
	u.see("aside h2", "2 uses in 2 places")
	u.click("aside li", "two.css 2:11") // the list is there
	u.page.MustElementR("aside li", "two.css 2:11").MustElementR("button", "^repaint here only$").MustClick()
	u.see("main", "1 use became a brand color")
	u.see("main", "two.css 2:11")
	assert.Equal(t, "a { color: #E1572C }\nb { fill: #E2572B }\n", string(u.fetched("main a", "^Download$")))
}

// An old color has a successor: ten files are mapped to it at once.
func TestARebrandOfTenFiles(t *testing.T) {
	u := visit(t)
	u.enter("contributor")
	u.open("/h/1/audit/plans")
	u.page.MustElement("aside [aria-label='Color to make a plan from']").MustSelect("Old Funnel, retired")
	u.click("aside section[aria-label='From a color'] button", "^Propose$")
	u.click("aside button", "^Keep the plan$")
	u.see("[role=status]", "Old Funnel to Buoy is kept")

	dir := t.TempDir()
	var names []string
	for i := range 10 {
		name := filepath.Join(dir, fmt.Sprintf("page-%d.css", i))
		require.NoError(t, os.WriteFile(name, []byte(fmt.Sprintf(".a%d { color: #d9482b; fill: #E2572B }\n", i)), 0o644))
		names = append(names, name)
	}
	u.open("/h/1/audit")
	u.steps += 2
	u.page.MustElement("input[aria-label='Files to judge']").MustSetFiles(names...)
	u.see("h1", "page-0 and 9 more")
	u.see("main td", "page-9.css")
	u.steps++
	u.page.MustElement("aside select").MustSelect("Old Funnel to Buoy (1 color)")
	u.click("aside button", "^Repaint 10 files$")
	u.see("h1", "page-0 and 9 more, repainted.zip")
	u.see("main", "10 uses became brand colors; 10 of 10 parts changed")
	u.steps++
	data := u.fetched("main a", "^Download$")
	u.within(5, "a rebrand of ten files")
	z, err := zip.NewReader(bytes.NewReader(data), int64(len(data)))
	require.NoError(t, err)
	require.Len(t, z.File, 10)
	for _, f := range z.File {
		r, err := f.Open()
		require.NoError(t, err)
		var b bytes.Buffer
		_, err = b.ReadFrom(r)
		require.NoError(t, err)
		assert.True(t, strings.Contains(b.String(), "color: #e2572b; fill: #E2572B"), b.String())
	}

	// The project stays: it is judged again by adding what was put right, and says what was mended.
	u.click("main a", "^project$")
	for _, name := range names {
		text, err := os.ReadFile(name)
		require.NoError(t, err)
		require.NoError(t, os.WriteFile(name, bytes.ReplaceAll(text, []byte("#d9482b"), []byte("#e2572b")), 0o644))
	}
	u.see("h1", "page-0 and 9 more")
	time.Sleep(200 * time.Millisecond)
	u.page.MustElement("input[aria-label='Files to add']").MustSetFiles(names...)
	u.see("main", "Since run 1")
	u.see("main", "10 uses mended")
	u.accessible("project")
}

func decoded(t *testing.T, text string) []byte {
	data, err := base64.StdEncoding.DecodeString(text)
	require.NoError(t, err)
	return data
}

// A folder of 260 files and one of a kind that is not read: all are in the list, with what became of them; what was put right goes into the
// project as its next run, and a file that does not belong there goes out and comes back.
func TestAFolderIsJudgedAndPutRight(t *testing.T) {
	u := visit(t)
	u.enter("contributor")
	folder := t.TempDir()
	paths := []string{filepath.Join(folder, "notes.xyz")}
	require.NoError(t, os.WriteFile(paths[0], []byte{0, 1, 2}, 0o644))
	for i := range 260 {
		path := filepath.Join(folder, fmt.Sprintf("page-%03d.css", i))
		require.NoError(t, os.WriteFile(path, []byte("a{color:#E1572C}"), 0o644))
		paths = append(paths, path)
	}
	u.open("/h/1/audit")
	u.page.MustElement("input[aria-label='Files to judge']").MustSetFiles(paths...)
	u.see("h1", "^notes and 260 more$")
	u.see("main td", "not read: it is of a kind that is not read")
	u.see("main", "260 files")
	u.click("aside button[aria-label='take out page-000.css']", "take out")
	u.see("[role=status]", "page-000.css is out of the project")
	u.click("[role=status] button", "Undo")
	u.see("[role=status]", "It is as it was")
	u.click("aside button", "^Repaint 260 files$")
	u.see("h1", "repainted.zip")
	u.click("main button", "^Take into the project and judge$")
	u.see("aside h2", "^Run 2$")
	u.see("main", "100.0 % on-brand, 260 files")
	u.see("main", "260 uses mended")
}
