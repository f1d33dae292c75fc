package main

import (
	"bytes"
	"context"
	"fmt"
	"math/rand/v2"
	"net"
	"net/http"
	"os"
	"os/exec"
	"path/filepath"
	"strings"
	"syscall"
	"testing"
	"time"

	"github.com/stretchr/testify/require"

	"huekeep/store/local"
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

// BenchmarkStart states how long it takes from the start of the program until somebody is answered, on data that is there, as a ratio to starting the
// database that comes up with it; and what one value costs on the command line, as a ratio to transicc.
func BenchmarkStart(b *testing.B) {
	data := b.TempDir()
	listener, err := net.Listen("tcp", "127.0.0.1:0")
	require.NoError(b, err)
	address := listener.Addr().String()
	require.NoError(b, listener.Close())
	serve := func() time.Duration {
		cmd := exec.Command(program, "demo")
		cmd.Env = append(os.Environ(), "HUEKEEP_DATA="+data, "HUEKEEP_ADDRESS="+address, "HUEKEEP_DATABASE=", "HUEKEEP_FILES=", "HUEKEEP_SMTP=")
		at := time.Now()
		require.NoError(b, cmd.Start())
		defer func() {
			_ = cmd.Process.Signal(syscall.SIGTERM)
			_ = cmd.Wait()
		}()
		for time.Since(at) < time.Minute {
			if res, err := http.Get("http://" + address + "/api/version"); err == nil {
				res.Body.Close()
				return time.Since(at)
			}
			time.Sleep(2 * time.Millisecond)
		}
		b.Fatal("the program does not start")
		return 0
	}
	database := func() time.Duration {
		at := time.Now()
		s, err := local.Start(context.Background(), filepath.Join(data, "mariadb"))
		require.NoError(b, err)
		took := time.Since(at)
		s.Stop()
		return took
	}
	one := func(in, name string, args ...string) time.Duration {
		cmd := exec.Command(name, args...)
		cmd.Stdin = strings.NewReader(in)
		at := time.Now()
		require.NoError(b, cmd.Run())
		return time.Since(at)
	}
	serve() // makes the database and the demo
	answered, started, ours, theirs := time.Hour, time.Hour, time.Hour, time.Hour
	for b.Loop() {
		started, answered = min(started, database()), min(answered, serve())
		for range 10 {
			ours = min(ours, one("", program, "convert", "#E2572B"))
			if _, err := exec.LookPath("transicc"); err == nil {
				theirs = min(theirs, one("226 87 43\n", "transicc", "-i*sRGB", "-o../../core/press/profiles/coated.icc", "-t1"))
			}
		}
	}
	b.ReportMetric(answered.Seconds(), "s-to-the-first-answer")
	b.ReportMetric(float64(answered)/float64(started), "x-database")
	b.ReportMetric(ours.Seconds()*1000, "ms-convert")
	if theirs < time.Hour {
		b.ReportMetric(float64(ours)/float64(theirs), "x-transicc")
	}
}
