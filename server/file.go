package server

import (
	"crypto/sha256"
	"encoding/hex"
	"errors"
	"strings"

	"github.com/gofiber/fiber/v3"

	"huekeep/keep"
)

// file is a download with its own media type, which the generated answers do not provide for.
type file struct {
	data      []byte
	mediaType string
	name      string
}

func (f file) send(c fiber.Ctx) error {
	if c.Method() == fiber.MethodGet {
		sum := sha256.Sum256(f.data)
		if named(c, hex.EncodeToString(sum[:16])) {
			return c.SendStatus(fiber.StatusNotModified)
		}
	}
	c.Set("Content-Type", f.mediaType)
	c.Set("Content-Disposition", attachment(f.name))
	return c.Send(f.data)
}

// named names what is sent by its checksum, and says whether the client has that already.
func named(c fiber.Ctx, sum string) bool {
	tag := `"` + sum + `"`
	c.Set("ETag", "W/"+tag) // weak: the same file goes out packed and plain
	return tagged(c.Get("If-None-Match"), tag)
}

// tagged says whether what a client has already is what has a tag (RFC 9110, 13.1.2).
func tagged(match, tag string) bool {
	for _, one := range strings.Split(match, ",") {
		if one = strings.TrimSpace(one); one == "*" || strings.TrimPrefix(one, "W/") == tag {
			return true
		}
	}
	return false
}

// VisitExportLibraryResponse implements the generated interface.
func (f file) VisitExportLibraryResponse(c fiber.Ctx) error { return f.send(c) }

// VisitTakeGradientResponse implements the generated interface.
func (f file) VisitTakeGradientResponse(c fiber.Ctx) error { return f.send(c) }

// VisitPackStarterResponse implements the generated interface.
func (f file) VisitPackStarterResponse(c fiber.Ctx) error { return f.send(c) }

// VisitDownloadPackingResponse implements the generated interface.
func (f file) VisitDownloadPackingResponse(c fiber.Ctx) error { return f.send(c) }

// VisitDownloadSheetResponse implements the generated interface.
func (f file) VisitDownloadSheetResponse(c fiber.Ctx) error { return f.send(c) }

// VisitProofPictureResponse implements the generated interface.
func (f file) VisitProofPictureResponse(c fiber.Ctx) error { return f.send(c) }

// VisitDownloadKitResponse implements the generated interface.
func (f file) VisitDownloadKitResponse(c fiber.Ctx) error { return f.send(c) }

// VisitExportRunResponse implements the generated interface.
func (f file) VisitExportRunResponse(c fiber.Ctx) error { return f.send(c) }

// VisitExportAuditResponse implements the generated interface.
func (f file) VisitExportAuditResponse(c fiber.Ctx) error { return f.send(c) }

// largeFile is a download that may be too large to be held.
type largeFile struct {
	keep.Spooled
	name string
}

// VisitDownloadRepaintedResponse implements the generated interface.
func (f largeFile) VisitDownloadRepaintedResponse(c fiber.Ctx) error {
	if named(c, f.Sum[:32]) {
		return errors.Join(f.Close(), c.SendStatus(fiber.StatusNotModified))
	}
	c.Set("Content-Type", "application/octet-stream")
	c.Set("Content-Disposition", attachment(f.name))
	return c.SendStream(f.File, int(f.Size)) // which closes it
}

// VisitPrintRepaintResponse implements the generated interface.
func (f file) VisitPrintRepaintResponse(c fiber.Ctx) error { return f.send(c) }
