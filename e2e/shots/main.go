// Command shots takes the pictures of docs/screenshots from a running demo that nobody has worked in yet.
//
//	go run ./e2e/shots [-only name] [-booth gray] http://127.0.0.1:7180 docs/screenshots
package main

import (
	"flag"
	"fmt"
	"os"
	"path/filepath"
	"time"

	"github.com/go-rod/rod"
	"github.com/go-rod/rod/lib/proto"

	"huekeep/demo"
	"huekeep/e2e/browser"
)

var views = []struct {
	name, path string
	before     func(*rod.Page)
}{
	{"library", "/h/1/library/2", nil},
	{"gather", "/h/1/gather", func(p *rod.Page) {
		p.MustElement("#paste").MustInput("Harbor Teal  #1D6F6A\nGull  214 220 222\nSignal Buoy  #E2572C\nnot a color at all")
		time.Sleep(500 * time.Millisecond)
		p.MustElementR("button", "Put 3").MustClick()
		time.Sleep(500 * time.Millisecond)
		p.MustElement("#paste").MustSelectAllText().MustInput("Pier Stone  rgb(122 118 110)\nBuoy  #D94F26\nKelp  #2f5d50  C78 M38 Y66 K30")
		time.Sleep(700 * time.Millisecond)
	}},
	{"gather-manual", "/h/1/gather/file", func(p *rod.Page) {
		manual, err := filepath.Abs("core/manual/testdata/cards.pdf")
		check(err)
		p.MustElement("input[aria-label='Picture or swatch file']").MustSetFiles(manual)
		p.MustElementR("p", "look, and choose")
		time.Sleep(500 * time.Millisecond)
	}},
	{"library-plane", "/h/1/library/view/plane", nil},
	{"proof-work", "/h/1/proof/work/set-1", func(*rod.Page) { time.Sleep(time.Second) }},
	{"phone", "/h/1/library", func(p *rod.Page) {
		p.MustSetViewport(390, 844, 1, true)
		p.MustNavigate(p.MustEval(`() => location.origin`).Str() + "/h/1/library").MustWaitLoad()
		p.MustElementR("button", "^copy$")
		time.Sleep(time.Second)
		shot(p, "phone")
		p.MustSetViewport(1280, 800, 1, false)
	}},
	{"proof-contrast", "/h/1/proof/contrast/set-1", nil},
	{"slip", "/slip/h/1/1", func(p *rod.Page) {
		p.MustSetViewport(340, 720, 1, false)
		p.MustElement("[aria-label=Notation]").MustSelect("R, G, B apart")
		p.MustElementR("button", "^226$").MustClick()
		time.Sleep(500 * time.Millisecond)
		shot(p, "slip")
		p.MustSetViewport(1280, 800, 1, false)
	}},
	{"proof-print", "/h/1/proof/print/set-1", func(p *rod.Page) {
		picture := filepath.Join(temporary(), demo.Pictures()[0].Name)
		check(os.WriteFile(picture, demo.Pictures()[0].Data, 0o644))
		p.MustElement("#proof-press").MustSelect("newsprint, web offset")
		p.MustElementR("label", "out of gamut").MustElement("input").MustClick()
		p.MustElement("input[type=file]").MustSetFiles(picture)
		p.MustElement("dl.report")
	}},
	{"proof-boards", "/h/1/proof/boards/set-1/1", nil},
	{"board-client", "/h/1/proof/boards/set-1/1", func(p *rod.Page) {
		path := p.MustEval(`async () => {
			const { csrf } = await (await fetch('/api/session')).json();
			const answer = await fetch('/api/houses/1/boards/1/sheets/1/links', { method: 'POST', headers: { 'Content-Type': 'application/json', 'X-CSRF-Token': csrf },
				body: JSON.stringify({ until: new Date(Date.now() + 12096e5).toISOString() }) });
			return (await answer.json()).path;
		}`).Str()
		p.MustNavigate(p.MustEval(`() => location.origin`).Str() + path).MustWaitLoad()
		p.MustElements(".choice")[1].MustClick()
		time.Sleep(500 * time.Millisecond)
	}},
	{"send", "/h/1/send/1", nil},
	{"send-recipients", "/h/1/send/recipients/2", nil},
	{"pickup", "/h/1/send/recipients/3", func(p *rod.Page) {
		path := p.MustEval(`async () => {
			const s = await (await fetch('/api/session')).json();
			const r = await fetch('/api/houses/1/recipients/3/pickup', { method: 'POST', headers: { 'X-CSRF-Token': s.csrf } });
			return (await r.json()).path;
		}`).Str()
		p.MustNavigate(p.MustEval(`() => location.origin`).Str() + path).MustWaitLoad()
	}},
	{"public", "/h/1/send/public", func(p *rod.Page) {
		p.MustNavigate(p.MustElementR("a", "look at it").MustProperty("href").Str()).MustWaitLoad()
	}},
	{"audit", "/h/1/audit", nil},
	{"audit-see", "/h/1/audit", func(p *rod.Page) {
		id := p.MustEval(`async () => (await (await fetch('/api/houses/1/audits')).json()).audits.find((a) => a.file === 'harbor-poster.svg').id`).Int()
		p.MustNavigate(fmt.Sprintf("%s/h/1/audit/%d/see?look=after", p.MustEval(`() => location.origin`).Str(), id)).MustWaitLoad()
		p.MustElementR("aside button", "#E0562C").MustClick()
		p.MustElement(".mark.chosen")
		p.MustElement("[role=slider]")
	}},
	{"audit-report", "/h/1/audit", func(p *rod.Page) {
		deck := demo.TimetableDeck()
		path := filepath.Join(temporary(), deck.Name)
		check(os.WriteFile(path, deck.Data, 0o644))
		p.MustElement("input[aria-label='Files to judge']").MustSetFiles(path)
		p.MustElementR("button", "Repaint [0-9]+ use")
		time.Sleep(time.Second)
		shot(p, "audit-report")
		p.MustElementR("a", "Repaint plan").MustClick()
		p.MustElementR("button", "Repaint and judge again")
		time.Sleep(time.Second)
		shot(p, "audit-plan")
		p.MustElementR("button", "Repaint and judge again").MustClick()
		p.MustElementR("a", "Download")
		p.MustNavigateBack().MustNavigateBack()
		time.Sleep(time.Second)
	}},
}

var folder string

func main() {
	only := flag.String("only", "", "take this view only")
	booth := flag.String("booth", "gray", "white, gray or black")
	flag.Parse()
	url := flag.Arg(0)
	folder = flag.Arg(1)
	check(os.MkdirAll(folder, 0o755))
	b, stop, err := browser.Start()
	check(err)
	defer stop()
	p, err := browser.Open(b, url)
	check(err)
	p.MustElementR("button", "Enter as keeper")
	time.Sleep(500 * time.Millisecond)
	signIn := true
	for _, v := range views {
		if *only != "" && v.name != *only {
			continue
		}
		if v.name != "sign-in" && signIn {
			p.MustElementR("button", "Enter as keeper").MustClick()
			p.MustElement("nav")
			p.MustElement(`[aria-label="` + *booth + ` booth"]`).MustClick()
			signIn = false
		}
		if v.path != "" {
			p.MustNavigate(url + v.path).MustWaitLoad()
			time.Sleep(900 * time.Millisecond)
		}
		if v.before != nil {
			v.before(p)
		}
		if v.name != "slip" && v.name != "phone" { // which took their own, of another size
			shot(p, v.name)
		}
	}
}

func temporary() string {
	dir, err := os.MkdirTemp("", "shots")
	check(err)
	return dir
}

func shot(p *rod.Page, name string) {
	data, err := p.Screenshot(false, &proto.PageCaptureScreenshot{Format: proto.PageCaptureScreenshotFormatPng})
	check(err)
	check(os.WriteFile(filepath.Join(folder, name+".png"), data, 0o644))
	fmt.Println(name)
}

func check(err error) {
	if err != nil {
		fmt.Fprintln(os.Stderr, "shots:", err)
		os.Exit(1)
	}
}
