package server

import (
	"context"
	"math"

	"huekeep/api"
)

// Find looks through everything of a house.
func (s *server) Find(ctx context.Context, in api.FindRequestObject) (api.FindResponseObject, error) {
	list, err := s.Finding.Find(ctx, actorOf(ctx), in.Params.Words)
	if err != nil {
		return nil, err
	}
	out := api.Find200JSONResponse{}
	for _, g := range list {
		of := api.FoundGroup{Of: g.Of, More: g.More}
		for _, h := range g.Hits {
			hit := api.FoundHit{Name: h.Name, Path: h.Path, Says: h.Says}
			if h.Hex != "" {
				hit.Hex = &h.Hex
			}
			of.Hits = append(of.Hits, hit)
		}
		out = append(out, of)
	}
	return out, nil
}

func (s *server) GetPlane(ctx context.Context, _ api.GetPlaneRequestObject) (api.GetPlaneResponseObject, error) {
	plane, err := s.Ledger.Plane(ctx, actorOf(ctx))
	if err != nil {
		return nil, err
	}
	out := api.Plane{Reach: []api.PlaneReach{}, Colors: []api.PlaneColor{}, Crowded: []api.PlaneCrowd{}}
	for _, r := range plane.Reach {
		out.Reach = append(out.Reach, api.PlaneReach{Name: r.Name, Press: r.Press, Plane: points(r.Plane), Side: points(r.Side)})
	}
	for _, c := range plane.Colors {
		out.Colors = append(out.Colors, api.PlaneColor{Id: c.ID, Name: c.Name, Hex: c.RGB.Hex(), Lab: rounded(c.Lab.L, c.Lab.A, c.Lab.B),
			Beyond: nonNil(c.Beyond)})
	}
	for _, c := range plane.Crowded {
		out.Crowded = append(out.Crowded, api.PlaneCrowd{A: c.A, B: c.B, DeltaE: c.DeltaE})
	}
	return api.GetPlane200JSONResponse(out), nil
}

func points(list [][2]float64) [][]float64 {
	out := [][]float64{}
	for _, p := range list {
		out = append(out, rounded(p[0], p[1]))
	}
	return out
}

// rounded keeps a hundredth, which is more than a picture shows.
func rounded(v ...float64) []float64 {
	for i := range v {
		v[i] = math.Round(v[i]*100) / 100
	}
	return v
}
