package server

import (
	"bufio"
	"context"
	"fmt"
	"strings"
	"sync"
	"time"

	"github.com/gofiber/fiber/v3"

	"huekeep/api"
	"huekeep/keep"
)

// hub tells whoever listens to a house that something in it was changed, and by which page.
type hub struct {
	others    func(house int64, page string) // tells the other instances; nil for none
	mutex     sync.Mutex
	listeners map[int64]map[chan string]bool
	serving   context.Context // over when the program stops, which does not wait for those who listen: their pages come back
}

// pageHeader is what a page calls itself, so that it knows its own changes.
const pageHeader = "X-Page"

func (h *hub) listen(house int64) (news chan string, stop func()) {
	h.mutex.Lock()
	defer h.mutex.Unlock()
	news = make(chan string, 1)
	if h.listeners == nil {
		h.listeners = map[int64]map[chan string]bool{}
	}
	if h.listeners[house] == nil {
		h.listeners[house] = map[chan string]bool{}
	}
	h.listeners[house][news] = true
	return news, func() {
		h.mutex.Lock()
		defer h.mutex.Unlock()
		delete(h.listeners[house], news)
		if len(h.listeners[house]) == 0 {
			delete(h.listeners, house)
		}
	}
}

// tell tells of a change by a page, empty for one that does not say what it is, here and at the other instances.
func (h *hub) tell(house int64, page string) {
	h.here(house, page)
	if h.others != nil {
		h.others(house, page)
	}
}

// here tells those who listen at this instance.
func (h *hub) here(house int64, page string) {
	h.mutex.Lock()
	defer h.mutex.Unlock()
	for news := range h.listeners[house] {
		said := page
		select {
		case before := <-news: // it has not read the one before yet
			if before != page {
				said = ""
			}
		default:
		}
		news <- said // only tell fills it, one at a time
	}
}

// quiet are the addresses within a house that are posted to and change nothing that others see; previews are of one thing each.
var quiet = []string{"/preview", "/read", "/tray", "/tray/order", "/tray/colors", "/files", "/printed", "/proofs", "/boards/propose",
	"/boards/logos"}

// telling lets a change that succeeded be known.
func (h *hub) telling(c fiber.Ctx) error {
	err := c.Next()
	if err != nil || !changes(c.Method()) || c.Response().StatusCode() >= 300 {
		return err
	}
	var house int64
	if _, err := fmt.Sscanf(c.Path(), "/api/houses/%d/", &house); err != nil {
		return nil
	}
	of := fmt.Sprintf("/api/houses/%d", house)
	for _, end := range quiet {
		if end == "/preview" && strings.HasSuffix(c.Path(), end) || c.Path() == of+end {
			return nil
		}
	}
	page := strings.Clone(c.Get(pageHeader)) // it goes on to others, while the request is over
	if !requestID.MatchString(page) {
		page = ""
	}
	h.tell(house, page)
	return nil
}

func (s *server) FollowHouse(ctx context.Context, in api.FollowHouseRequestObject) (api.FollowHouseResponseObject, error) {
	token := sessionOf(ctx).Token
	ctx = context.WithoutCancel(ctx)
	return listening{&s.hub, in.House, func() bool {
		err := s.Accounts.Listening(ctx, token, in.House)
		ours := keep.Explain(err)
		return err == nil || ours != nil && ours.Kind == keep.Away // who was let in stays while nobody can say otherwise
	}}, nil
}

type listening struct {
	*hub
	house int64
	may   func() bool // whether whoever listens still belongs to the house
}

// VisitFollowHouseResponse implements the generated interface.
func (l listening) VisitFollowHouseResponse(c fiber.Ctx) error {
	c.Set("Content-Type", "text/event-stream")
	c.Set("X-Accel-Buffering", "no") // a proxy must not hold events back
	return c.SendStreamWriter(func(w *bufio.Writer) {
		news, stop := l.listen(l.house)
		defer stop()
		end := time.NewTimer(longestLook)
		defer end.Stop()
		beat := time.NewTicker(beatEvery)
		defer beat.Stop()
		fmt.Fprint(w, ": listening\n\n")
		for w.Flush() == nil {
			select {
			case page := <-news:
				if !l.may() {
					return
				}
				fmt.Fprintf(w, "data: changed %s\n\n", page)
			case <-beat.C:
				if !l.may() {
					return
				}
				fmt.Fprint(w, ": still here\n\n")
			case <-end.C: // the browser asks again
				return
			case <-l.serving.Done():
				return
			}
		}
	})
}
