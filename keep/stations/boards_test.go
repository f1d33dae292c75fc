package stations_test

import (
	"bytes"
	"fmt"
	"image"
	"image/png"
	"strings"
	"sync"
	"sync/atomic"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"
	"golang.org/x/image/font/gofont/goregular"

	"huekeep/core/board"
	"huekeep/core/swatchfile"
	"huekeep/keep"
	"huekeep/keep/accounts"
	"huekeep/keep/boards"
)

// boarded is a board with everything that a backup has to carry: an own typeface, a logo, a sheet with two answers, a color that
// the library has and one that it has not.
func boarded(t *testing.T, r *room, color int64) (id int64) {
	t.Helper()
	require.NoError(t, r.Boards.AddTypeface(ctx, r.Actor, "house.ttf", goregular.TTF))
	faces, err := r.Boards.Typefaces(ctx, r.Actor)
	require.NoError(t, err)
	var picture bytes.Buffer
	require.NoError(t, png.Encode(&picture, image.NewGray(image.Rect(0, 0, 8, 4))))
	logo, err := r.Boards.KeepLogo(ctx, r.Actor, picture.Bytes())
	require.NoError(t, err)
	b := board.Board{Title: "Winter", Logo: logo, Options: []board.Option{
		{Ground: board.Paint{ID: color, Name: "Deep Sound", Hex: "#0E3A53"}, Type: board.Paint{Name: "Fog", Hex: "#C9D1D3"}, Typeface: faces[len(faces)-1].Key, Size: board.Medium, Logo: true}}}
	id, err = r.Boards.Create(ctx, r.Actor, b)
	require.NoError(t, err)
	_, err = r.Boards.Fix(ctx, r.Actor, id, 1)
	require.NoError(t, err)
	token, err := r.Boards.OpenLink(ctx, r.Actor, id, 1, nil, "")
	require.NoError(t, err)
	holder, err := r.Links.Follow(ctx, token, keep.BoardLink)
	require.NoError(t, err)
	for _, name := range []string{"Ines", "Otto"} {
		require.NoError(t, r.Boards.Answer(ctx, holder, "", boards.NewAnswer{Page: name, Name: name, Comment: "from " + name}))
	}
	return id
}

// keeperOf makes a house of that name and somebody who keeps it.
func keeperOf(t *testing.T, r *room, name string, id int64) keep.Actor {
	t.Helper()
	email := strings.ToLower(name) + "@x.example"
	require.NoError(t, r.People.AddMember(ctx, email, name, "a long password", name, keep.RoleKeeper))
	user, err := r.Base.DB.UserByEmail(email)
	require.NoError(t, err)
	a, err := r.Accounts.Enter(ctx, accounts.SignedIn{Account: accounts.Account{ID: user.ID, Name: name}}, id)
	require.NoError(t, err)
	return a
}

// A house's boards come back in another house, with what they are set in, what they carry and what was answered; those that the house
// has stay as they are.
func TestBoardsComeBackFromABackup(t *testing.T) {
	r := newRoom(t)
	sound := r.admit(r.Actor, "Deep Sound #0E3A53")[0]
	boarded(t, r, sound)
	lib, err := r.Backup.Export(ctx, r.Actor)
	require.NoError(t, err)
	data, err := swatchfile.WriteLibrary(lib)
	require.NoError(t, err)

	other := keeperOf(t, r, "Other", 2)
	_, err = r.Backup.Restore(ctx, other, data, true)
	require.NoError(t, err)
	list, err := r.Boards.List(ctx, other)
	require.NoError(t, err)
	require.Len(t, list, 1)
	b, err := r.Boards.Board(ctx, other, list[0].ID)
	require.NoError(t, err)
	assert.Empty(t, b.Notes[0], "its color is the one of this house")
	assert.NotEqual(t, sound, b.Options[0].Ground.ID)
	require.Len(t, b.Sheets, 1)
	var who []string
	for _, x := range b.Sheets[0].Answers {
		who = append(who, x.Name+" "+x.Comment)
	}
	assert.Equal(t, []string{"Ines from Ines", "Otto from Otto"}, who)
	assert.Empty(t, b.Sheets[0].Links, "a backup has no secrets")
	for _, a := range []keep.Actor{r.Actor, other} {
		list, err := r.Boards.List(ctx, a)
		require.NoError(t, err)
		_, file, err := r.Boards.File(ctx, a, list[0].ID, 1, "png")
		require.NoError(t, err)
		assert.NotEmpty(t, file)
	}
	_, err = r.Backup.Restore(ctx, other, data, true)
	require.NoError(t, err)
	list, err = r.Boards.List(ctx, other)
	require.NoError(t, err)
	assert.Len(t, list, 1, "once more brings nothing twice")

	// What cannot be is refused with its name, and nothing of the file came in.
	third := keeperOf(t, r, "Third", 3)
	for says, spoil := range map[string]func(b *swatchfile.Backup){
		"The typeface Go: the font is damaged":      func(b *swatchfile.Backup) { b.Typefaces[0].Data = goregular.TTF[:5000] },
		"in a typeface that the file does not hold": func(b *swatchfile.Backup) { b.Typefaces = nil },
		"A logo of the file":                        func(b *swatchfile.Backup) { b.Logos[0].Data = []byte("<svg/>") },
		"newer Hue Keep":                            func(b *swatchfile.Backup) { b.Boards[0].Document = []byte(`{"version": 99}`) },
		"has no title":                              func(b *swatchfile.Backup) { b.Boards[0].Document = []byte(`{"version": 1}`) },
	} {
		lib, err := swatchfile.ReadTokens(data)
		require.NoError(t, err)
		spoil(lib.Backup)
		bad, err := swatchfile.WriteLibrary(lib)
		require.NoError(t, err)
		_, err = r.Backup.Restore(ctx, third, bad, true)
		assert.Equal(t, keep.Invalid, kindOf(err), says)
		assert.ErrorContains(t, err, says)
		_, rows, err := r.Ledger.Ledger(ctx, third)
		require.NoError(t, err)
		assert.Empty(t, rows)
	}
}

// The rules of boards ask for the role themselves, whoever calls them; the holder of a link is no member.
func TestRolesOnBoards(t *testing.T) {
	r := newRoom(t)
	id := boarded(t, r, r.admit(r.Actor, "Deep Sound #0E3A53")[0])
	holder := keep.Actor{Name: "Somebody", House: r.Actor.House, Link: &keep.Link{Kind: keep.BoardLink, Thing: 1}}
	fine := board.Board{Title: "Spring"}
	contributors := map[string]func(keep.Actor) error{
		"list":      func(a keep.Actor) error { _, err := r.Boards.List(ctx, a); return err },
		"look":      func(a keep.Actor) error { _, err := r.Boards.Board(ctx, a, id); return err },
		"propose":   func(a keep.Actor) error { _, err := r.Boards.Propose(ctx, a, nil); return err },
		"create":    func(a keep.Actor) error { _, err := r.Boards.Create(ctx, a, fine); return err },
		"fix":       func(a keep.Actor) error { _, err := r.Boards.Fix(ctx, a, id, 1); return err },
		"a sheet":   func(a keep.Actor) error { _, err := r.Boards.Sheet(ctx, a, id, 1); return err },
		"a file":    func(a keep.Actor) error { _, _, err := r.Boards.File(ctx, a, id, 1, "pdf"); return err },
		"typefaces": func(a keep.Actor) error { _, err := r.Boards.Typefaces(ctx, a); return err },
	}
	keepers := map[string]func(keep.Actor) error{
		"open a link":       func(a keep.Actor) error { _, err := r.Boards.OpenLink(ctx, a, id, 1, nil, ""); return err },
		"close a link":      func(a keep.Actor) error { return r.Boards.CloseLink(ctx, a, id, 1) },
		"adopt":             func(a keep.Actor) error { _, err := r.Boards.Adopt(ctx, a, id, 1, 0); return err },
		"bring a typeface":  func(a keep.Actor) error { return r.Boards.AddTypeface(ctx, a, "x.ttf", goregular.TTF) },
		"remove a typeface": func(a keep.Actor) error { return r.Boards.RemoveTypeface(ctx, a, 1) },
	}
	for what, try := range contributors {
		assert.NoError(t, try(r.contributor), "%s by a contributor", what)
		assert.Equal(t, keep.Forbidden, kindOf(try(r.reader)), "%s by a reader", what)
		assert.Equal(t, keep.Forbidden, kindOf(try(holder)), "%s by who has a link", what)
	}
	for what, try := range keepers {
		assert.Equal(t, keep.Forbidden, kindOf(try(r.contributor)), "%s by a contributor", what)
		assert.Equal(t, keep.Forbidden, kindOf(try(holder)), "%s by who has a link", what)
	}
	_, _, err := r.Boards.Shown(ctx, r.Actor, "")
	assert.Equal(t, keep.NotFound, kindOf(err), "a member has no link")
	_, _, err = r.Boards.Shown(ctx, keep.Actor{House: r.Actor.House, Link: &keep.Link{Kind: keep.PickupLink, Thing: 1}}, "")
	assert.Equal(t, keep.NotFound, kindOf(err), "a link to something else shows no sheet")
}

// Two who change one board, and ten who answer at once: nothing is lost and nobody counts twice.
func TestManyAtOneBoard(t *testing.T) {
	r := newRoom(t)
	id := boarded(t, r, r.admit(r.Actor, "Deep Sound #0E3A53")[0])
	b, err := r.Boards.Board(ctx, r.Actor, id)
	require.NoError(t, err)
	var won, stale atomic.Int32
	var all sync.WaitGroup
	for _, a := range []keep.Actor{r.Actor, r.contributor} {
		all.Go(func() {
			to := b.Board
			to.Title = "Of " + a.Name
			switch err := r.Boards.Change(ctx, a, id, b.Version, to); kindOf(err) {
			case "":
				won.Add(1)
			case keep.Conflict:
				stale.Add(1)
			}
		})
	}
	all.Wait()
	assert.Equal(t, []int32{1, 1}, []int32{won.Load(), stale.Load()})

	token, err := r.Boards.OpenLink(ctx, r.Actor, id, 1, nil, "")
	require.NoError(t, err)
	holder, err := r.Links.Follow(ctx, token, keep.BoardLink)
	require.NoError(t, err)
	for i := range 10 {
		all.Go(func() {
			assert.NoError(t, r.Boards.Answer(ctx, holder, "", boards.NewAnswer{Page: fmt.Sprint(i), Name: fmt.Sprintf("Client %d", i%5)}))
		})
	}
	all.Wait()
	b, err = r.Boards.Board(ctx, r.Actor, id)
	require.NoError(t, err)
	assert.Len(t, b.Sheets[0].Answers, 2+5)
}
