package dumps

import (
	"archive/tar"
	"bytes"
	"compress/gzip"
	"context"
	"crypto/sha256"
	"errors"
	"fmt"
	"io"
	"os"
	"path/filepath"
	"strings"
	"sync/atomic"
	"testing"
	"time"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"huekeep/core/hostile"
	"huekeep/filestore"
	"huekeep/keep"
	"huekeep/keep/jobs"
	"huekeep/store"
	"huekeep/store/storetest"
)

func TestMain(m *testing.M) { storetest.Main(m) }

func TestWhenADumpIsDue(t *testing.T) {
	home, err := time.LoadLocation("Europe/Berlin")
	require.NoError(t, err)
	was := time.Local
	time.Local = home
	t.Cleanup(func() { time.Local = was })
	at := func(text string) time.Time {
		if text == "" {
			return time.Time{}
		}
		when, err := time.ParseInLocation("2006-01-02 15:04", text, home)
		require.NoError(t, err)
		return when
	}
	const halfPastTwo = 2*time.Hour + 30*time.Minute
	for name, c := range map[string]struct {
		now, last, tried string
		due              bool
	}{
		"never yet":                            {"2026-12-01 15:00", "", "", true},
		"last night":                           {"2026-12-01 15:00", "2026-12-01 02:30", "2026-12-01 02:30", false},
		"not yet tonight":                      {"2026-12-02 02:29", "2026-12-01 02:30", "2026-12-01 02:30", false},
		"tonight":                              {"2026-12-02 02:30", "2026-12-01 02:30", "2026-12-01 02:30", true},
		"by day, which does for the night":     {"2026-12-02 02:29", "2026-12-01 15:00", "2026-12-01 15:00", false},
		"the machine was off for three nights": {"2026-12-04 09:00", "2026-12-01 02:30", "2026-12-01 02:30", true},
		"failed a moment ago":                  {"2026-12-02 02:40", "2026-12-01 02:30", "2026-12-02 02:31", false},
		"failed an hour ago":                   {"2026-12-02 03:31", "2026-12-01 02:30", "2026-12-02 02:31", true},
		"the hour that there is not in spring": {"2027-03-28 03:31", "2027-03-27 02:30", "2027-03-27 02:30", true},
		"and once in autumn":                   {"2026-10-25 04:00", "2026-10-25 02:30", "2026-10-25 02:30", false},
	} {
		assert.Equal(t, c.due, isDue(at(c.now), halfPastTwo, at(c.last), at(c.tried)), name)
	}
	r := &Rules{Set: Settings{At: halfPastTwo}}
	assert.Equal(t, at("2026-12-02 02:30"), r.Next(at("2026-12-01 15:00"), &store.Night{BegunAt: at("2026-12-01 02:30")}))
	assert.Equal(t, at("2026-12-01 02:30"), r.Next(at("2026-12-01 01:00"), nil))
	assert.Equal(t, at("2026-12-01 03:30"), r.Next(at("2026-12-01 03:00"), &store.Night{BegunAt: at("2026-12-01 02:30"), Problem: "x"}), "one that failed is tried again")
}

// night is a server with a house, a file, and a place for dumps.
type night struct {
	*Rules
	t     *testing.T
	now   atomic.Int64
	told  atomic.Int64
	files filestore.Store
}

// spoiled is a place for dumps in which something goes wrong.
type spoiled struct {
	filestore.Store
	write func(r io.Reader) (io.Reader, error)
}

func (s spoiled) Write(ctx context.Context, key string, r io.Reader, size int64) error {
	r, err := s.write(r)
	if err != nil {
		return err
	}
	return s.Store.Write(ctx, key, r, size)
}

func newNight(t *testing.T, to filestore.Store) *night {
	dsn := storetest.DSN(t)
	db, err := store.Open(t.Context(), dsn)
	require.NoError(t, err)
	t.Cleanup(func() { db.Close() })
	n := &night{t: t, files: filestore.Memory()}
	base := keep.NewBase(db, n.files)
	n.now.Store(time.Date(2026, 12, 1, 12, 0, 0, 0, time.Local).UnixMilli())
	base.Now = func() time.Time { return time.UnixMilli(n.now.Load()).UTC() }
	n.Rules = New(base, jobs.New(base))
	n.Use(Settings{From: Place{dsn, n.files}, To: to, At: 2*time.Hour + 30*time.Minute, Kept: 2, Version: "of a test"})
	n.Tell = func(context.Context, string) { n.told.Add(1) }
	h := store.House{Name: "Ferries", NameKey: "ferries", CreatedAt: base.Now()}
	require.NoError(t, db.Add(&h))
	_, err = base.Store(t.Context(), h.ID, "audits", []byte("a file"))
	require.NoError(t, err)
	return n
}

// serve lets the night's rules work until the test ends.
func (n *night) serve() {
	ctx, stop := context.WithCancel(context.Background())
	done := make(chan bool, 2)
	go func() { n.Rules.Serve(ctx, 5*time.Millisecond); done <- true }()
	n.Jobs.Hurry(time.Second)
	go func() { n.Jobs.Serve(ctx, 2); done <- true }()
	n.t.Cleanup(func() { stop(); <-done; <-done })
}

// goes waits until so many nights are on record, and lists them, the last first.
func (n *night) goes(nights int) (list []store.Night) {
	require.Eventually(n.t, func() bool {
		var err error
		list, err = n.DB.Nights(100)
		require.NoError(n.t, err)
		pending, err := n.DB.Pending(kind)
		require.NoError(n.t, err)
		return len(list) == nights && !pending
	}, time.Minute, 10*time.Millisecond)
	return list
}

func (n *night) later(d time.Duration) { n.now.Add(d.Milliseconds()) }

// lasting is a place for dumps in which removing one lasts longer than it takes to notice that a job is over.
type lasting struct{ filestore.Store }

func (s lasting) Remove(ctx context.Context, key string) error {
	select {
	case <-ctx.Done():
		return ctx.Err()
	case <-time.After(1500 * time.Millisecond):
		return s.Store.Remove(ctx, key)
	}
}

// What is left to do when a dump is put down is done to its end.
func TestOldDumpsGoWhenTheJobIsOver(t *testing.T) {
	place := filestore.Memory()
	n := newNight(t, lasting{place})
	n.Set.Kept = 1
	n.serve()
	first := n.goes(1)[0]
	n.later(24 * time.Hour)
	require.Eventually(t, func() bool {
		_, _, err := place.Open(t.Context(), first.Name)
		return errors.Is(err, filestore.ErrNotFound)
	}, time.Minute, 20*time.Millisecond)
	assert.NotEqual(t, first.Name, n.goes(1)[0].Name)
}

func TestADumpInEveryNight(t *testing.T) {
	folder := t.TempDir()
	to, err := filestore.Folder(folder)
	require.NoError(t, err)
	n := newNight(t, to)
	foreign, cut := filepath.Join(folder, "huekeep-20200101T000000Z-9.tar.gz"), filepath.Join(folder, ".writing-123")
	require.NoError(t, os.WriteFile(foreign, []byte("of another server"), 0o600))
	require.NoError(t, os.WriteFile(cut, []byte("half"), 0o600))
	require.NoError(t, os.Chtimes(cut, time.Time{}, time.UnixMilli(n.now.Load()).Add(-48*time.Hour)))
	n.serve()
	first := n.goes(1)[0]
	assert.Empty(t, first.Problem)
	assert.Positive(t, first.RowCount)
	assert.Equal(t, int64(1), first.Files)
	assert.Zero(t, first.Missing)
	info, err := os.Stat(filepath.Join(folder, first.Name))
	require.NoError(t, err)
	assert.Equal(t, info.Size(), first.Size)
	assert.Equal(t, os.FileMode(0o600), info.Mode().Perm(), "it has the hashes of passwords")

	time.Sleep(50 * time.Millisecond)
	n.goes(1) // not twice in a night
	n.later(24 * time.Hour)
	n.goes(2)
	n.later(24 * time.Hour)
	require.Eventually(t, func() bool { _, err := os.Stat(filepath.Join(folder, first.Name)); return os.IsNotExist(err) }, time.Minute, 10*time.Millisecond, "two are kept")
	nights := n.goes(2)
	assert.FileExists(t, foreign, "only its own dumps go")
	assert.NoFileExists(t, cut)
	newest, err := Newest(t.Context(), to)
	require.NoError(t, err)
	assert.Equal(t, nights[0].Name, newest)
	assert.Zero(t, n.told.Load())

	// It comes back as it was.
	tried, err := Try(t.Context(), storetest.DSN(t), func() (io.ReadCloser, error) { return os.Open(filepath.Join(folder, newest)) })
	require.NoError(t, err)
	assert.Equal(t, nights[0].RowCount, tried.Held.Rows())
	assert.Equal(t, int64(1), tried.Held.Tables["houses"].Count)
	assert.NotContains(t, tried.Held.Tables, "dumps", "who restores has not made them")
	assert.Equal(t, "of a test", tried.Version)
	f, err := os.Open(filepath.Join(folder, newest))
	require.NoError(t, err)
	defer f.Close()
	back := filestore.Memory()
	files, err := Load(t.Context(), Place{storetest.DSN(t), back}, f)
	require.NoError(t, err)
	assert.Equal(t, 1, files)
}

// A night without a dump is put down and told of, tried again after an hour, and costs no dump that there is.
func TestANightThatFails(t *testing.T) {
	var what atomic.Value
	what.Store("well")
	place := spoiled{filestore.Memory(), func(r io.Reader) (io.Reader, error) {
		switch what.Load() {
		case "full":
			_, err := io.CopyN(io.Discard, r, 100)
			return nil, errors.Join(err, errors.New("no space left"))
		case "spoils":
			data, err := io.ReadAll(r)
			data[len(data)/2] ^= 1
			return bytes.NewReader(data), err
		case "cuts":
			data, err := io.ReadAll(r)
			return bytes.NewReader(data[:len(data)-30]), err
		}
		return r, nil
	}}
	n := newNight(t, place)
	n.serve()
	good := n.goes(1)[0]
	for i, how := range []string{"full", "spoils", "cuts"} {
		what.Store(how)
		n.later(24 * time.Hour)
		bad := n.goes(i + 2)[0]
		assert.NotEmpty(t, bad.Problem, how)
		assert.Eventually(t, func() bool { return n.told.Load() == int64(i+1) }, time.Minute, 5*time.Millisecond, "told after it was put down")
		last, failed, err := n.Last(t.Context())
		require.NoError(t, err)
		assert.True(t, failed)
		assert.Equal(t, good.Name, last.Name)
		_, err = filestore.Read(t.Context(), place, good.Name)
		require.NoError(t, err)
	}
	assert.Contains(t, n.goes(4)[2].Problem, "No space left")
	kept := 0
	require.NoError(t, place.Each(t.Context(), func(filestore.Entry) error { kept++; return nil }))
	assert.Equal(t, 1, kept, "nobody takes one for a dump that is none")
	n.later(time.Hour)
	assert.NotEmpty(t, n.goes(5)[0].Problem)
	assert.Equal(t, int64(3), n.told.Load(), "nobody is told again in the same night")
	what.Store("well")
	time.Sleep(50 * time.Millisecond)
	n.goes(5) // it is left alone for an hour
	n.later(time.Hour)
	assert.Empty(t, n.goes(6)[0].Problem)
	_, failed, err := n.Last(t.Context())
	require.NoError(t, err)
	assert.False(t, failed)
}

// An instance that stops while it writes leaves nothing behind, and the next one makes the dump.
func TestANightThatIsCutOff(t *testing.T) {
	folder := t.TempDir()
	to, err := filestore.Folder(folder)
	require.NoError(t, err)
	began, goOn := make(chan bool), make(chan bool)
	n := newNight(t, spoiled{to, func(r io.Reader) (io.Reader, error) {
		return io.MultiReader(io.LimitReader(r, 50), waits{began, goOn}, r), nil
	}})
	ctx, stop := context.WithCancel(t.Context())
	n.Jobs.Hurry(time.Second)
	require.NoError(t, n.queue(ctx))
	done := make(chan bool)
	go func() { n.Jobs.Serve(ctx, 1); close(done) }()
	<-began
	stop()
	close(goOn)
	<-done
	n.Set.To = to
	n.serve()
	night := n.goes(1)[0]
	assert.Empty(t, night.Problem)
	list, err := os.ReadDir(folder)
	require.NoError(t, err)
	require.Len(t, list, 1)
	assert.Equal(t, night.Name, list[0].Name())
}

// waits is a reader that says that it is read, and ends when it may.
type waits struct{ began, goOn chan bool }

func (w waits) Read([]byte) (int, error) {
	select {
	case w.began <- true:
	case <-w.goOn:
	}
	<-w.goOn
	return 0, io.EOF
}

// Two instances that find it to be time at the same moment make one dump.
func TestOneDumpOfTwoInstances(t *testing.T) {
	to := filestore.Memory()
	n := newNight(t, to)
	for range 2 {
		_, err := n.Jobs.Add(t.Context(), keep.Actor{Name: "Hue Keep"}, kind, struct{}{}, "")
		require.NoError(t, err)
	}
	ctx, stop := context.WithCancel(t.Context())
	done := make(chan bool)
	go func() { n.Jobs.Serve(ctx, 1); close(done) }()
	n.goes(1)
	stop()
	<-done
	kept := 0
	require.NoError(t, to.Each(t.Context(), func(filestore.Entry) error { kept++; return nil }))
	assert.Equal(t, 1, kept)
}

// What a restore would not bring back as it was is told.
func TestTryTellsWhatIsWrong(t *testing.T) {
	n := newNight(t, filestore.Memory())
	var whole, bare bytes.Buffer
	_, err := Write(t.Context(), n.Set.From, How{}, &whole)
	require.NoError(t, err)
	_, err = Write(t.Context(), n.Set.From, How{Bare: true}, &bare)
	require.NoError(t, err)
	try := func(data []byte) error {
		_, err := Try(t.Context(), storetest.DSN(t), func() (io.ReadCloser, error) { return io.NopCloser(bytes.NewReader(data)), nil })
		return err
	}
	require.NoError(t, try(whole.Bytes()))
	require.NoError(t, try(bare.Bytes()), "one from before an upgrade has no files")
	require.ErrorContains(t, try(whole.Bytes()[:whole.Len()/2]), "dump")
	require.ErrorContains(t, try([]byte("no dump")), "no dump")

	// A file that went is told of, and is no error.
	require.NoError(t, n.files.Each(t.Context(), func(e filestore.Entry) error { return n.files.Remove(t.Context(), e.Key) }))
	var missing bytes.Buffer
	m, err := Write(t.Context(), n.Set.From, How{}, &missing)
	require.NoError(t, err)
	assert.Len(t, m.Missing, 1)
	require.NoError(t, try(missing.Bytes()))

	rows := func(counts ...int64) store.Dumped {
		d := store.Dumped{Tables: map[string]store.Rows{}}
		for i, c := range counts {
			d.Tables[strings.Repeat("t", i+1)] = store.Rows{Count: c, Sum: uint64(c)}
		}
		return d
	}
	require.NoError(t, rows(1, 2).Differs(rows(1, 2, 3)), "a table may be newer than the dump")
	require.ErrorContains(t, rows(1, 2).Differs(rows(1, 3)), "table tt has 3 rows and should have 2")
	other := rows(1, 2)
	other.Tables["t"] = store.Rows{Count: 1, Sum: 9}
	require.ErrorContains(t, rows(1, 2).Differs(other), "table t has rows that are not what they were")
}

// FuzzCheck holds that what is no dump is refused, and that one which is taken can be counted.
func FuzzCheck(f *testing.F) {
	packed := func(entries ...string) []byte {
		var b bytes.Buffer
		z := gzip.NewWriter(&b)
		w := tar.NewWriter(z)
		for i := 0; i+1 < len(entries); i += 2 {
			_ = w.WriteHeader(&tar.Header{Name: entries[i], Mode: 0o600, Size: int64(len(entries[i+1]))})
			_, _ = io.WriteString(w, entries[i+1])
		}
		_ = w.Close()
		_ = z.Close()
		return b.Bytes()
	}
	rows := "{\"schema\":31}\n{\"table\":\"houses\",\"columns\":[\"id\"]}\n[\"1\"]\n"
	sum := fmt.Sprintf("%x", sha256.Sum256([]byte(rows)))
	f.Add(packed(rowsEntry, rows, manifestEntry, `{"sha256":{"database.jsonl":"`+sum+`"}}`))
	f.Add(packed(rowsEntry, rows))
	f.Add(packed(rowsEntry, rows, manifestEntry, `{"sha256":{"database.jsonl":"`+sum+`","files/x":"00"}}`))
	f.Add(packed(rowsEntry, "{\"schema\":31}\n[]\n", manifestEntry, `{}`))
	f.Add([]byte("no dump"))
	f.Fuzz(func(t *testing.T, data []byte) {
		defer hostile.Timely(t, len(data))()
		m, read, err := Check(bytes.NewReader(data))
		if err != nil {
			return
		}
		require.NotEmpty(t, m.SHA256[rowsEntry])
		require.Positive(t, read.Schema)
		require.GreaterOrEqual(t, read.Rows(), int64(0))
	})
}
