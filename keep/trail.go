package keep

import (
	"context"
	"encoding/json"
	"log/slog"
	"strings"

	"huekeep/store"
)

// From says where a request came from, and how.
type From struct {
	Address string // of the peer, or what a trusted proxy says of it
	Agent   string // the program, in words: "Firefox on Linux"
	Via     string // session, token and its name, link, command line
	Request string // its id, which the answer and the logs carry
}

type fromKey struct{}

// WithFrom puts into a context where its request came from.
func WithFrom(ctx context.Context, f From) context.Context {
	return context.WithValue(ctx, fromKey{}, f)
}

// FromOf is where the request of a context came from.
func FromOf(ctx context.Context) From {
	f, _ := ctx.Value(fromKey{}).(From)
	return f
}

// Did is something that is put on the trail.
type Did struct {
	House   int64 // 0 for what concerns a person only
	Account int64
	Name    string
	What    string // the operation of the contract, or one of the words of sign-in
	About   string // what it was done to
	Before  any    // what was different before; nil for nothing
	After   any
	Outcome int // the status of the answer; 0 while it is not known
}

// Trail puts something on the trail of a house and returns its row. Within a transaction it is kept or not with the rest.
func Trail(ctx context.Context, db *store.DB, d Did, now Clock) (store.Trail, error) {
	row := trailRow(ctx, d, now)
	return row, db.With(ctx).Add(&row)
}

func trailRow(ctx context.Context, d Did, now Clock) store.Trail {
	f := FromOf(ctx)
	if f.Via == "" {
		f.Via = "command line"
	}
	row := store.Trail{At: now(), ByName: Short(d.Name, 120), Via: Short(f.Via, 120), Address: Short(f.Address, 64),
		Request: Short(f.Request, 40),
		What:    d.What, About: Short(d.About, 190), BeforeState: TrailState(d.Before), AfterState: TrailState(d.After), Outcome: d.Outcome,
		Times: 1}
	if d.House > 0 {
		row.HouseID = &d.House
	}
	if d.Account > 0 {
		row.UserID = &d.Account
	}
	return row
}

// Noted is Trail for what has happened already: where it cannot be written, the log has it.
func (b *Base) Noted(ctx context.Context, d Did) {
	if _, err := Trail(context.WithoutCancel(ctx), b.DB, d, b.Now); err != nil {
		slog.Error("the trail could not be written", "what", d.What, "about", d.About, "by", d.Name, "error", err)
	}
}

// NotedOften is Noted for what may happen again and again: what is the same in words that the caller chooses is one row, which is counted.
func (b *Base) NotedOften(ctx context.Context, d Did, same string) {
	ctx = context.WithoutCancel(ctx)
	row := trailRow(ctx, d, b.Now)
	once := Digest(same)
	row.Once = &once
	if err := b.DB.With(ctx).Again(&row); err != nil {
		slog.Error("the trail could not be written", "what", d.What, "about", d.About, "by", d.Name, "error", err)
	}
}

// mostState is how much of a state the trail keeps, in bytes.
const mostState = 16 << 10

// TrailState is a state in the form in which the trail keeps it: JSON, empty for nothing.
func TrailState(state any) string {
	if state == nil {
		return ""
	}
	text, err := json.Marshal(state)
	if err != nil || string(text) == "null" {
		return ""
	}
	if len(text) > mostState {
		text, _ = json.Marshal(map[string]string{"cut": strings.ToValidUTF8(string(text[:mostState/2]), "")})
	}
	return string(text)
}
