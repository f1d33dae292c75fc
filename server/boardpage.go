package server

import (
	_ "embed"
	"encoding/base64"

	"fmt"
	"html/template"
	"log/slog"
	"net/url"
	"strconv"
	"strings"

	"github.com/gofiber/fiber/v3"

	"huekeep/core/board"
	"huekeep/core/color"
	"huekeep/core/contrast"
	"huekeep/core/limits"
	"huekeep/core/press"
	"huekeep/core/vision"
	"huekeep/keep"
	"huekeep/keep/boards"
	"huekeep/keep/links"
)

// The page that somebody without an account sees: a sheet of a board, with a form to answer. It needs no script and no cookie, and
// shows nothing else of the house.

const boardPath = "/b/"

//go:embed board.html
var boardHTML string

//go:embed board.css
var boardCSS string

var boardTemplate = template.Must(template.New("board").Parse(boardHTML))

// boardPages registers the page and what belongs to it.
func (s *server) boardPages(app *fiber.App) {
	app.Get("/typefaces/faces.css", shippedFaces)
	app.Get("/typefaces/:file", shippedFace)
	app.Get("/board.css", shipped("text/css; charset=utf-8", boardCSS))
	private := unlisted("img-src data:")
	app.Get(boardPath+":token", private, s.boardPage)
	app.Post(boardPath+":token", private, s.boardPage)
	app.Get(boardPath+":token/faces.css", private, s.boardFaces)
	app.Get(boardPath+":token/typeface/:id", private, s.boardFace)
}

// shipped answers with a text that came with the program.
func shipped(kind, text string) fiber.Handler {
	return func(c fiber.Ctx) error {
		c.Set("Content-Type", kind)
		c.Set("Cache-Control", "no-cache")
		return c.SendString(text)
	}
}

// unlisted is for a page whose address is its key: kept by nobody, found by no search, told to no other site, framed by none. The page
// may load our styles and typefaces, and what more the policy says, a directive of a Content-Security-Policy.
func unlisted(more string) fiber.Handler {
	policy := "default-src 'none'; " + more +
		"; style-src 'self'; style-src-attr 'unsafe-inline'; font-src 'self'; frame-ancestors 'none'; base-uri 'none'; form-action 'self'"
	return func(c fiber.Ctx) error {
		c.Set("Cache-Control", "no-store")
		c.Set("X-Robots-Tag", "noindex, nofollow")
		c.Set("Referrer-Policy", "no-referrer")
		c.Set("Content-Security-Policy", policy)
		return c.Next()
	}
}

// shownOption is an option as the page writes it.
type shownOption struct {
	Letter string
	At     int
	board.Texts
	Class   string       // of the typeface
	Style   template.CSS // its colors and the scale of its type, as custom properties
	Outline bool
	Accents []template.CSS
	Logo    bool
	Colors  []shownColor
}

type shownColor struct {
	Name, Hex string
	Style     template.CSS
}

type shownPage struct {
	House, Title, Intro, Problem, Done, Message string
	Number                                      int
	Fixed, Until                                string
	Logo, Mark                                  template.URL // of the board and of the house; empty for none
	Options                                     []shownOption
	Columns                                     int
	Looks                                       []shownLook
	Look                                        string
	Asks, Locked                                bool   // for a pass phrase; and it was not given yet
	Phrase, Secret, Token, Key                  string // Key opens the typefaces of a sheet behind a pass phrase
	Name, Comment                               string
	Choice                                      int // -1 for none yet
	MostName, MostComment                       int
}

type shownLook struct {
	Key, Name string
	Now       bool
}

// looks are the ways to see a sheet.
var looks = []struct {
	key, name string
	see       func(color.RGB8) color.RGB8
}{
	{"", "as it is on the screen", nil},
	{"paper", "see it on paper", func(c color.RGB8) color.RGB8 {
		build := press.Coated().Build(c.Lab()).Whole
		return press.Coated().OnPaperLab(build).RGB().RGB8()
	}},
	{"red-green", "seen with weak red-green vision", func(c color.RGB8) color.RGB8 { return vision.Simulate(c, vision.Deutan, 0.8) }},
}

// boardActor finds the holder of a link. Whoever tries many that lead nowhere is held off.
func (s *server) boardActor(c fiber.Ctx) (keep.Actor, error) {
	if wait := s.guesses.held(network(c.Context())); wait > 0 {
		return keep.Actor{}, &keep.Error{Kind: keep.TooMany, Retry: wait,
			Message: "Too many links that lead nowhere were tried from here. Wait a minute and try again."}
	}
	a, err := s.Links.Follow(c.Context(), c.Params("token"), keep.BoardLink)
	if ours := keep.Explain(err); ours != nil && ours.Code != links.CodeClosed {
		s.guesses.count(network(c.Context()))
	}
	return a, err
}

// opened puts on the trail of a house that somebody followed one of its links, once an hour for each address.
func (s *server) opened(c fiber.Ctx, a keep.Actor, about string) {
	from := keep.FromOf(c.Context())
	who := fmt.Sprintf("%d %s", a.Link.ID, from.Address)
	if s.followed.held(who) > 0 {
		return
	}
	s.followed.count(who)
	from.Via = "link"
	s.House.Noted(keep.WithFrom(c.Context(), from), keep.Did{House: a.House.ID, Name: a.Name, What: "link opened", About: about,
		Outcome: fiber.StatusOK})
}

// houseMark is the mark of a house as a page carries it; empty for none.
func (s *server) houseMark(c fiber.Ctx, a keep.Actor) template.URL {
	m, err := s.House.Mark(c.Context(), a)
	if err != nil {
		return ""
	}
	return template.URL("data:image/png;base64," + base64.StdEncoding.EncodeToString(m.Data)) //nolint:gosec // drawn by us
}

func (s *server) boardPage(c fiber.Ctx) error {
	form := url.Values{}
	var err error
	if c.Method() == fiber.MethodPost { // the body first: an answer before it is read would be lost
		if c.Request().Header.ContentLength() > limits.AnswerBytes {
			return boardProblem(c, &keep.Error{Kind: keep.TooLarge,
				Message: fmt.Sprintf("What was sent is larger than %s, the most that an answer can have. Go back and shorten your comment.",
					limits.Size(limits.AnswerBytes))})
		}
		if form, err = url.ParseQuery(string(c.Body())); err != nil {
			return boardProblem(c, &keep.Error{Kind: keep.Invalid, Message: "The form could not be read. Go back and send it again."})
		}
	}
	a, err := s.boardActor(c)
	if err != nil {
		return boardProblem(c, err)
	}
	p := shownPage{House: a.House.Name, Mark: s.houseMark(c, a), Token: c.Params("token"), Asks: a.Link.Asks, Phrase: form.Get("phrase"),
		Secret: form.Get("page"), Name: form.Get("name"),
		Comment: form.Get("comment"), Choice: -1, MostName: limits.NameRunes, MostComment: limits.AnswerRunes, Look: c.Query("look")}
	if form.Has("look") {
		p.Look = form.Get("look")
	}
	if p.Secret == "" {
		p.Secret = keep.Random()
	}
	if at, err := strconv.Atoi(form.Get("choice")); err == nil {
		p.Choice = at
	}
	if a.Link.Until != nil {
		p.Until = a.Link.Until.Format("January 2")
	}
	if a.Link.Asks && p.Phrase == "" {
		p.Locked = true
		return boardShow(c, fiber.StatusOK, p)
	}
	tries := fmt.Sprintf("%s %d", network(c.Context()), a.Link.ID)
	if wait := s.phrases.held(tries); wait > 0 && a.Link.Asks {
		return boardProblem(c, &keep.Error{Kind: keep.TooMany, Retry: wait,
			Message: "Too many wrong pass phrases. Wait ten minutes and try again."})
	}
	sheet, logo, err := s.Boards.Shown(c.Context(), a, p.Phrase)
	if ours := keep.Explain(err); ours != nil && ours.Kind == keep.Unauthorized {
		s.phrases.count(tries)
		p.Locked, p.Problem, p.Phrase = true, ours.Message, ""
		return boardShow(c, fiber.StatusUnauthorized, p)
	}
	if err != nil {
		return boardProblem(c, err)
	}
	if a.Link.Asks {
		p.Key = s.faceKey(c.Params("token"))
	}
	s.opened(c, a, fmt.Sprintf("%s, sheet %d", sheet.Title, sheet.Number))
	status := fiber.StatusOK
	if form.Get("do") == "answer" {
		who := fmt.Sprintf("%s %d", network(c.Context()), a.Link.ID)
		if wait := s.answers.held(who); wait > 0 {
			return boardProblem(c, &keep.Error{Kind: keep.TooMany, Retry: wait,
				Message: "Many answers came from here in a short time. Wait a few minutes, then go back and send yours again."})
		}
		s.answers.count(who)
		err := s.Boards.Answer(c.Context(), a, p.Phrase, boards.NewAnswer{Page: p.Secret, Name: p.Name, Comment: p.Comment,
			Choice: p.Choice})
		switch ours := keep.Explain(err); {
		case ours != nil:
			status, p.Problem = statuses[ours.Kind], ours.Message
		case err != nil:
			return boardProblem(c, err)
		default:
			s.hub.tell(a.House.ID, "")
			p.Done = fmt.Sprintf("Thank you, %s. %s knows that you chose %s.", strings.TrimSpace(p.Name), a.House.Name,
				board.Letter(p.Choice))
		}
	}
	p.fill(sheet, logo)
	return boardShow(c, status, p)
}

// fill puts a sheet on the page, in the colors of a look.
func (p *shownPage) fill(s boards.Sheet, logo []byte) {
	p.Title, p.Intro, p.Number, p.Fixed = s.Title, s.Intro, s.Number, s.Fixed.Format("January 2, 2006")
	if len(logo) > 0 {
		p.Logo = template.URL("data:image/png;base64," + base64.StdEncoding.EncodeToString(logo)) //nolint:gosec // checked when it came in
	}
	var see func(color.RGB8) color.RGB8
	for _, l := range looks {
		p.Looks = append(p.Looks, shownLook{l.key, l.name, l.key == p.Look})
		if l.key == p.Look {
			see = l.see
		}
	}
	p.Columns = len(s.Options)
	if p.Columns > 4 {
		p.Columns = (p.Columns + 1) / 2
	}
	for i, o := range s.Options {
		ground, label := o.Button()
		shown := o
		value := func(b board.Paint) string { return b.Hex }
		if see != nil {
			shown = o.Seen(see)
			value = func(b board.Paint) string { return see(b.RGB()).Hex() }
		}
		out := shownOption{Letter: board.Letter(i), At: i, Texts: s.TextsOf(i), Class: "face-" + o.Typeface, Outline: o.Outline != nil,
			Logo: o.Logo && len(logo) > 0}
		style := fmt.Sprintf("--ground:%s;--type:%s;--button:%s;--label:%s;--scale:%g", shown.Ground.Hex, shown.Type.Hex, value(ground),
			value(label), o.Size.Scale())
		if shown.Outline != nil {
			style += ";--outline:" + shown.Outline.Hex
		}
		out.Style = template.CSS(style) //nolint:gosec // hex values, checked when the board was kept
		if len(o.Accents) > 1 {
			for _, a := range shown.Accents {
				out.Accents = append(out.Accents, template.CSS("background:"+a.Hex)) //nolint:gosec // likewise
			}
		}
		for _, c := range o.Colors() {
			seen := board.Paint{Hex: value(c)}
			ink := "#111111"
			if contrast.Ratio(color.RGB8{R: 255, G: 255, B: 255}, seen.RGB()) > contrast.Ratio(color.RGB8{R: 17, G: 17, B: 17},
				seen.RGB()) {
				ink = "#FFFFFF"
			}
			out.Colors = append(out.Colors,
				shownColor{c.Name, c.Hex, template.CSS("background:" + seen.Hex + ";color:" + ink)}) //nolint:gosec // likewise
		}
		p.Options = append(p.Options, out)
	}
}

func boardShow(c fiber.Ctx, status int, p shownPage) error {
	var b strings.Builder
	if err := boardTemplate.Execute(&b, p); err != nil {
		return err
	}
	c.Set("Content-Type", "text/html; charset=utf-8")
	return c.Status(status).SendString(b.String())
}

// boardProblem says on a page of its own why there is no sheet.
func boardProblem(c fiber.Ctx, err error) error {
	ours := keep.Explain(err)
	if ours == nil {
		slog.Error("a board's page failed", "error", err)
		return boardShow(c, fiber.StatusInternalServerError, shownPage{Message: "Something went wrong here; it was noted. Try again."})
	}
	status := statuses[ours.Kind]
	if ours.Code == links.CodeClosed {
		status = fiber.StatusGone
	}
	if ours.Retry > 0 {
		c.Set("Retry-After", strconv.Itoa(int(ours.Retry.Seconds())+1))
	}
	return boardShow(c, status, shownPage{Message: ours.Message})
}

// boardFaces is a style sheet with the house's own typefaces of a sheet.
func (s *server) boardFaces(c fiber.Ctx) error {
	a, key, err := s.faceActor(c)
	if err != nil {
		return err
	}
	ids, err := s.Boards.OwnTypefaces(c.Context(), a)
	if err != nil {
		return err
	}
	var b strings.Builder
	for _, id := range ids {
		fmt.Fprintf(&b, "@font-face{font-family:\"own-%d\";font-display:swap;src:url(\"%s%s/typeface/%d%s\")}\n.face-own-%d{font-family:\"own-%d\",sans-serif}\n",
			id, boardPath, url.PathEscape(c.Params("token")), id, key, id, id)
	}
	c.Set("Content-Type", "text/css; charset=utf-8")
	return c.SendString(b.String())
}

// faceKey opens what a page of a sheet loads that stands behind a pass phrase.
func (s *server) faceKey(token string) string { return s.Base.Keys.Seal("faces " + token) }

// faceActor is the holder of a link who may load typefaces: behind a pass phrase, whoever has the key of the page.
func (s *server) faceActor(c fiber.Ctx) (a keep.Actor, key string, err error) {
	if a, err = s.boardActor(c); err != nil {
		return a, "", err
	}
	if a.Link != nil && a.Link.Asks {
		if !s.Base.Keys.Fits(c.Query("key"), "faces "+c.Params("token")) {
			return a, "", keep.None("typeface")
		}
		key = "?key=" + url.QueryEscape(c.Query("key"))
	}
	return a, key, nil
}

func (s *server) boardFace(c fiber.Ctx) error {
	a, _, err := s.faceActor(c)
	if err != nil {
		return err
	}
	id, err := strconv.ParseInt(c.Params("id"), 10, 64)
	if err != nil {
		return keep.None("typeface")
	}
	data, err := s.Boards.TypefaceFile(c.Context(), a, id)
	if err != nil {
		return err
	}
	c.Set("Content-Type", "font/woff2")
	return c.Send(data)
}
