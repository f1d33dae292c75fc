// Package house holds the rules of accounts, sessions, links, and of a house as a whole: its backup and its restoring.
package house

import (
	"context"
	"errors"
	"fmt"
	"net/mail"
	"strings"
	"time"

	"github.com/alexedwards/argon2id"

	"huekeep/core/audit"
	"huekeep/core/limits"
	"huekeep/keep"
	"huekeep/keep/boards"
	"huekeep/keep/gathering"
	"huekeep/keep/ledger"
	"huekeep/keep/media"
	"huekeep/keep/send"
	"huekeep/store"
)

// Rules are the rules of accounts, sessions and the backup of a house.
type Rules struct {
	*keep.Base
	Media     *media.Rules
	Ledger    *ledger.Rules
	Gathering *gathering.Rules
	Send      *send.Rules
	Boards    *boards.Rules
	Cost      *argon2id.Params // of new passwords; PasswordCost but in tests, which have no secrets
}

// New makes the rules.
func New(b *keep.Base, m *media.Rules, l *ledger.Rules, g *gathering.Rules, s *send.Rules, d *boards.Rules) *Rules {
	return &Rules{b, m, l, g, s, d, PasswordCost}
}

// SessionLife is how long a sign-in lasts.
const SessionLife = 14 * 24 * time.Hour

// PasswordCost follows RFC 9106's second recommendation, scaled to a machine with two cores.
var PasswordCost = &argon2id.Params{Memory: 64 * 1024, Iterations: 3, Parallelism: 2, SaltLength: 16, KeyLength: 32}

// nobody is compared against when there is no such account, so that the answer takes as long.
const nobody = "$argon2id$v=19$m=65536,t=3,p=2$c29tZXNhbHRzb21lc2FsdA$7wqW8yGcXhJ0p8cB0m1y1J8k2X6vJm6Yx3x0q8wQ1rE"

const freeFailures = 5 // wrong passwords before waiting starts

// wait is how long the next try has to wait after n failures: 1, 2, 4 ... up to 300 seconds.
func wait(n int) time.Duration {
	if n < freeFailures {
		return 0
	}
	return min(300*time.Second, time.Second<<min(n-freeFailures, 9))
}

// SignedIn is an open session.
type SignedIn struct {
	Token   string // for the cookie; only its hash is stored
	CSRF    string
	Account Account
}

// Account is a person who can sign in.
type Account struct {
	ID    int64
	Name  string
	Email string
}

func account(u store.User) Account { return Account{u.ID, u.Name, u.Email} }

// SignIn checks a password and opens a session. Repeated failures for one address slow it down, whether there is such
// an account or not.
func (r *Rules) SignIn(ctx context.Context, email, password string) (SignedIn, error) {
	db := r.DB.With(ctx)
	now := r.Now()
	email = strings.ToLower(strings.TrimSpace(email))
	if len(email) > limits.EmailBytes || len(password) > limits.PasswordBytes {
		return SignedIn{}, keep.Wrong("email", "the address or the password is far too long")
	}
	key := keep.Digest(email)
	failed, err := db.SignInFailure(key)
	if err != nil && !errors.Is(err, store.ErrNotFound) {
		return SignedIn{}, err
	}
	if left := failed.LastAt.Add(wait(failed.Failures)).Sub(now); failed.Failures > 0 && left > 0 {
		return SignedIn{}, &keep.Error{Kind: keep.TooMany, Retry: left, Message: fmt.Sprintf("After %d wrong passwords the next try has to wait %d seconds.", failed.Failures, int(left.Seconds())+1)}
	}
	user, err := db.UserByEmail(email)
	hash := user.PasswordHash
	if errors.Is(err, store.ErrNotFound) {
		hash = nobody
	} else if err != nil {
		return SignedIn{}, err
	}
	right, compareErr := argon2id.ComparePasswordAndHash(password, hash)
	if err != nil || compareErr != nil || !right {
		if err := db.CountFailure(key, now); err != nil {
			return SignedIn{}, err
		}
		return SignedIn{}, &keep.Error{Kind: keep.Unauthorized, Field: "password", Message: "The address or the password is wrong."}
	}
	if err := db.ForgetFailures(key); err != nil {
		return SignedIn{}, err
	}
	if err := db.EndExpiredSessions(now); err != nil {
		return SignedIn{}, err
	}
	s := SignedIn{Token: keep.Random(), CSRF: keep.Random(), Account: account(user)}
	return s, db.Add(&store.Session{TokenHash: keep.Digest(s.Token), UserID: user.ID, CSRF: s.CSRF, ExpiresAt: now.Add(SessionLife)})
}

// Session finds the open session of a token.
func (r *Rules) Session(ctx context.Context, token string) (SignedIn, error) {
	db := r.DB.With(ctx)
	out := &keep.Error{Kind: keep.Unauthorized, Message: "You are not signed in, or your session has ended. Sign in again."}
	if token == "" {
		return SignedIn{}, out
	}
	s, err := db.SessionByHash(keep.Digest(token), r.Now())
	if errors.Is(err, store.ErrNotFound) {
		return SignedIn{}, out
	} else if err != nil {
		return SignedIn{}, err
	}
	user, err := db.User(s.UserID)
	return SignedIn{Token: token, CSRF: s.CSRF, Account: account(user)}, err
}

// SignOut ends a session.
func (r *Rules) SignOut(ctx context.Context, token string) error {
	return r.DB.With(ctx).EndSession(keep.Digest(token))
}

// Membership is a house with the role that somebody has in it.
type Membership struct {
	keep.House
	Role keep.Role
}

// Houses lists the houses that somebody belongs to.
func (r *Rules) Houses(ctx context.Context, who Account) ([]Membership, error) {
	rows, err := r.DB.With(ctx).Memberships(who.ID)
	var out []Membership
	for _, m := range rows {
		out = append(out, Membership{keep.HouseOf(m.House), keep.Role(m.Role)})
	}
	return out, err
}

// Enter finds the house for a member. For anybody else the house does not exist.
func (r *Rules) Enter(ctx context.Context, who Account, house int64) (keep.Actor, error) {
	m, err := r.DB.With(ctx).Membership(who.ID, house)
	if errors.Is(err, store.ErrNotFound) {
		return keep.Actor{}, &keep.Error{Kind: keep.NotFound, Message: "There is no such house, or you do not belong to it."}
	} else if err != nil {
		return keep.Actor{}, err
	}
	return keep.Actor{Account: who.ID, Name: who.Name, House: keep.HouseOf(m.House), Role: keep.Role(m.Role)}, nil
}

// Operator is who runs the program's command line: a keeper of any house that exists.
func (r *Rules) Operator(ctx context.Context, house string) (keep.Actor, error) {
	h, err := r.DB.With(ctx).HouseByName(house)
	if errors.Is(err, store.ErrNotFound) {
		return keep.Actor{}, &keep.Error{Kind: keep.NotFound, Message: fmt.Sprintf("There is no house named %q.", house)}
	}
	return keep.Actor{Name: "Command line", House: keep.HouseOf(h), Role: keep.RoleKeeper}, err
}

// addAccount makes an account; the caller decides who may do that.
func (r *Rules) addAccount(tx *store.DB, email, fullName, password string) (store.User, error) {
	email = strings.ToLower(strings.TrimSpace(email))
	if a, err := mail.ParseAddress(email); err != nil || a.Address != email || len(email) > limits.EmailBytes {
		return store.User{}, keep.Wrong("email", "%q is not an e-mail address", email)
	}
	fullName, err := keep.Name("name", fullName)
	if err != nil {
		return store.User{}, err
	}
	if len(password) < 12 || len(password) > limits.PasswordBytes {
		return store.User{}, keep.Wrong("password", "a password has at least 12 characters")
	}
	hash, err := argon2id.CreateHash(password, r.Cost)
	if err != nil {
		return store.User{}, err
	}
	u := store.User{Email: email, Name: fullName, PasswordHash: hash, CreatedAt: r.Now()}
	return u, keep.Taken(tx.Add(&u), "email", "there is an account for %s already", email)
}

func (r *Rules) newHouse(name string) store.House {
	return store.House{Name: name, NameKey: store.NameKey(name), Tolerance: audit.DefaultTolerance, Pictures: audit.PictureTolerance, Neutrals: true, CreatedAt: r.Now()}
}

// AddMember makes an account with a role in a house; the house is made if there is none of that name.
func (r *Rules) AddMember(ctx context.Context, email, fullName, password, house string, role keep.Role) error {
	if role != keep.RoleKeeper && role != keep.RoleContributor && role != keep.RoleReader {
		return keep.Wrong("role", "the role %q is none of keeper, contributor, reader", role)
	}
	houseName, err := keep.Name("house", house)
	if err != nil {
		return err
	}
	return r.DB.In(ctx, func(tx *store.DB) error {
		u, err := r.addAccount(tx, email, fullName, password)
		if err != nil {
			return err
		}
		h, err := tx.HouseByName(houseName)
		if errors.Is(err, store.ErrNotFound) {
			h = r.newHouse(houseName)
			err = keep.Taken(tx.Add(&h), "house", "there is a house named %s already", houseName)
		}
		if err != nil {
			return err
		}
		return tx.Add(&store.Member{UserID: u.ID, HouseID: h.ID, Role: string(role)})
	})
}
