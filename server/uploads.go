package server

import (
	"bufio"
	"bytes"
	"context"
	"errors"
	"fmt"
	"io"
	"mime/multipart"
	"os"
	"strconv"
	"time"

	"github.com/gofiber/fiber/v3"
	"golang.org/x/sync/semaphore"

	"huekeep/core/limits"
	"huekeep/keep"
	"huekeep/keep/audits"
)

// What is uploaded comes into a file first, however slowly, and into memory when there is room for it: together, uploads that are in memory
// have no more than uploadsAtOnce. Who waits for longer than uploadPatience is told to come back.
const (
	uploadsAtOnce  = 5 * bodyLimit / 2
	uploadPatience = 2 * time.Minute
)

// uploads is the room for uploads in memory.
type uploads struct{ room *semaphore.Weighted }

func newUploads() uploads { return uploads{semaphore.NewWeighted(uploadsAtOnce)} }

// releases is what is done when a request is over.
type releases []func()

// spooled is the body of a request that has come into a file.
type spooled struct {
	file     *os.File
	size     int64
	boundary string
}

// spool takes the body of a request with a file off the line, however slowly it comes, without having it in memory.
func spool(c fiber.Ctx, over *releases) error {
	f, err := os.CreateTemp("", "huekeep-upload-")
	if err != nil {
		return err
	}
	*over = append(*over, func() { _ = f.Close(); _ = os.Remove(f.Name()) })
	body := c.Request().BodyStream()
	if body == nil { // small ones, and those of tests, are there already
		body = bytes.NewReader(c.Request().Body())
	}
	n, err := io.Copy(f, io.LimitReader(body, bodyLimit+1))
	switch {
	case n > bodyLimit:
		return fiber.ErrRequestEntityTooLarge
	case err != nil:
		return keep.Wrong("file", "the upload was cut off")
	}
	boundary := string(c.Request().Header.MultipartFormBoundary())
	c.Request().ResetBody()
	c.SetContext(context.WithValue(c.Context(), spooledKey, spooled{f, n, boundary}))
	return nil
}

// upload reads the file of a form that has come into a file of its own. It is in memory until the request is over.
func (s *server) upload(ctx context.Context, _ *multipart.Reader) (name string, data []byte, err error) {
	in, ok := ctx.Value(spooledKey).(spooled)
	if !ok {
		return "", nil, errors.New("the operation is not one that takes a file")
	}
	if _, err := in.file.Seek(0, io.SeekStart); err != nil {
		return "", nil, err
	}
	form := multipart.NewReader(bufio.NewReaderSize(in.file, 1<<16), in.boundary)
	for {
		part, err := form.NextPart()
		if err != nil {
			message := "The form holds no file."
			if !errors.Is(err, io.EOF) {
				message = "The upload could not be read to its end; try again."
			}
			return "", nil, &keep.Error{Kind: keep.Invalid, Field: "file", Message: message}
		}
		if part.FormName() == "file" {
			name := uploadName(part.Header.Get("Content-Disposition"))
			tell(ctx, "uploaded", name)
			data, err := s.uploaded(ctx, part, in.size, name)
			return name, data, err
		}
	}
}

// manyUploads reads the files of a form that has come into a file, one at a time, each behind its path, until io.EOF. What came as a whole
// counts as in memory until the request is over.
func (s *server) manyUploads(ctx context.Context) (next func() (audits.Incoming, error), err error) {
	in, ok := ctx.Value(spooledKey).(spooled)
	if !ok {
		return nil, errors.New("the operation is not one that takes files")
	}
	if _, err := in.file.Seek(0, io.SeekStart); err != nil {
		return nil, err
	}
	if err := s.roomFor(ctx, in.size); err != nil {
		return nil, err
	}
	form := multipart.NewReader(bufio.NewReaderSize(in.file, 1<<16), in.boundary)
	var names []string
	return func() (one audits.Incoming, err error) {
		for named := false; ; {
			part, err := form.NextPart()
			if errors.Is(err, io.EOF) && !named {
				return one, io.EOF
			} else if err != nil {
				return one, &keep.Error{Kind: keep.Invalid, Field: "file", Message: "The upload could not be read to its end; try again."}
			}
			data, err := io.ReadAll(io.LimitReader(part, limits.UploadBytes+1))
			if err != nil {
				return one, keep.Wrong("file", "the upload was cut off")
			}
			switch part.FormName() {
			case "path":
				one.Path, named = string(data), true
				names = append(names, one.Path)
				tell(ctx, "files", names)
			case "file":
				if !named {
					return one, keep.Wrong("path", "a file came without its path before it")
				}
				one.Data, one.Size = data, int64(len(data))
				return one, nil
			case "size":
				if one.Size, err = strconv.ParseInt(string(data), 10, 64); err != nil || one.Size <= limits.UploadBytes || !named {
					return one, keep.Wrong("size", "only a file of over %s stands there with its size alone",
						limits.Size(limits.UploadBytes))
				}
				return one, nil
			}
		}
	}, nil
}

// roomFor waits until there is room in memory for an upload, and gives it back when the request is over.
func (s *server) roomFor(ctx context.Context, size int64) error {
	patient, stop := context.WithTimeout(ctx, uploadPatience)
	defer stop()
	if err := s.uploads.room.Acquire(patient, size); err != nil {
		return &keep.Error{Kind: keep.TooMany, Retry: uploadPatience / 4,
			Message: "Many large files arrive at this moment. Try again in half a minute."}
	}
	release := func() { s.uploads.room.Release(size) }
	if over, ok := ctx.Value(releasesKey).(*releases); ok {
		*over = append(*over, release)
	} else {
		release()
	}
	return nil
}

// uploaded takes an uploaded file of no more than a size, within the limit.
func (s *server) uploaded(ctx context.Context, r io.Reader, size int64, file string) ([]byte, error) {
	if err := s.roomFor(ctx, size); err != nil {
		return nil, err
	}
	var b bytes.Buffer
	b.Grow(int(size) + bytes.MinRead)
	n, err := b.ReadFrom(io.LimitReader(r, limits.UploadBytes+1))
	switch {
	case errors.Is(err, io.ErrUnexpectedEOF):
		return nil, keep.Wrong("file", "the upload of %s was cut off", file)
	case err != nil:
		return nil, err
	case n > limits.UploadBytes:
		return nil, &keep.Error{Kind: keep.TooLarge, Field: "file", Message: fmt.Sprintf("%s is larger than %s, the most that is read.",
			file, limits.Size(limits.UploadBytes))}
	}
	return b.Bytes(), nil
}
