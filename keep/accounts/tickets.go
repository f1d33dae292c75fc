package accounts

import (
	"context"
	"errors"
	"fmt"
	"html"
	"log/slog"
	"strings"
	"time"

	"huekeep/keep"
	"huekeep/keep/send"
	"huekeep/store"
)

// TicketKind is what a link that is good once is for.
type TicketKind string

const (
	InviteTicket  TicketKind = "invite"
	ResetTicket   TicketKind = "reset"
	AddressTicket TicketKind = "address"
)

const (
	inviteLife = 7 * 24 * time.Hour
	resetLife  = time.Hour
)

// TicketPath is the page that a ticket leads to. The token stands behind the number sign, so that no server's log has it.
func (r *Rules) TicketPath(token string) string { return r.Send.Address + "/welcome#" + token }

// ticket opens one; its token is kept nowhere.
func (r *Rules) ticket(ctx context.Context, db *store.DB, t store.Ticket, life time.Duration) (token string, err error) {
	token = keep.Random()
	t.TokenHash, t.CreatedAt, t.ExpiresAt = keep.Digest(token), r.Now(), r.Now().Add(life)
	return token, db.With(ctx).Add(&t)
}

// OpenInvitation opens a ticket that leads into a house.
func (r *Rules) OpenInvitation(ctx context.Context, db *store.DB, t store.Ticket) (token string, err error) {
	t.Kind = string(InviteTicket)
	return r.ticket(ctx, db, t, inviteLife)
}

// found is a ticket that is still good, by its token.
func (r *Rules) found(db *store.DB, token string) (store.Ticket, error) {
	t, err := db.Ticket(keep.Digest(token), r.Now())
	if errors.Is(err, store.ErrNotFound) {
		return t, &keep.Error{Kind: keep.NotFound, Message: "This link was used already, or its time is over. Ask for a new one."}
	}
	if err == nil && TicketKind(t.Kind) == InviteTicket {
		err = r.invitable(db, t)
	}
	return t, err
}

// invitable says, with a sentence if not, whether who invited somebody may still do so.
func (r *Rules) invitable(db *store.DB, t store.Ticket) error {
	over := &keep.Error{Kind: keep.NotFound,
		Message: fmt.Sprintf("%s, who invited you, may not do so any more. Ask a keeper of the house for a new link.", t.ByName)}
	if t.ByUser == nil || t.HouseID == nil {
		return over
	}
	h, err := db.House(*t.HouseID)
	if err != nil {
		return keep.Missing(err, "house")
	}
	m, err := db.Member(*t.ByUser, *t.HouseID)
	if errors.Is(err, store.ErrNotFound) {
		return over
	} else if err != nil {
		return err
	}
	if role := keep.Role(m.Role); !role.Reaches(keep.Role(t.Role)) || !role.Reaches(keep.Role(h.Inviters)) {
		return over
	}
	return nil
}

// toProve says whether a link was handed on by whoever invited, so that it does not show whose mailbox it is for.
func (r *Rules) toProve(t store.Ticket, known bool) bool {
	return TicketKind(t.Kind) == InviteTicket && !t.Mailed && !known && r.Send.Mailer != nil
}

// CodeMailbox marks the answer to somebody whose mailbox is to be shown first: a link was mailed to it.
const CodeMailbox = "mailbox"

// proveMailbox mails a link of its own for an invitation that came another way.
func (r *Rules) proveMailbox(ctx context.Context, t store.Ticket, house string) error {
	said := &keep.Error{Kind: keep.Conflict, Code: CodeMailbox, Field: "email",
		Message: fmt.Sprintf("A link was mailed to %s. Follow it to go on: it shows that the mailbox is yours.", t.Email)}
	tried, err := r.beginTry(ctx, ofLetters("invited "+t.Email))
	if keep.Explain(err) != nil {
		return said // the last one is in the mailbox
	} else if err != nil {
		return err
	}
	token, err := r.ticket(ctx, r.DB, store.Ticket{Kind: t.Kind, HouseID: t.HouseID, Email: t.Email, Role: t.Role, ByUser: t.ByUser,
		ByName: t.ByName, Mailed: true}, time.Until(t.ExpiresAt))
	if err == nil {
		err = r.MailNow(ctx, t.Email, "Join "+house,
			fmt.Sprintf("Follow this link to join %s, to which %s invited you. If you do not know of it, do nothing.", house, t.ByName),
			r.TicketPath(token))
	}
	if err := errors.Join(err, tried.end(ctx, err == nil)); err != nil {
		return err
	}
	return said
}

// Welcome is what a ticket offers.
type Welcome struct {
	Kind  TicketKind
	Email string
	House string // that it invites to
	Role  keep.Role
	By    string
	Known bool // there is an account for the address
	Prove bool // a link has to be mailed first, which shows whose mailbox it is
}

// Look says what a ticket offers.
func (r *Rules) Look(ctx context.Context, token string) (Welcome, error) {
	db := r.DB.With(ctx)
	t, err := r.found(db, token)
	if err != nil {
		return Welcome{}, err
	}
	w := Welcome{Kind: TicketKind(t.Kind), Email: t.Email, Role: keep.Role(t.Role), By: t.ByName}
	if t.HouseID != nil {
		h, err := db.House(*t.HouseID)
		if err != nil {
			return w, err
		}
		w.House = h.Name
	}
	_, err = db.UserByEmail(t.Email)
	w.Known = err == nil
	w.Prove = r.toProve(t, w.Known)
	if errors.Is(err, store.ErrNotFound) {
		err = nil
	}
	return w, err
}

// Answer is what somebody says to a ticket.
type Answer struct {
	Token    string
	Name     string // of a new account
	Password string
	Code     string   // of the second factor of an account that there is
	As       SignedIn // who is signed in already; the zero value for nobody
}

// Take does what a ticket is for, once: it makes an account and lets it into the house, or lets an account in that shows its password, sets
// a new password, or changes the address. It opens a session where that is enough to sign in.
func (r *Rules) Take(ctx context.Context, in Answer) (SignedIn, error) {
	db := r.DB.With(ctx)
	t, err := r.found(db, in.Token)
	if err != nil {
		return SignedIn{}, err
	}
	switch TicketKind(t.Kind) {
	case InviteTicket:
		return r.accept(ctx, t, in)
	case ResetTicket:
		return r.reset(ctx, t, in)
	default:
		u, err := db.User(*t.UserID)
		if err != nil {
			return SignedIn{}, err
		}
		now := r.Now()
		return SignedIn{}, r.DB.In(ctx, func(tx *store.DB) error {
			if err := tx.TakeTicket(t.ID); err != nil {
				return keep.Missing(err, "ticket")
			}
			return r.readdress(ctx, tx, SignedIn{Account: Of(u)}, t.Email, &now)
		})
	}
}

func (r *Rules) accept(ctx context.Context, t store.Ticket, in Answer) (SignedIn, error) {
	db := r.DB.With(ctx)
	u, err := db.UserByEmail(t.Email)
	known := err == nil
	switch {
	case known: // they show that they are who was invited
		signed := in.As
		if signed.Account.ID != u.ID {
			if signed, err = r.SignIn(ctx, Credentials{Email: t.Email, Password: in.Password, Code: in.Code}); err != nil {
				return SignedIn{}, err
			}
		}
		return signed, r.DB.In(ctx, func(tx *store.DB) error { return r.join(ctx, tx, t, u) })
	case !errors.Is(err, store.ErrNotFound):
		return SignedIn{}, err
	}
	h, err := db.House(*t.HouseID)
	if err != nil {
		return SignedIn{}, err
	}
	if r.toProve(t, false) {
		return SignedIn{}, r.proveMailbox(ctx, t, h.Name)
	}
	name, err := keep.Name("name", in.Name)
	if err != nil {
		return SignedIn{}, err
	}
	hash, err := r.hash(keep.WithPrecedence(ctx, t.Mailed), in.Password, t.Email, name, h.Name)
	if err != nil {
		return SignedIn{}, err
	}
	if err := r.DB.In(ctx, func(tx *store.DB) error {
		u = store.User{Email: t.Email, Name: name, PasswordHash: hash, CreatedAt: r.Now()}
		if t.Mailed {
			u.ProvedAt = &u.CreatedAt
		}
		if err := keep.Taken(tx.Add(&u), "email", "there is an account for %s already", t.Email); err != nil {
			return err
		}
		return r.join(ctx, tx, t, u)
	}); err != nil {
		return SignedIn{}, err
	}
	return r.open(ctx, u, "password", false)
}

// join lets an account into the house of an invitation, and takes the invitation away. Who is in already keeps the greater role.
func (r *Rules) join(ctx context.Context, tx *store.DB, t store.Ticket, u store.User) error {
	if err := tx.LockHouse(*t.HouseID); err != nil { // who is to invite may be about to lose that
		return keep.Missing(err, "house")
	}
	if err := r.invitable(tx, t); err != nil {
		return err
	}
	if err := tx.TakeTicket(t.ID); errors.Is(err, store.ErrNotFound) {
		return &keep.Error{Kind: keep.NotFound, Message: "This link was used already."}
	} else if err != nil {
		return err
	}
	if err := tx.DropInvitationsTo(*t.HouseID, t.Email); err != nil { // those that were mailed beside it
		return err
	}
	before := ""
	m, err := tx.Member(u.ID, *t.HouseID)
	switch {
	case errors.Is(err, store.ErrNotFound):
		m = store.Member{UserID: u.ID, HouseID: *t.HouseID, Role: t.Role}
		err = tx.Add(&m)
	case err == nil && !keep.Role(m.Role).Reaches(keep.Role(t.Role)):
		before, m.Role = m.Role, t.Role
		err = tx.Save(&m)
	}
	if err != nil {
		return err
	}
	_, err = keep.Trail(ctx, tx, keep.Did{House: *t.HouseID, Account: u.ID, Name: u.Name, What: "joined", About: u.Name + ", " + u.Email,
		Before: state("role", before),
		After:  map[string]string{"role": m.Role, "invited by": t.ByName}, Outcome: 200}, r.Now)
	return err
}

func state(name, value string) any {
	if value == "" {
		return nil
	}
	return map[string]string{name: value}
}

func (r *Rules) reset(ctx context.Context, t store.Ticket, in Answer) (SignedIn, error) {
	db := r.DB.With(ctx)
	u, err := db.User(*t.UserID)
	if err != nil {
		return SignedIn{}, err
	}
	hash, err := r.hashOf(keep.WithPrecedence(ctx, true), u, in.Password)
	if err != nil {
		return SignedIn{}, err
	}
	s := SignedIn{Account: Of(u)}
	err = r.changeOwn(ctx, s, "set a new password", func(tx *store.DB, row *store.User) error {
		if err := tx.TakeTicket(t.ID); err != nil {
			return keep.Missing(err, "ticket")
		}
		now := r.Now()
		row.PasswordHash, row.ProvedAt = hash, &now
		u = *row
		return r.begin(tx, u)
	})
	if err != nil {
		return SignedIn{}, err
	}
	r.letter(ctx, u.Email, "Your password was changed", fmt.Sprintf("A new password was set for your account on %s, from %s.",
		when(r.Now()), place(ctx)), r.Send.Address+"/")
	if keys, err := db.Passkeys(u.ID); err != nil || u.Totp != "" || len(keys) > 0 {
		return SignedIn{}, err // the second factor is still to be shown
	}
	return r.open(ctx, u, "password", false)
}

// Forgotten mails a link for a new password, if there is such an account. The answer is the same if there is none, and comes as soon.
func (r *Rules) Forgotten(ctx context.Context, email string) error {
	email, err := Address(email)
	if err != nil {
		return err
	}
	if r.Send.Mailer == nil {
		return keep.Clash("email", "this server sends no mail. Whoever runs it sets a new password with: huekeep account %s --reset", email)
	}
	// Whoever asks: there is always a link in the mailbox that is good, and nobody can use up those of somebody else.
	tried, err := r.beginTry(ctx, ofLetters(email))
	if keep.Explain(err) != nil {
		return nil
	} else if err != nil {
		return err
	}
	background := context.WithoutCancel(ctx)
	r.letters.Go(func() {
		u, err := r.DB.With(background).UserByEmail(email)
		if errors.Is(err, store.ErrNotFound) {
			_ = tried.end(background, true)
			return
		}
		if err == nil {
			var token string
			token, err = r.ticket(background, r.DB, store.Ticket{Kind: string(ResetTicket), Mailed: true, UserID: &u.ID, Email: u.Email,
				ByName: u.Name}, resetLife)
			if err == nil {
				err = r.MailNow(background, u.Email, "A new password",
					fmt.Sprintf("A new password was asked for on %s, from %s. Follow the link within an hour to set one. If you did not ask for it, do nothing: your password stays.", when(r.Now()), place(ctx)), r.TicketPath(token))
			}
		}
		if err := errors.Join(err, tried.end(background, err == nil)); err != nil {
			slog.Error("a link for a new password could not be mailed", "error", err)
		}
	})
	return nil
}

// accountOf finds the account that a command is about.
func (r *Rules) accountOf(ctx context.Context, email string) (store.User, error) {
	u, err := r.DB.With(ctx).UserByEmail(strings.ToLower(strings.TrimSpace(email)))
	if errors.Is(err, store.ErrNotFound) {
		err = &keep.Error{Kind: keep.NotFound, Message: fmt.Sprintf("There is no account for %s.", email)}
	}
	return u, err
}

// SetRuns says from the command line whether an account runs the server.
func (r *Rules) SetRuns(ctx context.Context, email string, runs bool) error {
	u, err := r.accountOf(ctx, email)
	if err != nil {
		return err
	}
	what := "runs the server"
	if !runs {
		what = "runs the server no more"
	}
	return r.changeOwn(ctx, SignedIn{Account: Of(u)}, what, func(_ *store.DB, u *store.User) error { u.Runs = runs; return nil })
}

// Reset sets a password from the command line. The second factor goes with the old one: perhaps it was lost, too.
func (r *Rules) Reset(ctx context.Context, email, password string) error {
	u, err := r.accountOf(ctx, email)
	if err != nil {
		return err
	}
	hash, err := r.hashOf(ctx, u, password)
	if err != nil {
		return err
	}
	return r.changeOwn(ctx, SignedIn{Account: Of(u)}, "was given a new password", func(tx *store.DB, u *store.User) error {
		u.PasswordHash, u.Totp, u.TotpNew, u.TotpStep = hash, "", "", 0
		return errors.Join(tx.ForgetRecoveryCodes(u.ID), tx.DropPasskey(u.ID, 0), r.begin(tx, *u))
	})
}

// begin lets somebody begin anew: whoever knew the old password is out, and nothing that was tried before holds the owner up.
func (r *Rules) begin(tx *store.DB, u store.User) error {
	return errors.Join(tx.EndSessions(u.ID, ""), tx.DropAccessTokens(u.ID), tx.ForgetDevices(u.ID), tx.DropTickets(u.ID),
		tx.ForgetTries(ofStrangers(u.Email).Who, ofFamiliar(u.Email).Who, ofProofs(u.ID).Who))
}

// letterTime is how long a mail may take that somebody waits for.
const letterTime = 15 * time.Second

// MailNow mails a text with a link, and waits for it.
func (r *Rules) MailNow(ctx context.Context, to, subject, text, link string) error {
	if r.Send.Mailer == nil {
		return keep.Clash("email", "this server sends no mail (HUEKEEP_SMTP)")
	}
	ctx, stop := context.WithTimeout(ctx, letterTime)
	defer stop()
	m := send.Message{ID: keep.Random()[:20] + "@huekeep", To: to, Subject: subject, Text: text + "\n\n" + link + "\n",
		HTML: "<p>" + strings.NewReplacer("\n\n", "</p><p>", "\n", "<br>").Replace(html.EscapeString(text)) + "</p><p><a href=\"" +
			html.EscapeString(link) + "\">" + html.EscapeString(link) + "</a></p>"}
	if err := r.Send.Mailer.Mail(ctx, m); err != nil {
		return keep.Clash("email", "the mail to %s could not be sent: %v", to, err)
	}
	return nil
}

// Letter mails what somebody should know with the address of a page of the site, and says whether mail can be sent; nothing waits for it.
func (r *Rules) Letter(ctx context.Context, to, subject, text, page string) bool {
	if r.Send.Mailer == nil {
		return false
	}
	r.letter(ctx, to, subject, text, r.Send.Address+page)
	return true
}

// letter mails what somebody should know, if mail can be sent; nothing waits for it.
func (r *Rules) letter(ctx context.Context, to, subject, text, link string) {
	if r.Send.Mailer == nil {
		return
	}
	ctx = context.WithoutCancel(ctx)
	r.letters.Go(func() {
		if err := r.MailNow(ctx, to, subject, text, link); err != nil {
			slog.Error("a letter about an account could not be mailed", "subject", subject, "error", err)
		}
	})
}

// Settle waits for letters that are on their way.
func (r *Rules) Settle() { r.letters.Wait() }
