package main

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
	"os"
	"path/filepath"
	"strings"
	"time"

	"github.com/spf13/cobra"

	"huekeep/filestore"
	"huekeep/keep"
	"huekeep/store"
)

// A dump of everything is a gzipped tar: "database.jsonl", the files under "files/", and last "manifest.json", whose checksums tell that
// nothing is missing.

type manifest struct {
	Made    time.Time         `json:"made"`
	Version string            `json:"version"`
	SHA256  map[string]string `json:"sha256"`
	Missing []string          `json:"missing,omitempty"` // files that went while the dump was made
}

const (
	rowsEntry     = "database.jsonl"
	filesEntry    = "files/"
	manifestEntry = "manifest.json"
)

func dumpCommand() *cobra.Command {
	var demo bool
	c := &cobra.Command{
		Use:   "dump FILE.tar.gz",
		Short: "Write the database and the files of all houses into one file, while the server may be running",
		Args:  cobra.ExactArgs(1),
		RunE: func(cmd *cobra.Command, args []string) (err error) {
			p, err := openPlace(cmd.Context(), databaseName(demo), false, true)
			if err != nil {
				return err
			}
			defer func() { err = errors.Join(err, p.close()) }()
			return wholeFile(args[0], func(f *os.File) error {
				m, err := dump(cmd.Context(), p, f, true)
				if err == nil {
					fmt.Fprintf(cmd.OutOrStdout(), "%s: the database and %d files\n", args[0], len(m.SHA256)-1)
					for _, key := range m.Missing {
						fmt.Fprintf(cmd.ErrOrStderr(), "huekeep: the file %s is not there; it may have gone meanwhile\n", key)
					}
				}
				return err
			})
		},
	}
	c.Flags().BoolVar(&demo, "demo", false, "of the demo")
	return c
}

func databaseName(demo bool) string {
	if demo {
		return "huekeep_demo"
	}
	return "huekeep"
}

// publicFile is wholeFile of what others may read as far as they may read what one writes.
func publicFile(path string, write func(w io.Writer) error) error {
	return putFile(path, 0o666, func(f *os.File) error { return write(f) })
}

// wholeFile writes a file that is there when it is whole, and not before; nobody else may read it.
func wholeFile(path string, write func(f *os.File) error) error { return putFile(path, 0o600, write) }

func putFile(path string, mode os.FileMode, write func(f *os.File) error) (err error) {
	if real, err := filepath.EvalSymlinks(path); err == nil {
		path = real
	}
	there, missing := os.Stat(path)
	if missing == nil && !there.Mode().IsRegular() && !there.IsDir() { // a device or a pipe cannot be put in place
		f, err := os.OpenFile(path, os.O_WRONLY, 0)
		if err != nil {
			return err
		}
		return errors.Join(write(f), f.Close())
	}
	f, err := os.OpenFile(filepath.Join(filepath.Dir(path), "."+filepath.Base(path)+"-"+keep.Random()[:8]), os.O_CREATE|os.O_EXCL|os.O_WRONLY, mode)
	if err != nil {
		return err
	}
	defer func() {
		if err != nil {
			err = errors.Join(err, os.Remove(f.Name()))
		}
	}()
	if missing == nil && mode != 0o600 { // it stays as open or closed as it was
		if err := f.Chmod(there.Mode().Perm()); err != nil {
			return errors.Join(err, f.Close())
		}
	}
	if err := errors.Join(write(f), f.Sync(), f.Close()); err != nil {
		return err
	}
	return os.Rename(f.Name(), path)
}

func dump(ctx context.Context, p place, w io.Writer, withFiles bool) (m manifest, err error) {
	m = manifest{Made: time.Now().UTC(), Version: version(), SHA256: map[string]string{}}
	// How long the rows are is known when they are written, and a tar says it before.
	rows, err := os.CreateTemp("", "huekeep-dump-")
	if err != nil {
		return m, err
	}
	defer func() { err = errors.Join(err, rows.Close(), os.Remove(rows.Name())) }()
	buffered := bufio.NewWriterSize(rows, 1<<20)
	keys, err := store.Dump(ctx, p.dsn, buffered)
	if err := errors.Join(err, buffered.Flush()); err != nil {
		return m, err
	}
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
		return nil
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
	if !withFiles {
		keys = nil
	}
	for _, key := range keys {
		r, size, err := p.files.Open(ctx, key)
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

func loadCommand() *cobra.Command {
	var demo bool
	c := &cobra.Command{
		Use:   "load FILE.tar.gz",
		Short: "Bring a dump back, into an empty database; it comes in wholly or not at all",
		Args:  cobra.ExactArgs(1),
		RunE: func(cmd *cobra.Command, args []string) (err error) {
			f, err := os.Open(args[0])
			if err != nil {
				return err
			}
			defer f.Close()
			// Read once to see that it is whole, before anything is written.
			if err := checkDump(f); err != nil {
				return fmt.Errorf("%s: %w", args[0], err)
			}
			p, err := openPlace(cmd.Context(), databaseName(demo), false, false)
			if err != nil {
				return err
			}
			defer func() { err = errors.Join(err, p.close()) }()
			n, err := load(cmd.Context(), p, f)
			if err == nil {
				fmt.Fprintf(cmd.OutOrStdout(), "%s is loaded: the database and %d files. Everybody signs in anew.\n", args[0], n)
			}
			return err
		},
	}
	c.Flags().BoolVar(&demo, "demo", false, "into the demo")
	return c
}

// eachEntry goes through the entries of a dump.
func eachEntry(f io.ReadSeeker, each func(name string, r io.Reader, size int64) error) error {
	if _, err := f.Seek(0, io.SeekStart); err != nil {
		return err
	}
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

func checkDump(f io.ReadSeeker) error {
	var m manifest
	sums := map[string]hash.Hash{}
	if err := eachEntry(f, func(name string, r io.Reader, _ int64) error {
		if name == manifestEntry {
			if err := json.NewDecoder(r).Decode(&m); err != nil {
				return fmt.Errorf("the dump is damaged: %w", err)
			}
			return nil
		}
		sums[name] = sha256.New()
		if _, err := io.Copy(sums[name], r); err != nil {
			return fmt.Errorf("the dump is damaged or cut off: %w", err)
		}
		return nil
	}); err != nil {
		return err
	}
	if m.SHA256[rowsEntry] == "" {
		return errors.New("the dump is cut off: its end, with the checksums, is missing")
	}
	for name, want := range m.SHA256 {
		if sums[name] == nil || hex.EncodeToString(sums[name].Sum(nil)) != want {
			return fmt.Errorf("the dump is damaged: %s is not what was dumped", name)
		}
	}
	return nil
}

func load(ctx context.Context, p place, f io.ReadSeeker) (files int, err error) {
	if err := store.Empty(ctx, p.dsn); err != nil {
		return 0, err
	}
	// The files first: rows that name them are there when all of them are.
	err = eachEntry(f, func(name string, r io.Reader, size int64) error {
		key, ok := strings.CutPrefix(name, filesEntry)
		if !ok {
			return nil
		}
		files++
		return p.files.Write(ctx, key, r, size)
	})
	if err != nil {
		return files, err
	}
	return files, eachEntry(f, func(name string, r io.Reader, _ int64) error {
		if name != rowsEntry {
			return nil
		}
		return store.LoadDump(ctx, p.dsn, r)
	})
}
