// Command slowest runs tests, passes on what go test says without -v, and ends with a list of the tests that took longest.
//
//	go run ./scripts/slowest go test -timeout 30m ./...
//
// Its status is that of the command, to whose arguments it adds -json.
package main

import (
	"bufio"
	"cmp"
	"encoding/json"
	"errors"
	"fmt"
	"io"
	"os"
	"os/exec"
	"slices"
	"strings"
)

// listed is how many tests are listed.
const listed = 10

// event is what go test -json writes, a line each; see go doc test2json.
type event struct {
	Action, Package, Test, Output string
	Elapsed                       float64 // seconds, without what a parallel test waited for its turn
}

// Test is how long one took, in seconds; of tests within tests, the outermost counts.
type Test struct {
	Package, Name string
	Seconds       float64
	Cached        bool // whether it was run by an earlier command
}

// Read passes on what is said of packages, and of tests that failed all that they said.
func Read(in io.Reader, pass io.Writer) (took []Test, err error) {
	said := map[[2]string]*strings.Builder{} // by package and test, of those that still go on
	cached := map[string]bool{}
	lines := bufio.NewReader(in)
	for {
		line, err := lines.ReadBytes('\n')
		if len(line) > 0 {
			var e event
			if json.Unmarshal(line, &e) != nil {
				if _, err := pass.Write(line); err != nil { // of a build, or of go itself
					return nil, err
				}
			} else if seconds, ended := tell(e, said, cached, pass); ended {
				took = append(took, Test{Package: e.Package, Name: e.Test, Seconds: seconds})
			}
		}
		if errors.Is(err, io.EOF) {
			break
		}
		if err != nil {
			return nil, err
		}
	}
	for key, b := range said { // what was cut off in the middle says what it had come to
		if key[1] != "" && b.Len() > 0 {
			fmt.Fprint(pass, b)
		}
	}
	for i := range took {
		took[i].Cached = cached[took[i].Package]
	}
	slices.SortStableFunc(took, func(a, b Test) int { return cmp.Compare(b.Seconds, a.Seconds) })
	return took, nil
}

func tell(e event, said map[[2]string]*strings.Builder, cached map[string]bool, pass io.Writer) (seconds float64, ended bool) {
	outermost, _, _ := strings.Cut(e.Test, "/")
	key := [2]string{e.Package, outermost}
	switch e.Action {
	case "build-output":
		fmt.Fprint(pass, e.Output)
	case "output":
		if e.Test == "" {
			if e.Output == "PASS\n" || strings.HasPrefix(e.Output, "coverage:") {
				return
			}
			if strings.HasPrefix(e.Output, "ok ") && strings.Contains(e.Output, "(cached)") {
				cached[e.Package] = true
			}
			fmt.Fprint(pass, e.Output)
			return
		}
		if said[key] == nil {
			said[key] = new(strings.Builder)
		}
		said[key].WriteString(e.Output)
	case "fail":
		if e.Test == outermost && e.Test != "" && said[key] != nil {
			fmt.Fprint(pass, said[key])
		}
		fallthrough
	case "pass", "skip":
		if e.Test == outermost && e.Test != "" {
			delete(said, key)
			return e.Elapsed, true
		}
	}
	return 0, false
}

// List writes those that took longest.
func List(w io.Writer, took []Test) {
	n := min(listed, len(took))
	if n == 0 {
		return
	}
	fmt.Fprintf(w, "\nThe slowest of %d tests:\n", len(took))
	for _, t := range took[:n] {
		note := ""
		if t.Cached {
			note = " (cached)"
		}
		fmt.Fprintf(w, "%7.1f s  %s %s%s\n", t.Seconds, t.Package, t.Name, note)
	}
}

func main() {
	if len(os.Args) < 3 || os.Args[2] != "test" {
		fmt.Fprintln(os.Stderr, "use it as: slowest go test [arguments]")
		os.Exit(2)
	}
	c := exec.Command(os.Args[1], append([]string{"test", "-json"}, os.Args[3:]...)...)
	c.Stderr = os.Stderr
	out, err := c.StdoutPipe()
	if err == nil {
		err = c.Start()
	}
	if err != nil {
		fmt.Fprintln(os.Stderr, "slowest:", err)
		os.Exit(2)
	}
	took, err := Read(out, os.Stdout)
	ended := c.Wait()
	List(os.Stdout, took)
	if err != nil {
		fmt.Fprintln(os.Stderr, "slowest:", err)
		os.Exit(2)
	}
	if ended != nil {
		os.Exit(max(1, c.ProcessState.ExitCode()))
	}
}
