package repaint_test

import (
	"archive/zip"
	"bytes"
	"crypto/sha256"
	"encoding/json"
	"fmt"
	"io"
	"strings"
	"testing"
	"unicode/utf8"

	"github.com/stretchr/testify/require"

	"huekeep/core/asbefore"
	"huekeep/core/audit"
	"huekeep/core/audit/audittest"
	"huekeep/core/audit/kinds"
	"huekeep/core/color"
	"huekeep/core/library"
	"huekeep/core/repaint"
	"huekeep/demo"
)

// palette is a library to repaint with: approved builds and inks, companions, one that is retired.
func palette(t *testing.T) audit.Rules {
	r := audittest.Rules("Buoy #E2572B", "Sound #0E3A53", "Old #7A4E7E retired", "Fog #B9C4C9", "Moss #5E7A3A")
	for i := range r.Colors {
		r.Colors[i].ID = int64(i + 1)
	}
	r.Colors[0].Builds = []library.Build{{Press: "coated", Value: color.CMYK{C: 0, M: 78, Y: 90, K: 2}}}
	r.Colors[0].Spots = []library.Spot{{Code: "Quern 118"}}
	r.Colors[0].Companions = []library.Companion{{Kind: "tint", Amount: 40, Permitted: true}}
	r.Colors[2].Successor = r.Colors[0].Ref()
	r.Colors = audit.Allowed(r.Colors)
	r.Neutrals = true
	return r
}

const styles = `:root { --brand: #E1572C; --deep: var(--brand); --soft: color-mix(in srgb, var(--brand) 40%, white) }
.a { color: #7A4E7E; background: rgb(14 58 84 / 50%); border: 1px solid #B9C4C8 !important }
.b { fill: hsl(14 76% 53%); stroke: oklch(0.63 0.18 39); color: var(--deep) }
.c { background: linear-gradient(to left, #E1572C 0%, #0E3A54 100%); outline-color: #123456; color: #5E7A3A }
.text-\[\#E1572C\] { color: #E1572C }
`

const markup = `<!doctype html><html><body><p style="color:#E1572C" class="text-[#E1572C] bg-[#0E3A54]">a</p><svg><rect fill="#7A4E7E" stroke="#0E3A54"/></svg></body></html>`

const drawn = `<svg xmlns="http://www.w3.org/2000/svg"><defs><linearGradient id="g"><stop stop-color="#E1572C"/><stop offset="1" stop-color="#0E3A54"/></linearGradient></defs><path fill="url(#g)" stroke="#7a4e7e"/><text fill="#5E7A3A" fill-opacity=".5">x</text></svg>`

// written tells a file that was written: a text or the parts of an archive to the byte; of what is compressed otherwise nothing, since that
// hangs on the compressor.
func written(t *testing.T, data []byte) string {
	switch {
	case utf8.Valid(data) && len(data) < 2000:
		return string(data)
	case utf8.Valid(data):
		return fmt.Sprintf("%x", sha256.Sum256(data))
	case !bytes.HasPrefix(data, []byte("PK")):
		return "compressed"
	}
	z, err := zip.NewReader(bytes.NewReader(data), int64(len(data)))
	require.NoError(t, err)
	sum := sha256.New()
	for _, f := range z.File {
		in, err := f.Open()
		require.NoError(t, err)
		_, err = io.Copy(sum, in)
		require.NoError(t, err)
		fmt.Fprintln(sum, f.Name)
	}
	return fmt.Sprintf("%x", sum.Sum(nil))
}

// What a plan does to a file is the same in every version, and so is what is told of it.
func TestRepaintedFilesAreAsBefore(t *testing.T) {
	files := []demo.File{{Name: "app.css", Data: []byte(styles)}, {Name: "page.html", Data: []byte(markup)}, {Name: "mark.svg", Data: []byte(drawn)}}
	for _, f := range demo.Files() {
		if !strings.HasSuffix(f.Name, ".mp4") {
			files = append(files, f)
		}
	}
	plans := []repaint.Plan{
		{},
		{Colors: []repaint.Step{{From: "#E1572C", To: "Sound"}, {From: "#0E3A54", To: "Buoy"}, {From: "#7A4E7E", To: "Moss"}, {From: "#123456", To: "Fog"}}},
		{Colors: []repaint.Step{{From: "#E1572C", To: "Buoy"}, {From: "#E2572B", To: "Moss"}, {From: "0 78 90 2", To: "Fog"}}, Link: true},
		{Colors: []repaint.Step{{From: "#5E7A3A", To: "Buoy, 40 % tint"}, {From: "#E1572C", To: "Moss"}}, Stay: map[string]string{"text-[#E1572C]": "it stands elsewhere"}},
		{Colors: []repaint.Step{{From: "#E1572C", To: "Nobody"}}},
	}
	var b strings.Builder
	for _, f := range files {
		for i, plan := range plans {
			r, err := repaint.FileBy(f.Name, f.Data, palette(t), func(before audit.Report) repaint.Plan {
				if len(plan.Colors) == 0 {
					return repaint.Usual(before)
				}
				return plan
			}, kinds.Options{})
			if err != nil {
				fmt.Fprintf(&b, "%s, plan %d: no, %v\n", f.Name, i, err)
				continue
			}
			fmt.Fprintf(&b, "%s, plan %d: %d uses, %+v, %d findings of %d left\n%s\n", f.Name, i, r.Uses, r.Parts, r.After.Findings(), r.Before.Findings(), written(t, r.Data))
			for k, told := range []any{r.Changes, r.Left} {
				text, err := json.Marshal(told)
				require.NoError(t, err)
				if len(text) > 3000 {
					text = fmt.Appendf(nil, "%x", sha256.Sum256(text))
				}
				fmt.Fprintf(&b, "  %s: %s\n", []string{"changed", "left"}[k], text)
			}
			all, held, err := repaint.Classes(f.Name, f.Data, palette(t), func(audit.Report) repaint.Plan { return plan }, kinds.Options{})
			fmt.Fprintf(&b, "  classes %v, held %v, %v\n", all, held, err)
		}
	}
	asbefore.Is(t, "repainted.txt", b.String())
}

// So is how colors are told apart for "see where", and how lines of old and new are understood.
func TestCodesAndPairsAreAsBefore(t *testing.T) {
	var b, sheet strings.Builder
	var names []string
	for i := range repaint.MostCodes + 3 {
		c := color.RGB8{R: uint8(i), G: uint8(2 * i), B: 200}
		names = append(names, c.Hex())
		fmt.Fprintf(&sheet, "a{color:%s}\n", c.Hex())
	}
	coded, by, err := repaint.Coded("a.css", []byte(sheet.String()), names, kinds.Options{})
	require.NoError(t, err)
	fmt.Fprintf(&b, "%s\n", coded)
	for _, c := range by {
		fmt.Fprintf(&b, "%s %s %v\n", c.Name, c.RGB.Hex(), c.Builds[0].Value)
	}
	for _, found := range []string{"#E1572C", "#0E3A54", "#b9c4c8", "#000000"} {
		for _, f := range []struct{ name, text string }{{"app.css", styles}, {"mark.svg", drawn}, {"grays.css", "a{color:#000;fill:#B9C4C8;stroke:#777}"}} {
			alone, gray, err := repaint.Apart(f.name, []byte(f.text), found, kinds.Options{})
			fmt.Fprintf(&b, "%s of %s: %v\n%s\n%s\n", found, f.name, err, alone, gray)
		}
	}
	colors := palette(t).Colors
	for _, text := range []string{"#1D6F6A → Buoy", "Old to Moss", "Old becomes Buoy", "#E2572B\t#0E3A53", "#111 #0E3A53", "rgb(1, 2, 3), Buoy", "1 2 3 Sound", "Buoy = Buoy", "Nobody -> Buoy", "#111 -> Nobody",
		"#111 -> Old", "#111 | Fog | Moss", "Sound to Moss to Fog", "#222: Sound\n#222: Moss\n#222 → Sound", "\n  \n#333;Fog\r\n#444,Fog", strings.Repeat("x", 1001), "#555", "a b c d", "0 78 90 2 → Fog", "#666 is now Buoy, 40 % tint"} {
		for _, p := range repaint.ReadPairs(text, colors) {
			fmt.Fprintf(&b, "%d %.60q: %q becomes %q %s\n", p.Line, p.Text, p.From, p.To, p.Why)
		}
	}
	now := audittest.Rules("Buoy #E2572C", "Sound #0E3A53", "Reed #998877", "Fog #B9C4C0").Colors
	for _, p := range append(repaint.ByPosition(colors, now), repaint.ByPosition(now, colors[:2])...) {
		fmt.Fprintf(&b, "%d %q: %q becomes %q %s\n", p.Line, p.Text, p.From, p.To, p.Why)
	}
	stay := map[string]string{"kept": "before"}
	repaint.Stay(stay, []string{"kept", "a", "b"}, "x.html", true)
	repaint.Stay(stay, []string{"b", "c"}, "y.html", false)
	fmt.Fprintf(&b, "%v\n", stay)
	asbefore.Is(t, "pairs.txt", b.String())
}
