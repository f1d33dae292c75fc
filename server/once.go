package server

import (
	"bufio"
	"crypto/sha256"
	"encoding/hex"
	"encoding/json"
	"errors"
	"fmt"
	"hash"
	"io"
	"log/slog"
	"mime/multipart"
	"strings"

	"github.com/gofiber/fiber/v3"

	"huekeep/api"
	"huekeep/keep"
	"huekeep/keep/once"
)

// onceHeader is where a program puts the key of a request that is to be done once (draft-ietf-httpapi-idempotency-key-header).
const onceHeader = "Idempotency-Key"

// once does what was asked for, or answers it as it was answered when it was done already.
func (s *server) once(c fiber.Ctx, a api.Access, actor keep.Actor, do func() error) error {
	key := c.Get(onceHeader)
	if key == "" || !a.Once {
		return do()
	}
	sum, err := bodySum(c)
	if err != nil {
		return err
	}
	claim, was, err := s.Once.Claim(c.Context(), actor, once.Request{Key: key, What: c.Method() + " " + c.OriginalURL(), Body: sum})
	if err != nil {
		return err
	}
	if was != nil {
		c.Set("Idempotency-Replayed", "true")
		if len(was.Body) > 0 {
			c.Set("Content-Type", was.MediaType)
		}
		return c.Status(was.Status).Send(was.Body)
	}
	before := c.Context()
	c.SetContext(once.Within(before, claim))
	done := false
	defer func() { // a panic is answered further out
		if !done {
			s.onceDone(c, claim, once.Answer{Status: fiber.StatusInternalServerError})
		}
	}()
	err = do()
	c.SetContext(once.Outside(c.Context()))
	answer := once.Answer{Status: c.Response().StatusCode(), MediaType: string(c.Response().Header.ContentType())}
	if err != nil {
		answer.Status = statusOf(err)
	} else {
		answer.Body = c.Response().Body()
	}
	done = true
	s.onceDone(c, claim, answer)
	return err
}

func (s *server) onceDone(c fiber.Ctx, claim once.Claimed, a once.Answer) {
	if err := s.Once.Done(once.Outside(c.Context()), claim, a); err != nil {
		slog.Error("the answer to a request with a key is not kept", "id", keep.FromOf(c.Context()).Request, "error", err)
	}
}

// bodySum is a checksum of what a request says. The same again counts as the same, in whatever order its members stand, and wherever its
// parts are parted.
func bodySum(c fiber.Ctx) (string, error) {
	sum := sha256.New()
	if in, ok := c.Context().Value(spooledKey).(spooled); ok {
		if err := formSum(in, sum); err != nil {
			return "", err
		}
		return hex.EncodeToString(sum.Sum(nil)), nil
	}
	body := c.Body()
	var said any
	if json.Unmarshal(body, &said) == nil {
		if again, err := json.Marshal(said); err == nil {
			body = again
		}
	}
	sum.Write(body)
	return hex.EncodeToString(sum.Sum(nil)), nil
}

func formSum(in spooled, sum hash.Hash) error {
	if _, err := in.file.Seek(0, io.SeekStart); err != nil {
		return err
	}
	form := multipart.NewReader(bufio.NewReaderSize(in.file, 1<<16), in.boundary)
	for {
		part, err := form.NextPart()
		if errors.Is(err, io.EOF) {
			return nil
		} else if err != nil {
			return &keep.Error{Kind: keep.Invalid, Field: "file", Message: "The upload could not be read to its end; try again."}
		}
		fmt.Fprintf(sum, "%q %q\n", strings.TrimSpace(part.Header.Get("Content-Disposition")), part.Header.Get("Content-Type"))
		one := sha256.New()
		if _, err := io.Copy(one, part); err != nil {
			return keep.Wrong("file", "the upload was cut off")
		}
		sum.Write(one.Sum(nil))
	}
}
