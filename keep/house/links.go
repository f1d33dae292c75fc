package house

import (
	"context"
	"errors"
	"slices"
	"time"

	"huekeep/keep"
	"huekeep/store"
)

// Link is a link to one thing of a house, as its keepers see it. The secret in it is known to nobody but its holders.
type Link struct {
	keep.Link
	By      string
	At      time.Time
	Expires *time.Time // nil for never
	Closed  *time.Time // nil if it is open
}

// OpenLink makes a link to a thing of the house. The token goes into the address and is not to be had again.
func (r *Rules) OpenLink(ctx context.Context, a keep.Actor, kind keep.LinkKind, thing int64, expires *time.Time) (token string, l Link, err error) {
	if err := a.May(keep.RoleKeeper); err != nil {
		return "", Link{}, err
	}
	if !slices.Contains(keep.LinkKinds, kind) {
		return "", Link{}, keep.Wrong("kind", "there are no links of the kind %q", kind)
	}
	if expires != nil && !expires.After(r.Now()) {
		return "", Link{}, keep.Wrong("expires", "the link would end before it begins")
	}
	token = keep.Random()
	row := store.Link{HouseID: a.House.ID, Kind: string(kind), ThingID: thing, TokenHash: keep.Digest(token), ByUser: a.ByUser(), ByName: a.Name, CreatedAt: r.Now(), ExpiresAt: expires}
	if err := r.DB.With(ctx).Add(&row); err != nil {
		return "", Link{}, err
	}
	return token, link(row), nil
}

func link(row store.Link) Link {
	return Link{keep.Link{ID: row.ID, Kind: keep.LinkKind(row.Kind), Thing: row.ThingID}, row.ByName, row.CreatedAt, row.ExpiresAt, row.RevokedAt}
}

// Follow finds who a token makes of its holder: somebody who may see one thing. A token that is wrong, over or closed is the same
// to everybody.
func (r *Rules) Follow(ctx context.Context, kind keep.LinkKind, token string) (keep.Actor, error) {
	gone := &keep.Error{Kind: keep.NotFound, Message: "This link leads nowhere, or no longer. Ask whoever gave it to you for a new one."}
	db := r.DB.With(ctx)
	row, err := db.LinkByHash(keep.Digest(token), r.Now())
	if errors.Is(err, store.ErrNotFound) || err == nil && row.Kind != string(kind) {
		return keep.Actor{}, gone
	} else if err != nil {
		return keep.Actor{}, err
	}
	h, err := db.House(row.HouseID)
	l := link(row).Link
	return keep.Actor{Name: "Somebody with a link", House: houseOf(h), Link: &l}, err
}

// Links lists the links to a thing, newest first.
func (r *Rules) Links(ctx context.Context, a keep.Actor, kind keep.LinkKind, thing int64) ([]Link, error) {
	if err := a.May(keep.RoleKeeper); err != nil {
		return nil, err
	}
	rows, err := r.DB.With(ctx).Links(a.House.ID, string(kind), thing)
	var out []Link
	for _, row := range rows {
		out = append(out, link(row))
	}
	return out, err
}

// CloseLink ends a link at once.
func (r *Rules) CloseLink(ctx context.Context, a keep.Actor, id int64) error {
	if err := a.May(keep.RoleKeeper); err != nil {
		return err
	}
	return keep.Missing(r.DB.With(ctx).CloseLink(a.House.ID, id, r.Now()), "link")
}
