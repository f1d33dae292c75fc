package accounts

import (
	"bytes"
	"context"
	"crypto/rand"
	"encoding/base32"
	"errors"
	"fmt"
	"image/png"
	"log/slog"
	"net/mail"
	"slices"
	"strings"
	"time"

	"github.com/pquerna/otp"
	"github.com/pquerna/otp/hotp"
	"github.com/pquerna/otp/totp"

	"huekeep/core/limits"
	"huekeep/keep"
	"huekeep/store"
)

// Own is what somebody sees of their own account.
type Own struct {
	Account
	SecondFactor bool
	Codes        int  // recovery codes that are left
	Password     bool // there is one; without, only the sign-in provider lets them in
	Provider     bool // the sign-in provider knows them
	Sessions     []store.Session
	Tokens       []store.AccessToken
	Passkeys     []store.Passkey
}

// Own reads somebody's account.
func (r *Rules) Own(ctx context.Context, s SignedIn) (Own, error) {
	db := r.DB.With(ctx)
	u, err := db.User(s.Account.ID)
	if err != nil {
		return Own{}, err
	}
	out := Own{Account: Of(u), SecondFactor: u.Totp != "", Password: u.PasswordHash != "", Provider: u.Subject != nil}
	codes, err := db.RecoveryCodes(u.ID)
	if err != nil {
		return out, err
	}
	out.Codes = int(codes)
	if out.Sessions, err = db.Sessions(u.ID, r.Now()); err != nil {
		return out, err
	}
	if out.Passkeys, err = db.Passkeys(u.ID); err != nil {
		return out, err
	}
	out.Tokens, err = db.AccessTokens(u.ID)
	return out, err
}

// prove asks for the password again before something that takes an account over; whoever has none proves it with the second factor, or
// needs not.
func (r *Rules) prove(ctx context.Context, s SignedIn, password string) (store.User, error) {
	db := r.DB.With(ctx)
	u, err := db.User(s.Account.ID)
	if err != nil || u.PasswordHash == "" {
		return u, err
	}
	if len(password) > limits.PasswordBytes {
		password = ""
	}
	t, err := r.beginTry(ctx, ofProofs(u.ID))
	if err != nil {
		return u, err
	}
	right, err := keep.SecretFits(keep.WithPrecedence(ctx, true), password, u.PasswordHash)
	if err := errors.Join(err, t.end(ctx, err == nil && !right)); err != nil {
		return u, err
	}
	if !right {
		return u, keep.Wrong("password", "the password is wrong")
	}
	return u, nil
}

// changeOwn changes an account and puts it on the trail.
func (r *Rules) changeOwn(ctx context.Context, s SignedIn, what string, f func(tx *store.DB, u *store.User) error) error {
	return r.changeOwnIn(ctx, r.DB, s, what, f)
}

// changeOwnIn is changeOwn in a transaction, if one is running.
func (r *Rules) changeOwnIn(ctx context.Context, db *store.DB, s SignedIn, what string, f func(tx *store.DB, u *store.User) error) error {
	return db.In(ctx, func(tx *store.DB) error {
		u, err := tx.UserToChange(s.Account.ID)
		if err != nil {
			return err
		}
		was := Of(u)
		if err := f(tx, &u); err != nil {
			return err
		}
		if err := tx.Save(&u); err != nil {
			return err
		}
		d := keep.Did{Account: u.ID, Name: was.Name, What: what, About: was.Name, Outcome: 200}
		if now := Of(u); now != was {
			d.Before, d.After = was, now
		}
		_, err = keep.Trail(ctx, tx, d, r.Now)
		return err
	})
}

// Rename changes somebody's own name; what they did keeps the name that they had.
func (r *Rules) Rename(ctx context.Context, s SignedIn, name string) error {
	name, err := keep.Name("name", name)
	if err != nil {
		return err
	}
	return r.changeOwn(ctx, s, "changed their name", func(_ *store.DB, u *store.User) error { u.Name = name; return nil })
}

// ChangePassword changes somebody's own password and ends what the old one opened: their other sessions, their access tokens, the browsers
// that are known and the links that wait. The device is what tells their browser from now on.
func (r *Rules) ChangePassword(ctx context.Context, s SignedIn, old, password string) (device string, err error) {
	u, err := r.prove(ctx, s, old)
	if err != nil {
		var wrong *keep.Error
		if errors.As(err, &wrong) && wrong.Field == "password" {
			wrong.Field = "old"
		}
		return "", err
	}
	hash, err := r.hashOf(ctx, u, password)
	if err != nil {
		return "", err
	}
	device = keep.Random()
	err = r.changeOwn(ctx, s, "changed their password", func(tx *store.DB, u *store.User) error {
		u.PasswordHash = hash
		return errors.Join(tx.EndSessions(u.ID, keep.Digest(s.Token)), tx.DropAccessTokens(u.ID), tx.ForgetDevices(u.ID),
			tx.DropTickets(u.ID),
			tx.ForgetTries(ofStrangers(u.Email).Who, ofFamiliar(u.Email).Who),
			tx.Add(&store.Device{TokenHash: keep.Digest(device), UserID: u.ID, SeenAt: r.Now()}))
	})
	if err == nil {
		r.letter(ctx, u.Email, "Your password was changed",
			fmt.Sprintf("The password of your account was changed on %s, from %s. Your other sessions and your access tokens have ended.\n\nIf it was not you, ask for a new password at once:", when(r.Now()), place(ctx)), r.Send.Address+"/forgotten")
	}
	return device, err
}

func when(t time.Time) string { return t.Format("January 2, 2006, 15:04") + " UTC" }

func place(ctx context.Context) string {
	f := keep.FromOf(ctx)
	if f.Address == "" {
		return "the command line"
	}
	return strings.TrimSpace(f.Address + ", " + f.Agent)
}

// ChangeAddress changes somebody's own address: at once where no mail can be sent, else when the link was followed that is mailed to the
// new one. The old one is told.
func (r *Rules) ChangeAddress(ctx context.Context, s SignedIn, email, password string) (mailed bool, err error) {
	email, err = Address(email)
	if err != nil {
		return false, err
	}
	u, err := r.prove(ctx, s, password)
	if err != nil {
		return false, err
	}
	if r.Send.Mailer == nil {
		return false, r.readdress(ctx, r.DB, s, email, nil)
	}
	if other, err := r.DB.With(ctx).UserByEmail(email); err == nil && other.ID != u.ID {
		// The answer is the same: who has an account here is nobody's to ask. The one who has it is told.
		r.letter(ctx, email, "Your address is in use here",
			fmt.Sprintf("Somebody with another account wanted to sign in to Hue Keep with this address on %s. There is your account for it already, so nothing was changed.", when(r.Now())), r.Send.Address+"/")
		return true, nil
	} else if err != nil && !errors.Is(err, store.ErrNotFound) {
		return false, err
	}
	token, err := r.ticket(ctx, r.DB, store.Ticket{Kind: string(AddressTicket), Mailed: true, UserID: &u.ID, Email: email, ByUser: &u.ID,
		ByName: u.Name}, resetLife)
	if err != nil {
		return false, err
	}
	if err := r.MailNow(ctx, email, "Your new address",
		fmt.Sprintf("Somebody, surely you, wants to sign in to Hue Keep as %s from now on. Follow the link within an hour to make it so:",
			email), r.TicketPath(token)); err != nil {
		return false, err
	}
	r.letter(ctx, u.Email, "Your address is to be changed",
		fmt.Sprintf("Your account is to have the address %s instead of this one, since %s, from %s. If it was not you, change your password at once:", email, when(r.Now()), place(ctx)), r.Send.Address+"/forgotten")
	return true, nil
}

// readdress gives an account another address; proved says when its mailbox was, nil if it was not. All links of the account end with the
// old one.
func (r *Rules) readdress(ctx context.Context, db *store.DB, s SignedIn, email string, proved *time.Time) error {
	return keep.Taken(r.changeOwnIn(ctx, db, s, "changed their address", func(tx *store.DB, u *store.User) error {
		u.Email, u.ProvedAt = email, proved
		return tx.DropTickets(u.ID)
	}), "email", "there is an account for %s already", email)
}

// address checks an e-mail address.
func Address(email string) (string, error) {
	email = strings.ToLower(strings.TrimSpace(email))
	if a, err := mail.ParseAddress(email); err != nil || a.Address != email || len(email) > limits.EmailBytes {
		return "", keep.Wrong("email", "%q is not an e-mail address", keep.Short(email, 80))
	}
	return email, nil
}

// EndSession ends one of somebody's own sessions, or for 0 all but the one that asks for it, with the access tokens and the browsers that
// are known.
func (r *Rules) EndSession(ctx context.Context, s SignedIn, id int64) error {
	db := r.DB.With(ctx)
	if id > 0 {
		return keep.Missing(db.EndSessionOf(s.Account.ID, id), "session")
	}
	return r.changeOwn(ctx, s, "ended their other sessions", func(tx *store.DB, u *store.User) error {
		return errors.Join(tx.EndSessions(u.ID, keep.Digest(s.Token)), tx.DropAccessTokens(u.ID), tx.ForgetDevices(u.ID))
	})
}

// Second factors: one-time codes of time (RFC 6238).

const (
	codePeriod    = 30
	recoveryCodes = 10
)

// BeginSecondFactor makes a secret for somebody; it counts once it was confirmed with a code. The picture is a QR code, PNG, of the address
// that apps take.
func (r *Rules) BeginSecondFactor(ctx context.Context, s SignedIn, password string) (secret string, picture []byte, err error) {
	u, err := r.prove(ctx, s, password)
	if err != nil {
		return "", nil, err
	}
	key, err := totp.Generate(totp.GenerateOpts{Issuer: "Hue Keep", AccountName: u.Email, Period: codePeriod})
	if err != nil {
		return "", nil, err
	}
	img, err := key.Image(240, 240)
	if err != nil {
		return "", nil, err
	}
	var b bytes.Buffer
	if err := png.Encode(&b, img); err != nil {
		return "", nil, err
	}
	err = r.DB.In(ctx, func(tx *store.DB) error {
		u, err := tx.UserToChange(u.ID)
		if err != nil {
			return err
		}
		u.TotpNew = r.Keys.Encrypt(key.Secret(), totpPlace(u.ID))
		return tx.Save(&u)
	})
	return key.Secret(), b.Bytes(), err
}

// ConfirmSecondFactor takes the secret that was begun, if a code of it fits, and gives the recovery codes, which are shown once.
func (r *Rules) ConfirmSecondFactor(ctx context.Context, s SignedIn, code string) (codes []string, err error) {
	err = r.changeOwn(ctx, s, "set up a second factor", func(tx *store.DB, u *store.User) error {
		if u.TotpNew == "" {
			return keep.Clash("code", "no second factor was begun")
		}
		secret, err := r.Keys.Decrypt(u.TotpNew, totpPlace(u.ID))
		if err != nil {
			return noKey(err)
		}
		step, ok := fits(secret, code, 0, r.Now())
		if !ok {
			return keep.Wrong("code", "this code does not fit. Is the clock of the device right?")
		}
		u.Totp, u.TotpNew, u.TotpStep = u.TotpNew, "", step
		if codes, err = newCodes(tx, u.ID); err != nil {
			return err
		}
		return tx.EndSessions(u.ID, keep.Digest(s.Token))
	})
	return codes, err
}

// EndSecondFactor takes somebody's second factor away.
func (r *Rules) EndSecondFactor(ctx context.Context, s SignedIn, password string) error {
	if _, err := r.prove(ctx, s, password); err != nil {
		return err
	}
	return r.changeOwn(ctx, s, "gave up their second factor", func(tx *store.DB, u *store.User) error {
		u.Totp, u.TotpNew, u.TotpStep = "", "", 0
		keys, err := tx.Passkeys(u.ID)
		if err != nil || len(keys) > 0 { // which the recovery codes are for, too
			return err
		}
		return tx.ForgetRecoveryCodes(u.ID)
	})
}

// secondFactor checks a code, or a recovery code. Each is good once.
func (r *Rules) secondFactor(ctx context.Context, user int64, code string) error {
	wrong := &keep.Error{Kind: keep.Unauthorized, Code: CodeSecondFactor, Field: "code",
		Message: "This code does not fit, or was used already."}
	return r.DB.In(ctx, func(tx *store.DB) error {
		u, err := tx.UserToChange(user)
		if err != nil {
			return err
		}
		if u.Totp != "" {
			secret, err := r.Keys.Decrypt(u.Totp, totpPlace(u.ID))
			if err != nil {
				return noKey(err)
			}
			if step, ok := fits(secret, code, u.TotpStep, r.Now()); ok {
				u.TotpStep = step
				return tx.Save(&u)
			}
		}
		if err := tx.UseRecoveryCode(user, keep.Digest(plainCode(code))); errors.Is(err, store.ErrNotFound) {
			return wrong
		} else if err != nil {
			return err
		}
		return nil
	})
}

// totpPlace is where a secret of a second factor belongs.
func totpPlace(user int64) string { return fmt.Sprint("totp ", user) }

// noKey is said where a secret cannot be read.
func noKey(err error) error {
	slog.Error("the secret of a second factor cannot be read", "error", err)
	return keep.Clash("code", "this server cannot check codes at the moment, since a key of its own is missing; whoever runs it sees how to mend that with: huekeep doctor")
}

// EncryptSecrets encrypts the secrets of second factors that are not, or with a key from before. It says how many.
func (r *Rules) EncryptSecrets(ctx context.Context) (n int, err error) {
	users, err := r.DB.With(ctx).Secrets()
	if err != nil {
		return 0, err
	}
	for _, u := range users {
		if r.Keys.Current(u.Totp) && r.Keys.Current(u.TotpNew) {
			continue
		}
		err := r.DB.In(ctx, func(tx *store.DB) error {
			u, err := tx.UserToChange(u.ID)
			if err != nil {
				return err
			}
			for _, at := range []*string{&u.Totp, &u.TotpNew} {
				secret, err := r.Keys.Decrypt(*at, totpPlace(u.ID))
				if err != nil {
					return fmt.Errorf("the second factor of account %d: %w", u.ID, err)
				}
				*at = r.Keys.Encrypt(secret, totpPlace(u.ID))
			}
			return tx.Save(&u)
		})
		if err != nil {
			return n, err
		}
		n++
	}
	return n, nil
}

// fits says whether a code is one of the secret's at a time, a period before or after, and later than the last step taken.
func fits(secret, code string, last int64, now time.Time) (step int64, ok bool) {
	code = strings.ReplaceAll(strings.TrimSpace(code), " ", "")
	for _, off := range []int64{0, -1, 1} {
		step := now.Unix()/codePeriod + off
		if step <= last {
			continue
		}
		if ok, err := hotp.ValidateCustom(code, uint64(step), secret,
			hotp.ValidateOpts{Digits: otp.DigitsSix, Algorithm: otp.AlgorithmSHA1}); err == nil && ok {
			return step, true
		}
	}
	return 0, false
}

func recoveryCode() string {
	raw := make([]byte, 10) // 80 bits
	_, _ = rand.Read(raw)   // does not fail
	text := strings.ToLower(base32.StdEncoding.EncodeToString(raw))
	return text[:4] + "-" + text[4:8] + "-" + text[8:12] + "-" + text[12:]
}

func plainCode(code string) string {
	return strings.ToLower(strings.NewReplacer("-", "", " ", "").Replace(code))
}

// Access tokens

// mostTokens is how many access tokens somebody may have, longestToken how many days one is good.
const (
	mostTokens   = 20
	longestToken = 366
)

// tokenPrefix tells the tokens of this program in files where they should not be.
const tokenPrefix = "hk_"

// Token is an access token.
type Token = store.AccessToken

// Purposes are what an access token can be for. Whatever it is, it may no more than its role and than the person may.
const (
	ToRead     = "read"       // look and download
	ToAudit    = "audit"      // and upload, judge and repaint files
	ToSend     = "send"       // and fix editions and send them
	Everything = "everything" // that the person may in the house
)

// Purposes lists them.
var Purposes = []string{ToRead, ToAudit, ToSend, Everything}

// NewToken is an access token that somebody wants.
type NewToken struct {
	Name    string
	House   int64
	Role    keep.Role
	Purpose string
	Days    int
}

// AddToken makes an access token for one house and one purpose, which is shown once.
func (r *Rules) AddToken(ctx context.Context, s SignedIn, in NewToken) (string, error) {
	name, err := keep.Name("name", in.Name)
	if err != nil {
		return "", err
	}
	if !in.Role.Reaches(keep.RoleReader) {
		return "", keep.Wrong("role", "the role %q is none of keeper, contributor, reader", in.Role)
	}
	if !slices.Contains(Purposes, in.Purpose) {
		return "", keep.Wrong("purpose", "the purpose %q is none of %s", keep.Short(in.Purpose, 40), strings.Join(Purposes, ", "))
	}
	if in.Days < 1 || in.Days > longestToken {
		return "", keep.Wrong("days", "an access token is good for 1 to %d days", longestToken)
	}
	if _, err := r.Enter(ctx, s, in.House); err != nil {
		return "", keep.Wrong("house", "you do not belong to such a house, or it does not let you in")
	}
	token := tokenPrefix + keep.Random()
	return token, r.changeOwn(ctx, s, "made an access token", func(tx *store.DB, u *store.User) error {
		have, err := tx.AccessTokens(u.ID)
		if err != nil {
			return err
		}
		if len(have) >= mostTokens {
			return keep.Clash("name", "you have %d access tokens; take one away first", len(have))
		}
		now := r.Now()
		return tx.Add(&store.AccessToken{UserID: u.ID, HouseID: &in.House, Purpose: in.Purpose, Name: name, TokenHash: keep.Digest(token),
			Role: string(in.Role), CreatedAt: now, ExpiresAt: now.AddDate(0, 0, in.Days)})
	})
}

// HouseTokens lists the access tokens of a house's people, for its keepers.
func (r *Rules) HouseTokens(ctx context.Context, a keep.Actor) ([]store.TokenRow, error) {
	if err := a.May(keep.RoleKeeper); err != nil {
		return nil, err
	}
	return r.DB.With(ctx).HouseTokens(a.House.ID, r.Now())
}

// EndHouseToken takes an access token of the house away, whosever it is.
func (r *Rules) EndHouseToken(ctx context.Context, a keep.Actor, id int64) error {
	if err := a.May(keep.RoleKeeper); err != nil {
		return err
	}
	return r.Change(ctx, a, func(tx *store.DB) error { return keep.Missing(tx.DropHouseToken(a.House.ID, id), "access token") })
}

// DropToken takes an access token away.
func (r *Rules) DropToken(ctx context.Context, s SignedIn, id int64) error {
	return r.changeOwn(ctx, s, "took an access token away", func(tx *store.DB, u *store.User) error {
		return keep.Missing(tx.DropAccessToken(u.ID, id), "access token")
	})
}

// AddAccount makes an account; the caller decides who may do that.
func (r *Rules) AddAccount(ctx context.Context, tx *store.DB, email, fullName, password, house string) (store.User, error) {
	u, err := r.newAccount(ctx, email, fullName, password, house)
	if err != nil {
		return store.User{}, err
	}
	return u, keep.Taken(tx.Add(&u), "email", "there is an account for %s already", u.Email)
}

// newAccount is an account that is not kept yet.
func (r *Rules) newAccount(ctx context.Context, email, fullName, password, house string) (store.User, error) {
	email, err := Address(email)
	if err != nil {
		return store.User{}, err
	}
	if fullName, err = keep.Name("name", fullName); err != nil {
		return store.User{}, err
	}
	hash, err := r.hash(ctx, password, email, fullName, house)
	return store.User{Email: email, Name: fullName, PasswordHash: hash, CreatedAt: r.Now()}, err
}

// Founded makes whoever made a house its keeper.
func (r *Rules) Founded(ctx context.Context, tx *store.DB, house int64, name string, by Account) error {
	if err := tx.Add(&store.Member{UserID: by.ID, HouseID: house, Role: string(keep.RoleKeeper)}); err != nil {
		return err
	}
	_, err := keep.Trail(ctx, tx, keep.Did{House: house, Account: by.ID, Name: by.Name, What: "founded the house", About: name,
		Outcome: 201}, r.Now)
	return err
}
