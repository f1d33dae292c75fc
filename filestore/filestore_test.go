package filestore_test

import (
	"bytes"
	"context"
	"errors"
	"fmt"
	"io"
	"net/http"
	"net/http/httptest"
	"os"
	"path/filepath"
	"strings"
	"sync/atomic"
	"syscall"
	"testing"
	"testing/iotest"
	"time"

	"github.com/johannesboyne/gofakes3"
	"github.com/johannesboyne/gofakes3/backend/s3mem"
	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"huekeep/filestore"
)

var ctx = context.Background()

// s3 is a store that speaks S3, with a bucket "colors".
func s3(t *testing.T) string {
	backend := s3mem.New()
	require.NoError(t, backend.CreateBucket("colors"))
	server := httptest.NewServer(gofakes3.New(backend).Server())
	t.Cleanup(server.Close)
	t.Setenv("AWS_ACCESS_KEY_ID", "a")
	t.Setenv("AWS_SECRET_ACCESS_KEY", "b")
	return "region=eu-west-1&use_path_style=true&endpoint=" + server.URL
}

func at(t *testing.T, address string) filestore.Store {
	s, err := filestore.At(address)
	require.NoError(t, err)
	return s
}

// Every place keeps files in the same way.
func TestEveryPlaceKeepsFiles(t *testing.T) {
	for name, s := range map[string]filestore.Store{
		"memory": filestore.Memory(), "folder": at(t, "file://"+filepath.Join(t.TempDir(), "a folder")), "s3": at(t, "s3://colors?"+s3(t)),
	} {
		t.Run(name, func(t *testing.T) {
			require.NoError(t, s.Ready(ctx))
			large := bytes.Repeat([]byte("0123456789abcdef"), 1<<20) // more than a part of S3
			for key, data := range map[string][]byte{"audits/1/a-b_C": []byte("first"), "audits/1/large": large, "audits/2/empty": {}} {
				require.NoError(t, filestore.Put(ctx, s, key, data))
				got, err := filestore.Read(ctx, s, key)
				require.NoError(t, err)
				assert.Equal(t, len(data), len(got))
				assert.True(t, bytes.Equal(data, got), key)
			}
			require.NoError(t, filestore.Put(ctx, s, "audits/1/a-b_C", []byte("second")))
			got, err := filestore.Read(ctx, s, "audits/1/a-b_C")
			require.NoError(t, err)
			assert.Equal(t, "second", string(got))

			require.NoError(t, s.Write(ctx, "unsized", bytes.NewReader(bytes.Repeat(large, 3)), filestore.Unsized), "more than a part is")
			got, err = filestore.Read(ctx, s, "unsized")
			require.NoError(t, err)
			assert.True(t, bytes.Equal(bytes.Repeat(large, 3), got))
			broken := errors.New("broken")
			require.ErrorIs(t, s.Write(ctx, "cut", io.MultiReader(bytes.NewReader(bytes.Repeat(large, 3)), iotest.ErrReader(broken)), filestore.Unsized), broken)
			_, err = filestore.Read(ctx, s, "cut")
			require.ErrorIs(t, err, filestore.ErrNotFound, "it is there wholly or not at all")
			require.NoError(t, s.Remove(ctx, "unsized"))

			found := map[string]int64{}
			require.NoError(t, s.Each(ctx, func(e filestore.Entry) error {
				found[e.Key] = e.Size
				assert.WithinDuration(t, time.Now(), e.At, time.Minute)
				return nil
			}))
			assert.Equal(t, map[string]int64{"audits/1/a-b_C": 6, "audits/1/large": 16 << 20, "audits/2/empty": 0}, found)
			enough := errors.New("enough")
			assert.ErrorIs(t, s.Each(ctx, func(filestore.Entry) error { return enough }), enough)

			require.NoError(t, s.Remove(ctx, "audits/1/a-b_C"))
			_, err = filestore.Read(ctx, s, "audits/1/a-b_C")
			assert.ErrorIs(t, err, filestore.ErrNotFound)
			if err := s.Remove(ctx, "audits/1/a-b_C"); name != "s3" {
				assert.ErrorIs(t, err, filestore.ErrNotFound)
			}
			for _, key := range []string{"", "/", "a/", "/a", "a//b", "../a", "a/../b", "a/./b", ".", "a\\b", "a\x00", strings.Repeat("a", 201)} {
				assert.Error(t, filestore.Put(ctx, s, key, nil), "%q", key)
				_, err := filestore.Read(ctx, s, key)
				assert.Error(t, err, "%q", key)
			}
		})
	}
}

// A file is there wholly or not at all, also where writing it breaks off.
func TestAFileThatBreaksOffIsNotThere(t *testing.T) {
	root := t.TempDir()
	s := at(t, "file://"+root)
	require.NoError(t, filestore.Put(ctx, s, "a/b", []byte("before")))
	require.Error(t, s.Write(ctx, "a/b", strings.NewReader("half"), 9))
	require.Error(t, s.Write(ctx, "a/c", strings.NewReader("half"), 9))
	got, err := filestore.Read(ctx, s, "a/b")
	require.NoError(t, err)
	assert.Equal(t, "before", string(got))
	list, err := os.ReadDir(filepath.Join(root, "a"))
	require.NoError(t, err)
	assert.Len(t, list, 1)
}

func TestAddresses(t *testing.T) {
	t.Setenv("AWS_REGION", "")
	t.Setenv("AWS_DEFAULT_REGION", "")
	for address, want := range map[string]string{
		"/a/folder": "no place for files", "ftp://x/y": "no place for files", "file://a/folder": "names no folder", "file://": "names no folder",
		"s3://": "names no bucket", "s3://b": "needs a region", "s3://b?regoin=x": `"regoin" is no option of s3://; there are region, endpoint, use_path_style`,
		"s3://b?endpoint=host": `the endpoint "host" is no address`, "s3://b?region=x&use_path_style=perhaps": "true or false", "file:///a?x=1": `"x" is no option`,
	} {
		_, err := filestore.At(address)
		assert.ErrorContains(t, err, want, address)
	}
	for _, address := range []string{"s3://b?region=eu-west-1", "s3://b?endpoint=https://host:9000&use_path_style=true", "file://" + t.TempDir() + "?no_tmp_dir=true&metadata=skip"} {
		_, err := filestore.At(address)
		assert.NoError(t, err, address)
	}
	assert.ErrorContains(t, at(t, "s3://other?"+s3(t)).Ready(ctx), `there is no bucket "other"`)
	gone := at(t, "s3://colors?region=eu-west-1&endpoint=http://127.0.0.1:1")
	begin := time.Now()
	assert.Error(t, gone.Ready(ctx))
	assert.Less(t, time.Since(begin), 20*time.Second, "somebody waits")
	file := filepath.Join(t.TempDir(), "file")
	require.NoError(t, os.WriteFile(file, nil, 0o600))
	_, err := filestore.At(fmt.Sprintf("file://%s/folder", file))
	assert.Error(t, err)
}

// What went wrong with the place for files is told apart, and what to do about it.
func TestAdvice(t *testing.T) {
	gone := at(t, "s3://colors?region=eu-west-1&endpoint=http://127.0.0.1:1")
	assert.Contains(t, filestore.Advice(gone.Ready(ctx), ""), "does not answer")
	missing := at(t, "s3://other?"+s3(t))
	assert.Contains(t, filestore.Advice(filestore.Put(ctx, missing, "a", nil), ""), "Make the bucket")
	for err, want := range map[error]string{syscall.EROFS: "read-only", syscall.ENOSPC: "no room", os.ErrPermission: "right to write", errors.New("odd"): "otherwise"} {
		assert.Contains(t, filestore.Advice(fmt.Errorf("open: %w", err), "otherwise"), want)
	}
}

func TestWhatIsAwayForAMomentIsToldApart(t *testing.T) {
	var mode atomic.Int64
	backend := s3mem.New()
	require.NoError(t, backend.CreateBucket("colors"))
	there := gofakes3.New(backend).Server()
	server := httptest.NewServer(http.HandlerFunc(func(w http.ResponseWriter, r *http.Request) {
		switch mode.Load() {
		case 1:
			w.WriteHeader(http.StatusServiceUnavailable)
		case 2:
			panic(http.ErrAbortHandler) // hangs up
		default:
			there.ServeHTTP(w, r)
		}
	}))
	defer server.Close()
	place := at(t, "s3://colors?region=eu-west-1&use_path_style=true&endpoint="+server.URL)
	require.NoError(t, filestore.Put(ctx, place, "a/b", []byte("x")))
	for m := range int64(3) {
		mode.Store(m)
		_, err := filestore.Read(ctx, place, "a/b")
		assert.Equal(t, m > 0, filestore.Away(err), "%v", err)
		assert.Equal(t, m > 0, filestore.Away(filestore.Put(ctx, place, "a/c", []byte("y"))))
	}
	mode.Store(0)
	_, err := filestore.Read(ctx, place, "a/d")
	assert.ErrorIs(t, err, filestore.ErrNotFound)
	given, up := context.WithCancel(ctx)
	up()
	_, gone := filestore.Read(given, place, "a/b")
	missing := filestore.Put(ctx, at(t, "s3://other?"+s3(t)), "a", nil)
	for _, err := range []error{nil, err, gone, missing, syscall.ENOSPC, os.ErrPermission, errors.New("odd")} {
		assert.False(t, filestore.Away(err), "%v", err)
	}
	assert.True(t, filestore.Away(filestore.Put(ctx, at(t, "s3://colors?region=x&endpoint=http://127.0.0.1:1"), "a", nil)))
	assert.True(t, filestore.Away(fmt.Errorf("read: %w", syscall.ESTALE)))
}
