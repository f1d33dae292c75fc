package ledger

import (
	"context"
	"slices"
	"strings"

	"huekeep/core/color"
	"huekeep/core/gradient"
	"huekeep/core/library"
	"huekeep/core/limits"
	"huekeep/core/swatchfile"
	"huekeep/keep"
	"huekeep/store"
)

// Gradient is a gradient with its colors.
type Gradient struct {
	library.Gradient
	Colors []library.Color // of each stop
	Steps  []color.RGB8    // the way, in even steps
	CSS    string
}

const gradientSteps = 33

// Gradients lists the gradients of a house of which the actor may see every color.
func (r *Rules) Gradients(ctx context.Context, a keep.Actor) ([]Gradient, error) {
	db := r.DB.With(ctx)
	rows, err := db.Gradients(a.House.ID)
	if err != nil || len(rows) == 0 {
		return nil, err
	}
	_, byID, err := visible(db, a)
	if err != nil {
		return nil, err
	}
	var out []Gradient
	for _, row := range rows {
		g := Gradient{Gradient: row}
		var stops []gradient.Stop
		for _, s := range row.Stops {
			if c := byID[s.Color.ID]; c != nil {
				g.Colors = append(g.Colors, *c)
				stops = append(stops, gradient.Stop{Color: c.RGB, Place: s.Place})
			}
		}
		if len(stops) < len(row.Stops) || len(stops) == 0 {
			continue
		}
		if g.Steps, err = gradient.Steps(stops, row.Space, gradientSteps); err != nil {
			return nil, err
		}
		g.CSS = gradient.CSS(stops, row.Space, row.Angle)
		out = append(out, g)
	}
	return out, nil
}

// PutGradient makes a gradient, or changes one whose id is given.
func (r *Rules) PutGradient(ctx context.Context, a keep.Actor, in library.Gradient) error {
	if err := a.May(keep.RoleKeeper); err != nil {
		return err
	}
	return r.Change(ctx, a, func(tx *store.DB) error { return r.putGradient(tx, a, in, false) })
}

// RestoreGradient makes a gradient with the id that it had.
func (r *Rules) RestoreGradient(tx *store.DB, a keep.Actor, in library.Gradient) error {
	return r.putGradient(tx, a, in, true)
}

func (r *Rules) putGradient(tx *store.DB, a keep.Actor, in library.Gradient, fresh bool) error {
	n, err := keep.Name("name", in.Name)
	if err != nil {
		return err
	}
	if len(in.Stops) < 2 || len(in.Stops) > limits.GradientStops {
		return keep.Wrong("stops", "a gradient has 2 to %d stops; this one has %d", limits.GradientStops, len(in.Stops))
	}
	for i, s := range in.Stops {
		if !(s.Place >= 0 && s.Place <= 100) || i > 0 && s.Place < in.Stops[i-1].Place {
			return keep.Wrong("stops", "stop %d stands at %g percent; stops stand between 0 and 100 percent, in order", i+1, s.Place)
		}
	}
	if !slices.Contains(gradient.Spaces, in.Space) {
		return keep.Wrong("space", "there is no interpolation space %q; there are %s", in.Space, strings.Join(gradient.Spaces, ", "))
	}
	if !(in.Angle >= 0 && in.Angle < 360) {
		return keep.Wrong("angle", "the angle lies between 0 and 359 degrees")
	}
	var ids []int64
	for _, s := range in.Stops {
		if !slices.Contains(ids, s.Color.ID) {
			ids = append(ids, s.Color.ID)
		}
	}
	if _, err := tx.ColorsToChange(a.House.ID, ids); err != nil {
		return keep.Missing(err, "color")
	}
	in.Name = n
	switch {
	case fresh:
	case in.ID == 0:
		in.Version = 1
	default:
		old, err := tx.GradientToChange(a.House.ID, in.ID)
		if err != nil {
			return keep.Missing(err, "gradient")
		}
		if old.Version != in.Version {
			return keep.Stale("the gradient %s was changed by somebody else meanwhile; look at it again", old.Name)
		}
		in.Version++
	}
	return keep.Taken(tx.PutGradient(a.House.ID, in, fresh), "name", "there is a gradient named %s already", n)
}

// DeleteGradient takes a gradient away.
func (r *Rules) DeleteGradient(ctx context.Context, a keep.Actor, id int64) error {
	if err := a.May(keep.RoleKeeper); err != nil {
		return err
	}
	return keep.Missing(r.DB.With(ctx).DeleteGradient(a.House.ID, id), "gradient")
}

// TakeGradient writes a gradient as a file of one of the forms of gradient.Forms.
func (r *Rules) TakeGradient(ctx context.Context, a keep.Actor, id int64, form string) (name string, f gradient.Form, data []byte,
	err error) {
	list, err := r.Gradients(ctx, a)
	if err != nil {
		return "", f, nil, err
	}
	at := slices.IndexFunc(gradient.Forms, func(f gradient.Form) bool { return f.Name == form })
	if at < 0 {
		return "", f, nil, keep.Wrong("form", "there is no form %q of a gradient", form)
	}
	f = gradient.Forms[at]
	for _, g := range list {
		if g.ID != id {
			continue
		}
		var stops []gradient.Stop
		for i, s := range g.Stops {
			stops = append(stops, gradient.Stop{Color: g.Colors[i].RGB, Place: s.Place})
		}
		data, err = f.Write(g.Name, stops, g.Space, g.Angle)
		return swatchfile.Slug(g.Name) + f.Ending, f, data, err
	}
	return "", f, nil, keep.Missing(store.ErrNotFound, "gradient")
}
