package e2e

import (
	"context"
	"fmt"
	"strings"
	"testing"
	"time"

	"github.com/go-rod/rod/lib/input"
	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"huekeep/keep"
	"huekeep/keep/accounts"
	"huekeep/keep/send"
)

// actor is the demo's keeper, for what a test prepares.
func (u *user) actor() keep.Actor {
	u.t.Helper()
	row, err := u.keeper.Base.DB.UserByEmail("keeper@odelwick.example")
	require.NoError(u.t, err)
	a, err := u.keeper.Accounts.Enter(context.Background(), accounts.SignedIn{Account: accounts.Account{ID: row.ID, Name: "Keeper"}}, 1)
	require.NoError(u.t, err)
	return a
}

// An office, a film crew and a site get one edition, each in its own form.
func TestOneOfficeOneVideoAndOneWebRecipientServed(t *testing.T) {
	u := visit(t)
	list, err := u.keeper.Send.Recipients(context.Background(), u.actor())
	require.NoError(t, err)
	for _, r := range list {
		if r.Name == "Film crew" {
			require.NoError(t, u.keeper.Send.Join(context.Background(), u.actor(), 1, r.ID, true))
		}
	}
	u.enter("keeper")
	u.open("/h/1/send/1")
	u.see("aside", "Film crew")
	u.click("aside button", "^tick all$")
	u.click("aside button", "^Send edition 2 to 3 recipients$")
	u.see("[role=status]", "Taken by all 3 recipients")
	u.within(3, "one office, one video and one web recipient served")
	u.see("aside", "All 8 colors arrived")
	u.see("aside", "All 12 colors arrived")

	// What each holds, and since when, is in one list; a note and a withdrawal reach those who hold it.
	u.open("/h/1/send/recipients")
	u.see("main", "1 recipient is behind")
	u.see("aside h2", "Film crew")
	u.accessible("recipients")
	u.click("main a", "Winter agency")
	u.see("aside", "was sent edition 2, nothing came back yet")
	u.click("aside button", "they told me they have it")
	u.see("[role=status]", "On record: Winter agency has edition 2 of Winter")
	u.see("aside", "Told by hand")
}

// A color is corrected, and where it was corrected, new editions are fixed and everybody is served.
func TestAfterAnAmendmentEverybodyIsCurrent(t *testing.T) {
	u := visit(t)
	u.enter("keeper")
	u.open("/h/1/library/2")
	u.click("aside button", "^amend$")
	u.paste("form input.font-mono", "rgb(225 86 44)")
	u.click("aside button", "Amend to #E1562C")
	u.see("[role=status]", "Buoy is #E1562C now")
	u.steps = 0
	u.click("aside button", "^Fix new editions of the 3 sets$")
	u.see("[role=status]", "Fixed: Core, edition 3; Charts, edition 2; Safety film, edition 4")
	u.click("aside button", "^Send to 3 recipients$")
	u.see("[role=status]", "Sent to 3 recipients; everybody is current")
	u.within(3, "after an amendment everybody current")
	u.open("/h/1/send/recipients")
	u.see("main", "Nobody is behind")
}

// A new recipient, with its address on the clipboard; a person opens it on a phone, copies, fetches and says so.
func TestANewRecipientPicksUp(t *testing.T) {
	u := visit(t)
	u.enter("keeper")
	u.open("/h/1/send/recipients")
	u.see("aside h2", "Film crew")
	u.click("main button", "^New recipient$")
	u.typed("Kiosk screens")
	u.click("main button", "^Add, and copy its address$")
	u.see("[role=status]", "The address of Kiosk screens copied")
	u.within(4, "a new recipient with a pickup address on the clipboard")
	link := u.clipboard()
	require.Regexp(t, `^http://[^/]+/p/[\w-]{22,}$`, link)
	u.see("aside h2", "Kiosk screens")
	u.see("aside", "It gets no set")
	u.click("aside button", "^change$")
	u.click("aside label", "^Core$")
	u.accessible("changing a recipient")
	u.click("aside button", "^Keep it so$")
	u.see("aside", "holds no edition")

	time.Sleep(1100 * time.Millisecond) // an answer at a pickup may be a second old
	c := u.client(link)
	c.see("h2", "Core, edition 2")
	c.accessible("a pickup's page")
	assert.LessOrEqual(t, c.page.MustEval(`() => document.documentElement.scrollWidth`).Int(), 390, "nothing sticks out on a phone")
	assert.Empty(t, c.page.MustCookies())
	wait := c.page.Browser().MustWaitDownload()
	c.click("a", "^Presentation$")
	assert.Equal(t, "PK", string(wait()[:2]))
	u.page.MustReload()
	u.see("aside", "fetched edition 2, and has not said that it is loaded")
	u.see("aside", "Fetched at the pickup. By a browser")
	c.page.MustReload()
	c.click("button", "^It worked, thanks$")
	c.see(".receipt", "Edition 2 is with you")
	u.page.MustReload()
	u.see("aside", "holds edition 2")

	// The old address says that it was closed; the new one works.
	u.click("aside button", "^Renew it, and copy it$")
	u.see("[role=status]", "The new address of Kiosk screens copied")
	assert.NotEqual(t, link, u.clipboard())
	c.page.MustReload()
	c.see("h1", "This link was closed")
}

// Sixteen colors are keyed into an application without import: one key each, while the other hand types.
func TestSixteenColorsKeyedIn(t *testing.T) {
	u := visit(t)
	ctx, a := context.Background(), u.actor()
	var lines []string
	for i := range 16 {
		lines = append(lines, fmt.Sprintf("Film %d #%02X%02X%02X", i+1, 16*i, 255-16*i, (40+90*i)%256))
	}
	_, err := u.keeper.Gathering.AddToTray(ctx, a, strings.Join(lines, "\n"))
	require.NoError(t, err)
	u.enter("keeper")
	u.open("/h/1/gather")
	u.page.MustElementR("aside button", "Admit 16").MustClick()
	u.see("[role=status]", "admitted")
	_, rows, err := u.keeper.Ledger.Ledger(ctx, a)
	require.NoError(t, err)
	var ids []int64
	for _, r := range rows {
		if strings.HasPrefix(r.Name, "Film ") {
			ids = append(ids, r.ID)
		}
	}
	require.Len(t, ids, 16)
	set, err := u.keeper.Send.CreateSet(ctx, a, send.Content{Name: "Film", Colors: ids})
	require.NoError(t, err)
	require.NoError(t, u.keeper.Send.Fix(ctx, a, set, ""))

	u.open(fmt.Sprintf("/h/1/send/%d", set))
	beside := u.page.MustWaitOpen() // it stays beside the application that one types into
	u.click("aside a", "^key in, one after the other$")
	u = &user{t: t, page: beside().MustActivate().Timeout(time.Minute)}
	u.page.MustWaitLoad()
	u.see(".left", "16 of 16 are left")
	u.accessible("a key-in card")
	u.steps = 0
	for i := range 16 {
		at := u.page.MustEval(`() => document.activeElement.value`).Str()
		require.Equal(t, fmt.Sprint(i+1), at, "the next box is where the key goes")
		require.NoError(t, u.page.Keyboard.Type(input.Space)) // a box is ticked when the key comes up
		u.steps++
		if i < 15 {
			u.see(".left", fmt.Sprintf("^%d of 16 are left", 15-i))
		}
	}
	u.see(".left", "All are keyed in")
	u.within(16, "sixteen colors keyed in, one key each")
	u.page.MustReload()
	u.see(".left", "All are keyed in")
	u.click("button", "^Begin again$")
	u.see(".left", "16 of 16 are left")
}

// Slots by hand, a set that follows a role, another deleted and brought back, a comparison, a withdrawal.
func TestSetsInTheHandsOfTheirKeeper(t *testing.T) {
	u := visit(t)
	u.enter("keeper")
	u.open("/h/1/send/1")
	u.click("main button", "^accent 1 ")
	u.click("main [role=group] button", "^Lamp$")
	u.see("[role=status]", "Lamp is accent 1 from now on")
	u.see("main", "given by hand")
	u.click("main button", "^text Slate Quay")
	u.click("main [role=group] button", "^Lamp$")
	u.see("[role=status]", "Lamp is text from now on") // on black then, since text has to read
	u.open("/h/1/send/1")
	u.see("aside", "slots of the office theme were given by hand")
	u.click("aside button", "^Fix as edition 3$")
	u.see("[role=status]", "Core is fixed as edition 3")
	u.page.MustElement("aside select").MustSelect("2")
	u.click("aside button", "^withdraw it$")
	u.typed("Fog was mistyped")
	u.press(input.Enter)
	u.see("[role=status]", "Edition 2 is withdrawn")
	u.see("aside", "Withdrawn by Keeper")

	u.click("main button", "^New set$")
	u.typed("All accents")
	u.page.MustElement("main form select").MustSelect("all approved: accent")
	u.click("main form button", "^Make$")
	u.see("aside h2", "All accents")
	u.see("main", "Follows the library: every approved color")
	u.see("main", "Heather Cliff")
	u.accessible("a set that follows")
	u.click("main button", "^delete the set$")
	u.see("[role=status]", "All accents deleted")
	u.click("[role=status] button", "Undo")
	u.see("[role=status]", "All accents is back")
	u.see("aside h2", "All accents")

	u.open("/h/1/send/outbox")
	u.click("main button", "edition 2")
	u.see("aside h2", "Odelwick Ferries, Winter, edition 2")
	u.see("aside", "With Lamp, for the night sailings")
	u.accessible("the outbox")
	link := u.page.MustElement("aside a").MustText()
	c := u.client(link)
	c.see("h2", "Winter, edition 2")
	c.click("button", "^It worked, thanks$")
	c.see("[role=status]", "Odelwick Ferries knows that you have edition 2 of Winter")
}

// A withdrawn edition stays in view, and is compared with another one only; a box that there cannot be is said; an order is taken back in one step.
func TestSmallThingsAboutASet(t *testing.T) {
	u := visit(t)
	u.enter("keeper")
	u.open("/h/1/send/1")
	u.see("aside h2", "Core")
	u.click("main button[aria-label='Move Buoy behind']", "▸")
	u.see("[role=status]", "Buoy is number 3 of Core")
	u.click("[role=status] button", "Undo")
	u.see("[role=status]", "It is as it was")
	u.until(`() => document.querySelectorAll('main .mover[aria-label$="behind"]')[1].ariaLabel === 'Move Buoy behind'`)

	box := u.page.MustElement("main label input[type=number]")
	box.MustInput("-1")
	box.MustBlur()
	u.see("main [role=alert]", "An application has 1 to 64 boxes, and not -1")

	u.page.MustElements("aside select").Last().MustSelect("1")
	u.see("aside", "From edition 1 to edition 2")
	u.click("aside button", "^withdraw it$")
	u.typed("mistyped")
	u.press(input.Enter)
	u.see("[role=status]", "Edition 2 is withdrawn")
	u.see("aside", "Withdrawn by Keeper")
	assert.NotContains(t, u.page.MustElement("aside").MustText(), "From edition 1 to edition 1")
}

// A brand is renewed: the mail has new values under the old names. One change, one way back, then whoever has the old ones, then the files.
func TestNewValuesUnderOldNames(t *testing.T) {
	u := visit(t)
	u.enter("keeper")
	u.open("/h/1/gather")
	mail := "Deep Sound #0B3F5E\nBuoy #EE5A24 CMYK 0 78 90 0\nLamp #F5BE3C"
	renew := func() {
		u.paste("main textarea", mail)
		u.see("main table", "Buoy is #E2572B in the library")
		u.click("main button", "^Put 3 colors on the tray$")
		u.see("aside li", "Deep Sound changes\\. Deep Sound is #0E3A53 in the library, 2\\.4 noticeable from this; on Core[\\s\\S]*3 recipients have another value")
		u.click("aside button", "^Change 3 colors$")
		u.see("[role=status]", "3 colors changed")
	}
	renew()
	u.click("[role=status] button", "^Undo$|undo")
	u.see("[role=status]", "3 colors are on the tray again")
	u.open("/h/1/library/2")
	u.see("aside dl", "Hex[\\s\\S]*#E2572B")
	u.open("/h/1/gather")
	u.see("aside", "3 candidates")
	u.click("aside button", "^clear the tray$")
	u.see("aside", "Candidates wait here")

	u.steps = 0
	renew()
	u.within(3, "three new values pasted over three old names")
	u.click("aside button", "^Fix new editions of the \\d sets$")
	u.see("[role=status]", "Fixed: Core, edition \\d")
	u.click("aside button", "^Send to \\d recipients$")
	u.see("[role=status]", "[Ss]ent")
	require.Eventually(t, func() bool { return !u.page.MustHasR("aside button", "^Send to") }, patience, 50*time.Millisecond) // what is below it moves up
	u.click("aside a", "^Plan for the files$")
	u.see("aside form", "New plan")
	u.within(6, "and everybody has them, with a plan for the files")
	assert.Equal(t, "#0E3A53", u.page.MustElement("aside form ul input").MustProperty("value").Str())
	u.click("aside button", "^Keep the plan$")
	u.see("main table", "Deep Sound")
	u.open("/h/1/gather")
	u.see("aside section", "3 colors changed")
	u.accessible("what was changed just now")
	u.click("aside button", "^put away$")

	// A name that is not meant is another color's.
	u.paste("main textarea", "Buoy #112233")
	u.click("main button", "^Put 1 color on the tray$")
	u.click("aside li button", "^no, a new color$")
	u.see("aside", "1 more needs a name")
	u.see("aside li b", "Buoy is #EE5A24 in the library")
	u.click("aside button", "^clear the tray$")
}
