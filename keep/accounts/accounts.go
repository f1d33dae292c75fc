// Package accounts holds the rules of accounts and of how somebody comes in: passwords, second factors, passkeys, sessions, access tokens,
// a provider of identities, and the links that lead to an account.
package accounts

import (
	"context"
	"errors"
	"fmt"
	"strings"
	"sync"
	"time"

	"github.com/alexedwards/argon2id"

	"huekeep/core/limits"
	"huekeep/keep"
	"huekeep/keep/send"
	"huekeep/store"
)

// Rules are the rules of accounts and sessions.
type Rules struct {
	*keep.Base
	Send *send.Rules      // mails, and where the program is reached
	Cost *argon2id.Params // of new passwords; PasswordCost but in tests, which have no secrets
	Life time.Duration    // how long a sign-in lasts
	Idle time.Duration    // how long a keeper's may lie unused

	letters sync.WaitGroup // that are on their way

	nobodyOnce sync.Once
	nobodyHash string
	nobodyErr  error
}

// New makes the rules.
func New(b *keep.Base, s *send.Rules) *Rules {
	return &Rules{Base: b, Send: s, Cost: PasswordCost, Life: SessionLife, Idle: KeeperIdle}
}

// SessionLife is how long a sign-in lasts, KeeperIdle how long that of a keeper of any house may lie unused, unless the settings say
// otherwise.
const (
	SessionLife = 14 * 24 * time.Hour
	KeeperIdle  = 12 * time.Hour
)

// seenEvery is how often the last use of a session or a token is written down.
const seenEvery = time.Minute

// PasswordCost follows RFC 9106's second recommendation, scaled to a machine with two cores.
var PasswordCost = &argon2id.Params{Memory: 64 * 1024, Iterations: 3, Parallelism: 2, SaltLength: 16, KeyLength: 32}

// nobody is compared against when there is no such account, so that the answer takes as long.
func (r *Rules) nobody() (string, error) {
	r.nobodyOnce.Do(func() { r.nobodyHash, r.nobodyErr = argon2id.CreateHash(keep.Random(), r.Cost) })
	return r.nobodyHash, r.nobodyErr
}

// deviceLife is how long a browser is known that is not used.
const deviceLife = 365 * 24 * time.Hour

// CodeSecondFactor marks the answer to a right password where the code of the second factor is missing.
const CodeSecondFactor = "second-factor"

// CodeSecondFactorNeeded marks the answer of a house that nobody enters without a second factor.
const CodeSecondFactorNeeded = "second-factor-needed"

// SignedIn is an open session, or the use of an access token.
type SignedIn struct {
	ID      int64
	Token   string // for the cookie; only its hash is stored
	CSRF    string
	Device  string // for the cookie that tells the browser; empty if it is known already
	Account Account
	Strong  bool      // with a second factor, or through the sign-in provider
	Cap     keep.Role // of an access token: it may no more than this; empty for a session
	Named   string    // the access token's name
	Only    int64     // the house that it is for; 0 for one of before, and for a session
	Purpose string    // what it is for; empty for a session
}

// Account is a person who can sign in.
type Account struct {
	ID    int64
	Name  string
	Email string
	Runs  bool // runs the server
}

// Of is the account of a row.
func Of(u store.User) Account { return Account{u.ID, u.Name, u.Email, u.Runs} }

// Credentials are what somebody signs in with.
type Credentials struct {
	Email    string
	Password string
	Code     string // of the second factor, or a recovery code; empty at first
	Device   string // the token of a browser that somebody signed in from before
	Passkey  *Shown // in place of a code
}

// SignIn checks a password, and the second factor where there is one, and opens a session. Tries are counted, whether there is such an
// account or not, and before anything is computed.
func (r *Rules) SignIn(ctx context.Context, c Credentials) (signed SignedIn, err error) {
	db := r.DB.With(ctx)
	email := strings.ToLower(strings.TrimSpace(c.Email))
	if len(email) > limits.EmailBytes || len(c.Password) > limits.PasswordBytes || len(c.Code) > 64 || len(c.Device) > 64 {
		return SignedIn{}, keep.Wrong("email", "the address or the password is far too long")
	}
	known, err := r.familiarBrowser(db, email, c.Device)
	if err != nil {
		return SignedIn{}, err
	}
	vessels := []store.Vessel{ofStrangers(email), ofNetwork(keep.FromOf(ctx).Address)}
	if known { // which nobody else holds up
		vessels = []store.Vessel{ofFamiliar(email)}
	}
	user, err := db.UserByEmail(email)
	if err != nil && !errors.Is(err, store.ErrNotFound) {
		return SignedIn{}, err
	}
	t, err := r.beginTry(ctx, vessels...)
	if err != nil {
		r.refused(ctx, "sign-in held off", user.ID, email, 429)
		return SignedIn{}, err
	}
	wrong := false
	defer func() { err = errors.Join(err, t.end(ctx, wrong)) }()
	hash := user.PasswordHash
	if hash == "" {
		if hash, err = r.nobody(); err != nil {
			return SignedIn{}, err
		}
	}
	right, err := keep.SecretFits(keep.WithPrecedence(ctx, known), c.Password, hash)
	if err != nil {
		return SignedIn{}, err
	}
	if wrong = !right || user.PasswordHash == ""; wrong {
		r.refused(ctx, "sign-in refused", user.ID, email, 401)
		return SignedIn{}, &keep.Error{Kind: keep.Unauthorized, Field: "password", Message: "The address or the password is wrong."}
	}
	via, err := r.second(ctx, user, c)
	if err != nil {
		var said *keep.Error
		if wrong = errors.As(err, &said) && said.Kind == keep.Unauthorized && (c.Code != "" || c.Passkey != nil); wrong {
			r.refused(ctx, "second factor refused", user.ID, email, 401)
		}
		return SignedIn{}, err
	}
	return r.open(ctx, user, via, known)
}

// second asks for the second factor where there is one: a code, or a passkey.
func (r *Rules) second(ctx context.Context, user store.User, c Credentials) (via string, err error) {
	keys, err := r.DB.With(ctx).Passkeys(user.ID)
	if err != nil {
		return "", err
	}
	switch {
	case user.Totp == "" && len(keys) == 0:
		return "password", nil
	case c.Passkey != nil:
		whose, err := r.shown(ctx, *c.Passkey)
		if err == nil && whose.ID != user.ID {
			err = &keep.Error{Kind: keep.Unauthorized, Code: CodeSecondFactor, Field: "credential",
				Message: "This passkey is somebody else's."}
		}
		return viaBoth, err
	case strings.TrimSpace(c.Code) == "":
		message := "Now the code of your second factor."
		if len(keys) > 0 {
			message = "Now your passkey, or a recovery code."
			if user.Totp != "" {
				message = "Now your passkey, or the code of your second factor."
			}
		}
		return "", &keep.Error{Kind: keep.Unauthorized, Code: CodeSecondFactor, Field: "code", Message: message}
	}
	via = "password"
	if user.Totp == "" { // a recovery code in place of a passkey
		via = viaBoth
	}
	return via, r.secondFactor(ctx, user.ID, c.Code)
}

// open opens a session for somebody who has shown who they are.
func (r *Rules) open(ctx context.Context, user store.User, via string, known bool) (SignedIn, error) {
	now := r.Now()
	from := keep.FromOf(ctx)
	s := SignedIn{Token: keep.Random(), CSRF: keep.Random(), Account: Of(user), Strong: strong(user, via)}
	return s, r.DB.In(ctx, func(tx *store.DB) error {
		row := store.Session{TokenHash: keep.Digest(s.Token), UserID: user.ID, CSRF: s.CSRF, ExpiresAt: now.Add(r.Life), CreatedAt: now,
			SeenAt:  now,
			Address: keep.Short(from.Address, 64), Agent: keep.Short(from.Agent, 120), Via: via}
		if err := tx.Add(&row); err != nil {
			return err
		}
		s.ID = row.ID
		if !known {
			s.Device = keep.Random()
			if err := tx.Add(&store.Device{TokenHash: keep.Digest(s.Device), UserID: user.ID, SeenAt: now}); err != nil {
				return err
			}
		}
		_, err := keep.Trail(ctx, tx, keep.Did{Account: user.ID, Name: user.Name, What: "signed in",
			About: map[string]string{viaProvider: "through the provider", viaPasskey: "with a passkey"}[via], Outcome: 200}, r.Now)
		return err
	})
}

// unfounded is how long a house may have no members: an example is filled before it gets its keeper.
const unfounded = time.Hour

// Tidy forgets sessions, browsers, tries, tickets and houses whose time is over, and what is left of houses that were never whole.
func (r *Rules) Tidy(ctx context.Context, now time.Time) error {
	db := r.DB.With(ctx)
	if err := errors.Join(db.EndExpiredSessions(now), db.ForgetOldDevices(now.Add(-deviceLife)), db.ForgetOldTries(now.Add(-48*time.Hour)),
		db.ForgetOldCeremonies(now), db.DropOldTickets(now), db.DropHousesWithoutMembers(now.Add(-unfounded))); err != nil {
		return err
	}
	ending, err := db.EndingHouses(now)
	for _, h := range ending {
		err = errors.Join(err, r.DB.In(ctx, func(tx *store.DB) error { return tx.DropHouse(h.ID) }))
	}
	return err
}

// Session finds the open session of a token, which is used with that.
func (r *Rules) Session(ctx context.Context, token string) (SignedIn, error) {
	return r.session(ctx, token, true)
}

// Listening says whether the session of a token is still open and lets its person into a house. A page that only listens does not use it.
func (r *Rules) Listening(ctx context.Context, token string, house int64) error {
	s, err := r.session(ctx, token, false)
	if err == nil {
		_, err = r.Enter(ctx, s, house)
	}
	return err
}

func (r *Rules) session(ctx context.Context, token string, use bool) (SignedIn, error) {
	db := r.DB.With(ctx)
	out := &keep.Error{Kind: keep.Unauthorized, Message: "You are not signed in, or your session has ended. Sign in again."}
	if token == "" {
		return SignedIn{}, out
	}
	now := r.Now()
	s, err := db.SessionByHash(keep.Digest(token), now)
	if errors.Is(err, store.ErrNotFound) {
		return SignedIn{}, out
	} else if err != nil {
		return SignedIn{}, err
	}
	if now.Sub(s.SeenAt) > r.Idle {
		keeps, err := db.KeepsAny(s.UserID)
		if err != nil {
			return SignedIn{}, err
		}
		if keeps {
			out.Message = "Your session was not used for a while and has ended. Sign in again."
			return SignedIn{}, errors.Join(db.EndSession(s.TokenHash), out)
		}
	}
	from := keep.FromOf(ctx)
	if use && (now.Sub(s.SeenAt) > seenEvery || from.Address != "" && from.Address != s.Address) {
		if err := db.Seen(s.TokenHash, keep.Short(from.Address, 64), now); err != nil {
			return SignedIn{}, err
		}
	}
	user, err := db.User(s.UserID)
	return SignedIn{ID: s.ID, Token: token, CSRF: s.CSRF, Account: Of(user), Strong: strong(user, s.Via)}, err
}

// Bearer finds whom an access token acts for.
func (r *Rules) Bearer(ctx context.Context, token string) (SignedIn, error) {
	db := r.DB.With(ctx)
	now := r.Now()
	t, err := db.AccessTokenByHash(keep.Digest(token), now)
	if errors.Is(err, store.ErrNotFound) {
		return SignedIn{}, &keep.Error{Kind: keep.Unauthorized, Message: "The access token is not known, or its time is over."}
	} else if err != nil {
		return SignedIn{}, err
	}
	if t.UsedAt == nil || now.Sub(*t.UsedAt) > seenEvery {
		if err := db.Used(t.ID, keep.Short(keep.FromOf(ctx).Address, 64), now); err != nil {
			return SignedIn{}, err
		}
	}
	user, err := db.User(t.UserID)
	if err != nil {
		return SignedIn{}, err
	}
	keys, err := db.Passkeys(user.ID)
	return SignedIn{Account: Of(user), Strong: user.Totp != "" || user.Subject != nil || len(keys) > 0, Cap: keep.Role(t.Role),
		Named: t.Name, Only: of(t.HouseID), Purpose: t.Purpose}, err
}

func of(id *int64) int64 {
	if id == nil {
		return 0
	}
	return *id
}

// SignOut ends a session.
func (r *Rules) SignOut(ctx context.Context, s SignedIn) error {
	r.Noted(ctx, keep.Did{Account: s.Account.ID, Name: s.Account.Name, What: "signed out", Outcome: 204})
	return r.DB.With(ctx).EndSession(keep.Digest(s.Token))
}

// Membership is a house with the role that somebody has in it.
type Membership struct {
	keep.House
	Role   keep.Role
	EndsAt *time.Time // when it is deleted, if it was given up
	Marked *time.Time // when its mark was last changed; nil for none
	Locked bool       // it asks for a second factor that the person has not
	First  [3]int     // notations that are offered first
}

// Houses lists the houses that somebody belongs to. One that was given up is there for its keepers only.
func (r *Rules) Houses(ctx context.Context, who SignedIn) ([]Membership, error) {
	rows, err := r.DB.With(ctx).Memberships(who.Account.ID)
	var out []Membership
	for _, m := range rows {
		role := who.least(keep.Role(m.Role))
		if who.Only > 0 && m.House.ID != who.Only {
			continue
		}
		if m.EndsAt == nil || role == keep.RoleKeeper {
			out = append(out, Membership{keep.HouseOf(m.House), role, m.EndsAt, m.Marked, m.SecondFactor && !who.Strong,
				keep.Notations(m.House)})
		}
	}
	return out, err
}

// least is the role that an access token leaves of one.
func (s SignedIn) least(role keep.Role) keep.Role {
	if s.Cap != "" && role.Reaches(s.Cap) {
		return s.Cap
	}
	return role
}

// noHouse is said of houses that are not there, and of those that somebody does not belong to.
func noHouse() error {
	return &keep.Error{Kind: keep.NotFound, Message: "There is no such house, or you do not belong to it."}
}

// Enter finds the house for a member. For anybody else the house does not exist.
func (r *Rules) Enter(ctx context.Context, who SignedIn, house int64) (keep.Actor, error) {
	a, h, err := r.Member(ctx, who, house)
	switch {
	case err != nil:
		return keep.Actor{}, err
	case h.EndsAt != nil:
		return keep.Actor{}, &keep.Error{Kind: keep.NotFound,
			Message: fmt.Sprintf("%s was given up and is deleted on %s. A keeper can take it back until then.", h.Name,
				h.EndsAt.Format("January 2"))}
	case h.SecondFactor && !who.Strong:
		return keep.Actor{}, &keep.Error{Kind: keep.Forbidden, Code: CodeSecondFactorNeeded,
			Message: fmt.Sprintf("%s asks everybody for a second factor. Set yours up under your name, at the top right.", h.Name)}
	}
	return a, nil
}

// Member finds the house for a member, also one that was given up.
func (r *Rules) Member(ctx context.Context, who SignedIn, house int64) (keep.Actor, store.House, error) {
	m, err := r.DB.With(ctx).Membership(who.Account.ID, house)
	if errors.Is(err, store.ErrNotFound) || who.Only > 0 && who.Only != house {
		return keep.Actor{}, store.House{}, noHouse()
	} else if err != nil {
		return keep.Actor{}, store.House{}, err
	}
	return keep.Actor{Account: who.Account.ID, Name: who.Account.Name, House: keep.HouseOf(m.House), Role: who.least(keep.Role(m.Role))},
		m.House, nil
}

// Operator is who runs the program's command line: a keeper of any house that exists.
func (r *Rules) Operator(ctx context.Context, house string) (keep.Actor, error) {
	h, err := r.DB.With(ctx).HouseByName(house)
	if errors.Is(err, store.ErrNotFound) {
		return keep.Actor{}, &keep.Error{Kind: keep.NotFound, Message: fmt.Sprintf("There is no house named %q.", house)}
	}
	return keep.Actor{Name: "Command line", House: keep.HouseOf(h), Role: keep.RoleKeeper}, err
}
