// Package hostile makes what hostile files are made of, for the tests of readers: the same opening forty thousand times, and half an
// opening with its close. A reader has to be done with each of them in time that is linear in its bytes.
package hostile

import (
	"bytes"
	"fmt"
	"os"
	"runtime"
	"strings"
	"testing"
	"time"

	"golang.org/x/sys/unix"
)

// Most is how often a token is repeated; one of those that Pairs makes, which are very many, less often but where HUEKEEP_HOSTILE is set.
const (
	Most  = 40_000
	fewer = 1_500
)

// perMB is how long a megabyte may take, and grace what any reading may: three times what it takes where nothing else is done, since a
// machine that is busy is no fault of a reader. What is not linear takes more than any of these.
const (
	perMB = 3 * time.Second
	grace = 400 * time.Millisecond
)

// Pairs are all single bytes and all pairs of bytes of an alphabet.
func Pairs(alphabet string) (out []string) {
	for _, a := range alphabet {
		out = append(out, string(a))
		for _, b := range alphabet {
			out = append(out, string(a)+string(b))
		}
	}
	return out
}

// Case is a token between what makes a file of a kind and what closes it.
type Case struct {
	Head, Token, Tail string
	Closed            bool                        // as many times as the token, the tail closes it
	Few               bool                        // it is one of very many, or in a place of several
	Wrap              func(content string) []byte // makes the file; nil for the text itself
}

// Text is the file with the token repeated.
func (c Case) Text(times int) string {
	tail := c.Tail
	if c.Closed {
		tail = strings.Repeat(tail, times)
	}
	return c.Head + strings.Repeat(c.Token, times) + tail
}

// Cases are tokens between a head and a tail.
func Cases(head, tail string, tokens ...string) (out []Case) {
	for _, t := range tokens {
		out = append(out, Case{Head: head, Token: t, Tail: tail})
	}
	return out
}

// Within are tokens in the content of a file that is made of it.
func Within(wrap func(content string) []byte, head, tail string, tokens ...string) (out []Case) {
	for _, c := range Cases(head, tail, tokens...) {
		c.Wrap = wrap
		out = append(out, c)
	}
	return out
}

// most is how often the token of a case is repeated.
func (c Case) most() int {
	if (c.Few || len(c.Token) <= 2) && os.Getenv("HUEKEEP_HOSTILE") == "" {
		return fewer
	}
	return Most
}

// Linear reads files in which a token is repeated more and more often, and fails for those that take too long. It stops at the first number
// of a case that does, so that a reader that never ends is noticed by one that only takes long. It tells the slowest of all, by the
// megabyte.
func Linear(t *testing.T, read func(data []byte), cases []Case) {
	t.Helper()
	slowest, which := time.Duration(0), ""
	for _, c := range cases {
		last := time.Duration(0)
		most := c.most()
		for n := 8; n <= most; n = next(n, most, last > 50*time.Millisecond) {
			text := c.Text(n)
			size := len(text)
			data := []byte(text)
			if c.Wrap != nil {
				data = c.Wrap(text)
			}
			allowed := time.Duration(float64(perMB)*float64(size)/1e6) + grace
			took := best(read, data, allowed)
			if took > allowed {
				t.Errorf("%q %d times behind %q (%d bytes): %v, with fewer of them %v", short(c.Token), n, short(c.Head), size, took, last)
				break
			}
			last = took
			if n == most && size > 100_000 {
				if a := time.Duration(float64(took) / float64(size) * 1e6); a > slowest {
					slowest, which = a, fmt.Sprintf("%q behind %q", short(c.Token), short(c.Head))
				}
			}
		}
	}
	t.Logf("%d cases, the slowest %v a MB: %s", len(cases), slowest.Round(time.Millisecond), which)
}

// next grows in small steps at first, since what doubles with each token is over a second soon, and where it begins to take long.
func next(n, most int, slow bool) int {
	switch {
	case n < 32:
		return n + 8
	case n == most:
		return n + 1
	case n < 64 || slow && n*2 < most:
		return n * 2
	case n*16 > most:
		return most
	}
	return n * 16
}

// best reads a file, and again where it took too long: the machine may have been at something else.
func best(read func(data []byte), data []byte, allowed time.Duration) time.Duration {
	took := time.Duration(0)
	for try := range 3 {
		own := bytes.Clone(data) // some readers write into what they read
		runtime.LockOSThread()
		begun := spent()
		read(own)
		once := spent() - begun
		runtime.UnlockOSThread()
		if try == 0 || once < took {
			took = once
		}
		if took <= allowed || took > 20*allowed {
			break
		}
	}
	return took
}

// spent is the time that a processor gave to this thread: what else the machine does, and what it waits for, does not count. Readers work
// in the goroutine that calls them.
func spent() time.Duration {
	var u unix.Rusage
	if err := unix.Getrusage(unix.RUSAGE_THREAD, &u); err != nil {
		panic(err) // only a wrong address would
	}
	return time.Duration(u.Utime.Nano() + u.Stime.Nano())
}

func short(s string) string {
	if len(s) > 60 {
		return s[:30] + "..." + s[len(s)-30:]
	}
	return s
}

// Timely fails a fuzz target whose input took long; defer what it returns. A machine that is busy takes its time, a reader that is not
// linear takes more.
func Timely(t *testing.T, bytes int) (done func()) {
	begun := time.Now()
	return func() {
		t.Helper()
		if took, allowed := time.Since(begun), 10*time.Second+time.Duration(bytes)*10*time.Microsecond; took > allowed {
			t.Errorf("%d bytes took %v", bytes, took)
		}
	}
}
