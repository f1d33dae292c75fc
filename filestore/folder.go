package filestore

import (
	"context"
	"errors"
	"fmt"
	"io"
	"io/fs"
	"os"
	"path"
	"path/filepath"
	"strings"
)

type folder struct{ root string }

// unfinished begins the names of files that are being written.
const unfinished = ".writing-"

// Unfinished says whether a key is that of a file that is being written, or was when its writer was killed.
func Unfinished(key string) bool { return strings.HasPrefix(path.Base(key), unfinished) }

// Folder is a folder as a place for files, a file each; it is made where it is not there.
func Folder(root string) (Store, error) {
	if err := os.MkdirAll(root, 0o700); err != nil {
		return nil, err
	}
	return folder{root}, nil
}

func (d folder) path(key string) (string, error) {
	if err := check(key); err != nil {
		return "", err
	}
	return filepath.Join(d.root, filepath.FromSlash(key)), nil
}

func (d folder) Write(_ context.Context, key string, r io.Reader, size int64) (err error) {
	to, err := d.path(key)
	if err != nil {
		return err
	}
	if err := os.MkdirAll(filepath.Dir(to), 0o700); err != nil {
		return err
	}
	f, err := os.CreateTemp(filepath.Dir(to), unfinished)
	if err != nil {
		return err
	}
	defer func() {
		if err != nil {
			_ = os.Remove(f.Name())
		}
	}()
	if size == Unsized {
		_, err = io.Copy(f, r)
	} else {
		_, err = io.CopyN(f, r, size)
	}
	if err == nil {
		err = f.Sync() // what the database says is stored is there after a power cut
	}
	if err = errors.Join(err, f.Close()); err != nil {
		return err
	}
	return os.Rename(f.Name(), to)
}

func (d folder) Open(_ context.Context, key string) (io.ReadCloser, int64, error) {
	from, err := d.path(key)
	if err != nil {
		return nil, 0, err
	}
	f, err := os.Open(from)
	if errors.Is(err, fs.ErrNotExist) {
		return nil, 0, fmt.Errorf("%s: %w", key, ErrNotFound)
	} else if err != nil {
		return nil, 0, err
	}
	s, err := f.Stat()
	if err != nil {
		return nil, 0, errors.Join(err, f.Close())
	}
	return f, s.Size(), nil
}

func (d folder) Remove(_ context.Context, key string) error {
	at, err := d.path(key)
	if err != nil {
		return err
	}
	if err := os.Remove(at); errors.Is(err, fs.ErrNotExist) {
		return fmt.Errorf("%s: %w", key, ErrNotFound)
	} else if err != nil {
		return err
	}
	return nil
}

func (d folder) Each(ctx context.Context, f func(Entry) error) error {
	return filepath.WalkDir(d.root, func(path string, e fs.DirEntry, err error) error {
		if err != nil && errors.Is(err, fs.ErrNotExist) {
			return nil // gone meanwhile
		} else if err != nil || e.IsDir() {
			return err
		}
		if err := ctx.Err(); err != nil {
			return err
		}
		rel, err := filepath.Rel(d.root, path)
		if err != nil {
			return err
		}
		about, err := e.Info()
		if errors.Is(err, fs.ErrNotExist) || check(filepath.ToSlash(rel)) != nil {
			return nil
		} else if err != nil {
			return err
		}
		return f(Entry{filepath.ToSlash(rel), about.Size(), about.ModTime()})
	})
}

func (d folder) Ready(context.Context) error {
	s, err := os.Stat(d.root)
	if err == nil && !s.IsDir() {
		err = fmt.Errorf("%s is no folder", strings.TrimSuffix(d.root, "/"))
	}
	return err
}
