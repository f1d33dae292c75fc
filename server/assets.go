package server

import (
	"bytes"
	"io"
	"io/fs"
	"mime"
	"path"
	"strings"
	"sync"

	"github.com/andybalholm/brotli"
	"github.com/gofiber/fiber/v3"
)

// assets serves files with a hash in their name, which never change, in the compressed form that the build made; large ones are there in no
// other, and are unpacked for whoever does not take it.
func assets(files fs.FS) fiber.Handler {
	unpacked := sync.Map{} // by name
	return func(c fiber.Ctx) error {
		name := strings.TrimPrefix(c.Path(), "/")
		if !fs.ValidPath(name) {
			return fiber.ErrNotFound
		}
		data, err := fs.ReadFile(files, name)
		packed, none := fs.ReadFile(files, name+".br")
		if err != nil && none != nil {
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
		if none == nil {
			c.Set("Vary", "Accept-Encoding")
			if acceptsBrotli(c.Get("Accept-Encoding")) {
				c.Set("Content-Encoding", "br")
				return c.Send(packed)
			}
			if err != nil {
				plain, there := unpacked.Load(name)
				if !there {
					if plain, err = io.ReadAll(brotli.NewReader(bytes.NewReader(packed))); err != nil {
						return err
					}
					unpacked.Store(name, plain)
				}
				data, _ = plain.([]byte)
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
