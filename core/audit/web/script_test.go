package web

import (
	"math/rand/v2"
	"regexp"
	"strings"
	"testing"

	"github.com/stretchr/testify/assert"
)

// free is anyColor without what stands behind a word or a slash, as the fragment of an address does.
var free = regexp.MustCompile(`(?i)(?:^|[^\w/])#[0-9a-f]{3,8}\b|` + strings.SplitN(anyColor.String(), "|", 2)[1])

// What is asked of every string by hand finds what the expression finds.
func TestStringsThatHoldAColor(t *testing.T) {
	pieces := strings.Split("#|/|abc|ABCD|12|g|_|(|rgb|rgba|A|hsl|oklab|color|-|mix|color-mix(|rgb(|RGB(| |é|lch(|x", "|")
	r := rand.New(rand.NewPCG(1, 2))
	found := 0
	for range 20_000 {
		var b strings.Builder
		for range 1 + r.IntN(6) {
			b.WriteString(pieces[r.IntN(len(pieces))])
		}
		want := free.MatchString(b.String())
		if want {
			found++
		}
		if !assert.Equal(t, want, HoldsColor(b.String()), "%q", b.String()) || !assert.Equal(t, want, HoldsColor([]byte(b.String()))) {
			return
		}
	}
	assert.Greater(t, found, 2000)
}

func TestWhatAStringIsGivenTo(t *testing.T) {
	for line, want := range map[string]string{
		`const ink = `:                "ink",
		`  background: `:              "background",
		`setColor(`:                   "setColor",
		`<a style={`:                  "style",
		`<a style={{ color: `:         "color",
		`fill={`:                      "fill",
		`theme["brand.color"] = `:     "brand.color",
		`theme['a-b'] =`:              "a-b",
		`'fill-color': `:              "fill-color",
		`color?: `:                    "color",
		`--brand: `:                   "brand",
		`const $x$2 =`:                "$x$2",
		`a == `:                       "",
		`return `:                     "",
		`, `:                          "",
		`"": `:                        "",
		`x = `:                        "x",
		`2px = `:                      "px",
		"key:\n\t":                    "key",
		`{`:                           "",
		`=`:                           "",
		`"a": `:                       "a",
		`"half: `:                     "half",
		`open ? "#111111" : closed =`: "closed",
	} {
		assert.Equal(t, want, GivenTo([]byte(line)), line)
	}
}

func TestNamesThatAreGivenColorsAndNone(t *testing.T) {
	for name, want := range map[string]bool{
		"backgroundColor": true, "background-color": true, "BorderLeftColor": true, "fill": true, "theme.stroke": true, "favouriteColour": true, "boxShadow": true,
		"name": false, "colorful": false, "": false, "width": false, "größe": false,
	} {
		assert.Equal(t, want, Paints(name), name)
	}
	for name, want := range map[string]bool{"href": true, "xlinkHref": true, "id": true, "item-id": true, "grid": false, "to": true, "auto": false, "$": true, "baseUrl": true, "querySelectorAll": true, "color": false} {
		assert.Equal(t, want, NoStyle(name), name)
	}
}
