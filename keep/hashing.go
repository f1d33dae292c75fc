package keep

import (
	"context"
	"sync/atomic"
	"time"

	"github.com/alexedwards/argon2id"
	"golang.org/x/sync/semaphore"
)

// A hash of a secret takes 64 MB and a processor for a tenth of a second, so few are made at once, and few wait for their turn.
const (
	hashesAtOnce  = 2
	hashesWaiting = 16
	hashPatience  = 5 * time.Second
)

// lane is a queue for hashes.
type lane struct {
	turns   *semaphore.Weighted
	waiting atomic.Int32
}

// Who comes from a browser that is known or with a link that was mailed has a lane of their own, so that nobody who guesses keeps them out.
var everybody, preceding = lane{turns: semaphore.NewWeighted(hashesAtOnce)}, lane{turns: semaphore.NewWeighted(1)}

type precedence struct{}

// WithPrecedence lets hashes of a context go in the lane of those who have shown something already.
func WithPrecedence(ctx context.Context, has bool) context.Context {
	return context.WithValue(ctx, precedence{}, has)
}

// hashTurn waits for a turn; when too many do, nobody else is let in.
func hashTurn(ctx context.Context) (done func(), err error) {
	crowded := &Error{Kind: TooMany, Retry: 5 * time.Second,
		Message: "Too many passwords are being checked at this moment. Try again in a few seconds."}
	l := &everybody
	if has, _ := ctx.Value(precedence{}).(bool); has {
		l = &preceding
	}
	if l.waiting.Add(1) > hashesWaiting+hashesAtOnce {
		l.waiting.Add(-1)
		return nil, crowded
	}
	patient, stop := context.WithTimeout(ctx, hashPatience)
	defer stop()
	if err := l.turns.Acquire(patient, 1); err != nil {
		l.waiting.Add(-1)
		if ctx.Err() != nil {
			return nil, ctx.Err()
		}
		return nil, crowded
	}
	return func() { l.turns.Release(1); l.waiting.Add(-1) }, nil
}

// HashSecret makes the hash of a password or pass phrase (Argon2id, RFC 9106) that is kept instead of it.
func HashSecret(ctx context.Context, secret string, cost *argon2id.Params) (string, error) {
	done, err := hashTurn(ctx)
	if err != nil {
		return "", err
	}
	defer done()
	return argon2id.CreateHash(secret, cost)
}

// SecretFits says whether a secret is the one of a hash.
func SecretFits(ctx context.Context, secret, hash string) (bool, error) {
	done, err := hashTurn(ctx)
	if err != nil {
		return false, err
	}
	defer done()
	return argon2id.ComparePasswordAndHash(secret, hash)
}
