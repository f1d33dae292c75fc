package ledger

import (
	"context"
	"fmt"
	"slices"
	"strings"

	"huekeep/core/color"
	"huekeep/core/ink"
	"huekeep/core/library"
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
		if p, ok := c.Master.Printed(); ok && p.Press == press {
			return nil, deciding(*c)
		}
		c.Builds = slices.DeleteFunc(c.Builds, func(o library.Build) bool { return o.Press == press })
		c.Builds = append(c.Builds, library.Build{Press: condition.Name, Value: b, Origin: library.Signed, By: a.Person(), At: r.Now(),
			For: c.RGB, Meant: c.Master})
		de := color.DeltaE00(c.Lab(), condition.Lab(b))
		return []library.Event{{What: fmt.Sprintf("CMYK %s approved for %s, %.1f %s from %s", b, condition.Name, de, color.Word(de),
			theMaster(*c))}}, nil
	})
}

// deciding refuses to approve beside the master what the master is.
func deciding(c library.Color) error {
	return keep.Clash("", "%s decides %s; amend the color to change it", c.Decides(), c.Name)
}

// theMaster is what decides a color, for a sentence about how far something is from it.
func theMaster(c library.Color) string {
	if c.Master.Kind == library.OfHex {
		return "the screen value"
	}
	return "the master"
}

// ApproveHex signs the hex that plain screens have of a color that something else decides; an empty value is the one that they have now.
func (r *Rules) ApproveHex(ctx context.Context, a keep.Actor, id int64, version int, value string) error {
	return r.amend(ctx, a, id, version, func(_ *store.DB, c *library.Color) ([]library.Event, error) {
		if c.Master.Kind == library.OfHex {
			return nil, deciding(*c)
		}
		to := c.RGB
		if strings.TrimSpace(value) != "" {
			g, err := keep.Master("value", value)
			if err != nil {
				return nil, err
			}
			if g.Kind != library.OfHex {
				return nil, keep.Wrong("value", "%s is beyond 8 bits of sRGB; what plain screens show is wanted here", value)
			}
			to = g.RGB
		}
		was := c.RGB
		c.RGB, c.Plain = to, library.Plain{Origin: library.Signed, By: a.Person(), At: r.Now()}
		de := c.Dulled()
		e := library.Event{What: fmt.Sprintf("%s approved for screens, %.1f %s from the master", to.Hex(), de, color.Word(de))}
		if was != to {
			e.Before, e.After = was.Hex(), to.Hex()
		}
		return []library.Event{e}, nil
	})
}

// DropHex takes the approval of a hex back; it follows from the master again.
func (r *Rules) DropHex(ctx context.Context, a keep.Actor, id int64, version int) error {
	return r.amend(ctx, a, id, version, func(_ *store.DB, c *library.Color) ([]library.Event, error) {
		if c.Plain.Origin == "" {
			return nil, keep.None("approved hex")
		}
		was := c.RGB
		c.RGB, c.Plain = c.Exact().RGB8(), library.Plain{}
		e := library.Event{What: "approval of " + was.Hex() + " for screens taken back"}
		if was != c.RGB {
			e.What += ", " + c.RGB.Hex() + " follows from the master"
			e.Before, e.After = was.Hex(), c.RGB.Hex()
		}
		return []library.Event{e}, nil
	})
}

// DropBuild takes an approval back; the build is derived again.
func (r *Rules) DropBuild(ctx context.Context, a keep.Actor, id int64, version int, press string) error {
	return r.amend(ctx, a, id, version, func(_ *store.DB, c *library.Color) ([]library.Event, error) {
		switch b, ok := c.Build(press); {
		case !ok:
			return nil, keep.None("approved build")
		case b.Origin == library.Deciding:
			return nil, deciding(*c)
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
		if p, ok := c.Master.Printed(); ok && p.Stock == stock {
			return nil, deciding(*c)
		}
		c.Spots = slices.DeleteFunc(c.Spots, func(o library.Spot) bool { return o.Stock == stock })
		c.Spots = append(c.Spots, library.Spot{Stock: stock, Code: found.Code, Origin: library.Signed, By: a.Person(), At: r.Now(),
			For: c.RGB, Meant: c.Master})
		de := color.DeltaE00(c.Lab(), found.Lab(ink.Stock(stock)))
		return []library.Event{{What: fmt.Sprintf("spot ink %s approved on %s stock, %.1f %s from %s", found.Code, stock, de,
			color.Word(de), theMaster(*c))}}, nil
	})
}

// DropSpot takes an approval back; the nearest ink is shown again.
func (r *Rules) DropSpot(ctx context.Context, a keep.Actor, id int64, version int, stock string) error {
	return r.amend(ctx, a, id, version, func(_ *store.DB, c *library.Color) ([]library.Event, error) {
		switch s, ok := c.Spot(stock); {
		case !ok:
			return nil, keep.None("approved ink")
		case s.Origin == library.Deciding:
			return nil, deciding(*c)
		}
		c.Spots = slices.DeleteFunc(c.Spots, func(o library.Spot) bool { return o.Stock == stock })
		return []library.Event{{What: fmt.Sprintf("approval of the spot ink on %s stock taken back", stock)}}, nil
	})
}
