// Package finding looks through everything of a house for what somebody typed.
package finding

import (
	"cmp"
	"context"
	"fmt"
	"slices"
	"strings"

	"huekeep/core/color"
	"huekeep/core/find"
	"huekeep/core/library"
	"huekeep/core/limits"
	"huekeep/keep"
	"huekeep/keep/audits"
	"huekeep/keep/boards"
	"huekeep/keep/ledger"
	"huekeep/keep/media"
	"huekeep/keep/people"
	"huekeep/store"
)

// Rules find. What somebody may not see by the rules of a station, they do not find.
type Rules struct {
	*keep.Base
	Media  *media.Rules
	Ledger *ledger.Rules
	Audits *audits.Rules
	Boards *boards.Rules
	People *people.Rules
}

// Hit is one thing that was found.
type Hit struct {
	Name, Says string
	Path       string // where it is, below the house: "library/3"
	Hex        string // of a color
	worth      float64
}

// Group are the hits of one kind, the best first, and how many more there are.
type Group struct {
	Of   string
	Hits []Hit
	More int
}

// Bounds of what is looked through and shown.
const (
	most     = 6    // hits of a kind
	mostNear = 4    // colors close to a value
	mostRows = 2000 // projects that are looked through, the newest first
	closeDE  = 15   // ΔE00 that still counts as close
	wordsMax = 200  // runes of what is typed
)

// search is one look through a house.
type search struct {
	*Rules
	ctx   context.Context
	a     keep.Actor
	db    *store.DB
	typed string
	words find.Words
	seen  map[int64]bool // the colors that the actor sees, once they were read
	out   []Group
}

// Find lists what fits the words, by kind: colors by name, words for their look, rule, value and ink; what is close to a value in any
// notation; sets, editions, recipients, boards, gradients, projects and their files, excuses, plans, inks, people, mails and the places of
// the program.
func (r *Rules) Find(ctx context.Context, a keep.Actor, typed string) ([]Group, error) {
	typed = strings.TrimSpace(typed)
	if n := len([]rune(typed)); n > wordsMax {
		return nil, keep.Wrong("words", "%d letters are too many to look for; give a name or a value", n)
	}
	s := &search{Rules: r, ctx: ctx, a: a, db: r.DB.With(ctx), typed: typed, words: find.Of(typed), out: []Group{}}
	if len(s.words) == 0 {
		return s.out, nil
	}
	for _, look := range []func() error{s.colors, s.sets, s.recipients, s.boards, s.gradients, s.projects, s.files, s.excuses, s.plans,
		s.inks, s.people, s.mails} {
		if err := look(); err != nil {
			return nil, err
		}
	}
	s.places()
	return s.out, nil
}

// group sorts hits, keeps the first, and says how many more there are.
func (s *search) group(of string, hits []Hit, keep int) {
	if len(hits) == 0 {
		return
	}
	slices.SortStableFunc(hits, func(a, b Hit) int { return cmp.Compare(b.worth, a.worth) })
	n := min(len(hits), keep)
	s.out = append(s.out, Group{of, hits[:n], len(hits) - n})
}

// take adds a hit if the words are in its name, where they count more, or in what else is known of it.
func (s *search) take(hits *[]Hit, h Hit, more ...string) {
	h.worth = s.words.In(find.Plain(h.Name))
	if h.worth > 0 {
		h.worth += 2
	} else {
		h.worth = s.words.In(find.Plain(h.Name + " " + strings.Join(more, " ")))
	}
	if h.worth > 0 {
		*hits = append(*hits, h)
	}
}

// colors are found by what is written of them, and by what a value is close to.
func (s *search) colors() error {
	list, err := s.db.Colors(s.a.House.ID)
	if err != nil {
		return err
	}
	list = slices.DeleteFunc(list, func(c library.Color) bool { return !s.a.Sees(c) })
	s.seen = make(map[int64]bool, len(list))
	var hits []Hit
	for i := range list {
		c := &list[i]
		s.seen[c.ID] = true
		more := []string{string(c.Role), c.Group, c.Rule, string(c.Status), c.RGB.Hex(), fmt.Sprint(c.RGB.R, c.RGB.G, c.RGB.B)}
		if _, long := c.Master.Spectrum(); long {
			more = append(more, c.Decides())
		} else {
			more = append(more, c.Master.String())
		}
		if c.Status == library.Draft {
			more = append(more, "proposed")
		}
		more = append(append(append(more, c.Aliases...), c.Tags...), c.RGB.Looks()...)
		for _, b := range c.Builds {
			more = append(more, b.Value.String(), b.Press)
		}
		for _, p := range c.Spots {
			more = append(more, p.Code)
		}
		s.take(&hits, s.color(*c, ""), more...)
	}
	s.group("Colors", hits, most)
	return s.near(list)
}

func (s *search) color(c library.Color, also string) Hit {
	says := []string{c.RGB.Hex()}
	if c.Status != library.Approved {
		says = append(says, map[library.Status]string{library.Draft: "proposed", library.Retired: "retired"}[c.Status])
	}
	for _, more := range []string{also, c.Rule} {
		if more != "" {
			says = append(says, more)
		}
	}
	return Hit{Name: c.Name, Says: strings.Join(says, ", "), Path: fmt.Sprint("library/", c.ID), Hex: c.RGB.Hex()}
}

// near finds the colors close to a typed value: of a screen in any notation, a build on every press, an ink.
func (s *search) near(list []library.Color) error {
	type at struct {
		lab color.Lab
		on  string // what the value is on; empty for a screen
	}
	var wanted []at
	t, paper, err := color.ReadValue(s.typed)
	if err != nil && len(s.words) == 1 { // without the sign in front
		t, paper, err = color.ReadValue("#" + s.typed)
	}
	switch {
	case err != nil || !strings.ContainsAny(s.typed, "0123456789#"):
	case t.CMYK != nil:
		presses, err := s.Media.PressesOf(s.db, s.a.House.ID)
		if err != nil {
			return err
		}
		for _, p := range presses {
			if paper == "" || paper == p.Name {
				wanted = append(wanted, at{p.Lab(*t.CMYK), strings.ReplaceAll(p.Name, "-", " ")})
			}
		}
	default:
		wanted = append(wanted, at{t.RGB.Lab(), ""})
	}
	if book, err := s.Media.Book(s.db, s.a.House.ID); err != nil {
		return err
	} else if i, ok := book.Find(s.typed); ok {
		wanted = append(wanted, at{i.Coated, i.Code})
	}
	var hits []Hit
	for i := range list {
		best := -1
		var far float64
		for k, w := range wanted {
			if de := color.DeltaE00(w.lab, list[i].Lab()); best < 0 || de < far {
				best, far = k, de
			}
		}
		if best < 0 {
			return nil
		}
		on := ""
		if wanted[best].on != "" {
			on = " on " + wanted[best].on
		}
		h := s.color(list[i], fmt.Sprintf("%.1f %s%s", far, color.Word(far), on))
		h.worth = -far
		hits = append(hits, h)
	}
	slices.SortStableFunc(hits, func(a, b Hit) int { return cmp.Compare(b.worth, a.worth) })
	n := 0
	for n < len(hits) && n < mostNear && (n == 0 || -hits[n].worth <= closeDE) {
		n++
	}
	s.group("Close to "+s.typed, hits[:n], most)
	return nil
}

func (s *search) sets() error {
	sets, err := s.db.Sets(s.a.House.ID)
	if err != nil {
		return err
	}
	editions, err := s.db.EditionLines(s.a.House.ID)
	if err != nil {
		return err
	}
	var hits, fixed []Hit
	names := map[int64]string{}
	for _, set := range sets {
		names[set.ID] = set.Name
		s.take(&hits, Hit{Name: set.Name, Says: count(len(set.Colors), "color"), Path: fmt.Sprint("send/", set.ID)}, "swatch set")
	}
	s.group("Swatch sets", hits, most)
	for _, e := range editions {
		if name := names[e.SetID]; name != "" {
			says := e.FixedAt.Format("Jan 2, 2006")
			if e.WithdrawnAt != nil {
				says += ", withdrawn: " + e.WithdrawnWhy
			}
			if e.Note != "" {
				says += ", " + e.Note
			}
			h := Hit{Name: fmt.Sprintf("%s, edition %d", name, e.Number), Says: says,
				Path: fmt.Sprintf("send/%d?edition=%d", e.SetID, e.Number)}
			// a set's name finds the set
			if h.worth = s.words.In(find.Plain(h.Name + " " + says)); h.worth > 0 && s.words.In(find.Plain(name)) == 0 {
				fixed = append(fixed, h)
			}
		}
	}
	s.group("Editions", fixed, most)
	return nil
}

func (s *search) recipients() error {
	list, err := s.db.Recipients(s.a.House.ID)
	var hits []Hit
	for _, r := range list {
		h := Hit{Name: r.Name, Says: r.Kind, Path: fmt.Sprint("send/recipients/", r.ID)}
		more := []string{r.Kind, r.Note, r.Packings}
		if s.a.Role.Reaches(keep.RoleKeeper) {
			more = append(more, r.Email)
			h.Says = strings.TrimSuffix(r.Kind+", "+r.Email, ", ")
		}
		s.take(&hits, h, more...)
	}
	s.group("Recipients", hits, most)
	return err
}

func (s *search) boards() error {
	if !s.a.Role.Reaches(keep.RoleContributor) {
		return nil
	}
	list, err := s.Boards.List(s.ctx, s.a)
	var hits []Hit
	for _, b := range list {
		s.take(&hits, Hit{Name: b.Title, Says: count(b.Answers, "answer"), Path: fmt.Sprint("proof/boards/approved/", b.ID)}, "board", b.By)
	}
	s.group("Boards", hits, most)
	return err
}

// gradients are found where all of their colors may be seen.
func (s *search) gradients() error {
	list, err := s.db.Gradients(s.a.House.ID)
	var hits []Hit
	for _, g := range list {
		var of []string
		for _, stop := range g.Stops {
			if s.seen[stop.Color.ID] {
				of = append(of, stop.Color.Name)
			}
		}
		if len(of) == len(g.Stops) && len(of) > 0 {
			s.take(&hits, Hit{Name: g.Name, Says: strings.Join(of, " to "), Path: "library/view/gradients"}, append(of, "gradient")...)
		}
	}
	s.group("Gradients", hits, most)
	return err
}

func (s *search) projects() error {
	list, err := s.db.Projects(s.a.House.ID, 0, mostRows)
	var hits []Hit
	for _, p := range list {
		s.take(&hits, Hit{Name: p.Name, Says: "by " + p.ByName, Path: fmt.Sprint("audit/project/", p.ID)}, "project", p.ByName)
	}
	s.group("Projects", hits, most)
	return err
}

// files of projects are looked up by the database: there may be tens of thousands.
func (s *search) files() error {
	list, more, err := s.db.FilesNamed(s.a.House.ID, s.words, most)
	var hits []Hit
	for _, f := range list {
		hits = append(hits, Hit{Name: f.Path, Says: f.Project, Path: fmt.Sprint("audit/project/", f.ProjectID), worth: 1})
	}
	s.group("Files of projects", hits, most)
	if len(hits) > 0 {
		s.out[len(s.out)-1].More = more
	}
	return err
}

func (s *search) excuses() error {
	list, err := s.db.Excuses(s.a.House.ID, 0)
	var hits []Hit
	for _, e := range list {
		if e.EndedAt != nil {
			continue
		}
		path := "audit"
		if e.ProjectID != nil {
			path = fmt.Sprint("audit/project/", *e.ProjectID)
		}
		h := Hit{Name: e.Color, Says: e.Reason, Path: path}
		if _, err := color.FromHex(e.Color); err == nil {
			h.Hex = e.Color
		}
		s.take(&hits, h, e.Reason, e.Path, e.Place, e.ByName, "excuse")
	}
	s.group("Excuses", hits, most)
	return err
}

func (s *search) plans() error {
	list, err := s.Audits.Plans(s.ctx, s.a)
	var hits []Hit
	for _, p := range list {
		s.take(&hits, Hit{Name: p.Name, Says: count(len(p.Steps), "step") + ", by " + p.By, Path: "audit/plans"}, "repaint plan")
	}
	s.group("Repaint plans", hits, most)
	return err
}

func (s *search) inks() error {
	book, err := s.Media.Book(s.db, s.a.House.ID)
	if err != nil || len(s.typed) < 3 {
		return err
	}
	var hits []Hit
	for _, i := range book.Search(s.typed, most) {
		hits = append(hits, Hit{Name: i.Code, Says: i.Name + ", " + i.Class, Path: "library/view/inks?ink=" + i.Code,
			Hex: media.Look(i.Coated).Hex()})
	}
	s.group("Ink book", hits, most)
	return nil
}

func (s *search) people() error {
	members, invited, _, err := s.People.List(s.ctx, s.a)
	var hits []Hit
	for _, m := range members {
		s.take(&hits, Hit{Name: m.Name, Says: strings.TrimSuffix(string(m.Role)+", "+m.Email, ", "), Path: "house/people"}, string(m.Role),
			m.Email)
	}
	for _, i := range invited {
		s.take(&hits, Hit{Name: i.Email, Says: "invited as " + string(i.Role), Path: "house/people"}, "invited")
	}
	s.group("People", hits, most)
	return err
}

func (s *search) mails() error {
	if !s.a.Role.Reaches(keep.RoleKeeper) {
		return nil
	}
	list, err := s.db.Mails(s.a.House.ID, limits.Page)
	var hits []Hit
	for _, m := range list {
		s.take(&hits, Hit{Name: m.Subject, Says: "to " + m.Address, Path: "send/outbox"}, m.Address, m.Problem)
	}
	s.group("Mails", hits, most)
	return err
}

func count(n int, what string) string {
	if n == 1 {
		return "1 " + what
	}
	return fmt.Sprintf("%d %ss", n, what)
}
