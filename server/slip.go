package server

import (
	_ "embed" // of the files of the page
	"io/fs"

	"github.com/gofiber/fiber/v3"
)

// The slip: the colors of a house, of a set or of a pickup beside the work, as a page and an application of its own (ui/src/slip). It works
// without the network, by a service worker that controls what lies below this path and nothing else.
const slipPath = "/slip/"

var (
	//go:embed slip.webmanifest
	slipManifest string
	//go:embed slip.svg
	slipIcon string
)

func slipPages(app *fiber.App, files fs.FS) {
	page := func(name, kind string) fiber.Handler {
		file := interfacePage(files, name, kind)
		return func(c fiber.Ctx) error {
			c.Set("X-Robots-Tag", "noindex, nofollow")
			c.Set("Referrer-Policy", "no-referrer") // the address of a pickup is its key
			return file(c)
		}
	}
	app.Get(slipPath+"worker.js", page("slip-worker.js", "text/javascript; charset=utf-8"))
	app.Get(slipPath+"app.webmanifest", shipped("application/manifest+json", slipManifest))
	app.Get(slipPath+"icon.svg", shipped("image/svg+xml", slipIcon))
	app.Get(slipPath+"*", page("slip.html", fiber.MIMETextHTMLCharsetUTF8))
}
