package e2e

import (
	"encoding/json"
	"fmt"
	"io/fs"
	"regexp"
	"testing"

	"github.com/go-rod/rod"
	"github.com/go-rod/rod/lib/input"
	"github.com/go-rod/rod/lib/proto"
	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"huekeep/cmd/corewasm/engine"
	"huekeep/ui"
)

// questions are asked in the browser and of the same code compiled for this machine.
func questions() [][2]string {
	var out [][2]string
	for _, c := range []string{"#0E3A53", "#E2572B", "#F2B632", "#FFFFFF", "#000", "oklch(0.7 0.3 150)", "navy", "nonsense", "cmyk(1 2 3 4)"} {
		q, _ := json.Marshal(c)
		for _, press := range []string{"", "uncoated", "newsprint"} {
			out = append(out, [2]string{"look", fmt.Sprintf(`{"value":%s,"press":%q,"from":"#123456"}`, q, press)})
		}
		out = append(out,
			[2]string{"inks", fmt.Sprintf(`{"value":%s,"stock":"uncoated","n":7}`, q)},
			[2]string{"scale", fmt.Sprintf(`{"value":%s,"percents":[80,60,40,20]}`, q)},
			[2]string{"contrast", fmt.Sprintf(`{"value":%s,"ground":"#E8E8E8","want":4.5}`, q)})
		for _, scheme := range []string{"monochromatic", "split complementary", "tetradic", "square dance"} {
			for _, wheel := range []string{"perceptual", "painter"} {
				out = append(out, [2]string{"harmony", fmt.Sprintf(`{"value":%s,"wheel":%q,"scheme":%q}`, q, wheel, scheme)})
			}
		}
	}
	for l := 0.0; l <= 1; l += 0.1 {
		out = append(out, [2]string{"look", fmt.Sprintf(`{"oklch":{"l":%g,"c":%g,"h":%g}}`, l, l/4, l*360)})
	}
	return append(out, [2]string{"vision", `{"values":["#B8442A","#5E7D26","#0E3A53"],"kind":"deuteranopia","severity":0.8}`},
		[2]string{"nothing", `{}`}, [2]string{"sample", `{"id":9}`})
}

func TestTheBrowserComputesWhatTheServerDoes(t *testing.T) {
	u := visit(t)
	u.enter("keeper")
	workers, err := fs.Glob(ui.Built(), "assets/worker-*.js")
	require.NoError(t, err)
	require.Len(t, workers, 1)
	asked := questions()
	v, err := u.page.Evaluate(&rod.EvalOptions{AwaitPromise: true, ByValue: true, JSArgs: []any{"/" + workers[0], asked}, JS: `async (url, asked) => {
		const begin = performance.now();
		const worker = new Worker(url, { type: 'module' });
		const answers = [];
		let first = 0, looks = 0, spent = 0;
		for (const [question, args] of asked) {
			const at = performance.now();
			answers.push(await new Promise((resolve) => {
				worker.onmessage = ({ data }) => resolve(data.failed ? 'failed: ' + data.failed : data.answer);
				worker.postMessage({ id: 1, question, args, press: JSON.parse(args).press });
			}));
			first ||= performance.now() - begin;
			if (question === 'look' && answers.length > 6) { looks++; spent += performance.now() - at; }
		}
		return { answers, first, look: spent / looks };
	}`})
	require.NoError(t, err)
	native := engine.New()
	answers := v.Value.Get("answers").Arr()
	require.Len(t, answers, len(asked))
	for i, q := range asked {
		// Floating point may differ in its last bits where one processor fuses a multiplication with an addition.
		requireAlike(t, string(native.Call(q[0], []byte(q[1]))), answers[i].Str(), q)
	}
	served := 0
	for _, name := range []string{"assets/core-*.wasm.br", "assets/coated-*.icc.br"} { // other presses come when they are asked for
		found, err := fs.Glob(ui.Built(), name)
		require.NoError(t, err)
		require.Len(t, found, 1, name)
		data, err := fs.ReadFile(ui.Built(), found[0])
		require.NoError(t, err)
		served += len(data)
	}
	assert.Less(t, served, 1_300_000, "bytes before the first answer")
	t.Logf("%.2f MB and first answer after %.0f ms; a color with its build and inks takes %.1f ms, a frame lasts 16", float64(served)/1e6, v.Value.Get("first").Num(), v.Value.Get("look").Num())
}

func requireAlike(t *testing.T, want, got string, question [2]string) {
	t.Helper()
	var a, b any
	require.NoError(t, json.Unmarshal([]byte(want), &a))
	require.NoError(t, json.Unmarshal([]byte(got), &b), got)
	var alike func(a, b any) bool
	alike = func(a, b any) bool {
		switch x := a.(type) {
		case float64:
			y, ok := b.(float64)
			return ok && (x-y < 1e-9 && y-x < 1e-9)
		case []any:
			y, ok := b.([]any)
			if !ok || len(x) != len(y) {
				return false
			}
			for i := range x {
				if !alike(x[i], y[i]) {
					return false
				}
			}
			return true
		case map[string]any:
			y, ok := b.(map[string]any)
			if !ok || len(x) != len(y) {
				return false
			}
			for k := range x {
				if !alike(x[k], y[k]) {
					return false
				}
			}
			return true
		}
		return a == b
	}
	require.True(t, alike(a, b), "%v: %s, want %s", question, got, want)
}

// Dragging shows every value at once; the amendment then takes what was dragged to.
func TestDraggingAColorShowsItsValuesLive(t *testing.T) {
	u := visit(t)
	u.enter("keeper")
	u.open("/h/1/library/2")
	u.click("aside button", "^amend$")
	chroma := u.find("aside form label", "Chroma").MustElement("input")
	u.until(`() => [...document.querySelectorAll('aside form label')].some(l => l.textContent.includes('Chroma') && l.textContent.includes('0.18'))`)
	require.NoError(t, chroma.Focus())
	require.NoError(t, u.page.Keyboard.Press(input.End))
	u.see("aside form", "Outside sRGB")
	u.see("aside form", "Out of gamut on coated paper")
	value := u.page.MustElement("aside form input.font-mono").MustProperty("value").Str()
	assert.NotEqual(t, "#E2572B", value)
	assert.Regexp(t, `^oklch\(0\.\d+ 0\.33 `, value, "beyond sRGB it is what it was dragged to")
	u.see("aside form", "plain screens show #")
	assert.Regexp(t, `CMYK\s*\d+ \d+ \d+ \d+`, u.find("aside form dl", "CMYK").MustText())
	u.see("aside form", "Holding the old value")
	u.click("aside button", "Amend to "+regexp.QuoteMeta(value))
	u.see("[role=status]", "Buoy is "+regexp.QuoteMeta(value)+" now")
	u.see("aside dl", regexp.QuoteMeta(value))
	u.see("aside dl", "this screen cannot show it; shown as #[0-9A-F]{6}, [\\d.]+ \\w+ from it")
	u.see("[role=row]", "beyond sRGB")
	assert.Regexp(t, `master`, u.page.MustElement("aside dl.values").MustText())
	u.accessible("a color beyond sRGB")

	// On a screen that can, its face is the color itself, cut to what others show.
	require.NoError(t, proto.EmulationSetEmulatedMedia{Features: []*proto.EmulationMediaFeature{{Name: "color-gamut", Value: "p3"}}}.Call(u.page))
	u.see("aside dl", "plain screens show #")
	assert.Contains(t, u.page.MustElement("aside [role=img] span").MustEval(`() => this.getAttribute('style')`).Str(), "oklch(")
	require.NoError(t, proto.EmulationSetEmulatedMedia{}.Call(u.page))
	u.click("header summary", "Keeper") // what was done waits there for a day; in the corner it is gone after some seconds
	u.click("header li button", "take back")
	u.see("aside .value", "^#E2572B$")

	// Pasted, it is on the tray as it is, and in the library.
	u.open("/h/1/gather")
	u.paste("#paste", "Flare color(display-p3 0.1 0.9 0.3)")
	u.see("#understood", "1 color understood")
	u.click("button", "Put 1 color on the tray")
	u.see("aside", regexp.QuoteMeta("color(display-p3 0.1 0.9 0.3)"))
	u.click("aside button", "Admit 1 color")
	u.see("[role=status]", "Flare admitted")
	u.open("/h/1/library")
	u.click("[role=row] a", "Flare")
	u.see("aside dl", regexp.QuoteMeta("color(display-p3 0.1 0.9 0.3)"))
	u.see("aside .value", "^#00E350$")
}
