// Package boards holds the rules of boards: options, the sheets that are shown of them, and what people answer.
package boards

import (
	"context"
	"errors"
	"fmt"
	"slices"
	"strconv"
	"strings"
	"time"

	"huekeep/core/board"
	"huekeep/core/color"
	"huekeep/core/library"
	"huekeep/core/limits"
	"huekeep/core/typeface"
	"huekeep/keep"
	"huekeep/keep/ledger"
	"huekeep/keep/links"
	"huekeep/keep/send"
	"huekeep/store"
)

// Rules are the rules of boards.
type Rules struct {
	*keep.Base
	Ledger *ledger.Rules
	Links  *links.Rules
}

// New makes the rules.
func New(b *keep.Base, l *ledger.Rules, k *links.Rules) *Rules { return &Rules{b, l, k} }

// Line is a board in the list of a house's.
type Line struct {
	ID              int64
	Title, By       string
	Changed         time.Time
	Sheets, Answers int
	Newest          *time.Time // when somebody last answered
}

// Board is a board with the sheets that were fixed of it.
type Board struct {
	board.Board
	ID, Version int64
	By          string
	Changed     time.Time
	Notes       [][]string // of each option: what became of its colors meanwhile
	Sheets      []Sheet    // newest first
}

// Sheet is a board as it was shown to somebody.
type Sheet struct {
	board.Board
	ID, Of  int64 // its own number in the house, and that of its board
	Number  int
	By      string
	Fixed   time.Time
	Answers []Answer
	Links   []links.Link // for keepers
}

// Answer is what one person chose.
type Answer struct {
	Name, Comment string
	Choice        int // place of the option
	First, At     time.Time
}

// List lists the boards of a house.
func (r *Rules) List(ctx context.Context, a keep.Actor) ([]Line, error) {
	if err := a.May(keep.RoleContributor); err != nil {
		return nil, err
	}
	rows, err := r.DB.With(ctx).Boards(a.House.ID)
	out := []Line{}
	for _, b := range rows {
		out = append(out, Line{b.ID, b.Title, b.ByName, b.ChangedAt, b.Sheets, b.Answers, b.Newest})
	}
	return out, err
}

// Board reads a board with its sheets, their answers and, for a keeper, their links.
func (r *Rules) Board(ctx context.Context, a keep.Actor, id int64) (Board, error) {
	if err := a.May(keep.RoleContributor); err != nil {
		return Board{}, err
	}
	db := r.DB.With(ctx)
	row, err := db.Board(a.House.ID, id)
	if err != nil {
		return Board{}, keep.Missing(err, "board")
	}
	b := Board{ID: row.ID, Version: int64(row.Version), By: row.ByName, Changed: row.ChangedAt}
	if b.Board, err = board.Read(row.Content); err != nil {
		return Board{}, err
	}
	colors, err := ledger.Visible(db, a)
	if err != nil {
		return Board{}, err
	}
	for _, o := range b.Options {
		b.Notes = append(b.Notes, notes(o, colors))
	}
	sheets, err := db.BoardSheets(a.House.ID, id)
	if err != nil {
		return Board{}, err
	}
	answers, err := db.BoardAnswers(id)
	if err != nil {
		return Board{}, err
	}
	for _, s := range sheets {
		sheet, err := sheetOf(s)
		if err != nil {
			return Board{}, err
		}
		for _, x := range answers {
			if x.SheetID == s.ID {
				sheet.Answers = append(sheet.Answers, answer(x))
			}
		}
		if a.Role == keep.RoleKeeper {
			if sheet.Links, err = r.Links.Of(ctx, a, keep.BoardLink, s.ID); err != nil {
				return Board{}, err
			}
		}
		b.Sheets = append(b.Sheets, sheet)
	}
	return b, nil
}

func sheetOf(row store.BoardSheet) (Sheet, error) {
	b, err := board.Read(row.Content)
	return Sheet{Board: b, ID: row.ID, Of: row.BoardID, Number: row.Number, By: row.ByName, Fixed: row.FixedAt}, err
}

func answer(x store.BoardAnswer) Answer { return Answer{x.Name, x.Comment, x.Choice, x.FirstAt, x.At} }

// notes says what became of the colors of an option since they were taken from the library.
func notes(o board.Option, colors []library.Color) (out []string) {
	for _, p := range o.Colors() {
		if p.ID == 0 {
			continue
		}
		at := slices.IndexFunc(colors, func(c library.Color) bool { return c.ID == p.ID })
		switch {
		case at < 0:
			out = append(out, p.Name+" is no longer in the library.")
		case colors[at].Retired() && colors[at].Successor.Name != "":
			out = append(out, fmt.Sprintf("%s is retired; use %s.", p.Name, colors[at].Successor.Name))
		case colors[at].Retired():
			out = append(out, p.Name+" is retired.")
		case colors[at].RGB.Hex() != p.Hex:
			out = append(out, fmt.Sprintf("%s is %s now, not %s.", colors[at].Name, colors[at].RGB.Hex(), p.Hex))
		}
	}
	return out
}

// Propose makes options of colors.
func (r *Rules) Propose(_ context.Context, a keep.Actor, colors []board.Paint) ([]board.Option, error) {
	if err := a.May(keep.RoleContributor); err != nil {
		return nil, err
	}
	if len(colors) > limits.SpecimenColors {
		return nil, keep.Wrong("colors", "the subject has %d colors; options are made of up to %d", len(colors), limits.SpecimenColors)
	}
	for _, p := range colors {
		if _, err := color.FromHex(p.Hex); err != nil {
			return nil, keep.Wrong("colors", "%v", err)
		}
	}
	return board.Propose(colors, typeface.Shipped()[0].Key), nil
}

// Create makes a board.
func (r *Rules) Create(ctx context.Context, a keep.Actor, in board.Board) (id int64, err error) {
	err = r.put(ctx, a, 0, 0, in, &id)
	return id, err
}

// Change gives a board another content. The version is the one that the caller saw.
func (r *Rules) Change(ctx context.Context, a keep.Actor, id, version int64, in board.Board) error {
	return r.put(ctx, a, id, version, in, &id)
}

func (r *Rules) put(ctx context.Context, a keep.Actor, id, version int64, in board.Board, made *int64) error {
	if err := a.May(keep.RoleContributor); err != nil {
		return err
	}
	title, err := keep.Name("title", in.Title)
	if err != nil {
		return err
	}
	in.Title = title
	if err := in.Check(); err != nil {
		return keep.Wrong("options", "%v", err)
	}
	return r.Base.Change(ctx, a, func(tx *store.DB) error {
		row := store.Board{HouseID: a.House.ID}
		if id == 0 {
			if n, err := tx.CountBoards(a.House.ID); err != nil {
				return err
			} else if n >= limits.Boards {
				return keep.Clash("", "the house has %d boards; that is as many as it can keep", n)
			}
		} else if row, err = tx.Board(a.House.ID, id); err != nil {
			return keep.Missing(err, "board")
		} else if int64(row.Version) != version {
			return keep.Stale("the board was changed by %s meanwhile; look at it again", row.ByName)
		}
		old := board.Board{}
		if id != 0 {
			if old, err = board.Read(row.Content); err != nil {
				return err
			}
		}
		if in.Logo != old.Logo && in.Logo != "" {
			if _, err := tx.Logo(a.House.ID, in.Logo); err != nil {
				return keep.Missing(err, "logo")
			}
		}
		if _, err := faces(tx, a, in); err != nil {
			return err
		}
		if row.Content, err = in.Write(); err != nil {
			return err
		}
		row.Title, row.ByUser, row.ByName, row.ChangedAt = in.Title, a.ByUser(), a.Name, r.Now()
		row.Version++
		if id == 0 {
			err = tx.Add(&row)
		} else {
			err = tx.Save(&row)
		}
		*made = row.ID
		return err
	})
}

// Delete deletes a board of which nothing was shown to anybody.
func (r *Rules) Delete(ctx context.Context, a keep.Actor, id int64) error {
	if err := a.May(keep.RoleContributor); err != nil {
		return err
	}
	return r.Base.Change(ctx, a, func(tx *store.DB) error {
		sheets, err := tx.BoardSheets(a.House.ID, id)
		if err != nil {
			return err
		}
		if n := len(sheets); n > 0 {
			return keep.Clash("", "%d sheets of the board were fixed, and what was shown to somebody stays", n)
		}
		return keep.Missing(tx.DeleteBoard(a.House.ID, id), "board")
	})
}

// Fix makes a sheet of a board as it is: numbered, never changed.
func (r *Rules) Fix(ctx context.Context, a keep.Actor, id, version int64) (number int, err error) {
	if err := a.May(keep.RoleContributor); err != nil {
		return 0, err
	}
	err = r.Base.Change(ctx, a, func(tx *store.DB) error {
		row, err := tx.Board(a.House.ID, id)
		if err != nil {
			return keep.Missing(err, "board")
		}
		if int64(row.Version) != version {
			return keep.Stale("the board was changed by %s meanwhile; look at it again", row.ByName)
		}
		b, err := board.Read(row.Content)
		if err != nil {
			return err
		}
		if len(b.Options) == 0 {
			return keep.Wrong("options", "the board has no option to choose from yet")
		}
		if err := writable(tx, a, b); err != nil {
			return err
		}
		sheets, err := tx.BoardSheets(a.House.ID, id)
		if err != nil {
			return err
		}
		number = 1
		if len(sheets) > 0 {
			number = sheets[0].Number + 1
		}
		return tx.Add(&store.BoardSheet{BoardID: id, HouseID: a.House.ID, Number: number, Content: row.Content, ByUser: a.ByUser(),
			ByName: a.Name, FixedAt: r.Now()})
	})
	return number, err
}

// writable refuses a board with characters that its typefaces do not have.
func writable(tx *store.DB, a keep.Actor, b board.Board) error {
	of, err := faces(tx, a, b)
	if err != nil {
		return err
	}
	for i, o := range b.Options {
		t := b.TextsOf(i)
		missing, err := of[o.Typeface].Missing(strings.Join([]string{t.Word, t.Headline, t.Lines, t.Small, t.Button}, " "))
		if err != nil {
			return keep.Wrong("options", "option %s: %v", board.Letter(i), err)
		}
		if len(missing) > 0 {
			return keep.Wrong("options", "option %s: the typeface %s has no %s", board.Letter(i), of[o.Typeface].Name, quoted(missing))
		}
	}
	return nil
}

func quoted(list []rune) string {
	var out []string
	for _, r := range list[:min(len(list), 6)] {
		out = append(out, "“"+string(r)+"”")
	}
	return strings.Join(out, ", ")
}

// OpenLink makes a link to a sheet.
func (r *Rules) OpenLink(ctx context.Context, a keep.Actor, id int64, number int, until *time.Time, phrase string) (token string,
	err error) {
	s, err := r.DB.With(ctx).BoardSheetNumbered(a.House.ID, id, number)
	if err != nil {
		return "", keep.Missing(err, "sheet")
	}
	token, _, err = r.Links.Open(ctx, a, keep.BoardLink, s.ID, until, phrase)
	return token, err
}

// CloseLink ends a link to a sheet of a board.
func (r *Rules) CloseLink(ctx context.Context, a keep.Actor, id, link int64) error {
	b, err := r.Board(ctx, a, id)
	if err != nil {
		return err
	}
	for _, s := range b.Sheets {
		if slices.ContainsFunc(s.Links, func(l links.Link) bool { return l.ID == link }) {
			return r.Links.Close(ctx, a, link)
		}
	}
	if err := a.May(keep.RoleKeeper); err != nil {
		return err
	}
	return keep.None("link")
}

// Sheet reads a fixed sheet.
func (r *Rules) Sheet(ctx context.Context, a keep.Actor, id int64, number int) (Sheet, error) {
	if err := a.May(keep.RoleContributor); err != nil {
		return Sheet{}, err
	}
	row, err := r.DB.With(ctx).BoardSheetNumbered(a.House.ID, id, number)
	if err != nil {
		return Sheet{}, keep.Missing(err, "sheet")
	}
	return sheetOf(row)
}

// Shown is the sheet that a link leads to, with its logo, for its holder.
func (r *Rules) Shown(ctx context.Context, a keep.Actor, phrase string) (s Sheet, logo []byte, err error) {
	if a.Link == nil || a.Link.Kind != keep.BoardLink {
		return s, nil, keep.None("sheet")
	}
	if err := r.Links.Unlock(ctx, a, phrase); err != nil {
		return s, nil, err
	}
	row, err := r.DB.With(ctx).BoardSheet(a.House.ID, a.Link.Thing)
	if err != nil {
		return s, nil, keep.Missing(err, "sheet")
	}
	if s, err = sheetOf(row); err != nil {
		return s, nil, err
	}
	logo, err = r.logo(ctx, a, s.Logo)
	return s, logo, err
}

// NewAnswer is what the holder of a link sends.
type NewAnswer struct {
	Page          string // a secret of the page that it is sent from
	Name, Comment string
	Choice        int
}

// Answer takes an answer of the holder of a link. It counts once for each page and for each name: another one takes the place of the
// first.
func (r *Rules) Answer(ctx context.Context, a keep.Actor, phrase string, in NewAnswer) error {
	s, _, err := r.Shown(ctx, a, phrase)
	if err != nil {
		return err
	}
	if in.Choice < 0 || in.Choice >= len(s.Options) {
		return keep.Wrong("choice", "please choose one of the %d options", len(s.Options))
	}
	if strings.TrimSpace(in.Name) == "" {
		return keep.Wrong("name", "please give your name, so that your answer is known as yours")
	}
	name, err := keep.Name("name", in.Name)
	if err != nil {
		return err
	}
	comment := strings.TrimSpace(strings.ReplaceAll(in.Comment, "\r\n", "\n"))
	if n := len([]rune(comment)); n > limits.AnswerRunes {
		return keep.Wrong("comment", "the comment has %d characters; at most %d fit", n, limits.AnswerRunes)
	}
	comment = strings.Map(func(r rune) rune {
		if r < ' ' && r != '\n' || r == 0xFFFD {
			return ' '
		}
		return r
	}, comment)
	return r.Base.Change(ctx, a, func(tx *store.DB) error {
		rows, err := tx.AnswersTo(s.ID)
		if err != nil {
			return err
		}
		now, page, key := r.Now(), keep.Digest(in.Page), store.NameKey(name)
		row := store.BoardAnswer{SheetID: s.ID, FirstAt: now}
		named := slices.IndexFunc(rows, func(x store.BoardAnswer) bool { return x.NameKey == key })
		paged := slices.IndexFunc(rows, func(x store.BoardAnswer) bool { return in.Page != "" && x.Page == page })
		switch {
		case named >= 0:
			row = rows[named]
		case paged >= 0:
			row = rows[paged]
		case len(rows) >= limits.SheetAnswers:
			return keep.Clash("", "the sheet has %d answers; it takes no more", len(rows))
		}
		row.Page, row.Name, row.NameKey, row.Choice, row.Comment, row.At = page, name, key, in.Choice, comment, now
		if row.ID == 0 {
			return tx.Add(&row)
		}
		return tx.Save(&row)
	})
}

// Adopted is what came of a chosen option.
type Adopted struct {
	Set      string
	SetID    int64
	Admitted []string // colors that were not in the library yet
	Rules    int
}

// Adopt makes the colors of an option of a sheet a swatch set, and its pairs rules, in one step. A color that the library does not
// have is admitted.
func (r *Rules) Adopt(ctx context.Context, a keep.Actor, id int64, number, choice int) (out Adopted, err error) {
	if err := a.May(keep.RoleKeeper); err != nil {
		return out, err
	}
	s, err := r.Sheet(ctx, a, id, number)
	if err != nil {
		return out, err
	}
	if choice < 0 || choice >= len(s.Options) {
		return out, keep.Wrong("choice", "the sheet has no option %d; it has %d", choice, len(s.Options))
	}
	err = r.Base.Change(ctx, a, func(tx *store.DB) error {
		out, err = r.adopt(tx, a, s, choice)
		return err
	})
	return out, err
}

func (r *Rules) adopt(tx *store.DB, a keep.Actor, s Sheet, choice int) (out Adopted, err error) {
	o := s.Options[choice]
	colors, err := tx.Colors(a.House.ID)
	if err != nil {
		return out, err
	}
	is := map[string]int64{} // the library's color for each value of the option
	var members []int64
	for _, p := range o.Colors() {
		at := slices.IndexFunc(colors, func(c library.Color) bool { return c.ID == p.ID && p.ID != 0 })
		if at < 0 {
			at = slices.IndexFunc(colors, func(c library.Color) bool { return c.RGB.Hex() == p.Hex && c.Status == library.Approved })
		}
		if at < 0 {
			c, err := r.admit(tx, a, p, colors, fmt.Sprintf("admitted as %s, from sheet %d of the board %s", p.Hex, s.Number, s.Title))
			if err != nil {
				return out, err
			}
			colors = append(colors, c)
			at = len(colors) - 1
			out.Admitted = append(out.Admitted, c.Name)
		}
		if c := colors[at]; c.Status != library.Approved {
			return out, keep.Clash("choice", "%s is %s now; put another color in its place, or approve it first", c.Name, c.Status)
		}
		is[p.Hex] = colors[at].ID
		if !slices.Contains(members, colors[at].ID) {
			members = append(members, colors[at].ID)
		}
	}
	sets, err := tx.Sets(a.House.ID)
	if err != nil {
		return out, err
	}
	taken := func(name string) bool {
		return slices.ContainsFunc(sets, func(o store.SetWith) bool { return o.NameKey == store.NameKey(name) })
	}
	const ending = ", option X 99"
	out.Set = color.Apart(keep.Short(s.Title, limits.NameRunes-len(ending))+", option "+board.Letter(choice), taken)
	if err := send.Join(tx, a, out.Set, true, members); err != nil {
		return out, err
	}
	if sets, err = tx.Sets(a.House.ID); err != nil {
		return out, err
	}
	out.SetID = sets[slices.IndexFunc(sets, func(o store.SetWith) bool { return o.NameKey == store.NameKey(out.Set) })].ID
	for _, rule := range o.Rules() {
		of, ground := is[rule.Type.Hex], is[rule.Ground.Hex]
		var invalid *keep.Error
		switch err := r.Ledger.PutPairIn(tx, a, of, ground, true, &rule.Ratio); {
		case errors.As(err, &invalid) && invalid.Kind == keep.Invalid: // the library's values are others by now
		case err != nil:
			return out, err
		default:
			out.Rules++
		}
	}
	return out, nil
}

// admit makes a color of a board one of the library.
func (r *Rules) admit(tx *store.DB, a keep.Actor, p board.Paint, there []library.Color, what string) (library.Color, error) {
	if len(there) >= limits.LibraryColors {
		return library.Color{}, keep.Clash("", "the library holds %d colors; that is as many as it can keep", len(there))
	}
	last, err := tx.LastPosition(a.House.ID)
	if err != nil {
		return library.Color{}, err
	}
	name := strings.TrimSpace(p.Name)
	if name == "" {
		name = p.RGB().Describe()
	}
	name = color.Apart(name, func(n string) bool {
		return slices.ContainsFunc(there, func(c library.Color) bool { return store.NameKey(c.Name) == store.NameKey(n) })
	})
	now := r.Now()
	one := []library.Color{{Name: name, RGB: p.RGB(), Status: library.Approved, Position: last + 1, Version: 1, Added: now, Changed: now}}
	if err := tx.AddColors(a.House.ID, map[string]int64{}, one); err != nil {
		return one[0], keep.Taken(err, "choice", "somebody else just admitted a color named %s; try again", name)
	}
	e := library.Event{At: now, By: a.Person(), What: what, After: p.Hex}
	if e.State, err = one[0].WriteState(); err != nil {
		return one[0], err
	}
	return one[0], tx.AddEvents(map[int64][]library.Event{one[0].ID: {e}}, []int64{one[0].ID})
}

// ownPrefix begins the keys of typefaces of a house's own.
const ownPrefix = "own-"

// faces finds the typefaces of a board's options, by their keys. One that was taken away is found for those that have it.
func faces(db *store.DB, a keep.Actor, b board.Board) (map[string]typeface.Typeface, error) {
	out := map[string]typeface.Typeface{}
	for i, o := range b.Options {
		if _, ok := out[o.Typeface]; ok {
			continue
		}
		t, err := face(db, a, o.Typeface)
		if err != nil {
			return nil, keep.Wrong("options", "option %s: there is no such typeface", board.Letter(i))
		}
		out[o.Typeface] = t
	}
	return out, nil
}

// OwnKey is the key of a typeface of a house's own.
func OwnKey(id int64) string { return ownPrefix + strconv.FormatInt(id, 10) }

// Own is the number of a typeface of a house's own, by its key.
func Own(key string) (id int64, ok bool) {
	id, err := strconv.ParseInt(strings.TrimPrefix(key, ownPrefix), 10, 64)
	return id, err == nil && strings.HasPrefix(key, ownPrefix)
}

func face(db *store.DB, a keep.Actor, key string) (typeface.Typeface, error) {
	if t, ok := typeface.Find(key); ok {
		return t, nil
	}
	id, ok := Own(key)
	if !ok {
		return typeface.Typeface{}, keep.None("typeface")
	}
	row, err := db.Typeface(a.House.ID, id)
	return typeface.Typeface{Key: key, Name: row.Name, Kind: ofTheHouse, Regular: [][]byte{row.Data}}, keep.Missing(err, "typeface")
}
