package datafile_test

import (
	"bytes"
	"fmt"
	"strings"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"huekeep/core/audit/kinds"
	"huekeep/core/hostile"
)

// kept reads a JSON text, and the same as if it were part of an animation, of which nothing is forgotten while it is read.
func kept(text string) (usual, whole []string, err error) {
	for i, in := range []string{`{"of":1,"in":` + text + `}`, `{"fr":1,"in":` + text + `}`} {
		s, err := kinds.Read("x.json", []byte(in))
		if err != nil {
			return nil, nil, err
		}
		var list []string
		for _, u := range s.Uses {
			_, path, _ := strings.Cut(u.Where, ", ")
			list = append(list, fmt.Sprint(u.Value, " ", u.Color.Name(), " ", u.Alpha, " ", path, " ", u.Why, " ", u.Fixed, " ", u.Link, " ", u.Define))
		}
		if i == 0 {
			usual = list
		} else {
			whole = list
		}
	}
	return usual, whole, nil
}

var objects = []string{
	`{"a":{"$type":"color","$value":{"colorSpace":"srgb","components":[0.88,0.34,0.17],"alpha":1,"hex":"#e2572b"}}}`,
	`{"a":{"type":"color","value":{"colorSpace":"oklch","components":[0.6,0.2,30]}},"b":{"value":[1,2]}}`,
	`{"$type":"color","group":{"in":{"$value":"{a.b}"},"deep":[{"x":[{"$value":"tan"}]}]}}`,
	`{"s":{"$type":"shadow","$value":[{"color":{"colorSpace":"srgb","components":[0,0,0.5]},"blur":{"value":4,"unit":"px"}}]}}`,
	`{"x":{"r":1,"g":0.5,"b":0.2},"y":[{"r":255,"g":87,"b":43,"a":1}],"z":{"g":1,"r":2,"b":3}}`,
	`{"fill":[0.1,0.2,0.3],"backgroundColor":[[1,2,3],[0.5,0.5,0.5,1]],"fill2":[0.1,0.2,0.3],"colors":["tan",["red"]]}`,
	`{"brand":{"color":{"main":"tan","list":["navy",{"x":"teal","y":["lime"]}]}},"fill":{"x":"E2572B"}}`,
	`{"words":{"a":"tan","b":["navy",1,{"c":"teal"}]},"n":[1,2,3],"t":[true,null]}`,
	`{"a":[1,[2,["#E2572B",{"b":"x rgb(1 2 3)"}]]],"q\u0022":{"c":["tan"]},"c\u006flor":["tan"]}`,
	`{"a":{"border":"1px solid tan","stroke":{"deep":{"deeper":["olive"]}}},"hash":"#123456","url":"a.png#abc"}`,
}

// What cannot have a color is forgotten while a text is read; that must change nothing.
func TestWhatIsForgottenOfJSON(t *testing.T) {
	some := 0
	for _, text := range objects {
		usual, whole, err := kept(text)
		require.NoError(t, err, text)
		assert.Equal(t, whole, usual, text)
		some += len(usual)
	}
	assert.Greater(t, some, 10)
}

func FuzzForgotten(f *testing.F) {
	for _, text := range objects {
		f.Add([]byte(text))
	}
	f.Fuzz(func(t *testing.T, text []byte) {
		defer hostile.Timely(t, len(text))()
		if len(text) > 1<<12 || bytes.Contains(text, []byte("layers")) {
			t.Skip()
		}
		usual, whole, err := kept(string(text))
		if err != nil {
			t.Skip()
		}
		require.Equal(t, whole, usual)
	})
}
