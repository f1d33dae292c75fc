package keep

import (
	"context"

	"golang.org/x/sync/semaphore"

	"huekeep/core/limits"
)

var atOnce = semaphore.NewWeighted(limits.ReadAtOnce)

// Reading waits until a foreign file may be read: a file can take hundreds of megabytes while it is, so that only a few are
// read at the same time, whoever asks. The function that it returns says that the file is read.
func Reading(ctx context.Context) (done func(), err error) {
	if err := atOnce.Acquire(ctx, 1); err != nil {
		return nil, err
	}
	return func() { atOnce.Release(1) }, nil
}
