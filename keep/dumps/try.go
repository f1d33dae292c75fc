package dumps

import (
	"context"
	"errors"
	"fmt"
	"io"
	"slices"

	"huekeep/store"
)

// Tried is what came of restoring a dump into a scratch database.
type Tried struct {
	Manifest
	Held store.Dumped // what it holds
}

// Counted are the tables that a person knows, by what they call what is in them.
var Counted = []struct{ Table, One, Many string }{
	{"houses", "house", "houses"}, {"users", "account", "accounts"}, {"colors", "color", "colors"}, {"swatch_sets", "swatch set",
		"swatch sets"},
	{"editions", "edition", "editions"}, {"projects", "project", "projects"}, {"runs", "run", "runs"}, {"audits", "report", "reports"},
	{"trail", "line of the trail", "lines of the trail"},
}

// Try restores a dump into an empty scratch database and reads it all again: rows that are not what went in, and rows that name a file
// which is neither in the dump nor among those that it misses, are errors. The dump is opened twice; files are checked and not stored.
func Try(ctx context.Context, dsn string, open func() (io.ReadCloser, error)) (t Tried, err error) {
	read := func(f func(r io.Reader) error) (err error) {
		r, err := open()
		if err != nil {
			return err
		}
		defer func() { err = errors.Join(err, r.Close()) }()
		return f(r)
	}
	if err := read(func(r io.Reader) error { t.Manifest, t.Held, err = Check(r); return err }); err != nil {
		return t, err
	}
	if err := read(func(r io.Reader) error {
		return eachEntry(r, func(name string, r io.Reader, _ int64) (err error) {
			if name == rowsEntry {
				t.Held, err = store.TryDump(ctx, dsn, r)
			}
			return err
		})
	}); err != nil {
		return t, err
	}
	for _, key := range t.Held.Files {
		if !t.Bare && t.SHA256[filesEntry+key] == "" && !slices.Contains(t.Missing, key) {
			return t, fmt.Errorf("the rows name the file %s, which is not in the dump", key)
		}
	}
	return t, nil
}
