package e2e

import (
	"regexp"
	"strings"
	"sync"
	"testing"
	"time"

	"github.com/go-rod/rod/lib/input"
	"github.com/go-rod/rod/lib/proto"
	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"
)

// What was typed or built is there again after another station, Back and a reload.
func TestWhatWasBegunStays(t *testing.T) {
	u := visit(t)
	u.enter("keeper")
	u.open("/h/1/gather/harmony")
	u.see("main li", "#0E3A53")
	u.page.MustElement("main select").MustSelect("tetradic")
	u.until(`() => document.querySelectorAll('[aria-label="Members of the set"] li').length === 4`)
	members := func() string {
		return u.page.MustEval(`() => [...document.querySelectorAll('.member')].map(m => m.textContent).join()`).Str()
	}
	// A member that is unlinked keeps its color, also when it was moved and when the scheme changes.
	u.click("main li:nth-child(2) label", "unlinked")
	u.click("main li:nth-child(2) .member", ".*")
	u.page.MustElement("main input[type=range]").MustEval(`function () { this.value = 200; this.dispatchEvent(new Event('input', { bubbles: true })) }`)
	u.until(`() => document.querySelectorAll('main input[type=range]')[0].value === '200'`)
	u.page.MustWaitStable()
	held := strings.Split(members(), ",")[1]
	u.page.MustElement("main select").MustSelect("triadic")
	u.until(`() => document.querySelectorAll('.member').length === 3`)
	assert.Equal(t, held, strings.Split(members(), ",")[1], "the next scheme leaves it")
	built := members()
	u.open("/h/1/send")
	u.see("h1", "^Send$")
	u.open("/h/1/gather/harmony")
	u.see(".member", held)
	u.until("() => [...document.querySelectorAll('.member')].map(m => m.textContent).join() === `" + built + "`")
	require.NoError(t, u.page.Reload())
	u.see(".member", held)

	u.open("/h/1/library/3")
	u.click("aside button", "^amend$")
	u.typed("#F0B0")
	u.press(input.Escape)
	u.open("/h/1/library/2")
	u.see("aside h2", "Buoy")
	u.open("/h/1/library/3")
	u.click("aside button", "^amend$")
	u.until(`() => document.querySelector('aside form input.font-mono').value === '#F0B0'`)
	u.click("aside form button", "^Cancel$")

	u.open("/h/1/gather")
	u.click("main textarea", ".*")
	u.typed("Gull #D6DCDE")
	u.click("main button", "Put 1 color")
	u.click("aside label", "Group")
	u.typed("Sky")
	require.NoError(t, u.page.Reload())
	u.until(`() => document.querySelector('aside input[list=groups]')?.value === 'Sky'`)
	u.click("aside button", "^Admit 1")
	u.see("[role=status]", "Gull admitted")
	u.click("[role=status] a", "show it")
	u.see("aside h2", "Gull")
	u.see("aside", "Sky")
}

// A contributor suggests, a keeper sees it without asking and takes it.
func TestASuggestionReachesTheKeeper(t *testing.T) {
	u := visit(t)
	u.enter("contributor")
	u.open("/h/1/library/2")
	u.click("aside button", "^suggest a change$")
	u.typed("#E0552A")
	u.press(input.Enter)
	u.see("[role=status]", "a keeper answers")
	u.see("aside", "You suggested")
	u.accessible("sheet with a suggestion")
	u.page.MustElement("header details summary:last-of-type")
	u.click("header summary", "Contributor")
	u.click("header button", "Sign out")
	u.enter("keeper")
	u.open("/h/1/library")
	u.click("main a", "1 suggestion")
	u.see("aside", "suggests")
	u.click("aside button", "^take it$")
	u.see("[role=status]", "Taken from")
	u.see("aside .value", "#E0552A")

	u.click("aside button", "^Merge it into another color$")
	u.page.MustElement("aside form select").MustSelect("Lamp, #F2B632")
	u.click("aside form button", "Merge Buoy into Lamp")
	u.see("aside h2", "Lamp")
	u.see("aside", "Also called Buoy")
}

// A rule that is kept reads what shows it once, not again when the page hears of its own change.
func TestAChangeOfOnesOwnIsReadOnce(t *testing.T) {
	u := visit(t)
	u.enter("keeper")
	u.open("/h/1/library/2")
	u.see("aside h2", "Buoy")
	time.Sleep(2 * time.Second) // what the page loads first
	var mutex sync.Mutex
	asked := map[string]int{}
	stop := u.page.EachEvent(func(e *proto.NetworkRequestWillBeSent) {
		mutex.Lock()
		defer mutex.Unlock()
		if e.Request.Method == "GET" && strings.Contains(e.Request.URL, "/api/houses/") {
			asked[e.Request.URL]++
		}
	})
	go stop()
	u.click("aside button", "^change$")
	u.paste("aside form textarea", " Never on gray.")
	u.click("aside button", "^Keep changes$")
	u.see("aside p", "Never on gray")
	time.Sleep(2 * time.Second)
	mutex.Lock()
	defer mutex.Unlock()
	assert.NotEmpty(t, asked)
	for url, n := range asked {
		assert.Equal(t, 1, n, url)
	}
}

// What one did is told of for a day, with the way back: also when the page is loaded anew, and not over what somebody else did since.
func TestWhatWasDoneIsTakenBackAfterAReload(t *testing.T) {
	u := visit(t)
	u.enter("keeper")
	back := func(what string) {
		t.Helper()
		u.page.MustReload().MustWaitLoad()
		u.see("aside h2", ".")
		u.click("summary", "^Keeper$")
		u.find("header li", what).MustElementR("button", "take back").MustClick()
	}
	u.open("/h/1/library/2")
	rule := u.find("aside p", "One call to action").MustText()
	u.click("aside button", "^change$")
	u.page.MustElement("aside form textarea").MustSelectAllText().MustInput("Never on gray.")
	u.click("aside button", "^Keep changes$")
	u.see("aside p", "Never on gray")
	back("^Changed")
	u.see("[role=status]", "It is as it was")
	u.see("aside p", regexp.QuoteMeta(rule))

	u.click("aside button", "^amend$")
	u.paste("aside form input.font-mono", "#336699")
	u.click("aside form button", "^Amend")
	u.see("[role=status]", "Buoy is #336699 now")
	back("Buoy is #336699 now")
	u.see("[role=status]", "It is as it was")
	u.see("[role=row]", "226 87 43")

	// Somebody else amended it since.
	u.click("aside button", "^amend$")
	u.paste("aside form input.font-mono", "#336699")
	u.click("aside form button", "^Amend")
	u.see("[role=status]", "Buoy is #336699 now")
	u.page.MustEval(`async () => {
		const { csrf } = await (await fetch('/api/session')).json(), { version } = await (await fetch('/api/houses/1/colors/2')).json();
		await fetch('/api/houses/1/colors/2', { method: 'PATCH', headers: { 'X-CSRF-Token': csrf, 'Content-Type': 'application/json' },
			body: JSON.stringify({ version, value: '#446688' }) }) }`)
	back("Buoy is #336699 now")
	u.see("[role=status]", "It stays as it is now")
	u.see("[role=row]", "68 102 136")

	// A recipient, a set and its order, a gradient, a rule for judging: each leads back by itself.
	u.open("/h/1/send/recipients")
	u.click("aside button", "^pause$")
	u.see("[role=status]", "is paused")
	back("is paused")
	u.see("[role=status]", "It is as it was")
	u.see("aside button", "^pause$")
	u.open("/h/1/audit")
	u.click("aside button", "^change$")
	u.page.MustElement("aside form input").MustSelectAllText().MustInput("2.5")
	u.click("aside form button", "^Judge by this$")
	u.see("[role=status]", "The next runs are judged by this")
	u.page.MustReload().MustWaitLoad()
	u.click("summary", "^Keeper$")
	u.find("header li", "The next runs are judged by this").MustElementR("button", "take back").MustClick()
	u.see("[role=status]", "It is as it was")
	u.see("aside", "3.0")

	// Signed out, nothing of it stays for whoever signs in next.
	u.click("summary", "^Keeper$")
	u.click("header button", "^Sign out$")
	u.see("button", "Enter as keeper")
	assert.NotContains(t, u.page.MustEval(`() => JSON.stringify(localStorage)`).Str(), "Buoy")
}
