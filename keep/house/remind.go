package house

import (
	"context"
	"errors"
	"fmt"
	"log/slog"
	"slices"
	"strings"
	"time"

	"huekeep/core/audit"
	"huekeep/keep"
	"huekeep/store"
)

// Remind mails whoever excused a color that the excuse is about to end, once; the keepers, where that person is no member any more. What
// could not be mailed is tried again the next time.
func (r *Rules) Remind(ctx context.Context, now time.Time) error {
	if r.Accounts.Send.Mailer == nil {
		return nil
	}
	db := r.DB.With(ctx)
	rows, err := db.UntoldExcuses(now.Add(-audit.Soon), now.Add(audit.Soon))
	if err != nil {
		return err
	}
	for len(rows) > 0 { // a house at a time
		n := slices.IndexFunc(rows, func(e store.Excuse) bool { return e.HouseID != rows[0].HouseID })
		if n < 0 {
			n = len(rows)
		}
		err = errors.Join(err, r.remind(ctx, rows[:n], now))
		rows = rows[n:]
	}
	return err
}

func (r *Rules) remind(ctx context.Context, excuses []store.Excuse, now time.Time) error {
	db := r.DB.With(ctx)
	h, err := db.House(excuses[0].HouseID)
	if err != nil {
		return err
	}
	members, err := db.Members(h.ID)
	if err != nil {
		return err
	}
	of := map[string][]store.Excuse{} // by address
	for _, e := range excuses {
		author := slices.IndexFunc(members, func(m store.MemberRow) bool { return e.ByUser != nil && m.ID == *e.ByUser })
		for i, m := range members {
			if i == author || author < 0 && keep.Role(m.Role) == keep.RoleKeeper {
				of[m.Email] = append(of[m.Email], e)
			}
		}
	}
	for email, list := range of {
		var b strings.Builder
		fmt.Fprintf(&b, "In %s, these colors are excused no longer after the day that stands with them. Excuse them anew, or have them put right.\n", h.Name)
		var ids []int64
		for _, e := range list {
			ids = append(ids, e.ID)
			fmt.Fprintf(&b, "\n%s, until %s: %s", e.Color, e.UntilDay.Format("January 2, 2006"), e.Reason)
			if e.Path != "" {
				fmt.Fprintf(&b, " (%s)", e.Path)
			}
		}
		subject := fmt.Sprintf("%d excuses of %s end soon", len(list), h.Name)
		if len(list) == 1 {
			subject = fmt.Sprintf("An excuse of %s ends soon", h.Name)
		}
		if err := r.Accounts.MailNow(ctx, email, subject, b.String(), fmt.Sprintf("%s/h/%d/audit", r.Accounts.Send.Address,
			h.ID)); err != nil {
			// what else is tidied up goes on
			slog.Warn("it could not be mailed that excuses end; it is tried again", "house", h.ID, "error", err)
			continue
		}
		if err := db.Told(ids, now); err != nil {
			return err
		}
	}
	return nil
}
