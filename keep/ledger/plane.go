package ledger

import (
	"cmp"
	"context"
	"slices"

	"huekeep/core/color"
	"huekeep/core/library"
	"huekeep/keep"
)

// Reach is the outline of a screen or a press.
type Reach struct {
	Name  string // of a press; "srgb" and "display-p3" of screens
	Press bool
	color.Outline
}

// Placed is a color with where it is, and the presses that do not reach it.
type Placed struct {
	library.Color
	Lab    color.Lab
	Beyond []string
}

// Crowd are two colors that are hard to tell apart.
type Crowd struct {
	A, B   int64
	DeltaE float64
}

// Plane is the library as a picture: where its colors are, what screens and presses reach, and which colors crowd.
type Plane struct {
	Reach   []Reach
	Colors  []Placed
	Crowded []Crowd // the closest first
}

// Colors closer than crowdDE in ΔE00 crowd; the closest mostCrowds pairs are told.
const (
	crowdDE    = 3
	mostCrowds = 12
)

// Plane places the colors of the library that are in use.
func (r *Rules) Plane(ctx context.Context, a keep.Actor) (out Plane, err error) {
	if err := a.May(keep.RoleReader); err != nil {
		return out, err
	}
	db := r.DB.With(ctx)
	list, err := db.Colors(a.House.ID)
	if err != nil {
		return out, err
	}
	presses, err := r.Media.PressesOf(db, a.House.ID)
	if err != nil {
		return out, err
	}
	for _, s := range []string{"srgb", "display-p3"} {
		out.Reach = append(out.Reach, Reach{s, false, color.ScreenOutline(s)})
	}
	for _, p := range presses {
		out.Reach = append(out.Reach, Reach{p.Name, true, r.Media.OutlineOf(p)})
	}
	var labs []color.Lab
	for _, c := range list {
		if !a.Sees(c) || c.Retired() {
			continue
		}
		one := Placed{Color: c, Lab: c.Lab()}
		for _, p := range presses {
			if !r.Media.Reaches(p, one.Lab) {
				one.Beyond = append(one.Beyond, p.Name)
			}
		}
		out.Colors, labs = append(out.Colors, one), append(labs, one.Lab)
	}
	index := color.NewIndex(labs)
	for i, l := range labs {
		for _, n := range index.Nearest(l, 3) {
			if n.At > i && n.DeltaE < crowdDE {
				out.Crowded = append(out.Crowded, Crowd{out.Colors[i].ID, out.Colors[n.At].ID, n.DeltaE})
			}
		}
	}
	slices.SortStableFunc(out.Crowded, func(x, y Crowd) int { return cmp.Compare(x.DeltaE, y.DeltaE) })
	out.Crowded = out.Crowded[:min(len(out.Crowded), mostCrowds)]
	return out, nil
}
