package stations_test

import (
	"bytes"
	"compress/gzip"
	"context"
	"errors"
	"fmt"
	"io"
	"strconv"
	"strings"
	"sync"
	"sync/atomic"
	"testing"
	"time"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"huekeep/filestore"
	"huekeep/keep"
	"huekeep/keep/jobs"
	"huekeep/keep/stations"
	"huekeep/standin"
	"huekeep/store"
	"huekeep/store/storetest"
)

// instances are several of the program on one database, and somebody who asks them for work.
func instances(t *testing.T, n int) ([]*stations.Stations, keep.Actor) {
	db, files := storetest.Open(t), filestore.Memory()
	var out []*stations.Stations
	for range n {
		s := stations.New(db, files, standin.World())
		s.Jobs.Hurry(300 * time.Millisecond)
		out = append(out, s)
	}
	require.NoError(t, out[0].People.AddMember(ctx, "k@x.example", "Kim", "a long password", "House", keep.RoleKeeper))
	h, err := db.House(1)
	require.NoError(t, err)
	return out, keep.Actor{Account: 1, Name: "Kim", Role: keep.RoleKeeper, House: keep.House{ID: h.ID, Name: h.Name, Tolerance: h.Tolerance}}
}

// serve lets an instance work until the test is over, or until stop.
func serve(t *testing.T, s *stations.Stations) (stop func()) {
	serving, cancel := context.WithCancel(ctx)
	var all sync.WaitGroup
	all.Go(func() { s.Jobs.Serve(serving, 2) })
	end := sync.OnceFunc(func() { cancel(); all.Wait() })
	t.Cleanup(end)
	return end
}

// done ends a job as done.
func done(s *stations.Stations, w jobs.Work, result string) error {
	return s.Base.DB.In(ctx, func(tx *store.DB) error { return w.Finish(tx, result) })
}

func waited(t *testing.T, s *stations.Stations, a keep.Actor, id int64) jobs.Job {
	t.Helper()
	within, cancel := context.WithTimeout(ctx, 20*time.Second)
	defer cancel()
	j, err := s.Jobs.Wait(within, a, id)
	require.NoError(t, err)
	require.True(t, j.State.Ended(), "it does not end: %+v", j)
	return j
}

func TestSeveralInstancesShareTheWork(t *testing.T) {
	two, a := instances(t, 2)
	var by [2]atomic.Int64
	var seen sync.Map
	for i, s := range two {
		s.Jobs.Kind("count", func(_ context.Context, w jobs.Work) error {
			by[i].Add(1)
			_, twice := seen.LoadOrStore(w.ID, true)
			assert.False(t, twice, "a job is done once")
			time.Sleep(20 * time.Millisecond)
			return done(s, w, "ok")
		})
	}
	var ids []int64
	for i := range 24 {
		j, err := two[0].Jobs.Add(ctx, a, "count", i, "")
		require.NoError(t, err)
		ids = append(ids, j.ID)
	}
	for _, s := range two {
		serve(t, s)
	}
	for _, id := range ids {
		assert.Equal(t, jobs.Done, waited(t, two[0], a, id).State)
	}
	assert.Positive(t, by[0].Load())
	assert.Positive(t, by[1].Load())
}

// An instance that is killed says nothing more; when its lease is over another one takes its job up from the beginning, and what
// the killed one would still write is not taken.
func TestAKilledInstancesJobIsTakenUpAgain(t *testing.T) {
	two, a := instances(t, 2)
	begun, late := make(chan jobs.Work, 1), make(chan error, 1)
	two[0].Jobs.Kind("long", func(_ context.Context, w jobs.Work) error {
		begun <- w
		time.Sleep(3 * time.Second) // as good as killed: its heartbeat is stopped below
		late <- done(two[0], w, "too late")
		return errors.New("nobody hears this")
	})
	two[1].Jobs.Kind("long", func(_ context.Context, w jobs.Work) error { return done(two[1], w, "by the other") })
	two[0].Jobs.Mute()
	serve(t, two[0])
	j, err := two[0].Jobs.Add(ctx, a, "long", nil, "")
	require.NoError(t, err)
	<-begun
	serve(t, two[1])
	assert.Equal(t, "by the other", waited(t, two[1], a, j.ID).Result)
	assert.ErrorIs(t, <-late, store.ErrNotFound)
	assert.Equal(t, "by the other", waited(t, two[1], a, j.ID).Result)
}

func TestAJobThatTakesTheProgramDownIsNotTriedForEver(t *testing.T) {
	one, a := instances(t, 1)
	tries := 0
	one[0].Jobs.Kind("poison", func(context.Context, jobs.Work) error { tries++; panic("down") })
	serve(t, one[0])
	j, err := one[0].Jobs.Add(ctx, a, "poison", nil, "")
	require.NoError(t, err)
	j = waited(t, one[0], a, j.ID)
	assert.Equal(t, jobs.Failed, j.State)
	assert.Equal(t, 3, tries)
	assert.Contains(t, j.Problem.Message, "went wrong")
}

func TestAStoppedInstanceLeavesItsJobToAnother(t *testing.T) {
	two, a := instances(t, 2)
	begun := make(chan bool, 1)
	two[0].Jobs.Kind("work", func(ctx context.Context, _ jobs.Work) error { begun <- true; <-ctx.Done(); return ctx.Err() })
	two[1].Jobs.Kind("work", func(_ context.Context, w jobs.Work) error { return done(two[1], w, "done") })
	stop := serve(t, two[0])
	j, err := two[0].Jobs.Add(ctx, a, "work", nil, "")
	require.NoError(t, err)
	<-begun
	stop()
	serve(t, two[1])
	assert.Equal(t, "done", waited(t, two[1], a, j.ID).Result)
}

func TestWorkSaysHowFarItIsAndCanBeGivenUp(t *testing.T) {
	one, a := instances(t, 1)
	ended := make(chan error, 1)
	one[0].Jobs.Kind("slow", func(ctx context.Context, w jobs.Work) error {
		w.Report("slide 3 of 12", 0.25)
		<-ctx.Done()
		ended <- ctx.Err()
		return ctx.Err()
	})
	serve(t, one[0])
	key, err := one[0].Base.Store(ctx, 1, "audits", []byte("x"))
	require.NoError(t, err)
	j, err := one[0].Jobs.Add(ctx, a, "slow", nil, key)
	require.NoError(t, err)
	require.Eventually(t, func() bool {
		now, err := one[0].Jobs.Job(ctx, a, j.ID)
		return err == nil && now.Stage == "slide 3 of 12" && now.Share == 0.25
	}, 5*time.Second, 20*time.Millisecond)
	open, err := one[0].Jobs.Open(ctx, a)
	require.NoError(t, err)
	assert.Len(t, open, 1)
	reader := a
	reader.Role = keep.RoleReader
	assert.Equal(t, keep.Forbidden, kindOf(one[0].Jobs.GiveUp(ctx, reader, j.ID)))
	foreigner := a
	foreigner.House.ID = 2
	assert.Equal(t, keep.NotFound, kindOf(one[0].Jobs.GiveUp(ctx, foreigner, j.ID)))
	require.NoError(t, one[0].Jobs.GiveUp(ctx, a, j.ID))
	assert.ErrorIs(t, <-ended, context.Canceled, "whoever is at it stops")
	assert.Equal(t, jobs.GivenUp, waited(t, one[0], a, j.ID).State)
	assert.Equal(t, keep.Conflict, kindOf(one[0].Jobs.GiveUp(ctx, a, j.ID)))
	_, err = one[0].Base.Load(ctx, key)
	assert.ErrorIs(t, err, keep.ErrLost, "its file is gone with it")
}

// A member who was taken out of the house meanwhile gets nothing done there any more.
func TestAJobIsDoneWithTheRoleOfNow(t *testing.T) {
	r := newRoom(t)
	j, err := r.Audits.Begin(ctx, keep.Actor{Account: 1, Name: "Kim", House: keep.House{ID: 999}, Role: keep.RoleKeeper}, "a.css", []byte("a{color:red}"))
	assert.Error(t, err, "a house that is gone takes no files")
	assert.Zero(t, j.ID)
}

// What cut-off uploads and runs leave is swept; what an audit or a job names stays.
func TestTheSweepRemovesFilesThatNothingNames(t *testing.T) {
	r := newRoom(t)
	a, err := r.judge(r.contributor, "a.css", []byte("a{color:red}"))
	require.NoError(t, err)
	lost, err := r.Base.Store(ctx, 1, "audits", []byte("an upload that was cut off"))
	require.NoError(t, err)
	require.NoError(t, filestore.Put(ctx, r.files, "audits/1/unknown", []byte("on no record")))
	n, err := r.Base.Sweep(ctx, r.Base.Now().Add(-time.Hour))
	require.NoError(t, err)
	assert.Zero(t, n, "what is new may be under way still")
	n, err = r.Base.Sweep(ctx, time.Now().Add(time.Hour))
	require.NoError(t, err)
	assert.Equal(t, 2, n)
	_, err = r.Base.Load(ctx, lost)
	assert.ErrorIs(t, err, keep.ErrLost)
	_, err = r.Audits.Audit(ctx, r.reader, a.ID, 0)
	assert.NoError(t, err)
	_, err = r.Audits.Again(ctx, r.contributor, a.ID)
	assert.NoError(t, err)
}

func TestAStoredFileThatIsDamagedIsNoticed(t *testing.T) {
	r := newRoom(t)
	a, err := r.judge(r.contributor, "a.css", []byte("a{color:red}"))
	require.NoError(t, err)
	row, err := r.Base.DB.Audit(1, a.ID)
	require.NoError(t, err)
	require.NoError(t, filestore.Put(ctx, r.files, row.BlobKey, []byte("a{color:blue}")))
	require.NoError(t, filestore.Put(ctx, r.files, row.ReportKey, []byte("{}")))
	_, err = r.Audits.Again(ctx, r.contributor, a.ID)
	assert.ErrorContains(t, err, "damaged")
	_, err = r.Audits.Audit(ctx, r.reader, a.ID, 0)
	assert.ErrorContains(t, err, "damaged")
}

func TestAuditsAndPlacesComeInPages(t *testing.T) {
	r := newRoom(t)
	var css strings.Builder
	for i := range 450 {
		fmt.Fprintf(&css, ".a%d{color:#E2572B}\n", i)
	}
	for i := range 1200 {
		fmt.Fprintf(&css, ".b%d{color:#%06X}\n", i, 0x100000+i)
	}
	a, err := r.judge(r.contributor, "large.css", []byte(css.String()))
	require.NoError(t, err)
	assert.Equal(t, 1201, a.Count)
	assert.Len(t, a.Colors, 1000)
	assert.Equal(t, 1650, a.Totals["off-brand"])
	rest, err := r.Audits.Audit(ctx, r.reader, a.ID, a.Next)
	require.NoError(t, err)
	assert.Len(t, rest.Colors, 201)
	assert.Zero(t, rest.Next)
	assert.Equal(t, 450, a.Colors[0].PlaceCount)
	assert.Len(t, a.Colors[0].Places, 5)
	seen := 0
	for from := 0; ; {
		places, next, err := r.Audits.Places(ctx, r.reader, a.ID, "#E2572B", "", from)
		require.NoError(t, err)
		seen += len(places)
		if from = next; next == 0 {
			break
		}
	}
	assert.Equal(t, 450, seen)
	_, _, err = r.Audits.Places(ctx, r.reader, a.ID, "#ABCDEF", "", 0)
	assert.Equal(t, keep.NotFound, kindOf(err))

	for i := range 205 {
		require.NoError(t, r.Base.DB.Add(&store.Audit{HouseID: 1, ByName: "Kim", At: r.Base.Now(), FileName: strconv.Itoa(i), Kind: "css", BlobKey: "none"}))
	}
	first, next, err := r.Audits.List(ctx, r.reader, 0)
	require.NoError(t, err)
	second, end, err := r.Audits.List(ctx, r.reader, next)
	require.NoError(t, err)
	assert.Equal(t, 206, len(first)+len(second), "none vanishes")
	assert.Zero(t, end)
}

// Reports of the version before lie in the database; they are moved and say the same.
func TestOldReportsAreMoved(t *testing.T) {
	r := newRoom(t)
	report := `{"path":"a.css","kind":"css","about":"1 line","uses":2,"score":0.5,"colors":[{"value":"#E2572C","hex":"#E2572C","count":2,"verdict":"off-brand","nearest":null,
		"places":[{"where":"a.css 1:1","count":2,"value":"#E2572C","linked":false}]}],"notes":["a note"]}`
	row := store.Audit{HouseID: 1, ByName: "Kim", At: r.Base.Now(), FileName: "a.css", Kind: "css", BlobKey: "none", Uses: 2, Report: report}
	require.NoError(t, r.Base.DB.AddAudit(&row, []store.AuditColor{{Hex: "#E2572C", Verdict: "off-brand", Uses: 2, Places: 1}}))
	require.NoError(t, r.Audits.MoveOldReports(ctx))
	a, err := r.Audits.Audit(ctx, r.reader, row.ID, 0)
	require.NoError(t, err)
	assert.Equal(t, []any{"1 line", []string{"a note"}, "a.css 1:1"}, []any{a.About, a.Notes, a.Colors[0].Places[0].Where})
}

// What is put off begins when its time has come, and not as soon as somebody is free.
func TestWorkThatIsPutOff(t *testing.T) {
	all, a := instances(t, 1)
	s := all[0]
	begun := make(chan time.Time, 1)
	s.Jobs.Kind("later", func(_ context.Context, w jobs.Work) error {
		begun <- time.Now()
		return done(s, w, "")
	})
	serve(t, s)
	asked := time.Now()
	require.NoError(t, s.Base.DB.In(ctx, func(tx *store.DB) error { return s.Jobs.Later(tx, a, "later", nil, 700*time.Millisecond) }))
	select {
	case at := <-begun:
		assert.Greater(t, at.Sub(asked), 600*time.Millisecond)
	case <-time.After(10 * time.Second):
		t.Fatal("it never began")
	}
}

// A job that does not move, and one that goes on when it is given up, are left to themselves and not begun again; one that is interrupted because
// its instance stops has not been tried.
func TestJobsThatStallAreNotBegunAgain(t *testing.T) {
	all, a := instances(t, 1)
	s := all[0]
	s.Jobs.Impatient(400*time.Millisecond, 200*time.Millisecond)
	begun := make(chan string, 20)
	hold := make(chan struct{})
	defer close(hold)
	s.Jobs.Kind("deaf", func(context.Context, jobs.Work) error {
		begun <- "deaf"
		<-hold
		return nil
	})
	s.Jobs.Kind("patient", func(ctx context.Context, _ jobs.Work) error {
		begun <- "patient"
		<-ctx.Done()
		return ctx.Err()
	})
	ctx, stop := context.WithCancel(t.Context())
	served := make(chan bool)
	go func() { s.Jobs.Serve(ctx, 4); close(served) }()
	still, err := s.Jobs.Add(t.Context(), a, "deaf", nil, "")
	require.NoError(t, err)
	j, err := s.Jobs.Wait(t.Context(), a, still.ID)
	require.NoError(t, err)
	assert.Equal(t, jobs.Failed, j.State)
	assert.Contains(t, j.Problem.Message, "stayed at the same place")
	given, err := s.Jobs.Add(t.Context(), a, "deaf", nil, "")
	require.NoError(t, err)
	<-begun
	<-begun
	require.NoError(t, s.Jobs.GiveUp(t.Context(), a, given.ID))
	require.Eventually(t, func() bool { return s.Jobs.Stalled() == 2 }, 20*time.Second, 10*time.Millisecond)
	time.Sleep(700 * time.Millisecond)
	assert.Empty(t, begun, "nothing is begun again")

	s.Jobs.Impatient(time.Minute, time.Second)
	interrupted, err := s.Jobs.Add(t.Context(), a, "patient", nil, "")
	require.NoError(t, err)
	<-begun
	stop()
	<-served
	row, err := s.Base.DB.Job(a.House.ID, interrupted.ID)
	require.NoError(t, err)
	assert.Equal(t, store.JobWaiting, row.State)
	assert.Zero(t, row.Attempts)
}

// Of one house half of the workers have jobs, and a house that has none yet comes first.
func TestAHousesJobsDoNotKeepAnotherWaiting(t *testing.T) {
	all, one := instances(t, 1)
	s := all[0]
	s.Jobs.Most = 2
	begun := make(chan int64, 50)
	s.Jobs.Kind("long", func(ctx context.Context, w jobs.Work) error {
		begun <- w.Actor.House.ID
		<-ctx.Done()
		return ctx.Err()
	})
	require.NoError(t, s.People.AddMember(ctx, "o@x.example", "Ola", "a long password", "Other", keep.RoleKeeper))
	two := one
	house, err := s.Base.DB.House(2)
	require.NoError(t, err)
	other, err := s.Base.DB.UserByEmail("o@x.example")
	require.NoError(t, err)
	two.Account = other.ID
	two.House = keep.HouseOf(house)
	for range 10 {
		_, err := s.Jobs.Add(t.Context(), one, "long", nil, "")
		require.NoError(t, err)
	}
	ctx, stop := context.WithCancel(t.Context())
	served := make(chan bool)
	go func() { s.Jobs.Serve(ctx, 4); close(served) }()
	for range 2 {
		assert.EqualValues(t, one.House.ID, <-begun)
	}
	_, err = s.Jobs.Add(t.Context(), two, "long", nil, "")
	require.NoError(t, err)
	assert.EqualValues(t, two.House.ID, <-begun, "although ten of the other wait")
	assert.Empty(t, begun)
	stop()
	<-served
}

// Reports are packed; one of before, which is not, is read as it is, and counts as the same where it says the same.
func TestAReportOfBeforeIsReadAsItWasStored(t *testing.T) {
	r := newRoom(t)
	made, err := r.judge(r.Actor, "a.css", []byte(strings.Repeat("a{color:#E2572C}\n", 500)))
	require.NoError(t, err)
	row, err := r.Audits.DB.Audit(r.Actor.House.ID, made.ID)
	require.NoError(t, err)
	packed, err := r.Audits.Load(ctx, row.ReportKey)
	require.NoError(t, err)
	z, err := gzip.NewReader(bytes.NewReader(packed))
	require.NoError(t, err)
	plain, err := io.ReadAll(z)
	require.NoError(t, err)
	assert.Greater(t, len(plain), 10*len(packed))
	row.ReportKey, err = r.Audits.Store(ctx, r.Actor.House.ID, "reports", plain)
	require.NoError(t, err)
	row.Basis = "" // it has to be judged again
	require.NoError(t, r.Audits.DB.Save(&row))
	read, err := r.Audits.Audit(ctx, r.Actor, made.ID, 0)
	require.NoError(t, err)
	assert.Equal(t, made.Colors, read.Colors)
	j, err := r.Audits.BeginRun(ctx, r.Actor, *row.ProjectID, true)
	require.NoError(t, err)
	j, err = r.Jobs.Wait(ctx, r.Actor, j.ID)
	require.NoError(t, err)
	assert.Equal(t, fmt.Sprint(*row.RunID), j.Result, "there is no new run")
}
