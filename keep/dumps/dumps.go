// Package dumps writes everything that a server holds into one file, looks whether one is whole, brings it back, and does the first two by
// itself in every night.
//
// A dump is a gzipped tar: "database.jsonl", the files under "files/", and last "manifest.json", whose checksums and counts tell that
// nothing is missing.
package dumps

import (
	"archive/tar"
	"bufio"
	"compress/gzip"
	"context"
	"crypto/sha256"
	"encoding/hex"
	"encoding/json"
	"errors"
	"fmt"
	"hash"
	"io"
	"maps"
	"os"
	"strings"
	"time"

	"huekeep/filestore"
	"huekeep/store"
)

// Place is a database and the place for its files.
type Place struct {
	DSN   string
	Files filestore.Store
}

// Manifest is what stands at the end of a dump.
type Manifest struct {
	Made    time.Time             `json:"made"`
	Version string                `json:"version"` // of the program that wrote it
	SHA256  map[string]string     `json:"sha256"`
	Rows    map[string]store.Rows `json:"rows,omitempty"`    // by table; nil in dumps from before there were counts
	Missing []string              `json:"missing,omitempty"` // files that went while the dump was made
	Bare    bool                  `json:"bare,omitempty"`    // it is without files, as the one from before an upgrade
}

// Files is how many files are in the dump.
func (m Manifest) Files() int { return max(0, len(m.SHA256)-1) }

const (
	rowsEntry     = "database.jsonl"
	filesEntry    = "files/"
	manifestEntry = "manifest.json"
)

// How says how a dump is written.
type How struct {
	Version string                      // of the program that writes it
	Bare    bool                        // without files
	Watch   func(w io.Writer) io.Writer // sees the rows as they come, before they are in the dump; nil for nobody
}

// Write writes the database as it stands at one moment and, unless it is to be without, all files that it names.
func Write(ctx context.Context, p Place, how How, w io.Writer) (m Manifest, err error) {
	m = Manifest{Made: time.Now().UTC(), Version: how.Version, SHA256: map[string]string{}, Bare: how.Bare}
	// How long the rows are is known when they are written, and a tar says it before.
	rows, err := os.CreateTemp("", "huekeep-dump-")
	if err != nil {
		return m, err
	}
	defer func() { err = errors.Join(err, rows.Close(), os.Remove(rows.Name())) }()
	buffered := bufio.NewWriterSize(rows, 1<<20)
	var to io.Writer = buffered
	if how.Watch != nil {
		to = how.Watch(buffered)
	}
	dumped, err := store.Dump(ctx, p.DSN, to)
	if err := errors.Join(err, buffered.Flush()); err != nil {
		return m, err
	}
	m.Rows = dumped.Tables
	packed := gzip.NewWriter(w)
	out := tar.NewWriter(packed)
	add := func(name string, size int64, r io.Reader) error {
		if err := out.WriteHeader(&tar.Header{Name: name, Mode: 0o600, Size: size, ModTime: m.Made}); err != nil {
			return err
		}
		sum := sha256.New()
		if _, err := io.Copy(io.MultiWriter(out, sum), r); err != nil {
			return err
		}
		m.SHA256[name] = hex.EncodeToString(sum.Sum(nil))
		return ctx.Err()
	}
	size, err := rows.Seek(0, io.SeekEnd)
	if err != nil {
		return m, err
	}
	if _, err := rows.Seek(0, io.SeekStart); err != nil {
		return m, err
	}
	if err := add(rowsEntry, size, rows); err != nil {
		return m, err
	}
	if how.Bare {
		dumped.Files = nil
	}
	for _, key := range dumped.Files {
		r, size, err := p.Files.Open(ctx, key)
		if errors.Is(err, filestore.ErrNotFound) {
			m.Missing = append(m.Missing, key)
			continue
		} else if err != nil {
			return m, err
		}
		if err := errors.Join(add(filesEntry+key, size, r), r.Close()); err != nil {
			return m, err
		}
	}
	text, err := json.MarshalIndent(m, "", "  ")
	if err != nil {
		return m, err
	}
	if err := out.WriteHeader(&tar.Header{Name: manifestEntry, Mode: 0o600, Size: int64(len(text)), ModTime: m.Made}); err != nil {
		return m, err
	}
	_, err = out.Write(text)
	return m, errors.Join(err, out.Close(), packed.Close())
}

// eachEntry goes through the entries of a dump.
func eachEntry(f io.Reader, each func(name string, r io.Reader, size int64) error) error {
	packed, err := gzip.NewReader(f)
	if err != nil {
		return errors.New("this is no dump of Hue Keep")
	}
	in := tar.NewReader(packed)
	for {
		h, err := in.Next()
		if errors.Is(err, io.EOF) {
			return nil
		} else if err != nil {
			return fmt.Errorf("the dump is damaged: %w", err)
		}
		if err := each(h.Name, in, h.Size); err != nil {
			return err
		}
	}
}

// Check reads a dump from beginning to end: every part must have its checksum, and the rows are counted and must be as many as were
// written.
func Check(f io.Reader) (m Manifest, read store.Dumped, err error) {
	sums := map[string]hash.Hash{}
	if err := eachEntry(f, func(name string, r io.Reader, _ int64) (err error) {
		if name == manifestEntry {
			if err := json.NewDecoder(r).Decode(&m); err != nil {
				return fmt.Errorf("the dump is damaged: %w", err)
			}
			return nil
		}
		sum := sha256.New()
		sums[name] = sum
		in := io.TeeReader(r, sum)
		if name == rowsEntry {
			if read, err = store.CountDump(in); err != nil {
				return err
			}
		}
		if _, err := io.Copy(io.Discard, in); err != nil {
			return fmt.Errorf("the dump is damaged or cut off: %w", err)
		}
		return nil
	}); err != nil {
		return m, read, err
	}
	if m.SHA256[rowsEntry] == "" {
		return m, read, errors.New("the dump is cut off: its end, with the checksums, is missing")
	}
	for name, want := range m.SHA256 {
		if sums[name] == nil || hex.EncodeToString(sums[name].Sum(nil)) != want {
			return m, read, fmt.Errorf("the dump is damaged: %s is not what was dumped", name)
		}
	}
	if m.Rows != nil && !maps.Equal(m.Rows, read.Tables) {
		return m, read, errors.New("the dump is damaged: it does not have the rows that were dumped")
	}
	return m, read, nil
}

// Load brings a dump back into an empty database, wholly or not at all. It is read twice, from its beginning.
func Load(ctx context.Context, p Place, f io.ReadSeeker) (files int, err error) {
	if err := store.Empty(ctx, p.DSN); err != nil {
		return 0, err
	}
	// The files first: rows that name them are there when all of them are.
	if _, err := f.Seek(0, io.SeekStart); err != nil {
		return 0, err
	}
	if err := eachEntry(f, func(name string, r io.Reader, size int64) error {
		key, ok := strings.CutPrefix(name, filesEntry)
		if !ok {
			return nil
		}
		files++
		return p.Files.Write(ctx, key, r, size)
	}); err != nil {
		return files, err
	}
	if _, err := f.Seek(0, io.SeekStart); err != nil {
		return files, err
	}
	return files, eachEntry(f, func(name string, r io.Reader, _ int64) error {
		if name != rowsEntry {
			return nil
		}
		return store.LoadDump(ctx, p.DSN, r)
	})
}
