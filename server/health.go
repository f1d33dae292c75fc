package server

import (
	"context"
	"errors"
	"log/slog"
	"time"

	"github.com/gofiber/fiber/v3"
)

// healthTime is how long a part may take to say that it is there.
const healthTime = 3 * time.Second

// part is one part of what the program needs, and how it is.
type part struct {
	Name string `json:"name"`
	OK   bool   `json:"ok"`
	Says string `json:"says,omitempty"`
}

func (s *server) parts(ctx context.Context) (list []part, all bool) {
	ctx, stop := context.WithTimeout(ctx, healthTime)
	defer stop()
	all = true
	check := func(name, missing string, err error) {
		p := part{Name: name, OK: err == nil}
		if err != nil {
			slog.Warn("a part does not answer", "part", name, "error", err)
			p.Says, all = missing, false
		}
		list = append(list, p)
	}
	missing, err := "the database does not answer", s.Base.DB.Ping(ctx)
	if err == nil && !s.Base.DB.HasRoom(ctx) {
		missing, err = "the database has no room left on its disk", errors.New("the database is full")
	}
	check("database", missing, err)
	check("files", "the place for files cannot be reached", s.Base.Files.Ready(ctx))
	return list, all
}

// health says that the program runs, and which part of what it needs is missing; the status is 200 as long as the program itself is well,
// so that nobody restarts it because the database is away.
func (s *server) health(c fiber.Ctx) error {
	list, all := s.parts(c.Context())
	says := "ok"
	if !all {
		says = "in part"
	}
	return c.JSON(fiber.Map{"says": says, "parts": list})
}

// ready says whether requests can be answered now.
func (s *server) ready(c fiber.Ctx) error {
	list, all := s.parts(c.Context())
	if !all {
		c.Set("Retry-After", "2")
		return c.Status(fiber.StatusServiceUnavailable).JSON(fiber.Map{"says": "back in a moment", "parts": list})
	}
	return c.JSON(fiber.Map{"says": "ready"})
}
