package accounts

import (
	"context"
	"crypto/sha256"
	"encoding/hex"
	"encoding/json"
	"errors"
	"fmt"
	"log/slog"
	"net/netip"
	"net/url"
	"time"

	"github.com/go-webauthn/webauthn/protocol"
	"github.com/go-webauthn/webauthn/webauthn"

	"huekeep/keep"
	"huekeep/store"
)

// Passkeys (Web Authentication, level 3): as a second factor beside the password, and alone, where the device then asks who it is.

const (
	viaPasskey   = "passkey"           // alone
	viaBoth      = "password, passkey" // as a second factor
	ceremonyLife = 5 * time.Minute
	mostPasskeys = 20
)

// strong says whether a session was opened with more than a password.
func strong(u store.User, via string) bool {
	return u.Totp != "" || via == viaProvider || via == viaPasskey || via == viaBoth
}

// relying is this program as passkeys know it: by the name in its address. An address of numbers has none, but for this machine's own.
func (r *Rules) relying() (*webauthn.WebAuthn, error) {
	at, err := url.Parse(r.Send.Address)
	if err != nil || at.Hostname() == "" {
		return nil, keep.Clash("", "this server does not know its own address (HUEKEEP_URL), so that no passkey can belong to it")
	}
	name, origins := at.Hostname(), []string{at.Scheme + "://" + at.Host}
	if ip, err := netip.ParseAddr(name); err == nil {
		if !ip.IsLoopback() {
			return nil, keep.Clash("", "passkeys belong to a name, and this server is reached at a number (HUEKEEP_URL)")
		}
		name = "localhost"
		origins = []string{at.Scheme + "://localhost:" + at.Port()}
	}
	return webauthn.New(&webauthn.Config{RPID: name, RPDisplayName: "Hue Keep", RPOrigins: origins})
}

// holder is somebody as the package for passkeys asks for them.
type holder struct {
	user store.User
	keys []store.Passkey
}

// handle is what a device keeps of whose passkey it is.
func handle(user int64) []byte {
	sum := sha256.Sum256(fmt.Appendf(nil, "huekeep passkey %d", user))
	return sum[:]
}

func (h holder) WebAuthnID() []byte          { return handle(h.user.ID) }
func (h holder) WebAuthnName() string        { return h.user.Email }
func (h holder) WebAuthnDisplayName() string { return h.user.Name }
func (h holder) WebAuthnCredentials() (out []webauthn.Credential) {
	for _, k := range h.keys {
		var c webauthn.Credential
		if json.Unmarshal([]byte(k.Credential), &c) == nil {
			out = append(out, c)
		}
	}
	return out
}

// Ceremony is the first half of using a passkey: what the browser is asked, and what the second half names.
type Ceremony struct {
	ID      string
	Options any // JSON, for the browser
}

// between is what is kept between the two halves.
type between struct {
	User    int64 // whose passkey is made; 0 where somebody signs in
	Session webauthn.SessionData
}

func (r *Rules) ceremony(ctx context.Context, of between, options any) (Ceremony, error) {
	text, err := json.Marshal(of)
	if err != nil {
		return Ceremony{}, err
	}
	c := Ceremony{keep.Random(), options}
	return c, r.DB.With(ctx).Add(&store.Ceremony{IDHash: keep.Digest(c.ID), Data: string(text), ExpiresAt: r.Now().Add(ceremonyLife)})
}

func (r *Rules) taken(ctx context.Context, id string, user int64) (of between, err error) {
	late := &keep.Error{Kind: keep.Invalid, Field: "ceremony", Message: "This took too long, or was tried before. Begin again."}
	row, err := r.DB.With(ctx).TakeCeremony(keep.Digest(id), r.Now())
	if errors.Is(err, store.ErrNotFound) {
		return of, late
	} else if err != nil {
		return of, err
	}
	if err := json.Unmarshal([]byte(row.Data), &of); err != nil {
		return of, err
	}
	if of.User != user {
		return of, late
	}
	return of, nil
}

// BeginPasskey begins to make a passkey for somebody, who shows their password.
func (r *Rules) BeginPasskey(ctx context.Context, s SignedIn, password string) (Ceremony, error) {
	u, err := r.prove(ctx, s, password)
	if err != nil {
		return Ceremony{}, err
	}
	keys, err := r.DB.With(ctx).Passkeys(u.ID)
	if err != nil {
		return Ceremony{}, err
	}
	if len(keys) >= mostPasskeys {
		return Ceremony{}, keep.Clash("", "you have %d passkeys; take one away first", len(keys))
	}
	w, err := r.relying()
	if err != nil {
		return Ceremony{}, err
	}
	h := holder{u, keys}
	var known []protocol.CredentialDescriptor
	for _, c := range h.WebAuthnCredentials() {
		known = append(known, c.Descriptor())
	}
	options, session, err := w.BeginRegistration(h, webauthn.WithExclusions(known),
		webauthn.WithResidentKeyRequirement(protocol.ResidentKeyRequirementRequired),
		webauthn.WithAuthenticatorSelection(protocol.AuthenticatorSelection{ResidentKey: protocol.ResidentKeyRequirementRequired,
			RequireResidentKey: protocol.ResidentKeyRequired(), UserVerification: protocol.VerificationRequired}))
	if err != nil {
		return Ceremony{}, err
	}
	return r.ceremony(ctx, between{u.ID, *session}, options)
}

// AddPasskey takes the passkey that a device made. With the first second factor of an account come recovery codes.
func (r *Rules) AddPasskey(ctx context.Context, s SignedIn, ceremony, name string, response []byte) (codes []string, err error) {
	name, err = keep.Name("name", name)
	if err != nil {
		return nil, err
	}
	of, err := r.taken(ctx, ceremony, s.Account.ID)
	if err != nil {
		return nil, err
	}
	w, err := r.relying()
	if err != nil {
		return nil, err
	}
	parsed, err := protocol.ParseCredentialCreationResponseBytes(response)
	if err != nil {
		return nil, unfit(err)
	}
	u, err := r.DB.With(ctx).User(s.Account.ID)
	if err != nil {
		return nil, err
	}
	made, err := w.CreateCredential(holder{user: u}, of.Session, parsed)
	if err != nil {
		return nil, unfit(err)
	}
	text, err := json.Marshal(made)
	if err != nil {
		return nil, err
	}
	err = keep.Taken(r.changeOwn(ctx, s, "made a passkey", func(tx *store.DB, u *store.User) error {
		codes = nil
		if n, err := tx.RecoveryCodes(u.ID); err != nil {
			return err
		} else if n == 0 {
			if codes, err = newCodes(tx, u.ID); err != nil {
				return err
			}
		}
		return errors.Join(tx.Add(&store.Passkey{UserID: u.ID, CredentialHash: credentialHash(made.ID), Credential: string(text),
			Name: name, CreatedAt: r.Now()}),
			tx.SessionVia(keep.Digest(s.Token), viaBoth), tx.EndSessions(u.ID, keep.Digest(s.Token)))
	}), "", "this passkey belongs to an account already")
	if err != nil {
		return nil, err
	}
	r.letter(ctx, u.Email, "A passkey was made",
		fmt.Sprintf("The passkey %q opens your account since %s, from %s. If it was not you, change your password at once:", name,
			when(r.Now()), place(ctx)), r.Send.Address+"/forgotten")
	return codes, nil
}

// newCodes makes recovery codes in place of those that there were.
func newCodes(tx *store.DB, user int64) (codes []string, err error) {
	if err := tx.ForgetRecoveryCodes(user); err != nil {
		return nil, err
	}
	rows := []store.RecoveryCode{}
	for range recoveryCodes {
		c := recoveryCode()
		codes = append(codes, c)
		rows = append(rows, store.RecoveryCode{UserID: user, CodeHash: keep.Digest(plainCode(c))})
	}
	return codes, tx.Add(&rows)
}

func credentialHash(id []byte) string {
	sum := sha256.Sum256(id)
	return hex.EncodeToString(sum[:])
}

// unfit is said of an answer of a device that cannot be used. What the package says of it is for the log.
func unfit(err error) error {
	said := err.Error()
	var detail *protocol.Error
	if errors.As(err, &detail) {
		said = detail.Details + ": " + detail.DevInfo
	}
	slog.Info("a passkey was not taken", "why", said)
	return &keep.Error{Kind: keep.Invalid, Field: "credential",
		Message: "What the device answered cannot be used here. Begin again, or use another passkey."}
}

// DropPasskey takes one of somebody's passkeys away, who shows their password.
func (r *Rules) DropPasskey(ctx context.Context, s SignedIn, id int64, password string) error {
	if _, err := r.prove(ctx, s, password); err != nil {
		return err
	}
	return r.changeOwn(ctx, s, "took a passkey away", func(tx *store.DB, u *store.User) error {
		if err := tx.DropPasskey(u.ID, max(1, id)); err != nil {
			return keep.Missing(err, "passkey")
		}
		left, err := tx.Passkeys(u.ID)
		if err != nil || len(left) > 0 || u.Totp != "" {
			return err
		}
		return errors.Join(tx.ForgetRecoveryCodes(u.ID), tx.SessionVia(keep.Digest(s.Token), "password"))
	})
}

// BeginPasskeySignIn begins to sign somebody in with a passkey, whoever it is: the device says so.
func (r *Rules) BeginPasskeySignIn(ctx context.Context) (Ceremony, error) {
	w, err := r.relying()
	if err != nil {
		return Ceremony{}, err
	}
	options, session, err := w.BeginDiscoverableLogin(webauthn.WithUserVerification(protocol.VerificationRequired))
	if err != nil {
		return Ceremony{}, err
	}
	return r.ceremony(ctx, between{0, *session}, options)
}

// Shown is what a device answered to a ceremony.
type Shown struct {
	Ceremony string
	Response []byte // JSON, of the browser
}

// PasskeySignIn opens a session for whose passkey a device has shown.
func (r *Rules) PasskeySignIn(ctx context.Context, shown Shown) (SignedIn, error) {
	u, err := r.shown(ctx, shown)
	if err != nil {
		return SignedIn{}, err
	}
	return r.open(ctx, u, viaPasskey, false)
}

// shown finds whose passkey a device has shown.
func (r *Rules) shown(ctx context.Context, in Shown) (u store.User, err error) {
	of, err := r.taken(ctx, in.Ceremony, 0)
	if err != nil {
		return u, err
	}
	w, err := r.relying()
	if err != nil {
		return u, err
	}
	parsed, err := protocol.ParseCredentialRequestResponseBytes(in.Response)
	if err != nil {
		return u, unfit(err)
	}
	unknown := &keep.Error{Kind: keep.Unauthorized, Field: "credential",
		Message: "This passkey opens nothing here. Perhaps it was taken away, or belongs to another server."}
	err = r.DB.In(ctx, func(tx *store.DB) error {
		row, err := tx.PasskeyByHash(credentialHash(parsed.RawID))
		if errors.Is(err, store.ErrNotFound) {
			return unknown
		} else if err != nil {
			return err
		}
		if u, err = tx.User(row.UserID); err != nil {
			return err
		}
		used, err := w.ValidateDiscoverableLogin(func(_, of []byte) (webauthn.User, error) {
			if string(of) != string(handle(u.ID)) {
				return nil, unknown
			}
			return holder{u, []store.Passkey{row}}, nil
		}, of.Session, parsed)
		if err != nil {
			return unfit(err)
		}
		if used.Authenticator.CloneWarning {
			return &keep.Error{Kind: keep.Unauthorized, Field: "credential",
				Message: "This passkey was copied: its counter has gone back. Take it away under your name, and make another one."}
		}
		text, err := json.Marshal(used)
		if err != nil {
			return err
		}
		now := r.Now()
		row.Credential, row.UsedAt = string(text), &now
		return tx.Save(&row)
	})
	return u, err
}
