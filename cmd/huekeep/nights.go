package main

import (
	"context"
	"errors"
	"fmt"
	"io"
	"os"
	"path/filepath"
	"strings"
	"time"

	"huekeep/core/limits"
	"huekeep/filestore"
	"huekeep/keep/dumps"
	"huekeep/server"
	"huekeep/store"
	"huekeep/store/local"
)

// staleDump is the age at which the last dump is one too old: a night and the hours in which one that failed is tried again.
const staleDump = 36 * time.Hour

// lookAtDumps says whether there was a dump in the last night, and whether there may be one in the next.
func lookAtDumps(ctx context.Context) []server.Seen {
	set, err := dumpSettings()
	if err != nil {
		return []server.Seen{ailing("dumps", err.Error(),
			filestore.Advice(err, "Set HUEKEEP_DUMPS to file:///a/folder or s3://bucket?region=…, apart from the files."))}
	}
	if set.To == nil {
		return []server.Seen{remark("dumps", "HUEKEEP_DUMPS is not set",
			"Without it nothing is dumped at night; set it to a folder or a bucket that outlives this machine.")}
	}
	if err := probe(ctx, set.To); err != nil {
		return []server.Seen{ailing("dumps", err.Error(),
			filestore.Advice(err, "Give this program the right to write at HUEKEEP_DUMPS, and see whether there is room."))}
	}
	dsn, err := databaseNow(ctx)
	if err != nil {
		return []server.Seen{well("dumps", "the place for them can be written, read and deleted")}
	}
	nights, err := store.NightsOf(ctx, dsn)
	if err != nil {
		return []server.Seen{remark("dumps", "whether one was made is not known: "+err.Error(),
			"Look at what the doctor says of the database.")}
	}
	if len(nights) == 0 {
		return []server.Seen{remark("dumps", "none has been made yet",
			"The first one is made as soon as the server runs with HUEKEEP_DUMPS.")}
	}
	last := nights[0]
	if last.Problem != "" {
		return []server.Seen{ailing("dumps", "the last one failed: "+last.Problem, "It is tried again every hour; see to what it says.")}
	}
	if age := time.Since(last.BegunAt); age > staleDump {
		return []server.Seen{ailing("dumps", fmt.Sprintf("the last one is %s old", age.Round(time.Hour)),
			"See whether the server runs, and what its log says.")}
	}
	return []server.Seen{well("dumps", "the last one is %s of %s UTC: %s, opened and counted", last.Name,
		last.BegunAt.Format("2006-01-02 15:04"), limits.Size(last.Size))}
}

// restoreTime is how long restoring into a scratch database may take.
const restoreTime = 6 * time.Hour

// tryRestoring restores the newest nightly dump into a MariaDB of its own, in a folder that is thrown away, and says how what it holds
// compares with what the database holds now.
func tryRestoring(ctx context.Context) []server.Seen {
	ctx, stop := context.WithTimeout(ctx, restoreTime)
	defer stop()
	set, err := dumpSettings()
	if err == nil && set.To == nil {
		err = errors.New("HUEKEEP_DUMPS is not set, so that there is no dump to restore")
	}
	if err != nil {
		return []server.Seen{ailing("restore", err.Error(), "Set HUEKEEP_DUMPS to where the nightly dumps are.")}
	}
	name, err := dumps.Newest(ctx, set.To)
	if err != nil {
		return []server.Seen{ailing("restore", err.Error(),
			filestore.Advice(err, "The first one is made as soon as the server runs with HUEKEEP_DUMPS."))}
	}
	began := time.Now()
	tried, now, err := inScratch(ctx, set.To, name)
	live, liveErr := databaseNow(ctx)
	if liveErr == nil && !errors.Is(err, errNoScratch) { // which says nothing of the dump
		problem := ""
		if err != nil {
			problem = err.Error()
		}
		if err := store.PutTried(ctx, live, name, time.Now().UTC().Truncate(time.Millisecond), problem); err != nil &&
			!errors.Is(err, store.ErrNotFound) {
			liveErr = err
		}
	}
	if errors.Is(err, errNoScratch) {
		return []server.Seen{ailing("restore", err.Error(),
			"It is a MariaDB in the folder for temporary files (TMPDIR): see whether mariadb-server-core is installed, and whether there is room.")}
	}
	if err != nil {
		return []server.Seen{ailing("restore", name+" cannot be restored: "+err.Error(),
			"Make a dump now (huekeep dump FILE) and look at the disk; the one before may be whole.")}
	}
	list := []server.Seen{well("restore",
		"%s of %s UTC came back wholly in %s: %d rows, each as it was dumped, and %d files, each with its checksum", name,
		tried.Made.Format("2006-01-02 15:04"),
		time.Since(began).Round(time.Second), tried.Held.Rows(), tried.Files())}
	if n := len(tried.Missing); n > 0 {
		list = append(list, remark("restore", fmt.Sprintf("%d files were named and not there when it was made, the first of them %s", n,
			tried.Missing[0]), "They may have gone meanwhile; if the next dump says so too, look at HUEKEEP_FILES."))
	}
	var held []string
	for _, c := range dumps.Counted {
		n, ok := tried.Held.Tables[c.Table]
		if !ok {
			continue
		}
		word := c.Many
		if n.Count == 1 {
			word = c.One
		}
		text := fmt.Sprintf("%d %s", n.Count, word)
		if here, ok := now[c.Table]; ok && here != n.Count {
			text += fmt.Sprintf(" (now %d)", here)
		}
		held = append(held, text)
	}
	list = append(list, well("restore", "it holds %s", strings.Join(held, ", ")))
	if liveErr != nil {
		list = append(list, remark("restore", "it was not compared with the database, and not put down there: "+liveErr.Error(),
			"Start the server, or look at what the doctor says of the database."))
	}
	return list
}

// errNoScratch says that there is nowhere to restore anything into.
var errNoScratch = errors.New("the scratch database cannot be made")

// inScratch tries a dump of a place, and counts the rows of the database as it is now, by table; nil where it cannot be reached.
func inScratch(ctx context.Context, place filestore.Store, name string) (t dumps.Tried, now map[string]int64, err error) {
	folder, err := os.MkdirTemp("", "huekeep-restore-")
	if err != nil {
		return t, nil, fmt.Errorf("%w: %w", errNoScratch, err)
	}
	defer func() { err = errors.Join(err, os.RemoveAll(folder)) }()
	scratch, err := local.Start(ctx, filepath.Join(folder, "mariadb"))
	if err != nil {
		return t, nil, fmt.Errorf("%w: %w", errNoScratch, err)
	}
	defer func() { err = errors.Join(err, scratch.Stop()) }()
	if err := scratch.Create(ctx, "scratch", true); err != nil {
		return t, nil, fmt.Errorf("%w: %w", errNoScratch, err)
	}
	t, err = dumps.Try(ctx, scratch.DSN("scratch"), func() (io.ReadCloser, error) {
		r, _, err := place.Open(ctx, name)
		return r, err
	})
	if err != nil {
		return t, nil, err
	}
	if live, err := databaseNow(ctx); err == nil {
		var tables []string
		for _, c := range dumps.Counted {
			tables = append(tables, c.Table)
		}
		if now, err = store.CountTables(ctx, live, tables); err != nil {
			now = nil // the doctor says of the database what is wrong
		}
	}
	return t, now, nil
}
