package main

import (
	"context"
	"errors"
	"fmt"
	"os"
	"os/signal"
	"syscall"
	"time"
)

// stopped is why a command ended that was asked to: the signal.
type stopped struct{ signal syscall.Signal }

func (s stopped) Error() string {
	if s.signal == syscall.SIGTERM {
		return "stopped by SIGTERM"
	}
	return "stopped by SIGINT"
}

// code is what a shell gives to what ended by a signal (POSIX.1-2017, Shell and Utilities, 2.8.2).
func (s stopped) code() int { return 128 + int(s.signal) }

// stoppable ends a context with the first signal that asks for it; the second one ends the program.
func stoppable(ctx context.Context) (context.Context, func()) {
	ctx, cancel := context.WithCancelCause(ctx)
	signals := make(chan os.Signal, 1)
	signal.Notify(signals, os.Interrupt, syscall.SIGTERM)
	go func() {
		if s, ok := (<-signals).(syscall.Signal); ok {
			signal.Stop(signals)
			cancel(stopped{s})
		}
	}()
	return ctx, func() { signal.Stop(signals); cancel(nil) }
}

// wasStopped says by which signal a context was ended.
func wasStopped(ctx context.Context) (s stopped, ok bool) {
	ok = errors.As(context.Cause(ctx), &s)
	return s, ok
}

// respite is how long a command may take to end by itself.
const respite = 800 * time.Millisecond

// untilStopped runs a command that does not serve, which ends a moment after it was asked to, wherever it is: what it writes is whole or
// not there at every moment.
func untilStopped(ctx context.Context, f func() error) error {
	done := make(chan error, 1)
	go func() { done <- f() }()
	select {
	case err := <-done:
		return err
	case <-ctx.Done():
	}
	select {
	case err := <-done:
		return err
	case <-time.After(respite):
		return context.Cause(ctx)
	}
}

// inTime runs f, which reads one file. It is left alone when its time is over or the command is stopped, since what reads does not always
// look.
func inTime[T any](ctx context.Context, limit time.Duration, f func(ctx context.Context) (T, error)) (T, error) {
	type answer struct {
		value T
		err   error
	}
	within, cancel := context.WithTimeoutCause(ctx, limit, fmt.Errorf("it takes too long to read (over %g seconds)", limit.Seconds()))
	defer cancel()
	done := make(chan answer, 1)
	go func() {
		value, err := f(within)
		done <- answer{value, err}
	}()
	select {
	case a := <-done:
		if a.err == nil || within.Err() == nil {
			return a.value, a.err
		}
	case <-within.Done():
		if ctx.Err() != nil {
			break
		}
		select {
		case <-done:
		case <-time.After(respite):
			var none T
			return none, errStuck{context.Cause(within)}
		}
	}
	var none T
	return none, context.Cause(within)
}

// errStuck is the end of what goes on nevertheless: what it works on must not be used any more.
type errStuck struct{ error }
