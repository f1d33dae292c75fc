// Package server is the HTTP side: the routes of api/openapi.yaml, sessions, roles, uploads and the built interface.
package server

import (
	"context"
	"crypto/subtle"
	"errors"
	"fmt"
	"io"
	"io/fs"
	"log/slog"
	"math"
	"strconv"
	"strings"
	"time"

	"github.com/gofiber/fiber/v3"
	"github.com/gofiber/fiber/v3/middleware/compress"
	"github.com/gofiber/fiber/v3/middleware/recover"

	"huekeep/api"
	"huekeep/core/limits"
	"huekeep/keep"
)

// Options are what the server is made from.
type Options struct {
	Keeper    *keep.Keeper
	Interface fs.FS // the built interface
	Demo      bool  // offer the demo accounts at sign-in
	Secure    bool  // the site is served over HTTPS: mark the cookie so
}

const sessionCookie = "huekeep_session"

// New makes the application.
func New(o Options) *fiber.App {
	app := fiber.New(fiber.Config{
		AppName:   "Hue Keep",
		BodyLimit: bodyLimit,
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
	app.Use(limitBody, compress.New(compress.Config{Level: compress.LevelBestSpeed})) // a large ledger waits for it
	app.Get("/health", func(c fiber.Ctx) error {
		if err := o.Keeper.DB.Ping(c.Context()); err != nil {
			return c.Status(fiber.StatusServiceUnavailable).SendString("the database does not answer\n")
		}
		return c.SendString("ok\n")
	})
	s := &server{o}
	group := app.Group("/api", func(c fiber.Ctx) error {
		c.Set("Cache-Control", "no-store")
		return c.Next()
	}, s.enter)
	api.RegisterHandlers(group, api.NewStrictHandler(s, nil))
	group.Use(func(c fiber.Ctx) error { return fiber.NewError(fiber.StatusNotFound, "There is no such address.") })

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
		if body := c.Request().BodyStream(); body != nil {
			_, _ = io.Copy(io.Discard, io.LimitReader(body, 10*bodyLimit)) // the answer is the same if it breaks off
		}
		c.Set("Connection", "close")
		return fiber.ErrRequestEntityTooLarge
	}
	return c.Next()
}

// fail answers an error as a problem (RFC 9457).
func fail(c fiber.Ctx, err error) error {
	p := api.Problem{Status: fiber.StatusInternalServerError, Title: "Something went wrong here; it was noted. Try again."}
	var ours *keep.Error
	var theirs *fiber.Error
	switch {
	case errors.As(err, &ours):
		p.Title = ours.Message
		p.Status = map[keep.Kind]int{keep.Invalid: 422, keep.Forbidden: 403, keep.NotFound: 404, keep.Conflict: 409,
			keep.TooLarge: 413, keep.TooMany: 429, keep.Unauthorized: 401}[ours.Kind]
		if ours.Field != "" {
			p.Field = &ours.Field
		}
		if len(ours.Items) > 0 {
			items := []api.ItemProblem{}
			for _, i := range ours.Items {
				items = append(items, api.ItemProblem{Id: i.ID, Reason: i.Reason})
			}
			p.Items = &items
		}
		if ours.Retry > 0 {
			c.Set("Retry-After", strconv.Itoa(int(math.Ceil(ours.Retry.Seconds()))))
		}
	case errors.As(err, &theirs):
		p.Status, p.Title = theirs.Code, theirs.Message
		switch theirs.Code {
		case fiber.StatusRequestEntityTooLarge:
			p.Title = fmt.Sprintf("What was sent is larger than %s, the most that is read.", limits.Size(limits.UploadBytes))
			if strings.HasPrefix(c.Get("Content-Type"), "application/json") {
				p.Title = fmt.Sprintf("The text is larger than %s, the most that is read at once.", limits.Size(limits.PasteBytes))
			}
		case fiber.StatusBadRequest:
			p.Title = "The request could not be understood: " + theirs.Message + "."
		case fiber.StatusMethodNotAllowed, fiber.StatusNotFound:
			p.Title = "There is no such address."
		}
	case errors.Is(err, context.Canceled):
		p.Status, p.Title = 499, "The request was given up."
	default:
		slog.Error("request failed", "method", c.Method(), "path", c.Path(), "error", err)
	}
	c.Status(p.Status)
	return c.JSON(p, "application/problem+json")
}

type server struct{ Options }

type contextKey int

const (
	sessionKey contextKey = iota
	actorKey
)

func sessionOf(ctx context.Context) keep.SignedIn { return ctx.Value(sessionKey).(keep.SignedIn) }

func actorOf(ctx context.Context) keep.Actor { return ctx.Value(actorKey).(keep.Actor) }

// open says whether an address needs no session: signing in, and the accounts that the sign-in page offers.
func open(method, path string) bool {
	return method == fiber.MethodPost && path == "/api/session" || method == fiber.MethodGet && path == "/api/demo-accounts"
}

// enter stands before every operation, and before its body is read: it finds the session, checks the token of changes
// and finds the house, which does not exist for those who do not belong to it. Handlers take the actor from the context.
func (s *server) enter(c fiber.Ctx) error {
	if site := c.Get("Sec-Fetch-Site"); changes(c.Method()) && site != "" && site != "same-origin" && site != "none" {
		return &keep.Error{Kind: keep.Forbidden, Message: "The request came from another site."}
	}
	if open(c.Method(), c.Path()) {
		return c.Next()
	}
	session, err := s.Keeper.Session(c.Context(), c.Cookies(sessionCookie))
	if err != nil {
		return err
	}
	if changes(c.Method()) && subtle.ConstantTimeCompare([]byte(c.Get("X-CSRF-Token")), []byte(session.CSRF)) != 1 {
		return &keep.Error{Kind: keep.Forbidden, Message: "The page is out of date; reload it and try again."}
	}
	ctx := context.WithValue(c.Context(), sessionKey, session)
	if rest, ok := strings.CutPrefix(c.Path(), "/api/houses/"); ok {
		id, _, _ := strings.Cut(rest, "/")
		house, err := strconv.ParseInt(id, 10, 64)
		if err != nil {
			return &keep.Error{Kind: keep.NotFound, Message: "There is no such house, or you do not belong to it."}
		}
		actor, err := s.Keeper.Enter(ctx, session.User, house)
		if err != nil {
			return err
		}
		ctx = context.WithValue(ctx, actorKey, actor)
	}
	c.SetContext(ctx)
	return c.Next()
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
