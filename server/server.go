// Package server is the HTTP side: the routes of api/openapi.yaml, sessions, roles, uploads and the built interface.
package server

import (
	"context"
	"crypto/subtle"
	"errors"
	"fmt"
	"io/fs"
	"log/slog"
	"math"
	"strconv"
	"strings"
	"time"

	"github.com/gofiber/fiber/v3"
	"github.com/gofiber/fiber/v3/middleware/compress"
	"github.com/gofiber/fiber/v3/middleware/recover"
	"github.com/gofiber/fiber/v3/middleware/static"

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
		AppName:      "Hue Keep",
		BodyLimit:    limits.UploadBytes + 1<<20, // the file and the form around it
		ErrorHandler: fail,
		ReadTimeout:  5 * time.Minute,
		IdleTimeout:  2 * time.Minute,
		Immutable:    true, // strings of a request are kept beyond it
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
	app.Use(compress.New())
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
	})
	api.RegisterHandlers(group, api.NewStrictHandler(s, []api.StrictMiddlewareFunc{s.enter}))
	group.Use(func(c fiber.Ctx) error { return fiber.NewError(fiber.StatusNotFound, "There is no such address.") })

	// Files with a hash in their name never change; every other path is the interface, which routes by itself.
	if assets, err := fs.Sub(o.Interface, "assets"); err == nil {
		app.Get("/assets/*", static.New("", static.Config{FS: assets, MaxAge: 365 * 24 * 3600}), func(fiber.Ctx) error { return fiber.ErrNotFound })
	}
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
			p.Title = fmt.Sprintf("The upload is larger than %s, the most that is read.", limits.Size(limits.UploadBytes))
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

// open lists the operations that need no session.
var open = map[string]bool{"SignIn": true, "ListDemoAccounts": true}

// enter stands before every operation: it finds the session, checks the token of changes and finds the house, which
// does not exist for those who do not belong to it. Handlers take the actor from the context.
func (s *server) enter(next api.StrictHandlerFunc, operation string) api.StrictHandlerFunc {
	return func(c fiber.Ctx, request any) (any, error) {
		if changes(c.Method()) && c.Get("Sec-Fetch-Site") != "" && c.Get("Sec-Fetch-Site") != "same-origin" && c.Get("Sec-Fetch-Site") != "none" {
			return nil, &keep.Error{Kind: keep.Forbidden, Message: "The request came from another site."}
		}
		if open[operation] {
			return next(c, request)
		}
		session, err := s.Keeper.Session(c.Context(), c.Cookies(sessionCookie))
		if err != nil {
			return nil, err
		}
		if changes(c.Method()) && subtle.ConstantTimeCompare([]byte(c.Get("X-CSRF-Token")), []byte(session.CSRF)) != 1 {
			return nil, &keep.Error{Kind: keep.Forbidden, Message: "The page is out of date; reload it and try again."}
		}
		ctx := context.WithValue(c.Context(), sessionKey, session)
		if id := c.Params("house"); id != "" {
			house, err := strconv.ParseInt(id, 10, 64)
			if err != nil {
				return nil, &keep.Error{Kind: keep.NotFound, Message: "There is no such house, or you do not belong to it."}
			}
			actor, err := s.Keeper.Enter(ctx, session.User, house)
			if err != nil {
				return nil, err
			}
			ctx = context.WithValue(ctx, actorKey, actor)
		}
		c.SetContext(ctx)
		return next(c, request)
	}
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
