package keep

import (
	"context"
	"crypto/rand"
	"crypto/sha256"
	"encoding/base64"
	"encoding/hex"
	"errors"
	"fmt"
	"net/mail"
	"strings"
	"time"

	"github.com/alexedwards/argon2id"

	"huekeep/store"
)

// SessionLife is how long a sign-in lasts.
const SessionLife = 14 * 24 * time.Hour

// passwordCost follows RFC 9106's second recommendation, scaled to a machine with two cores.
var passwordCost = &argon2id.Params{Memory: 64 * 1024, Iterations: 3, Parallelism: 2, SaltLength: 16, KeyLength: 32}

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
	Token string // for the cookie; only its hash is stored
	CSRF  string
	User  store.User
}

// SignIn checks a password and opens a session. Repeated failures for one address slow it down, whether there is such
// an account or not.
func (k *Keeper) SignIn(ctx context.Context, email, password string) (SignedIn, error) {
	db := k.DB.With(ctx)
	now := k.Now()
	email = strings.ToLower(strings.TrimSpace(email))
	if len(email) > 190 || len(password) > 1000 {
		return SignedIn{}, invalid("email", "the address or the password is far too long")
	}
	key := digest(email)
	failed, err := db.SignInFailure(key)
	if err != nil && !errors.Is(err, store.ErrNotFound) {
		return SignedIn{}, err
	}
	if left := failed.LastAt.Add(wait(failed.Failures)).Sub(now); failed.Failures > 0 && left > 0 {
		return SignedIn{}, &Error{Kind: TooMany, Retry: left, Message: fmt.Sprintf("After %d wrong passwords the next try has to wait %d seconds.", failed.Failures, int(left.Seconds())+1)}
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
		return SignedIn{}, &Error{Kind: Unauthorized, Field: "password", Message: "The address or the password is wrong."}
	}
	if err := db.ForgetFailures(key); err != nil {
		return SignedIn{}, err
	}
	if err := db.EndExpiredSessions(now); err != nil {
		return SignedIn{}, err
	}
	s := SignedIn{Token: random(), CSRF: random(), User: user}
	return s, db.Add(&store.Session{TokenHash: digest(s.Token), UserID: user.ID, CSRF: s.CSRF, ExpiresAt: now.Add(SessionLife)})
}

// Session finds the open session of a token.
func (k *Keeper) Session(ctx context.Context, token string) (SignedIn, error) {
	db := k.DB.With(ctx)
	out := &Error{Kind: Unauthorized, Message: "You are not signed in, or your session has ended. Sign in again."}
	if token == "" {
		return SignedIn{}, out
	}
	s, err := db.SessionByHash(digest(token), k.Now())
	if errors.Is(err, store.ErrNotFound) {
		return SignedIn{}, out
	} else if err != nil {
		return SignedIn{}, err
	}
	user, err := db.User(s.UserID)
	return SignedIn{Token: token, CSRF: s.CSRF, User: user}, err
}

// SignOut ends a session.
func (k *Keeper) SignOut(ctx context.Context, token string) error {
	return k.DB.With(ctx).EndSession(digest(token))
}

// Houses lists the houses that a user belongs to.
func (k *Keeper) Houses(ctx context.Context, user store.User) ([]store.Membership, error) {
	return k.DB.With(ctx).Memberships(user.ID)
}

// AddAccount makes an account; the caller decides who may do that.
func (k *Keeper) AddAccount(ctx context.Context, tx *store.DB, email, fullName, password string) (store.User, error) {
	email = strings.ToLower(strings.TrimSpace(email))
	if a, err := mail.ParseAddress(email); err != nil || a.Address != email || len(email) > 190 {
		return store.User{}, invalid("email", "%q is not an e-mail address", email)
	}
	fullName, err := name("name", fullName)
	if err != nil {
		return store.User{}, err
	}
	if len(password) < 12 || len(password) > 1000 {
		return store.User{}, invalid("password", "a password has at least 12 characters")
	}
	hash, err := argon2id.CreateHash(password, passwordCost)
	if err != nil {
		return store.User{}, err
	}
	u := store.User{Email: email, Name: fullName, PasswordHash: hash, CreatedAt: k.Now()}
	return u, taken(tx.Add(&u), "email", "there is an account for %s already", email)
}

// AddMember makes an account with a role in a house; the house is made if there is none of that name.
func (k *Keeper) AddMember(ctx context.Context, email, fullName, password, house string, role Role) error {
	if role != RoleKeeper && role != RoleContributor && role != RoleReader {
		return invalid("role", "the role %q is none of keeper, contributor, reader", role)
	}
	houseName, err := name("house", house)
	if err != nil {
		return err
	}
	return k.DB.In(ctx, func(tx *store.DB) error {
		u, err := k.AddAccount(ctx, tx, email, fullName, password)
		if err != nil {
			return err
		}
		h, err := tx.HouseByName(houseName)
		if errors.Is(err, store.ErrNotFound) {
			h = store.House{Name: houseName, Tolerance: 3, Neutrals: true, CreatedAt: k.Now()}
			err = tx.Add(&h)
		}
		if err != nil {
			return err
		}
		return tx.Add(&store.Member{UserID: u.ID, HouseID: h.ID, Role: string(role)})
	})
}

func digest(s string) string {
	sum := sha256.Sum256([]byte(s))
	return hex.EncodeToString(sum[:])
}

func random() string {
	var b [32]byte
	_, _ = rand.Read(b[:]) // never fails, see crypto/rand
	return base64.RawURLEncoding.EncodeToString(b[:])
}
