package main

import (
	"bytes"
	"io"
	"os"
	"strings"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"
)

func TestARatioThatGotWorseIsNamed(t *testing.T) {
	now, err := Read(strings.NewReader(`goos: linux
BenchmarkProof-2     	       2	15528286176 ns/op	      1085 ms-from-four-inks	         1.032 x-tificc
BenchmarkNearest/of a thousand-16   1	 215 ns/op	 32.4 x-faster-than-all 12 B/op
BenchmarkSame-2 3 1 ns/op 2.4 x-plain
PASS
`), io.Discard)
	require.NoError(t, err)
	assert.Equal(t, Stated{"BenchmarkProof ms-from-four-inks": 1085, "BenchmarkProof x-tificc": 1.032, "BenchmarkSame x-plain": 2.4}, now,
		"a name with a space is none that go test writes")
	var table bytes.Buffer
	worse := Table(&table, Kept("BenchmarkProof x-tificc 0.5\nBenchmarkProof ms-from-four-inks 10\nBenchmarkSame x-plain 2\nBenchmarkGone x-plain 1\nnonsense\n"), now)
	assert.Equal(t, []string{"BenchmarkProof x-tificc"}, worse, "times depend on the machine, and a fifth is within what is measured")
	assert.Regexp(t, `Proof +x-tificc +0.5 +1.032 +worse by 106 %`, table.String())
	assert.Regexp(t, `Gone +x-plain +1 +- +not measured`, table.String())
	assert.Equal(t, []string{"BenchmarkN x-faster"}, Table(io.Discard, Stated{"BenchmarkN x-faster": 30}, Stated{"BenchmarkN x-faster": 20}), "of what is faster, more is better")
}

// Whatever takes more than twice what it is held against has a sentence in docs/speed.md on what the limit is.
func TestWhatIsOverTwiceItsAnchorHasItsReason(t *testing.T) {
	stated, err := os.ReadFile("../../docs/bench.txt")
	require.NoError(t, err)
	reasons, err := os.ReadFile("../../docs/speed.md")
	require.NoError(t, err)
	for key, v := range Kept(string(stated)) {
		name, unit, _ := strings.Cut(key, " ")
		if !strings.HasPrefix(unit, "x-") || strings.Contains(unit, "faster") || v <= 2 {
			continue
		}
		name, _, _ = strings.Cut(strings.TrimPrefix(name, "Benchmark"), "/")
		assert.True(t, strings.Contains(string(reasons), "| `"+name) || strings.Contains(string(reasons), ", `"+name+"`"), "docs/speed.md has no row of %s, which is %g %s", name, v, unit)
	}
}
