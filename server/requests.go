package server

import (
	"context"
	"errors"
	"fmt"
	"log/slog"
	"net"
	"net/netip"
	"net/url"
	"regexp"
	"slices"
	"strings"
	"sync/atomic"
	"time"

	"github.com/gofiber/fiber/v3"

	"huekeep/keep"
	"huekeep/keep/accounts"
)

// Every request has an id, which its answer, the logs and the trail carry; the address that it came from, which a trusted proxy may say;
// and is logged when it was answered.

const (
	secureKey   contextKey = 100 + iota // whether the request came over TLS
	spooledKey                          // the body of a request that has come into a file
	releasesKey                         // what is done when a request is over
	detailsKey                          // what an operation says for the trail
	cookiesKey                          // cookies that an operation sets beside its own
)

// Proxies reads the addresses of trusted proxies: "127.0.0.1, 10.0.0.0/8".
func Proxies(text string) (list []netip.Prefix, err error) {
	for _, one := range strings.FieldsFunc(text, func(r rune) bool { return r == ',' || r == ' ' }) {
		p, err := netip.ParsePrefix(one)
		if err != nil {
			a, err := netip.ParseAddr(one)
			if err != nil {
				return nil, fmt.Errorf("%q is neither an address nor a network as 10.0.0.0/8", one)
			}
			p = netip.PrefixFrom(a, a.BitLen())
		}
		list = append(list, p)
	}
	return list, nil
}

func (s *server) trusted(a netip.Addr) bool {
	return slices.ContainsFunc(s.Proxies, func(p netip.Prefix) bool { return p.Contains(a.Unmap()) })
}

// peer is the address that a request came from. What proxies say of it counts as far as they are trusted: the last address that none of
// them has.
func (s *server) peer(c fiber.Ctx) (address string, proxied bool) {
	ip, _, err := net.SplitHostPort(c.RequestCtx().RemoteAddr().String())
	if err != nil {
		ip = c.IP()
	}
	a, err := netip.ParseAddr(ip)
	if err != nil || !s.trusted(a) {
		return ip, false
	}
	said := strings.Split(c.Get("X-Forwarded-For"), ",")
	for i := len(said) - 1; i >= 0; i-- {
		next, err := netip.ParseAddr(strings.TrimSpace(said[i]))
		if err != nil {
			break
		}
		a = next
		if !s.trusted(a) {
			break
		}
	}
	return a.Unmap().String(), true
}

// secure says whether a request came over TLS.
func (s *server) secure(c fiber.Ctx, proxied bool) bool {
	switch s.Secure {
	case "1":
		return true
	case "0":
		return false
	}
	return c.RequestCtx().IsTLS() || proxied && strings.EqualFold(c.Get("X-Forwarded-Proto"), "https")
}

func isSecure(ctx context.Context) bool { on, _ := ctx.Value(secureKey).(bool); return on }

var agents = []struct{ mark, name string }{{"Edg/", "Edge"}, {"Firefox/", "Firefox"}, {"Chrome/", "Chromium"}, {"Safari/", "Safari"},
	{"curl/", "curl"}, {"Go-http-client", "a program"}}
var systems = []struct{ mark, name string }{{"Android", "Android"}, {"iPhone", "iPhone"}, {"iPad", "iPad"}, {"Windows", "Windows"},
	{"Mac OS X", "macOS"}, {"Linux", "Linux"}}

// agent says in words which program a request came from.
func agent(header string) string {
	out := ""
	for _, a := range agents {
		if strings.Contains(header, a.mark) {
			out = a.name
			break
		}
	}
	if out == "" {
		out, _, _ = strings.Cut(keep.Short(header, 40), " ")
	}
	for _, s := range systems {
		if strings.Contains(header, s.mark) {
			return out + " on " + s.name
		}
	}
	return out
}

var requestID = regexp.MustCompile(`^[A-Za-z0-9._-]{8,40}$`)

// secrets of links stand in paths; no log has them.
var secretPath = regexp.MustCompile(`^(/(?:api/)?(?:b|p|boards|pickups?)/)[A-Za-z0-9_-]{20,}`)

func logged(path string) string { return secretPath.ReplaceAllString(path, "$1…") }

// network is who a request is counted for: its address, or of IPv6 the network of 64 bits that one line gets.
func network(ctx context.Context) string { return accounts.Network(keep.FromOf(ctx).Address) }

// around stands around every request.
func (s *server) around(c fiber.Ctx) error {
	begun := time.Now()
	address, proxied := s.peer(c)
	id := ""
	if proxied && requestID.MatchString(c.Get("X-Request-Id")) {
		id = c.Get("X-Request-Id")
	}
	if id == "" {
		id = keep.Random()[:16]
	}
	secure := s.secure(c, proxied)
	var cookies []string
	var over releases
	ctx := keep.WithFrom(c.Context(), keep.From{Address: address, Agent: agent(c.Get("User-Agent")), Request: id, Via: "session"})
	ctx = context.WithValue(context.WithValue(context.WithValue(ctx, secureKey, secure), cookiesKey, &cookies), releasesKey, &over)
	defer func() {
		for _, release := range over {
			release()
		}
	}()
	c.SetContext(ctx)
	c.Set("X-Request-Id", id)
	c.Set("X-Content-Type-Options", "nosniff")
	c.Set("Referrer-Policy", "same-origin")
	c.Set("Cross-Origin-Opener-Policy", "same-origin")
	c.Set("Cross-Origin-Resource-Policy", "same-origin")
	c.Set("Permissions-Policy", "camera=(), microphone=(), geolocation=()")
	c.Set("Content-Security-Policy",
		"default-src 'self'; script-src 'self' 'wasm-unsafe-eval'; style-src 'self'; style-src-attr 'unsafe-inline'; img-src 'self' data: blob:; frame-ancestors 'none'; base-uri 'none'; form-action 'self'")
	if secure {
		c.Set("Strict-Transport-Security", "max-age=31536000; includeSubDomains")
	}
	s.now.Add(1)
	err := c.Next()
	s.now.Add(-1)
	if err != nil {
		_ = fail(c, err) // it writes the answer
	}
	takeAway(c)
	for _, cookie := range cookies {
		c.Response().Header.Add("Set-Cookie", cookie)
	}
	status, took := c.Response().StatusCode(), time.Since(begun)
	s.metrics.request(c, status, took)
	if s.AccessLog && c.Path() != "/health" && c.Path() != "/ready" {
		line := []any{"id", id, "method", c.Method(), "path", logged(c.Path()), "status", status, "ms", took.Milliseconds(), "bytes",
			answered(c), "address", address}
		if session, ok := c.Context().Value(sessionKey).(accounts.SignedIn); ok {
			line = append(line, "account", session.Account.ID)
		}
		if code, ok := c.Locals(problemKey).(string); ok {
			line = append(line, "problem", code)
		}
		slog.Info("request", line...)
	}
	return nil
}

// answered is how long the body of an answer is, 0 for one that is written while it is sent and does not say.
func answered(c fiber.Ctx) int {
	if r := c.Response(); !r.IsBodyStream() {
		return len(r.Body())
	}
	return max(0, c.Response().Header.ContentLength())
}

// working counts the requests that are being answered.
type working = atomic.Int64

// sameSite refuses changes that another site asks for: browsers say where a request comes from.
func (s *server) sameSite(c fiber.Ctx) error {
	other := &keep.Error{Kind: keep.Forbidden, Message: "The request came from another site."}
	if site := c.Get("Sec-Fetch-Site"); site != "" && site != "same-origin" && site != "none" {
		return other
	}
	origin := c.Get("Origin")
	if origin == "" {
		return nil
	}
	u, err := url.Parse(origin)
	if err != nil || u.Host == "" {
		return other
	}
	own, _ := url.Parse(s.Send.Address)
	if u.Host != string(c.Request().Host()) && (own == nil || u.Host != own.Host) {
		return other
	}
	return nil
}

// paces are how often requests are answered. Each counts by itself: for who is signed in, for an address, and for the public.
type paces struct {
	reads, writes, uploads, address limiter
}

func newPaces(p Pace) *paces {
	return &paces{limiter{most: p.Reads, within: time.Minute}, limiter{most: p.Writes, within: time.Minute},
		limiter{most: p.Uploads, within: time.Minute}, limiter{most: p.Address, within: time.Minute}}
}

// Pace is how many requests in a minute are answered: reads, changes and files of one person, and all from one address of those who are not
// signed in.
type Pace struct {
	Reads, Writes, Uploads, Address int
}

// UsualPace leaves room for a script that works through a library and a page that loads everything, and none for a flood.
var UsualPace = Pace{Reads: 3000, Writes: 900, Uploads: 240, Address: 1200}

// paced counts a request and says if it is one too many.
func (l *limiter) paced(who string) error {
	if wait := l.held(who); wait > 0 {
		return &keep.Error{Kind: keep.TooMany, Retry: wait,
			Message: fmt.Sprintf("That were too many requests in a minute. The next one is answered in %d seconds.", int(wait.Seconds())+1)}
	}
	l.count(who)
	return nil
}

func (p *paces) person(c fiber.Ctx, who string, file bool) error {
	switch {
	case !changes(c.Method()):
		return p.reads.paced(who)
	case file:
		return p.uploads.paced(who)
	}
	return p.writes.paced(who)
}

// small is how long a JSON body may be where no long text or list is expected.
const small = 1 << 20

// statusOf is the status that an error is answered with.
func statusOf(err error) int {
	var theirs *fiber.Error
	if ours := keep.Explain(err); ours != nil {
		return statuses[ours.Kind]
	} else if errors.As(err, &theirs) {
		return theirs.Code
	}
	return fiber.StatusInternalServerError
}
