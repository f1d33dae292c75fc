// Command huekeep serves the Hue Keep web application and answers color questions on the command line.
package main

import (
	"context"
	"errors"
	"fmt"
	"os"
	"os/signal"
	"runtime/debug"
	"syscall"

	"github.com/spf13/cobra"
)

// exitError ends the program with a code of its own; an empty message prints nothing.
type exitError struct {
	code int
	err  error
}

func (e exitError) Error() string { return e.err.Error() }

func main() {
	ctx, stop := signal.NotifyContext(context.Background(), os.Interrupt, syscall.SIGTERM)
	defer stop()
	os.Exit(run(ctx, os.Args[1:]))
}

// What the garbage collector keeps the program within as far as it can, in bytes: one file at a time on the command line, several
// on a server. GOMEMLIMIT says otherwise.
const (
	memoryOfCommand = 256 << 20
	memoryOfServer  = 768 << 20
)

func keepWithin(bytes int64) {
	if os.Getenv("GOMEMLIMIT") == "" {
		debug.SetMemoryLimit(bytes)
	}
}

func run(ctx context.Context, args []string) int {
	keepWithin(memoryOfCommand)
	root := &cobra.Command{
		Use:           "huekeep",
		Short:         "The master library of brand colors: keep it, send it, check that it was used",
		SilenceUsage:  true,
		SilenceErrors: true,
	}
	root.AddCommand(convertCommand(), diffCommand(), auditCommand(), repaintCommand(), packCommand(), gatherCommand(),
		inksCommand(), harmonyCommand(), scaleCommand(), contrastCommand(), visionCommand(), extractCommand(), proofCommand(), versionCommand())
	root.AddCommand(serverCommands()...)
	root.SetArgs(args)
	err := root.ExecuteContext(ctx)
	if err == nil {
		return 0
	}
	var exit exitError
	if errors.As(err, &exit) {
		if exit.err != nil {
			fmt.Fprintln(os.Stderr, "huekeep:", exit.err)
		}
		return exit.code
	}
	fmt.Fprintln(os.Stderr, "huekeep:", err)
	return 2
}
