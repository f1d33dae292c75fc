package keep

import (
	"bytes"
	"context"
	"crypto/rand"
	"crypto/sha256"
	"encoding/base64"
	"encoding/hex"
	"errors"
	"fmt"
	"io"
	"log/slog"
	"os"
	"time"

	"huekeep/core/limits"
	"huekeep/filestore"
	"huekeep/store"
)

// Random is a secret of 256 bits, for tokens and names of files.
func Random() string {
	var b [32]byte
	_, _ = rand.Read(b[:]) // never fails, see crypto/rand
	return base64.RawURLEncoding.EncodeToString(b[:])
}

// Digest is the form in which secrets are kept: SHA-256 in hexadecimal digits.
func Digest(s string) string {
	sum := sha256.Sum256([]byte(s))
	return hex.EncodeToString(sum[:])
}

// checksum is how a stored file is known again: SHA-256 in hexadecimal digits.
func checksum(data []byte) string {
	sum := sha256.Sum256(data)
	return hex.EncodeToString(sum[:])
}

// Store stores a file of a house and notes its checksum. A file that neither an audit nor a job names by the next sweep goes.
func (b *Base) Store(ctx context.Context, house int64, kind string, data []byte) (key string, err error) {
	return b.store(ctx, house, kind, data, b.Room)
}

// StoreAnyway is Store of what has to be kept and is small, whatever room there is.
func (b *Base) StoreAnyway(ctx context.Context, house int64, kind string, data []byte) (key string, err error) {
	return b.store(ctx, house, kind, data, 0)
}

// StoreFrom is Store of a file of a size in bytes that is read twice, so that it need not be held.
func (b *Base) StoreFrom(ctx context.Context, house int64, kind string, r io.ReadSeeker, size int64) (key string, err error) {
	return b.storeFrom(ctx, house, kind, r, size, b.Room)
}

func (b *Base) store(ctx context.Context, house int64, kind string, data []byte, room int64) (key string, err error) {
	return b.storeFrom(ctx, house, kind, bytes.NewReader(data), int64(len(data)), room)
}

func (b *Base) storeFrom(ctx context.Context, house int64, kind string, r io.ReadSeeker, size, room int64) (key string, err error) {
	if room > 0 {
		if n, err := b.DB.With(ctx).StoredBytes(house); err != nil {
			return "", err
		} else if n+size > room {
			return "", &Error{Kind: NoRoom,
				Message: fmt.Sprintf("The files of this house would have more than the %s that it has room for. Delete projects that are over, or ask whoever runs the server for more.", limits.Size(room))}
		}
	}
	sum := sha256.New()
	if _, err := r.Seek(0, io.SeekStart); err != nil {
		return "", err
	}
	if n, err := io.Copy(sum, r); err != nil {
		return "", err
	} else if n != size {
		return "", fmt.Errorf("the file has %d bytes instead of %d", n, size)
	}
	if _, err := r.Seek(0, io.SeekStart); err != nil {
		return "", err
	}
	key = fmt.Sprintf("%s/%d/%s", kind, house, Random())
	row := store.File{BlobKey: key, HouseID: &house, SHA256: hex.EncodeToString(sum.Sum(nil)), Size: size, AddedAt: b.Now()}
	if err := b.DB.With(ctx).AddFile(row); err != nil { // first on record, so that a killed run's file is found
		return "", err
	}
	if err := b.Files.Write(ctx, key, r, size); err != nil {
		b.Drop(context.WithoutCancel(ctx), key)
		return "", filesError(err)
	}
	return key, nil
}

// filesError is what is said when the place for files does not answer; it is not the database that is away then. A full disk stays what it
// is.
func filesError(err error) error {
	if !filestore.Away(err) {
		return err
	}
	slog.Warn("the place for files does not answer", "error", err)
	return &Error{Kind: Away, Code: CodeFiles, Retry: 2 * time.Second,
		Message: "The place for files cannot be reached at this moment. Nothing was kept; try again in a moment."}
}

// ErrLost says that a stored file is gone, and ErrSpoiled that it is not what was stored.
var (
	ErrLost    = errors.New("the file is no longer kept")
	ErrSpoiled = errors.New("the stored file is damaged: its checksum is not the one it was stored with")
)

// Load reads a stored file and checks that it is what was stored.
func (b *Base) Load(ctx context.Context, key string) ([]byte, error) {
	data, err := filestore.Read(ctx, b.Files, key)
	if errors.Is(err, filestore.ErrNotFound) {
		return nil, ErrLost
	} else if err != nil {
		return nil, filesError(err)
	}
	row, err := b.DB.With(ctx).File(key)
	if errors.Is(err, store.ErrNotFound) {
		return data, nil // of before checksums were kept
	} else if err != nil {
		return nil, err
	}
	if checksum(data) != row.SHA256 {
		return nil, ErrSpoiled
	}
	return data, nil
}

// Scratch is a file without a name on the disk of this machine: it is there as long as it is open, and goes with a program that is killed.
func Scratch() (*os.File, error) {
	f, err := os.CreateTemp("", "huekeep-scratch")
	if err != nil {
		return nil, err
	}
	if err := os.Remove(f.Name()); err != nil {
		return nil, errors.Join(err, f.Close())
	}
	return f, nil
}

// Spooled is a stored file on the disk of this machine, for one that is too large to be held. It is gone when it is closed.
type Spooled struct {
	*os.File
	Size int64  // bytes
	Sum  string // SHA-256 in hexadecimal digits
}

// Spool is Load of a file that may be large.
func (b *Base) Spool(ctx context.Context, key string) (out Spooled, err error) {
	in, _, err := b.Files.Open(ctx, key)
	if errors.Is(err, filestore.ErrNotFound) {
		return out, ErrLost
	} else if err != nil {
		return out, filesError(err)
	}
	defer in.Close()
	if out.File, err = Scratch(); err != nil {
		return out, err
	}
	defer func() {
		if err != nil {
			out.Close()
		}
	}()
	sum := sha256.New()
	if out.Size, err = io.Copy(io.MultiWriter(out, sum), in); err != nil {
		return out, filesError(err)
	}
	if _, err = out.Seek(0, io.SeekStart); err != nil {
		return out, err
	}
	out.Sum = hex.EncodeToString(sum.Sum(nil))
	row, err := b.DB.With(ctx).File(key)
	if err == nil && out.Sum != row.SHA256 {
		err = ErrSpoiled
	} else if errors.Is(err, store.ErrNotFound) {
		err = nil // of before checksums were kept
	}
	return out, err
}

// PutBack stores what was lost of a file that is on record; ErrSpoiled says that it is something else.
func (b *Base) PutBack(ctx context.Context, key string, data []byte) error {
	row, err := b.DB.With(ctx).File(key)
	if err != nil {
		return err
	}
	if checksum(data) != row.SHA256 {
		return ErrSpoiled
	}
	return filesError(filestore.Put(ctx, b.Files, key, data))
}

// Drop removes a stored file; what fails is left for the sweep.
func (b *Base) Drop(ctx context.Context, key string) {
	if err := b.Files.Remove(ctx, key); err == nil || errors.Is(err, filestore.ErrNotFound) {
		_ = b.DB.With(ctx).DropFile(key)
	}
}

// Sweep removes stored files that nothing names, of uploads and runs that were cut off before a time.
func (b *Base) Sweep(ctx context.Context, before time.Time) (removed int, err error) {
	keys, err := b.DB.With(ctx).Unnamed(before, 1000)
	if err != nil {
		return 0, err
	}
	for _, key := range keys {
		b.Drop(ctx, key)
		removed++
	}
	// What is stored without being on record at all: an instance of an older version, or a copy that was put back.
	err = b.Files.Each(ctx, func(o filestore.Entry) error {
		if !o.At.Before(before) {
			return nil
		}
		if _, err := b.DB.With(ctx).File(o.Key); !errors.Is(err, store.ErrNotFound) {
			return nil
		}
		if known, err := b.DB.With(ctx).Named(o.Key); err != nil || known {
			return nil
		}
		b.Drop(ctx, o.Key)
		removed++
		return nil
	})
	return removed, err
}
