package send

import (
	"context"
	"net/mail"
	"slices"
	"strings"
	"time"
	"unicode/utf8"

	"huekeep/core/limits"
	"huekeep/core/swatchfile"
	"huekeep/keep"
	"huekeep/keep/links"
	"huekeep/store"
)

// Kind is a kind of recipient, with the packings that one takes unless told otherwise. The contract lists the names too.
type Kind struct {
	Name     string   `json:"name"`
	Label    string   `json:"label"` // in plain words
	Packings []string `json:"-"`
}

// Kinds lists the kinds of recipients.
var Kinds = []Kind{
	{"office", "office suite", []string{"deck"}},
	{"video", "video application", []string{"card-1080", "video-csv", "key-in-pdf"}},
	{"web", "web team", []string{"css", "tokens"}},
	{"print", "print shop", []string{"print-pdf", "cxf"}},
	{"client", "client", []string{"swatch-png", "sheet-pdf"}},
	{"other", "other", []string{"kit"}},
}

// mostUsual is how many packings are proposed for a kind.
const mostUsual = 4

// Usual is what a recipient of each kind takes unless it is told otherwise: what most of those of the kind took or fetched in this house,
// or, where fewer than two did, what Kinds says.
func (r *Rules) Usual(ctx context.Context, a keep.Actor) (map[string][]string, error) {
	rows, err := r.DB.With(ctx).LoadedByKind(a.House.ID)
	if err != nil {
		return nil, err
	}
	loaded, all := map[[2]string]int{}, map[string]int{}
	for _, l := range rows {
		if l.Packing == "" {
			all[l.Kind] = l.Recipients
		} else if p, err := swatchfile.FindPacking(l.Packing); err == nil { // names of before too
			loaded[[2]string{l.Kind, p.Name}] += l.Recipients
		}
	}
	out := map[string][]string{}
	for _, k := range Kinds {
		for _, p := range swatchfile.Packings() {
			if n := loaded[[2]string{k.Name, p.Name}]; all[k.Name] >= 2 && 2*n >= all[k.Name] && len(out[k.Name]) < mostUsual {
				out[k.Name] = append(out[k.Name], p.Name)
			}
		}
		if out[k.Name] == nil {
			out[k.Name] = k.Packings
		}
	}
	return out, nil
}

// Way is how an edition gets to a recipient.
type Way string

const (
	Pickup      Way = "pickup"      // from an address of the recipient's own
	Mailed      Way = "mail"        // a notice with a link
	ByHand      Way = "hand"        // downloaded by a keeper, and told back
	Application Way = "application" // a stand-in application takes the files
)

// Ways lists the ways.
var Ways = []Way{Pickup, Mailed, ByHand, Application}

// Recipient is a team or person that gets editions.
type Recipient struct {
	ID       int64
	Name     string
	Kind     string
	Note     string
	Packings []string // that it takes, by name
	Ways     []Way
	Email    string
	Version  int
	Paused   *time.Time // nil while it gets editions
}

// Goes says whether editions get there in a way.
func (r Recipient) Goes(w Way) bool { return slices.Contains(r.Ways, w) }

func recipient(r store.Recipient) Recipient {
	out := Recipient{ID: r.ID, Name: r.Name, Kind: r.Kind, Note: r.Note, Packings: strings.Fields(r.Packings), Email: r.Email,
		Version: r.Version, Paused: r.PausedAt}
	for _, w := range strings.Fields(r.Ways) {
		out.Ways = append(out.Ways, Way(w))
	}
	return out
}

// State is how a recipient stands with a set.
type State string

const (
	Never    State = "never"       // was never sent it
	Waiting  State = "waiting"     // was sent the current edition, and has not said that it is loaded
	Open     State = "unconfirmed" // was sent an older one, never said so, and was not sent the current one: behind
	Current  State = "current"     // holds the newest edition in force
	Behind   State = "behind"      // holds an older one
	Refused  State = "failed"      // the last sending was not taken
	OnPause  State = "paused"      // gets nothing at present
	noReturn       = "No receipt came back."
)

// Late says whether a recipient is behind: it should be sent the current edition.
func (s State) Late() bool { return s == Behind || s == Open || s == Refused }

// Holding is what a recipient has of a set.
type Holding struct {
	Recipient
	Set     int64
	SetName string
	State   State
	Edition int        // the newest edition that was taken, 0 for none
	Sent    int        // the newest that it was sent, taken or not, 0 for none
	Current int        // the newest in force, 0 for none
	Steps   int        // editions in force that are newer than what is held, or than what was sent where nothing is known to be
	Since   *time.Time // when the first of those was fixed
	Last    *Receipt   // of the last sending
	Has     []string   // the values that it holds, and those of the current edition; in the list of recipients
	Now     []string
}

// Receipt is what came back of a sending.
type Receipt struct {
	ID           int64 // of the record, in the list of a recipient
	Set          int64
	SetName      string
	Edition      int
	Packing      string
	Way          Way
	At           time.Time // when it came back, or when the edition was sent if nothing did
	OK           bool
	Back         bool // it came back
	Taken, Slots int
	Message      string
	Client       string     // what fetched it
	Times        int        // that it did
	Until        *time.Time // the last of those
	By           string
}

func receipt(d store.Delivery) Receipt {
	r := Receipt{Set: d.SetID, Edition: d.Number, Packing: d.Packing, Way: Way(d.Way), At: d.SentAt, OK: d.OK && !fetch(d),
		Back: d.ReceivedAt != nil, Taken: d.Taken, Slots: d.Slots,
		Message: d.Message, Client: d.Client, Times: max(1, d.Times), Until: d.LastAt, By: d.ByName}
	if d.ReceivedAt != nil {
		r.At = *d.ReceivedAt
	}
	return r
}

// held is what all recipients of a house have.
type held struct {
	recipients []store.Recipient
	members    map[int64][]int64 // recipients by set
	deliveries map[[2]int64][]store.Delivery
}

func (r *Rules) held(db *store.DB, a keep.Actor) (h held, err error) {
	if h.recipients, err = db.Recipients(a.House.ID); err != nil {
		return h, err
	}
	if h.members, err = db.SetRecipients(a.House.ID); err != nil {
		return h, err
	}
	all, err := db.Standing(a.House.ID)
	h.deliveries = map[[2]int64][]store.Delivery{}
	for _, d := range all {
		k := [2]int64{d.SetID, d.RecipientID}
		h.deliveries[k] = append(h.deliveries[k], d)
	}
	return h, err
}

func (h held) ofSet(s Set) (out []Holding) {
	for _, to := range h.recipients {
		if slices.Contains(h.members[s.ID], to.ID) {
			out = append(out, holding(s, to, h.deliveries[[2]int64{s.ID, to.ID}]))
		}
	}
	return out
}

func holding(s Set, to store.Recipient, deliveries []store.Delivery) Holding {
	h := Holding{Recipient: recipient(to), Set: s.ID, SetName: s.Name, State: Never, Current: s.Current()}
	for _, d := range deliveries {
		h.Sent = max(h.Sent, d.Number)
		if d.OK && !fetch(d) {
			h.Edition = max(h.Edition, d.Number)
		}
	}
	failed := false
	if n := len(deliveries); n > 0 {
		shown := deliveries[n-1]
		for _, d := range deliveries { // of several packings that went out together, the one that was not taken is to be seen
			if d.Way == shown.Way && d.Number == shown.Number && d.SentAt.Equal(shown.SentAt) && !d.OK {
				shown = d
			}
		}
		last := receipt(shown)
		h.Last = &last
		failed = !last.OK && (last.Back || last.Way == Application) && !fetch(shown)
	}
	has := h.Edition
	if has == 0 {
		has = h.Sent
	}
	for _, e := range s.Editions { // newest first
		if e.Withdrawn == nil && e.Number > has {
			at := e.At
			h.Steps, h.Since = h.Steps+1, &at
		}
	}
	if has == 0 {
		h.Steps, h.Since = 0, nil
	}
	switch {
	case to.PausedAt != nil:
		h.State = OnPause
	case h.Last == nil:
	case failed:
		h.State = Refused
	case h.Sent > h.Edition && h.Sent >= h.Current && inForce(s.Editions, h.Sent):
		h.State = Waiting
	case h.Edition > 0 && (h.Steps > 0 || h.Current > 0 && h.Edition != h.Current):
		h.State = Behind
	case h.Edition > 0:
		h.State = Current
	default:
		h.State = Open
	}
	return h
}

func inForce(editions []EditionLine, number int) bool {
	return slices.ContainsFunc(editions, func(e EditionLine) bool { return e.Number == number && e.Withdrawn == nil })
}

// fetch says whether a delivery is a file that was fetched at a pickup. That does not say that anybody loaded it: what goes through mail
// for harmful links fetches too. Versions from before took a browser's for a receipt.
func fetch(d store.Delivery) bool {
	return Way(d.Way) == Pickup && d.Packing != "" && (!d.OK || d.Client == ABrowser)
}

// ABrowser is how a browser is called that fetches.
const ABrowser = "a browser"

// Standing is a recipient with all that it holds.
type Standing struct {
	Recipient
	Holdings []Holding
	Pickup   *links.Link // its open address; nil for none
	Fetched  *time.Time  // when something was last fetched there
}

// worst is how far behind the recipient is: by editions, then by time.
func (s Standing) worst() (steps int, since time.Time) {
	if s.Paused != nil {
		return -1, time.Time{}
	}
	for _, h := range s.Holdings {
		n := h.Steps
		if h.State == Refused || h.State == Open || h.State == Never && h.Current > 0 {
			n = max(n, 1)
		}
		if n > steps {
			steps = n
		}
		if h.Since != nil && (since.IsZero() || h.Since.Before(since)) {
			since = *h.Since
		}
	}
	return steps, since
}

// Recipients lists who gets editions, those that are farthest behind first. Addresses and where they are fetched are for keepers.
func (r *Rules) Recipients(ctx context.Context, a keep.Actor) ([]Standing, error) {
	db := r.DB.With(ctx)
	h, err := r.held(db, a)
	if err != nil {
		return nil, err
	}
	rows, err := db.Sets(a.House.ID)
	if err != nil {
		return nil, err
	}
	lines, err := db.EditionLines(a.House.ID)
	if err != nil {
		return nil, err
	}
	editions := linesBySet(lines)
	open := map[int64]*links.Link{}
	if a.Role.Reaches(keep.RoleKeeper) {
		all, err := r.Links.OpenOf(ctx, a, keep.PickupLink)
		if err != nil {
			return nil, err
		}
		for i := range all {
			if open[all[i].Thing] == nil {
				open[all[i].Thing] = &all[i]
			}
		}
	}
	out := []Standing{}
	for _, to := range h.recipients {
		s := Standing{Recipient: recipient(to), Pickup: open[to.ID]}
		if !a.Role.Reaches(keep.RoleKeeper) {
			s.Email = ""
		}
		for _, row := range rows {
			if !slices.Contains(h.members[row.ID], to.ID) {
				continue
			}
			deliveries := h.deliveries[[2]int64{row.ID, to.ID}]
			s.Holdings = append(s.Holdings, holding(Set{ID: row.ID, Name: row.Name, Editions: editions[row.ID]}, to, deliveries))
			for _, d := range deliveries {
				if d.LastAt != nil && Way(d.Way) == Pickup && (s.Fetched == nil || d.LastAt.After(*s.Fetched)) {
					s.Fetched = d.LastAt
				}
			}
		}
		out = append(out, s)
	}
	if err := looks(db, a, out); err != nil {
		return nil, err
	}
	slices.SortStableFunc(out, func(x, y Standing) int {
		n, since := x.worst()
		m, until := y.worst()
		switch {
		case n != m:
			return m - n
		case since.IsZero() != until.IsZero(): // who never held anything comes behind those who wait since a day
			if since.IsZero() {
				return 1
			}
			return -1
		}
		return since.Compare(until)
	})
	return out, nil
}

// looks puts down the values of what each recipient holds and of what is current.
func looks(db *store.DB, a keep.Actor, list []Standing) error {
	var which [][2]int64
	seen := map[[2]int64]bool{}
	each := func(f func(h *Holding)) {
		for i := range list {
			for k := range list[i].Holdings {
				f(&list[i].Holdings[k])
			}
		}
	}
	each(func(h *Holding) {
		for _, n := range []int{h.Edition, h.Current} {
			if k := [2]int64{h.Set, int64(n)}; n > 0 && !seen[k] {
				seen[k] = true
				which = append(which, k)
			}
		}
	})
	hexes, err := db.EditionHexes(a.House.ID, which)
	if err != nil {
		return err
	}
	each(func(h *Holding) {
		h.Has, h.Now = hexes[[2]int64{h.Set, int64(h.Edition)}], hexes[[2]int64{h.Set, int64(h.Current)}]
	})
	return nil
}

// Receipts lists what a recipient was sent and what came back, newest first, a page from behind one on, 0 for the newest; only those with
// all the words.
func (r *Rules) Receipts(ctx context.Context, a keep.Actor, id, before int64, words string) ([]Receipt, error) {
	db := r.DB.With(ctx)
	if _, err := db.RecipientToChange(a.House.ID, id); err != nil {
		return nil, keep.Missing(err, "recipient")
	}
	rows, err := db.ReceiptsOf(id, before, strings.Fields(keep.Short(words, limits.NameRunes)), limits.Page)
	if err != nil {
		return nil, err
	}
	sets, err := db.SetNames(a.House.ID)
	out := []Receipt{}
	for _, d := range rows {
		to := receipt(d)
		to.ID = d.ID
		to.SetName = sets[d.SetID]
		out = append(out, to)
	}
	return out, err
}

// NewRecipient is what somebody gives of a recipient.
type NewRecipient struct {
	Name, Kind, Note string
	Packings         []string // the kind's own if nil
	Ways             []Way    // a pickup if nil
	Email            string
	Sets             []int64 // that it gets; every set there is if nil
	Version          int     // that the caller saw; for a change only
}

// Row checks what somebody gave of a recipient.
func (in NewRecipient) Row(a keep.Actor) (store.Recipient, error) {
	none := store.Recipient{}
	n, err := keep.Name("name", in.Name)
	if err != nil {
		return none, err
	}
	at := slices.IndexFunc(Kinds, func(k Kind) bool { return k.Name == in.Kind })
	if at < 0 {
		var names []string
		for _, k := range Kinds {
			names = append(names, k.Name)
		}
		return none, keep.Wrong("kind", "the kind %q is none of %s", in.Kind, strings.Join(names, ", "))
	}
	if utf8.RuneCountInString(in.Note) > limits.RuleRunes {
		return none, keep.Wrong("note", "the note has over %d characters", limits.RuleRunes)
	}
	packings := in.Packings
	if packings == nil {
		packings = Kinds[at].Packings
	}
	if len(packings) == 0 {
		return none, keep.Wrong("packings", "a recipient takes at least one packing")
	}
	var names []string
	for _, p := range packings {
		found, err := swatchfile.FindPacking(p)
		if err != nil {
			return none, keep.Wrong("packings", "%v", err)
		}
		if !slices.Contains(names, found.Name) {
			names = append(names, found.Name)
		}
	}
	ways := in.Ways
	if ways == nil {
		ways = []Way{Pickup}
	}
	var said []string
	for _, w := range ways {
		if !slices.Contains(Ways, w) {
			return none, keep.Wrong("ways", "an edition goes by pickup, mail, hand or application, not by %q", w)
		}
		if !slices.Contains(said, string(w)) {
			said = append(said, string(w))
		}
	}
	if len(said) == 0 {
		return none, keep.Wrong("ways", "an edition has to get there in at least one way")
	}
	email, err := address(in.Email, slices.Contains(ways, Mailed))
	if err != nil {
		return none, err
	}
	return store.Recipient{HouseID: a.House.ID, Name: n, NameKey: store.NameKey(n), Kind: in.Kind, Note: strings.TrimSpace(in.Note),
		Packings: strings.Join(names, " "),
		Ways:     strings.Join(said, " "), Email: email, Version: 1}, nil
}

// address checks a mail address; it may be missing where nothing is mailed.
func address(text string, needed bool) (string, error) {
	text = strings.TrimSpace(text)
	if text == "" {
		if needed {
			return "", keep.Wrong("email", "a mail address is missing")
		}
		return "", nil
	}
	parsed, err := mail.ParseAddress(text)
	if err != nil || parsed.Address != text || len(text) > limits.EmailBytes || strings.ContainsAny(text, "\r\n") ||
		!strings.Contains(text[strings.LastIndexByte(text, '@'):], ".") && !strings.HasSuffix(text, "@localhost") {
		return "", keep.Wrong("email", "%q is not a mail address", keep.Short(text, 80))
	}
	return text, nil
}

// AddRecipient adds a team or person that gets editions. One that picks up gets an address of its own, whose secret is not to be had again.
func (r *Rules) AddRecipient(ctx context.Context, a keep.Actor, in NewRecipient) (out Recipient, token string, err error) {
	if err := a.May(keep.RoleKeeper); err != nil {
		return Recipient{}, "", err
	}
	if in.Packings == nil {
		usual, err := r.Usual(ctx, a)
		if err != nil {
			return Recipient{}, "", err
		}
		in.Packings = usual[in.Kind] // nil where there is no such kind, which Row says
	}
	row, err := in.Row(a)
	if err != nil {
		return Recipient{}, "", err
	}
	err = r.Change(ctx, a, func(tx *store.DB) error {
		row.ID = 0
		sets := in.Sets
		if sets == nil {
			all, err := tx.Sets(a.House.ID)
			if err != nil {
				return err
			}
			for _, s := range all {
				sets = append(sets, s.ID)
			}
		}
		if err := tx.Add(&row); err != nil {
			return keep.Taken(err, "name", "there is a recipient named %s already", row.Name)
		}
		return joined(tx, a, row.ID, sets)
	})
	if err != nil {
		return Recipient{}, "", err
	}
	out = recipient(row)
	if out.Goes(Pickup) {
		token, err = r.OpenPickup(ctx, a, row.ID)
	}
	return out, token, err
}

func joined(tx *store.DB, a keep.Actor, id int64, sets []int64) error {
	for _, set := range sets {
		if _, err := tx.Set(a.House.ID, set); err != nil {
			return keep.Missing(err, "swatch set")
		}
		if err := tx.JoinSet(set, id); err != nil {
			return err
		}
	}
	return nil
}

// ChangeRecipient changes what is known of a recipient, and which sets it gets if they are given.
func (r *Rules) ChangeRecipient(ctx context.Context, a keep.Actor, id int64, in NewRecipient) error {
	if err := a.May(keep.RoleKeeper); err != nil {
		return err
	}
	now, err := in.Row(a)
	if err != nil {
		return err
	}
	return r.Change(ctx, a, func(tx *store.DB) error {
		row, err := tx.Recipient(a.House.ID, id)
		if err != nil {
			return keep.Missing(err, "recipient")
		}
		if row.Version != in.Version {
			return keep.Stale("%s was changed by somebody else meanwhile; look at it again", row.Name)
		}
		row.Name, row.NameKey, row.Kind, row.Note, row.Packings, row.Ways, row.Email = now.Name, now.NameKey, now.Kind, now.Note,
			now.Packings, now.Ways, now.Email
		row.Version++
		if err := tx.Save(&row); err != nil {
			return keep.Taken(err, "name", "there is a recipient named %s already", row.Name)
		}
		if in.Sets == nil {
			return nil
		}
		members, err := tx.SetRecipients(a.House.ID)
		if err != nil {
			return err
		}
		for set, who := range members {
			if slices.Contains(who, id) && !slices.Contains(in.Sets, set) {
				if err := tx.LeaveSet(set, id); err != nil {
					return err
				}
			}
		}
		return joined(tx, a, id, in.Sets)
	})
}

// Pause keeps a recipient from being sent anything, or ends that.
func (r *Rules) Pause(ctx context.Context, a keep.Actor, id int64, on bool) error {
	return r.mark(ctx, a, id, func(row *store.Recipient) error {
		row.PausedAt = nil
		if on {
			now := r.Now()
			row.PausedAt = &now
		}
		return nil
	})
}

// RemoveRecipient removes a recipient, or brings it back. What it was sent stays on record. Its addresses are closed for good.
func (r *Rules) RemoveRecipient(ctx context.Context, a keep.Actor, id int64, gone bool) error {
	err := r.mark(ctx, a, id, func(row *store.Recipient) error {
		if (row.Removed > 0) == gone {
			return keep.None("recipient")
		}
		row.Removed = 0
		if gone {
			row.Removed = row.ID
		}
		return nil
	})
	if err != nil || !gone {
		return err
	}
	return r.ClosePickup(ctx, a, id)
}

func (r *Rules) mark(ctx context.Context, a keep.Actor, id int64, f func(*store.Recipient) error) error {
	if err := a.May(keep.RoleKeeper); err != nil {
		return err
	}
	return r.Change(ctx, a, func(tx *store.DB) error {
		row, err := tx.RecipientToChange(a.House.ID, id)
		if err != nil {
			return keep.Missing(err, "recipient")
		}
		if err := f(&row); err != nil {
			return err
		}
		row.Version++
		return keep.Taken(tx.Save(&row), "name", "there is another recipient named %s by now; rename that one first", row.Name)
	})
}

// Join puts a recipient on a set, or takes it off; what it was sent stays on record.
func (r *Rules) Join(ctx context.Context, a keep.Actor, set, id int64, on bool) error {
	if err := a.May(keep.RoleKeeper); err != nil {
		return err
	}
	return r.Change(ctx, a, func(tx *store.DB) error {
		if _, err := tx.Set(a.House.ID, set); err != nil {
			return keep.Missing(err, "swatch set")
		}
		if _, err := tx.Recipient(a.House.ID, id); err != nil {
			return keep.Missing(err, "recipient")
		}
		if on {
			return tx.JoinSet(set, id)
		}
		return tx.LeaveSet(set, id)
	})
}

// OpenPickup gives a recipient an address of its own and closes those that it had. The secret is not to be had again.
func (r *Rules) OpenPickup(ctx context.Context, a keep.Actor, id int64) (token string, err error) {
	if err := r.ClosePickup(ctx, a, id); err != nil {
		return "", err
	}
	token, _, err = r.Links.Open(ctx, a, keep.PickupLink, id, nil, "")
	return token, err
}

// ClosePickup closes every address of a recipient, those in mails too.
func (r *Rules) ClosePickup(ctx context.Context, a keep.Actor, id int64) error {
	if err := a.May(keep.RoleKeeper); err != nil {
		return err
	}
	if _, err := r.DB.With(ctx).RecipientToChange(a.House.ID, id); err != nil {
		return keep.Missing(err, "recipient")
	}
	return r.Links.CloseAll(ctx, a, keep.PickupLink, id)
}
