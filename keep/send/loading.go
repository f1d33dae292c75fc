package send

import (
	"bytes"
	"context"
	"errors"
	"fmt"
	"image"
	_ "image/jpeg" // of pictures to notes
	"image/png"
	"slices"
	"strings"
	"time"
	"unicode/utf8"

	"huekeep/core/library"
	"huekeep/core/limits"
	"huekeep/core/swatchfile"
	"huekeep/keep"
	"huekeep/keep/media"
	"huekeep/reading"
	"huekeep/store"
)

// Note is how files of a group are loaded: in the words that ship, and in the house's.
type Note struct {
	swatchfile.Loading
	Own     string // what the house says; empty for nothing
	Picture bool   // it shows it too
	Version int    // of what the house says; 0 for nothing
	By      string
	At      time.Time
}

// Lines are the house's words, one a line.
func (n Note) Lines() []string {
	if n.Own == "" {
		return nil
	}
	return strings.Split(n.Own, "\n")
}

// Notes lists how files are loaded, in the order of the packings.
func (r *Rules) Notes(ctx context.Context, a keep.Actor) ([]Note, error) {
	rows, err := r.DB.With(ctx).LoadingNotes(a.House.ID, false)
	if err != nil {
		return nil, err
	}
	own := map[string]store.LoadingNote{}
	for _, n := range rows {
		own[n.Note] = n
	}
	var out []Note
	for _, l := range swatchfile.Loadings() {
		n := own[l.Key]
		out = append(out, Note{l, n.Text, len(n.Picture) > 0, n.Version, n.ByName, n.ChangedAt})
	}
	return out, nil
}

// note is one of them.
func (r *Rules) note(ctx context.Context, a keep.Actor, key string) (Note, error) {
	all, err := r.Notes(ctx, a)
	if err != nil {
		return Note{}, err
	}
	at := slices.IndexFunc(all, func(n Note) bool { return n.Key == key })
	if at < 0 {
		return Note{}, keep.None("loading note")
	}
	return all[at], nil
}

// PutNote writes what the house says of loading; an empty text takes the words back. The version is the one that the caller saw, 0 for
// none.
func (r *Rules) PutNote(ctx context.Context, a keep.Actor, key string, version int, text string) (Note, error) {
	text = strings.TrimSpace(strings.ReplaceAll(text, "\r\n", "\n"))
	if n := utf8.RuneCountInString(text); n > limits.RuleRunes {
		return Note{}, keep.Wrong("text", "the note has %d characters; at most %d fit", n, limits.RuleRunes)
	}
	return r.changeNote(ctx, a, key, &version, func(n *store.LoadingNote) { n.Text = text })
}

// noteSide is how many pixels the picture of a note has along its longer side.
const noteSide = 1400

var noteTask = reading.NewTask("picture of a note", func(_ struct{}, data []byte) ([]byte, error) {
	size, kind, err := image.DecodeConfig(bytes.NewReader(data))
	switch {
	case err != nil || kind != "png" && kind != "jpeg":
		return nil, errors.New("the picture is neither a PNG nor a JPEG file")
	case size.Width > limits.LogoSide || size.Height > limits.LogoSide:
		return nil, fmt.Errorf("the picture is %d by %d pixels; at most %d a side are taken", size.Width, size.Height, limits.LogoSide)
	}
	img, _, err := image.Decode(bytes.NewReader(data))
	if err != nil {
		return nil, fmt.Errorf("the picture is damaged: %w", err)
	}
	for side := noteSide; ; side = side * 3 / 4 { // a photo may be larger as PNG than a backup takes back
		var b bytes.Buffer
		if err := png.Encode(&b, media.Fitted(img, side)); err != nil || b.Len() <= limits.LogoBytes {
			return b.Bytes(), err
		}
	}
})

// PutNotePicture takes in the picture of a note, PNG or JPEG; nil takes it away. It is drawn anew, so that nothing else of the file stays.
func (r *Rules) PutNotePicture(ctx context.Context, a keep.Actor, key string, data []byte) error {
	if err := a.May(keep.RoleKeeper); err != nil {
		return err
	}
	drawn := []byte{}
	if data != nil {
		if len(data) > limits.LogoBytes {
			return &keep.Error{Kind: keep.TooLarge, Field: "file", Message: fmt.Sprintf("The picture has %s; at most %s are taken.",
				limits.Size(int64(len(data))), limits.Size(limits.LogoBytes))}
		}
		var err error
		if drawn, err = keep.Apart(ctx, r.Base, a, noteTask, "the picture", struct{}{}, data); err != nil {
			return err
		}
	}
	_, err := r.changeNote(ctx, a, key, nil, func(n *store.LoadingNote) { n.Picture = drawn })
	return err
}

// changeNote changes what the house says. Without words and picture there is nothing left of it.
func (r *Rules) changeNote(ctx context.Context, a keep.Actor, key string, version *int, change func(*store.LoadingNote)) (Note, error) {
	if err := a.May(keep.RoleKeeper); err != nil {
		return Note{}, err
	}
	if _, err := swatchfile.LoadingOf(key); err != nil {
		return Note{}, keep.None("loading note")
	}
	err := r.Change(ctx, a, func(tx *store.DB) error {
		n, err := tx.LoadingNote(a.House.ID, key)
		if err != nil && !errors.Is(err, store.ErrNotFound) {
			return err
		}
		if version != nil && *version != n.Version {
			who := n.ByName
			if who == "" {
				who = "somebody"
			}
			return keep.Clash("version", "%s changed this note meanwhile; what you wrote is still here, look at theirs first", who)
		}
		n.HouseID, n.Note, n.ByName, n.ChangedAt, n.Version = a.House.ID, key, a.Name, r.Now(), n.Version+1
		if n.Picture == nil {
			n.Picture = []byte{}
		}
		if change(&n); n.Text == "" && len(n.Picture) == 0 {
			return tx.DropLoadingNote(a.House.ID, key)
		}
		return tx.Save(&n)
	})
	if err != nil {
		return Note{}, err
	}
	return r.note(ctx, a, key)
}

// NotePicture is the picture of a note, PNG.
func (r *Rules) NotePicture(ctx context.Context, a keep.Actor, key string) ([]byte, error) {
	n, err := r.DB.With(ctx).LoadingNote(a.House.ID, key)
	if err != nil {
		return nil, keep.Missing(err, "picture")
	}
	if len(n.Picture) == 0 {
		return nil, keep.None("picture")
	}
	return n.Picture, nil
}

// ownNotes are the house's words as an edition keeps them.
func ownNotes(db *store.DB, a keep.Actor) (out []library.HouseNote, err error) {
	rows, err := db.LoadingNotes(a.House.ID, false)
	for _, n := range rows {
		if n.Text != "" {
			out = append(out, library.HouseNote{Key: n.Note, Text: n.Text})
		}
	}
	return out, err
}

// Trouble is a file that somebody could not load.
type Trouble struct {
	ID, Recipient, Set int64
	RecipientName      string
	SetName            string
	Edition            int
	Packing            string
	Note               string // the key of how it is loaded; empty for a packing of before
	Tried              string
	Times              int
	At                 time.Time // when it was said last
}

// Troubles lists what recipients could not load and nobody settled, newest first.
func (r *Rules) Troubles(ctx context.Context, a keep.Actor) ([]Trouble, error) {
	if err := a.May(keep.RoleKeeper); err != nil {
		return nil, err
	}
	rows, err := r.DB.With(ctx).OpenTroubles(a.House.ID, limits.Page)
	out := []Trouble{}
	for _, t := range rows {
		to := Trouble{ID: t.ID, Recipient: t.RecipientID, Set: t.SetID, RecipientName: t.Recipient, SetName: t.SetName, Edition: t.Number,
			Packing: t.Packing, Tried: t.Tried, Times: t.Times, At: t.LastAt}
		if p, err := swatchfile.FindPacking(t.Packing); err == nil {
			to.Note = p.Loading().Key
		}
		out = append(out, to)
	}
	return out, err
}

// Settle marks a trouble as settled, or opens it again.
func (r *Rules) Settle(ctx context.Context, a keep.Actor, id int64, on bool) error {
	if err := a.May(keep.RoleKeeper); err != nil {
		return err
	}
	var at *time.Time
	by := ""
	if on {
		now := r.Now()
		at, by = &now, a.Name
	}
	return keep.Missing(r.DB.With(ctx).SettleTrouble(a.House.ID, id, at, by), "trouble")
}

// DidNot puts on record that somebody at a pickup could not load a file of the current edition, with what was tried where they say so. Said
// again it is counted, so that a button that is pressed often makes nothing long.
func (r *Rules) DidNot(ctx context.Context, o Offer, set int64, packing, tried string) (OfferedSet, swatchfile.Packing, error) {
	none := swatchfile.Packing{}
	if o.Public {
		return OfferedSet{}, none, nobodys
	}
	s, err := o.current(set)
	if err != nil {
		return s, none, err
	}
	p, err := swatchfile.FindPacking(packing)
	if err != nil || p.Name != "kit" && !slices.Contains(o.Recipient.Packings, p.Name) {
		return s, none, &keep.Error{Kind: keep.Invalid,
			Message: "The form does not say which file it was. Go back and press the button at that file again."}
	}
	tried = strings.TrimSpace(tried)
	if n := utf8.RuneCountInString(tried); n > limits.NoteRunes {
		return s, none, &keep.Error{Kind: keep.Invalid,
			Message: fmt.Sprintf("What you tried has %d characters; at most %d fit. Go back and shorten it.", n, limits.NoteRunes)}
	}
	now := r.Now()
	return s, p, r.DB.With(ctx).Trouble(store.Trouble{HouseID: o.Actor.House.ID, RecipientID: o.Recipient.ID, SetID: s.ID,
		Number: s.Current, Packing: p.Name, Tried: tried, Times: 1, At: now, LastAt: now})
}

// current is a set at a pickup of which there is an edition.
func (o Offer) current(set int64) (OfferedSet, error) {
	at := slices.IndexFunc(o.Sets, func(s OfferedSet) bool { return s.ID == set && s.Current > 0 })
	if at < 0 {
		return OfferedSet{}, keep.None("swatch set")
	}
	return o.Sets[at], nil
}
