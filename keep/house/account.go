package house

import (
	"bytes"
	"context"
	"crypto/rand"
	"encoding/base32"
	"errors"
	"fmt"
	"image/png"
	"net/mail"
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
}

// Own reads somebody's account.
func (r *Rules) Own(ctx context.Context, s SignedIn) (Own, error) {
	db := r.DB.With(ctx)
	u, err := db.User(s.Account.ID)
	if err != nil {
		return Own{}, err
	}
	out := Own{Account: account(u), SecondFactor: u.Totp != "", Password: u.PasswordHash != "", Provider: u.Subject != nil}
	codes, err := db.RecoveryCodes(u.ID)
	if err != nil {
		return out, err
	}
	out.Codes = int(codes)
	if out.Sessions, err = db.Sessions(u.ID, r.Now()); err != nil {
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
	who := []trying{{keep.Digest(fmt.Sprint("proof ", u.ID)), triesOfAccount}}
	if err := r.slowDown(db, who); err != nil {
		return u, err
	}
	right, err := keep.SecretFits(ctx, password, u.PasswordHash)
	if err != nil {
		return u, err
	}
	if !right {
		return u, keep.Wrong("password", "the password is wrong")
	}
	return u, db.ForgetTries(who[0].who)
}

// changeOwn changes an account and puts it on the trail.
func (r *Rules) changeOwn(ctx context.Context, s SignedIn, what string, f func(tx *store.DB, u *store.User) error) error {
	return r.DB.In(ctx, func(tx *store.DB) error {
		u, err := tx.UserToChange(s.Account.ID)
		if err != nil {
			return err
		}
		was := account(u)
		if err := f(tx, &u); err != nil {
			return err
		}
		if err := tx.Save(&u); err != nil {
			return err
		}
		d := keep.Did{Account: u.ID, Name: was.Name, What: what, About: was.Name, Outcome: 200}
		if now := account(u); now != was {
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

// ChangePassword changes somebody's own password and ends their other sessions.
func (r *Rules) ChangePassword(ctx context.Context, s SignedIn, old, password string) error {
	u, err := r.prove(ctx, s, old)
	if err != nil {
		var wrong *keep.Error
		if errors.As(err, &wrong) && wrong.Field == "password" {
			wrong.Field = "old"
		}
		return err
	}
	hash, err := r.hashOf(ctx, u, password)
	if err != nil {
		return err
	}
	err = r.changeOwn(ctx, s, "changed their password", func(tx *store.DB, u *store.User) error {
		u.PasswordHash = hash
		return errors.Join(tx.EndSessions(u.ID, keep.Digest(s.Token)), tx.DropTickets(u.ID, string(ResetTicket)))
	})
	if err == nil {
		r.letter(ctx, u.Email, "Your password was changed", fmt.Sprintf("The password of your account was changed on %s, from %s. Your other sessions have ended.\n\nIf it was not you, ask for a new password at once:", when(r.Now()), place(ctx)), r.Send.Address+"/forgotten")
	}
	return err
}

func when(t time.Time) string { return t.Format("January 2, 2006, 15:04") + " UTC" }

func place(ctx context.Context) string {
	f := keep.FromOf(ctx)
	if f.Address == "" {
		return "the command line"
	}
	return strings.TrimSpace(f.Address + ", " + f.Agent)
}

// ChangeAddress changes somebody's own address: at once where no mail can be sent, else when the link was followed that is mailed to the new
// one. The old one is told.
func (r *Rules) ChangeAddress(ctx context.Context, s SignedIn, email, password string) (mailed bool, err error) {
	email, err = address(email)
	if err != nil {
		return false, err
	}
	u, err := r.prove(ctx, s, password)
	if err != nil {
		return false, err
	}
	if other, err := r.DB.With(ctx).UserByEmail(email); err == nil && other.ID != u.ID {
		return false, keep.Taken(store.ErrDuplicate, "email", "there is an account for %s already", email)
	}
	if r.Send.Mailer == nil {
		return false, r.readdress(ctx, s, email)
	}
	token, err := r.ticket(ctx, r.DB, store.Ticket{Kind: string(AddressTicket), UserID: &u.ID, Email: email, ByUser: &u.ID, ByName: u.Name}, resetLife)
	if err != nil {
		return false, err
	}
	if err := r.mailNow(ctx, email, "Your new address", fmt.Sprintf("Somebody, surely you, wants to sign in to Hue Keep as %s from now on. Follow the link within an hour to make it so:", email), r.ticketPath(token)); err != nil {
		return false, err
	}
	r.letter(ctx, u.Email, "Your address is to be changed", fmt.Sprintf("Your account is to have the address %s instead of this one, since %s, from %s. If it was not you, change your password at once:", email, when(r.Now()), place(ctx)), r.Send.Address+"/forgotten")
	return true, nil
}

func (r *Rules) readdress(ctx context.Context, s SignedIn, email string) error {
	return keep.Taken(r.changeOwn(ctx, s, "changed their address", func(tx *store.DB, u *store.User) error {
		u.Email = email
		return tx.DropTickets(u.ID, string(ResetTicket))
	}), "email", "there is an account for %s already", email)
}

// address checks an e-mail address.
func address(email string) (string, error) {
	email = strings.ToLower(strings.TrimSpace(email))
	if a, err := mail.ParseAddress(email); err != nil || a.Address != email || len(email) > limits.EmailBytes {
		return "", keep.Wrong("email", "%q is not an e-mail address", keep.Short(email, 80))
	}
	return email, nil
}

// EndSession ends one of somebody's own sessions, or for 0 all but the one that asks for it, with the access tokens and the browsers that are
// known.
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
		u.TotpNew = key.Secret()
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
		step, ok := fits(u.TotpNew, code, 0, r.Now())
		if !ok {
			return keep.Wrong("code", "this code does not fit. Is the clock of the device right?")
		}
		u.Totp, u.TotpNew, u.TotpStep = u.TotpNew, "", step
		if err := tx.ForgetRecoveryCodes(u.ID); err != nil {
			return err
		}
		codes = codes[:0]
		rows := []store.RecoveryCode{}
		for range recoveryCodes {
			c := recoveryCode()
			codes = append(codes, c)
			rows = append(rows, store.RecoveryCode{UserID: u.ID, CodeHash: keep.Digest(plainCode(c))})
		}
		return errors.Join(tx.Add(&rows), tx.EndSessions(u.ID, keep.Digest(s.Token)))
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
		return tx.ForgetRecoveryCodes(u.ID)
	})
}

// secondFactor checks a code, or a recovery code. Each is good once.
func (r *Rules) secondFactor(ctx context.Context, user int64, code string) error {
	wrong := &keep.Error{Kind: keep.Unauthorized, Code: CodeSecondFactor, Field: "code", Message: "This code does not fit, or was used already."}
	return r.DB.In(ctx, func(tx *store.DB) error {
		u, err := tx.UserToChange(user)
		if err != nil {
			return err
		}
		if step, ok := fits(u.Totp, code, u.TotpStep, r.Now()); ok {
			u.TotpStep = step
			return tx.Save(&u)
		}
		if err := tx.UseRecoveryCode(user, keep.Digest(plainCode(code))); errors.Is(err, store.ErrNotFound) {
			return wrong
		} else if err != nil {
			return err
		}
		return nil
	})
}

// fits says whether a code is one of the secret's at a time, a period before or after, and later than the last step taken.
func fits(secret, code string, last int64, now time.Time) (step int64, ok bool) {
	code = strings.ReplaceAll(strings.TrimSpace(code), " ", "")
	for _, off := range []int64{0, -1, 1} {
		step := now.Unix()/codePeriod + off
		if step <= last {
			continue
		}
		if ok, err := hotp.ValidateCustom(code, uint64(step), secret, hotp.ValidateOpts{Digits: otp.DigitsSix, Algorithm: otp.AlgorithmSHA1}); err == nil && ok {
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

// AddToken makes an access token, which is shown once.
func (r *Rules) AddToken(ctx context.Context, s SignedIn, name string, role keep.Role, days int) (string, error) {
	name, err := keep.Name("name", name)
	if err != nil {
		return "", err
	}
	if !role.Reaches(keep.RoleReader) {
		return "", keep.Wrong("role", "the role %q is none of keeper, contributor, reader", role)
	}
	if days < 1 || days > longestToken {
		return "", keep.Wrong("days", "an access token is good for 1 to %d days", longestToken)
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
		return tx.Add(&store.AccessToken{UserID: u.ID, Name: name, TokenHash: keep.Digest(token), Role: string(role), CreatedAt: now, ExpiresAt: now.AddDate(0, 0, days)})
	})
}

// DropToken takes an access token away.
func (r *Rules) DropToken(ctx context.Context, s SignedIn, id int64) error {
	return r.changeOwn(ctx, s, "took an access token away", func(tx *store.DB, u *store.User) error {
		return keep.Missing(tx.DropAccessToken(u.ID, id), "access token")
	})
}
