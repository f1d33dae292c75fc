package stations_test

import (
	"context"
	"fmt"
	"testing"
	"time"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"
	"gocloud.dev/blob/memblob"

	"huekeep/core/color"
	"huekeep/core/library"
	"huekeep/core/swatchfile"
	"huekeep/keep"
	"huekeep/keep/house"
	"huekeep/keep/ledger"
	"huekeep/keep/stations"
	"huekeep/store/storetest"
)

// largeLibrary is a backup of n colors in 40 groups.
func largeLibrary(t testing.TB, n int) []byte {
	l := swatchfile.Library{House: "Large", Tolerance: 3}
	for i := range n {
		l.Colors = append(l.Colors, library.Color{Name: fmt.Sprintf("Color %05d", i), Group: fmt.Sprintf("Group %02d", i%40),
			RGB: color.RGB8{R: uint8(i), G: uint8(i * 7 >> 3), B: uint8(i >> 5)}, Status: "approved"})
	}
	data, err := swatchfile.WriteLibrary(l)
	require.NoError(t, err)
	return data
}

// A restore that is cut off in the middle leaves the house as it was, whenever it is cut.
func TestARestoreThatIsCutOffChangesNothing(t *testing.T) {
	r := newRoom(t)
	r.admit(r.Actor, "Buoy #E2572B", "Fog #C9D1D3")
	data := largeLibrary(t, 3000)
	for _, after := range []time.Duration{30 * time.Millisecond, 150 * time.Millisecond, 400 * time.Millisecond} {
		cut, stop := context.WithTimeout(ctx, after)
		_, err := r.House.Restore(cut, r.Actor, data, true)
		stop()
		if err == nil {
			t.Logf("the restore was faster than %v", after)
			break
		}
		_, rows, err := r.Ledger.Ledger(ctx, r.Actor)
		require.NoError(t, err)
		require.Len(t, rows, 2, "cut after %v", after)
	}
	done, err := r.House.Restore(ctx, r.Actor, data, true)
	require.NoError(t, err)
	assert.Equal(t, 3000, done.Added)
	_, err = r.House.Restore(ctx, r.contributor, data, false)
	assert.ErrorContains(t, err, "role of a keeper")
}

// BenchmarkLargeLedger states, for a library of 10,000 colors: restoring it, the first ledger after a start (every face is
// computed), every further one, and moving one color in the order by hand.
func BenchmarkLargeLedger(b *testing.B) {
	k := stations.New(storetest.Open(b), memblob.OpenBucket(nil))
	require.NoError(b, k.House.AddMember(ctx, "k@x.example", "Kim", "a long password", "House", keep.RoleKeeper))
	user, err := k.Base.DB.UserByEmail("k@x.example")
	require.NoError(b, err)
	a, err := k.House.Enter(ctx, house.Account{ID: user.ID, Name: user.Name}, 1)
	require.NoError(b, err)
	data := largeLibrary(b, 10_000)
	var restore, first, next, move time.Duration
	took := func(f func()) time.Duration {
		at := time.Now()
		f()
		return time.Since(at)
	}
	for b.Loop() {
		restore = took(func() {
			_, err := k.House.Restore(ctx, a, data, true)
			require.NoError(b, err)
		})
		fresh := stations.New(k.Base.DB, memblob.OpenBucket(nil))
		var rows []ledger.Row
		first = took(func() {
			_, rows, err = fresh.Ledger.Ledger(ctx, a)
			require.NoError(b, err)
		})
		next = took(func() {
			_, _, err := fresh.Ledger.Ledger(ctx, a)
			require.NoError(b, err)
		})
		move = took(func() { require.NoError(b, fresh.Ledger.PlaceColor(ctx, a, rows[9000].ID, rows[8000].ID)) })
	}
	b.ReportMetric(restore.Seconds(), "s-restore")
	b.ReportMetric(first.Seconds(), "s-first-ledger")
	b.ReportMetric(next.Seconds(), "s-ledger")
	b.ReportMetric(move.Seconds()*1000, "ms-move")
}
