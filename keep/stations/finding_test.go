package stations_test

import (
	"strings"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"huekeep/core/library"
	"huekeep/core/swatchfile"
	"huekeep/filestore"
	"huekeep/keep"
	"huekeep/keep/accounts"
	"huekeep/keep/ledger"
	"huekeep/keep/send"
	"huekeep/keep/stations"
	"huekeep/standin"
	"huekeep/store/storetest"
)

// What people typed into the demo house's find field, and what they meant by it: part of the name or of what is said of a hit, of its group.
var typed = []struct{ words, of, hit string }{
	{"deep sound", "Colors", "Deep Sound"},
	{"buoy", "Colors", "Buoy"},
	{"dep snd", "", ""},
	{"saltmrash", "Colors", "Saltmarsh"},
	{"heater cliff", "Colors", "Heather Cliff"},
	{"dark blue", "Colors", "Deep Sound"},
	{"navy", "Colors", "Deep Sound"},
	{"light blue", "Colors", "Ice Ramp"},
	{"green", "Colors", "Saltmarsh"},
	{"purple", "Colors", "Heather Cliff"},
	{"warm gray", "Colors", "Hull White"},
	{"grey", "Colors", "Slate Quay"},
	{"orange", "Colors", "Buoy"},
	{"yellow", "Colors", "Lamp"},
	{"#E2572B", "Colors", "Buoy"},
	{"e2572b", "Colors", "Buoy"},
	{"226 87 43", "Close to", "Buoy"},
	{"226/87/43", "Close to", "Buoy"},
	{"R226 G87 B43", "Close to", "Buoy"},
	{"rgb(226, 87, 43)", "Close to", "Buoy"},
	{"hsl(14 76% 53%)", "Close to", "Buoy"},
	{"0 77 92 6", "Colors", "Buoy"},
	{"0/77/92/6", "Close to", "Buoy"},
	{"C0 M77 Y92 K6", "Close to", "Buoy"},
	{"0 75 100 7", "Close to", "Buoy"},
	{"QN-0076", "Colors", "Buoy"},
	{"qn 0453", "Ink book", "QN-0453"},
	{"rosewood", "Ink book", "QN-0076"},
	{"call to action", "Colors", "Buoy"},
	{"winter campaign", "Colors", "Heather Cliff"},
	{"retired", "Colors", "Old Funnel"},
	{"primary", "Colors", "Deep Sound"},
	{"core", "Swatch sets", "Core"},
	{"safety film", "Swatch sets", "Safety film"},
	{"edition 3", "Editions", "Safety film, edition 3"},
	{"ticket office", "Recipients", "Ticket office"},
	{"studio@winter-agency.example", "Recipients", "Winter agency"},
	{"video", "Recipients", "Film crew"},
	{"recipiants", "Places", "Recipients"},
	{"winter campaign, four directions", "Boards", "Winter campaign"},
	{"morning crossing", "Gradients", "Morning crossing"},
	{"gradient", "Gradients", "Safety titles"},
	{"winter timetable", "Projects", "Winter timetable 2027"},
	{"harbor-poster", "Files of projects", "harbor-poster.svg"},
	{"booking.css", "Files of projects", "booking.css"},
	{"contributor", "People", "Contributor"},
	{"keeper@odelwick.example", "People", "Keeper"},
	{"outbox", "Places", "Mail"},
	{"webhook", "Places", "Programs"},
	{"brand page", "Places", "Public links"},
	{"where to put the template", "Places", "Loading"},
	{"invite", "Places", "People"},
	{"newsprint", "Places", "Print"},
	{"second factor", "Places", "Your account"},
	{"second faktor", "Places", "Your account"},
	{"color blind", "Places", "Color vision"},
	{"wcag", "Places", "Contrast"},
	{"backup", "Places", "Backup"},
	{"who is behind", "Places", "Recipients"},
	{"password", "Places", "Your account"},
	{"rebrand", "Places", "Repaint plans"},
	{"photo", "Places", "Colors from a picture"},
}

func TestWhatPeopleTypeIsFound(t *testing.T) {
	k, keeper := demoHouse(t)
	for _, c := range typed {
		groups, err := k.Finding.Find(ctx, keeper, c.words)
		require.NoError(t, err)
		found, all := false, []string{}
		for _, g := range groups {
			for _, h := range g.Hits {
				all = append(all, g.Of+": "+h.Name)
				found = found || strings.HasPrefix(g.Of, c.of) && strings.Contains(h.Name+" "+h.Says, c.hit)
			}
		}
		if c.of == "" {
			assert.Empty(t, all, c.words)
			continue
		}
		assert.True(t, found, "%q: %q", c.words, all)
	}
}

// Nobody finds what they may not see.
func TestFindingKeepsToTheRoles(t *testing.T) {
	k, keeper := demoHouse(t)
	reader := keeper
	reader.Role = keep.RoleReader
	for _, words := range []string{"winter-agency.example", "directions", "trail", "keeper@odelwick.example"} {
		groups, err := k.Finding.Find(ctx, reader, words)
		require.NoError(t, err)
		for _, g := range groups {
			for _, h := range g.Hits {
				assert.NotContains(t, h.Name+h.Says, "winter-agency.example")
				assert.NotContains(t, []string{"Boards", "Mails"}, g.Of)
				assert.NotEqual(t, "house/trail", h.Path)
			}
		}
	}
	_, err := k.Finding.Find(ctx, reader, strings.Repeat("a", 201))
	require.Error(t, err)
}

// demoHouse is the demo with its projects, and its keeper.
func demoHouse(t *testing.T) (*stations.Stations, keep.Actor) {
	k := stations.New(storetest.Open(t), filestore.Memory(), standin.World())
	require.NoError(t, k.Example.Load(ctx))
	require.NoError(t, k.Audits.LoadDemo(ctx))
	user, err := k.Base.DB.UserByEmail("keeper@odelwick.example")
	require.NoError(t, err)
	a, err := k.Accounts.Enter(ctx, accounts.SignedIn{Account: accounts.Account{ID: user.ID, Name: user.Name}}, 1)
	require.NoError(t, err)
	return k, a
}

// A role may be a word of the house's own: kept in small letters, followed by sets, and in a backup.
func TestARoleOfOnesOwn(t *testing.T) {
	r := newRoom(t)
	ids := r.admit(r.Actor, "Sound #0E3A53", "Buoy #E2572B")
	role := "  Call to  Action "
	require.NoError(t, r.Ledger.ChangeColor(ctx, r.Actor, ids[1], ledger.Change{Version: 1, Role: &role}))
	c, err := r.Ledger.Color(ctx, r.Actor, ids[1])
	require.NoError(t, err)
	assert.Equal(t, library.Role("call to action"), c.Role)
	set := r.makeSet(send.Content{Name: "Actions", Follows: &send.Follows{Role: "Call to action"}})
	s, err := r.Send.Set(ctx, r.Actor, set)
	require.NoError(t, err)
	assert.Equal(t, "Buoy", s.Members[0].Name)
	for _, wrong := range []string{strings.Repeat("a", 41), "a;b", "a\x00"} {
		err := r.Ledger.ChangeColor(ctx, r.Actor, ids[0], ledger.Change{Version: 1, Role: &wrong})
		assert.Equal(t, keep.Invalid, kindOf(err), wrong)
	}
	lib, err := r.Backup.Export(ctx, r.Actor)
	require.NoError(t, err)
	data, err := swatchfile.WriteLibrary(lib)
	require.NoError(t, err)
	other := keeperOf(t, r, "Other", 2)
	_, err = r.Backup.Restore(ctx, other, data, true)
	require.NoError(t, err)
	sets, err := r.Send.Sets(ctx, other)
	require.NoError(t, err)
	assert.Equal(t, "call to action", sets[0].Follows.Role)
	assert.Equal(t, "Buoy", sets[0].Members[0].Name)
}
