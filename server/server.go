// Package server is the HTTP side: the routes of api/openapi.yaml, sessions, roles, uploads and the built interface.
package server

import (
	"cmp"
	"context"
	"crypto/subtle"
	"errors"
	"fmt"
	"io"
	"io/fs"
	"log/slog"
	"math"
	"mime"
	"strconv"
	"strings"
	"time"

	"github.com/gofiber/fiber/v3"
	"github.com/gofiber/fiber/v3/middleware/compress"
	"github.com/gofiber/fiber/v3/middleware/recover"

	"huekeep/api"
	"huekeep/core/limits"
	"huekeep/keep"
	"huekeep/keep/house"
	"huekeep/keep/stations"
	"huekeep/standin"
	"huekeep/ui"
)

// Options are what the server is made from.
type Options struct {
	Stations  *stations.Stations
	Interface fs.FS  // the built interface
	Demo      bool   // offer the demo accounts at sign-in
	Secure    bool   // the site is served over HTTPS: mark the cookie so
	Outbox    Outbox // of the stand-in mail server; nil where mail goes to a real one
	Fetches   int    // fetches at pickups from one address in a minute; limits.Fetches if 0
}

// Outbox shows what was mailed.
type Outbox interface {
	Letter(id string) (standin.Letter, bool)
}

const sessionCookie = "huekeep_session"

// New makes the application.
func New(o Options) *fiber.App {
	app := fiber.New(fiber.Config{
		AppName:       "Hue Keep",
		CaseSensitive: true, // so that what is guarded is what is routed
		BodyLimit:     bodyLimit,
		// Bodies are streamed so that one over the limit can be read away and answered; see limitBody.
		StreamRequestBody: true,
		ErrorHandler:      fail,
		ReadTimeout:       5 * time.Minute,
		IdleTimeout:       2 * time.Minute,
		Immutable:         true, // strings of a request are kept beyond it
	})
	app.Use(recover.New(recover.Config{EnableStackTrace: true, StackTraceHandler: func(c fiber.Ctx, e any) {
		slog.Error("panic", "path", c.Path(), "error", e)
	}}))
	app.Use(func(c fiber.Ctx) error {
		c.Set("X-Content-Type-Options", "nosniff")
		c.Set("Referrer-Policy", "same-origin")
		c.Set("Content-Security-Policy", "default-src 'self'; script-src 'self' 'wasm-unsafe-eval'; style-src 'self'; style-src-attr 'unsafe-inline'; img-src 'self' data: blob:; frame-ancestors 'none'; base-uri 'none'; form-action 'self'")
		return c.Next()
	})
	app.Use(limitBody, compress.New(compress.Config{Level: compress.LevelBestSpeed, // a large ledger waits for it
		Next: func(c fiber.Ctx) bool { return strings.HasSuffix(c.Path(), "/events") }})) // what is streamed is not held back
	app.Get("/health", func(c fiber.Ctx) error {
		if err := o.Stations.Base.DB.Ping(c.Context()); err != nil {
			return c.Status(fiber.StatusServiceUnavailable).SendString("the database does not answer\n")
		}
		return c.SendString("ok\n")
	})
	s := &server{Stations: o.Stations, Options: o, guesses: limiter{most: 20, within: time.Minute}, phrases: limiter{most: 10, within: 10 * time.Minute},
		answers: limiter{most: 60, within: 10 * time.Minute}, fetches: limiter{most: cmp.Or(o.Fetches, limits.Fetches), within: time.Minute}}
	doc, err := api.Contract()
	if err != nil {
		panic(err) // compiled in and tested
	}
	access, err := api.AccessOf(doc)
	if err != nil {
		panic(err) // likewise
	}
	group := app.Group("/api", func(c fiber.Ctx) error {
		c.Set("Cache-Control", "no-store")
		return s.hub.telling(c)
	})
	api.RegisterHandlers(guarded{group, s, access}, api.NewStrictHandler(s, nil))
	group.Use(func(c fiber.Ctx) error { return fiber.NewError(fiber.StatusNotFound, "There is no such address.") })

	s.boardPages(app)
	s.pickupPages(app)
	app.Get("/notices.txt", func(c fiber.Ctx) error { return c.SendString(ui.Notices) })
	// Files with a hash in their name; every other path is the interface, which routes by itself.
	app.Get("/assets/*", assets(o.Interface))
	app.Get("/*", func(c fiber.Ctx) error {
		page, err := fs.ReadFile(o.Interface, "index.html")
		if err != nil {
			return c.Status(fiber.StatusServiceUnavailable).SendString("The interface is not built into this program; see the README.\n")
		}
		c.Set("Content-Type", "text/html; charset=utf-8")
		c.Set("Cache-Control", "no-cache")
		return c.Send(page)
	})
	return app
}

// bodyLimit leaves room for a file of the largest size and the form around it.
const bodyLimit = limits.UploadBytes + 1<<20

// jsonLimit leaves room for the largest paste with every character escaped.
const jsonLimit = 8 * limits.PasteBytes

// limitBody refuses bodies over the limit. It takes the rest of the upload off the line first, up to ten times the
// limit: a connection closed in the middle of it would show as a broken one and hide the answer.
func limitBody(c fiber.Ctx) error {
	length := c.Request().Header.ContentLength()
	if length < 0 && changes(c.Method()) && c.Get("Transfer-Encoding") != "" {
		return fiber.NewError(fiber.StatusLengthRequired, "The request does not say how long it is.")
	}
	most := bodyLimit
	if strings.HasPrefix(c.Get("Content-Type"), "application/json") {
		most = jsonLimit
	}
	if length > most {
		takeAway(c)
		return fiber.ErrRequestEntityTooLarge
	}
	return c.Next()
}

// takeAway reads what is sent and nobody wants, so that the answer arrives.
func takeAway(c fiber.Ctx) {
	if body := c.Request().BodyStream(); body != nil {
		_, _ = io.Copy(io.Discard, io.LimitReader(body, 10*bodyLimit)) // the answer is the same if it breaks off
	}
	c.Set("Connection", "close")
}

// statuses are the answers to what may go wrong.
var statuses = map[keep.Kind]int{keep.Invalid: 422, keep.Forbidden: 403, keep.NotFound: 404, keep.Conflict: 409, keep.TooLarge: 413, keep.TooMany: 429,
	keep.Unauthorized: 401, keep.NoRoom: 507}

// problem is an error of the rules as the contract gives it.
func problem(e *keep.Error) api.Problem {
	p := api.Problem{Title: e.Message, Status: statuses[e.Kind], Code: cmp.Or(e.Code, string(e.Kind))}
	if e.Field != "" {
		p.Field = &e.Field
	}
	if len(e.Items) > 0 {
		items := []api.ItemProblem{}
		for _, i := range e.Items {
			items = append(items, api.ItemProblem{Id: i.ID, Reason: i.Reason})
		}
		p.Items = &items
	}
	return p
}

// fail answers an error as a problem (RFC 9457).
func fail(c fiber.Ctx, err error) error {
	p := api.Problem{Status: fiber.StatusInternalServerError, Code: "failed", Title: "Something went wrong here; it was noted. Try again."}
	var theirs *fiber.Error
	ours := keep.Explain(err)
	switch {
	case ours != nil:
		p = problem(ours)
		if ours.Retry > 0 {
			c.Set("Retry-After", strconv.Itoa(int(math.Ceil(ours.Retry.Seconds()))))
		}
	case errors.As(err, &theirs):
		p.Status, p.Title, p.Code = theirs.Code, theirs.Message, string(keep.Invalid)
		switch theirs.Code {
		case fiber.StatusRequestEntityTooLarge:
			p.Code = string(keep.TooLarge)
			p.Title = fmt.Sprintf("What was sent is larger than %s, the most that is read.", limits.Size(limits.UploadBytes))
			if strings.HasPrefix(c.Get("Content-Type"), "application/json") {
				p.Title = fmt.Sprintf("The text is larger than %s, the most that is read at once.", limits.Size(limits.PasteBytes))
			}
		case fiber.StatusBadRequest:
			p.Title = "The request could not be understood: " + theirs.Message + "."
		case fiber.StatusMethodNotAllowed, fiber.StatusNotFound:
			p.Title, p.Code = "There is no such address.", string(keep.NotFound)
		}
	case errors.Is(err, context.Canceled):
		p.Status, p.Code, p.Title = 499, "given-up", "The request was given up."
	default:
		slog.Error("request failed", "method", c.Method(), "path", c.Path(), "error", err)
	}
	c.Status(p.Status)
	return c.JSON(p, "application/problem+json")
}

type server struct {
	*stations.Stations
	Options
	hub hub

	guesses, phrases, answers, fetches limiter // of holders of links: tokens that lead nowhere, wrong pass phrases, answers, files
}

type contextKey int

const (
	sessionKey contextKey = iota
	actorKey
)

func sessionOf(ctx context.Context) house.SignedIn { return ctx.Value(sessionKey).(house.SignedIn) }

func actorOf(ctx context.Context) keep.Actor { return ctx.Value(actorKey).(keep.Actor) }

// guarded puts the guard of an operation before its handler: each route of the contract is registered with who may call it.
type guarded struct {
	fiber.Router
	server *server
	access map[string]api.Access
}

func (g guarded) guard(method, path string) fiber.Handler {
	a, ok := g.access[method+" "+path]
	if !ok {
		panic("the contract does not say who may call " + method + " " + path)
	}
	if a.Role != "" && !keep.Role(a.Role).Reaches(keep.RoleReader) {
		panic(a.Operation + " is for a role that there is not: " + a.Role)
	}
	return func(c fiber.Ctx) error { return g.server.enter(c, a) }
}

// Get and the like register a handler behind its guard.
func (g guarded) Get(path string, handler any, more ...any) fiber.Router {
	return g.Router.Get(path, g.guard(fiber.MethodGet, path), append([]any{handler}, more...)...)
}

func (g guarded) Post(path string, handler any, more ...any) fiber.Router {
	return g.Router.Post(path, g.guard(fiber.MethodPost, path), append([]any{handler}, more...)...)
}

func (g guarded) Put(path string, handler any, more ...any) fiber.Router {
	return g.Router.Put(path, g.guard(fiber.MethodPut, path), append([]any{handler}, more...)...)
}

func (g guarded) Patch(path string, handler any, more ...any) fiber.Router {
	return g.Router.Patch(path, g.guard(fiber.MethodPatch, path), append([]any{handler}, more...)...)
}

func (g guarded) Delete(path string, handler any, more ...any) fiber.Router {
	return g.Router.Delete(path, g.guard(fiber.MethodDelete, path), append([]any{handler}, more...)...)
}

// enter stands before an operation, and before its body is read: it finds the session, or the link, checks the token of changes,
// finds the house, which does not exist for those who do not belong to it, and sees that the role reaches. Handlers take the
// actor from the context.
func (s *server) enter(c fiber.Ctx, a api.Access) error {
	if site := c.Get("Sec-Fetch-Site"); changes(c.Method()) && site != "" && site != "same-origin" && site != "none" {
		return &keep.Error{Kind: keep.Forbidden, Message: "The request came from another site."}
	}
	if err := readable(c); err != nil {
		return err
	}
	if a.Open {
		return c.Next()
	}
	if a.Link != "" && c.Params("token") != "" {
		actor, err := s.Links.Follow(c.Context(), keep.LinkKind(a.Link), c.Params("token"))
		if err != nil {
			return err
		}
		c.SetContext(context.WithValue(c.Context(), actorKey, actor))
		return c.Next()
	}
	session, err := s.House.Session(c.Context(), c.Cookies(sessionCookie))
	if err != nil {
		return err
	}
	if changes(c.Method()) && subtle.ConstantTimeCompare([]byte(c.Get("X-CSRF-Token")), []byte(session.CSRF)) != 1 {
		return &keep.Error{Kind: keep.Forbidden, Message: "The page is out of date; reload it and try again."}
	}
	ctx := context.WithValue(c.Context(), sessionKey, session)
	if a.Role != "" {
		id, err := strconv.ParseInt(c.Params("house"), 10, 64)
		if err != nil {
			return &keep.Error{Kind: keep.NotFound, Message: "There is no such house, or you do not belong to it."}
		}
		actor, err := s.House.Enter(ctx, session.Account, id)
		if err != nil {
			return err
		}
		if err := actor.May(keep.Role(a.Role)); err != nil {
			return err
		}
		ctx = context.WithValue(ctx, actorKey, actor)
	}
	c.SetContext(ctx)
	return c.Next()
}

// readable refuses bodies in forms that no operation takes.
func readable(c fiber.Ctx) error {
	if c.Request().Header.ContentLength() == 0 || !changes(c.Method()) {
		return nil
	}
	kind, _, err := mime.ParseMediaType(c.Get("Content-Type"))
	if err != nil || kind != "application/json" && kind != "multipart/form-data" {
		return fiber.NewError(fiber.StatusUnsupportedMediaType, "The request has to come as JSON, or as a form with a file.")
	}
	return nil
}

func changes(method string) bool {
	return method != fiber.MethodGet && method != fiber.MethodHead && method != fiber.MethodOptions
}

// cookie writes the session cookie; a negative age takes it away.
func (s *server) cookie(token string, age time.Duration) *string {
	parts := []string{sessionCookie + "=" + token, "Path=/", "HttpOnly", "SameSite=Lax", fmt.Sprintf("Max-Age=%d", int(age.Seconds()))}
	if s.Secure {
		parts = append(parts, "Secure")
	}
	v := strings.Join(parts, "; ")
	return &v
}
