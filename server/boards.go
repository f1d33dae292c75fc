package server

import (
	"bytes"
	"context"
	"strconv"
	"strings"
	"time"

	"github.com/gofiber/fiber/v3"

	"huekeep/api"
	"huekeep/core/board"
	"huekeep/core/typeface"
	"huekeep/keep/boards"
)

// Boards: options, sheets, links and typefaces. What the holder of a link sees is in boardpage.go.

func (s *server) ListBoards(ctx context.Context, _ api.ListBoardsRequestObject) (api.ListBoardsResponseObject, error) {
	list, err := s.Boards.List(ctx, actorOf(ctx))
	out := api.ListBoards200JSONResponse{}
	for _, b := range list {
		out = append(out, api.BoardLine{Id: b.ID, Title: b.Title, By: b.By, Changed: b.Changed, Sheets: b.Sheets, Answers: b.Answers,
			Newest: b.Newest})
	}
	return out, err
}

// board answers with a board after something was done to it.
func (s *server) board(ctx context.Context, id int64, err error) (api.Board, error) {
	if err != nil {
		return api.Board{}, err
	}
	b, err := s.Boards.Board(ctx, actorOf(ctx), id)
	return boardOf(b, time.Now()), err
}

func (s *server) CreateBoard(ctx context.Context, in api.CreateBoardRequestObject) (api.CreateBoardResponseObject, error) {
	id, err := s.Boards.Create(ctx, actorOf(ctx), content(*in.Body))
	out, err := s.board(ctx, id, err)
	return api.CreateBoard201JSONResponse(out), err
}

func (s *server) GetBoard(ctx context.Context, in api.GetBoardRequestObject) (api.GetBoardResponseObject, error) {
	out, err := s.board(ctx, in.Board, nil)
	return api.GetBoard200JSONResponse(out), err
}

func (s *server) ChangeBoard(ctx context.Context, in api.ChangeBoardRequestObject) (api.ChangeBoardResponseObject, error) {
	b := in.Body
	to := content(api.BoardContent{Title: b.Title, Intro: b.Intro, Texts: b.Texts, Logo: b.Logo, Options: b.Options})
	out, err := s.board(ctx, in.Board, s.Boards.Change(ctx, actorOf(ctx), in.Board, b.Version, to))
	return api.ChangeBoard200JSONResponse(out), err
}

func (s *server) DeleteBoard(ctx context.Context, in api.DeleteBoardRequestObject) (api.DeleteBoardResponseObject, error) {
	return api.DeleteBoard204Response{}, s.Boards.Delete(ctx, actorOf(ctx), in.Board)
}

func (s *server) ProposeOptions(ctx context.Context, in api.ProposeOptionsRequestObject) (api.ProposeOptionsResponseObject, error) {
	var colors []board.Paint
	for _, p := range in.Body.Colors {
		colors = append(colors, paint(p))
	}
	list, err := s.Boards.Propose(ctx, actorOf(ctx), colors)
	return api.ProposeOptions200JSONResponse(options(list)), err
}

func (s *server) FixSheet(ctx context.Context, in api.FixSheetRequestObject) (api.FixSheetResponseObject, error) {
	_, err := s.Boards.Fix(ctx, actorOf(ctx), in.Board, in.Body.Version)
	out, err := s.board(ctx, in.Board, err)
	return api.FixSheet201JSONResponse(out), err
}

func (s *server) DownloadSheet(ctx context.Context, in api.DownloadSheetRequestObject) (api.DownloadSheetResponseObject, error) {
	name, data, err := s.Boards.File(ctx, actorOf(ctx), in.Board, in.Number, in.Form)
	return file{data, boards.Forms[in.Form], name}, err
}

func (s *server) OpenBoardLink(ctx context.Context, in api.OpenBoardLinkRequestObject) (api.OpenBoardLinkResponseObject, error) {
	token, err := s.Boards.OpenLink(ctx, actorOf(ctx), in.Board, in.Number, in.Body.Until, text(in.Body.Phrase))
	out, err := s.board(ctx, in.Board, err)
	return api.OpenBoardLink201JSONResponse{Path: boardPath + token, Board: out}, err
}

func (s *server) CloseBoardLink(ctx context.Context, in api.CloseBoardLinkRequestObject) (api.CloseBoardLinkResponseObject, error) {
	return api.CloseBoardLink204Response{}, s.Boards.CloseLink(ctx, actorOf(ctx), in.Board, in.Link)
}

func (s *server) AdoptOption(ctx context.Context, in api.AdoptOptionRequestObject) (api.AdoptOptionResponseObject, error) {
	a, err := s.Boards.Adopt(ctx, actorOf(ctx), in.Board, in.Number, in.Body.Choice)
	return api.AdoptOption200JSONResponse{Set: a.Set, SetId: a.SetID, Admitted: append([]string{}, a.Admitted...), Rules: a.Rules}, err
}

func (s *server) KeepLogo(ctx context.Context, in api.KeepLogoRequestObject) (api.KeepLogoResponseObject, error) {
	_, data, err := s.upload(ctx, in.Body)
	if err != nil {
		return nil, err
	}
	key, err := s.Boards.KeepLogo(ctx, actorOf(ctx), data)
	return api.KeepLogo201JSONResponse{Logo: key}, err
}

func (s *server) GetLogo(ctx context.Context, in api.GetLogoRequestObject) (api.GetLogoResponseObject, error) {
	data, err := s.Boards.Logo(ctx, actorOf(ctx), in.Logo)
	return api.GetLogo200ImagepngResponse{Body: bytes.NewReader(data), ContentLength: int64(len(data))}, err
}

func (s *server) typefaces(ctx context.Context, err error) ([]api.Typeface, error) {
	if err != nil {
		return nil, err
	}
	list, err := s.Boards.Typefaces(ctx, actorOf(ctx))
	out := []api.Typeface{}
	for _, t := range list {
		row := api.Typeface{Key: t.Key, Name: t.Name, Kind: t.Kind}
		if id, ok := boards.Own(t.Key); ok {
			row.Id = &id
		}
		out = append(out, row)
	}
	return out, err
}

func (s *server) ListTypefaces(ctx context.Context, _ api.ListTypefacesRequestObject) (api.ListTypefacesResponseObject, error) {
	out, err := s.typefaces(ctx, nil)
	return api.ListTypefaces200JSONResponse(out), err
}

func (s *server) AddTypeface(ctx context.Context, in api.AddTypefaceRequestObject) (api.AddTypefaceResponseObject, error) {
	name, data, err := s.upload(ctx, in.Body)
	if err != nil {
		return nil, err
	}
	out, err := s.typefaces(ctx, s.Boards.AddTypeface(ctx, actorOf(ctx), name, data))
	return api.AddTypeface201JSONResponse(out), err
}

func (s *server) GetTypeface(ctx context.Context, in api.GetTypefaceRequestObject) (api.GetTypefaceResponseObject, error) {
	data, err := s.Boards.TypefaceFile(ctx, actorOf(ctx), in.Typeface)
	return api.GetTypeface200ApplicationoctetStreamResponse{Body: bytes.NewReader(data), ContentLength: int64(len(data))}, err
}

func (s *server) RemoveTypeface(ctx context.Context, in api.RemoveTypefaceRequestObject) (api.RemoveTypefaceResponseObject, error) {
	return api.RemoveTypeface204Response{}, s.Boards.RemoveTypeface(ctx, actorOf(ctx), in.Typeface)
}

func paint(p api.BoardPaint) board.Paint {
	out := board.Paint{Name: p.Name, Hex: strings.ToUpper(p.Hex)}
	if p.Id != nil {
		out.ID = *p.Id
	}
	return out
}

func paintOf(p board.Paint) api.BoardPaint {
	out := api.BoardPaint{Name: p.Name, Hex: p.Hex}
	if p.ID != 0 {
		out.Id = &p.ID
	}
	return out
}

func option(o api.BoardOption) board.Option {
	out := board.Option{Ground: paint(o.Ground), Type: paint(o.Type), Typeface: o.Typeface, Size: board.Size(o.Size), Logo: o.Logo}
	if o.Outline != nil {
		p := paint(*o.Outline)
		out.Outline = &p
	}
	for _, a := range o.Accents {
		out.Accents = append(out.Accents, paint(a))
	}
	if o.Texts != nil {
		t := textsOf(*o.Texts)
		out.Texts = &t
	}
	return out
}

func options(list []board.Option) []api.BoardOption {
	out := []api.BoardOption{}
	for _, o := range list {
		row := api.BoardOption{Ground: paintOf(o.Ground), Type: paintOf(o.Type), Accents: []api.BoardPaint{}, Typeface: o.Typeface,
			Size: api.BoardOptionSize(o.Size), Logo: o.Logo}
		if o.Outline != nil {
			p := paintOf(*o.Outline)
			row.Outline = &p
		}
		for _, a := range o.Accents {
			row.Accents = append(row.Accents, paintOf(a))
		}
		if o.Texts != nil {
			t := boardTexts(*o.Texts)
			row.Texts = &t
		}
		out = append(out, row)
	}
	return out
}

func textsOf(t api.BoardTexts) board.Texts {
	return board.Texts{Word: t.Word, Headline: t.Headline, Lines: t.Lines, Small: t.Small, Button: t.Button}
}

func boardTexts(t board.Texts) api.BoardTexts {
	return api.BoardTexts{Word: t.Word, Headline: t.Headline, Lines: t.Lines, Small: t.Small, Button: t.Button}
}

func content(c api.BoardContent) board.Board {
	out := board.Board{Title: c.Title, Intro: c.Intro, Texts: textsOf(c.Texts), Logo: c.Logo}
	for _, o := range c.Options {
		out.Options = append(out.Options, option(o))
	}
	return out
}

func boardOf(b boards.Board, now time.Time) api.Board {
	out := api.Board{Id: b.ID, Version: b.Version, By: b.By, Changed: b.Changed, Notes: [][]string{}, Parts: [][]api.BoardPart{},
		Sheets:  []api.BoardSheet{},
		Content: api.BoardContent{Title: b.Title, Intro: b.Intro, Texts: boardTexts(b.Texts), Logo: b.Logo, Options: options(b.Options)}}
	for i, o := range b.Options {
		parts := []api.BoardPart{}
		for _, p := range o.Parts() {
			parts = append(parts, api.BoardPart{Key: api.BoardPartKey(p.Key), Type: p.Type.Hex, On: p.On.Hex, Ratio: p.Ratio, Need: p.Need,
				Passes: p.Passes()})
		}
		out.Parts = append(out.Parts, parts)
		out.Notes = append(out.Notes, append([]string{}, b.Notes[i]...))
	}
	for _, s := range b.Sheets {
		sheet := api.BoardSheet{Number: s.Number, By: s.By, Fixed: s.Fixed, Options: len(s.Options), Answers: []api.BoardAnswer{},
			Links: []api.BoardLink{}}
		for _, x := range s.Answers {
			sheet.Answers = append(sheet.Answers, api.BoardAnswer{Name: x.Name, Choice: x.Choice, Comment: x.Comment, First: x.First,
				At: x.At})
		}
		for _, l := range s.Links {
			sheet.Links = append(sheet.Links, api.BoardLink{Id: l.ID, By: l.By, At: l.At, Until: l.Until, Open: l.Open(now), Asks: l.Asks})
		}
		out.Sheets = append(out.Sheets, sheet)
	}
	return out
}

// shippedFace serves a font that ships: spectral-latin-400.woff2.
func shippedFace(c fiber.Ctx) error {
	name, _ := strings.CutSuffix(c.Params("file"), ".woff2")
	if at := strings.LastIndexByte(name, '-'); at > 0 {
		weight, err := strconv.Atoi(name[at+1:])
		for _, part := range typeface.Parts {
			if key, ok := strings.CutSuffix(name[:at], "-"+part); ok && err == nil {
				if data := typeface.File(key, part, weight); data != nil {
					c.Set("Content-Type", "font/woff2")
					c.Set("Cache-Control", "public, max-age=604800")
					return c.Send(data)
				}
			}
		}
	}
	return fiber.ErrNotFound
}

// shippedFaces is a style sheet with every typeface that ships, as a class and as families to ask for: the part of a family that
// has a letter writes it.
func shippedFaces(c fiber.Ctx) error {
	var b strings.Builder
	for _, t := range typeface.Shipped() {
		var families []string
		for _, part := range typeface.Parts {
			families = append(families, `"`+t.Key+" "+part+`"`)
			for _, weight := range []string{"400", "700"} {
				b.WriteString(`@font-face{font-family:"` + t.Key + " " + part + `";font-weight:` + weight +
					`;font-display:swap;src:url("/typefaces/` + t.Key + "-" + part + "-" + weight + ".woff2\") format(\"woff2\")}\n")
			}
		}
		b.WriteString(".face-" + t.Key + "{font-family:" + strings.Join(families, ",") + ",sans-serif}\n")
	}
	c.Set("Content-Type", "text/css; charset=utf-8")
	c.Set("Cache-Control", "public, max-age=86400")
	return c.SendString(b.String())
}
