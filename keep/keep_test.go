package keep_test

import (
	"context"
	"errors"
	"fmt"
	"strings"
	"testing"
	"time"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"
	"gocloud.dev/blob"
	"gocloud.dev/blob/memblob"

	"huekeep/core/audit"
	"huekeep/core/ink"
	"huekeep/core/press"
	"huekeep/keep"
	"huekeep/standin"
	"huekeep/store"
	"huekeep/store/storetest"
)

func TestMain(m *testing.M) { storetest.Main(m) }

var ctx = context.Background()

// room is a keeper with one house and people of every role in it.
type room struct {
	t *testing.T
	*keep.Keeper
	files *blob.Bucket
	keep.Actor
	contributor, reader keep.Actor
}

func newRoom(t *testing.T) *room {
	files := memblob.OpenBucket(nil)
	k := keep.New(storetest.Open(t), files)
	require.NoError(t, k.AddMember(ctx, "k@x.example", "Kim", "a long password", "House", keep.RoleKeeper))
	require.NoError(t, k.AddMember(ctx, "c@x.example", "Cleo", "a long password", "House", keep.RoleContributor))
	require.NoError(t, k.AddMember(ctx, "r@x.example", "Ria", "a long password", "House", keep.RoleReader))
	r := &room{t: t, Keeper: k, files: files}
	for email, a := range map[string]*keep.Actor{"k@x.example": &r.Actor, "c@x.example": &r.contributor, "r@x.example": &r.reader} {
		user, err := k.DB.UserByEmail(email)
		require.NoError(t, err)
		*a, err = k.Enter(ctx, user, 1)
		require.NoError(t, err)
	}
	return r
}

// admit puts lines "Name #hex" into the library and returns their ids.
func (r *room) admit(a keep.Actor, lines ...string) []int64 {
	r.t.Helper()
	_, _, err := r.AddToTray(ctx, a, strings.Join(lines, "\n"))
	require.NoError(r.t, err)
	tray, err := r.Tray(ctx, a)
	require.NoError(r.t, err)
	var items []int64
	for _, c := range tray {
		items = append(items, c.ID)
	}
	colors, err := r.Admit(ctx, a, keep.Admission{Items: items})
	require.NoError(r.t, err)
	var ids []int64
	for _, c := range colors {
		ids = append(ids, c.ID)
	}
	return ids
}

func (r *room) change(id int64, c keep.Change) {
	r.t.Helper()
	s, err := r.Sheet(ctx, r.Actor, id)
	require.NoError(r.t, err)
	c.Version = s.Row.Version
	require.NoError(r.t, r.ChangeColor(ctx, r.Actor, id, c))
}

func ptr[T any](v T) *T { return &v }

func kindOf(err error) keep.Kind {
	var e *keep.Error
	if errors.As(err, &e) {
		return e.Kind
	}
	return 0
}

func TestNotesOnCandidates(t *testing.T) {
	r := newRoom(t)
	ids := r.admit(r.Actor, "Buoy #E2572B", "Old Funnel #D9482B")
	r.change(ids[1], keep.Change{Status: ptr("retired"), Successor: &ids[0]})
	for line, want := range map[string][]string{
		"Fresh #123456":         nil,
		"#123456":               {"unnamed: needs a name"},
		"BUOY #123456":          {"name-taken: the name is taken: Buoy is #E2572B"},
		"Buoy #E2572B":          {"name-taken: Buoy is in the library already, with this value"},
		"Call #E2572B":          {"same-value: same value as Buoy"},
		"Call #E1572C":          {"near-value: 0.3 invisible from Buoy"},
		"Funnel #DA482B":        {"near-value: 0.2 invisible from Old Funnel, which is retired"},
		"Glass rgb(1 2 3 / .5)": {"remark: its transparency was left out; a brand color is opaque"},
	} {
		_, _, err := r.AddToTray(ctx, r.Actor, line)
		require.NoError(t, err)
		tray, err := r.Tray(ctx, r.Actor)
		require.NoError(t, err)
		var got []string
		for _, n := range tray[0].Notes {
			got = append(got, n.Kind+": "+n.Text)
		}
		assert.Equal(t, want, got, line)
		require.NoError(t, r.ClearTray(ctx, r.Actor))
	}
	_, _, err := r.AddToTray(ctx, r.Actor, "Twin #101010\ntwin #F0F0F0")
	require.NoError(t, err)
	tray, err := r.Tray(ctx, r.Actor)
	require.NoError(t, err)
	assert.Equal(t, "twice-on-tray", tray[0].Notes[0].Kind)
	assert.True(t, tray[1].Notes[0].Blocks)
}

func TestDerivedValuesFollowAndApprovedOnesStay(t *testing.T) {
	r := newRoom(t)
	id := r.admit(r.Actor, "Sea #0E3A53")[0]
	face := func() keep.Faces {
		s, err := r.Sheet(ctx, r.Actor, id)
		require.NoError(t, err)
		return s.Row.Faces
	}
	before := face()
	assert.False(t, before.Press.Approved)
	r.change(id, keep.Change{Value: ptr("#8FC1D4")})
	after := face()
	assert.NotEqual(t, before.Press.Value, after.Press.Value, "the derived build follows")
	assert.NotEqual(t, before.Ink.Ink.Code, after.Ink.Ink.Code, "and so does the nearest ink")

	require.NoError(t, r.ApproveBuild(ctx, r.Actor, id, 2, "coated", "50/10/15/0"))
	require.NoError(t, r.ApproveSpot(ctx, r.Actor, id, 3, "coated", "QN-0001"))
	require.NoError(t, r.ApproveSpot(ctx, r.Actor, id, 4, "uncoated", "QN-0002"))
	approved := face()
	assert.Equal(t, "50 10 15 0", approved.Press.Value.String())
	assert.Equal(t, "Kim", approved.Press.By)
	assert.Zero(t, approved.Press.Moved)
	assert.Equal(t, "QN-0001", approved.Ink.Ink.Code, "the ledger shows the coated stock")
	r.change(id, keep.Change{Value: ptr("#E2572B")})
	stayed := face()
	assert.Equal(t, approved.Press.Value, stayed.Press.Value)
	assert.Greater(t, stayed.Press.Moved, 20.0, "the sheet says how far the master moved")
	assert.Greater(t, stayed.Press.DeltaE, 20.0, "and the distance is to the new master")
	require.NoError(t, r.DropBuild(ctx, r.Actor, id, "coated"))
	require.NoError(t, r.DropSpot(ctx, r.Actor, id, "coated"))
	assert.Less(t, face().Press.DeltaE, 3.0)
	build := press.Coated().Build(mustSheet(t, r, id).Row.Faces.Press.Look.Lab())
	assert.Less(t, build.DeltaE, 1.0, "what the press face shows can be printed")
	assert.Equal(t, ink.Coated, face().Ink.Stock)
}

func mustSheet(t *testing.T, r *room, id int64) keep.Sheet {
	s, err := r.Sheet(ctx, r.Actor, id)
	require.NoError(t, err)
	return s
}

func TestHistoryTellsEveryChangeInWords(t *testing.T) {
	r := newRoom(t)
	ids := r.admit(r.Actor, "Sea #0E3A53", "Sky #8FC1D4")
	r.change(ids[0], keep.Change{Name: ptr("Deep  Sea"), Role: ptr("primary"), Rule: ptr("Hulls"), Group: ptr("Water")})
	r.change(ids[0], keep.Change{Value: ptr("#0F3A53"), Group: ptr("")})
	r.change(ids[0], keep.Change{Role: ptr("")})
	r.change(ids[0], keep.Change{Status: ptr("retired"), Successor: &ids[1]})
	r.change(ids[0], keep.Change{Status: ptr("approved")})
	var got []string
	for _, e := range mustSheet(t, r, ids[0]).History {
		got = append([]string{e.What}, got...)
	}
	assert.Equal(t, []string{"admitted as #0E3A53, from “Sea #0E3A53”", "renamed from Sea to Deep Sea", "role set to primary", "rule for use set to “Hulls”",
		"moved to the group Water", "amended from #0E3A53 to #0F3A53, 0.1 invisible", "taken out of its group", "role set to none",
		"retired, replaced by Sky", "approved"}, got)
	version := mustSheet(t, r, ids[0]).Row.Version
	r.change(ids[0], keep.Change{Name: ptr("Deep Sea")})
	assert.Equal(t, version, mustSheet(t, r, ids[0]).Row.Version, "a change that changes nothing is none")
}

func TestASetSaysWhatChangedSinceItsEdition(t *testing.T) {
	r := newRoom(t)
	ids := r.admit(r.Actor, "A #0E3A53", "B #E2572B", "C #F2B632", "D #4E7D5B")
	set, err := r.CreateSet(ctx, r.Actor, "Core", ids[:3])
	require.NoError(t, err)
	changes := func() []string {
		s, err := r.FindSet(ctx, r.Actor, set)
		require.NoError(t, err)
		return s.Changes
	}
	put := func(list ...int64) {
		s, err := r.FindSet(ctx, r.Actor, set)
		require.NoError(t, err)
		require.NoError(t, r.ChangeSet(ctx, r.Actor, set, s.Version, "Core", list))
	}
	require.NoError(t, r.FixEdition(ctx, r.Actor, set))
	assert.Empty(t, changes())
	put(ids[0], ids[1], ids[2], ids[3])
	assert.Equal(t, []string{"D added"}, changes())
	put(ids[3], ids[0], ids[1])
	assert.Equal(t, []string{"D added", "C removed"}, changes(), "a new color in front is not another order")
	put(ids[1], ids[0], ids[2])
	assert.Equal(t, []string{"the order changed"}, changes())
	put(ids[0], ids[1], ids[2])
	r.change(ids[0], keep.Change{Value: ptr("#102030"), Name: ptr("Alpha")})
	require.NoError(t, r.ApproveBuild(ctx, r.Actor, ids[1], 1, "coated", "0 77 92 6"))
	r.change(ids[2], keep.Change{Status: ptr("retired")})
	assert.Equal(t, []string{"Alpha amended from #0E3A53 to #102030", "A renamed to Alpha", "B: print values changed", "C is retired"}, changes())
	assert.Equal(t, keep.Conflict, kindOf(r.FixEdition(ctx, r.Actor, set)), "a retired color does not go out")
	put(ids[0], ids[1])
	require.NoError(t, r.FixEdition(ctx, r.Actor, set))
	e, _, err := r.Edition(ctx, r.Actor, set, 1)
	require.NoError(t, err)
	assert.Equal(t, "#0E3A53", e.Colors[0].RGB.Hex(), "the first edition is as it was")
	assert.Equal(t, "A", e.Colors[0].Name)
}

// fake is a receiving application that does what the test says.
type fake func(file string, data []byte) (standin.Receipt, error)

func (f fake) Receive(file string, data []byte) (standin.Receipt, error) { return f(file, data) }

func TestReceiptsSayWhatWasReallyTaken(t *testing.T) {
	r := newRoom(t)
	ids := r.admit(r.Actor, "A #0E3A53", "B #E2572B")
	set, err := r.CreateSet(ctx, r.Actor, "Core", ids)
	require.NoError(t, err)
	require.NoError(t, r.FixEdition(ctx, r.Actor, set))
	to, err := r.AddRecipient(ctx, r.Actor, "Site", "web", "")
	require.NoError(t, err)
	right := []standin.Taken{{Slot: "--a", Hex: "#0E3A53"}, {Slot: "--b", Hex: "#E2572B"}}
	for what, c := range map[string]struct {
		receive fake
		state   string
		message string
	}{
		"it fails": {func(string, []byte) (standin.Receipt, error) { return standin.Receipt{}, errors.New("disk full") }, "failed", "Disk full."},
		"another color": {func(string, []byte) (standin.Receipt, error) {
			return standin.Receipt{Title: "House, Core, edition 1", Colors: []standin.Taken{right[0], {Slot: "--b", Hex: "#E2572C"}}}, nil
		}, "failed", "1 of 2 slots show another color."},
		"too few": {func(string, []byte) (standin.Receipt, error) {
			return standin.Receipt{Title: "House, Core, edition 1", Colors: right[:1]}, nil
		}, "failed", "1 of 2 slots show another color."},
		"another edition": {func(string, []byte) (standin.Receipt, error) {
			return standin.Receipt{Title: "House, Core, edition 7", Colors: right}, nil
		}, "failed", `It took "House, Core, edition 7", not "House, Core, edition 1".`},
	} {
		r.Receivers["web"] = c.receive
		require.NoError(t, r.Send(ctx, r.Actor, set, 1, []int64{to.ID}))
		s, err := r.FindSet(ctx, r.Actor, set)
		require.NoError(t, err)
		assert.Equal(t, c.state, s.Holdings[0].State, what)
		assert.Equal(t, c.message, s.Holdings[0].Last.Message, what)
		assert.Zero(t, s.Holdings[0].Edition, what)
	}
	r.Receivers["web"] = standin.Web{}
	require.NoError(t, r.Send(ctx, r.Actor, set, 1, []int64{to.ID}))
	s, err := r.FindSet(ctx, r.Actor, set)
	require.NoError(t, err)
	assert.Equal(t, "current", s.Holdings[0].State)
	sheet := mustSheet(t, r, ids[0])
	assert.Equal(t, []keep.Holder{{Set: "Core", SetID: set, Edition: 1, Hex: "#0E3A53", Recipients: []string{"Site"}}}, sheet.Holders)
}

func TestAuditsFollowTheLibrary(t *testing.T) {
	r := newRoom(t)
	id := r.admit(r.Actor, "Buoy #E2572B")[0]
	r.admit(r.contributor, "Proposed #2F80ED")
	verdicts := func(a keep.Audit) string {
		out := ""
		for _, c := range a.Report.Colors {
			out += fmt.Sprintf("%s %s; ", c.Hex, c.Verdict)
		}
		return out
	}
	first, err := r.AuditFile(ctx, r.contributor, "folder/site.css", []byte("a{color:#E2572B;fill:#2F80ED}"))
	require.NoError(t, err)
	assert.Equal(t, "site.css", first.FileName)
	assert.Equal(t, "#2F80ED off-brand; #E2572B on-brand; ", verdicts(first), "a proposal is not allowed yet")
	r.change(id, keep.Change{Value: ptr("#E1572C")})
	second, err := r.AuditAgain(ctx, r.contributor, first.ID)
	require.NoError(t, err)
	assert.Equal(t, "#E2572B drifted; #2F80ED off-brand; ", verdicts(second))
	kept, err := r.Audit(ctx, r.reader, first.ID)
	require.NoError(t, err)
	assert.Equal(t, first.Report, kept.Report, "the first report stays as it was")
	assert.Equal(t, audit.Verdict("off-brand"), kept.Report.Colors[0].Verdict)
	require.NoError(t, r.files.Delete(ctx, first.BlobKey))
	_, err = r.AuditAgain(ctx, r.contributor, first.ID)
	assert.ErrorContains(t, err, "no longer kept")
	_, err = r.AuditFile(ctx, r.contributor, strings.Repeat("x", 300)+".css", []byte("a{}"))
	assert.Equal(t, keep.Invalid, kindOf(err))
}

func TestAnUploadWhoseRowFailsLeavesNoFile(t *testing.T) {
	r := newRoom(t)
	r.admit(r.Actor, "Buoy #E2572B")
	gone := r.Actor
	gone.House.ID = 999 // deleted by somebody else meanwhile
	_, err := r.AuditFile(ctx, gone, "a.css", []byte("a{color:red}"))
	require.Error(t, err)
	_, err = r.files.List(nil).Next(ctx)
	assert.Error(t, err, "no file is left behind")
}

func TestRolesAreAskedByTheRulesThemselves(t *testing.T) {
	r := newRoom(t)
	id := r.admit(r.Actor, "Buoy #E2572B")[0]
	set, err := r.CreateSet(ctx, r.Actor, "Core", []int64{id})
	require.NoError(t, err)
	for what, try := range map[string]func(keep.Actor) error{
		"amend":         func(a keep.Actor) error { return r.ChangeColor(ctx, a, id, keep.Change{Version: 1, Rule: ptr("x")}) },
		"approve CMYK":  func(a keep.Actor) error { return r.ApproveBuild(ctx, a, id, 1, "coated", "1 2 3 4") },
		"approve ink":   func(a keep.Actor) error { return r.ApproveSpot(ctx, a, id, 1, "coated", "QN-0001") },
		"drop CMYK":     func(a keep.Actor) error { return r.DropBuild(ctx, a, id, "coated") },
		"make a set":    func(a keep.Actor) error { _, err := r.CreateSet(ctx, a, "x", nil); return err },
		"change a set":  func(a keep.Actor) error { return r.ChangeSet(ctx, a, set, 1, "x", nil) },
		"delete a set":  func(a keep.Actor) error { return r.DeleteSet(ctx, a, set) },
		"fix":           func(a keep.Actor) error { return r.FixEdition(ctx, a, set) },
		"send":          func(a keep.Actor) error { return r.Send(ctx, a, set, 1, []int64{1}) },
		"add recipient": func(a keep.Actor) error { _, err := r.AddRecipient(ctx, a, "x", "web", ""); return err },
	} {
		assert.Equal(t, keep.Forbidden, kindOf(try(r.contributor)), "%s by a contributor", what)
		assert.Equal(t, keep.Forbidden, kindOf(try(r.reader)), "%s by a reader", what)
	}
	for what, try := range map[string]func(keep.Actor) error{
		"gather": func(a keep.Actor) error { _, _, err := r.AddToTray(ctx, a, "x #123456"); return err },
		"clear":  func(a keep.Actor) error { return r.ClearTray(ctx, a) },
		"remove": func(a keep.Actor) error { return r.RemoveCandidate(ctx, a, 1) },
		"rename": func(a keep.Actor) error { return r.ChangeCandidate(ctx, a, 1, ptr("x"), nil) },
		"admit":  func(a keep.Actor) error { _, err := r.Admit(ctx, a, keep.Admission{Items: []int64{1}}); return err },
		"audit":  func(a keep.Actor) error { _, err := r.AuditFile(ctx, a, "x.css", []byte("a{}")); return err },
	} {
		assert.Equal(t, keep.Forbidden, kindOf(try(r.reader)), "%s by a reader", what)
	}
}

func TestAccounts(t *testing.T) {
	r := newRoom(t)
	for what, c := range map[string]struct{ email, name, password, house, role, part string }{
		"a wrong address":  {"nobody", "N", "a long password", "House", "reader", "not an e-mail"},
		"a short password": {"n@x.example", "N", "short", "House", "reader", "12 characters"},
		"no name":          {"n@x.example", " ", "a long password", "House", "reader", "name is missing"},
		"a made-up role":   {"n@x.example", "N", "a long password", "House", "king", "keeper, contributor, reader"},
		"twice":            {"K@x.example", "N", "a long password", "House", "reader", "already"},
	} {
		err := r.AddMember(ctx, c.email, c.name, c.password, c.house, keep.Role(c.role))
		if assert.Error(t, err, what) {
			assert.Contains(t, err.Error(), c.part, what)
		}
	}
	user, err := r.DB.UserByEmail("k@x.example")
	require.NoError(t, err)
	assert.True(t, strings.HasPrefix(user.PasswordHash, "$argon2id$"))
	in, err := r.SignIn(ctx, " K@X.example", "a long password")
	require.NoError(t, err)
	_, err = r.DB.SessionByHash(in.Token, time.Now())
	assert.ErrorIs(t, err, store.ErrNotFound, "the token itself is not stored")
	found, err := r.Session(ctx, in.Token)
	require.NoError(t, err)
	assert.Equal(t, in.CSRF, found.CSRF)
	require.NoError(t, r.SignOut(ctx, in.Token))
	_, err = r.Session(ctx, in.Token)
	assert.Equal(t, keep.Unauthorized, kindOf(err))
	houses, err := r.Houses(ctx, user)
	require.NoError(t, err)
	assert.Len(t, houses, 1)
	stranger := store.User{ID: 999}
	_, err = r.Enter(ctx, stranger, 1)
	assert.Equal(t, keep.NotFound, kindOf(err))
}

// A first load that was cut off leaves houses that nobody can enter; the next start makes them anew.
func TestAnInterruptedDemoLoadIsDoneOver(t *testing.T) {
	k := keep.New(storetest.Open(t), memblob.OpenBucket(nil))
	half := store.House{Name: "Odelwick Ferries", Tolerance: 3, CreatedAt: time.Now()}
	require.NoError(t, k.DB.Add(&half))
	require.NoError(t, k.DB.Add(&store.Color{HouseID: half.ID, Name: "Half", NameKey: "half", Hex: "#112233", Status: "approved"}))
	require.NoError(t, k.LoadDemo(ctx))
	_, err := k.DB.House(half.ID)
	assert.ErrorIs(t, err, store.ErrNotFound)
	user, err := k.DB.UserByEmail("keeper@odelwick.example")
	require.NoError(t, err)
	houses, err := k.Houses(ctx, user)
	require.NoError(t, err)
	assert.Len(t, houses, 2)
}

func TestAnExportHoldsWhatItsReaderMaySee(t *testing.T) {
	r := newRoom(t)
	ids := append(r.admit(r.Actor, "A #0E3A53 96/50/20/64"), r.admit(r.contributor, "Draft #123456")...)
	_, err := r.CreateSet(ctx, r.Actor, "Core", ids)
	require.NoError(t, err)
	all, err := r.Export(ctx, r.Actor)
	require.NoError(t, err)
	assert.Equal(t, []string{"A", "Draft"}, all.Sets[0].Colors)
	assert.Equal(t, "96 50 20 64", all.Colors[0].CMYK[0].Value.String())
	assert.Equal(t, "Kim", all.Colors[0].History[0].By)
	some, err := r.Export(ctx, r.reader)
	require.NoError(t, err)
	assert.Equal(t, []string{"A"}, some.Sets[0].Colors)
	assert.Len(t, some.Colors, 1)
}
