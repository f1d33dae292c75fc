package stations_test

import (
	"context"
	"errors"
	"fmt"
	"strconv"
	"strings"
	"sync"
	"testing"
	"time"

	"github.com/alexedwards/argon2id"
	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"huekeep/core/audit"
	"huekeep/core/color"
	"huekeep/core/ink"
	"huekeep/core/library"
	"huekeep/core/press"
	"huekeep/filestore"
	"huekeep/keep"
	"huekeep/keep/accounts"
	"huekeep/keep/audits"
	"huekeep/keep/gathering"
	"huekeep/keep/jobs"
	"huekeep/keep/ledger"
	"huekeep/keep/media"
	"huekeep/keep/send"
	"huekeep/keep/stations"
	"huekeep/outside"
	"huekeep/standin"
	"huekeep/store"
	"huekeep/store/storetest"
)

func TestMain(m *testing.M) { storetest.Main(m) }

var ctx = context.Background()

// room is a keeper with one house and people of every role in it.
type room struct {
	t *testing.T
	*stations.Stations
	files               filestore.Store
	Actor               keep.Actor
	contributor, reader keep.Actor
}

func newRoom(t *testing.T) *room {
	files := filestore.Memory()
	k := stations.New(storetest.Open(t), files, standin.World())
	k.Accounts.Cost = &argon2id.Params{Memory: 64, Iterations: 1, Parallelism: 1, SaltLength: 16, KeyLength: 32}
	serving, stop := context.WithCancel(ctx)
	var all sync.WaitGroup
	all.Go(func() { k.Jobs.Serve(serving, 2) })
	t.Cleanup(func() { stop(); all.Wait() })
	require.NoError(t, k.People.AddMember(ctx, "k@x.example", "Kim", "a long password", "House", keep.RoleKeeper))
	require.NoError(t, k.People.AddMember(ctx, "c@x.example", "Cleo", "a long password", "House", keep.RoleContributor))
	require.NoError(t, k.People.AddMember(ctx, "r@x.example", "Ria", "a long password", "House", keep.RoleReader))
	r := &room{t: t, Stations: k, files: files}
	for email, a := range map[string]*keep.Actor{"k@x.example": &r.Actor, "c@x.example": &r.contributor, "r@x.example": &r.reader} {
		user, err := k.Base.DB.UserByEmail(email)
		require.NoError(t, err)
		*a, err = k.Accounts.Enter(ctx, accounts.SignedIn{Account: accounts.Account{ID: user.ID, Name: user.Name}}, 1)
		require.NoError(t, err)
	}
	return r
}

// admit puts lines "Name #hex" into the library and returns their ids.
func (r *room) admit(a keep.Actor, lines ...string) []int64 {
	r.t.Helper()
	_, err := r.Gathering.AddToTray(ctx, a, strings.Join(lines, "\n"))
	require.NoError(r.t, err)
	tray, err := r.Gathering.Tray(ctx, a)
	require.NoError(r.t, err)
	var items []int64
	for _, c := range tray {
		items = append(items, c.ID)
	}
	done, err := r.Gathering.Admit(ctx, a, gathering.Admission{Items: items})
	require.NoError(r.t, err)
	var ids []int64
	for _, c := range done.Colors {
		ids = append(ids, c.ID)
	}
	return ids
}

func (r *room) change(id int64, c ledger.Change) {
	r.t.Helper()
	s, err := r.Ledger.Sheet(ctx, r.Actor, id)
	require.NoError(r.t, err)
	c.Version = s.Row.Version
	require.NoError(r.t, r.Ledger.ChangeColor(ctx, r.Actor, id, c))
}

// judge audits a file and waits for what comes of it.
func (r *room) judge(a keep.Actor, name string, data []byte) (audits.Audit, error) {
	j, err := r.Audits.Begin(ctx, a, name, data)
	if err != nil {
		return audits.Audit{}, err
	}
	return r.judged(a, j)
}

func (r *room) judged(a keep.Actor, j jobs.Job) (audits.Audit, error) {
	j, err := r.Jobs.Wait(ctx, a, j.ID)
	require.NoError(r.t, err)
	if j.Problem != nil {
		return audits.Audit{}, j.Problem
	}
	id, err := strconv.ParseInt(j.Result, 10, 64)
	require.NoError(r.t, err)
	return r.Audits.Audit(ctx, a, id, 0)
}

func ptr[T any](v T) *T { return &v }

func kindOf(err error) keep.Kind {
	var e *keep.Error
	if errors.As(err, &e) {
		return e.Kind
	}
	return ""
}

func TestNotesOnCandidates(t *testing.T) {
	r := newRoom(t)
	ids := r.admit(r.Actor, "Buoy #E2572B", "Old Funnel #D9482B")
	r.change(ids[1], ledger.Change{Status: ptr("retired"), Successor: &ids[0]})
	for line, want := range map[string][]string{
		"Fresh #123456":         nil,
		"#123456":               {"unnamed: needs a name"},
		"BUOY #123456":          {"name-taken: Buoy is #E2572B in the library, 52.7 different from this"},
		"Buoy #E2572B":          {"name-taken: Buoy is in the library already, with this value"},
		"Call #E2572B":          {"same-value: same value as Buoy"},
		"Call #E1572C":          {"near-value: 0.3 invisible from Buoy"},
		"Funnel #DA482B":        {"near-value: 0.2 invisible from Old Funnel, which is retired"},
		"Glass rgb(1 2 3 / .5)": {"remark: its transparency was left out; a brand color is opaque"},
	} {
		_, err := r.Gathering.AddToTray(ctx, r.Actor, line)
		require.NoError(t, err)
		tray, err := r.Gathering.Tray(ctx, r.Actor)
		require.NoError(t, err)
		var got []string
		for _, n := range tray[0].Notes {
			got = append(got, n.Kind+": "+n.Text)
		}
		assert.Equal(t, want, got, line)
		require.NoError(t, r.Gathering.ClearTray(ctx, r.Actor))
	}
	_, err := r.Gathering.AddToTray(ctx, r.Actor, "Twin #101010\ntwin #F0F0F0")
	require.NoError(t, err)
	tray, err := r.Gathering.Tray(ctx, r.Actor)
	require.NoError(t, err)
	assert.Equal(t, "twice-on-tray", tray[0].Notes[0].Kind)
	assert.True(t, tray[1].Notes[0].Blocks)
}

func TestDerivedValuesFollowAndApprovedOnesStay(t *testing.T) {
	r := newRoom(t)
	id := r.admit(r.Actor, "Sea #0E3A53")[0]
	face := func() media.Faces {
		s, err := r.Ledger.Sheet(ctx, r.Actor, id)
		require.NoError(t, err)
		return s.Row.Faces
	}
	before := face()
	assert.False(t, before.Press.Origin == library.Signed)
	r.change(id, ledger.Change{Value: ptr("#8FC1D4")})
	after := face()
	assert.NotEqual(t, before.Press.Value, after.Press.Value, "the derived build follows")
	assert.NotEqual(t, before.Ink.Ink.Code, after.Ink.Ink.Code, "and so does the nearest ink")

	require.NoError(t, r.Ledger.ApproveBuild(ctx, r.Actor, id, 2, "coated", "50/10/15/0"))
	require.NoError(t, r.Ledger.ApproveSpot(ctx, r.Actor, id, 3, "coated", "QN-0001"))
	require.NoError(t, r.Ledger.ApproveSpot(ctx, r.Actor, id, 4, "uncoated", "QN-0002"))
	approved := face()
	assert.Equal(t, "50 10 15 0", approved.Press.Value.String())
	assert.Equal(t, "Kim", approved.Press.By)
	assert.Zero(t, approved.Press.Moved)
	assert.Equal(t, "QN-0001", approved.Ink.Ink.Code, "the ledger shows the coated stock")
	r.change(id, ledger.Change{Value: ptr("#E2572B")})
	stayed := face()
	assert.Equal(t, approved.Press.Value, stayed.Press.Value)
	assert.Greater(t, stayed.Press.Moved, 20.0, "the sheet says how far the master moved")
	assert.Greater(t, stayed.Press.DeltaE, 20.0, "and the distance is to the new master")
	require.NoError(t, r.Ledger.DropBuild(ctx, r.Actor, id, mustSheet(t, r, id).Row.Version, "coated"))
	require.NoError(t, r.Ledger.DropSpot(ctx, r.Actor, id, mustSheet(t, r, id).Row.Version, "coated"))
	assert.Less(t, face().Press.DeltaE, 3.0)
	build := press.Coated().Build(mustSheet(t, r, id).Row.Faces.Press.Look.Lab())
	assert.Less(t, build.DeltaE, 1.0, "what the press face shows can be printed")
	assert.Equal(t, ink.Coated, face().Ink.Stock)
}

func mustSheet(t *testing.T, r *room, id int64) ledger.Sheet {
	s, err := r.Ledger.Sheet(ctx, r.Actor, id)
	require.NoError(t, err)
	return s
}

func TestHistoryTellsEveryChangeInWords(t *testing.T) {
	r := newRoom(t)
	ids := r.admit(r.Actor, "Sea #0E3A53", "Sky #8FC1D4")
	r.change(ids[0], ledger.Change{Name: ptr("Deep  Sea"), Role: ptr("primary"), Rule: ptr("Hulls"), Group: ptr("Water")})
	r.change(ids[0], ledger.Change{Value: ptr("#0F3A53"), Group: ptr("")})
	r.change(ids[0], ledger.Change{Role: ptr("")})
	r.change(ids[0], ledger.Change{Status: ptr("retired"), Successor: &ids[1]})
	r.change(ids[0], ledger.Change{Status: ptr("approved")})
	var got []string
	for _, e := range mustSheet(t, r, ids[0]).History {
		got = append([]string{e.What}, got...)
	}
	assert.Equal(t, []string{"admitted as #0E3A53, from “Sea #0E3A53”", "renamed from Sea to Deep Sea", "role set to primary", "rule for use set to “Hulls”",
		"moved to the group Water", "amended from #0E3A53 to #0F3A53, 0.1 invisible", "taken out of its group", "role set to none",
		"retired, replaced by Sky", "approved"}, got)
	version := mustSheet(t, r, ids[0]).Row.Version
	r.change(ids[0], ledger.Change{Name: ptr("Deep Sea")})
	assert.Equal(t, version, mustSheet(t, r, ids[0]).Row.Version, "a change that changes nothing is none")
}

func TestASetSaysWhatChangedSinceItsEdition(t *testing.T) {
	r := newRoom(t)
	ids := r.admit(r.Actor, "A #0E3A53", "B #E2572B", "C #F2B632", "D #4E7D5B")
	set, err := r.Send.CreateSet(ctx, r.Actor, send.Content{Name: "Core", Colors: ids[:3]})
	require.NoError(t, err)
	changes := func() []string {
		s, err := r.Send.Set(ctx, r.Actor, set)
		require.NoError(t, err)
		return s.Changes
	}
	put := func(list ...int64) {
		s, err := r.Send.Set(ctx, r.Actor, set)
		require.NoError(t, err)
		require.NoError(t, r.Send.ChangeSet(ctx, r.Actor, set, s.Version, send.Content{Name: "Core", Colors: list}))
	}
	require.NoError(t, r.Send.Fix(ctx, r.Actor, set, ""))
	assert.Empty(t, changes())
	put(ids[0], ids[1], ids[2], ids[3])
	assert.Equal(t, []string{"D added"}, changes())
	put(ids[3], ids[0], ids[1])
	assert.Equal(t, []string{"D added", "C removed"}, changes(), "a new color in front is not another order")
	put(ids[1], ids[0], ids[2])
	assert.Equal(t, []string{"the order changed"}, changes())
	put(ids[0], ids[1], ids[2])
	r.change(ids[0], ledger.Change{Value: ptr("#102030"), Name: ptr("Alpha")})
	require.NoError(t, r.Ledger.ApproveBuild(ctx, r.Actor, ids[1], 1, "coated", "0 77 92 6"))
	r.change(ids[2], ledger.Change{Status: ptr("retired")})
	assert.Equal(t, []string{"Alpha amended from #0E3A53 to #102030", "A renamed to Alpha", "B: print values changed", "C is retired"}, changes())
	assert.Equal(t, keep.Conflict, kindOf(r.Send.Fix(ctx, r.Actor, set, "")), "a retired color does not go out")
	put(ids[0], ids[1])
	require.NoError(t, r.Send.Fix(ctx, r.Actor, set, ""))
	e, err := r.Send.Edition(ctx, r.Actor, set, 1)
	require.NoError(t, err)
	assert.Equal(t, "#0E3A53", e.Colors[0].RGB.Hex(), "the first edition is as it was")
	assert.Equal(t, "A", e.Colors[0].Name)
}

// fake is a receiving application that does what the test says.
type fake func(file string, data []byte) (outside.Receipt, error)

func (f fake) Receive(file string, data []byte) (outside.Receipt, error) { return f(file, data) }

func TestReceiptsSayWhatWasReallyTaken(t *testing.T) {
	r := newRoom(t)
	ids := r.admit(r.Actor, "A #0E3A53", "B #E2572B")
	set, err := r.Send.CreateSet(ctx, r.Actor, send.Content{Name: "Core", Colors: ids})
	require.NoError(t, err)
	require.NoError(t, r.Send.Fix(ctx, r.Actor, set, ""))
	to, _, err := r.Send.AddRecipient(ctx, r.Actor, send.NewRecipient{Name: "Site", Kind: "web", Note: "", Packings: []string{"css"}, Ways: []send.Way{send.Application}})
	require.NoError(t, err)
	right := []outside.Taken{{Slot: "--a", Hex: "#0E3A53"}, {Slot: "--b", Hex: "#E2572B"}}
	for what, c := range map[string]struct {
		receive fake
		state   string
		message string
	}{
		"it fails": {func(string, []byte) (outside.Receipt, error) { return outside.Receipt{}, errors.New("disk full") }, "failed", "Disk full."},
		"another color": {func(string, []byte) (outside.Receipt, error) {
			return outside.Receipt{Title: "House, Core, edition 1", Colors: []outside.Taken{right[0], {Slot: "--b", Hex: "#E2572C"}}}, nil
		}, "failed", "1 of 2 places show another color."},
		"too few": {func(string, []byte) (outside.Receipt, error) {
			return outside.Receipt{Title: "House, Core, edition 1", Colors: right[:1]}, nil
		}, "failed", "1 of 2 places show another color."},
		"another edition": {func(string, []byte) (outside.Receipt, error) {
			return outside.Receipt{Title: "House, Core, edition 7", Colors: right}, nil
		}, "failed", `It took "House, Core, edition 7", not "House, Core, edition 1".`},
	} {
		r.Send.Receivers["web"] = c.receive
		require.NoError(t, r.Send.Send(ctx, r.Actor, set, 1, []int64{to.ID}))
		s, err := r.Send.Set(ctx, r.Actor, set)
		require.NoError(t, err)
		assert.EqualValues(t, c.state, s.Holdings[0].State, what)
		assert.Equal(t, c.message, s.Holdings[0].Last.Message, what)
		assert.Zero(t, s.Holdings[0].Edition, what)
	}
	r.Send.Receivers["web"] = standin.Applications()["web"]
	require.NoError(t, r.Send.Send(ctx, r.Actor, set, 1, []int64{to.ID}))
	s, err := r.Send.Set(ctx, r.Actor, set)
	require.NoError(t, err)
	assert.EqualValues(t, "current", s.Holdings[0].State)
	sheet := mustSheet(t, r, ids[0])
	assert.Equal(t, []send.Holder{{Set: "Core", SetID: set, Edition: 1, Hex: color.RGB8{R: 0x0E, G: 0x3A, B: 0x53}, Recipients: []string{"Site"}}}, sheet.Holders)
}

func TestAuditsFollowTheLibrary(t *testing.T) {
	r := newRoom(t)
	id := r.admit(r.Actor, "Buoy #E2572B")[0]
	r.admit(r.contributor, "Proposed #2F80ED")
	verdicts := func(a audits.Audit) string {
		out := ""
		for _, c := range a.Colors {
			out += fmt.Sprintf("%s %s; ", c.Hex, c.Verdict)
		}
		return out
	}
	first, err := r.judge(r.contributor, "folder/site.css", []byte("a{color:#E2572B;fill:#2F80ED}"))
	require.NoError(t, err)
	assert.Equal(t, "site.css", first.File)
	assert.Equal(t, "#2F80ED off-brand; #E2572B on-brand; ", verdicts(first), "a proposal is not allowed yet")
	r.change(id, ledger.Change{Value: ptr("#E1572C")})
	j, err := r.Audits.Again(ctx, r.contributor, first.ID)
	require.NoError(t, err)
	second, err := r.judged(r.contributor, j)
	require.NoError(t, err)
	assert.Equal(t, "#E2572B drifted; #2F80ED off-brand; ", verdicts(second))
	kept, err := r.Audits.Audit(ctx, r.reader, first.ID, 0)
	require.NoError(t, err)
	assert.Equal(t, first, kept, "the first report stays as it was")
	assert.Equal(t, audit.Verdict("off-brand"), kept.Colors[0].Verdict)
	row, err := r.Base.DB.Audit(1, first.ID)
	require.NoError(t, err)
	require.NoError(t, r.files.Remove(ctx, row.BlobKey))
	_, err = r.Audits.Again(ctx, r.contributor, first.ID)
	assert.ErrorContains(t, err, "no longer kept")
	_, err = r.judge(r.contributor, strings.Repeat("x", 300)+".css", []byte("a{}"))
	assert.Equal(t, keep.Invalid, kindOf(err))
}

func TestAnUploadWhoseRowFailsLeavesNoFile(t *testing.T) {
	r := newRoom(t)
	r.admit(r.Actor, "Buoy #E2572B")
	gone := r.Actor
	gone.House.ID = 999 // deleted by somebody else meanwhile
	_, err := r.Audits.Begin(ctx, gone, "a.css", []byte("a{color:red}"))
	require.Error(t, err)
	require.NoError(t, r.files.Each(ctx, func(e filestore.Entry) error { return fmt.Errorf("%s is left behind", e.Key) }))
}

func TestRolesAreAskedByTheRulesThemselves(t *testing.T) {
	r := newRoom(t)
	id := r.admit(r.Actor, "Buoy #E2572B")[0]
	set, err := r.Send.CreateSet(ctx, r.Actor, send.Content{Name: "Core", Colors: []int64{id}})
	require.NoError(t, err)
	for what, try := range map[string]func(keep.Actor) error{
		"amend": func(a keep.Actor) error {
			return r.Ledger.ChangeColor(ctx, a, id, ledger.Change{Version: 1, Rule: ptr("x")})
		},
		"approve CMYK": func(a keep.Actor) error { return r.Ledger.ApproveBuild(ctx, a, id, 1, "coated", "1 2 3 4") },
		"approve ink":  func(a keep.Actor) error { return r.Ledger.ApproveSpot(ctx, a, id, 1, "coated", "QN-0001") },
		"drop CMYK":    func(a keep.Actor) error { return r.Ledger.DropBuild(ctx, a, id, 1, "coated") },
		"make a set": func(a keep.Actor) error {
			_, err := r.Send.CreateSet(ctx, a, send.Content{Name: "x", Colors: nil})
			return err
		},
		"change a set": func(a keep.Actor) error {
			return r.Send.ChangeSet(ctx, a, set, 1, send.Content{Name: "x", Colors: nil})
		},
		"delete a set": func(a keep.Actor) error { return r.Send.DeleteSet(ctx, a, set) },
		"fix":          func(a keep.Actor) error { return r.Send.Fix(ctx, a, set, "") },
		"send":         func(a keep.Actor) error { return r.Send.Send(ctx, a, set, 1, []int64{1}) },
		"add recipient": func(a keep.Actor) error {
			_, _, err := r.Send.AddRecipient(ctx, a, send.NewRecipient{Name: "x", Kind: "web"})
			return err
		},
	} {
		assert.Equal(t, keep.Forbidden, kindOf(try(r.contributor)), "%s by a contributor", what)
		assert.Equal(t, keep.Forbidden, kindOf(try(r.reader)), "%s by a reader", what)
	}
	for what, try := range map[string]func(keep.Actor) error{
		"gather": func(a keep.Actor) error { _, err := r.Gathering.AddToTray(ctx, a, "x #123456"); return err },
		"clear":  func(a keep.Actor) error { return r.Gathering.ClearTray(ctx, a) },
		"remove": func(a keep.Actor) error { return r.Gathering.RemoveCandidate(ctx, a, 1) },
		"rename": func(a keep.Actor) error {
			return r.Gathering.ChangeCandidate(ctx, a, 1, gathering.CandidateChange{Name: ptr("x")})
		},
		"admit": func(a keep.Actor) error {
			_, err := r.Gathering.Admit(ctx, a, gathering.Admission{Items: []int64{1}})
			return err
		},
		"audit": func(a keep.Actor) error { _, err := r.Audits.Begin(ctx, a, "x.css", []byte("a{}")); return err },
	} {
		assert.Equal(t, keep.Forbidden, kindOf(try(r.reader)), "%s by a reader", what)
	}
}

func TestAccounts(t *testing.T) {
	r := newRoom(t)
	for what, c := range map[string]struct{ email, name, password, house, role, part string }{
		"a wrong address":  {"nobody", "N", "a long password", "House", "reader", "not an e-mail"},
		"a short password": {"n@x.example", "N", "short", "House", "reader", "10 characters"},
		"no name":          {"n@x.example", " ", "a long password", "House", "reader", "name is missing"},
		"a made-up role":   {"n@x.example", "N", "a long password", "House", "king", "keeper, contributor, reader"},
		"twice":            {"K@x.example", "N", "a long password", "House", "reader", "already"},
	} {
		err := r.People.AddMember(ctx, c.email, c.name, c.password, c.house, keep.Role(c.role))
		if assert.Error(t, err, what) {
			assert.Contains(t, err.Error(), c.part, what)
		}
	}
	user, err := r.Base.DB.UserByEmail("k@x.example")
	require.NoError(t, err)
	assert.True(t, strings.HasPrefix(user.PasswordHash, "$argon2id$"))
	in, err := r.Accounts.SignIn(ctx, accounts.Credentials{Email: " K@X.example", Password: "a long password"})
	require.NoError(t, err)
	_, err = r.Base.DB.SessionByHash(in.Token, time.Now())
	assert.ErrorIs(t, err, store.ErrNotFound, "the token itself is not stored")
	found, err := r.Accounts.Session(ctx, in.Token)
	require.NoError(t, err)
	assert.Equal(t, in.CSRF, found.CSRF)
	require.NoError(t, r.Accounts.SignOut(ctx, in))
	_, err = r.Accounts.Session(ctx, in.Token)
	assert.Equal(t, keep.Unauthorized, kindOf(err))
	houses, err := r.Accounts.Houses(ctx, found)
	require.NoError(t, err)
	assert.Len(t, houses, 1)
	stranger := accounts.SignedIn{Account: accounts.Account{ID: 999}}
	_, err = r.Accounts.Enter(ctx, stranger, 1)
	assert.Equal(t, keep.NotFound, kindOf(err))
}

// A first load that was cut off leaves houses that nobody can enter; the next start makes them anew.
func TestAnInterruptedDemoLoadIsDoneOver(t *testing.T) {
	k := stations.New(storetest.Open(t), filestore.Memory(), standin.World())
	half := store.House{Name: "Odelwick Ferries", NameKey: store.NameKey("Odelwick Ferries"), Tolerance: 3, CreatedAt: time.Now()}
	require.NoError(t, k.Base.DB.Add(&half))
	require.NoError(t, k.Base.DB.Add(&store.Color{HouseID: half.ID, Name: "Half", NameKey: "half", Hex: "#112233", Status: "approved"}))
	require.NoError(t, k.Example.Load(ctx))
	_, err := k.Base.DB.House(half.ID)
	assert.ErrorIs(t, err, store.ErrNotFound)
	user, err := k.Base.DB.UserByEmail("keeper@odelwick.example")
	require.NoError(t, err)
	houses, err := k.Accounts.Houses(ctx, accounts.SignedIn{Account: accounts.Account{ID: user.ID}})
	require.NoError(t, err)
	assert.Len(t, houses, 2)
}

func TestAnExportHoldsWhatItsReaderMaySee(t *testing.T) {
	r := newRoom(t)
	ids := append(r.admit(r.Actor, "A #0E3A53 96/50/20/64"), r.admit(r.contributor, "Draft #123456")...)
	_, err := r.Send.CreateSet(ctx, r.Actor, send.Content{Name: "Core", Colors: ids})
	require.NoError(t, err)
	all, err := r.Backup.Export(ctx, r.Actor)
	require.NoError(t, err)
	assert.Equal(t, []string{"A", "Draft"}, all.Sets[0].Colors)
	assert.Equal(t, "96 50 20 64", all.Colors[0].Builds[0].Value.String())
	assert.Equal(t, "Kim", all.Colors[0].History[0].By.Name)
	some, err := r.Backup.Export(ctx, r.reader)
	require.NoError(t, err)
	assert.Equal(t, []string{"A"}, some.Sets[0].Colors)
	assert.Len(t, some.Colors, 1)
}
