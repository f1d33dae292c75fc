package e2e

import (
	"context"
	"net/url"
	"os"
	"path/filepath"
	"regexp"
	"strconv"
	"strings"
	"syscall"
	"testing"
	"time"

	"github.com/go-rod/rod/lib/input"
	"github.com/go-rod/rod/lib/proto"
	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"huekeep/demo"
	"huekeep/keep/ledger"
	"huekeep/keep/stations"
	"huekeep/store"
	"huekeep/store/local"
	"huekeep/store/storetest"
)

// mailed waits for the letter to somebody and returns the link in it.
func (u *user) mailed(to string) string {
	u.t.Helper()
	l, ok := u.post.Await(to, "")
	require.True(u.t, ok, "no letter to %s", to)
	return regexp.MustCompile(`http://\S+/welcome#\S+`).FindString(l.Text)
}

// elsewhere is somebody else, who shares nothing with this browser.
func (u *user) elsewhere() *user {
	u.t.Helper()
	page := u.page.Browser().MustIncognito().MustPage(u.url)
	u.t.Cleanup(page.MustClose)
	page.MustSetViewport(1280, 800, 1, false).MustWaitLoad()
	return &user{site: u.site, t: u.t, page: page.Timeout(2 * time.Minute)}
}

func TestFromInvitationToFirstPaste(t *testing.T) {
	u := visit(t)
	u.enter("keeper")
	u.click("summary", "Odelwick Ferries")
	u.click("a", "^People$")
	u.paste("aside input[type=email]", "nia@x.example")
	u.click("button", "Mail the invitation")
	u.see("[role=status]", "on its way to nia@x.example")
	u.see("li", "nia@x.example, as a contributor")
	u.accessible("people")

	nia := u.elsewhere()
	nia.page.MustNavigate(u.mailed("nia@x.example")).MustWaitLoad()
	nia.see("p", "Keeper invites you to the color library of Odelwick Ferries, as a contributor")
	nia.paste("input[autocomplete=name]", "Nia Quay")
	nia.paste("input[autocomplete=new-password]", "qwertyuiop")
	nia.click("button", "Join Odelwick Ferries")
	nia.see("[role=alert]", "most common passwords")
	nia.paste("input[autocomplete=new-password]", "a quiet harbor wall")
	nia.click("button", "Join Odelwick Ferries")
	nia.see("h1", "^Library$")
	assert.NotContains(t, nia.page.MustInfo().URL, "welcome", "the link is not left in the address")
	nia.open("/h/1/gather")
	nia.paste("#paste", "Night Boat #102030")
	nia.click("button", "^Put 1")
	nia.see("aside", "1 candidate")

	// She is taken out of the house while she works.
	u.see("td", "Nia Quay")
	row := u.find("tr", "Nia Quay")
	row.MustElementR("button", "end membership").MustClick()
	row.MustElementR("button", "End it").MustClick()
	u.see("[role=status]", "Nia Quay is out of Odelwick Ferries")
	nia.page.MustNavigate(u.url + "/h/1/library")
	nia.see("button", "^Sign in$")
}

func TestForgottenPassword(t *testing.T) {
	u := visit(t)
	u.click("button", "I forgot my password")
	u.paste("input[type=email]", "reader@odelwick.example")
	u.click("button", "Mail me a link")
	u.see("[role=status]", "If there is an account for reader@odelwick.example")
	u.within(3, "asking for a new password")
	u.page.MustNavigate(u.mailed("reader@odelwick.example")).MustWaitLoad()
	u.page.MustReload().MustWaitLoad() // only the part behind the number sign is another
	u.paste("input[type=password]", "another harbor wall")
	u.click("button", "Set this password")
	u.see("h1", "^Library$")
	u.see("header", "Reader")
}

func TestSettingsOfTheHouse(t *testing.T) {
	u := visit(t)
	u.enter("keeper")
	u.open("/h/1/house")
	u.accessible("settings")
	mark := filepath.Join(t.TempDir(), "mark.svg")
	require.NoError(t, os.WriteFile(mark, []byte(`<svg xmlns="http://www.w3.org/2000/svg" width="60" height="30"><rect width="60" height="30" fill="#fff"/></svg>`), 0o600))
	u.page.MustElement("input[aria-label='Mark of the house']").MustSetFiles(mark)
	u.see("[role=status]", "The mark is on the frame")
	u.page.MustElement("header img")
	u.click("button", "without a mark")
	u.see("[role=status]", "The mark is gone")
	u.click("nav[aria-label='Views of the house'] a", "^People$") // what was done can be taken back, wherever one goes
	u.click("summary", "^Keeper$")
	u.click("li button", "take back")
	u.page.MustElement("header img")
	u.click("nav[aria-label='Views of the house'] a", "^Settings$")
	u.click("button", "Change the settings")
	u.page.MustElement("main input[required]").MustSelectAllText().MustInput("Odelwick Lines")
	u.page.MustElementR("label", "^RGB").MustElement("select").MustSelect("14, 58, 83")
	u.page.MustElementR("label", "^Press").MustElement("select").MustSelect("newsprint, web offset")
	u.click("button", "Set it so")
	u.see("header", "Odelwick Lines")
	u.see("main dd", "newsprint, web offset; inks on coated paper")
	u.open("/h/1/library/2")
	u.see("aside", "226, 87, 43")
	u.see("aside", "Press, newsprint")
	u.see("[role=columnheader]", "CMYK newsprint")

	// A trail of all that.
	u.open("/h/1/house/trail")
	u.accessible("trail")
	u.see("[role=row]", "changed the settings of the house")
	u.find("[role=row] button", "changed the settings of the house").MustClick()
	u.see("aside td", "Odelwick Ferries")
	u.see("aside td", "Odelwick Lines")

	// A second house, empty, and the way back out of it.
	u.open("/h/1/house")
	u.paste("input[aria-label='Name of the new house']", "Quay Kiosk")
	u.click("button", "^Make it$")
	u.see("header", "Quay Kiosk")
	u.see("main", "Paste what you were sent") // first steps
	u.click("summary", "Quay Kiosk")
	u.click("a", "^Settings$")
	u.click("button", "Give this house up")
	u.paste("aside form input[autocomplete=off]", "Quay Kiosk")
	u.click("button", "Give up Quay Kiosk")
	u.see("[role=status]", "deleted in a week")
	u.click("summary", "Odelwick")
	u.click("button", "Take it back")
	u.see("[role=status]", "Quay Kiosk is open again")
}

func TestOwnAccountInTheBrowser(t *testing.T) {
	u := visit(t)
	u.enter("contributor")
	u.click("summary", "^Contributor$")
	u.click("a", "Your account")
	u.see("h1", "Your account")
	u.accessible("account")
	u.paste("form input[maxlength='120']", "site build")
	u.click("button", "Make a token")
	u.see("main", "hk_")
	u.see("li", "site build")
	other := u.elsewhere()
	other.enter("contributor")
	u.page.MustReload().MustWaitLoad()
	u.click("button", "End all others")
	u.see("[role=status]", "All other sessions")
	other.page.MustNavigate(u.url + "/h/1/library")
	other.see("button", "^Sign in$")
}

func TestFindAnything(t *testing.T) {
	u := visit(t)
	u.enter("reader")
	u.open("/h/1/send/1")
	u.press(input.Slash)
	field := u.page.MustElement("input[aria-label='Find anything']")
	for text, found := range map[string]string{"#E1572C": "0.3 invisible", "QN-0413": "Ice Ramp", "safety film": "Safety film", "never as text": "Lamp", "ticket": "Ticket office"} {
		field.MustSelectAllText().MustInput(text)
		u.see("[role=option]", found)
	}
	field.MustSelectAllText().MustInput("buoy")
	u.see("[role=option][aria-selected=true]", "Buoy")
	u.press(input.Enter)
	u.see("aside h2", "Buoy")
}

// What was found is where the keyboard goes on: from a word to a new edition in under ten keys, and from the ledger to the sheet in one.
func TestTheKeyboardGoesOn(t *testing.T) {
	u := visit(t)
	sheet, err := u.keeper.Ledger.Sheet(context.Background(), u.actor(), 2)
	require.NoError(t, err)
	value := "#E05528"
	require.NoError(t, u.keeper.Ledger.ChangeColor(context.Background(), u.actor(), 2, ledger.Change{Version: sheet.Row.Version, Value: &value}))
	u.enter("keeper")
	u.open("/h/1/library/2")
	u.see("aside h2", "Buoy")
	u.press(input.Slash)
	u.page.MustElement("input[aria-label='Find anything']").MustInput("charts")
	u.see("[role=option][aria-selected=true]", "Charts")
	u.press(input.Enter)
	u.see("aside h2", "^Charts$")
	u.until(`() => document.activeElement.tagName === 'ASIDE'`)
	tabs := 0
	for ; tabs < 10 && !u.page.MustEval(`() => /^Fix as edition/.test(document.activeElement.textContent.trim()) && document.activeElement.tagName === 'BUTTON'`).Bool(); tabs++ {
		u.press(input.Tab)
	}
	assert.Less(t, tabs, 10, "keys from a found set to its new edition")
	u.press(input.Enter)
	u.see("[role=status]", "Charts is fixed as edition 2")

	u.open("/h/1/library/2")
	u.see("aside h2", "Buoy")
	u.page.MustElement("[role=row][aria-selected=true]").MustFocus()
	u.press(input.Enter)
	u.until(`() => document.activeElement.tagName === 'ASIDE'`)
	u.open("/h/1/library/2")
	u.press(input.Tab)
	assert.Equal(t, "To the work", u.page.MustEval(`() => document.activeElement.textContent`).Str())
	u.press(input.Enter)
	u.until(`() => document.activeElement.tagName === 'MAIN'`)
}

// The database goes away in the middle of typing, and comes back: nothing typed is lost, and the page goes on by itself.
func TestTheDatabaseIsAwayWhileTyping(t *testing.T) {
	t.Parallel()
	dir := t.TempDir()
	ctx, stop := context.WithCancel(context.Background())
	s, err := local.Start(ctx, dir)
	require.NoError(t, err)
	t.Cleanup(func() { _ = s.Stop() })
	t.Cleanup(stop)
	require.NoError(t, s.Create(ctx, "away", true))
	db, err := store.Open(ctx, s.DSN("away"))
	require.NoError(t, err)
	t.Cleanup(func() { _ = db.Close() })
	u := look(t, serveFrom(t, db))
	u.enter("keeper")
	u.open("/h/1/gather")
	u.paste("#paste", "Night Boat #102030")
	u.see("button", "^Put 1")
	text, err := os.ReadFile(filepath.Join(dir, "mariadb.pid"))
	require.NoError(t, err)
	pid, err := strconv.Atoi(strings.TrimSpace(string(text)))
	require.NoError(t, err)
	require.NoError(t, syscall.Kill(pid, syscall.SIGKILL))
	u.click("button", "^Put 1")
	u.see("[role=status]", "Back in a moment")
	u.page.MustElement("#paste").MustInput("\nDay Boat #405060")
	time.Sleep(8 * time.Second)
	assert.Contains(t, u.page.MustElement("#paste").MustProperty("value").Str(), "Day Boat")
	go s.Guard(ctx) // it is started again
	u.until(`() => !document.body.innerText.includes('Back in a moment')`)
	u.see("aside", "1 candidate")
	assert.Equal(t, "Day Boat #405060", u.page.MustElement("#paste").MustProperty("value").Str(), "what was typed behind it is still there")
	rows, err := db.Tray(1, 1)
	require.NoError(t, err)
	assert.Len(t, rows, 1, "what was sent when it was away was done once")
}

// A coordinator beside a press: the value, from the list, with a finger.
func TestOnAPhone(t *testing.T) {
	u := visit(t)
	u.enter("reader")
	require.NoError(t, u.keeper.Audits.LoadDemo(context.Background()))
	u.page.MustSetViewport(390, 844, 1, true)
	u.open("/h/1/library")
	u.see("main", "Buoy")
	u.steps = 0
	u.click("[role=row] button[aria-label^='Copy'][aria-label$='of Buoy']", "^copy$")
	u.see("[role=row] button", "^copied$")
	assert.Equal(t, "#E2572B", u.clipboard())
	u.within(1, "a hex on the clipboard, on a phone")
	u.page.MustElement("#find").MustInput("buoy")
	u.steps++
	u.click("[role=row] a", "Buoy")
	u.see("aside h2", "Buoy")
	assert.False(t, u.page.MustElement("[role=grid]").MustVisible(), "the sheet is a page of its own")
	u.click("aside button.value", "0 77 92 6")
	u.see("[role=status]", "copied")
	assert.Equal(t, "0 77 92 6", u.clipboard())
	u.within(3, "a color looked up and copied on the phone")
	u.accessible("a sheet on a phone")
	u.page.MustNavigateBack()
	u.see("[role=row]", "Buoy")
	assert.Equal(t, "buoy", u.page.MustElement("#find").MustProperty("value").Str(), "the list stands as it stood")
	u.click("[role=row] a", "Buoy")
	u.click("aside a", "‹ Library")
	u.see("[role=row]", "Buoy")
	u.accessible("the library on a phone")
	for _, path := range []string{"/h/1/library", "/h/1/library/2", "/h/1/library/view/plane", "/h/1/audit", "/h/1/audit/1", "/h/1/audit/1/plan", "/h/1/send", "/h/1/send/1", "/h/1/send/recipients", "/h/1/send/recipients/1", "/h/1/send/loading", "/h/1/send/loading/office-file",
		"/h/1/proof/contrast/set-1", "/h/1/proof/work/set-1", "/h/1/gather", "/h/1/house/people", "/h/1/account"} {
		u.open(path)
		u.see("main", ".")
		assert.Empty(t, u.page.MustEval(`() => [...document.querySelectorAll('main, aside, main *, aside *')].filter(e => e.checkVisibility() && e.scrollWidth > e.clientWidth + 1 &&
			['auto', 'scroll'].includes(getComputedStyle(e).overflowX)).map(e => e.className).join(' | ')`).Str(), "%s is no wider than the phone", path)
		assert.LessOrEqual(t, u.page.MustEval(`() => document.documentElement.scrollWidth`).Int(), 390, "%s is no wider than the phone", path)
	}
}

// Whoever is behind is sent to from the phone in two presses: what waits stands below the list.
func TestWaitingOnAPhone(t *testing.T) {
	u := visit(t)
	u.enter("keeper")
	u.page.MustSetViewport(390, 844, 1, true)
	u.open("/h/1/library")
	u.see("main", "Buoy")
	u.steps = 0
	u.click("section a", "2 recipients are behind")
	u.click("button", "Send to the 2 who are behind")
	u.see("[role=status]", "Sent to 2 recipients")
	u.within(2, "everybody who is behind reminded")
}

// A passkey is made, lets its owner in alone, stands in for the code beside the password, and is taken away. The device is the browser's own
// stand-in for one.
func TestAPasskeyLetsItsOwnerIn(t *testing.T) {
	u := visit(t)
	own := strings.Replace(u.url, "127.0.0.1", "localhost", 1) // passkeys belong to a name
	u.page.MustNavigate(own).MustWaitLoad()
	require.NoError(t, proto.WebAuthnEnable{}.Call(u.page))
	_, err := proto.WebAuthnAddVirtualAuthenticator{Options: &proto.WebAuthnVirtualAuthenticatorOptions{Protocol: proto.WebAuthnAuthenticatorProtocolCtap2, Transport: proto.WebAuthnAuthenticatorTransportInternal,
		HasResidentKey: true, HasUserVerification: true, AutomaticPresenceSimulation: true, IsUserVerified: true}}.Call(u.page)
	require.NoError(t, err)
	u.enter("reader")
	u.page.MustNavigate(own + "/h/1/account").MustWaitLoad()
	u.see("h1", "Your account")
	u.click("button", "^make one$")
	u.paste("dd form input[maxlength='120']", "The phone")
	u.paste("dd form input[type=password]", "island-ferry-demo")
	u.click("button", "^Make a passkey$")
	u.see("[role=status]", "The passkey The phone lets you in now")
	u.see("li", `^[a-z2-7]{4}-[a-z2-7]{4}-`)
	u.click("button", "I have them")
	u.see("dd", "The phone")
	u.accessible("account with a passkey")

	u.click("summary", "^Reader$")
	u.click("button", "Sign out")
	u.see("button", "^Sign in$")
	u.click("button", "Sign in with a passkey")
	u.see("header", "Reader")

	u.click("summary", "^Reader$")
	u.click("button", "Sign out")
	u.paste("input[type=email]", "reader@odelwick.example")
	u.paste("input[type=password]", "island-ferry-demo")
	u.click("button", "^Sign in$")
	u.see("label", "Now your passkey, or a recovery code")
	u.click("button", "Show a passkey instead")
	u.see("header", "Reader")

	u.page.MustNavigate(own + "/h/1/account").MustWaitLoad()
	u.click("button", "^take away$")
	u.paste("dd form input[type=password]", "wrong")
	u.click("button", "Take The phone away")
	u.see("[role=alert]", "password is wrong")
	u.click("button", "leave it")
	u.click("button", "^take away$")
	u.paste("dd form input[type=password]", "island-ferry-demo")
	u.click("button", "Take The phone away")
	u.see("[role=status]", "opens nothing any more")
	u.click("summary", "^Reader$")
	u.click("button", "Sign out")
	u.click("button", "Sign in with a passkey")
	u.see("[role=alert]", "opens nothing here")
}

// Who was handed a link shows that the mailbox is theirs before they join.
func TestAHandedOnLinkGoesThroughTheMailbox(t *testing.T) {
	u := visit(t)
	u.enter("keeper")
	u.open("/h/1/house/people")
	u.paste("aside input[type=email]", "bo@x.example")
	u.click("button", "^Make a link$")
	link := u.find("aside p", "/welcome#").MustText()
	bo := u.elsewhere()
	bo.page.MustNavigate(link).MustWaitLoad()
	bo.see("p", "bo@x.example is your mailbox")
	bo.click("button", "Mail me the link")
	bo.see("[role=status]", "A link was mailed to bo@x.example")
	bo.page.MustNavigate("about:blank")
	bo.page.MustNavigate(u.mailed("bo@x.example")).MustWaitLoad()
	bo.paste("input[autocomplete=name]", "Bo Pier")
	bo.paste("input[autocomplete=new-password]", "a quiet harbor wall")
	bo.click("button", "Join Odelwick Ferries")
	bo.see("h1", "^Library$")
}

// An address that says why somebody was refused shows sentences of ours only.
func TestNoAddressPutsWordsOnTheSignIn(t *testing.T) {
	u := visit(t)
	u.page.MustNavigate(u.url + "/?refused=" + url.QueryEscape("Call this number to get in: 555")).MustWaitLoad()
	u.see("button", "^Sign in$")
	assert.NotContains(t, u.page.MustElement("main").MustText(), "555")
	u.page.MustNavigate(u.url + "/?refused=unknown").MustWaitLoad()
	u.see("[role=alert]", "There is no account for the address")
}

// The session ends in a half-filled form: one signs in over the page, what was asked for is done, and nothing that was typed is gone.
func TestTheSessionEndsInAHalfFilledForm(t *testing.T) {
	u := visit(t)
	u.enter("keeper")
	ended := func() { require.NoError(t, u.page.SetCookies(nil)) }
	again := func() {
		u.see("dialog p", "Your session has ended")
		u.accessible("signing in again")
		assert.Equal(t, "password", u.page.MustEval(`() => document.activeElement.type`).Str(), "one types at once")
		u.paste("dialog input[type=password]", demo.Password)
		u.press(input.Enter)
		u.until(`() => !document.querySelector('dialog[open]')`)
	}
	u.open("/h/1/send/recipients")
	u.click("main button", "^New recipient$")
	u.typed("Kiosk screens")
	ended()
	u.click("main button", "^Add, and copy its address$")
	again()
	u.see("aside h2", "Kiosk screens")

	// An upload, a form that only asks, and a change of the library.
	path := filepath.Join(t.TempDir(), "a.css")
	require.NoError(t, os.WriteFile(path, []byte("a{color:#E1572C}"), 0o644))
	u.open("/h/1/audit")
	ended()
	u.page.MustElement("input[aria-label='Files to judge']").MustSetFiles(path)
	again()
	u.see("h1", "^a.css$")
	u.open("/h/1/gather")
	ended()
	u.paste("#paste", "Night Boat #102030")
	again()
	u.click("button", "^Put 1")
	u.see("aside", "1 candidate")

	// Signed in elsewhere meanwhile, with another token: the page goes on by itself.
	require.NoError(t, u.page.SetCookies(nil))
	u.page.MustEval(`async () => { await fetch('/api/session', { method: 'POST', headers: { 'Content-Type': 'application/json' },
		body: JSON.stringify({ email: 'keeper@odelwick.example', password: '` + demo.Password + `' }) }) }`)
	u.click("aside button", "Admit 1")
	u.see("[role=status]", "Night Boat admitted")

	// Somebody else signs in: nothing of what was typed is done in their name.
	u.open("/h/1/send/recipients")
	u.click("main button", "^New recipient$")
	u.typed("Second kiosk")
	ended()
	u.click("main button", "^Add, and copy its address$")
	u.see("dialog p", "Your session has ended")
	u.click("dialog button", "Enter as reader")
	u.until(`() => !document.querySelector('dialog[open]') && location.pathname.startsWith('/h/1/library')`)
	u.open("/h/1/send/recipients")
	u.see("aside h2", "Film crew")
	assert.NotContains(t, u.page.MustElement("body").MustText(), "Second kiosk")
}

// A server that nobody has an account of: the code of its log, five fields, and the first color.
func TestTheFirstAccountAndItsFirstColor(t *testing.T) {
	t.Parallel()
	db := storetest.Open(t)
	u := look(t, serveWith(t, db, func(*stations.Stations) {}))
	code, err := u.keeper.Accounts.FirstCode(t.Context())
	require.NoError(t, err)
	u.see("h2", "^The first account$")
	u.accessible("the first account")
	assert.Equal(t, "code", u.page.MustEval(`() => document.activeElement.name`).Str(), "one types at once")
	u.page.MustElement("[name=code]").MustInput("AAAA-BBBB-CCCC")
	u.paste("[name=house]", "Quay Museum")
	u.paste("[name=name]", "Ana Quay")
	u.paste("[name=email]", "ana@quay.example")
	u.paste("[name=password]", "a lamp of nine hours")
	u.click("button", "^Make the account and the house$")
	u.see("[role=alert]", "That is not the code in the log of this server")
	assert.Equal(t, "code", u.page.MustEval(`() => document.activeElement.name`).Str(), "what is to be mended has the focus")
	u.page.MustElement("[name=code]").MustSelectAllText().MustInput(strings.ToLower(code))
	u.steps = 6
	u.click("button", "^Make the account and the house$")
	u.see("summary", "Quay Museum")
	u.click("header a, nav a", "^Gather$")
	u.paste("#paste", "Lamp #F2B632")
	u.click("main button", "^Put 1 color on the tray$")
	u.click("aside button", "^Admit 1 color$")
	u.see("[role=status]", "admitted")
	u.within(11, "from an empty server to the first color")
	u.page.MustReload()
	u.see("summary", "Quay Museum")

	// Who had the code runs the server.
	u.click("header summary", "^Ana Quay$")
	u.click("header a", "^This server$")
	u.see("h1", "^This server$")
	u.see("main td", "Quay Museum")
	u.see("main dd", "1 account, 1 of them with a password alone; 1 session open")
	u.see("aside p", "Nothing is ill")
	u.accessible("this server")
}
