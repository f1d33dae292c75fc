package server

import (
	"context"

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
