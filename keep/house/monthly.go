package house

import (
	"context"
	"errors"
	"fmt"
	"log/slog"
	"slices"
	"strings"
	"time"

	"huekeep/keep"
	"huekeep/keep/send"
	"huekeep/store"
)

// Monthly is the mail of a month, for a keeper who wants it.
type Monthly struct {
	On            bool
	Mail          bool // a mail server is set up
	Subject, Text string
}

// aMonth is how far back the mail tells.
const aMonth = 31 * 24 * time.Hour

// Monthly says whether somebody gets the mail of the month, and how it would read today.
func (r *Rules) Monthly(ctx context.Context, a keep.Actor) (Monthly, error) {
	if err := a.May(keep.RoleKeeper); err != nil {
		return Monthly{}, err
	}
	m, err := r.DB.With(ctx).MonthlyOf(a.Account, a.House.ID)
	if err != nil && !errors.Is(err, store.ErrNotFound) {
		return Monthly{}, err
	}
	subject, text, err := r.month(ctx, a, r.Now())
	return Monthly{m.Monthly, r.Accounts.Send.Mailer != nil, subject, text}, err
}

// SetMonthly says whether somebody wants the mail of the month. The first comes a month later, on the first of the next one.
func (r *Rules) SetMonthly(ctx context.Context, a keep.Actor, on bool) error {
	if err := a.May(keep.RoleKeeper); err != nil {
		return err
	}
	now := r.Now()
	return keep.Missing(r.DB.With(ctx).SetMonthly(a.Account, a.House.ID, on, now), "membership")
}

// month writes the mail: what changed, who is behind, how projects stand.
func (r *Rules) month(ctx context.Context, a keep.Actor, now time.Time) (subject, text string, err error) {
	since := now.Add(-aMonth)
	changes, err := r.Accounts.Send.Lately(ctx, a, since)
	if err != nil {
		return "", "", err
	}
	var b strings.Builder
	fmt.Fprintf(&b, "%s, from %s to %s.\n", a.House.Name, since.Format("January 2"), now.Format("January 2, 2006"))
	part := func(title string, lines []string, none string) {
		fmt.Fprintf(&b, "\n%s\n", title)
		if len(lines) == 0 {
			lines = []string{none}
		}
		const most = 40
		for i, l := range lines {
			if i == most {
				fmt.Fprintf(&b, "- and %d more\n", len(lines)-i)
				break
			}
			fmt.Fprintf(&b, "- %s\n", l)
		}
	}
	var lines []string
	for _, d := range changes {
		lines = append(lines, d.What...)
	}
	part("What changed in the library", lines, "Nothing.")
	sets, err := r.Accounts.Send.Sets(ctx, a)
	if err != nil {
		return "", "", err
	}
	fixed, behind := ofSets(sets, since)
	part("What was fixed", fixed, "No edition.")
	part("Who is behind", behind, "Nobody.")
	troubles, err := r.Accounts.Send.Troubles(ctx, a)
	if err != nil {
		return "", "", err
	}
	if len(troubles) > 0 {
		lines = nil
		for _, t := range troubles {
			lines = append(lines, strings.TrimSpace(fmt.Sprintf("%s, %s of %s. %s", t.RecipientName, t.Packing, t.SetName, t.Tried)))
		}
		part("What did not work for somebody", lines, "")
	}
	scores, err := r.DB.With(ctx).NewestRuns(a.House.ID)
	if err != nil {
		return "", "", err
	}
	part("How projects stand", ofProjects(scores), "There is none.")
	return fmt.Sprintf("%s: colors in %s", a.House.Name, now.Format("January 2006")), b.String(), nil
}

// ofSets are the editions that were fixed since, and who is behind with a set.
func ofSets(sets []send.Set, since time.Time) (fixed, behind []string) {
	for _, s := range sets {
		for _, e := range s.Editions {
			if e.At.After(since) {
				fixed = append(fixed, strings.TrimSpace(fmt.Sprintf("%s, edition %d, on %s. %s", s.Name, e.Number, e.At.Format("January 2"),
					e.Note)))
			}
		}
		var who []string
		for _, h := range s.Holdings {
			if h.State.Late() {
				who = append(who, h.Name)
			}
		}
		if len(who) > 0 {
			behind = append(behind, fmt.Sprintf("%s: %s", s.Name, few(who)))
		}
	}
	return fixed, behind
}

// ofProjects is how the newest run of each project came out, beside that of a month ago.
func ofProjects(scores []store.ProjectStanding) (lines []string) {
	for _, p := range scores {
		line := fmt.Sprintf("%s: not judged yet", p.Name)
		if p.Score != nil {
			line = fmt.Sprintf("%s: %.0f %% on-brand", p.Name, floor(*p.Score))
			if p.Before != nil {
				switch d := floor(*p.Score) - floor(*p.Before); {
				case d > 0:
					line += fmt.Sprintf(", %.0f more than a month ago", d)
				case d < 0:
					line += fmt.Sprintf(", %.0f less than a month ago", -d)
				}
			}
		}
		lines = append(lines, line)
	}
	return lines
}

// floor is a share in whole percents; what is not all is not 100.
func floor(share float64) float64 { return float64(int(share*100 + 1e-9)) }

// few lists up to ten names and counts the rest.
func few(names []string) string {
	if len(names) <= 10 {
		return strings.Join(names, ", ")
	}
	return fmt.Sprintf("%s and %d others", strings.Join(names[:10], ", "), len(names)-10)
}

// Month mails keepers who want it how their house stands, in the first days of a month. What could not be mailed is tried again the next
// time.
func (r *Rules) Month(ctx context.Context, now time.Time) error {
	if r.Accounts.Send.Mailer == nil {
		return nil
	}
	first := time.Date(now.Year(), now.Month(), 1, 0, 0, 0, 0, time.UTC)
	db := r.DB.With(ctx)
	due, err := db.MonthlyDue(first)
	if err != nil {
		return err
	}
	written := map[int64][2]string{}
	for _, m := range due {
		if slices.Contains([]string{"", string(keep.RoleReader), string(keep.RoleContributor)}, m.Role) {
			continue // a keeper no more
		}
		text, ok := written[m.HouseID]
		if !ok {
			h, err := db.House(m.HouseID)
			if err != nil {
				return err
			}
			if h.EndsAt != nil {
				continue
			}
			if text[0], text[1], err = r.month(ctx, keep.Actor{Name: "Hue Keep", House: keep.HouseOf(h), Role: keep.RoleKeeper},
				now); err != nil {
				return err
			}
			written[m.HouseID] = text
		}
		if err := r.Accounts.MailNow(ctx, m.Email, text[0], text[1], fmt.Sprintf("%s/h/%d/send/recipients", r.Accounts.Send.Address,
			m.HouseID)); err != nil {
			slog.Warn("the mail of the month could not be sent; it is tried again", "house", m.HouseID, "error", err)
			continue
		}
		if err := db.MonthlySent(m.UserID, m.HouseID, now); err != nil {
			return err
		}
	}
	return nil
}
