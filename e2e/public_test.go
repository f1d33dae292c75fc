package e2e

import (
	"net/netip"
	"regexp"
	"strings"
	"testing"

	"github.com/go-rod/rod/lib/input"
	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"huekeep/standin"
)

// A set goes public in two presses, and the library as a page of its own; both read well on a phone, copy at a press, and say so when they are closed.
func TestASetAndTheLibraryGoPublic(t *testing.T) {
	u := visit(t)
	u.enter("keeper")
	u.open("/h/1/send/4")
	u.see("main h2", "Winter, in order")
	u.steps = 0
	u.click("main button", "^make it public$")
	u.click("main button", "^Copy a public link$")
	u.see("[role=status]", "The public link to Winter copied")
	u.within(2, "a set public and its link copied")
	link := u.clipboard()
	require.Regexp(t, `^http://[^/]+/p/[\w-]{40,}$`, link)
	c := u.client(link)
	c.see("h1", "^Odelwick Ferries$")
	c.see("p", "Four islands, nine boats")
	c.see("h2", "Winter, edition 2")
	c.click("summary", "^Video$")
	c.see("a", "^WebVTT styles$")
	assert.LessOrEqual(t, c.page.MustEval(`() => document.documentElement.scrollWidth`).Int(), 390, "nothing sticks out on a phone")
	c.accessible("a set in public")

	u.click("nav a", "^Public$")
	u.see("main li", "Winter")
	u.accessible("what is public")
	u.click("main button", "^Make it public, and copy the link$")
	u.see("[role=status]", "The link to Library copied")
	brand := u.client(u.clipboard())
	brand.see("h2", "^Signals$")
	brand.see("h2", "^Pairs$")
	brand.see("li", "Old Funnel is retired")
	assert.LessOrEqual(t, brand.page.MustEval(`() => document.documentElement.scrollWidth`).Int(), 390, "nothing sticks out on a phone")
	brand.accessible("the library in public")
	brand.click("button", "^96 50 20 64$")
	brand.see(".said", "96 50 20 64 copied")
	brand.click("a", "^Beside the work$")
	brand.see("body", "Deep Sound")

	u.click("main button", "^close it\\s*: Winter$")
	u.see("[role=status]", "The link to Winter is closed")
	c.page.MustReload()
	c.see("h1", "This link was closed")
}

// One press says that a file did not work; it waits for the keeper, leads to the note, and what the keeper writes there is read by the next one.
func TestWhatDidNotWorkIsMended(t *testing.T) {
	u := visit(t)
	u.enter("keeper")
	u.open("/h/1/send/recipients/1")
	u.see("aside h2", "Ticket office")
	u.click("aside button", "^change$")
	u.click("aside label", "picks it up at an address")
	u.click("aside button", "^Keep it so$")
	u.click("aside button", "^Make one, and copy it$")
	u.see("[role=status]", "The address of Ticket office copied")
	c := u.client(u.clipboard())
	c.steps = 0
	c.click("button", "^It did not work$")
	c.within(1, "saying that a file did not work")
	c.see("[role=status]", "knows that “Presentation” of Core did not work for you")
	c.see("details[open]", "If the palette stays as it was")
	c.typed("I opened it, and my own slides stay as they were.")
	c.click("details button", "^Tell the house$")
	c.see("[role=status]", "Thank you. Odelwick Ferries knows what you tried with “Presentation” of Core")
	c.accessible("a file that did not work")

	u.click("nav a", "^Loading$")
	u.see("main section", "Ticket office: Presentation of Core, edition 2, did not work, said 2 times")
	u.see("main section", "my own slides stay as they were")
	u.accessible("how files are loaded")
	u.click("main section a", "mend the note$")
	u.see("aside h2", "Presentation; Workbook; Document")
	u.click("aside button", "^Say it for your applications$")
	u.page.MustElement("#own").MustSelectAllText().MustInput("In our office: Design, Themes, From file. Opening is not enough.")
	u.click("aside button", "^Say it so$")
	u.see("aside", "The house says")
	u.click("aside button", "settled$")
	u.see("[role=status]", "Settled: Presentation for Ticket office")
	c.page.MustReload()
	c.see("li", "In our office: Design, Themes, From file. Opening is not enough.")
}

// A form is found by what people call it, and a new recipient is offered what others of its kind loaded.
func TestFormsAreFoundByWhatPeopleCallThem(t *testing.T) {
	u := visit(t)
	u.enter("keeper")
	u.open("/h/1/send/3")
	u.see("aside p", "What its recipients take")
	u.see("aside", "Code values for video")
	u.click("aside input[type=search]", ".*")
	for words, label := range map[string]string{"captions": "TTML styles", "slides": "Presentation template", "drawing program": "Plain text palette", "website": "CSS custom properties", ".tgz": "Package for bundlers", "printer": "Printer"} {
		u.page.MustElement("aside input[type=search]").MustSelectAllText().MustInput(words)
		u.see("aside", label)
	}
	u.accessible("forms of an edition")
	u.page.MustElement("aside input[type=search]").MustSelectAllText().MustInput("zzz")
	u.see("aside", "Nothing is called that")
	u.click("aside summary", "^How it spread$")
	u.see("aside table", "usually after")
	u.accessible("how an edition spread")
}

// A program is told in four steps, and what it answered is seen.
func TestAProgramIsTold(t *testing.T) {
	u := visit(t)
	receiver, err := standin.StartHooks()
	require.NoError(t, err)
	defer receiver.Close()
	u.keeper.Hooks.Allowed = []netip.Prefix{netip.MustParsePrefix("127.0.0.1/32")}
	u.enter("keeper")
	u.open("/h/1/send")
	u.see("main h1", "Send")
	u.steps = 0
	u.click("nav a", "^Programs$")
	u.see("main h2", "No program is told")
	u.click("main button", "^Tell a program$")
	u.typed(receiver.Address())
	u.press(input.Enter)
	u.see("aside", "Its secret")
	u.click("aside button", "^Try it$")
	u.see("aside li", "taken, 200: to try it")
	u.within(4, "a webhook set up and tried")
	u.see("aside li", "The signature was not looked at")
	u.click("aside button", "^Copy the secret$")
	secret := u.clipboard()
	require.Regexp(t, regexp.MustCompile(`^whsec_[A-Za-z0-9+/]{43}=$`), secret)
	receiver.Trust(secret)
	u.accessible("programs that are told")
	u.click("aside button", "^Try it$")
	u.see("aside li", "Taken: test. The signature fits.")
	u.open("/h/1/send/programs")
	u.see("aside li", "The signature fits")
	assert.False(t, strings.Contains(u.page.MustElement("aside").MustText(), "whsec_"), "the secret was shown once")
}
