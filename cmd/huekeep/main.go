// Command huekeep serves the Hue Keep web application and answers color questions on the command line.
package main

import (
	"context"
	"errors"
	"fmt"
	"io"
	"log/slog"
	"os"
	"runtime/debug"
	"slices"
	"strconv"
	"strings"

	"github.com/spf13/cobra"
	_ "golang.org/x/crypto/x509roots/fallback" // for where the system has no certificates, as in a container

	"huekeep/reading"
)

// exitError ends the program with a code of its own; an empty message prints nothing.
type exitError struct {
	code int
	err  error
}

func (e exitError) Error() string { return e.err.Error() }

func main() {
	ctx, stop := stoppable(context.Background())
	defer stop()
	os.Exit(run(ctx, os.Args[1:]))
}

// What the garbage collector keeps the program within as far as it can, in bytes: one file at a time on the command line, several
// on a server. GOMEMLIMIT says otherwise.
const (
	memoryOfCommand = 256 << 20
	memoryOfServer  = 768 << 20
)

// machine is how much memory there is: that of the machine, or of the control group if that is less; 0 if nobody says.
func machine() (bytes int64) {
	least := func(n int64) {
		if n > 0 && (bytes == 0 || n < bytes) {
			bytes = n
		}
	}
	if text, err := os.ReadFile("/proc/meminfo"); err == nil {
		var kB int64
		if _, err := fmt.Sscanf(string(text), "MemTotal: %d kB", &kB); err == nil {
			least(kB << 10)
		}
	}
	for _, path := range []string{"/sys/fs/cgroup/memory.max", "/sys/fs/cgroup/memory/memory.limit_in_bytes"} {
		if text, err := os.ReadFile(path); err == nil {
			if n, err := strconv.ParseInt(strings.TrimSpace(string(text)), 10, 64); err == nil {
				least(n)
			}
		}
	}
	return bytes
}

// part is a share of the memory that there is, between two bounds.
func part(of, share, least, most int64) int64 {
	if of == 0 {
		return most
	}
	return max(least, min(most, of/share))
}

// serverMemory is what the server is kept within, readerMemory what each process that reads foreign files may take at the most.
func serverMemory() int64 { return part(machine(), 3, 256<<20, memoryOfServer) }
func readerMemory() int64 { return part(machine(), 4, 384<<20, reading.MemoryPerProcess) }

func keepWithin(bytes int64) {
	if os.Getenv("GOMEMLIMIT") == "" {
		debug.SetMemoryLimit(bytes)
	}
}

// stream is standard output, which remembers whether it took everything: a full disk must not end as if all was well.
type stream struct {
	io.Writer
	failed error
}

func (s *stream) Write(b []byte) (int, error) {
	n, err := s.Writer.Write(b)
	if err != nil && s.failed == nil {
		s.failed = err
	}
	return n, err
}

func run(ctx context.Context, args []string) int {
	keepWithin(memoryOfCommand)
	root := &cobra.Command{
		Use:           "huekeep",
		Short:         "The master library of brand colors: keep it, send it, check that it was used",
		SilenceUsage:  true,
		SilenceErrors: true,
	}
	root.AddCommand(convertCommand(), diffCommand(), auditCommand(), watchCommand(), repaintCommand(), packCommand(), gatherCommand(),
		pullCommand(),
		inksCommand(), harmonyCommand(), scaleCommand(), contrastCommand(), visionCommand(), extractCommand(), proofCommand(),
		versionCommand(), manCommand())
	ofServer := serverCommands()
	root.AddCommand(ofServer...)
	root.SetArgs(args)
	out := &stream{Writer: os.Stdout}
	root.SetOut(out)
	work := func() error { return root.ExecuteContext(ctx) }
	var err error
	if c, _, failed := root.Find(args); failed == nil && slices.Contains(ofServer, c) {
		err = work() // it ends in order, however long that takes
	} else if err = untilStopped(ctx, work); err != nil {
		if s, ok := wasStopped(ctx); ok {
			fmt.Fprintln(os.Stderr, "huekeep:", err)
			return s.code()
		}
	}
	if out.failed != nil { // whatever it was, nobody has it
		err = fmt.Errorf("the answer could not be written: %w", out.failed)
	}
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
	if setting("LOG", "") == "json" && len(args) > 0 && (args[0] == "serve" || args[0] == "demo") { // whoever reads the log reads objects
		slog.New(slog.NewJSONHandler(os.Stderr, nil)).Error("huekeep ended", "error", err.Error())
		return 2
	}
	fmt.Fprintln(os.Stderr, "huekeep:", err)
	return 2
}
