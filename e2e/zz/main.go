package main

import (
	"fmt"
	"os"
	"strings"
	"time"

	"github.com/go-rod/rod/lib/proto"

	"huekeep/e2e/browser"
)

func main() {
	url := os.Args[1]
	b, stop, err := browser.Start()
	if err != nil {
		panic(err)
	}
	defer stop()
	p, err := browser.Open(b, url)
	if err != nil {
		panic(err)
	}
	p.MustElementR("button", "Enter as keeper").MustClick()
	p.MustElement("nav")
	for _, a := range os.Args[2:] { // WxH:path:name
		f := strings.Split(a, ":")
		var w, h int
		fmt.Sscanf(f[0], "%dx%d", &w, &h)
		p.MustSetViewport(w, h, 1, false)
		p.MustNavigate(url + f[1]).MustWaitLoad()
		time.Sleep(1500 * time.Millisecond)
		d, _ := p.Screenshot(false, &proto.PageCaptureScreenshot{Format: proto.PageCaptureScreenshotFormatPng})
		os.WriteFile("/tmp/shots/"+f[2]+".png", d, 0o644)
	}
}
