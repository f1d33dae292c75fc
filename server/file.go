package server

import "github.com/gofiber/fiber/v3"

// file is a download with its own media type, which the generated answers do not provide for.
type file struct {
	data      []byte
	mediaType string
	name      string
}

func (f file) send(c fiber.Ctx) error {
	c.Set("Content-Type", f.mediaType)
	c.Set("Content-Disposition", attachment(f.name))
	return c.Send(f.data)
}

// VisitExportLibraryResponse implements the generated interface.
func (f file) VisitExportLibraryResponse(c fiber.Ctx) error { return f.send(c) }

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
