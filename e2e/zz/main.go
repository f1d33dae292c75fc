package main

import (
	"fmt"
	"os"
	"strings"
	"time"

	"github.com/go-rod/rod"
	"github.com/go-rod/rod/lib/input"
	"github.com/go-rod/rod/lib/launcher"
	"github.com/go-rod/rod/lib/proto"
)

func main() {
	out, path, steps := os.Args[1], os.Args[2], os.Args[3:]
	base := os.Getenv("BASE")
	if base == "" {
		base = "http://127.0.0.1:8898"
	}
	b := rod.New().ControlURL(launcher.New().Bin("/usr/bin/chromium").NoSandbox(true).MustLaunch()).MustConnect()
	defer b.MustClose()
	w, h := 1280, 800
	for _, s := range steps {
		if strings.HasPrefix(s, "size:") {
			fmt.Sscanf(s[5:], "%dx%d", &w, &h)
		}
	}
	p := b.MustPage("").Timeout(80 * time.Second)
	p.MustSetViewport(w, h, 1, false)
	p.MustNavigate(base + "/").MustWaitLoad()
	time.Sleep(time.Second)
	if os.Getenv("USER_") != "none" {
		u := os.Getenv("USER_")
		if u == "" {
			u = "keeper@odelwick.example"
		}
		p.MustElement("input[type=email],input[autocomplete=username]").MustInput(u)
		p.MustElement("input[type=password]").MustInput("island-ferry-demo").MustType(input.Enter)
		time.Sleep(2 * time.Second)
	}
	p.MustNavigate(base + path).MustWaitLoad()
	time.Sleep(1500 * time.Millisecond)
	for _, s := range steps {
		k, v, _ := strings.Cut(s, ":")
		switch k {
		case "click":
			p.MustElementR("button,a,label,[role=option],summary", v).MustClick()
		case "aria":
			p.MustElement(`[aria-label="` + v + `"]`).MustClick()
		case "css":
			p.MustElement(v).MustClick()
		case "type":
			sel, text, _ := strings.Cut(v, "==")
			p.MustElement(sel).MustSelectAllText().MustInput(text)
		case "key":
			p.Keyboard.MustType(map[string]input.Key{"Enter": input.Enter, "Tab": input.Tab, "Right": input.ArrowRight, "Down": input.ArrowDown, "Esc": input.Escape}[v])
		case "select":
			sel, text, _ := strings.Cut(v, "==")
			p.MustElement(sel).MustSelect(text)
		case "file":
			p.MustElement("input[type=file]").MustSetFiles(strings.Split(v, ",")...)
			time.Sleep(3 * time.Second)
		case "wait":
			d, _ := time.ParseDuration(v)
			time.Sleep(d)
		case "eval":
			fmt.Println(p.MustEval("() => " + v).String())
		case "shot":
			p.MustScreenshot(v)
		}
		time.Sleep(600 * time.Millisecond)
	}
	shot, err := p.Screenshot(os.Getenv("FULL") != "", &proto.PageCaptureScreenshot{})
	if err != nil {
		panic(err)
	}
	os.WriteFile(out, shot, 0o644)
}
