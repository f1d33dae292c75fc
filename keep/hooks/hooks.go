// Package hooks tells programs of what happens in a house: signed messages of the Standard Webhooks form (https://www.standardwebhooks.com,
// version 1), posted until they are taken.
package hooks

import (
	"context"
	"crypto/hmac"
	"crypto/rand"
	"crypto/sha256"
	"encoding/base64"
	"encoding/json"
	"errors"
	"fmt"
	"io"
	"log/slog"
	"net"
	"net/http"
	"net/netip"
	"net/url"
	"slices"
	"strconv"
	"strings"
	"syscall"
	"time"

	"huekeep/keep"
	"huekeep/keep/jobs"
	"huekeep/store"
)

// Event is something that happens.
type Event string

// Events that programs are told of.
const (
	EditionSent      Event = "edition.sent"
	EditionWithdrawn Event = "edition.withdrawn"
	ColorApproved    Event = "color.approved"
	ColorRetired     Event = "color.retired"
	ProjectFell      Event = "project.fell"

	test Event = "test"
)

// Events lists what a program may be told of.
var Events = []Event{EditionSent, EditionWithdrawn, ColorApproved, ColorRetired, ProjectFell}

// pauses are how long it takes until a message is posted again, after the first time, the second and so on; then it is given up. Together
// they are three days.
var pauses = []time.Duration{5 * time.Second, 5 * time.Minute, 30 * time.Minute, 2 * time.Hour, 5 * time.Hour, 10 * time.Hour,
	14 * time.Hour, 20 * time.Hour, 24 * time.Hour}

// Of what there is, as much at most.
const (
	mostHooks   = 50
	mostWaiting = 1000       // messages of one program
	mostAnswer  = 500        // characters of an answer that are kept
	keptFor     = 30 * 24    // hours that a message is kept when it came to an end
	patience    = 10         // seconds for an answer
	secretBytes = 32         // of which a secret is made
	mostAddress = 1000       // bytes of an address
	mostColors  = 200        // that one message names
	answerBytes = 16 << 10   // of an answer that are read
	userAgent   = "Hue-Keep" // as what we present ourselves
)

// Rules are the rules of webhooks.
type Rules struct {
	*keep.Base
	Jobs *jobs.Rules

	// Allowed are networks inside of which messages may be posted, though they are private; none as a rule, so that nobody reaches with
	// them what only this server can.
	Allowed []netip.Prefix

	hurry  time.Duration // what a second of the pauses is instead; 0 for a second
	client *http.Client
}

// New makes the rules.
func New(b *keep.Base, j *jobs.Rules) *Rules {
	r := &Rules{Base: b, Jobs: j}
	dialer := &net.Dialer{Timeout: patience * time.Second,
		Control: func(_, address string, _ syscall.RawConn) error { return r.checkPeer(address) }}
	r.client = &http.Client{
		Timeout: patience * time.Second,
		// where it leads was not what somebody gave
		CheckRedirect: func(*http.Request, []*http.Request) error { return http.ErrUseLastResponse },
		Transport: &http.Transport{Proxy: nil, DialContext: dialer.DialContext, DisableKeepAlives: true,
			TLSHandshakeTimeout: patience * time.Second},
	}
	j.Kind(jobs.Hook, r.post)
	j.Forgets(r.tidy)
	return r
}

// tidy forgets what came to an end long ago, and takes up what no job is there for any more.
func (r *Rules) tidy(ctx context.Context, now time.Time) error {
	db := r.DB.With(ctx)
	if err := db.ForgetHookMessages(now.Add(-keptFor * time.Hour)); err != nil {
		return err
	}
	list, err := db.StuckHookMessages(now.Add(-time.Hour))
	for _, m := range list {
		if err := r.Jobs.Later(db, keep.Actor{Name: "Hue Keep", House: keep.House{ID: m.HouseID}}, jobs.Hook, m.ID, 0); err != nil {
			return err
		}
	}
	return err
}

// Hurry shortens the pauses: what a second of them takes; for tests.
func (r *Rules) Hurry(second time.Duration) { r.hurry = second }

// errPrivate says that an address is inside of a private network.
var errPrivate = errors.New("it lies in a private network, where this server posts nothing (HUEKEEP_HOOK_NETWORKS permits some)")

// special are networks that are no place of somebody else's, beside those that netip knows (RFC 6890): shared addresses, benchmarks,
// documentation, translation to and within them, and what is reserved.
var special = func() (list []netip.Prefix) {
	for _, p := range []string{"0.0.0.0/8", "100.64.0.0/10", "192.0.0.0/24", "192.0.2.0/24", "192.88.99.0/24", "198.18.0.0/15",
		"198.51.100.0/24", "203.0.113.0/24", "240.0.0.0/4",
		"64:ff9b::/96", "64:ff9b:1::/48", "100::/64", "2001::/23", "2001:db8::/32", "2002::/16"} {
		list = append(list, netip.MustParsePrefix(p))
	}
	return list
}()

// checkPeer refuses to connect to what is not public. It is asked with the address that a name led to, at the moment of connecting, so that
// a name that leads elsewhere by then is of no use.
func (r *Rules) checkPeer(address string) error {
	host, _, err := net.SplitHostPort(address)
	if err != nil {
		return err
	}
	ip, err := netip.ParseAddr(host)
	if err != nil {
		return err
	}
	ip = ip.WithZone("").Unmap()
	if slices.ContainsFunc(r.Allowed, func(p netip.Prefix) bool { return p.Contains(ip) }) {
		return nil
	}
	if !ip.IsGlobalUnicast() || ip.IsPrivate() || ip.IsLoopback() || ip.IsLinkLocalUnicast() ||
		slices.ContainsFunc(special, func(p netip.Prefix) bool { return p.Contains(ip) }) {
		return errPrivate
	}
	return nil
}

// Hook is a program that is told of what happens.
type Hook struct {
	ID      int64
	Address string
	Events  []Event // everything if there is none
	Paused  bool
	Why     string // it is paused, where nobody did that
	By      string
	At      time.Time
	Secret  string // of a new one; empty otherwise
}

func hook(row store.Hook) Hook {
	h := Hook{ID: row.ID, Address: row.Address, Events: []Event{}, Paused: row.PausedAt != nil, Why: row.Why, By: row.ByName,
		At: row.CreatedAt}
	for _, e := range strings.Fields(row.Events) {
		h.Events = append(h.Events, Event(e))
	}
	return h
}

// List lists the hooks of a house.
func (r *Rules) List(ctx context.Context, a keep.Actor) ([]Hook, error) {
	if err := a.May(keep.RoleKeeper); err != nil {
		return nil, err
	}
	rows, err := r.DB.With(ctx).Hooks(a.House.ID)
	out := []Hook{}
	for _, row := range rows {
		out = append(out, hook(row))
	}
	return out, err
}

// Content is what somebody gives of a hook.
type Content struct {
	Address string
	Events  []Event
	Paused  bool
}

func (r *Rules) check(c Content) (address, events string, err error) {
	address = strings.TrimSpace(c.Address)
	u, err := url.Parse(address)
	switch {
	case err != nil || u.Host == "" || u.Scheme != "https" && u.Scheme != "http" || len(address) > mostAddress:
		return "", "", keep.Wrong("address", "an address begins with https:// or http:// and a name, and has %d characters at most",
			mostAddress)
	case u.User != nil:
		return "", "", keep.Wrong("address", "an address has neither name nor password in it; messages are signed instead")
	case u.Fragment != "":
		return "", "", keep.Wrong("address", "what stands behind # in an address goes nowhere")
	}
	if ip, err := netip.ParseAddr(u.Hostname()); err == nil {
		if err := r.checkPeer(net.JoinHostPort(ip.String(), "80")); err != nil {
			return "", "", keep.Wrong("address", "%v", err)
		}
	}
	for _, e := range c.Events {
		if !slices.Contains(Events, e) {
			return "", "", keep.Wrong("events", "nobody is told of %q", keep.Short(string(e), 40))
		}
		if !slices.Contains(strings.Fields(events), string(e)) {
			events += " " + string(e)
		}
	}
	return address, strings.TrimSpace(events), nil
}

// Add tells another program from now on. Its secret is told once.
func (r *Rules) Add(ctx context.Context, a keep.Actor, c Content) (Hook, error) {
	if err := a.May(keep.RoleKeeper); err != nil {
		return Hook{}, err
	}
	address, events, err := r.check(c)
	if err != nil {
		return Hook{}, err
	}
	raw := make([]byte, secretBytes)
	if _, err := rand.Read(raw); err != nil {
		return Hook{}, err
	}
	secret := "whsec_" + base64.StdEncoding.EncodeToString(raw)
	row := store.Hook{HouseID: a.House.ID, Address: address, Events: events, ByName: a.Name, CreatedAt: r.Now()}
	err = r.Change(ctx, a, func(tx *store.DB) error {
		there, err := tx.Hooks(a.House.ID)
		if err != nil {
			return err
		}
		if len(there) >= mostHooks {
			return keep.Clash("", "%d programs are told already, the most that a house has", mostHooks)
		}
		if len(there) == 0 { // nobody was told before, so nobody is told of what is there
			if err := tx.ColorsTold(a.House.ID); err != nil {
				return err
			}
		}
		row.ID = 0
		if err := tx.Add(&row); err != nil {
			return err
		}
		row.Secret = r.Keys.Encrypt(secret, place(row.ID))
		return tx.Save(&row)
	})
	out := hook(row)
	out.Secret = secret
	return out, err
}

func place(id int64) string { return fmt.Sprintf("hooks.secret %d", id) }

// Alter changes where messages go and of what they tell; what waits goes there too.
func (r *Rules) Alter(ctx context.Context, a keep.Actor, id int64, c Content) (Hook, error) {
	if err := a.May(keep.RoleKeeper); err != nil {
		return Hook{}, err
	}
	address, events, err := r.check(c)
	if err != nil {
		return Hook{}, err
	}
	var row store.Hook
	err = r.Change(ctx, a, func(tx *store.DB) (err error) {
		if row, err = tx.Hook(a.House.ID, id); err != nil {
			return keep.Missing(err, "webhook")
		}
		row.Address, row.Events = address, events
		if c.Paused != (row.PausedAt != nil) {
			row.PausedAt, row.Why = nil, ""
			if now := r.Now(); c.Paused {
				row.PausedAt = &now
			}
		}
		return tx.Save(&row)
	})
	return hook(row), err
}

// Drop tells a program nothing any more.
func (r *Rules) Drop(ctx context.Context, a keep.Actor, id int64) error {
	if err := a.May(keep.RoleKeeper); err != nil {
		return err
	}
	return r.Change(ctx, a, func(tx *store.DB) error { return keep.Missing(tx.DropHook(a.House.ID, id), "webhook") })
}

// Message is what a program was told, or is going to be.
type Message struct {
	ID       string
	Event    Event
	State    string // waiting, taken or failed
	Attempts int
	Status   int    // of the last answer; 0 for none
	Answer   string // as far as it is kept, or why there was none
	At       time.Time
	Next     *time.Time // when it is posted again
	Body     string
}

func message(m store.HookMessage) Message {
	return Message{m.ID, Event(m.Event), m.State, m.Attempts, m.Status, m.Answer, m.At, m.NextAt, m.Body}
}

// Messages lists what a program was told, newest first.
func (r *Rules) Messages(ctx context.Context, a keep.Actor, id int64) ([]Message, error) {
	if err := a.May(keep.RoleKeeper); err != nil {
		return nil, err
	}
	db := r.DB.With(ctx)
	if _, err := db.Hook(a.House.ID, id); err != nil {
		return nil, keep.Missing(err, "webhook")
	}
	rows, err := db.HookMessages(id, 100)
	out := []Message{}
	for _, m := range rows {
		out = append(out, message(m))
	}
	return out, err
}

// Test posts a message to try a hook, also one that is paused.
func (r *Rules) Test(ctx context.Context, a keep.Actor, id int64) (Message, error) {
	if err := a.May(keep.RoleKeeper); err != nil {
		return Message{}, err
	}
	var m store.HookMessage
	err := r.Change(ctx, a, func(tx *store.DB) error {
		h, err := tx.Hook(a.House.ID, id)
		if err != nil {
			return keep.Missing(err, "webhook")
		}
		m, err = r.queue(tx, a, h, test, r.body(a, test, map[string]any{"by": a.Name}))
		return err
	})
	return message(m), err
}

// Say tells the programs of a house that something happened, within the transaction in which it does.
func (r *Rules) Say(tx *store.DB, a keep.Actor, e Event, data map[string]any) error {
	list, err := tx.Hooks(a.House.ID)
	if err != nil || len(list) == 0 {
		return err
	}
	return r.say(tx, a, list, e, data)
}

func (r *Rules) say(tx *store.DB, a keep.Actor, list []store.Hook, e Event, data map[string]any) error {
	body := r.body(a, e, data)
	for _, h := range list {
		of := strings.Fields(h.Events)
		if h.PausedAt != nil || len(of) > 0 && !slices.Contains(of, string(e)) {
			continue
		}
		n, err := tx.WaitingHookMessages(h.ID)
		if err != nil {
			return err
		}
		if n >= mostWaiting { // nobody takes them
			at := r.Now()
			if err := tx.PauseHook(h.ID, &at, fmt.Sprintf("%d messages were not taken, so that no more are kept.", n)); err != nil {
				return err
			}
			continue
		}
		if _, err := r.queue(tx, a, h, e, body); err != nil {
			return err
		}
	}
	return nil
}

func (r *Rules) body(a keep.Actor, e Event, data map[string]any) string {
	data["house"] = map[string]any{"id": a.House.ID, "name": a.House.Name}
	text, err := json.Marshal(map[string]any{"type": e, "timestamp": r.Now().UTC().Format(time.RFC3339Nano), "data": data})
	if err != nil {
		panic(err) // it is of our own making
	}
	return string(text)
}

func (r *Rules) queue(tx *store.DB, a keep.Actor, h store.Hook, e Event, body string) (store.HookMessage, error) {
	m := store.HookMessage{ID: "msg_" + strings.NewReplacer("-", "0", "_", "1").Replace(keep.Random()[:24]), HookID: h.ID, Event: string(e),
		Body: body, State: store.HookWaiting, At: r.Now()}
	if err := tx.Add(&m); err != nil {
		return m, err
	}
	a.Account = 0 // the house tells, also when whoever did it has left meanwhile
	return m, r.Jobs.Later(tx, a, jobs.Hook, m.ID, 0)
}

// Signature signs a message: "v1," and the HMAC with SHA-256 of id, time and body (Standard Webhooks, "Signature scheme").
func Signature(secret, id string, at time.Time, body string) (string, error) {
	key, err := base64.StdEncoding.DecodeString(strings.TrimPrefix(secret, "whsec_"))
	if err != nil {
		return "", err
	}
	mac := hmac.New(sha256.New, key)
	fmt.Fprintf(mac, "%s.%d.%s", id, at.Unix(), body)
	return "v1," + base64.StdEncoding.EncodeToString(mac.Sum(nil)), nil
}

// post posts one message, or puts it off.
func (r *Rules) post(ctx context.Context, w jobs.Work) error {
	var id string
	if err := json.Unmarshal([]byte(w.Payload), &id); err != nil {
		return err
	}
	var m store.HookMessage
	var h store.Hook
	var until *time.Time
	err := r.DB.In(ctx, func(tx *store.DB) (err error) {
		if m, h, err = tx.HookMessage(id); err != nil || m.State != store.HookWaiting {
			return err
		}
		if m.Event != string(test) { // one before it was not taken: in order, and nobody waits ten seconds for each
			if until, err = tx.HookHeld(m); err != nil || until != nil {
				return err
			}
		}
		m.Attempts++
		return tx.Save(&m)
	})
	if errors.Is(err, store.ErrNotFound) || err == nil && m.State != store.HookWaiting { // its hook is gone
		return w.Finish(r.DB.With(ctx), "")
	} else if err != nil {
		return err
	}
	if until != nil {
		m.NextAt = until
		return r.DB.In(ctx, func(tx *store.DB) error {
			if err := tx.SaveHookMessage(m); err != nil {
				return err
			}
			if err := r.Jobs.Later(tx, w.Actor, jobs.Hook, m.ID, max(0, until.Sub(r.Now()))+time.Second); err != nil {
				return err
			}
			return w.Finish(tx, "")
		})
	}
	status, answer, failure := r.deliver(ctx, h, m)
	if ctx.Err() != nil {
		return ctx.Err()
	}
	m.Status, m.Answer, m.NextAt = status, keep.Short(answer, mostAnswer), nil
	var after time.Duration
	switch {
	case failure == nil:
		m.State = store.HookTaken
	case status == http.StatusGone || m.Event == string(test) || m.Attempts > len(pauses):
		m.State = store.HookFailed
	default:
		after = pauses[m.Attempts-1]
		if r.hurry > 0 {
			after = after * r.hurry / time.Duration(time.Second)
		}
		next := r.Now().Add(after)
		m.NextAt = &next
	}
	return r.DB.In(ctx, func(tx *store.DB) error {
		if err := tx.SaveHookMessage(m); err != nil {
			return err
		}
		switch at := r.Now(); {
		case m.NextAt != nil:
			if err := r.Jobs.Later(tx, w.Actor, jobs.Hook, m.ID, after); err != nil {
				return err
			}
		case status == http.StatusGone:
			if err := tx.PauseHook(h.ID, &at, "The program answered that it is gone for good (410)."); err != nil {
				return err
			}
		case m.State == store.HookFailed && m.Event != string(test):
			if err := tx.PauseHook(h.ID, &at, fmt.Sprintf("A message was not taken in %d attempts over three days.",
				m.Attempts)); err != nil {
				return err
			}
		}
		return w.Finish(tx, "")
	})
}

// deliver posts a message once. An answer of another kind than 2xx is a failure.
func (r *Rules) deliver(ctx context.Context, h store.Hook, m store.HookMessage) (status int, answer string, failure error) {
	secret, err := r.Keys.Decrypt(h.Secret, place(h.ID))
	if err != nil {
		slog.Error("the secret of a webhook cannot be read", "hook", h.ID, "error", err)
		return 0, "This server cannot sign the message, since a key of its own is missing.", err
	}
	at := r.Now()
	signature, err := Signature(secret, m.ID, at, m.Body)
	if err != nil {
		return 0, err.Error(), err
	}
	req, err := http.NewRequestWithContext(ctx, http.MethodPost, h.Address, strings.NewReader(m.Body))
	if err != nil {
		return 0, err.Error(), err
	}
	req.Header.Set("Content-Type", "application/json")
	req.Header.Set("User-Agent", userAgent)
	req.Header.Set("webhook-id", m.ID)
	req.Header.Set("webhook-timestamp", strconv.FormatInt(at.Unix(), 10))
	req.Header.Set("webhook-signature", signature)
	res, err := r.client.Do(req)
	if err != nil {
		return 0, keep.Sentence(reason(err)), err
	}
	defer res.Body.Close()
	said, _ := io.ReadAll(io.LimitReader(res.Body, answerBytes)) // what came until it broke off is worth showing
	answer = strings.Join(strings.Fields(strings.ToValidUTF8(string(said), "")), " ")
	if res.StatusCode < 200 || res.StatusCode > 299 {
		return res.StatusCode, answer, fmt.Errorf("it answered %d", res.StatusCode)
	}
	return res.StatusCode, answer, nil
}

// reason is why nothing was answered, without the address, which whoever reads it knows.
func reason(err error) string {
	var dns *net.DNSError
	switch {
	case errors.Is(err, errPrivate):
		return errPrivate.Error()
	case errors.As(err, &dns):
		return "there is no server of that name"
	case errors.Is(err, syscall.ECONNREFUSED):
		return "nobody listens there"
	}
	var timeout interface{ Timeout() bool }
	if errors.As(err, &timeout) && timeout.Timeout() {
		return fmt.Sprintf("no answer came in %d seconds", patience)
	}
	var of *url.Error
	if errors.As(err, &of) {
		return of.Err.Error()
	}
	return err.Error()
}

// Colors tells of colors that were approved or retired in a change. It stands at the end of every change of a house, so that no way in
// which a color becomes approved is forgotten.
func (r *Rules) Colors(tx *store.DB, a keep.Actor) error {
	list, err := tx.Hooks(a.House.ID)
	if err != nil || len(list) == 0 {
		return err
	}
	changed, err := tx.ColorsToTell(a.House.ID)
	if err != nil || len(changed) == 0 {
		return err
	}
	of := map[Event][]map[string]any{}
	for _, c := range changed {
		said := map[string]any{"id": c.ID, "name": c.Name, "hex": c.Hex}
		switch {
		case c.Status == "approved":
			of[ColorApproved] = append(of[ColorApproved], said)
		case c.Status == "retired" && c.Known == "approved":
			if c.Successor != nil {
				said["successor"] = map[string]any{"id": *c.Successor, "name": c.Next}
			}
			of[ColorRetired] = append(of[ColorRetired], said)
		}
	}
	for _, e := range []Event{ColorApproved, ColorRetired} {
		for part := range slices.Chunk(of[e], mostColors) {
			if err := r.say(tx, a, list, e, map[string]any{"colors": part}); err != nil {
				return err
			}
		}
	}
	return tx.ColorsTold(a.House.ID)
}

// EncryptSecrets encrypts with the current key what was encrypted with one of before. It says how many.
func (r *Rules) EncryptSecrets(ctx context.Context) (n int, err error) {
	rows, err := r.DB.With(ctx).AllHooks()
	if err != nil {
		return 0, err
	}
	for _, h := range rows {
		if r.Keys.Current(h.Secret) {
			continue
		}
		err := r.DB.In(ctx, func(tx *store.DB) error {
			h, err := tx.Hook(h.HouseID, h.ID)
			if err != nil {
				return err
			}
			secret, err := r.Keys.Decrypt(h.Secret, place(h.ID))
			if err != nil {
				return fmt.Errorf("the secret of webhook %d: %w", h.ID, err)
			}
			h.Secret = r.Keys.Encrypt(secret, place(h.ID))
			return tx.Save(&h)
		})
		if err != nil {
			return n, err
		}
		n++
	}
	return n, nil
}
