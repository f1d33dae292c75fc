package trail

import (
	"context"
	"encoding/json"
	"fmt"
	"time"

	"huekeep/store"
)

// The trail of a house, and what concerns people only, are chains: each row is sealed with the one before it, by a key that is not in the
// database. Whoever writes into the database can change a row, and not without its being seen.

const (
	sealedAfter = 2 * time.Minute // so that no transaction is under way that has an older row
	endedAfter  = time.Hour       // a row that does not say how it ended is sealed as it is
	sealedOnce  = 2000
)

// keptPeople is how long the trail of what concerns people only is kept; that of a house is kept as long as its settings say.
const keptPeople = 400 * 24 * time.Hour

// sealedText is what is sealed of a row, with the seal of the one before.
func sealedText(before string, t store.Trail) string {
	text, _ := json.Marshal([]any{before, t.ID, t.HouseID, t.At.UnixMilli(), t.UserID, t.ByName, t.Via, t.Address, t.Request, t.What,
		t.About, t.BeforeState, t.AfterState, t.Outcome})
	return string(text)
}

// headText is what is sealed of a chain.
func headText(c store.TrailChain) string {
	return fmt.Sprint("chain ", c.Chain, " ", c.SealedTo, " ", c.Seal, " ", c.GoneTo, " ", c.GoneSeal)
}

// Seal seals what has come to the trails, and takes away what is older than a house keeps.
func (r *Rules) Seal(ctx context.Context, now time.Time) error {
	chains, err := r.DB.With(ctx).TrailChains()
	if err != nil {
		return err
	}
	for _, id := range chains {
		for more := true; more; {
			if err := r.DB.In(ctx, func(tx *store.DB) (err error) {
				more, err = r.sealSome(tx, id, now)
				return err
			}); err != nil {
				return err
			}
		}
	}
	return nil
}

func (r *Rules) sealSome(tx *store.DB, id int64, now time.Time) (more bool, err error) {
	c, err := tx.TrailChain(id)
	if err != nil {
		return false, err
	}
	rows, err := tx.ChainRows(id, c.SealedTo, sealedOnce)
	if err != nil {
		return false, err
	}
	moved := false
	for _, t := range rows {
		if t.At.After(now.Add(-sealedAfter)) || t.Outcome == 0 && t.At.After(now.Add(-endedAfter)) {
			break
		}
		seal := r.Keys.Seal(sealedText(c.Seal, t))
		if err := tx.SealRow(t.ID, seal); err != nil {
			return false, err
		}
		c.SealedTo, c.Seal, moved = t.ID, seal, true
	}
	kept := keptPeople
	if id > 0 {
		h, err := tx.House(id)
		if err != nil {
			return false, err
		}
		kept = time.Duration(h.TrailDays) * 24 * time.Hour
	}
	if kept > 0 {
		gone, seal, err := tx.ForgetTrail(id, c.SealedTo, now.Add(-kept))
		if err != nil {
			return false, err
		}
		if gone > 0 {
			c.GoneTo, c.GoneSeal, moved = gone, seal, true
		}
	}
	if !moved {
		return false, nil
	}
	c.GoneMac = r.Keys.Seal(headText(c))
	return len(rows) == sealedOnce, tx.SaveChain(c)
}

// Chain is what a look at a chain found.
type Chain struct {
	House   int64 // 0 for what concerns people only
	Sealed  int   // rows
	Waiting int   // rows that are not sealed yet
	Wrong   []string
}

// mostWrong is how many places of a chain are told of.
const mostWrong = 20

// Verify looks whether the trails are as they were sealed.
func (r *Rules) Verify(ctx context.Context) (list []Chain, err error) {
	db := r.DB.With(ctx)
	ids, err := db.TrailChains()
	if err != nil {
		return nil, err
	}
	for _, id := range ids {
		c, err := db.TrailHead(id)
		if err != nil {
			return nil, err
		}
		out := Chain{House: id}
		wrong := func(format string, args ...any) {
			if len(out.Wrong) < mostWrong {
				out.Wrong = append(out.Wrong, fmt.Sprintf(format, args...))
			}
		}
		if c.SealedTo > 0 && !r.Keys.Fits(c.GoneMac, headText(c)) {
			wrong("how far it is sealed was changed, or the key that it was sealed with is not there")
		}
		before, last := c.GoneSeal, int64(0)
		for {
			rows, err := db.ChainRows(id, last, sealedOnce)
			if err != nil {
				return nil, err
			}
			for _, t := range rows {
				last = t.ID
				switch {
				case t.ID <= c.GoneTo:
					wrong("row %d was put in: rows up to %d had gone, their time was over", t.ID, c.GoneTo)
				case t.ID > c.SealedTo:
					out.Waiting++
				case t.Seal == "":
					wrong("row %d, %s, was put in", t.ID, t.At.Format(time.DateTime))
				case !r.Keys.Fits(t.Seal, sealedText(before, t)):
					wrong("row %d, %s, was changed, or rows before it are gone", t.ID, t.At.Format(time.DateTime))
					before = t.Seal
				default:
					out.Sealed++
					before = t.Seal
				}
			}
			if len(rows) < sealedOnce {
				break
			}
		}
		if c.SealedTo > 0 && before != c.Seal {
			wrong("its end is gone: it was sealed up to row %d", c.SealedTo)
		}
		list = append(list, out)
	}
	return list, nil
}
