package server

import (
	"encoding/json"
	"fmt"
	"io/fs"
	"slices"
	"strings"

	"github.com/gofiber/fiber/v3"

	"huekeep/api"
)

// codeMethod is the code of a problem: the address takes other methods.
const codeMethod = "method-not-allowed"

// addresses are those of the contract, with the methods that each takes.
type addresses map[string][]string

func addressesOf(access map[string]api.Access) addresses {
	out := addresses{}
	for key := range access {
		method, path, _ := strings.Cut(key, " ")
		out[path] = append(out[path], method)
	}
	for _, methods := range out {
		slices.Sort(methods)
	}
	return out
}

// takes lists the methods that a path takes; none where there is no such address.
func (a addresses) takes(path string) (methods []string) {
	parts := strings.Split(path, "/")
	for pattern, these := range a {
		if fits(strings.Split(pattern, "/"), parts) {
			methods = append(methods, these...)
		}
	}
	slices.Sort(methods)
	return slices.Compact(methods)
}

func fits(pattern, parts []string) bool {
	if len(pattern) != len(parts) {
		return false
	}
	for i, p := range pattern {
		if p != parts[i] && !(strings.HasPrefix(p, ":") && parts[i] != "") {
			return false
		}
	}
	return true
}

// nowhere answers what no operation of the contract did: 405 where the address takes other methods, else 404.
func (a addresses) nowhere(c fiber.Ctx) error {
	methods := a.takes(strings.TrimPrefix(c.Path(), "/api"))
	if len(methods) == 0 || slices.Contains(methods, c.Method()) { // it would take that, if there were such a thing
		return fiber.NewError(fiber.StatusNotFound)
	}
	c.Set("Allow", strings.Join(methods, ", "))
	return fiber.NewError(fiber.StatusMethodNotAllowed)
}

// referencePage is the contract as a page that one reads and tries (ui/src/reference).
func referencePage(files fs.FS) fiber.Handler {
	page := interfacePage(files, "reference.html", fiber.MIMETextHTMLCharsetUTF8)
	return func(c fiber.Ctx) error {
		if !strings.HasSuffix(c.Path(), "/") {
			return c.Redirect().To(c.Path() + "/")
		}
		c.Set("X-Robots-Tag", "noindex, nofollow")
		return page(c)
	}
}

// single is the last part of the address at which one thing of a list is got, ":color"; empty where none is.
func (a addresses) single(list string) string {
	for path, methods := range a {
		part, below := strings.CutPrefix(path, list+"/:")
		if below && !strings.Contains(part, "/") && slices.Contains(methods, fiber.MethodGet) {
			return part
		}
	}
	return ""
}

// locate says where what was made can be got, if that can be told from the answer. The part is the one of single.
func locate(c fiber.Ctx, part string) {
	if part == "" || c.Response().StatusCode() != fiber.StatusCreated {
		return
	}
	var made struct {
		ID  int64
		Row struct{ ID int64 } // of a color's sheet
		// of an edition, which is answered with its set, the newest first
		Editions []struct{ Number int64 }
		Logo     string
	}
	if json.Unmarshal(c.Response().Body(), &made) != nil { // a list
		return
	}
	var name string
	switch {
	case part == "number" && len(made.Editions) > 0:
		name = fmt.Sprint(made.Editions[0].Number)
	case part == "logo":
		name = made.Logo
	case made.Row.ID != 0:
		name = fmt.Sprint(made.Row.ID)
	case made.ID != 0:
		name = fmt.Sprint(made.ID)
	}
	if name != "" {
		c.Set("Location", c.Path()+"/"+name)
	}
}
