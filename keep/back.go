package keep

import (
	"bytes"
	"compress/gzip"
	"context"
	"encoding/json"
	"errors"
	"fmt"
	"strings"
	"time"

	"huekeep/filestore"
	"huekeep/store"
)

// Added is what a change brought into a house beside its library.
type Added struct {
	Colors   bool    `json:"colors,omitempty"` // only what a change of colors may change was set aside
	Projects []int64 `json:"projects,omitempty"`
	Excuses  []int64 `json:"excuses,omitempty"`
	Plans    []int64 `json:"plans,omitempty"`

	// The newest row of the house's trail then, and those that were not ended: whoever waited for this change is one of them.
	Trail int64   `json:"trail"`
	Open  []int64 `json:"open,omitempty"`
}

// Aside is a library that was set aside before a change of many things at once.
type Aside struct {
	key    string
	files  []string
	colors bool
}

// SetAside keeps the library of a house as it is, or what a change of colors may change of it, in the transaction of a change. WayBack
// makes it the way back when the change is made.
func (b *Base) SetAside(ctx context.Context, tx *store.DB, a Actor, colors bool) (Aside, error) {
	var text bytes.Buffer
	z, err := gzip.NewWriterLevel(&text, gzip.BestSpeed)
	if err != nil {
		return Aside{}, err
	}
	files, err := tx.SetAside(a.House.ID, colors, z)
	if err != nil {
		return Aside{}, err
	}
	if err := z.Close(); err != nil {
		return Aside{}, err
	}
	// On record with the change: one that is not made leaves a file that is on no record, which the sweep takes.
	house := a.House.ID
	row := store.File{BlobKey: fmt.Sprintf("aside/%d/%s", house, Random()), HouseID: &house, SHA256: checksum(text.Bytes()),
		Size: int64(text.Len()), AddedAt: b.Now()}
	if err := tx.AddFile(row); err != nil {
		return Aside{}, err
	}
	return Aside{row.BlobKey, append(files, row.BlobKey), colors}, filesError(filestore.Put(ctx, b.Files, row.BlobKey, text.Bytes()))
}

// WayBack notes, in the same transaction, how a change is taken back. It can be gone for a day.
func (b *Base) WayBack(ctx context.Context, tx *store.DB, a Actor, aside Aside, added Added) (id int64, err error) {
	row := store.WayBack{HouseID: a.House.ID, ByName: a.Name, At: b.Now(), BlobKey: aside.key}
	if a.Account != 0 {
		row.ByUser = &a.Account
	}
	if row.Turn, err = tx.Turn(a.House.ID); err != nil {
		return 0, err
	}
	added.Colors = aside.colors
	if added.Trail, added.Open, err = tx.TrailNow(a.House.ID, FromOf(ctx).Request); err != nil {
		return 0, err
	}
	text, err := json.Marshal(added)
	if err != nil {
		return 0, err
	}
	row.Added = string(text)
	return row.ID, tx.AddWayBack(&row, aside.files)
}

// WayBackLasts is how long a change can be taken back.
const WayBackLasts = 24 * time.Hour

// GoBack makes a house what it was before a change. since says what somebody did meanwhile, in a sentence, empty for nothing; it is asked
// where the house changed. The way is not gone over that, nor over what recipients fetched, unless over says so and the whole library was
// set aside.
func (b *Base) GoBack(ctx context.Context, a Actor, id int64, over bool, since func(added Added) (string, error)) error {
	if err := a.May(RoleKeeper); err != nil {
		return err
	}
	row, err := b.DB.With(ctx).WayBack(a.House.ID, id)
	switch {
	case err != nil:
		return Missing(err, "change to take back")
	case row.GoneAt != nil:
		return Stale("it was taken back already")
	case b.Now().Sub(row.At) > WayBackLasts:
		return Clash("", "a change like this can be taken back for a day; this one was made on %s", row.At.Format("January 2 at 15:04"))
	}
	packed, err := b.Load(ctx, row.BlobKey)
	if errors.Is(err, ErrLost) || errors.Is(err, ErrSpoiled) {
		return Clash("", "it cannot be taken back: %v", err)
	} else if err != nil {
		return err
	}
	var added Added
	if err := json.Unmarshal([]byte(row.Added), &added); err != nil {
		return err
	}
	// Bringing back changes how its connection checks keys; a request that is given up must not leave it like that.
	return b.Change(context.WithoutCancel(ctx), a, func(tx *store.DB) error {
		turn, err := tx.Turn(a.House.ID)
		if err != nil {
			return err
		}
		fetched := int64(0)
		if !added.Colors {
			if fetched, err = tx.FetchedSince(a.House.ID, row.At); err != nil {
				return err
			}
		}
		what := ""
		if turn != row.Turn+1 {
			if what, err = since(added); err != nil {
				return err
			}
		}
		if fetched > 0 {
			what = strings.TrimSpace(what + fmt.Sprintf(" Recipients fetched or answered %d times.", fetched))
		}
		if what != "" && (!over || added.Colors) { // what hangs on colors, as editions that were made since, is not set aside with them
			return Clash("", "taking it back would undo what happened since. %s", what)
		}
		r, err := gzip.NewReader(bytes.NewReader(packed))
		if err != nil {
			return err
		}
		if err := tx.BringBack(a.House.ID, r); err != nil {
			return err
		}
		if err := tx.TakeOut(a.House.ID, added.Projects, added.Excuses, added.Plans); err != nil {
			return err
		}
		if err := tx.WentBack(id, b.Now()); errors.Is(err, store.ErrNotFound) {
			return Stale("it was taken back already") // by somebody else at the same time
		} else if err != nil {
			return err
		}
		return nil
	})
}
