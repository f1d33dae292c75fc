package accounts

import (
	"context"
	"errors"
	"fmt"

	"huekeep/keep"
	"huekeep/store"
)

// viaProvider marks sessions that a sign-in provider opened.
const viaProvider = "provider"

// Why a provider's word is not enough.
const (
	CodeUnverified = "unverified"
	CodeNoAccount  = "no-account"
)

// Vouched is what a sign-in provider says of somebody.
type Vouched struct {
	Subject  string // issuer and subject; the same for ever
	Email    string
	Verified bool // the provider knows that the address is theirs
	Name     string
}

// Vouch opens a session for whom a sign-in provider vouches: an account that it vouched for before, the account of an address that it has
// verified, or a new one where an invitation to that address waits.
func (r *Rules) Vouch(ctx context.Context, v Vouched, invitation string) (SignedIn, error) {
	db := r.DB.With(ctx)
	u, err := db.UserBySubject(v.Subject)
	if errors.Is(err, store.ErrNotFound) {
		u, err = r.meet(ctx, v, invitation)
	}
	if err != nil {
		return SignedIn{}, err
	}
	return r.open(ctx, u, viaProvider, false)
}

func (r *Rules) meet(ctx context.Context, v Vouched, invitation string) (u store.User, err error) {
	email, err := Address(v.Email)
	if err != nil || !v.Verified {
		return u, &keep.Error{Kind: keep.Forbidden, Code: CodeUnverified,
			Message: "Your sign-in provider does not say which e-mail address is yours, so nobody here knows who you are."}
	}
	ended := false
	err = r.DB.In(ctx, func(tx *store.DB) error {
		ended = false
		var t *store.Ticket
		if invitation != "" {
			if found, err := r.found(tx, invitation); err == nil && found.Kind == string(InviteTicket) && found.Email == email {
				t = &found
			}
		}
		u, err = tx.UserByEmail(email)
		switch {
		case err == nil:
			now := r.Now()
			if u.ProvedAt == nil { // somebody else may have made it, and know its password
				u.PasswordHash, u.Totp, u.TotpNew, u.TotpStep = "", "", "", 0
				if err := errors.Join(r.begin(tx, u), tx.ForgetRecoveryCodes(u.ID), tx.DropPasskey(u.ID, 0)); err != nil {
					return err
				}
				ended = true
			}
			u.Subject, u.ProvedAt = &v.Subject, &now
			if err := tx.Save(&u); err != nil {
				return err
			}
		case !errors.Is(err, store.ErrNotFound):
			return err
		case t == nil:
			return &keep.Error{Kind: keep.Forbidden, Code: CodeNoAccount,
				Message: fmt.Sprintf("There is no account for %s. Ask a keeper of your house to invite you.", email)}
		default:
			name, err := keep.Name("name", v.Name)
			if err != nil {
				name = email
			}
			u = store.User{Email: email, Name: name, CreatedAt: r.Now(), Subject: &v.Subject}
			u.ProvedAt = &u.CreatedAt
			if err := tx.Add(&u); err != nil {
				return err
			}
		}
		if t != nil {
			return r.join(ctx, tx, *t, u)
		}
		return nil
	})
	if err == nil && ended {
		r.letter(ctx, u.Email, "You sign in through your organization now",
			"You signed in through your organization for the first time. Nobody had shown before that this mailbox is yours, so that the password of the account, its second factor, its sessions and its access tokens have ended.", r.Send.Address+"/")
	}
	return u, err
}
