package main

import (
	"bytes"
	"fmt"
	"math/rand/v2"
	"os/exec"
	"testing"
	"time"

	"github.com/stretchr/testify/require"
)

// BenchmarkConvertAgainstTransicc states what 100,000 lines cost `huekeep convert -`, which answers each with every form of
// the color, its build and five inks, as a ratio to lcms2's transicc, which answers with the plain build: processor time,
// and how many processors worked on it.
func BenchmarkConvertAgainstTransicc(b *testing.B) {
	if _, err := exec.LookPath("transicc"); err != nil {
		b.Skip("transicc of Debian's liblcms2-utils is not installed")
	}
	var hex, rgb bytes.Buffer
	r := rand.New(rand.NewPCG(3, 4))
	for range 100_000 {
		v := [3]int{r.IntN(256), r.IntN(256), r.IntN(256)}
		fmt.Fprintf(&hex, "#%02X%02X%02X\n", v[0], v[1], v[2])
		fmt.Fprintln(&rgb, v[0], v[1], v[2])
	}
	processor := func(in []byte, name string, args ...string) (used, passed time.Duration) {
		cmd := exec.Command(name, args...)
		cmd.Stdin = bytes.NewReader(in)
		at := time.Now()
		require.NoError(b, cmd.Run())
		return cmd.ProcessState.UserTime() + cmd.ProcessState.SystemTime(), time.Since(at)
	}
	var ratio, processors float64
	for b.Loop() {
		ours, theirs := time.Hour, time.Hour
		for range 2 {
			used, passed := processor(hex.Bytes(), program, "convert", "-")
			ours, processors = min(ours, used), float64(used)/float64(passed)
			used, _ = processor(rgb.Bytes(), "transicc", "-i*sRGB", "-o../../core/press/profiles/coated.icc", "-t1")
			theirs = min(theirs, used)
		}
		ratio = float64(ours) / float64(theirs)
	}
	b.ReportMetric(ratio, "x-transicc")
	b.ReportMetric(processors, "processors")
}
