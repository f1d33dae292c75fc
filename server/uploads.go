package server

import (
	"context"
	"errors"
	"fmt"
	"io"
	"mime/multipart"
	"os"
	"time"

	"golang.org/x/sync/semaphore"

	"huekeep/core/limits"
	"huekeep/keep"
)

// What is uploaded comes into a file first, however slowly, and into memory when there is room for it: together, uploads that are in memory have
// no more than uploadsAtOnce. Who waits for longer than uploadPatience is told to come back.
const (
	uploadsAtOnce  = 2*limits.UploadBytes + limits.UploadBytes/2
	uploadPatience = 2 * time.Minute
)

// uploads is the room for uploads in memory.
type uploads struct{ room *semaphore.Weighted }

func newUploads() uploads { return uploads{semaphore.NewWeighted(uploadsAtOnce)} }

// releases is what is done when a request is over.
type releases []func()

// upload reads the file of a form. It is in memory until the request is over.
func (s *server) upload(ctx context.Context, form *multipart.Reader) (name string, data []byte, err error) {
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
			data, err := s.uploaded(ctx, part, name)
			return name, data, err
		}
	}
}

// uploaded takes an uploaded file within the limit.
func (s *server) uploaded(ctx context.Context, r io.Reader, file string) ([]byte, error) {
	f, err := os.CreateTemp("", "huekeep-upload-")
	if err != nil {
		return nil, err
	}
	defer func() { _ = f.Close(); _ = os.Remove(f.Name()) }()
	size, err := io.Copy(f, io.LimitReader(r, limits.UploadBytes+1))
	switch {
	case errors.Is(err, io.ErrUnexpectedEOF):
		return nil, keep.Wrong("file", "the upload of %s was cut off", file)
	case err != nil:
		return nil, err
	case size > limits.UploadBytes:
		return nil, &keep.Error{Kind: keep.TooLarge, Field: "file", Message: fmt.Sprintf("%s is larger than %s, the most that is read.", file, limits.Size(limits.UploadBytes))}
	}
	patient, stop := context.WithTimeout(ctx, uploadPatience)
	defer stop()
	if err := s.uploads.room.Acquire(patient, size); err != nil {
		return nil, &keep.Error{Kind: keep.TooMany, Retry: uploadPatience / 4, Message: "Many large files arrive at this moment. Try again in half a minute."}
	}
	release := func() { s.uploads.room.Release(size) }
	if over, ok := ctx.Value(releasesKey).(*releases); ok {
		*over = append(*over, release)
	} else {
		defer release()
	}
	data := make([]byte, size)
	if _, err := f.ReadAt(data, 0); err != nil && !errors.Is(err, io.EOF) {
		return nil, err
	}
	return data, nil
}
