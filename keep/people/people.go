// Package people holds the rules of who belongs to a house, and who is invited.
package people

import (
	"context"
	"errors"
	"fmt"
	"time"

	"huekeep/keep"
	"huekeep/keep/accounts"
	"huekeep/store"
)

// Rules are the rules of members and invitations.
type Rules struct {
	*keep.Base
	Accounts *accounts.Rules
}

// Member is a person of a house.
type Member struct {
	accounts.Account
	Role         keep.Role
	SecondFactor bool
	Seen         *time.Time
}

// Invitation is a link that lets somebody into a house.
type Invitation struct {
	ID    int64
	Email string
	Role  keep.Role
	By    string
	Until time.Time
}

// List lists the members of a house, and for those who may invite the invitations that wait.
func (r *Rules) List(ctx context.Context, a keep.Actor) (members []Member, invited []Invitation, may bool, err error) {
	if err := a.May(keep.RoleReader); err != nil {
		return nil, nil, false, err
	}
	db := r.DB.With(ctx)
	rows, err := db.Members(a.House.ID)
	if err != nil {
		return nil, nil, false, err
	}
	for _, m := range rows {
		one := Member{Account: accounts.Of(m.User), Role: keep.Role(m.Role), SecondFactor: m.Totp != "" || m.Passkeys > 0, Seen: m.Seen}
		if a.Role != keep.RoleKeeper && m.ID != a.Account {
			one.Email, one.Seen, one.SecondFactor = "", nil, false
		}
		members = append(members, one)
	}
	if may, err = r.mayInvite(db, a); err != nil || !may {
		return members, nil, may, err
	}
	list, err := db.Invitations(a.House.ID, r.Now())
	for _, t := range list {
		invited = append(invited, Invitation{t.ID, t.Email, keep.Role(t.Role), t.ByName, t.ExpiresAt})
	}
	return members, invited, may, err
}

func (r *Rules) mayInvite(db *store.DB, a keep.Actor) (bool, error) {
	h, err := db.House(a.House.ID)
	return err == nil && a.Role.Reaches(keep.Role(h.Inviters)), err
}

// mostInvited is how many invitations of a house may wait.
const mostInvited = 200

// Invite opens an invitation, good for a week, and mails it if that is wanted. An older one to the same address is taken back.
func (r *Rules) Invite(ctx context.Context, a keep.Actor, email string, role keep.Role, byMail bool) (link string, err error) {
	if email, err = accounts.Address(email); err != nil {
		return "", err
	}
	if !role.Reaches(keep.RoleReader) {
		return "", keep.Wrong("role", "the role %q is none of keeper, contributor, reader", role)
	}
	db := r.DB.With(ctx)
	if may, err := r.mayInvite(db, a); err != nil {
		return "", err
	} else if !may {
		return "", &keep.Error{Kind: keep.Forbidden, Message: fmt.Sprintf("In %s only keepers invite; ask one of them.", a.House.Name)}
	}
	if err := a.May(role); err != nil {
		return "", &keep.Error{Kind: keep.Forbidden, Field: "role", Message: fmt.Sprintf("Nobody gives more than they have: you are a %s.",
			a.Role)}
	}
	if byMail && r.Accounts.Send.Mailer == nil {
		return "", keep.Clash("mail", "this server sends no mail; copy the link instead")
	}
	var token string
	err = r.Change(ctx, a, func(tx *store.DB) error {
		if u, err := tx.UserByEmail(email); err == nil {
			if m, err := tx.Member(u.ID, a.House.ID); err == nil {
				return keep.Clash("email", "%s belongs to %s already, as a %s", email, a.House.Name, m.Role)
			}
		}
		waiting, err := tx.Invitations(a.House.ID, r.Now())
		if err != nil {
			return err
		}
		if len(waiting) >= mostInvited {
			return keep.Clash("email", "%d invitations wait already", len(waiting))
		}
		if err := tx.DropInvitationsTo(a.House.ID, email); err != nil {
			return err
		}
		token, err = r.Accounts.OpenInvitation(ctx, tx, store.Ticket{HouseID: &a.House.ID, Email: email, Role: string(role),
			ByUser: a.ByUser(), ByName: a.Name, Mailed: byMail})
		return err
	})
	if err != nil {
		return "", err
	}
	link = r.Accounts.TicketPath(token)
	if byMail {
		defer func() { link = "" }() // what goes by mail shows whose mailbox it is, so that nobody else has it
		err = r.Accounts.MailNow(ctx, email, "You are invited to "+a.House.Name,
			fmt.Sprintf("%s invites you to the color library of %s, as a %s. The link is good for a week:", a.Name, a.House.Name, role),
			link)
	}
	return link, err
}

// Uninvite takes an invitation back.
func (r *Rules) Uninvite(ctx context.Context, a keep.Actor, id int64) error {
	db := r.DB.With(ctx)
	if may, err := r.mayInvite(db, a); err != nil {
		return err
	} else if !may {
		return a.May(keep.RoleKeeper)
	}
	return keep.Missing(db.DropInvitation(a.House.ID, id), "invitation")
}

// SetRole changes the role of a member. A house is never left without a keeper.
func (r *Rules) SetRole(ctx context.Context, a keep.Actor, user int64, role keep.Role) error {
	if err := a.May(keep.RoleKeeper); err != nil {
		return err
	}
	if !role.Reaches(keep.RoleReader) {
		return keep.Wrong("role", "the role %q is none of keeper, contributor, reader", role)
	}
	return r.Change(ctx, a, func(tx *store.DB) error {
		m, err := tx.Member(user, a.House.ID)
		if err != nil {
			return keep.Missing(err, "member")
		}
		if err := lastKeeper(tx, a, m, role == keep.RoleKeeper); err != nil {
			return err
		}
		m.Role = string(role)
		if err := tx.Save(&m); err != nil {
			return err
		}
		return endInvitations(tx, a.House.ID, user, role)
	})
}

// EndMembership takes somebody out of a house: a keeper anybody, everybody themselves. Where it was their only house, their sessions end.
func (r *Rules) EndMembership(ctx context.Context, a keep.Actor, user int64) error {
	if user != a.Account {
		if err := a.May(keep.RoleKeeper); err != nil {
			return err
		}
	}
	return r.Change(ctx, a, func(tx *store.DB) error {
		m, err := tx.Member(user, a.House.ID)
		if err != nil {
			return keep.Missing(err, "member")
		}
		if err := lastKeeper(tx, a, m, false); err != nil {
			return err
		}
		if err := tx.EndMembership(user, a.House.ID); err != nil {
			return err
		}
		if err := errors.Join(tx.DropInvitationsBy(a.House.ID, user, nil), tx.DropTokensOf(user, a.House.ID)); err != nil {
			return err
		}
		if left, err := tx.Memberships(user); err != nil || len(left) > 0 {
			return err
		}
		return errors.Join(tx.EndSessions(user, ""), tx.DropAccessTokens(user))
	})
}

// endInvitations ends what somebody invites to that they may not any more.
func endInvitations(tx *store.DB, house, user int64, role keep.Role) error {
	h, err := tx.House(house)
	if err != nil {
		return err
	}
	var may []string
	for _, r := range keep.Roles {
		if role.Reaches(keep.Role(h.Inviters)) && role.Reaches(r) {
			may = append(may, string(r))
		}
	}
	return tx.DropInvitationsBy(house, user, may)
}

func lastKeeper(tx *store.DB, a keep.Actor, m store.Member, stays bool) error {
	if m.Role != string(keep.RoleKeeper) || stays {
		return nil
	}
	n, err := tx.Keepers(a.House.ID)
	if err == nil && n < 2 {
		return keep.Clash("role", "%s would be left without a keeper; make somebody else one first", a.House.Name)
	}
	return err
}

// AddMember makes an account with a role in a house; the house is made if there is none of that name.
func (r *Rules) AddMember(ctx context.Context, email, fullName, password, house string, role keep.Role) error {
	if !role.Reaches(keep.RoleReader) {
		return keep.Wrong("role", "the role %q is none of keeper, contributor, reader", role)
	}
	houseName, err := keep.Name("house", house)
	if err != nil {
		return err
	}
	return r.DB.In(ctx, func(tx *store.DB) error {
		u, err := r.Accounts.AddAccount(ctx, tx, email, fullName, password, houseName)
		if err != nil {
			return err
		}
		h, err := tx.HouseByName(houseName)
		if errors.Is(err, store.ErrNotFound) {
			h = keep.NewHouse(houseName, r.Now())
			err = keep.Taken(tx.Add(&h), "house", "there is a house named %s already", houseName)
		}
		if err != nil {
			return err
		}
		if err := tx.Add(&store.Member{UserID: u.ID, HouseID: h.ID, Role: string(role)}); err != nil {
			return err
		}
		_, err = keep.Trail(ctx, tx, keep.Did{House: h.ID, Name: "Command line", What: "joined", About: u.Name + ", " + u.Email,
			After: map[string]string{"role": string(role)}, Outcome: 200}, r.Now)
		return err
	})
}
