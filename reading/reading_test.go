package reading_test

import (
	"context"
	"errors"
	"fmt"
	"os"
	"strings"
	"sync"
	"testing"
	"time"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"huekeep/core/audit"
	"huekeep/core/audit/kinds"
	"huekeep/core/color"
	"huekeep/core/library"
	"huekeep/core/limits"
	"huekeep/core/repaint"
	"huekeep/demo"
	"huekeep/keep"
	"huekeep/reading"
)

// The tests' own program is a process of the pool when it is asked to be one.
func TestMain(m *testing.M) {
	if len(os.Args) == 2 && os.Args[1] == reading.WorkCommand {
		if err := reading.Process(context.Background(), os.Stdin, os.Stdout); err != nil {
			fmt.Fprintln(os.Stderr, err)
			os.Exit(2)
		}
		return
	}
	os.Exit(m.Run())
}

func pool(t testing.TB, limit time.Duration, memory int64) *reading.Pool {
	t.Helper()
	program, err := os.Executable()
	require.NoError(t, err)
	p := &reading.Pool{Program: program, Limit: limit, Memory: memory, Turns: keep.NewTurns(2)}
	t.Cleanup(p.Close)
	return p
}

func of(data []byte) reading.Load {
	return func(context.Context) ([]byte, error) { return data, nil }
}

func quiet(string, float64) {}

// none says that every file can be judged.
func none(t *testing.T) func(audit.Unread) {
	return func(u audit.Unread) { t.Errorf("%+v", u) }
}

// second is the error of what gives two things.
func second[T any](_ T, err error) error { return err }

func rules() audit.Rules {
	ember, moss := color.RGB8{R: 0xE2, G: 0x57, B: 0x2B}, color.RGB8{R: 0x5E, G: 0x7A, B: 0x3A}
	return audit.Rules{Tolerance: 3, Neutrals: true, Colors: []library.Color{{ID: 1, Name: "Ember", RGB: ember, Status: library.Approved, Tags: []string{"a"}}, {ID: 2, Name: "Moss", RGB: moss, Status: library.Approved}}}
}

// What comes out of a process is what the reader says in this one, for every file of the demo, and so is what is repainted.
func TestAProcessSaysWhatTheReaderSays(t *testing.T) {
	p := pool(t, time.Minute, reading.MemoryPerProcess)
	with := kinds.NewTogether()
	judge := audit.NewJudge(rules())
	s := p.Begin(1, rules())
	defer s.End()
	var names []string
	var scans []*audit.Scan
	got := map[string]audit.Report{}
	for _, f := range demo.Files() {
		scan, err := kinds.ReadWith(f.Name, f.Data, kinds.Options{With: with})
		if strings.HasSuffix(f.Name, ".mp4") {
			continue
		}
		require.NoError(t, err)
		names, scans = append(names, f.Name), append(scans, scan)
		r, err := s.Read(t.Context(), f.Name, of(f.Data), quiet)
		require.NoError(t, err)
		assert.Equal(t, scan.Alone, r != nil, "%s is judged at once if it hangs on no other", f.Name)
		if r != nil {
			got[f.Name] = *r
		}
	}
	with.Finish()
	apart := len(got)
	require.NoError(t, s.Judge(t.Context(), func(r audit.Report) error { got[r.Path] = r; return nil }, none(t)))
	assert.Positive(t, apart)
	assert.Greater(t, len(got), apart, "others hang on each other")
	assert.Len(t, got, len(names))
	for n, name := range names {
		r, want := got[name], judge.Judge(name, scans[n])
		assert.Equal(t, want.Uses, r.Uses, names[n])
		assert.Equal(t, want.Score, r.Score, names[n])
		require.Len(t, r.Colors, len(want.Colors), names[n])
		for i := range want.Colors {
			assert.Equal(t, want.Colors[i].Hex, r.Colors[i].Hex)
			assert.Equal(t, want.Colors[i].Verdict, r.Colors[i].Verdict)
			assert.Len(t, r.Colors[i].Places, len(want.Colors[i].Places))
		}
	}
	sheet := []byte(".a { color: #E2572B; border-color: #E1572C }")
	want, err := repaint.File("a.css", sheet, rules(), repaint.Plan{Colors: []repaint.Step{{From: "#E2572B", To: "Moss"}}}, kinds.Options{})
	require.NoError(t, err)
	made, err := s.Repaint(t.Context(), "a.css", of(sheet), reading.Plan{Colors: []repaint.Step{{From: "#E2572B", To: "Moss"}}}, quiet)
	require.NoError(t, err)
	assert.Equal(t, string(want.Data), string(made.Data))
	assert.Equal(t, want.Uses, made.Uses)
	found, err := p.Gather(t.Context(), 1, "a.gpl", []byte("GIMP Palette\nName: Own\n#\n226 87 43 Ember\n"))
	require.NoError(t, err)
	require.Len(t, found.Colors, 1)
	assert.Equal(t, "Ember", found.Colors[0].Name)
	_, err = p.Gather(t.Context(), 1, "a.gpl", []byte("nothing"))
	var said reading.Sentence
	assert.ErrorAs(t, err, &said)
}

// slow is a file that takes longer than a test waits: many places, each of them worked out.
func slow() []byte {
	var b strings.Builder
	for i := range 190_000 {
		fmt.Fprintf(&b, ".a%d{color:color-mix(in oklch,rgb(%d 2 3),hsl(%d 40%% 50%%));background:linear-gradient(#%06x,lab(%d%% 20 30))}\n", i, i%256, i%360, i, i%100)
	}
	return []byte(b.String())
}

func TestAFileThatTakesTooLongIsSaidAndTheOthersAreJudged(t *testing.T) {
	p := pool(t, time.Minute, reading.MemoryPerProcess)
	s := p.Begin(1, rules())
	defer s.End()
	require.NoError(t, second(s.Read(t.Context(), "a.css", of([]byte("a{color:var(--e)}")), quiet)))
	data := slow()
	p.Limit = 200 * time.Millisecond // the process is there by now
	begun := time.Now()
	_, err := s.Read(t.Context(), "slow.css", of(data), quiet)
	p.Limit = time.Minute
	var said reading.Sentence
	require.ErrorAs(t, err, &said)
	assert.Contains(t, err.Error(), "slow.css: it takes too long to read (over 0.2 seconds)")
	assert.Less(t, time.Since(begun), 30*time.Second)
	require.NoError(t, second(s.Read(t.Context(), "b.css", of([]byte("b{--e:#E2572B}")), quiet)))
	var paths []string
	require.NoError(t, s.Judge(t.Context(), func(r audit.Report) error { paths = append(paths, r.Path); return nil }, none(t)))
	assert.Equal(t, []string{"a.css", "b.css"}, paths)
	assert.EqualValues(t, 1, p.Counted().Late)
}

func TestGivingUpEndsTheProcess(t *testing.T) {
	p := pool(t, time.Minute, reading.MemoryPerProcess)
	s := p.Begin(1, rules())
	defer s.End()
	ctx, stop := context.WithCancel(t.Context())
	data := slow()
	time.AfterFunc(300*time.Millisecond, stop)
	var ended time.Time
	context.AfterFunc(ctx, func() { ended = time.Now() })
	_, err := s.Read(ctx, "slow.css", of(data), quiet)
	require.ErrorIs(t, err, context.Canceled)
	assert.Less(t, time.Since(ended), 5*time.Second) // a busy machine takes its time; a second is what the operator is promised
	require.NoError(t, second(s.Read(t.Context(), "a.css", of([]byte("a{color:#E2572B}")), quiet)))
}

// A file that takes more memory than there is ends its process, and nothing else. What was read before it is read again.
func TestAFileThatTakesTooMuchMemoryEndsItsProcessOnly(t *testing.T) {
	p := pool(t, time.Minute, 168<<20)
	s := p.Begin(1, rules())
	defer s.End()
	require.NoError(t, second(s.Read(t.Context(), "a.css", of([]byte("a{--e:#E2572B}")), quiet)))
	_, err := s.Read(t.Context(), "large.css", of([]byte(strings.Repeat("a{color:#112233;fill:#445566}\n", 1_000_000))), quiet)
	var said reading.Sentence
	require.ErrorAs(t, err, &said)
	assert.Contains(t, err.Error(), "of memory to read")
	uses := 0
	require.NoError(t, s.Judge(t.Context(), func(r audit.Report) error { uses += r.Uses; return nil }, none(t)))
	assert.Equal(t, 1, uses)
	assert.Positive(t, p.Counted().Died)
}

// What is kept of a project is what its files hang on each other by: hundreds of others take no more memory than one.
func TestAProjectTakesNoMoreMemoryThanItsLargestFile(t *testing.T) {
	p := pool(t, time.Minute, 168<<20)
	s := p.Begin(1, rules())
	defer s.End()
	require.NoError(t, second(s.Read(t.Context(), "a.css", of([]byte("a{--e:#E2572B}")), quiet)))
	sheet := of([]byte(strings.Repeat("a{color:#E2572B;fill:#445566}\n", 4_000)))
	for i := range 100 {
		r, err := s.Read(t.Context(), fmt.Sprintf("%d.css", i), sheet, quiet)
		require.NoError(t, err, i)
		require.NotNil(t, r)
		require.Equal(t, 8_000, r.Uses)
	}
	require.NoError(t, s.Judge(t.Context(), func(r audit.Report) error { assert.Equal(t, "a.css", r.Path); return nil }, none(t)))
	assert.Zero(t, p.Counted().Died)
}

// What a file uses of a definition comes to more than is judged of one file: that is said, whether the definition is its own or another's,
// and nothing is left out.
func TestTooManyUsesOfADefinitionAreSaid(t *testing.T) {
	p := pool(t, time.Minute, reading.MemoryPerProcess)
	s := p.Begin(1, rules())
	defer s.End()
	many := strings.Repeat("a{color:var(--e);fill:var(--e)}\n", limits.FoundPlaces/2+1)
	_, err := s.Read(t.Context(), "own.css", of([]byte(":root{--e:#E2572B}\n"+many)), quiet)
	var said reading.Sentence
	if !errors.As(err, &said) { // it may be read, as definitions are for others, and then cannot be judged
		require.NoError(t, err)
	}
	require.NoError(t, second(s.Read(t.Context(), "uses.css", of([]byte(many)), quiet)))
	require.NoError(t, second(s.Read(t.Context(), "few.css", of([]byte("a{color:var(--e)}")), quiet)))
	var over, judged []string
	if err != nil {
		over = append(over, "own.css")
	}
	require.NoError(t, s.Judge(t.Context(), func(r audit.Report) error { judged = append(judged, r.Path); return nil }, func(u audit.Unread) {
		over = append(over, u.Path)
		assert.Equal(t, "it holds colors in over 200000 places", u.Why)
	}))
	assert.Equal(t, []string{"own.css", "uses.css"}, over)
	assert.Equal(t, []string{"few.css"}, judged)
}

// A house that has many files waits for one that has one, and not the other way round.
func TestHousesTakeTurns(t *testing.T) {
	turns := keep.NewTurns(2)
	var mutex sync.Mutex
	var order []int64
	var all sync.WaitGroup
	hold := make(chan struct{})
	first, err := turns.Take(t.Context(), 1)
	require.NoError(t, err)
	for range 20 {
		all.Go(func() {
			done, err := turns.Take(t.Context(), 1)
			if !assert.NoError(t, err) {
				return
			}
			mutex.Lock()
			order = append(order, 1)
			mutex.Unlock()
			done()
		})
	}
	require.Eventually(t, func() bool { _, waiting, _ := turns.Now(); return waiting == 20 }, 10*time.Second, time.Millisecond, "a house does not take the last place while it has another")
	second, err := turns.Take(t.Context(), 2)
	require.NoError(t, err, "the other house does not wait at all")
	for _, house := range []int64{3, 2} {
		all.Go(func() {
			done, err := turns.Take(t.Context(), house)
			if !assert.NoError(t, err) {
				return
			}
			mutex.Lock()
			order = append(order, house)
			mutex.Unlock()
			<-hold
			done()
		})
	}
	require.Eventually(t, func() bool { _, waiting, _ := turns.Now(); return waiting == 22 }, 10*time.Second, time.Millisecond)
	second()
	require.Eventually(t, func() bool { mutex.Lock(); defer mutex.Unlock(); return len(order) == 1 }, 10*time.Second, time.Millisecond)
	assert.EqualValues(t, 3, order[0], "who had no turn yet comes first")
	close(hold)
	first()
	all.Wait()
	assert.Len(t, order, 22)
	taken, waiting, _ := turns.Now()
	assert.Zero(t, taken+waiting)
	ctx, stop := context.WithCancel(t.Context())
	stop()
	_, err = turns.Take(ctx, 9)
	assert.True(t, err == nil || errors.Is(err, context.Canceled))
}

// What a process of its own costs a small file.
func BenchmarkReadApart(b *testing.B) {
	file := []byte(strings.Repeat("a{color:#E2572B;margin:0}\n", 40))
	b.Run("here", func(b *testing.B) {
		for b.Loop() {
			_, _ = kinds.Read("a.css", file)
		}
	})
	b.Run("apart", func(b *testing.B) {
		p := pool(b, time.Minute, reading.MemoryPerProcess)
		s := p.Begin(1, rules())
		defer s.End()
		for b.Loop() {
			if _, err := s.Read(b.Context(), "a.css", of(file), quiet); err != nil {
				b.Fatal(err)
			}
		}
	})
	b.Run("begun anew", func(b *testing.B) {
		for b.Loop() {
			p := pool(b, time.Minute, reading.MemoryPerProcess)
			s := p.Begin(1, rules())
			if _, err := s.Read(b.Context(), "a.css", of(file), quiet); err != nil {
				b.Fatal(err)
			}
			s.End()
			p.Close()
		}
	})
}
