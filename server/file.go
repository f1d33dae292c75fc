package server

import (
	"crypto/sha256"
	"encoding/hex"
	"strings"

	"github.com/gofiber/fiber/v3"
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
		tag := `"` + hex.EncodeToString(sum[:16]) + `"`
		c.Set("ETag", "W/"+tag) // weak: the same file goes out packed and plain
		if tagged(c.Get("If-None-Match"), tag) {
			return c.SendStatus(fiber.StatusNotModified)
		}
	}
	c.Set("Content-Type", f.mediaType)
	c.Set("Content-Disposition", attachment(f.name))
	return c.Send(f.data)
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

// VisitDownloadRepaintedResponse implements the generated interface.
func (f file) VisitDownloadRepaintedResponse(c fiber.Ctx) error { return f.send(c) }

// VisitPrintRepaintResponse implements the generated interface.
func (f file) VisitPrintRepaintResponse(c fiber.Ctx) error { return f.send(c) }
