package ledger

import (
	"context"
	"fmt"
	"slices"
	"strings"
	"time"

	"huekeep/core/color"
	"huekeep/core/ink"
	"huekeep/core/library"
	"huekeep/core/press"
	"huekeep/keep"
	"huekeep/store"
)

// ApproveBuild signs a CMYK build for a press condition.
func (r *Rules) ApproveBuild(ctx context.Context, a keep.Actor, id int64, version int, press, value string) error {
	condition, err := r.Media.Condition(r.DB.With(ctx), a.House.ID, press)
	if err != nil {
		return err
	}
	b, err := color.ParseCMYK(value)
	if err != nil {
		return keep.Wrong("value", "%v", err)
	}
	if b.Total() > condition.InkLimit {
		return keep.Wrong("value", "%s is %g %% of ink in all; %s takes at most %g %%", b, b.Total(), condition.Label, condition.InkLimit)
	}
	return r.amend(ctx, a, id, version, func(_ *store.DB, c *library.Color) ([]library.Event, error) {
		c.Builds = slices.DeleteFunc(c.Builds, func(o library.Build) bool { return o.Press == press })
		return []library.Event{approveBuild(a, r.Now(), c, condition, b)}, nil
	})
}

// approveBuild puts a build on record in place of none.
func approveBuild(a keep.Actor, now time.Time, c *library.Color, condition *press.Condition, b color.CMYK) library.Event {
	c.Builds = append(c.Builds, library.Build{Press: condition.Name, Value: b, Origin: library.Signed, By: a.Person(), At: now, For: c.RGB, Meant: c.Master})
	de := color.DeltaE00(c.Lab(), condition.Lab(b))
	return library.Event{What: fmt.Sprintf("CMYK %s approved for %s, %.1f %s from the screen value", b, condition.Name, de, color.Word(de))}
}

// DropBuild takes an approval back; the build is derived again.
func (r *Rules) DropBuild(ctx context.Context, a keep.Actor, id int64, version int, press string) error {
	return r.amend(ctx, a, id, version, func(_ *store.DB, c *library.Color) ([]library.Event, error) {
		if _, ok := c.Build(press); !ok {
			return nil, keep.None("approved build")
		}
		c.Builds = slices.DeleteFunc(c.Builds, func(o library.Build) bool { return o.Press == press })
		return []library.Event{{What: fmt.Sprintf("approval of the CMYK build for %s taken back", press)}}, nil
	})
}

// ApproveSpot signs a spot ink for a stock.
func (r *Rules) ApproveSpot(ctx context.Context, a keep.Actor, id int64, version int, stock, code string) error {
	if err := library.CheckStock(stock); err != nil {
		return &keep.Error{Kind: keep.NotFound, Message: keep.Sentence(err.Error())}
	}
	book, err := r.Media.Book(r.DB.With(ctx), a.House.ID)
	if err != nil {
		return err
	}
	found, ok := book.Find(strings.TrimSpace(code))
	if !ok {
		return keep.Wrong("code", "%q is not in the %s ink book", code, book.Name)
	}
	return r.amend(ctx, a, id, version, func(_ *store.DB, c *library.Color) ([]library.Event, error) {
		c.Spots = slices.DeleteFunc(c.Spots, func(o library.Spot) bool { return o.Stock == stock })
		c.Spots = append(c.Spots, library.Spot{Stock: stock, Code: found.Code, Origin: library.Signed, By: a.Person(), At: r.Now(), For: c.RGB, Meant: c.Master})
		de := color.DeltaE00(c.Lab(), found.Lab(ink.Stock(stock)))
		return []library.Event{{What: fmt.Sprintf("spot ink %s approved on %s stock, %.1f %s from the screen value", found.Code, stock, de, color.Word(de))}}, nil
	})
}

// DropSpot takes an approval back; the nearest ink is shown again.
func (r *Rules) DropSpot(ctx context.Context, a keep.Actor, id int64, version int, stock string) error {
	return r.amend(ctx, a, id, version, func(_ *store.DB, c *library.Color) ([]library.Event, error) {
		if _, ok := c.Spot(stock); !ok {
			return nil, keep.None("approved ink")
		}
		c.Spots = slices.DeleteFunc(c.Spots, func(o library.Spot) bool { return o.Stock == stock })
		return []library.Event{{What: fmt.Sprintf("approval of the spot ink on %s stock taken back", stock)}}, nil
	})
}
