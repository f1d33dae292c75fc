package e2e

import (
	"bytes"
	"encoding/base64"
	"encoding/json"
	"fmt"
	"image"
	"image/jpeg"
	"io/fs"
	"math/rand/v2"
	"strings"
	"testing"
	"time"

	"github.com/go-rod/rod"
	"github.com/stretchr/testify/require"

	"huekeep/cmd/corewasm/engine"
	"huekeep/e2e/browser"
	"huekeep/ui"
)

// photograph is a noisy picture of many values, as JPEG.
func photograph(w, h int) []byte {
	img := image.NewNRGBA(image.Rect(0, 0, w, h))
	random := rand.New(rand.NewPCG(1, 2))
	for i := 0; i < len(img.Pix); i += 4 {
		x, y, n := i/4%w, i/4/w, random.IntN(24)
		img.Pix[i], img.Pix[i+1], img.Pix[i+2], img.Pix[i+3] = uint8(200*x/w+n), uint8(200*y/h+n), uint8(120+n), 255
	}
	var out bytes.Buffer
	_ = jpeg.Encode(&out, img, &jpeg.Options{Quality: 85}) // a buffer does not fail
	return out.Bytes()
}

// BenchmarkTwelveMegapixels opens a picture of 12 megapixels in the browser's core and in the same code compiled for this machine: what
// a look at a press, its measures, a palette, and a step of the tolerance take, and how many times as long in the browser.
func BenchmarkTwelveMegapixels(b *testing.B) {
	workers, err := fs.Glob(ui.Built(), "assets/worker-*.js")
	if err != nil || len(workers) != 1 {
		b.Skip("the interface is not built; run make build")
	}
	site := newSite(b)
	chrome, stop, err := browser.Start()
	if err != nil {
		b.Skip(err)
	}
	defer stop()
	page, err := browser.Open(chrome, site)
	require.NoError(b, err)
	page = page.Timeout(5 * time.Minute)
	file := photograph(4000, 3000)
	asked := [][2]string{
		{"look", `"question":"proof","args":{"id":1,"press":"coated","intent":1,"limit":300,"side":1200}`},
		{"other press", `"question":"proof","args":{"id":1,"press":"newsprint","intent":1,"limit":240,"side":1200}`},
		{"look again", `"question":"proof","args":{"id":1,"press":"coated","intent":1,"limit":300,"side":1200}`},
		{"measures", `"question":"proof","args":{"id":1,"press":"coated","intent":1,"limit":300,"side":1200,"marks":true}`},
		{"palette", `"question":"held","args":{"id":1,"side":1400,"values":["#0E3A53","#E2572B","#F2B632","#4E7D5B","#7A4E7E","#8FC1D4","#C9D1D3","#3B444B"]}`},
		{"distances", `"question":"distances","args":{"id":1,"side":1400,"value":"#7A4E7E"}`},
	}
	for b.Loop() {
		native := engine.New()
		took := map[string]float64{}
		time1 := func(name string, f func()) {
			begin := time.Now()
			f()
			took[name] = time.Since(begin).Seconds()
		}
		time1("decode", func() { native.Open(file) })
		for _, q := range asked {
			var of struct {
				Question string
				Args     json.RawMessage
			}
			require.NoError(b, json.Unmarshal([]byte("{"+q[1]+"}"), &of))
			time1(q[0], func() { require.NotContains(b, string(native.Call(of.Question, of.Args)), `"error"`) })
		}
		v, err := page.Evaluate(&rod.EvalOptions{AwaitPromise: true, ByValue: true, JSArgs: []any{"/" + workers[0], base64.StdEncoding.EncodeToString(file), asked}, JS: `async (url, file, asked) => {
			const worker = new Worker(url, { type: 'module' });
			const send = (m, t = []) => new Promise((resolve, reject) => {
				worker.onmessage = ({ data }) => data.share !== undefined || (data.failed ? reject(new Error(data.failed)) : resolve(data)); // a share says how far it is
				worker.postMessage({ id: 1, ...m }, t);
			});
			await send({ question: 'look', args: '{"value":"#123456"}' }); // the core is there
			const data = Uint8Array.from(atob(file), (c) => c.charCodeAt(0)).buffer;
			const took = {};
			const time = async (name, f) => { const begin = performance.now(); const r = await f(); took[name] = (performance.now() - begin) / 1000; return r; };
			await time('decode', () => send({ picture: data }, [data]));
			let last;
			for (const [name, q] of asked) {
				const { question, args } = JSON.parse('{' + q + '}');
				last = await time(name, async () => {
					const a = JSON.parse((await send({ question, args: JSON.stringify(args), press: args.press })).answer);
					if (a.error) throw new Error(a.error);
					return a;
				});
			}
			// A step of the tolerance, as the page does it: one comparison a pixel.
			const { pixels } = await send({ pixels: last.id });
			const d = new Uint32Array(pixels.buffer), from = new Uint32Array(d.length), to = new Uint32Array(d.length);
			const canvas = document.createElement('canvas');
			[canvas.width, canvas.height] = [last.width, last.height];
			const context = canvas.getContext('2d');
			const image = new ImageData(new Uint8ClampedArray(to.buffer), last.width, last.height);
			await time('mask', async () => {
				for (let n = 0; n < 30; n++) {
					for (let i = 0; i < to.length; i++) to[i] = d[i] >>> 24 <= n * 4 ? from[i] : d[i] | 0xff000000;
					context.putImageData(image, 0, 0);
				}
			});
			took.mask /= 30;
			worker.terminate();
			return took;
		}`})
		require.NoError(b, err)
		for _, name := range []string{"decode", "look", "other press", "look again", "measures", "palette", "distances", "mask"} {
			there := v.Value.Get(name).Num()
			if here, ok := took[name]; ok {
				b.Logf("%-12s %6.0f ms here, %6.0f ms in the browser, %.1f times as long", name, here*1000, there*1000, there/here)
				b.ReportMetric(there/here, fmt.Sprintf("%s/native", name[:4]))
			} else {
				b.Logf("%-12s %6.1f ms in the browser, %.0f a second", name, there*1000, 1/there)
				b.ReportMetric(1/there, "masks/s")
			}
		}
	}
}

// BenchmarkFirstAnswer states how long it takes in the browser until the core that a page starts has answered its first question, as a ratio to
// fetching and compiling its code alone.
func BenchmarkFirstAnswer(b *testing.B) {
	workers, err := fs.Glob(ui.Built(), "assets/worker-*.js")
	if err != nil || len(workers) != 1 {
		b.Skip("the interface is not built; run make build")
	}
	cores, err := fs.Glob(ui.Built(), "assets/core-*.wasm*")
	require.NoError(b, err)
	require.NotEmpty(b, cores)
	site := newSite(b)
	chrome, stop, err := browser.Start()
	if err != nil {
		b.Skip(err)
	}
	defer stop()
	page, err := browser.Open(chrome, site)
	require.NoError(b, err)
	page = page.Timeout(5 * time.Minute)
	answer, compiled := 1e9, 1e9
	for b.Loop() {
		v, err := page.Evaluate(&rod.EvalOptions{AwaitPromise: true, ByValue: true, JSArgs: []any{"/" + workers[0], "/" + strings.TrimSuffix(cores[0], ".br")}, JS: `async (url, core) => {
			const least = { compiled: Infinity, answer: Infinity };
			const time = async (name, f) => { const begin = performance.now(); await f(); least[name] = Math.min(least[name], performance.now() - begin); };
			for (let n = 0; n < 5; n++) {
				await time('compiled', () => WebAssembly.compileStreaming(fetch(core)));
				await time('answer', () => new Promise((resolve, reject) => {
					const worker = new Worker(url, { type: 'module' });
					worker.onmessage = ({ data }) => { worker.terminate(); data.failed ? reject(new Error(data.failed)) : resolve(); };
					worker.postMessage({ id: 1, question: 'look', args: '{"value":"#123456"}' });
				}));
			}
			return least;
		}`})
		require.NoError(b, err)
		answer, compiled = min(answer, v.Value.Get("answer").Num()), min(compiled, v.Value.Get("compiled").Num())
	}
	b.ReportMetric(answer, "ms-to-an-answer")
	b.ReportMetric(answer/compiled, "x-compiling")
}
