// Package links holds the rules of links: one thing of a house for somebody without an account.
package links

import (
	"context"
	"errors"
	"fmt"
	"slices"
	"strings"
	"sync/atomic"
	"time"
	"unicode/utf8"

	"github.com/alexedwards/argon2id"

	"huekeep/core/limits"
	"huekeep/keep"
	"huekeep/store"
)

// Rules are the rules of links.
type Rules struct {
	*keep.Base
	Cost   *argon2id.Params // of pass phrases
	Closed atomic.Uint64    // counts closings, for whoever remembers where links lead
}

// New makes the rules.
func New(b *keep.Base) *Rules { return &Rules{Base: b, Cost: argon2id.DefaultParams} }

// Link is a link to one thing of a house, as its keepers see it. The secret in it is known to nobody but its holders.
type Link struct {
	keep.Link
	By     string
	At     time.Time
	Closed *time.Time // nil if it is open

	Token           string // of a link for anybody; empty for others
	Opened, Fetched int    // how often its page was opened, and a file fetched there
	Last            *time.Time
}

// Open says whether the link leads to its thing at a time.
func (l Link) Open(now time.Time) bool {
	return l.Closed == nil && (l.Until == nil || l.Until.After(now))
}

// Open makes a link to a thing of the house, with a pass phrase if one is given. The token goes into the address and is not to be
// had again.
func (r *Rules) Open(ctx context.Context, a keep.Actor, kind keep.LinkKind, thing int64, until *time.Time, phrase string) (token string,
	l Link, err error) {
	if err := a.May(keep.RoleKeeper); err != nil {
		return "", Link{}, err
	}
	if !slices.Contains(keep.LinkKinds, kind) {
		return "", Link{}, keep.Wrong("kind", "there are no links of the kind %q", kind)
	}
	if until != nil && !until.After(r.Now()) {
		return "", Link{}, keep.Wrong("until", "the link would end before it begins")
	}
	token = keep.Random()
	row := store.Link{HouseID: a.House.ID, Kind: string(kind), ThingID: thing, TokenHash: keep.Digest(token), ByUser: a.ByUser(),
		ByName: a.Name, CreatedAt: r.Now(), ExpiresAt: until}
	if phrase = strings.TrimSpace(phrase); phrase != "" {
		if n := utf8.RuneCountInString(phrase); n < 6 || len(phrase) > limits.PasswordBytes {
			return "", Link{}, keep.Wrong("phrase", "a pass phrase has 6 to %d characters; this one has %d", limits.PasswordBytes, n)
		}
		if row.PhraseHash, err = keep.HashSecret(ctx, phrase, r.Cost); err != nil {
			return "", Link{}, err
		}
	}
	if kind.Public() {
		row.Token = token
	}
	if err := r.DB.With(ctx).Add(&row); err != nil {
		return "", Link{}, err
	}
	return token, link(row), nil
}

func link(row store.Link) Link {
	return Link{keep.Link{ID: row.ID, Kind: keep.LinkKind(row.Kind), Thing: row.ThingID, Until: row.ExpiresAt, Asks: row.PhraseHash != ""},
		row.ByName, row.CreatedAt, row.RevokedAt, row.Token, row.Opened, row.Fetched, row.LastAt}
}

// CodeClosed marks the answer to a link that led somewhere once.
const CodeClosed = "link-closed"

// Follow finds who a token makes of its holder: somebody who may see one thing. Who holds a link that is closed or over is told so;
// what was never a link leads nowhere.
func (r *Rules) Follow(ctx context.Context, token string, kinds ...keep.LinkKind) (keep.Actor, error) {
	db := r.DB.With(ctx)
	row, err := db.LinkByHash(keep.Digest(token))
	if errors.Is(err, store.ErrNotFound) || err == nil && !slices.Contains(kinds, keep.LinkKind(row.Kind)) {
		return keep.Actor{}, &keep.Error{Kind: keep.NotFound,
			Message: "This link leads nowhere. Perhaps a part of it was lost on the way; ask whoever gave it to you."}
	} else if err != nil {
		return keep.Actor{}, err
	}
	h, err := db.House(row.HouseID)
	if err != nil {
		return keep.Actor{}, err
	}
	l := link(row)
	if !l.Open(r.Now()) {
		how := "was closed"
		if l.Closed == nil {
			how = "was open until " + l.Until.Format("January 2, 2006")
		}
		return keep.Actor{}, &keep.Error{Kind: keep.NotFound, Code: CodeClosed,
			Message: fmt.Sprintf("This link %s. Ask %s for a new one if you need it.", how, h.Name)}
	}
	return keep.Actor{Name: "Somebody with a link", House: keep.HouseOf(h), Link: &l.Link}, nil
}

// Unlock checks the pass phrase of a link that asks for one.
func (r *Rules) Unlock(ctx context.Context, a keep.Actor, phrase string) error {
	if a.Link == nil || !a.Link.Asks {
		return nil
	}
	row, err := r.DB.With(ctx).LinkByID(a.House.ID, a.Link.ID)
	if err != nil {
		return keep.Missing(err, "link")
	}
	phrase = strings.TrimSpace(phrase)
	if len(phrase) > limits.PasswordBytes {
		phrase = ""
	}
	if ok, err := keep.SecretFits(ctx, phrase, row.PhraseHash); err != nil {
		return err
	} else if !ok {
		return &keep.Error{Kind: keep.Unauthorized, Field: "phrase", Message: "That is not the pass phrase of this link."}
	}
	return nil
}

// Of lists the links to a thing, newest first.
func (r *Rules) Of(ctx context.Context, a keep.Actor, kind keep.LinkKind, thing int64) ([]Link, error) {
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

// OpenOf lists the open links of a kind in the house, newest first.
func (r *Rules) OpenOf(ctx context.Context, a keep.Actor, kind keep.LinkKind) ([]Link, error) {
	if err := a.May(keep.RoleKeeper); err != nil {
		return nil, err
	}
	rows, err := r.DB.With(ctx).OpenLinks(a.House.ID, string(kind))
	var out []Link
	for _, row := range rows {
		if l := link(row); l.Open(r.Now()) {
			out = append(out, l)
		}
	}
	return out, err
}

// CloseAll ends every link of a kind to a thing at once.
func (r *Rules) CloseAll(ctx context.Context, a keep.Actor, kind keep.LinkKind, thing int64) error {
	if err := a.May(keep.RoleKeeper); err != nil {
		return err
	}
	err := r.DB.With(ctx).CloseLinks(a.House.ID, string(kind), thing, r.Now())
	r.Closed.Add(1)
	return err
}

// Close ends a link at once.
func (r *Rules) Close(ctx context.Context, a keep.Actor, id int64) error {
	if err := a.May(keep.RoleKeeper); err != nil {
		return err
	}
	err := r.DB.With(ctx).CloseLink(a.House.ID, id, r.Now())
	r.Closed.Add(1)
	return keep.Missing(err, "link")
}
