// Package once lets a program send a request again that makes something, when it does not know whether the first one came through: with the
// same key it is done once, and answered as it was the first time.
package once

import (
	"context"
	"errors"
	"fmt"
	"regexp"
	"strings"
	"time"

	"huekeep/keep"
	"huekeep/store"
)

// CodeUsed marks the answer to a key that was used for another request.
const CodeUsed = "key-used"

// errBusy is the answer to a request that is being done.
var errBusy = &keep.Error{Kind: keep.Conflict, Code: keep.CodeBusy, Retry: 2 * time.Second,
	Message: "This very request is being done. Ask again in two seconds."}

const (
	// Kept is how long a key is known.
	Kept = 24 * time.Hour
	// patience is how long a request may take that has kept nothing yet; then another one takes it over, and what the first does is not
	// kept.
	patience = time.Minute
	// longest is how long one waits for the answer to a request that has kept something.
	longest = 2 * time.Minute
	// longestAnswer is how long an answer may be that is kept.
	longestAnswer = 1 << 20
)

// Rules are the rules of keys.
type Rules struct{ *keep.Base }

// New makes the rules.
func New(b *keep.Base) *Rules { return &Rules{b} }

// Request is what is asked for, and in which words.
type Request struct {
	Key  string // as it came
	What string // method and path
	Body string // a checksum of what it says
}

// Answer is what a request was answered.
type Answer struct {
	Status    int
	MediaType string
	Body      []byte
}

// keys are as programs make them: a UUID, or any other word that is hard to meet by chance.
var keys = regexp.MustCompile(`^[!-~]{8,200}$`)

// Claimed is a request that whoever has it does.
type Claimed = store.Claimed

// Within is a context for what a claimed request does: what it keeps is marked with the claim.
func Within(ctx context.Context, c Claimed) context.Context { return store.WithClaim(ctx, c) }

// Outside is a context for what is no part of what was claimed.
func Outside(ctx context.Context) context.Context { return store.WithoutClaim(ctx) }

// Claim claims a request for whoever sends it. If it was done already its answer is returned, and nothing is to be done. A key that was
// used for another request, and one whose request is being done or broke off in the middle, are errors.
func (r *Rules) Claim(ctx context.Context, a keep.Actor, q Request) (store.Claimed, *Answer, error) {
	key := q.Key
	if n := len(key); n > 1 && key[0] == '"' && key[n-1] == '"' { // as a structured field writes it
		key = key[1 : n-1]
	}
	if !keys.MatchString(key) {
		return store.Claimed{}, nil, keep.Wrong("Idempotency-Key", "a key has 8 to 200 characters without spaces")
	}
	mine := store.Claim{HouseID: a.House.ID, UserID: a.Account, KeyHash: keep.Digest(key), Request: keep.Short(q.What, 250),
		BodyHash: q.Body, Owner: keep.Random()[:16], BegunAt: r.Now()}
	var answer *Answer
	var claimed store.Claimed
	err := r.DB.In(ctx, func(tx *store.DB) error {
		answer = nil
		was, err := tx.ClaimOf(a.Account, a.House.ID, mine.KeyHash)
		if errors.Is(err, store.ErrNotFound) {
			mine.ID = 0
			err = tx.Add(&mine)
			claimed = store.Claimed{ID: mine.ID, Owner: mine.Owner}
			return err
		} else if err != nil {
			return err
		}
		if was.Request != mine.Request || was.BodyHash != mine.BodyHash {
			return &keep.Error{Kind: keep.Invalid, Code: CodeUsed, Field: "Idempotency-Key",
				Message: fmt.Sprintf("This key was used for another request, at %s. Each request that makes something has a key of its own.", was.BegunAt.Format(time.DateTime))}
		}
		if was.Status != 0 {
			answer, err = r.answered(was)
			return err
		}
		age := mine.BegunAt.Sub(was.BegunAt)
		switch {
		case was.Marks > 0 && age > longest:
			return &keep.Error{Kind: keep.Conflict, Code: keep.CodeUncertain,
				Message: fmt.Sprintf("This was begun at %s, and something of it was kept. Whether it goes on or its answer was lost is not known; look at what there is before you ask for it again with a new key.", was.BegunAt.Format(time.DateTime))}
		case was.Marks > 0 || age <= patience:
			return errBusy
		}
		claimed = store.Claimed{ID: was.ID, Owner: mine.Owner}
		return tx.TakeOverClaim(was.ID, mine.Owner, mine.BegunAt)
	})
	if errors.Is(err, store.ErrDuplicate) { // the same at the same moment
		err = errBusy
	}
	return claimed, answer, err
}

// place is where an answer is encrypted for: it may hold the secret of a link.
func place(id int64) string { return fmt.Sprint("answer ", id) }

func (r *Rules) answered(c store.Claim) (*Answer, error) {
	lost := &keep.Error{Kind: keep.Conflict, Code: keep.CodeUncertain,
		Message: fmt.Sprintf("This was done at %s; its answer is not there any more. Look at what there is.",
			c.BegunAt.Format(time.DateTime))}
	if c.Answer == nil {
		return nil, lost
	}
	body, err := r.Keys.Decrypt(*c.Answer, place(c.ID))
	if err != nil { // its key is gone
		return nil, lost
	}
	return &Answer{c.Status, c.MediaType, []byte(body)}, nil
}

// Done says how a request ended. What was refused, and what failed before anything was kept, gives its key free.
func (r *Rules) Done(ctx context.Context, c store.Claimed, a Answer) error {
	db := r.DB.With(context.WithoutCancel(ctx))
	switch {
	case a.Status >= 500:
		return db.DropClaim(c, true)
	case a.Status >= 400:
		return db.DropClaim(c, false)
	}
	var kept *string
	if len(a.Body) <= longestAnswer {
		text := r.Keys.Encrypt(string(a.Body), place(c.ID))
		kept = &text
	}
	return db.AnswerClaim(c, a.Status, strings.Clone(a.MediaType), kept)
}

// Tidy forgets keys whose time is over.
func (r *Rules) Tidy(ctx context.Context, now time.Time) error {
	return r.DB.With(ctx).ForgetOldClaims(now.Add(-Kept))
}
