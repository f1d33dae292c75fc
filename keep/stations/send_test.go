package stations_test

import (
	"slices"
	"strings"
	"testing"
	"time"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"huekeep/core/library"
	"huekeep/core/swatchfile"
	"huekeep/keep"
	"huekeep/keep/ledger"
	"huekeep/keep/links"
	"huekeep/keep/send"
	"huekeep/mail"
	"huekeep/standin"
)

// names of the colors of a set, in order.
func (r *room) names(set int64) string {
	r.t.Helper()
	s, err := r.Send.Set(ctx, r.Actor, set)
	require.NoError(r.t, err)
	var out []string
	for _, c := range s.Members {
		out = append(out, c.Name)
	}
	return strings.Join(out, " ")
}

func (r *room) makeSet(in send.Content) int64 {
	r.t.Helper()
	id, err := r.Send.CreateSet(ctx, r.Actor, in)
	require.NoError(r.t, err)
	return id
}

// A set that follows a role or a tag is never behind the library; the order by hand stays.
func TestASetThatFollowsTheLibrary(t *testing.T) {
	r := newRoom(t)
	ids := r.admit(r.Actor, "A #112233", "B #445566", "C #778899", "D #AABBCC")
	accent, tags := "accent", []string{"2027"}
	for _, id := range ids[:2] {
		r.change(id, ledger.Change{Role: &accent})
	}
	set := r.makeSet(send.Content{Name: "Accents", Follows: &send.Follows{Role: "accent"}})
	assert.Equal(t, "A B", r.names(set), "it holds what belongs from the beginning")
	s, err := r.Send.Set(ctx, r.Actor, set)
	require.NoError(t, err)
	require.NoError(t, r.Send.ChangeSet(ctx, r.Actor, set, s.Version, send.Content{Name: "Accents", Colors: []int64{ids[1], ids[0]}}))
	assert.Equal(t, "B A", r.names(set))
	r.change(ids[3], ledger.Change{Role: &accent})
	r.change(ids[2], ledger.Change{Role: &accent})
	assert.Equal(t, "B A D C", r.names(set), "what is new comes behind, as it comes")
	none := ""
	r.change(ids[0], ledger.Change{Role: &none})
	assert.Equal(t, "B D C", r.names(set))
	retired := "retired"
	r.change(ids[1], ledger.Change{Status: &retired})
	assert.Equal(t, "D C", r.names(set), "a retired color leaves")

	tagged := r.makeSet(send.Content{Name: "Tagged", Follows: &send.Follows{Tag: "2027"}})
	assert.Empty(t, r.names(tagged))
	r.change(ids[0], ledger.Change{Tags: &tags})
	assert.Equal(t, "A", r.names(tagged))
	assert.Equal(t, keep.Conflict, kindOf(r.Send.Take(ctx, r.Actor, tagged, set, ids[2:3], true)), "nobody puts colors into it by hand")
	_, err = r.Send.CreateSet(ctx, r.Actor, send.Content{Name: "X", Follows: &send.Follows{Role: "clay;"}})
	assert.Equal(t, keep.Invalid, kindOf(err))
	s, err = r.Send.Set(ctx, r.Actor, tagged)
	require.NoError(t, err)
	require.NoError(t, r.Send.ChangeSet(ctx, r.Actor, tagged, s.Version, send.Content{Name: "Tagged", Colors: ids[2:3], Follows: &send.Follows{}}))
	assert.Equal(t, "C", r.names(tagged), "by hand again")
}

func TestColorsMoveBetweenSetsWithoutDuplicates(t *testing.T) {
	r := newRoom(t)
	ids := r.admit(r.Actor, "A #112233", "B #445566", "C #778899")
	one, two := r.makeSet(send.Content{Name: "One", Colors: ids}), r.makeSet(send.Content{Name: "Two", Colors: ids[1:2]})
	require.NoError(t, r.Send.Take(ctx, r.Actor, two, one, ids[:2], true))
	assert.Equal(t, "A B C / B A", r.names(one)+" / "+r.names(two))
	require.NoError(t, r.Send.Take(ctx, r.Actor, two, one, ids[:2], false))
	assert.Equal(t, "C / B A", r.names(one)+" / "+r.names(two))
	assert.Equal(t, keep.Conflict, kindOf(r.Send.Take(ctx, r.Actor, two, one, ids[:1], false)), "it is not there any more")
	assert.Equal(t, keep.Invalid, kindOf(r.Send.Take(ctx, r.Actor, one, one, ids[2:], false)))
	assert.Equal(t, keep.NotFound, kindOf(r.Send.Take(ctx, r.Actor, one, 999, ids[2:], false)))
}

// Slots and boxes by hand are kept with the set and with its editions, and never make a theme illegible.
// A color may be in several boxes, where an application wants it so; what does not fit is said.
func TestAColorInSeveralBoxes(t *testing.T) {
	r := newRoom(t)
	ids := r.admit(r.Actor, "Sound #0E3A53", "Buoy #E2572B", "Lamp #F2B632", "White #F7F5F0")
	order := []library.Ref{{ID: ids[3]}, {ID: ids[0]}, {ID: ids[3]}}
	set := r.makeSet(send.Content{Name: "Core", Colors: ids, Boxes: &library.Boxes{Count: 4, Order: order}})
	require.NoError(t, r.Send.Fix(ctx, r.Actor, set, "white twice"))
	e, err := r.Send.Edition(ctx, r.Actor, set, 1)
	require.NoError(t, err)
	boxes, err := swatchfile.InBoxes(e)
	require.NoError(t, err)
	var names []string
	for _, b := range boxes {
		names = append(names, b.Color.Name)
	}
	assert.Equal(t, []string{"White", "Sound", "White", "Buoy"}, names)
	packed, err := r.Send.Pack(ctx, r.Actor, set, 1, "video-csv")
	require.NoError(t, err)
	assert.Equal(t, 2, strings.Count(string(packed.Data), "White"))
	assert.Contains(t, strings.Join(packed.Packing.Loses(e), "\n"), "the last 1 color of the order are left out")
}

func TestSlotsAndBoxesByHand(t *testing.T) {
	r := newRoom(t)
	ids := r.admit(r.Actor, "Sound #0E3A53", "Buoy #E2572B", "Lamp #F2B632", "White #F7F5F0")
	set := r.makeSet(send.Content{Name: "Core", Colors: ids})
	put := func(in send.Content) error {
		s, err := r.Send.Set(ctx, r.Actor, set)
		require.NoError(t, err)
		in.Name, in.Colors = "Core", ids
		return r.Send.ChangeSet(ctx, r.Actor, set, s.Version, in)
	}
	give := func(slot string, id int64) *[]library.Assigned {
		return &[]library.Assigned{{Slot: slot, Color: library.Ref{ID: id}}}
	}
	require.NoError(t, put(send.Content{Slots: give("accent1", ids[2]), Boxes: &library.Boxes{Count: 3, Order: []library.Ref{{ID: ids[3]}}}}))
	s, err := r.Send.Set(ctx, r.Actor, set)
	require.NoError(t, err)
	slots := s.Theme()
	assert.Equal(t, "Lamp true", slots[4].Color.Name+map[bool]string{true: " true"}[slots[4].Given])
	assert.Equal(t, "Buoy", slots[5].Color.Name, "the rest follows in order")
	for says, in := range map[string]send.Content{
		"Lamp as dk1 reads on":   {Slots: &[]library.Assigned{{Slot: "dk1", Color: library.Ref{ID: ids[2]}}, {Slot: "lt1", Color: library.Ref{ID: ids[3]}}}},
		"no slot":                {Slots: give("accent7", ids[2])},
		"s not in the set|color": {Slots: give("accent1", 999)},
		"1 to 64":                {Boxes: &library.Boxes{Count: 65}},
		"not in the set":         {Boxes: &library.Boxes{Order: []library.Ref{{ID: 999}}}},
		"is given twice":         {Slots: &[]library.Assigned{{Slot: "dk2", Color: library.Ref{ID: ids[0]}}, {Slot: "dk2", Color: library.Ref{ID: ids[1]}}}},
		"as hlink reads on":      {Slots: give("hlink", ids[2])},
	} {
		err := put(in)
		assert.Equal(t, keep.Invalid, kindOf(err), says)
		assert.ErrorContains(t, err, strings.Split(says, "|")[0])
	}
	require.NoError(t, r.Send.Fix(ctx, r.Actor, set, "first"))
	e, err := r.Send.Edition(ctx, r.Actor, set, 1)
	require.NoError(t, err)
	assert.Equal(t, "first accent1 Lamp 3", e.Note+" "+e.Slots[0].Slot+" "+e.Slots[0].Color.Name+" "+map[int]string{3: "3"}[e.Boxes.Count])
	boxes, err := swatchfile.InBoxes(e)
	require.NoError(t, err)
	require.Len(t, boxes, 3)
	assert.Equal(t, "White Sound Buoy", boxes[0].Color.Name+" "+boxes[1].Color.Name+" "+boxes[2].Color.Name)
	require.NoError(t, put(send.Content{Slots: &[]library.Assigned{}}))
	s, err = r.Send.Set(ctx, r.Actor, set)
	require.NoError(t, err)
	assert.Equal(t, []string{"slots of the office theme were given by hand"}, s.Changes)
	// All of it is in a backup.
	require.NoError(t, put(send.Content{Slots: give("accent2", ids[0]), Follows: &send.Follows{}}))
	require.NoError(t, r.Send.Withdraw(ctx, r.Actor, set, 1, "mistyped", true))
	to, _, err := r.Send.AddRecipient(ctx, r.Actor, send.NewRecipient{Name: "Site", Kind: "web", Ways: []send.Way{send.Pickup, send.ByHand}, Packings: []string{"css", "kit"}, Email: "a@b.example", Sets: []int64{set}})
	require.NoError(t, err)
	require.NoError(t, r.Send.Pause(ctx, r.Actor, to.ID, true))
	lib, err := r.Backup.Export(ctx, r.Actor)
	require.NoError(t, err)
	data, err := swatchfile.WriteLibrary(lib)
	require.NoError(t, err)
	other := keeperOf(t, r, "Other", 2)
	_, err = r.Backup.Restore(ctx, other, data, true)
	require.NoError(t, err)
	sets, err := r.Send.Sets(ctx, other)
	require.NoError(t, err)
	require.Len(t, sets, 1)
	assert.Equal(t, "accent2 Sound", sets[0].Slots[0].Slot+" "+sets[0].Slots[0].Color.Name)
	assert.Equal(t, 3, sets[0].Boxes.Count)
	assert.Equal(t, "mistyped", sets[0].Editions[0].Withdrawn.Why)
	assert.Equal(t, "first", sets[0].Editions[0].Note)
	people, err := r.Send.Recipients(ctx, other)
	require.NoError(t, err)
	require.Len(t, people, 1)
	assert.Equal(t, []any{[]string{"css", "kit"}, []send.Way{send.Pickup, send.ByHand}, "a@b.example", true}, []any{people[0].Packings, people[0].Ways, people[0].Email, people[0].Paused != nil})
	assert.Nil(t, people[0].Pickup, "a backup has no secrets")
}

// Editions of several sets, compared color by color, and everybody who is behind served at once.
func TestAfterAnAmendmentEverybodyIsCurrent(t *testing.T) {
	r := newRoom(t)
	ids := r.admit(r.Actor, "A #112233", "B #445566", "C #778899")
	one, two := r.makeSet(send.Content{Name: "One", Colors: ids[:2]}), r.makeSet(send.Content{Name: "Two", Colors: ids[1:]})
	require.NoError(t, r.Send.FixAll(ctx, r.Actor, []int64{one, two}, ""))
	add := func(name string, ways ...send.Way) int64 {
		to, _, err := r.Send.AddRecipient(ctx, r.Actor, send.NewRecipient{Name: name, Kind: "web", Packings: []string{"css", "tokens"}, Ways: ways})
		require.NoError(t, err)
		return to.ID
	}
	site, shop, desk := add("Site", send.Application), add("Shop", send.Application), add("Desk", send.ByHand)
	n, err := r.Send.SendBehind(ctx, r.Actor, []int64{one, two}, nil, false)
	require.NoError(t, err)
	assert.Zero(t, n, "who was never sent a set is not behind with it")
	for _, set := range []int64{one, two} {
		require.NoError(t, r.Send.Send(ctx, r.Actor, set, 1, []int64{site, shop, desk}))
	}
	require.NoError(t, r.Send.Pause(ctx, r.Actor, shop, true))
	value := "#112244"
	r.change(ids[1], ledger.Change{Value: &value})
	assert.Equal(t, keep.NotFound, kindOf(r.Send.FixAll(ctx, r.Actor, []int64{one, 999}, "")))
	s, err := r.Send.Set(ctx, r.Actor, one)
	require.NoError(t, err)
	assert.Len(t, s.Editions, 1, "all or none")
	seen, err := r.Send.Compare(ctx, r.Actor, one, 1, 0)
	require.NoError(t, err)
	require.Len(t, seen, 1)
	assert.Equal(t, []string{"B amended from #445566 to #112244"}, seen[0].What)
	assert.Greater(t, seen[0].DeltaE, 5.0)
	require.NoError(t, r.Send.FixAll(ctx, r.Actor, []int64{one, two}, "bluer"))
	assert.Equal(t, keep.Conflict, kindOf(r.Send.FixAll(ctx, r.Actor, []int64{one}, "")), "nothing changed since")
	list, err := r.Send.Recipients(ctx, r.Actor)
	require.NoError(t, err)
	var states []string
	for _, x := range list {
		for _, h := range x.Holdings {
			states = append(states, x.Name+" "+h.SetName+" "+string(h.State))
		}
	}
	assert.Equal(t, []string{"Site One behind", "Site Two behind", "Desk One unconfirmed", "Desk Two unconfirmed", "Shop One paused", "Shop Two paused"}, states, "those who are behind come first, those on pause last")
	n, err = r.Send.SendBehind(ctx, r.Actor, []int64{one, two}, []int64{site}, false)
	require.NoError(t, err)
	assert.Equal(t, 1, n, "to those it names")
	n, err = r.Send.SendBehind(ctx, r.Actor, []int64{one, two}, nil, false)
	require.NoError(t, err)
	assert.Equal(t, 1, n)
	for _, h := range r.holdings(site) {
		assert.Equal(t, send.Current, h.State)
	}
	for _, h := range r.holdings(desk) {
		assert.Equal(t, send.Waiting, h.State, "it is to be handed over")
	}
	n, err = r.Send.SendBehind(ctx, r.Actor, []int64{one, two}, nil, true)
	require.NoError(t, err)
	assert.Equal(t, 1, n, "a reminder goes to who has not said that it is loaded")
	require.NoError(t, r.Send.Told(ctx, r.Actor, desk, one, 2, ""))
	assert.Equal(t, send.Current, r.holdings(desk)[0].State)
	n, err = r.Send.SendBehind(ctx, r.Actor, []int64{one, two}, nil, false)
	require.NoError(t, err)
	assert.Zero(t, n, "once more is once too often")
	for _, what := range []error{r.Send.FixAll(ctx, r.reader, []int64{one}, ""), r.Send.Withdraw(ctx, r.contributor, one, 1, "x", true), r.Send.Told(ctx, r.reader, desk, one, 2, ""),
		r.Send.Take(ctx, r.contributor, one, two, nil, true), r.Send.RestoreSet(ctx, r.reader, one), r.Send.RemoveRecipient(ctx, r.contributor, desk, true), r.Send.ClosePickup(ctx, r.contributor, desk)} {
		assert.Equal(t, keep.Forbidden, kindOf(what))
	}
}

// holdings is what a recipient has, in the order of the sets.
func (r *room) holdings(id int64) []send.Holding {
	r.t.Helper()
	list, err := r.Send.Recipients(ctx, r.Actor)
	require.NoError(r.t, err)
	at := slices.IndexFunc(list, func(s send.Standing) bool { return s.ID == id })
	return list[at].Holdings
}

// A mail that is refused is tried again and arrives; one that is refused for good, and a server that hangs, show on the recipient.
func TestMailIsTriedAgain(t *testing.T) {
	r := newRoom(t)
	post, err := standin.StartMail("")
	require.NoError(t, err)
	defer post.Close()
	server, err := mail.New(post.Address("colors@house.example"))
	require.NoError(t, err)
	server.Wait(300 * time.Millisecond)
	r.Send.HurryMail(10 * time.Millisecond)
	r.Send.Address = "https://colors.example"
	ids := r.admit(r.Actor, "Deep & Sound #0E3A53", "Buoy #E2572B")
	set := r.makeSet(send.Content{Name: "Core", Colors: ids})
	require.NoError(t, r.Send.Fix(ctx, r.Actor, set, "The new one"))
	to := map[string]int64{}
	for _, name := range []string{"ana", "busy", "refused", "silent"} {
		x, _, err := r.Send.AddRecipient(ctx, r.Actor, send.NewRecipient{Name: name, Kind: "client", Ways: []send.Way{send.Mailed}, Email: name + "@client.example"})
		require.NoError(t, err)
		to[name] = x.ID
	}
	assert.Equal(t, keep.Conflict, kindOf(r.Send.Send(ctx, r.Actor, set, 1, []int64{to["ana"]})), "there is no mail server yet")
	r.Send.Mailer = server
	require.NoError(t, r.Send.Send(ctx, r.Actor, set, 1, []int64{to["ana"], to["busy"], to["refused"], to["silent"]}))
	assert.Equal(t, send.Waiting, r.holdings(to["ana"])[0].State)
	mails := map[string]send.Mail{}
	require.Eventually(t, func() bool {
		list, err := r.Send.Mails(ctx, r.Actor)
		require.NoError(t, err)
		for _, m := range list {
			mails[m.To] = m
		}
		return mails["ana@client.example"].State == "sent" && mails["busy@client.example"].State == "sent" && mails["refused@client.example"].State == "failed" && mails["silent@client.example"].Attempts > 1
	}, 20*time.Second, 20*time.Millisecond)
	assert.Equal(t, 3, mails["busy@client.example"].Attempts, "twice put off, then taken")
	assert.Equal(t, 1, mails["refused@client.example"].Attempts, "what is refused for good is not tried again")
	assert.Contains(t, mails["refused@client.example"].Problem, "no such mailbox")
	assert.Contains(t, mails["silent@client.example"].Problem, "does not answer")
	refused := r.holdings(to["refused"])[0]
	assert.Equal(t, send.Refused, refused.State)
	assert.Contains(t, refused.Last.Message, "could not be mailed")

	require.Len(t, post.Outbox(), 2)
	letter, ok := post.Letter(mails["ana@client.example"].MessageID)
	require.True(t, ok)
	assert.Equal(t, "House, Core, edition 1", letter.Subject)
	for _, part := range []string{"The new one", "Deep & Sound", "#0E3A53", " 14  58  83", "https://colors.example/p/"} {
		assert.Contains(t, letter.Text, part)
	}
	assert.Contains(t, letter.HTML, "cid:swatches")
	assert.NotEmpty(t, letter.Picture)
	// The link in it works. Fetching there is no receipt yet: what scans mail does so too. A person's word is one.
	_, token, _ := strings.Cut(letter.Text, "/p/")
	token, _, _ = strings.Cut(token, "\n")
	offer, err := r.Send.Offer(ctx, token)
	require.NoError(t, err)
	file, err := r.Send.Find(ctx, offer, "core.png", 0)
	require.NoError(t, err)
	require.NoError(t, r.Send.Fetched(ctx, offer, file, "a browser", false))
	assert.Equal(t, send.Waiting, r.holdings(to["ana"])[0].State)
	_, err = r.Send.Loaded(ctx, offer, set)
	require.NoError(t, err)
	assert.Equal(t, send.Current, r.holdings(to["ana"])[0].State)
	open, err := r.Links.OpenOf(ctx, r.Actor, keep.PickupLink)
	require.NoError(t, err)
	assert.Len(t, slices.DeleteFunc(open, func(l links.Link) bool { return l.Thing != to["busy"] }), 1, "a link that nobody got is closed again")
	require.NoError(t, r.Send.RemoveRecipient(ctx, r.Actor, to["ana"], true))
	_, err = r.Send.Offer(ctx, token)
	assert.Equal(t, keep.NotFound, kindOf(err))
}
