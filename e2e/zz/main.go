package main

import (
	"fmt"
	"os"
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
	go p.EachEvent(func(e *proto.RuntimeExceptionThrown) { fmt.Println("EXC", e.ExceptionDetails.Exception.Description) }, func(e *proto.RuntimeConsoleAPICalled) {
		for _, a := range e.Args {
			fmt.Println("CON", e.Type, a.Value, a.Description)
		}
	})()
	p.MustElementR("button", "Enter as keeper").MustClick()
	p.MustElement("nav")
	p.MustNavigate(url + "/h/1/library/2").MustWaitLoad()
	p.MustElementR("aside button", "Merge it into").MustClick()
	p.MustElement("aside form select").MustSelect("Lamp, #F2B632")
	p.MustElementR("aside form button", "Merge Buoy").MustClick()
	time.Sleep(2 * time.Second)
	fmt.Println(p.MustInfo().URL, p.MustEval(`() => document.querySelector('aside')?.innerHTML.slice(0,300)`))
}
