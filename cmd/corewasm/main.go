//go:build js && wasm

// Command corewasm is the core in the browser: a worker of the page loads it and asks it through the functions that it sets.
package main

import (
	"syscall/js"

	"huekeep/cmd/corewasm/engine"
	"huekeep/core/press"
)

func main() {
	e := engine.New()
	e.Told = func(share float64) { js.Global().Call("coreTold", share) }
	js.Global().Set("coreCall", js.FuncOf(func(_ js.Value, args []js.Value) any {
		return string(e.Call(args[0].String(), []byte(args[1].String())))
	}))
	js.Global().Set("corePress", js.FuncOf(func(_ js.Value, args []js.Value) any {
		profile := make([]byte, args[1].Length())
		js.CopyBytesToGo(profile, args[1])
		if err := press.Bring(args[0].String(), profile); err != nil {
			return err.Error()
		}
		return nil
	}))
	js.Global().Set("coreOpen", js.FuncOf(func(_ js.Value, args []js.Value) any {
		data := make([]byte, args[0].Length())
		js.CopyBytesToGo(data, args[0])
		return string(e.Open(data))
	}))
	js.Global().Set("corePixels", js.FuncOf(func(_ js.Value, args []js.Value) any {
		pixels := e.Pixels(args[0].Int())
		out := js.Global().Get("Uint8ClampedArray").New(len(pixels))
		js.CopyBytesToJS(out, pixels)
		return out
	}))
	js.Global().Call("coreReady")
	select {} // the functions stay
}
