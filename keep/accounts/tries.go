package accounts

import (
	"context"
	"errors"
	"fmt"
	"math"
	"net/netip"
	"strings"
	"time"

	"huekeep/keep"
	"huekeep/store"
)

// How many wrong passwords are taken. They fill vessels that run dry at an even pace, so that of one account at most
//
//	10 + 24 h / 40 min = 46  are tried from browsers that its owner did not use before, by whoever and from wherever,
//	10 + 24 h / 2 h    = 22  from those that the owner did use,
//	 5 + 24 h / 1 h    = 29  by whoever is signed in and asked for the password again,
//
// in any 24 hours: 97. Each is counted before anything is computed. None of the three fills another, so that nobody holds the owner off
// where they were before, and a link by mail, which no vessel is in the way of, begins them all anew. There is none of all accounts
// together: whoever filled it would keep everybody out. An address (of IPv6, its network of 64 bits) has one that keeps it from going
// through many accounts.
const (
	strangers      = 10
	strangersRefit = 40 * time.Minute
	familiar       = 10
	familiarRefit  = 2 * time.Hour
	proofs         = 5
	proofsRefit    = time.Hour
	network        = 30
	networkRefit   = time.Minute
	letters        = 3 // links for a new password that are mailed to one account; the last one is good for an hour
	lettersRefit   = 20 * time.Minute
)

func ofStrangers(email string) store.Vessel {
	return store.Vessel{Who: keep.Digest("account " + email), Holds: strangers, Refit: strangersRefit}
}

func ofFamiliar(email string) store.Vessel {
	return store.Vessel{Who: keep.Digest("familiar " + email), Holds: familiar, Refit: familiarRefit}
}

func ofProofs(user int64) store.Vessel {
	return store.Vessel{Who: keep.Digest(fmt.Sprint("proof ", user)), Holds: proofs, Refit: proofsRefit}
}

func ofLetters(email string) store.Vessel {
	return store.Vessel{Who: keep.Digest("letters " + email), Holds: letters, Refit: lettersRefit}
}

func ofNetwork(address string) store.Vessel {
	return store.Vessel{Who: keep.Digest("network " + Network(address)), Holds: network, Refit: networkRefit}
}

// Network is who has an address: itself, or of IPv6 the network of 64 bits that one line gets.
func Network(address string) string {
	a, err := netip.ParseAddr(address)
	if err != nil {
		return address
	}
	if a = a.Unmap().WithZone(""); a.Is6() {
		if p, err := a.Prefix(64); err == nil {
			return p.String()
		}
	}
	return a.String()
}

// try is one that was let in.
type try struct {
	rules *Rules
	ids   []int64
	list  []store.Vessel
}

// beginTry lets a try in before it costs anything, or says how long it has to wait.
func (r *Rules) beginTry(ctx context.Context, list ...store.Vessel) (try, error) {
	ids, wait, err := r.DB.With(ctx).BeginTry(list, r.Now())
	if err != nil {
		return try{}, err
	}
	if wait > 0 {
		wait = wait.Round(time.Second) + time.Second
		return try{}, &keep.Error{Kind: keep.TooMany, Retry: wait,
			Message: fmt.Sprintf("After so many tries the next one has to wait %s. A link for a new password, by mail, lets you in at once.", inWords(wait))}
	}
	return try{r, ids, list}, nil
}

// end says whether it was a wrong one.
func (t try) end(ctx context.Context, wrong bool) error {
	return t.rules.DB.With(context.WithoutCancel(ctx)).EndTry(t.ids, t.list, wrong, t.rules.Now())
}

// familiarBrowser says whether a browser is one that the owner of an address signed in from before.
func (r *Rules) familiarBrowser(db *store.DB, email, device string) (bool, error) {
	if device == "" {
		return false, nil
	}
	d, err := db.Device(keep.Digest(device))
	if errors.Is(err, store.ErrNotFound) {
		return false, nil
	} else if err != nil {
		return false, err
	}
	u, err := db.User(d.UserID)
	if errors.Is(err, store.ErrNotFound) {
		return false, nil
	}
	return err == nil && u.Email == email, err
}

func inWords(d time.Duration) string {
	if d < 2*time.Minute {
		return fmt.Sprintf("%d seconds", int(d.Seconds()))
	}
	return fmt.Sprintf("%d minutes", int(math.Ceil(d.Minutes())))
}

// refused puts on the trail that somebody was not let in: one row an hour for each account and network, which is counted.
func (r *Rules) refused(ctx context.Context, what string, account int64, email string, outcome int) {
	from := keep.FromOf(ctx)
	about := email
	if account == 0 {
		about = "" // what is typed by whoever guesses names would make the trail long
	}
	hour := r.Now().Truncate(time.Hour)
	r.NotedOften(ctx, keep.Did{Account: account, Name: about, What: what, About: about, Outcome: outcome},
		strings.Join([]string{what, hour.String(), Network(from.Address), fmt.Sprint(account)}, "\n"))
}
