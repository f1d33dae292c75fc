package e2e

import (
	"context"
	"net/http/httptest"
	"net/http/httputil"
	"net/url"
	"testing"
	"time"

	"github.com/go-rod/rod/lib/input"
	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"huekeep/keep/ledger"
)

// keeps waits until the slip has kept so many answers of an account, and its page.
func (u *user) keeps(answers int) {
	u.t.Helper()
	require.Eventually(u.t, func() bool {
		kept, err := u.page.Eval(`async () => [(await (await caches.open('slip-account')).keys()).length, (await (await caches.open('slip-shell')).keys()).length,
			navigator.serviceWorker.controller ? 1 : 0]`)
		require.NoError(u.t, err)
		n := kept.Value.Arr()
		return n[0].Int() == answers && n[1].Int() > 3 && n[2].Int() == 1
	}, patience, 100*time.Millisecond)
}

// Beside the work: a value is one press away in the notation of the form that one fills, number by number; what changes is said; without the network
// the last state stays, and it goes when one signs out.
func TestTheSlipBesideTheWork(t *testing.T) {
	s := serve(t)
	to, err := url.Parse(s.url)
	require.NoError(t, err)
	network := httptest.NewServer(httputil.NewSingleHostReverseProxy(to))
	t.Cleanup(network.Close)
	t.Parallel()
	s.url = network.URL
	u := look(t, s)
	u.enter("keeper")
	opened := u.page.MustWaitOpen()
	u.click("button", "beside the work")
	slip := &user{site: s, t: t, page: opened().Timeout(patience * 3)}
	slip.click("button", "^#E2572B$")
	slip.see("li", "Buoy copied")
	assert.Equal(t, "#E2572B", slip.clipboard())
	assert.Equal(t, 1, slip.steps, "one press from the slip to the value")

	slip.page.MustElement("h1 select").MustSelect("Core")
	slip.page.MustElement("[aria-label=Notation]").MustSelect("R, G, B apart")
	slip.click("button", "^226$")
	slip.see("[aria-current=true]", "^226$")
	assert.Equal(t, "226", slip.clipboard())
	slip.press(input.Enter)
	slip.see("[aria-current=true]", "^87$")
	slip.press(input.Enter)
	slip.see("[aria-current=true]", "^43$")
	assert.Equal(t, "43", slip.clipboard())
	slip.typed("fo")
	slip.see("ul", "^\\s*Fog")
	slip.press(input.Enter)
	slip.see("[aria-current=true]", "^201$")
	slip.press(input.Escape)
	slip.see("li", "Deep Sound")
	slip.accessible("the slip")

	// Somebody amends a color: the slip says so by itself, until one has seen it.
	_, rows, err := s.keeper.Ledger.Ledger(context.Background(), u.actor())
	require.NoError(t, err)
	value := "#E05528"
	for _, r := range rows {
		if r.Name == "Buoy" {
			require.NoError(t, s.keeper.Ledger.ChangeColor(context.Background(), u.actor(), r.ID, ledger.Change{Version: r.Version, Value: &value}))
		}
	}
	slip.page.MustEval(`() => dispatchEvent(new Event('focus'))`) // as when one comes back to it
	slip.see("[role=status]", "Changed:\\s+Buoy")
	slip.click("button", "^seen$")
	slip.page.MustElement("[aria-label=Notation]").MustSelect("#0E3A53")
	slip.see("button", "^#E05528$")

	// What there is to keep is kept, and stays when the network goes.
	slip.keeps(2)
	network.CloseClientConnections()
	network.Config.Handler = nil
	network.Listener.Close()
	slip.page.MustReload().MustWaitLoad()
	slip.see("footer", "No network: this is what was last seen")
	slip.click("button", "^#E05528$")
	slip.see("li", "Buoy copied")
	assert.Equal(t, "#E05528", slip.clipboard())
}

func TestSigningOutForgetsWhatTheSlipSaw(t *testing.T) {
	u := visit(t)
	u.enter("keeper")
	require.NoError(t, u.page.Navigate(u.url+"/slip/h/1"))
	u.see("li", "Deep Sound")
	u.keeps(2)
	u.open("/h/1/library")
	u.click("summary", "^Keeper$")
	u.click("button", "Sign out")
	u.see("button", "Enter as keeper")
	assert.False(t, u.page.MustEval(`() => caches.has('slip-account')`).Bool())
	require.NoError(t, u.page.Navigate(u.url+"/slip/h/1"))
	u.see("[role=alert]", "Nobody is signed in")
	assert.NotContains(t, u.page.MustElement("body").MustText(), "Deep Sound")
}

// Somebody without an account has the same at a pickup.
func TestTheSlipOfAPickup(t *testing.T) {
	u := visit(t)
	list, err := u.keeper.Send.Recipients(context.Background(), u.actor())
	require.NoError(t, err)
	token := ""
	for _, r := range list {
		if r.Name == "Film crew" {
			token, err = u.keeper.Send.OpenPickup(context.Background(), u.actor(), r.ID)
			require.NoError(t, err)
		}
	}
	require.NoError(t, u.page.Navigate(u.url+"/p/"+token))
	u.page.MustElementR("a", "Beside the work").MustClick()
	u.see("li", "Buoy")
	u.see("footer", "Edition 3, as of")
	u.page.MustElement("[aria-label=Notation]").MustSelect("96/50/20/64")
	u.see("li", "0/77/92/6\\s+coated, approved")
	u.accessible("the slip of a pickup")
}
