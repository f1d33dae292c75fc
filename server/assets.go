package server

import (
	"io/fs"
	"mime"
	"path"
	"strings"

	"github.com/gofiber/fiber/v3"
)

// assets serves files with a hash in their name, which never change, in the compressed form that the build made.
func assets(files fs.FS) fiber.Handler {
	return func(c fiber.Ctx) error {
		name := strings.TrimPrefix(c.Path(), "/")
		if !fs.ValidPath(name) {
			return fiber.ErrNotFound
		}
		data, err := fs.ReadFile(files, name)
		if err != nil {
			return fiber.ErrNotFound
		}
		kind := mime.TypeByExtension(path.Ext(name))
		switch path.Ext(name) { // not every machine's table knows these
		case ".wasm":
			kind = "application/wasm"
		case ".js":
			kind = "text/javascript; charset=utf-8"
		case ".woff2":
			kind = "font/woff2"
		}
		c.Set("Content-Type", kind)
		c.Set("Cache-Control", "public, max-age=31536000, immutable")
		if packed, err := fs.ReadFile(files, name+".br"); err == nil {
			c.Set("Vary", "Accept-Encoding")
			if acceptsBrotli(c.Get("Accept-Encoding")) {
				c.Set("Content-Encoding", "br")
				data = packed
			}
		}
		return c.Send(data)
	}
}

func acceptsBrotli(header string) bool {
	for part := range strings.SplitSeq(header, ",") {
		name, weight, _ := strings.Cut(part, ";")
		if strings.TrimSpace(name) == "br" && strings.TrimSpace(weight) != "q=0" {
			return true
		}
	}
	return false
}
