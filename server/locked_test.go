package server_test

import (
	"context"
	"fmt"
	"strings"
	"sync"
	"testing"
	"time"

	"github.com/pquerna/otp/totp"
	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"huekeep/demo"
	"huekeep/keep"
	"huekeep/keep/accounts"
	"huekeep/store"
)

// signInFrom tries a password from a network address and a browser.
func (s *site) signInFrom(address, email, password, device string) error {
	ctx := keep.WithFrom(context.Background(), keep.From{Address: address, Via: "session"})
	_, err := s.keeper.Accounts.SignIn(ctx, accounts.Credentials{Email: email, Password: password, Device: device})
	return err
}

// Somebody with ten thousand addresses guesses at one account for a day, in every way that there is. Fewer than a hundred passwords are tried.
func TestOfOneAccountFewerThanAHundredPasswordsAreTriedADay(t *testing.T) {
	s := newSite(t)
	now := time.Now().UTC().Truncate(time.Millisecond)
	s.keeper.Base.Now = func() time.Time { return now }
	in, err := s.keeper.Accounts.SignIn(keep.WithFrom(context.Background(), keep.From{Address: "192.0.2.1"}), accounts.Credentials{Email: "keeper@odelwick.example", Password: demo.Password})
	require.NoError(t, err)
	tried, day := 0, now.Add(24*time.Hour)
	counts := func(err error) bool {
		return keep.Explain(err) != nil && keep.Explain(err).Kind != keep.TooMany
	}
	for n := 0; now.Before(day); n++ {
		address := fmt.Sprintf("198.51.%d.%d", n/250%250, n%250)
		if n%2 == 1 {
			address = fmt.Sprintf("2001:db8:%x:%x::%x", n/60000, n%60000, n)
		}
		for _, err := range []error{
			s.signInFrom(address, "keeper@odelwick.example", "wrong", ""),
			s.signInFrom(address, "keeper@odelwick.example", "wrong", in.Device), // with a stolen cookie of a browser
		} {
			if counts(err) {
				tried++
			}
		}
		if _, err := s.keeper.Accounts.ChangePassword(context.Background(), in, "wrong", "whatever it may be"); counts(err) { // with a stolen session
			tried++
		}
		now = now.Add(3 * time.Minute)
	}
	t.Logf("%d passwords were tried in 24 hours", tried)
	assert.LessOrEqual(t, tried, 100)
	assert.Greater(t, tried, 40, "and it was tried")
}

// Somebody guesses without end. The owner comes in where they were before, and elsewhere with one mailed link.
func TestNobodyKeepsAnOwnerOut(t *testing.T) {
	s := newSite(t)
	post := s.withMail()
	now := time.Now().UTC().Truncate(time.Millisecond)
	s.keeper.Base.Now = func() time.Time { return now }
	in, err := s.keeper.Accounts.SignIn(keep.WithFrom(context.Background(), keep.From{Address: "192.0.2.1"}), accounts.Credentials{Email: "keeper@odelwick.example", Password: demo.Password})
	require.NoError(t, err)
	guess := func(rounds int) {
		for n := range rounds {
			_ = s.signInFrom(fmt.Sprintf("198.51.100.%d", n%250), "keeper@odelwick.example", "wrong", "")
			_ = s.signInFrom(fmt.Sprintf("2001:db8:0:%x::1", n), fmt.Sprintf("somebody%d@x.example", n), "wrong", "") // of everybody else
			_ = s.keeper.Accounts.Forgotten(keep.WithFrom(context.Background(), keep.From{Address: "198.51.100.9"}), "keeper@odelwick.example")
		}
	}
	guess(24)
	require.NoError(t, s.signInFrom("192.0.2.1", "keeper@odelwick.example", demo.Password, in.Device), "where they were before")
	held := keep.Explain(s.signInFrom("203.0.113.5", "keeper@odelwick.example", demo.Password, ""))
	require.NotNil(t, held)
	assert.Equal(t, keep.TooMany, held.Kind)
	assert.Contains(t, held.Message, "A link for a new password")
	require.NoError(t, s.keeper.Accounts.Forgotten(context.Background(), "keeper@odelwick.example"))
	s.keeper.Accounts.Settle()
	letters := mails(t, post, "keeper@odelwick.example")
	require.NotEmpty(t, letters)
	assert.LessOrEqual(t, len(letters), 4, "and the mailbox is not filled")
	guess(4)
	token := ticketIn(t, letters[0].Text)
	signed, err := s.keeper.Accounts.Take(context.Background(), accounts.Answer{Token: token, Password: "a quiet harbor wall"})
	require.NoError(t, err)
	assert.NotEmpty(t, signed.Token, "the link lets them in at once")
	require.NoError(t, s.signInFrom("203.0.113.5", "keeper@odelwick.example", "a quiet harbor wall", ""), "and nothing of before holds them up")
	for range 3 { // hours later there is a link again, whoever asked meanwhile
		now = now.Add(time.Hour)
		guess(3)
		require.NoError(t, s.keeper.Accounts.Forgotten(context.Background(), "keeper@odelwick.example"))
		s.keeper.Accounts.Settle()
		latest := mails(t, post, "keeper@odelwick.example")
		_, err := s.keeper.Accounts.Look(context.Background(), ticketIn(t, latest[0].Text))
		require.NoError(t, err)
	}

	// A network of IPv6 is one, a house with others behind its address does not keep its owner out of their own browser.
	for n := range 31 {
		_ = s.signInFrom(fmt.Sprintf("2001:db8:77:1::%x", n), fmt.Sprintf("guess%d@x.example", n), "wrong", "")
	}
	held = keep.Explain(s.signInFrom("2001:db8:77:1:ffff::1", "reader@odelwick.example", demo.Password, ""))
	require.NotNil(t, held)
	assert.Equal(t, keep.TooMany, held.Kind)
	assert.NoError(t, s.signInFrom("2001:db8:77:2::1", "reader@odelwick.example", demo.Password, ""), "the next network is another one")
}

// Right sign-ins that a crash cuts off hold nobody up for longer than a minute, and a clock that once ran ahead not at all.
func TestCrashesAndClocksHoldNobodyUp(t *testing.T) {
	s := newSite(t)
	now := time.Now().UTC().Truncate(time.Millisecond)
	s.keeper.Base.Now = func() time.Time { return now }
	vessel := store.Vessel{Who: keep.Digest("account reader@odelwick.example"), Holds: 10, Refit: 40 * time.Minute}
	for range 10 { // begun, and never ended
		_, wait, err := s.db.BeginTry([]store.Vessel{vessel}, now)
		require.NoError(t, err)
		require.Zero(t, wait)
	}
	_, wait, err := s.db.BeginTry([]store.Vessel{vessel}, now)
	require.NoError(t, err)
	assert.Positive(t, wait, "as many at once are too many")
	now = now.Add(61 * time.Second)
	assert.NoError(t, s.signInFrom("192.0.2.7", "reader@odelwick.example", demo.Password, ""))

	now = now.Add(1000 * time.Hour) // the clock runs ahead
	for range 12 {
		_ = s.signInFrom("192.0.2.8", "reader@odelwick.example", "wrong", "")
	}
	now = now.Add(-1000 * time.Hour)
	require.Error(t, s.signInFrom("192.0.2.8", "reader@odelwick.example", demo.Password, ""))
	now = now.Add(41 * time.Minute)
	assert.NoError(t, s.signInFrom("192.0.2.8", "reader@odelwick.example", demo.Password, ""), "tries fade from now on")

	var all sync.WaitGroup // and of many at once no more are let in than there is room for
	var mutex sync.Mutex
	refused := 0
	for range 40 {
		all.Go(func() {
			err := keep.Explain(s.signInFrom("192.0.2.9", "contributor@odelwick.example", "wrong", ""))
			if assert.NotNil(t, err) && err.Kind == keep.Unauthorized {
				mutex.Lock()
				refused++
				mutex.Unlock()
			}
		})
	}
	all.Wait()
	assert.LessOrEqual(t, refused, 10)
}

// Links end with what they were for.
func TestLinksEndWithTheirReason(t *testing.T) {
	s := newSite(t)
	post := s.withMail()
	c := s.as("contributor")
	// Whoever had the password began to change the address; the owner does as the warning says.
	require.Equal(t, 200, c.call("PUT", "/account/email", o{"email": "taken@x.example", "password": demo.Password}).status)
	token := mailed(t, post, "taken@x.example", "Your new address")
	made := c.call("POST", "/account/tokens", o{"name": "theirs", "house": c.ferries(), "role": "contributor", "purpose": "everything", "days": 30})
	device := deviceOf(s.nobody().call("POST", "/session", o{"email": "contributor@odelwick.example", "password": demo.Password}))
	owner := s.as("contributor")
	changed := owner.call("PUT", "/account/password", o{"old": demo.Password, "password": "a quiet harbor wall"})
	require.Equal(t, 204, changed.status, changed.text)
	assert.Equal(t, 404, s.nobody().call("PUT", "/welcome", o{"token": token}).status, "the link for the other address is over")
	assert.Equal(t, 401, s.bearer(made.at("token").(string)).call("GET", "/session", nil).status, "and so is the access token")
	assert.Equal(t, 200, owner.call("GET", "/session", nil).status)
	_, err := s.db.Device(keep.Digest(device))
	assert.ErrorIs(t, err, store.ErrNotFound, "and the browser is not known any more")
	own := deviceOf(changed)
	require.NotEmpty(t, own, "but for the one that it was changed with")
	_, err = s.db.Device(keep.Digest(own))
	assert.NoError(t, err)

	// A forgotten password ends it too, and an address that has changed ends the links of the old one.
	require.Equal(t, 200, owner.call("PUT", "/account/email", o{"email": "again@x.example", "password": "a quiet harbor wall"}).status)
	token = mailed(t, post, "again@x.example", "Your new address")
	require.Equal(t, 204, s.nobody().call("POST", "/forgotten", o{"email": "contributor@odelwick.example"}).status)
	reset := mailed(t, post, "contributor@odelwick.example", "A new password")
	require.Equal(t, 200, s.nobody().call("PUT", "/welcome", o{"token": token}).status)
	assert.Equal(t, 404, s.nobody().call("PUT", "/welcome", o{"token": reset, "password": "a third harbor wall"}).status)
}

func deviceOf(a answer) string {
	for _, c := range a.header.Values("Set-Cookie") {
		if v, ok := strings.CutPrefix(c, "huekeep_device="); ok {
			v, _, _ = strings.Cut(v, ";")
			return v
		}
	}
	return ""
}

// Who may not invite any more has invited nobody.
func TestInvitationsEndWithTheRightToInvite(t *testing.T) {
	s := newSite(t)
	k := s.as("keeper")
	h := k.ferries()
	second := func(email string) *person {
		require.NoError(t, s.keeper.People.AddMember(context.Background(), email, email, demo.Password, "Odelwick Ferries", keep.RoleKeeper))
		return s.signIn(email)
	}
	id := func(email string) int64 {
		u, err := s.db.UserByEmail(email)
		require.NoError(t, err)
		return u.ID
	}
	look := func(a answer) int {
		require.Equal(t, 201, a.status, a.text)
		return s.nobody().call("POST", "/welcome", o{"token": ticketIn(t, a.at("link").(string))}).status
	}
	demoted, removed := second("demoted@x.example"), second("removed@x.example")
	invite := func(p *person, email, role string) answer {
		return p.call("POST", house(h, "/invitations"), o{"email": email, "role": role, "mail": false})
	}
	one, two := invite(demoted, "a@x.example", "keeper"), invite(removed, "b@x.example", "reader")
	assert.Equal(t, 200, look(one))
	require.Equal(t, 204, k.call("PUT", house(h, "/people/%d", id("demoted@x.example")), o{"role": "contributor"}).status)
	require.Equal(t, 204, k.call("DELETE", house(h, "/people/%d", id("removed@x.example")), nil).status)
	assert.Equal(t, 404, look(one))
	assert.Equal(t, 404, look(two))

	// It is asked again when the link is followed, also where the row is still there.
	three := invite(k, "c@x.example", "keeper")
	ticket, err := s.db.Ticket(keep.Digest(ticketIn(t, three.at("link").(string))), time.Now().UTC())
	require.NoError(t, err)
	demotedID := id("demoted@x.example")
	ticket.ByUser = &demotedID
	require.NoError(t, s.db.Save(&ticket))
	a := s.nobody().call("PUT", "/welcome", o{"token": ticketIn(t, three.at("link").(string)), "name": "C", "password": "a quiet harbor wall"})
	assert.Equal(t, 404, a.status)
	assert.Contains(t, a.at("title"), "may not do so any more")

	// What contributors invited to ends when only keepers invite.
	settings := o{"name": "Odelwick Ferries", "inviters": "contributor", "secondFactor": false, "notations": []int{0, 0, 0}, "greeting": "", "press": "coated", "stock": "coated"}
	require.Equal(t, 204, k.call("PUT", house(h, "/settings"), settings).status)
	four := invite(s.as("contributor"), "d@x.example", "reader")
	assert.Equal(t, 200, look(four))
	settings["inviters"] = "keeper"
	require.Equal(t, 204, k.call("PUT", house(h, "/settings"), settings).status)
	assert.Equal(t, 404, look(four))
}

// Who was invited shows that the mailbox is theirs: a link that the inviter has makes no account where mail can be sent.
func TestAnInviterOpensNobodysAccount(t *testing.T) {
	s := newSite(t)
	post := s.withMail()
	k := s.as("keeper")
	h := k.ferries()
	link := k.call("POST", house(h, "/invitations"), o{"email": "boss@corp.example", "role": "reader", "mail": false}).at("link").(string)
	mine := ticketIn(t, link)
	assert.Equal(t, true, s.nobody().call("POST", "/welcome", o{"token": mine}).at("prove"))
	a := s.nobody().call("PUT", "/welcome", o{"token": mine, "name": "Boss", "password": "known to the inviter"})
	assert.Equal(t, 409, a.status)
	assert.Equal(t, "mailbox", a.at("code"))
	_, err := s.db.UserByEmail("boss@corp.example")
	require.ErrorIs(t, err, store.ErrNotFound, "nothing was made")
	for range 10 { // and the mailbox is not filled
		s.nobody().call("PUT", "/welcome", o{"token": mine, "name": "Boss", "password": "known to the inviter"})
	}
	assert.LessOrEqual(t, len(mails(t, post, "boss@corp.example")), 3)
	theirs := mailed(t, post, "boss@corp.example", "Join Odelwick Ferries")
	assert.Equal(t, false, s.nobody().call("POST", "/welcome", o{"token": theirs}).at("prove"))
	in := s.nobody().call("PUT", "/welcome", o{"token": theirs, "name": "Boss", "password": "a quiet harbor wall"})
	require.Equal(t, 200, in.status, in.text)
	u, err := s.db.UserByEmail("boss@corp.example")
	require.NoError(t, err)
	assert.NotNil(t, u.ProvedAt)
	assert.Equal(t, 404, s.nobody().call("POST", "/welcome", o{"token": mine}).status, "the other link is over")
	byMail := k.call("POST", house(h, "/invitations"), o{"email": "other@corp.example", "role": "reader", "mail": true})
	require.Equal(t, 201, byMail.status)
	assert.Nil(t, byMail.json.(map[string]any)["link"], "what is mailed is nobody else's")
}

// An access token is for one house and one purpose, and keepers end those of their house.
func TestAccessTokensAreForOneHouseAndOnePurpose(t *testing.T) {
	s := newSite(t)
	k := s.as("keeper")
	h, bakery := k.ferries(), k.call("GET", "/session", nil).id("houses", 1, "id")
	make := func(p *person, purpose string) (*person, answer) {
		a := p.call("POST", "/account/tokens", o{"name": purpose, "house": h, "role": "keeper", "purpose": purpose, "days": 30})
		require.Equal(t, 201, a.status, a.text)
		return s.bearer(a.at("token").(string)), a
	}
	read, _ := make(k, "read")
	audit, _ := make(k, "audit")
	send, _ := make(k, "send")
	everything, _ := make(k, "everything")
	assert.Equal(t, 200, read.call("GET", house(h, "/colors"), nil).status)
	assert.Equal(t, 404, read.call("GET", house(bakery, "/colors"), nil).status, "another house does not exist")
	assert.Len(t, read.call("GET", "/session", nil).at("houses"), 1)
	for _, c := range []struct {
		path, method string
		body         o
		may          []*person
	}{
		{"/projects", "POST", o{"name": "x"}, []*person{audit, everything}},
		{"/recipients", "POST", o{"name": "x", "kind": "web"}, []*person{send, everything}},
		{"/tray", "POST", o{"text": "#123456"}, []*person{everything}},
		{"/settings", "PUT", o{}, []*person{everything}},
	} {
		for _, p := range []*person{read, audit, send, everything} {
			a := p.call(c.method, house(h, "%s", c.path), c.body)
			may := false
			for _, m := range c.may {
				may = may || m == p
			}
			assert.Equal(t, may, a.status != 403, "%s: %d %s", c.path, a.status, a.text)
		}
	}
	r := s.as("reader")
	theirs, _ := make(r, "everything")
	assert.Equal(t, 403, theirs.call("POST", house(h, "/projects"), o{"name": "y"}).status, "no more than the person may")
	list := k.call("GET", house(h, "/tokens"), nil)
	require.Len(t, list.at("tokens"), 5)
	assert.Equal(t, "Reader", list.at("tokens", 4, "owner"))
	assert.NotNil(t, list.at("tokens", 4, "used"))
	require.Equal(t, 204, k.call("DELETE", house(h, "/tokens/%d", list.id("tokens", 4, "id")), nil).status)
	assert.Equal(t, 401, theirs.call("GET", "/session", nil).status)
	assert.Equal(t, 404, k.call("DELETE", house(bakery, "/tokens/%d", list.id("tokens", 0, "id")), nil).status, "one of another house")
	assert.Equal(t, 422, r.call("POST", "/account/tokens", o{"name": "x", "house": 999, "role": "reader", "purpose": "read", "days": 3}).status)
}

// Twelve hundred refused sign-ins an hour are one row, and a trail that somebody writes into is seen.
func TestTheTrailIsSummedAndSealed(t *testing.T) {
	s := newSite(t)
	now := time.Now().UTC().Truncate(time.Hour).Add(10 * time.Minute)
	s.keeper.Base.Now = func() time.Time { return now }
	k := s.as("keeper")
	h := k.ferries()
	for n := range 60 {
		_ = s.signInFrom("198.51.100.7", "reader@odelwick.example", "wrong", "")
		_ = s.signInFrom("198.51.100.7", fmt.Sprintf("guess%d@x.example", n), "wrong", "")
	}
	trail := k.call("GET", house(h, "/trail"), nil).at("entries").([]any)
	rows, times := 0, 0.0
	for _, e := range trail {
		if m := e.(map[string]any); m["what"] == "sign-in refused" || m["what"] == "sign-in held off" {
			rows++
			times += m["times"].(float64)
		}
	}
	assert.LessOrEqual(t, rows, 2)
	assert.EqualValues(t, 60, times)

	for _, name := range []string{"x", "y", "z"} {
		require.Equal(t, 201, k.call("POST", house(h, "/projects"), o{"name": name}).status)
	}
	now = now.Add(2 * time.Hour)
	require.NoError(t, s.keeper.Trail.Seal(t.Context(), now))
	whole := func() (sealed int, wrong []string) {
		chains, err := s.keeper.Trail.Verify(t.Context())
		require.NoError(t, err)
		for _, c := range chains {
			sealed += c.Sealed
			wrong = append(wrong, c.Wrong...)
		}
		return sealed, wrong
	}
	sealed, wrong := whole()
	assert.Empty(t, wrong)
	assert.Greater(t, sealed, 4)
	rowsOf, err := s.db.ChainRows(h, 0, 100)
	require.NoError(t, err)
	require.GreaterOrEqual(t, len(rowsOf), 2)
	changed := rowsOf[0]
	was := changed.About
	changed.About = "something else"
	require.NoError(t, s.db.Save(&changed))
	_, wrong = whole()
	assert.NotEmpty(t, wrong, "a row that was changed")
	changed.About = was
	require.NoError(t, s.db.Save(&changed))
	_, wrong = whole()
	assert.Empty(t, wrong)
	put := rowsOf[0]
	put.ID, put.Once, put.Seal = 0, nil, ""
	require.NoError(t, s.db.Add(&put))
	put.ID, put.At = 0, now
	_, wrong = whole()
	assert.Empty(t, wrong, "what comes after the seal waits")

	// A house that keeps its trail for a month forgets what is older, and what is left is whole.
	require.Equal(t, 204, s.as("keeper").call("PUT", house(h, "/settings"), o{"name": "Odelwick Ferries", "inviters": "keeper", "secondFactor": false, "notations": []int{0, 0, 0}, "greeting": "", "press": "coated", "stock": "coated", "trailDays": 30}).status)
	now = now.AddDate(0, 0, 40)
	require.NoError(t, s.keeper.Trail.Seal(t.Context(), now))
	require.NoError(t, s.keeper.Trail.Seal(t.Context(), now))
	left, err := s.db.ChainRows(h, 0, 100)
	require.NoError(t, err)
	assert.Empty(t, left)
	_, wrong = whole()
	assert.Empty(t, wrong)
	back := rowsOf[1]
	require.NoError(t, s.db.Add(&back))
	_, wrong = whole()
	assert.NotEmpty(t, wrong, "a row that had gone and is there again")
}

// What in the database is a secret is none without the keys, and a new key takes the place of the old one.
func TestSecretsAreEncrypted(t *testing.T) {
	s := newSite(t)
	r := s.as("reader")
	begun := r.call("POST", "/account/second-factor", o{"password": demo.Password})
	require.Equal(t, 200, begun.status)
	secret := begun.at("secret").(string)
	require.Equal(t, 200, r.call("PUT", "/account/second-factor", o{"code": code(t, secret, time.Now())}).status)
	u, err := s.db.UserByEmail("reader@odelwick.example")
	require.NoError(t, err)
	assert.NotContains(t, u.Totp, secret)
	assert.True(t, strings.HasPrefix(u.Totp, "k1:"))
	s.keeper.Base.Keys.Rotate()
	n, err := s.keeper.Accounts.EncryptSecrets(t.Context())
	require.NoError(t, err)
	assert.Equal(t, 1, n)
	s.keeper.Base.Keys.Drop()
	in := s.nobody().call("POST", "/session", o{"email": "reader@odelwick.example", "password": demo.Password, "code": code(t, secret, time.Now().Add(30*time.Second))})
	assert.Equal(t, 200, in.status, in.text)
	u.Totp = secret // as a version before had it
	require.NoError(t, s.db.Save(&u))
	n, err = s.keeper.Accounts.EncryptSecrets(t.Context())
	require.NoError(t, err)
	assert.Equal(t, 1, n)
	s.keeper.Base.Keys = keep.NewKeys() // another machine, without the keys
	a := s.nobody().call("POST", "/session", o{"email": "reader@odelwick.example", "password": demo.Password, "code": "123456"})
	assert.Equal(t, 409, a.status)
	assert.Contains(t, a.at("title"), "huekeep doctor")
	_, err = s.keeper.Accounts.EncryptSecrets(t.Context())
	assert.ErrorIs(t, err, keep.ErrNoKey)
}

func code(t *testing.T, secret string, at time.Time) string {
	c, err := totp.GenerateCode(secret, at)
	require.NoError(t, err)
	return c
}
