package accounts

import (
	"context"
	"crypto/subtle"
	"encoding/binary"
	"encoding/hex"
	"errors"
	"fmt"
	"strings"

	"huekeep/keep"
	"huekeep/store"
)

// First is who makes the first account of a server, and its house.
type First struct {
	Code     string // from the log of the server
	Name     string
	Email    string
	Password string
	House    string
}

// firstID is the number of the first account: two that are made at the same moment, also on two nodes of a cluster, are one too many.
const firstID = 1

// codeLetters have none that are taken for another one when they are read aloud or typed from a log.
const codeLetters = "ABCDEFGHJKMNPQRSTVWXYZ23456789"

// FirstCode is what one has to know to make the first account: 12 letters and digits, some 58 bits. It is empty as soon as there is an
// account or a house. It hangs on nothing but the keys, so that all instances and all starts have the same, and it is kept nowhere.
func (r *Rules) FirstCode(ctx context.Context) (string, error) {
	empty, err := r.DB.With(ctx).Empty()
	if err != nil || !empty {
		return "", err
	}
	_, seal, _ := strings.Cut(r.Keys.Seal("the first account"), ":")
	random, err := hex.DecodeString(seal)
	if err != nil {
		return "", err
	}
	code := make([]byte, 12) // two bytes of the seal, which has 24, make a letter
	for i := range code {
		code[i] = codeLetters[int(binary.BigEndian.Uint16(random[2*i:]))%len(codeLetters)]
	}
	return fmt.Sprintf("%s-%s-%s", code[:4], code[4:8], code[8:]), nil
}

// errNotFirst answers who comes late.
var errNotFirst = &keep.Error{Kind: keep.Conflict, Message: "Somebody has an account here already. Sign in, or ask a keeper to invite you."}

// MakeFirst makes the first account and its house, and signs in. Tries are counted before anything is computed.
func (r *Rules) MakeFirst(ctx context.Context, f First) (SignedIn, error) {
	name, err := keep.Name("house", f.House)
	if err != nil {
		return SignedIn{}, err
	}
	if err := r.mayBeFirst(ctx, f.Code); err != nil {
		return SignedIn{}, err
	}
	var user store.User
	err = r.DB.In(ctx, func(tx *store.DB) error {
		empty, err := tx.Empty()
		if err != nil {
			return err
		}
		if !empty {
			return errNotFirst
		}
		if user, err = r.newAccount(ctx, f.Email, f.Name, f.Password, name); err != nil {
			return err
		}
		user.ID, user.Runs = firstID, true // who has the code can read the log
		if err := tx.Add(&user); errors.Is(err, store.ErrDuplicate) {
			return errNotFirst
		} else if err != nil {
			return err
		}
		h := keep.NewHouse(name, r.Now())
		if err := tx.Add(&h); err != nil {
			return err
		}
		return r.Founded(ctx, tx, h.ID, name, Of(user))
	})
	if err != nil {
		return SignedIn{}, err
	}
	return r.open(ctx, user, "", false)
}

// mayBeFirst says whether a code is the one of the log.
func (r *Rules) mayBeFirst(ctx context.Context, code string) (err error) {
	wanted, err := r.FirstCode(ctx)
	if err != nil {
		return err
	}
	if wanted == "" {
		return errNotFirst
	}
	t, err := r.beginTry(ctx, ofNetwork(keep.FromOf(ctx).Address))
	if said := new(keep.Error); errors.As(err, &said) && said.Kind == keep.TooMany {
		return &keep.Error{Kind: keep.TooMany, Retry: said.Retry,
			Message: fmt.Sprintf("After so many wrong codes the next try has to wait %s.", inWords(said.Retry))}
	}
	if err != nil {
		return err
	}
	plain := func(s string) string {
		return strings.ToUpper(strings.Join(strings.FieldsFunc(s, func(r rune) bool { return r == '-' || r == ' ' }), ""))
	}
	wrong := subtle.ConstantTimeCompare([]byte(plain(code)), []byte(plain(wanted))) != 1
	if err := t.end(ctx, wrong); err != nil {
		return err
	}
	if wrong {
		r.refused(ctx, "the first account refused", 0, "", 403)
		return &keep.Error{Kind: keep.Forbidden, Field: "code",
			Message: "That is not the code in the log of this server. It stands there after the last start, behind \"Nobody has an account yet\"."}
	}
	return nil
}
