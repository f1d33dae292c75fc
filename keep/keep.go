// Package keep holds the rules of the job on stored things: what may be admitted, approved, amended, fixed and sent, by
// whom, and what follows from it.
package keep

import (
	"context"
	"errors"
	"fmt"
	"strings"
	"time"
	"unicode/utf8"

	"gocloud.dev/blob"

	"huekeep/core/ink"
	"huekeep/core/limits"
	"huekeep/core/press"
	"huekeep/standin"
	"huekeep/store"
)

// Keeper is the door to a database of houses.
type Keeper struct {
	DB        *store.DB
	Files     *blob.Bucket                   // uploaded files
	Receivers map[string]standin.Application // by kind of recipient
	Now       func() time.Time
	faces     *faceCache
	bench     *bench
	presses   *pressCache
	books     *bookCache
}

// New makes a keeper with the receiving applications that ship with the program.
func New(db *store.DB, files *blob.Bucket) *Keeper {
	return &Keeper{
		DB: db, Files: files, faces: newFaceCache(), books: &bookCache{of: map[bookKey]*ink.Book{}}, presses: &pressCache{of: map[int64]*press.Condition{}}, bench: &bench{reader: standin.NewReader(uint64(time.Now().UnixNano()))},
		Receivers: map[string]standin.Application{"office": standin.Office{}, "web": standin.Web{}},
		Now:       func() time.Time { return time.Now().UTC().Truncate(time.Millisecond) },
	}
}

// within is the same keeper inside a transaction, for what is made of several of its acts.
func (k *Keeper) within(tx *store.DB) *Keeper {
	inner := *k
	inner.DB = tx
	return &inner
}

// Role is what somebody may do in a house.
type Role string

const (
	RoleKeeper      Role = "keeper"      // may change and approve
	RoleContributor Role = "contributor" // may gather, propose and audit
	RoleReader      Role = "reader"      // may look, copy and download
)

// Actor is who does something, in which house.
type Actor struct {
	User  int64
	Name  string
	House store.House
	Role  Role
}

// may says whether the actor's role reaches at least to the given one.
func (a Actor) may(least Role) error {
	rank := map[Role]int{RoleReader: 1, RoleContributor: 2, RoleKeeper: 3}
	if rank[a.Role] >= rank[least] {
		return nil
	}
	return &Error{Kind: Forbidden, Message: fmt.Sprintf("This needs the role of a %s; yours in %s is %s.", least, a.House.Name, a.Role)}
}

// Kind sorts errors by what the caller can do about them.
type Kind int

const (
	Invalid   Kind = iota + 1 // the input is wrong
	Forbidden                 // the role does not allow it
	NotFound                  // there is no such thing in this house
	Conflict                  // somebody or something else is in the way
	TooLarge
	TooMany      // too often; try later
	Unauthorized // nobody is signed in, or the password is wrong
)

// Error is a sentence for the user, with the field or the items that it is about.
type Error struct {
	Kind    Kind
	Message string
	Field   string
	Items   []ItemError
	Retry   time.Duration // for TooMany
}

// ItemError is what is wrong with one of several things.
type ItemError struct {
	ID     int64
	Reason string
}

func (e *Error) Error() string { return e.Message }

func invalid(field, format string, args ...any) error {
	return &Error{Kind: Invalid, Field: field, Message: sentence(fmt.Sprintf(format, args...))}
}

func conflict(field, format string, args ...any) error {
	return &Error{Kind: Conflict, Field: field, Message: sentence(fmt.Sprintf(format, args...))}
}

// sentence makes a sentence of an error's text: a capital in front, a period behind.
func sentence(s string) string {
	s = strings.TrimSpace(s)
	if s == "" {
		return s
	}
	r, n := utf8.DecodeRuneInString(s)
	s = strings.ToUpper(string(r)) + s[n:]
	if !strings.HasSuffix(s, ".") && !strings.HasSuffix(s, "?") {
		s += "."
	}
	return s
}

// missing turns the store's "not found" into a sentence about what was asked for.
func missing(err error, what string) error {
	if errors.Is(err, store.ErrNotFound) {
		return &Error{Kind: NotFound, Message: fmt.Sprintf("There is no such %s in this house.", what)}
	}
	return err
}

// taken turns a broken unique key into a sentence.
func taken(err error, field, format string, args ...any) error {
	if errors.Is(err, store.ErrDuplicate) {
		return conflict(field, format, args...)
	}
	return err
}

// name checks a name that somebody gave and returns it with single spaces.
func name(field, s string) (string, error) {
	s = strings.Join(strings.Fields(s), " ")
	switch n := utf8.RuneCountInString(s); {
	case s == "":
		return "", invalid(field, "a name is missing")
	case n > limits.NameRunes:
		return "", invalid(field, "the name has %d characters; at most %d fit", n, limits.NameRunes)
	}
	for _, r := range s {
		if r < ' ' || r == utf8.RuneError || r == 0xFFFE || r == 0xFFFF {
			return "", invalid(field, "the name holds a character that cannot be written everywhere")
		}
	}
	return s, nil
}

// Enter finds the house for a member. For anybody else the house does not exist.
func (k *Keeper) Enter(ctx context.Context, user store.User, house int64) (Actor, error) {
	m, err := k.DB.With(ctx).Membership(user.ID, house)
	if err != nil {
		if errors.Is(err, store.ErrNotFound) {
			return Actor{}, &Error{Kind: NotFound, Message: "There is no such house, or you do not belong to it."}
		}
		return Actor{}, err
	}
	return Actor{User: user.ID, Name: user.Name, House: m.House, Role: Role(m.Role)}, nil
}
