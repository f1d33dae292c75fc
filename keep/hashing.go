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

var (
	hashing = semaphore.NewWeighted(hashesAtOnce)
	waiting atomic.Int32
)

// hashTurn waits for a turn; when too many do, nobody else is let in.
func hashTurn(ctx context.Context) (done func(), err error) {
	crowded := &Error{Kind: TooMany, Retry: 5 * time.Second, Message: "Too many passwords are being checked at this moment. Try again in a few seconds."}
	if waiting.Add(1) > hashesWaiting+hashesAtOnce {
		waiting.Add(-1)
		return nil, crowded
	}
	patient, stop := context.WithTimeout(ctx, hashPatience)
	defer stop()
	if err := hashing.Acquire(patient, 1); err != nil {
		waiting.Add(-1)
		if ctx.Err() != nil {
			return nil, ctx.Err()
		}
		return nil, crowded
	}
	return func() { hashing.Release(1); waiting.Add(-1) }, nil
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
