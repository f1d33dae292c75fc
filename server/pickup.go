package server

import (
	"cmp"
	"context"
	_ "embed"
	"encoding/xml"
	"fmt"
	"html/template"
	"log/slog"
	"net/url"
	"strconv"
	"strings"
	"time"

	"github.com/gofiber/fiber/v3"

	"huekeep/api"
	"huekeep/core/color"
	"huekeep/core/contrast"
	"huekeep/core/ink"
	"huekeep/core/library"
	"huekeep/core/press"
	"huekeep/core/swatchfile"
	"huekeep/keep"
	"huekeep/keep/links"
	"huekeep/keep/send"
)

// A recipient's own address: a page for people, files for machines, and a feed. It needs no account and no cookie; a script of ours copies
// values and ticks boxes, and the page does without it.

const pickupPath = "/p/"

var (
	//go:embed pickup.html
	pickupHTML string
	//go:embed keyin.html
	keyInHTML string
	//go:embed pickup.css
	pickupCSS string
	//go:embed pickup.js
	pickupJS string

	pickupTemplate = template.Must(template.New("pickup").Parse(pickupHTML))
	keyInTemplate  = template.Must(template.New("key-in").Parse(keyInHTML))
)

// pickupPages registers the page and what belongs to it.
func (s *server) pickupPages(app *fiber.App) {
	app.Get("/pickup.css", shipped("text/css; charset=utf-8", pickupCSS))
	app.Get("/pickup.js", shipped("text/javascript; charset=utf-8", pickupJS))
	private := unlisted("script-src 'self'; img-src 'self' data:")
	app.Get(pickupPath+":token", private, s.pickupPage)
	app.Post(pickupPath+":token", private, s.pickupLoaded)
	app.Get(pickupPath+":token/feed.atom", private, s.pickupFeed)
	app.Get(pickupPath+":token/key-in/:set", private, s.pickupKeyIn)
	app.Get(pickupPath+":token/loading/:note", private, s.pickupPicture)
	app.Get(pickupPath+":token/:number<min(1)>/:file", s.pickupFile)
	app.Get(pickupPath+":token/:file", s.pickupFile)
	app.Get(pickupPath+"*", func(c fiber.Ctx) error {
		return plainProblem(c, &keep.Error{Kind: keep.NotFound,
			Message: "There is no such file here. The page of this address lists what there is."})
	})
}

// pickupCalls registers what the contract has of pickups: the same files where programs ask for everything else, with problems as they have
// them.
func (s *server) pickupCalls(group fiber.Router) {
	group.Get(pickupPath+":token", s.pickupList)
	group.Get(pickupPath+":token/feed.atom", s.pickupFeed)
	group.Get(pickupPath+":token/:number<min(1)>/:file", s.pickupFile)
	group.Get(pickupPath+":token/:file", s.pickupFile)
}

// pickupList tells a program what lies at an address.
func (s *server) pickupList(c fiber.Ctx) error {
	o, err := s.offer(c)
	if err != nil {
		return plainProblem(c, err)
	}
	out := api.Pickup{House: o.Actor.House.Name, Recipient: o.Recipient.Name, Sets: []api.PickupSet{}}
	for _, set := range o.Sets {
		to := api.PickupSet{Id: set.ID, Name: set.Name, Edition: set.Current, Held: set.Held, Files: []api.PickupFile{}}
		for _, e := range set.Editions {
			if e.Number == set.Current {
				to.At, to.Note = &e.At, given(e.Note)
			}
		}
		if set.Live {
			to.At = &o.Changed
		}
		if set.Current > 0 || set.Live {
			e, err := s.Send.Content(c.Context(), o, set)
			if err != nil {
				return plainProblem(c, err)
			}
			colors := []api.PickupColor{}
			for _, col := range e.Colors {
				colors = append(colors, offeredColor(col))
			}
			to.Colors = &colors
			for _, f := range packingsOf(o) {
				to.Files = append(to.Files, api.PickupFile{Name: set.Slug + f.Extension, Packing: f.Name, Label: f.Label,
					MediaType: f.MediaType, Leaves: given(f.LeavesOut(e))})
			}
		}
		out.Sets = append(out.Sets, to)
	}
	c.Set("Cache-Control", "private, no-cache")
	return c.JSON(out)
}

// offeredColor is a color as a program that has no packing of it reads it.
func offeredColor(c library.Color) api.PickupColor {
	out := api.PickupColor{Name: c.Name, Hex: c.RGB.Hex(), Rgb: []int{int(c.RGB.R), int(c.RGB.G), int(c.RGB.B)}}
	c = c.Approved()
	for _, b := range c.Builds {
		if out.Press == nil || b.Press == press.Coated().Name {
			inks, on := b.Value.Array(), b.Press
			values := inks[:]
			out.Cmyk, out.Press = &values, &on
		}
	}
	for _, s := range c.Spots {
		if out.Stock == nil || s.Stock == string(ink.Coated) {
			out.Spot, out.Stock = given(s.Code), given(s.Stock)
		}
	}
	return out
}

// packingsOf are the packings that a recipient takes, without those of a version of before.
func packingsOf(o send.Offer) (list []swatchfile.Packing) {
	for _, name := range o.Recipient.Packings {
		if f, err := swatchfile.FindPacking(name); err == nil {
			list = append(list, f)
		}
	}
	return list
}

// offer follows an address. Whoever tries many that lead nowhere, or fetches without end, is held off.
func (s *server) offer(c fiber.Ctx) (send.Offer, error) {
	if wait := s.guesses.held(network(c.Context())); wait > 0 {
		return send.Offer{}, &keep.Error{Kind: keep.TooMany, Retry: wait,
			Message: "Too many addresses that lead nowhere were tried from here. Wait a minute and try again."}
	}
	if wait := s.fetches.held(network(c.Context())); wait > 0 {
		return send.Offer{}, &keep.Error{Kind: keep.TooMany, Retry: wait,
			Message: "Files are fetched from here more often than anybody needs them. Wait a minute; a numbered file never changes and can be kept."}
	}
	s.fetches.count(network(c.Context()))
	o, err := s.Send.Offer(c.Context(), c.Params("token"))
	if ours := keep.Explain(err); ours != nil && ours.Code != links.CodeClosed {
		s.guesses.count(network(c.Context()))
	}
	if err == nil && !o.Public { // those for anybody are counted
		s.opened(c, o.Actor, o.Recipient.Name)
	}
	return o, err
}

// pickedUp is what the page shows.
type pickedUp struct {
	House, Recipient, Message, Done string
	Tried                           string // the packing that somebody says did not work
	Token                           string
	Mark                            template.URL // of the house; empty for none
	Sets                            []*pickedSet
	Sentence, Until                 string // of a link for anybody
}

type pickedSet struct {
	ID                   int64
	Name, Slug, At, Note string
	Number               int
	Held                 int
	Withdrawn            string // of what is held, or of the newest
	Colors               []pickedColor
	Files                []pickedFile
	Kinds                []pickedKind // of a link for anybody
	Page                 *pickedUp
}

type pickedColor struct {
	Name, Hex, RGB, Print string
	Number                int
	R, G, B               uint8
	Style                 template.CSS
}

type pickedFile struct {
	Name, Label, Packing, Load, Leaves string
	Own                                []string
	Picture                            bool
	swatchfile.Loading
	Page *pickedUp
	Set  *pickedSet
}

// pickedFiles are the files of a set with how they are loaded.
func pickedFiles(set send.OfferedSet, e library.Edition, packings []swatchfile.Packing, notes map[string]send.Note) (out []pickedFile) {
	for _, f := range packings {
		n := notes[f.Loading().Key]
		out = append(out, pickedFile{set.Slug + f.Extension, f.Label, f.Name, f.Load, f.LeavesOut(e), n.Lines(), n.Picture, f.Loading(),
			nil, nil})
	}
	return out
}

// notesOf are the notes of a house by their keys.
func (s *server) notesOf(ctx context.Context, a keep.Actor) (map[string]send.Note, error) {
	list, err := s.Send.Notes(ctx, a)
	out := map[string]send.Note{}
	for _, n := range list {
		out[n.Key] = n
	}
	return out, err
}

// pickupPicture is the picture of a loading note.
func (s *server) pickupPicture(c fiber.Ctx) error {
	o, err := s.offer(c)
	if err != nil {
		return pickupProblem(c, err)
	}
	data, err := s.Send.NotePicture(c.Context(), o.Actor, c.Params("note"))
	if err != nil {
		return pickupProblem(c, err)
	}
	c.Set("Content-Type", "image/png")
	c.Set("Cache-Control", "private, no-cache")
	return c.Send(data)
}

func pickedColors(colors []library.Color) (out []pickedColor) {
	for i, c := range colors {
		ink := "#111111"
		if contrast.Ratio(c.RGB, color.RGB8{R: 255, G: 255, B: 255}) > contrast.Ratio(c.RGB, color.RGB8{R: 17, G: 17, B: 17}) {
			ink = "#FFFFFF"
		}
		var printed []string
		for _, b := range c.Approved().Builds {
			printed = append(printed, fmt.Sprintf("CMYK %s on %s", b.Value, b.Press))
		}
		for _, sp := range c.Approved().Spots {
			printed = append(printed, fmt.Sprintf("%s on %s", sp.Code, sp.Stock))
		}
		out = append(out, pickedColor{c.Name, c.RGB.Hex(), fmt.Sprintf("%d %d %d", c.RGB.R, c.RGB.G, c.RGB.B), strings.Join(printed, ", "),
			i + 1, c.RGB.R, c.RGB.G, c.RGB.B,
			template.CSS("background:" + c.RGB.Hex() + ";color:" + ink)}) //nolint:gosec // values of our own making
	}
	return out
}

func (s *server) pickupPage(c fiber.Ctx) error {
	o, err := s.offer(c)
	if err != nil {
		return pickupProblem(c, err)
	}
	if o.Public {
		s.Send.Opened(o)
	}
	return s.pickupShow(c, o, "", "")
}

func (s *server) pickupShow(c fiber.Ctx, o send.Offer, done, tried string) error {
	if o.Public && o.Sets[0].Live {
		return s.brandShow(c, o)
	}
	p := &pickedUp{Sentence: o.Sentence, Until: untilWords(o), House: o.Actor.House.Name, Recipient: o.Recipient.Name,
		Token: c.Params("token"), Done: done, Tried: tried, Mark: s.houseMark(c, o.Actor)}
	notes, err := s.notesOf(c.Context(), o.Actor)
	if err != nil {
		return pickupProblem(c, err)
	}
	for _, set := range o.Sets {
		to := &pickedSet{ID: set.ID, Name: set.Name, Slug: set.Slug, Number: set.Current, Held: set.Held, Page: p}
		for _, e := range set.Editions {
			if w := e.Withdrawn; w != nil && (e.Number == set.Held || e.Number > set.Current) && to.Withdrawn == "" {
				to.Withdrawn = fmt.Sprintf("Edition %d was withdrawn on %s: %s", e.Number, w.At.Format("January 2, 2006"),
					keep.Sentence(w.Why))
			}
			if e.Number == set.Current {
				to.At, to.Note = e.At.Format("January 2, 2006"), e.Note
			}
		}
		if set.Current > 0 {
			e, err := s.Send.Content(c.Context(), o, set)
			if err != nil {
				return pickupProblem(c, err)
			}
			to.Colors = pickedColors(e.Colors)
			to.Files = pickedFiles(set, e, packingsOf(o), notes)
			for i := range to.Files {
				to.Files[i].Page, to.Files[i].Set = p, to
			}
			if o.Public {
				to.Kinds, to.Files = byUse(to.Files), nil
			}
		}
		p.Sets = append(p.Sets, to)
	}
	return pageOf(c, fiber.StatusOK, pickupTemplate, p)
}

// pickupLoaded takes a receipt of somebody who loaded the colors, or could not.
func (s *server) pickupLoaded(c fiber.Ctx) error {
	o, err := s.offer(c)
	if err != nil {
		return pickupProblem(c, err)
	}
	form, err := url.ParseQuery(string(c.Body()))
	if err != nil {
		return pickupProblem(c, &keep.Error{Kind: keep.Invalid, Message: "The form could not be read. Go back and send it again."})
	}
	id, err := strconv.ParseInt(form.Get("set"), 10, 64)
	if err != nil {
		return pickupProblem(c, &keep.Error{Kind: keep.Invalid,
			Message: "The form does not say which colors it is about. Go back and press the button again."})
	}
	if form.Has("trouble") {
		set, packing, err := s.Send.DidNot(c.Context(), o, id, form.Get("packing"), form.Get("tried"))
		if err != nil {
			return pickupProblem(c, err)
		}
		s.hub.tell(o.Actor.House.ID, "")
		done := fmt.Sprintf("%s knows that “%s” of %s did not work for you. What helps most often stands there.", o.Actor.House.Name,
			packing.Label, set.Name)
		if strings.TrimSpace(form.Get("tried")) != "" {
			done = fmt.Sprintf("Thank you. %s knows what you tried with “%s” of %s.", o.Actor.House.Name, packing.Label, set.Name)
		}
		return s.pickupShow(c, o, done, packing.Name)
	}
	set, err := s.Send.Loaded(c.Context(), o, id)
	if err != nil {
		return pickupProblem(c, err)
	}
	s.hub.tell(o.Actor.House.ID, "")
	if o, err = s.Send.Offer(c.Context(), c.Params("token")); err != nil {
		return pickupProblem(c, err)
	}
	return s.pickupShow(c, o, fmt.Sprintf("Thank you. %s knows that you have edition %d of %s.", o.Actor.House.Name, set.Current, set.Name),
		"")
}

// pickupFile is a file for a machine.
func (s *server) pickupFile(c fiber.Ctx) error {
	c.Set("Access-Control-Allow-Origin", "*")
	c.Set("Access-Control-Expose-Headers", "ETag, Last-Modified, Content-Disposition")
	c.Set("X-Robots-Tag", "noindex, nofollow")
	o, err := s.offer(c)
	if err != nil {
		return plainProblem(c, err)
	}
	name, err := url.PathUnescape(c.Params("file"))
	if err != nil {
		name = c.Params("file")
	}
	number, _ := strconv.Atoi(c.Params("number")) // absent for the current edition
	f, err := s.Send.Find(c.Context(), o, name, number)
	if err != nil {
		return plainProblem(c, err)
	}
	c.Set("ETag", "W/"+f.ETag) // weak: the same file goes out packed and plain
	c.Set("Last-Modified", f.At.UTC().Format(time.RFC1123[:len(time.RFC1123)-3]+"GMT"))
	c.Set("Cache-Control", "private, no-cache")
	if f.Numbered {
		c.Set("Cache-Control", "private, max-age=31536000, immutable")
	}
	c.Vary("Accept-Encoding")
	if c.Method() == fiber.MethodGet {
		if err := s.Send.Fetched(c.Context(), o, f, clientOf(c.Get("User-Agent")), c.Get("Authorization") == "Bearer "+
			c.Params("token")); err != nil {
			return err
		}
	}
	if unchanged(c.Get("If-None-Match"), c.Get("If-Modified-Since"), f) {
		return c.SendStatus(fiber.StatusNotModified)
	}
	c.Set("Content-Type", f.Packing.MediaType)
	c.Set("Content-Disposition", attachment(f.File))
	return c.Send(f.Data)
}

// unchanged says whether a client has a file already (RFC 9110, 13.1).
func unchanged(match, since string, f send.File) bool {
	if match != "" {
		return tagged(match, f.ETag)
	}
	at, err := time.Parse(time.RFC1123, since)
	return err == nil && !f.At.Truncate(time.Second).After(at)
}

// fetchers are kinds of programs that fetch, by how they begin to call themselves. What calls itself something else is a program: names
// that somebody invents would make a receipt each.
var fetchers = []string{"curl", "wget", "git", "node", "undici", "axios", "python", "aiohttp", "httpx", "go-http-client", "java", "okhttp",
	"apache-httpclient", "ruby", "php", "guzzle",
	"perl", "libwww-perl", "dotnet", "powershell", "rust", "reqwest", "dart", "deno", "bun", "site-build", "huekeep"}

// clientOf says what kind of client fetches, in words.
func clientOf(agent string) string {
	if strings.Contains(agent, "Mozilla/") {
		return send.ABrowser
	}
	name, _, _ := strings.Cut(strings.ToLower(strings.TrimSpace(agent)), " ")
	name, _, _ = strings.Cut(name, "/") // its version would make another receipt after each update
	for _, known := range fetchers {
		if rest, ok := strings.CutPrefix(name, known); ok && (rest == "" || rest[0] == '-' || rest[0] == '_') {
			return "a program (" + known + ")"
		}
	}
	return "a program"
}

// pickupFeed tells of new editions (Atom, RFC 4287).
func (s *server) pickupFeed(c fiber.Ctx) error {
	o, err := s.offer(c)
	if err != nil {
		return plainProblem(c, err)
	}
	type link struct {
		Rel  string `xml:"rel,attr"`
		Href string `xml:"href,attr"`
	}
	type entry struct {
		Title   string `xml:"title"`
		ID      string `xml:"id"`
		Updated string `xml:"updated"`
		Link    link   `xml:"link"`
		Summary string `xml:"summary"`
	}
	feed := struct {
		XMLName xml.Name `xml:"http://www.w3.org/2005/Atom feed"`
		Title   string   `xml:"title"`
		ID      string   `xml:"id"`
		Updated string   `xml:"updated"`
		Author  string   `xml:"author>name"`
		Link    link     `xml:"link"`
		Entries []entry  `xml:"entry"`
	}{Title: fmt.Sprintf("%s, colors for %s", o.Actor.House.Name, o.Recipient.Name), ID: fmt.Sprintf("urn:huekeep:recipient:%d",
		o.Recipient.ID),
		Author: o.Actor.House.Name, Link: link{"self", s.Send.Address + c.Path()}}
	if o.Public {
		feed.Title, feed.ID = fmt.Sprintf("%s, colors", o.Actor.House.Name), fmt.Sprintf("urn:huekeep:link:%d", o.Actor.Link.ID)
	}
	latest := o.Changed
	for _, set := range o.Sets {
		for _, e := range set.Editions {
			summary, at := e.Note, e.At
			if summary == "" {
				summary = fmt.Sprintf("%d colors", e.Count)
			}
			if w := e.Withdrawn; w != nil {
				summary, at = "Withdrawn: "+w.Why, w.At
			}
			if at.After(latest) {
				latest = at
			}
			feed.Entries = append(feed.Entries, entry{fmt.Sprintf("%s, edition %d", set.Name, e.Number),
				fmt.Sprintf("urn:huekeep:set:%d:edition:%d", set.ID, e.Number),
				at.UTC().Format(time.RFC3339), link{"alternate", s.Send.Address + pickupPath + c.Params("token")}, summary})
		}
	}
	feed.Updated = latest.UTC().Format(time.RFC3339)
	out, err := xml.MarshalIndent(feed, "", "  ")
	if err != nil {
		return err
	}
	c.Set("Content-Type", "application/atom+xml; charset=utf-8")
	c.Set("Cache-Control", "private, no-cache")
	return c.Send(append([]byte(xml.Header), out...))
}

// keyedIn is what a key-in card shows.
type keyedIn struct {
	Title, House, Back, Store string
	Own                       []string // how it is done, as the house says it
	swatchfile.Loading
	Colors []pickedColor
}

func keyIn(e library.Edition, back string, notes map[string]send.Note) (keyedIn, error) {
	boxes, err := swatchfile.InBoxes(e)
	if err != nil {
		return keyedIn{}, &keep.Error{Kind: keep.Invalid, Message: keep.Sentence(err.Error())}
	}
	var colors []library.Color
	for _, b := range boxes {
		colors = append(colors, b.Color)
	}
	title := fmt.Sprintf("%s, edition %d", e.Set, e.Number)
	card, err := swatchfile.FindPacking("key-in-pdf")
	if err != nil {
		return keyedIn{}, err
	}
	of := card.Loading()
	return keyedIn{title, e.House, back, "key-in " + e.Title(), notes[of.Key].Lines(), of, pickedColors(colors)}, nil
}

func (s *server) pickupKeyIn(c fiber.Ctx) error {
	o, err := s.offer(c)
	if err != nil {
		return pickupProblem(c, err)
	}
	for _, set := range o.Sets {
		if slug, err := url.PathUnescape(c.Params("set")); err == nil && set.Slug == slug && set.Current > 0 {
			e, err := s.Send.Content(c.Context(), o, set)
			if err != nil {
				return pickupProblem(c, err)
			}
			notes, err := s.notesOf(c.Context(), o.Actor)
			if err != nil {
				return pickupProblem(c, err)
			}
			card, err := keyIn(e, pickupPath+c.Params("token"), notes)
			if err != nil {
				return pickupProblem(c, err)
			}
			return pageOf(c, fiber.StatusOK, keyInTemplate, card)
		}
	}
	return pickupProblem(c, keep.None("swatch set"))
}

func pageOf(c fiber.Ctx, status int, t *template.Template, data any) error {
	var b strings.Builder
	if err := t.Execute(&b, data); err != nil {
		return err
	}
	c.Set("Content-Type", "text/html; charset=utf-8")
	return c.Status(status).SendString(b.String())
}

// explained is an answer's status and sentence.
func explained(c fiber.Ctx, err error) (int, string) {
	ours := keep.Explain(err)
	if ours == nil {
		slog.Error("a pickup failed", "error", err)
		return fiber.StatusInternalServerError, "Something went wrong here; it was noted. Try again."
	}
	status := statuses[ours.Kind]
	if ours.Code == links.CodeClosed || ours.Code == send.CodeWithdrawn {
		status = fiber.StatusGone
	}
	if ours.Retry > 0 {
		c.Set("Retry-After", strconv.Itoa(int(ours.Retry.Seconds())+1))
	}
	return status, ours.Message
}

// pickupProblem says on a page of its own why there is nothing to pick up.
func pickupProblem(c fiber.Ctx, err error) error {
	status, message := explained(c, err)
	return pageOf(c, status, pickupTemplate, &pickedUp{Message: message})
}

// plainProblem says it to a machine.
func plainProblem(c fiber.Ctx, err error) error {
	status, message := explained(c, err)
	c.Set("Cache-Control", "no-store")
	if strings.HasPrefix(c.Path(), "/api/") {
		p := api.Problem{Title: message, Status: status, Code: "failed"}
		if ours := keep.Explain(err); ours != nil {
			p.Code = cmp.Or(ours.Code, string(ours.Kind))
		}
		return c.Status(status).JSON(p, "application/problem+json")
	}
	return c.Status(status).SendString(message + "\n")
}
