// Package filestore keeps files under keys, for all instances of the program: in a folder, in a store that speaks S3, or in memory. A key
// is made of parts of letters, digits, "-", "_" and "." with "/" between them, at most 200 bytes.
package filestore

import (
	"bytes"
	"context"
	"errors"
	"fmt"
	"io"
	"net"
	"net/http"
	"net/url"
	"regexp"
	"slices"
	"strings"
	"syscall"
	"time"

	"github.com/minio/minio-go/v7"
)

// Store is a place for files. All of it may be called at once. An error wraps what the system says, so that a full disk (syscall.ENOSPC)
// and a network that is away (net.OpError) can be told.
type Store interface {
	// Write stores a file of a size in bytes, wholly or not at all, in the place of one that was there. A size of Unsized is that of what r
	// gives.
	Write(ctx context.Context, key string, r io.Reader, size int64) error
	// Open reads a file of a size in bytes. ErrNotFound says that there is none.
	Open(ctx context.Context, key string) (r io.ReadCloser, size int64, err error)
	// Remove removes a file. ErrNotFound says that there is none, of places that can tell.
	Remove(ctx context.Context, key string) error
	// Each tells of every file, in no order, until f returns an error, which is returned then.
	Each(ctx context.Context, f func(Entry) error) error
	// Ready says why files can be neither read nor written now.
	Ready(ctx context.Context) error
}

// Entry is a file that is stored.
type Entry struct {
	Key  string
	Size int64 // bytes
	At   time.Time
}

// Unsized is the size of a file of which is not known before how long it is.
const Unsized = -1

// ErrNotFound says that nothing is stored under a key.
var ErrNotFound = errors.New("there is no such file")

// Away says whether an error means that the place does not answer at this moment, or answers that it cannot: later it may. A call that was
// given up is no such thing, nor is a full disk.
func Away(err error) bool {
	var network *net.OpError
	var request *url.Error
	var system syscall.Errno
	var object minio.ErrorResponse
	switch {
	case err == nil, errors.Is(err, context.Canceled):
		return false
	case errors.As(err, &object):
		return object.StatusCode >= 500 && object.StatusCode != http.StatusNotImplemented
	case errors.As(err, &system) && slices.Contains([]syscall.Errno{syscall.EIO, syscall.ESTALE, syscall.ENOTCONN, syscall.EHOSTDOWN},
		system): // a shared folder
		return true
	}
	return errors.As(err, &network) || errors.As(err, &request) || errors.Is(err, io.ErrUnexpectedEOF)
}

// Put stores a file.
func Put(ctx context.Context, s Store, key string, data []byte) error {
	return s.Write(ctx, key, bytes.NewReader(data), int64(len(data)))
}

// Read is the whole of a file.
func Read(ctx context.Context, s Store, key string) (data []byte, err error) {
	r, size, err := s.Open(ctx, key)
	if err != nil {
		return nil, err
	}
	defer func() { err = errors.Join(err, r.Close()) }()
	data = make([]byte, size)
	_, err = io.ReadFull(r, data)
	return data, err
}

var keys = regexp.MustCompile(`^[A-Za-z0-9_.-]+(/[A-Za-z0-9_.-]+)*$`)

// check refuses keys that would lead elsewhere.
func check(key string) error {
	if len(key) > 200 || !keys.MatchString(key) ||
		slices.ContainsFunc(strings.Split(key, "/"), func(part string) bool { return strings.Trim(part, ".") == "" }) {
		return fmt.Errorf("%q is no key of a file", key)
	}
	return nil
}

// At opens the place that an address names: file:///a/folder, or s3://bucket with the options region, endpoint and use_path_style. Errors
// are sentences that name what is wrong.
func At(address string) (Store, error) {
	u, err := url.Parse(address)
	if err != nil {
		return nil, fmt.Errorf("%q is no address: write file:///a/folder or s3://bucket?region=…", address)
	}
	options := u.Query()
	known := map[string][]string{"file": {"no_tmp_dir", "metadata", "create_dir"}, "s3": {"region", "endpoint", "use_path_style"}}[u.Scheme]
	for name := range options {
		if known != nil && !slices.Contains(known, name) {
			return nil, fmt.Errorf("%q is no option of %s://; there are %s", name, u.Scheme, strings.Join(known, ", "))
		}
	}
	switch u.Scheme {
	case "file":
		if u.Host != "" || u.Path == "" {
			return nil, fmt.Errorf("%q names no folder: write file:///a/folder", address)
		}
		return Folder(u.Path)
	case "s3":
		return bucket(u.Host, options)
	}
	return nil, fmt.Errorf("%q is no place for files: write file:///a/folder or s3://bucket?region=…", address)
}
