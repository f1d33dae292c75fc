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
	"net/http"
	"net/netip"
	"regexp"
	"runtime/debug"
	"strconv"
	"strings"
	"sync"
	"time"

	"github.com/gofiber/fiber/v3"
	"github.com/gofiber/fiber/v3/middleware/compress"
	"github.com/gofiber/fiber/v3/middleware/recover"

	"huekeep/api"
	"huekeep/core/limits"
	"huekeep/keep"
	"huekeep/keep/accounts"
	"huekeep/keep/stations"
	"huekeep/outside"
	"huekeep/ui"
)

// Options are what the server is made from.
type Options struct {
	Stations  *stations.Stations
	Interface fs.FS // the built interface
	Demo      bool  // offer the demo accounts at sign-in
	// "1": the site is served over TLS; "0": it is not; else each request says, or the trusted proxy that passes it on
	Secure    string
	Proxies   []netip.Prefix               // trusted proxies
	Outbox    Outbox                       // of the stand-in mail server; nil where mail goes to a real one
	Fetches   int                          // fetches at pickups from one address in a minute; limits.Fetches if 0
	Pace      Pace                         // UsualPace if zero
	AccessLog bool                         // write a line for each request
	Provider  *Provider                    // to sign in through; nil for none
	Metrics   *http.ServeMux               // gets /metrics; nil for none
	Examine   func(context.Context) []Seen // what the doctor says; nil for nothing
}

// Outbox shows what was mailed.
type Outbox interface {
	Letter(id string) (outside.Letter, bool)
}

// accessOnce is who may call what, by the contract: reading it takes a tenth of a second.
var accessOnce = sync.OnceValues(func() (map[string]api.Access, error) { return api.AccessOf(api.Contract) })

// New makes the application.
func New(o Options) *fiber.App {
	app := fiber.New(fiber.Config{
		AppName:       "Hue Keep",
		JSONDecoder:   strictJSON,
		CaseSensitive: true, // so that what is guarded is what is routed
		BodyLimit:     bodyLimit,
		// Bodies are streamed so that one over the limit can be read away and answered; see limitBody.
		StreamRequestBody: true,
		// A form would be read to its end before anybody knows who sends it.
		DisablePreParseMultipartForm: true,
		ErrorHandler:                 fail,
		ReadTimeout:                  5 * time.Minute,
		IdleTimeout:                  2 * time.Minute,
		Immutable:                    true, // strings of a request are kept beyond it
	})
	s := &server{Stations: o.Stations, Options: o, guesses: limiter{most: 20, within: time.Minute},
		phrases: limiter{most: 10, within: 10 * time.Minute},
		answers: limiter{most: 60, within: 10 * time.Minute}, followed: limiter{most: 1, within: time.Hour},
		fetches: limiter{most: cmp.Or(o.Fetches, limits.Fetches), within: time.Minute}, paces: newPaces(cmp.Or(o.Pace, UsualPace)),
		metrics: newMetrics(), uploads: newUploads()}
	s.together()
	var stop context.CancelFunc
	s.hub.serving, stop = context.WithCancel(context.Background())
	app.Hooks().OnPreShutdown(func() error { stop(); return nil })
	app.Use(s.around, recover.New(recover.Config{EnableStackTrace: true, StackTraceHandler: func(c fiber.Ctx, e any) {
		slog.Error("panic", "id", keep.FromOf(c.Context()).Request, "path", logged(c.Path()), "error", e, "stack", string(debug.Stack()))
	}}))
	app.Use(limitBody, compress.New(compress.Config{Level: compress.LevelBestSpeed, // a large ledger waits for it
		Next: func(c fiber.Ctx) bool { return strings.HasSuffix(c.Path(), "/events") }})) // what is streamed is not held back
	app.Get("/health", s.health)
	app.Get("/ready", s.ready)
	access, err := accessOnce()
	if err != nil {
		panic(err) // compiled in and tested
	}
	group := app.Group("/api", func(c fiber.Ctx) error {
		c.Set("Cache-Control", "no-store")
		return s.hub.telling(c)
	})
	there := addressesOf(access)
	api.RegisterHandlers(guarded{group, s, access, there}, api.NewStrictHandler(s, nil))
	s.pickupCalls(group)
	group.Get("/", referencePage(o.Interface))
	group.Get("/openapi.yaml", shipped("application/yaml", string(api.Contract)))
	group.Use(there.nowhere)

	s.providerPages(app)
	s.boardPages(app)
	s.pickupPages(app)
	slipPages(app, o.Interface)
	app.Get("/notices.txt", func(c fiber.Ctx) error { return c.SendString(ui.Notices) })
	// Files with a hash in their name; every other path is the interface, which routes by itself.
	app.Get("/assets/*", assets(o.Interface))
	app.Get("/*", interfacePage(o.Interface, "index.html", fiber.MIMETextHTMLCharsetUTF8))
	if o.Metrics != nil {
		o.Metrics.Handle("GET /metrics", s.metricsPage())
	}
	return app
}

// interfacePage is a page of the interface, which is asked for anew each time: what it loads has names that change with it.
func interfacePage(files fs.FS, name, kind string) fiber.Handler {
	return func(c fiber.Ctx) error {
		page, err := fs.ReadFile(files, name)
		if err != nil {
			return c.Status(fiber.StatusServiceUnavailable).SendString("The interface is not built into this program; see the README.\n")
		}
		c.Set("Content-Type", kind)
		c.Set("Cache-Control", "no-cache")
		return c.Send(page)
	}
}

// bodyLimit leaves room for a file of the largest size and the form around it.
const bodyLimit = limits.UploadBytes + 1<<20

// jsonLimit leaves room for the largest paste with every character escaped.
const jsonLimit = 8 * limits.PasteBytes

// limitBody refuses bodies over the limit, and those that do not say how long they are.
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
		return fiber.ErrRequestEntityTooLarge
	}
	return c.Next()
}

// awayTime is how long taking a body away may take.
const awayTime = 30 * time.Second

// takeAway reads what is left of a body that nobody wanted, up to twice the limit: a connection closed in the midst of it would show as a
// broken one and hide the answer. What is not read to its end ends the connection: it would be taken for the next request on it, which
// behind a proxy is somebody else's.
func takeAway(c fiber.Ctx) {
	body, length := c.Request().BodyStream(), c.Request().Header.ContentLength()
	if body == nil { // none, or it was read
		return
	}
	if length >= 0 && length <= 2*bodyLimit {
		_ = c.RequestCtx().Conn().SetReadDeadline(time.Now().Add(awayTime))
		if _, err := io.Copy(io.Discard, body); err == nil {
			return
		}
	}
	c.Response().SetConnectionClose()
}

// statuses are the answers to what may go wrong.
var statuses = map[keep.Kind]int{keep.Invalid: 422, keep.Forbidden: 403, keep.NotFound: 404, keep.Conflict: 409, keep.TooLarge: 413,
	keep.TooMany:      429,
	keep.Unauthorized: 401, keep.NoRoom: 507, keep.Away: 503}

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
// problemKey is where the code of a problem stands that is answered, for the line of the request.
const problemKey = "problem"

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
			p.Title = misread(theirs.Message)
			if m, ok := wrongMember(theirs.Message); ok {
				p.Status, p.Title, p.Field = statuses[keep.Invalid], m.said, &m.name
			}
		case fiber.StatusNotFound:
			p.Title, p.Code = "There is no such address.", string(keep.NotFound)
		case fiber.StatusMethodNotAllowed:
			p.Title, p.Code = fmt.Sprintf("This address does not take %s.", c.Method()), codeMethod
			if allow := c.GetRespHeader("Allow"); allow != "" {
				p.Title = fmt.Sprintf("This address does not take %s but %s.", c.Method(), allow)
			}
		default:
			if said, ok := plainAnswers[p.Status]; ok {
				p.Title = said
			}
		}
	case errors.Is(err, context.Canceled):
		p.Status, p.Code, p.Title = 499, "given-up", "The request was given up."
	default:
		p.Title = fmt.Sprintf("Something went wrong here; it was noted as %s. Try again.", keep.FromOf(c.Context()).Request)
		slog.Error("request failed", "id", keep.FromOf(c.Context()).Request, "method", c.Method(), "path", logged(c.Path()), "error", err)
	}
	if p.Code == string(keep.Away) {
		slog.Warn("the database is away", "id", keep.FromOf(c.Context()).Request, "error", err)
	}
	c.Locals(problemKey, p.Code)
	c.Status(p.Status)
	return c.JSON(p, "application/problem+json")
}

// plainAnswers are sentences for what the HTTP library answers by itself.
var plainAnswers = map[int]string{
	fiber.StatusRequestTimeout:              "The request did not arrive in time.",
	fiber.StatusRequestURITooLong:           "The address is too long.",
	fiber.StatusRequestHeaderFieldsTooLarge: "The head of the request is too long; perhaps there are too many cookies.",
	fiber.StatusNotImplemented:              "There is no such kind of request.",
	fiber.StatusTooManyRequests:             "That were too many requests. Try again in a moment.",
}

var badParameter = regexp.MustCompile(`(?i)parameter '?([A-Za-z]+)`)

// misread says what was wrong with a request, without the words of a library.
func misread(theirs string) string {
	if m := badParameter.FindStringSubmatch(theirs); m != nil {
		return fmt.Sprintf("The request could not be understood: %s is missing or not of the right form.", m[1])
	}
	if strings.Contains(theirs, "JSON") || strings.Contains(theirs, "json") || strings.Contains(theirs, "unmarshal") ||
		strings.Contains(theirs, "EOF") || strings.Contains(theirs, "character") {
		return "The request could not be understood: what it holds is not the JSON that is expected here."
	}
	return "The request could not be understood."
}

type server struct {
	*stations.Stations
	Options
	hub hub

	// of holders of links: tokens that lead nowhere, wrong pass phrases, answers, what is put on the trail, files
	guesses, phrases, answers, followed, fetches limiter
	paces                                        *paces
	uploads                                      uploads
	examined                                     examined
	metrics                                      metrics
	now                                          working // requests that are being answered
}

type contextKey int

const (
	sessionKey contextKey = iota
	actorKey
	deviceKey // the token of the browser, where an operation is open to all
)

func sessionOf(ctx context.Context) accounts.SignedIn {
	return ctx.Value(sessionKey).(accounts.SignedIn)
}

func actorOf(ctx context.Context) keep.Actor { return ctx.Value(actorKey).(keep.Actor) }

// guarded puts the guard of an operation before its handler: each route of the contract is registered with who may call it.
type guarded struct {
	fiber.Router
	server *server
	access map[string]api.Access
	there  addresses
}

func (g guarded) guard(method, path string) fiber.Handler {
	a, ok := g.access[method+" "+path]
	if !ok {
		panic("the contract does not say who may call " + method + " " + path)
	}
	if a.Role != "" && !keep.Role(a.Role).Reaches(keep.RoleReader) {
		panic(a.Operation + " is for a role that there is not: " + a.Role)
	}
	if method != fiber.MethodPost {
		return func(c fiber.Ctx) error { return g.server.enter(c, a) }
	}
	one := g.there.single(path)
	return func(c fiber.Ctx) error {
		err := g.server.enter(c, a)
		if err == nil {
			locate(c, one)
		}
		return err
	}
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

// enter stands before an operation, and before its body is read: it finds the session, the access token or the link, checks the token of
// changes, finds the house, which does not exist for those who do not belong to it, and sees that the role reaches. Handlers take the actor
// from the context.
func (s *server) enter(c fiber.Ctx, a api.Access) error {
	if changes(c.Method()) {
		if err := s.sameSite(c); err != nil {
			return err
		}
		if err := readable(c, a); err != nil {
			return err
		}
	}
	from := keep.FromOf(c.Context())
	if a.Open {
		if err := s.paces.address.paced(accounts.Network(from.Address)); err != nil {
			return err
		}
		ctx := context.WithValue(c.Context(), cookieKey, cookieOf(c, sessionCookie))
		c.SetContext(context.WithValue(ctx, deviceKey, cookieOf(c, deviceCookie)))
		return c.Next()
	}
	if a.Link != "" && c.Params("token") != "" {
		if err := s.paces.address.paced(accounts.Network(from.Address)); err != nil {
			return err
		}
		actor, err := s.Links.Follow(c.Context(), c.Params("token"), keep.LinkKind(a.Link))
		if err != nil {
			return err
		}
		c.SetContext(context.WithValue(c.Context(), actorKey, actor))
		return c.Next()
	}
	session, err := s.who(c, a)
	if err != nil {
		return err
	}
	if err := s.paces.person(c, strconv.FormatInt(session.Account.ID, 10), a.File); err != nil {
		return err
	}
	ctx := context.WithValue(c.Context(), sessionKey, session)
	if session.Named != "" {
		if err := serves(session, c.Method(), c.Path()); err != nil {
			return err
		}
		from.Via = "token " + session.Named
		ctx = keep.WithFrom(ctx, from)
	}
	c.SetContext(ctx)
	if a.Role == "" {
		return c.Next()
	}
	id, err := strconv.ParseInt(c.Params("house"), 10, 64)
	if err != nil {
		return &keep.Error{Kind: keep.NotFound, Message: "There is no such house, or you do not belong to it."}
	}
	actor, err := s.Accounts.Enter(ctx, session, id)
	if err != nil {
		return err
	}
	if err := actor.May(keep.Role(a.Role)); err != nil {
		return err
	}
	c.SetContext(context.WithValue(ctx, actorKey, actor))
	if over, ok := ctx.Value(releasesKey).(*releases); ok && a.File {
		if err := spool(c, over); err != nil {
			return err
		}
	}
	return s.once(c, a, actor, func() error {
		if a.Trail {
			return s.trailed(c, a, actor)
		}
		return c.Next()
	})
}

// who finds who asks: by the session of a cookie, whose changes carry its token, or by an access token, which does not reach the account.
func (s *server) who(c fiber.Ctx, a api.Access) (accounts.SignedIn, error) {
	if token, ok := strings.CutPrefix(c.Get("Authorization"), "Bearer "); ok {
		if err := s.paces.address.paced(network(c.Context())); err != nil {
			return accounts.SignedIn{}, err
		}
		if a.Role == "" && a.Operation != "getSession" && a.Operation != "getLimits" {
			return accounts.SignedIn{}, &keep.Error{Kind: keep.Forbidden,
				Message: "An access token works in houses; accounts are changed by people who are signed in."}
		}
		return s.Accounts.Bearer(c.Context(), strings.TrimSpace(token))
	}
	session, err := s.Accounts.Session(c.Context(), cookieOf(c, sessionCookie))
	if err != nil {
		return session, err
	}
	if changes(c.Method()) && subtle.ConstantTimeCompare([]byte(c.Get("X-CSRF-Token")), []byte(session.CSRF)) != 1 {
		return session, &keep.Error{Kind: keep.Forbidden, Code: keep.CodePage, Message: "The page is out of date; reload it and try again."}
	}
	return session, nil
}

// readable refuses bodies in forms that the operation does not take, and those that are longer than it needs.
func readable(c fiber.Ctx, a api.Access) error {
	length := c.Request().Header.ContentLength()
	if length == 0 {
		return nil
	}
	kind, _, err := mime.ParseMediaType(c.Get("Content-Type"))
	if err != nil || kind != "application/json" && (kind != "multipart/form-data" || !a.File) {
		if a.File {
			return fiber.NewError(fiber.StatusUnsupportedMediaType, "The request has to come as a form with a file.")
		}
		return fiber.NewError(fiber.StatusUnsupportedMediaType, "The request has to come as JSON.")
	}
	if kind == "application/json" && !a.Large && length > small {
		return &keep.Error{Kind: keep.TooLarge, Message: fmt.Sprintf("The request has %s; at most %s are read here.",
			limits.Size(int64(length)), limits.Size(small))}
	}
	return nil
}

func changes(method string) bool {
	return method != fiber.MethodGet && method != fiber.MethodHead && method != fiber.MethodOptions
}
