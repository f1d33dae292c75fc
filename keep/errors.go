package keep

import (
	"errors"
	"fmt"
	"strings"
	"syscall"
	"time"
	"unicode/utf8"

	"huekeep/store"
)

// Kind sorts errors by what the caller can do about them.
type Kind string

const (
	Invalid      Kind = "invalid"      // the input is wrong
	Forbidden    Kind = "forbidden"    // the role does not allow it
	NotFound     Kind = "not-found"    // there is no such thing in this house
	Conflict     Kind = "conflict"     // somebody or something else is in the way
	TooLarge     Kind = "too-large"    //
	TooMany      Kind = "too-many"     // too often; try later
	Unauthorized Kind = "unauthorized" // nobody is signed in, or the password is wrong
	NoRoom       Kind = "no-room"      // the server's disk is full, or what a house may have
	Away         Kind = "away"         // the database cannot be reached at this moment; nothing was done
)

// Codes of conflicts that a program may want to tell apart.
const (
	CodeStale = "changed-meanwhile" // the caller saw an older version
	CodeTaken = "name-taken"
	CodeBusy  = "busy" // trying again may do
	CodeHeld  = "held" // somebody has it

	CodePage = "page-out-of-date" // the session is another one than the page knows

	CodeUncertain = "uncertain"  // nobody knows whether it was done
	CodeFiles     = "files-away" // the place for files does not answer
)

// Error is a sentence for the user, with the field or the items that it is about.
type Error struct {
	Kind    Kind
	Code    string // stable; Kind if empty
	Message string
	Field   string
	Items   []ItemError
	Retry   time.Duration // for TooMany and Away
}

// ItemError is what is wrong with one of several things.
type ItemError struct {
	ID     int64
	Reason string
}

func (e *Error) Error() string { return e.Message }

// Wrong is an error in the input.
func Wrong(field, format string, args ...any) error {
	return &Error{Kind: Invalid, Field: field, Message: Sentence(fmt.Sprintf(format, args...))}
}

// Clash is a conflict.
func Clash(field, format string, args ...any) error {
	return &Error{Kind: Conflict, Field: field, Message: Sentence(fmt.Sprintf(format, args...))}
}

// Stale is a conflict with what somebody else did meanwhile.
func Stale(format string, args ...any) error {
	return &Error{Kind: Conflict, Code: CodeStale, Field: "version", Message: Sentence(fmt.Sprintf(format, args...))}
}

// None says that there is no such thing in the house.
func None(what string) error {
	return &Error{Kind: NotFound, Message: fmt.Sprintf("There is no such %s in this house.", what)}
}

// Missing turns the store's "not found" into a sentence about what was asked for.
func Missing(err error, what string) error {
	if errors.Is(err, store.ErrNotFound) {
		return None(what)
	}
	return err
}

// Taken turns a broken unique key into a sentence.
func Taken(err error, field, format string, args ...any) error {
	if errors.Is(err, store.ErrDuplicate) {
		return &Error{Kind: Conflict, Code: CodeTaken, Field: field, Message: Sentence(fmt.Sprintf(format, args...))}
	}
	return err
}

// Explain finds the sentence for the user in an error, nil if there is none to be given.
func Explain(err error) *Error {
	var ours *Error
	switch {
	case errors.As(err, &ours):
		return ours
	case errors.Is(err, store.ErrBusy):
		return &Error{Kind: Conflict, Code: CodeBusy,
			Message: "Others are changing the same things at this moment. Nothing was changed; try again."}
	case errors.Is(err, store.ErrGone):
		return &Error{Kind: Conflict, Code: CodeBusy,
			Message: "Something that this belongs to was changed or deleted at the same moment. Nothing was changed; look again."}
	case errors.Is(err, store.ErrDuplicate):
		return &Error{Kind: Conflict, Code: CodeTaken,
			Message: "Somebody else added the same at this moment. Nothing was changed; look again."}
	case errors.Is(err, store.ErrUnfit):
		return &Error{Kind: Invalid, Message: "A value is longer or larger than what is kept; nothing was changed."}
	case errors.Is(err, store.ErrUncertain):
		return &Error{Kind: Away, Code: CodeUncertain,
			Message: "The database went away while this was being kept, so nobody knows whether it was. Look before you do it again."}
	case store.Away(err):
		return &Error{Kind: Away, Retry: 2 * time.Second,
			Message: "The database is away for a moment. Nothing was changed, and what you typed is still here."}
	case store.Full(err):
		return &Error{Kind: NoRoom, Retry: time.Minute,
			Message: "The database has no room left; nothing was kept, and what you typed is still here. Ask whoever runs the server to make some."}
	case errors.Is(err, syscall.ENOSPC), errors.Is(err, syscall.EDQUOT):
		return &Error{Kind: NoRoom, Message: "The server has no room left for files; nothing was kept. Ask whoever runs it to make some."}
	}
	return nil
}

// Sentence makes a sentence of an error's text: a capital in front, a period behind.
func Sentence(s string) string {
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

// Names writes a list of names for a sentence: "Buoy, Lamp and 3 more".
func Names(list []string) string {
	const most = 5
	if len(list) > most+1 {
		return fmt.Sprintf("%s and %d more", strings.Join(list[:most], ", "), len(list)-most)
	}
	if len(list) > 1 {
		return strings.Join(list[:len(list)-1], ", ") + " and " + list[len(list)-1]
	}
	return strings.Join(list, "")
}
