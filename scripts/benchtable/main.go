// Command benchtable sets what benchmarks state beside what was stated last, as one table.
//
//	go test -bench . ./... | go run ./scripts/benchtable [-keep] docs/bench.txt
//
// What was stated last stands in the file, a line each: the benchmark, the unit, the value. Ratios to something measured in the same run,
// whose units begin with "x-", do not depend on the machine: one that got worse by more than a quarter makes it fail. Times stand there to
// be looked at. With -keep, the file is written anew.
package main

import (
	"bufio"
	"flag"
	"fmt"
	"io"
	"maps"
	"os"
	"regexp"
	"slices"
	"strconv"
	"strings"
	"text/tabwriter"
)

// worst is how much of its value a ratio may get worse by.
const worst = 1.25

// Stated is what benchmarks state, by "name unit".
type Stated map[string]float64

var cores = regexp.MustCompile(`-\d+$`)

// Read reads the output of go test -bench and passes it on. What is of the testing package itself, and depends on the machine, is left out.
func Read(in io.Reader, pass io.Writer) (Stated, error) {
	out := Stated{}
	lines := bufio.NewScanner(in)
	lines.Buffer(nil, 1<<20)
	for lines.Scan() {
		fmt.Fprintln(pass, lines.Text())
		f := strings.Fields(lines.Text())
		if len(f) < 4 || !strings.HasPrefix(f[0], "Benchmark") {
			continue
		}
		name := cores.ReplaceAllString(f[0], "")
		for i := 2; i+1 < len(f); i += 2 {
			v, err := strconv.ParseFloat(f[i], 64)
			if err != nil {
				break
			}
			if unit := f[i+1]; !slices.Contains([]string{"ns/op", "B/op", "allocs/op", "MB/s"}, unit) {
				out[name+" "+unit] = v
			}
		}
	}
	return out, lines.Err()
}

// Kept reads what was stated last.
func Kept(text string) Stated {
	out := Stated{}
	for _, line := range strings.Split(text, "\n") {
		if f := strings.Fields(line); len(f) == 3 {
			if v, err := strconv.ParseFloat(f[2], 64); err == nil {
				out[f[0]+" "+f[1]] = v
			}
		}
	}
	return out
}

// Table writes both beside each other and lists what got worse.
func Table(w io.Writer, before, now Stated) (worse []string) {
	t := tabwriter.NewWriter(w, 0, 0, 2, ' ', 0)
	fmt.Fprintln(t, "benchmark\tunit\tlast\tnow\t")
	all := maps.Clone(before)
	maps.Copy(all, now)
	for _, key := range slices.Sorted(maps.Keys(all)) {
		name, unit, _ := strings.Cut(key, " ")
		was, had := before[key]
		is, has := now[key]
		note := ""
		switch {
		case !has:
			note = "not measured"
		case !had:
			note = "new"
		case strings.HasPrefix(unit, "x-"):
			by := is / was
			if strings.Contains(unit, "faster") { // more is better
				by = was / is
			}
			if by > worst {
				note = fmt.Sprintf("worse by %.0f %%", 100*(by-1))
				worse = append(worse, key)
			}
		}
		fmt.Fprintf(t, "%s\t%s\t%s\t%s\t%s\n", strings.TrimPrefix(name, "Benchmark"), unit, number(was, had), number(is, has), note)
	}
	t.Flush()
	return worse
}

func number(v float64, there bool) string {
	if !there {
		return "-"
	}
	return strconv.FormatFloat(v, 'g', 4, 64)
}

func main() {
	keep := flag.Bool("keep", false, "write the file anew")
	flag.Parse()
	file := flag.Arg(0)
	now, err := Read(os.Stdin, os.Stdout)
	if err == nil && len(now) == 0 {
		err = fmt.Errorf("no benchmark stated anything")
	}
	text, missing := os.ReadFile(file)
	if err == nil && missing != nil && !*keep {
		err = missing
	}
	if err != nil {
		fmt.Fprintln(os.Stderr, "benchtable:", err)
		os.Exit(2)
	}
	fmt.Println()
	worse := Table(os.Stdout, Kept(string(text)), now)
	if *keep {
		var b strings.Builder
		for _, key := range slices.Sorted(maps.Keys(now)) {
			fmt.Fprintf(&b, "%s %s\n", key, number(now[key], true))
		}
		if err := os.WriteFile(file, []byte(b.String()), 0o644); err != nil {
			fmt.Fprintln(os.Stderr, "benchtable:", err)
			os.Exit(2)
		}
		return
	}
	if len(worse) > 0 {
		fmt.Fprintf(os.Stderr, "benchtable: worse by more than a quarter: %s\n", strings.Join(worse, ", "))
		os.Exit(1)
	}
}
