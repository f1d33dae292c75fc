package reading

import (
	"context"
	"fmt"
	"io"
	"os"
	"strconv"
	"syscall"
)

// memoryVariable tells a process what it may take.
const memoryVariable = "HUEKEEP_READ_MEMORY"

// Process is what a process of a pool does: it keeps within its memory and works until its input ends.
func Process(ctx context.Context, in io.Reader, out io.Writer) error {
	n, err := strconv.ParseUint(os.Getenv(memoryVariable), 10, 64)
	if err != nil || n == 0 {
		return fmt.Errorf("%s is started by the server only", WorkCommand)
	}
	// What is writable and not of a file counts (setrlimit(2), RLIMIT_DATA); what the runtime only reserves does not.
	if err := syscall.Setrlimit(syscall.RLIMIT_DATA, &syscall.Rlimit{Cur: n, Max: n}); err != nil {
		return err
	}
	return Work(ctx, in, out)
}
