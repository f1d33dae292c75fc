package stations_test

import (
	"context"
	"database/sql"
	"fmt"
	"testing"
	"time"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"huekeep/core/color"
	"huekeep/core/library"
	"huekeep/core/press"
	"huekeep/core/swatchfile"
	"huekeep/filestore"
	"huekeep/keep"
	"huekeep/keep/accounts"
	"huekeep/keep/ledger"
	"huekeep/keep/send"
	"huekeep/keep/stations"
	"huekeep/standin"
	"huekeep/store"
	"huekeep/store/storetest"
)

// largeLibrary is a backup of n colors in 40 groups. Made with as, what it makes of each decides it.
func largeLibrary(t testing.TB, n int, as ...func(color.RGB8) (library.Master, color.RGB8)) []byte {
	l := swatchfile.Library{House: "Large", Tolerance: 3}
	for i := range n {
		l.Colors = append(l.Colors, library.Color{Name: fmt.Sprintf("Color %05d", i), Group: fmt.Sprintf("Group %02d", i%40),
			RGB: color.RGB8{R: uint8(i), G: uint8(i * 7 >> 3), B: uint8(i >> 5)}, Status: "approved"})
		for _, decide := range as {
			c := &l.Colors[i]
			m, rgb := decide(c.RGB)
			c.Decide(m, rgb, library.Person{Name: "Kim"}, time.Unix(0, 0))
		}
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
		_, err := r.Backup.Restore(cut, r.Actor, data, true)
		stop()
		if err == nil {
			t.Logf("the restore was faster than %v", after)
			break
		}
		_, rows, err := r.Ledger.Ledger(ctx, r.Actor)
		require.NoError(t, err)
		require.Len(t, rows, 2, "cut after %v", after)
	}
	done, err := r.Backup.Restore(ctx, r.Actor, data, true)
	require.NoError(t, err)
	assert.Equal(t, 3000, done.Added)
	_, err = r.Backup.Restore(ctx, r.contributor, data, false)
	assert.ErrorContains(t, err, "role of a keeper")
}

// BenchmarkLargeLedger states, for a library of 20,000 colors: restoring it, the first ledger ever (every face is computed), the
// first one after a start, every further one, finding a name, tagging a thousand colors, and moving one in the order by hand. What is asked
// again and again is also a ratio to reading the rows of the colors with the plain driver.
func BenchmarkLargeLedger(b *testing.B) {
	largeLedger(b, largeLibrary(b, 20_000))
}

// BenchmarkLargeLedgerOfBuilds is BenchmarkLargeLedger of colors that builds decide.
func BenchmarkLargeLedgerOfBuilds(b *testing.B) {
	coated := press.Coated()
	largeLedger(b, largeLibrary(b, 20_000, func(c color.RGB8) (library.Master, color.RGB8) {
		build := color.CMYK{C: float64(c.R) / 4, M: float64(c.G) / 4, Y: float64(c.B) / 4, K: float64(c.R^c.G) / 8}
		return library.ByBuild(build, coated.Name, coated.Identity().SHA256, coated.Lab(build))
	}))
}

func largeLedger(b *testing.B, data []byte) {
	dsn := storetest.DSN(b)
	db, err := store.Open(ctx, dsn)
	require.NoError(b, err)
	defer db.Close()
	k := stations.New(db, filestore.Memory(), standin.World())
	require.NoError(b, k.People.AddMember(ctx, "k@x.example", "Kim", "a long password", "House", keep.RoleKeeper))
	user, err := k.Base.DB.UserByEmail("k@x.example")
	require.NoError(b, err)
	a, err := k.Accounts.Enter(ctx, accounts.SignedIn{Account: accounts.Account{ID: user.ID, Name: user.Name}}, 1)
	require.NoError(b, err)
	plain, err := sql.Open("mysql", dsn)
	require.NoError(b, err)
	defer plain.Close()
	var computed time.Duration
	restore, first, next, find, move, tag, reading := time.Hour, time.Hour, time.Hour, time.Hour, time.Hour, time.Hour, time.Hour
	took := func(least *time.Duration, f func()) {
		at := time.Now()
		f()
		*least = min(*least, time.Since(at))
	}
	for b.Loop() {
		took(&restore, func() {
			_, err := k.Backup.Restore(ctx, a, data, true)
			require.NoError(b, err)
		})
		if computed == 0 { // the only time that every face is computed
			computed = time.Hour
			took(&computed, func() {
				_, _, err = stations.New(k.Base.DB, filestore.Memory(), standin.World()).Ledger.Ledger(ctx, a)
				require.NoError(b, err)
			})
		}
		fresh := stations.New(k.Base.DB, filestore.Memory(), standin.World())
		var rows []ledger.Row
		took(&first, func() {
			_, rows, err = fresh.Ledger.Ledger(ctx, a)
			require.NoError(b, err)
		})
		for range 3 {
			took(&reading, func() { readAll(b, plain, len(rows)) })
			took(&next, func() {
				_, _, err := fresh.Ledger.Ledger(ctx, a)
				require.NoError(b, err)
			})
			took(&find, func() {
				groups, err := fresh.Finding.Find(ctx, a, "color 01234")
				require.NoError(b, err)
				require.NotEmpty(b, groups)
			})
		}
		var thousand []int64
		for _, row := range rows[:1000] {
			thousand = append(thousand, row.ID)
		}
		took(&tag, func() {
			require.NoError(b, fresh.Ledger.ChangeMany(ctx, a, ledger.Bulk{Colors: thousand, Tag: ptr("bench")}))
		})
		took(&move, func() { require.NoError(b, fresh.Ledger.PlaceColor(ctx, a, rows[9000].ID, rows[8000].ID)) })
	}
	b.ReportMetric(restore.Seconds(), "s-restore")
	b.ReportMetric(computed.Seconds(), "s-computed")
	b.ReportMetric(tag.Seconds()*1000, "ms-tag-1000")
	b.ReportMetric(first.Seconds(), "s-first-ledger")
	b.ReportMetric(next.Seconds(), "s-ledger")
	b.ReportMetric(next.Seconds()/reading.Seconds(), "x-reading-ledger")
	b.ReportMetric(find.Seconds()/reading.Seconds(), "x-reading-find")
	b.ReportMetric(move.Seconds()*1000, "ms-move")
}

// readAll reads every row of the colors and leaves it at that.
func readAll(b testing.TB, db *sql.DB, rows int) {
	all, err := db.Query("SELECT * FROM colors")
	require.NoError(b, err)
	defer all.Close()
	names, err := all.Columns()
	require.NoError(b, err)
	cells, into := make([]sql.RawBytes, len(names)), make([]any, len(names))
	for i := range cells {
		into[i] = &cells[i]
	}
	n := 0
	for ; all.Next(); n++ {
		require.NoError(b, all.Scan(into...))
	}
	require.NoError(b, all.Err())
	require.GreaterOrEqual(b, n, rows)
}

// BenchmarkSheetOfAColorHeldByMany states the sheet of a color that 50 sets hold in 20 editions each, beside the sheet of one that
// nobody holds.
func BenchmarkSheetOfAColorHeldByMany(b *testing.B) {
	k := stations.New(storetest.Open(b), filestore.Memory(), standin.World())
	require.NoError(b, k.People.AddMember(ctx, "k@x.example", "Kim", "a long password", "House", keep.RoleKeeper))
	user, err := k.Base.DB.UserByEmail("k@x.example")
	require.NoError(b, err)
	a, err := k.Accounts.Enter(ctx, accounts.SignedIn{Account: accounts.Account{ID: user.ID, Name: user.Name}}, 1)
	require.NoError(b, err)
	_, err = k.Backup.Restore(ctx, a, largeLibrary(b, 60), true)
	require.NoError(b, err)
	_, rows, err := k.Ledger.Ledger(ctx, a)
	require.NoError(b, err)
	var ids []int64
	for _, row := range rows[:40] {
		ids = append(ids, row.ID)
	}
	for set := range 50 {
		id, err := k.Send.CreateSet(ctx, a, send.Content{Name: fmt.Sprintf("Set %d", set), Colors: ids})
		require.NoError(b, err)
		e := library.Edition{House: "House", Set: "Set", FixedAt: k.Base.Now(), By: a.Person()}
		for _, row := range rows[:40] {
			e.Colors = append(e.Colors, row.Color)
		}
		for n := range 20 {
			e.Number = n + 1
			require.NoError(b, k.Base.DB.AddEdition(1, id, e))
		}
	}
	var held, free time.Duration
	for b.Loop() {
		at := time.Now()
		s, err := k.Ledger.Sheet(ctx, a, ids[0])
		require.NoError(b, err)
		require.Len(b, s.Holders, 50)
		held = time.Since(at)
		at = time.Now()
		_, err = k.Ledger.Sheet(ctx, a, rows[50].ID)
		require.NoError(b, err)
		free = time.Since(at)
	}
	b.ReportMetric(held.Seconds()*1000, "ms-held")
	b.ReportMetric(free.Seconds()*1000, "ms-free")
}

// BenchmarkManyRecipients states what the lists of Send take in a house of 300 sets with three editions each and 500 recipients, of whom each gets ten
// sets, with 15,000 receipts, 10,000 of them of one recipient: all sets, all recipients, a page of receipts, those with a word, how a set spread, and the
// ledger of 10,000 colors beside it.
func BenchmarkManyRecipients(b *testing.B) {
	k := stations.New(storetest.Open(b), filestore.Memory(), standin.World())
	require.NoError(b, k.People.AddMember(ctx, "k@x.example", "Kim", "a long password", "House", keep.RoleKeeper))
	user, err := k.Base.DB.UserByEmail("k@x.example")
	require.NoError(b, err)
	a, err := k.Accounts.Enter(ctx, accounts.SignedIn{Account: accounts.Account{ID: user.ID, Name: user.Name}}, 1)
	require.NoError(b, err)
	_, err = k.Backup.Restore(ctx, a, largeLibrary(b, 10_000), true)
	require.NoError(b, err)
	_, rows, err := k.Ledger.Ledger(ctx, a)
	require.NoError(b, err)
	var ids, sets []int64
	e := library.Edition{House: "House", Set: "Set", FixedAt: k.Base.Now().Add(-90 * 24 * time.Hour), By: a.Person()}
	for _, row := range rows[:12] {
		ids = append(ids, row.ID)
		e.Colors = append(e.Colors, row.Color)
	}
	for set := range 300 {
		id, err := k.Send.CreateSet(ctx, a, send.Content{Name: fmt.Sprintf("Set %d", set), Colors: ids})
		require.NoError(b, err)
		sets = append(sets, id)
		for n := range 3 {
			e.Number = n + 1
			require.NoError(b, k.Base.DB.AddEdition(1, id, e))
		}
	}
	var list []store.Delivery
	at := k.Base.Now()
	for n := range 500 {
		var of []int64
		for i := range 10 {
			of = append(of, sets[(n*7+i*31)%300])
		}
		to, _, err := k.Send.AddRecipient(ctx, a, send.NewRecipient{Name: fmt.Sprintf("Team %d", n), Kind: "web", Sets: of})
		require.NoError(b, err)
		for i := range 10 + 9990*(1-min(n, 1)) {
			sent := at.Add(-time.Duration(i) * time.Minute)
			list = append(list, store.Delivery{RecipientID: to.ID, SetID: of[i%10], Number: 1 + i%3, Packing: "css", ByName: "Kim", SentAt: sent, ReceivedAt: &sent, OK: true, Message: fmt.Sprintf("Taken by build %d.", i), Way: "pickup", Client: "a program (curl)", Times: 1})
		}
	}
	require.NoError(b, k.Base.DB.In(ctx, func(tx *store.DB) error {
		for i := range list {
			if err := tx.Add(&list[i]); err != nil {
				return err
			}
		}
		return nil
	}))
	took := map[string]time.Duration{}
	timed := func(what string, f func() (int, error), least int) {
		at := time.Now()
		n, err := f()
		took[what] = time.Since(at)
		require.NoError(b, err)
		require.GreaterOrEqual(b, n, least, what)
	}
	first := list[0].RecipientID
	for b.Loop() {
		timed("ledger", func() (int, error) { _, rows, err := k.Ledger.Ledger(ctx, a); return len(rows), err }, 10_000)
		timed("sets", func() (int, error) { s, err := k.Send.Sets(ctx, a); return len(s), err }, 300)
		timed("recipients", func() (int, error) { s, err := k.Send.Recipients(ctx, a); return len(s), err }, 500)
		timed("receipts", func() (int, error) { s, err := k.Send.Receipts(ctx, a, first, 0, ""); return len(s), err }, 200)
		timed("receipts-word", func() (int, error) {
			s, err := k.Send.Receipts(ctx, a, first, 0, "build 4711")
			return len(s), err
		}, 1)
		timed("spread", func() (int, error) { s, err := k.Send.Spread(ctx, a, sets[0]); return len(s.Days), err }, 60)
	}
	for what, d := range took {
		b.ReportMetric(d.Seconds()*1000, "ms-"+what)
	}
}
