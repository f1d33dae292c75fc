package datafile

import (
	"io"
	"strings"
	"testing"

	"github.com/stretchr/testify/require"
	"github.com/tdewolff/parse/v2"
	jsonlex "github.com/tdewolff/parse/v2/json"

	"huekeep/core/hostile"
)

// FuzzJSONText holds the reader of JSON to another lexer: the same values at the same bytes, and a text is wrong for both or for none.
func FuzzJSONText(f *testing.F) {
	for _, text := range []string{
		`{"a":[1,-2.5e+3,0,"x\"y\\",true,false,null,{}],"b":{"c":"#E2572B"}}`, " [ ] ", `{"a" : 1 , "b":[ ]}`, `1 2`, `"abc`, `{"a":`, `{{}`, `[1,]`, `{,"a":1}`, `[1 2]`,
		"{\"a\\", "[\"\x00\"]", `-`, `[1.,2]`, `1e`, `tru`, `[tru]`, `nul`, `{"a"1}`, `}`, `]`, `{]`, `[}`, ``, "\ufeff{}", `{"a":{}"b":1}`, `[01]`, `["\\\\\"", 2]`,
	} {
		f.Add(text)
	}
	f.Fuzz(func(t *testing.T, text string) {
		defer hostile.Timely(t, len(text))()
		type value struct {
			kind       byte
			start, end int
		}
		var ours, others []value
		j := jsonText{data: text}
		for {
			kind := j.next()
			if kind == jsonEnd || kind == jsonWrong {
				ours = append(ours, value{kind: kind})
				break
			}
			ours = append(ours, value{kind, j.start, j.end})
			if kind == '"' || kind == jsonKey {
				require.Equal(t, strings.ContainsAny(text[j.start:j.end], `#({\`), j.marked, text)
			}
		}
		in := parse.NewInputString(text)
		p := jsonlex.NewParser(in)
		kinds := map[jsonlex.GrammarType]byte{jsonlex.StartObjectGrammar: '{', jsonlex.EndObjectGrammar: '}', jsonlex.StartArrayGrammar: '[', jsonlex.EndArrayGrammar: ']',
			jsonlex.StringGrammar: '"', jsonlex.NumberGrammar: '0', jsonlex.LiteralGrammar: jsonWord}
		for {
			g, raw := p.Next()
			if g == jsonlex.ErrorGrammar {
				end := value{kind: jsonWrong}
				if p.Err() == io.EOF {
					end.kind = jsonEnd
				}
				others = append(others, end)
				break
			}
			v := value{kind: kinds[g], end: in.Offset()}
			v.start = v.end - len(raw)
			if g == jsonlex.StringGrammar && p.State() == jsonlex.ObjectValueState { // a key is told with its colon
				v = value{jsonKey, v.start, v.start + len(raw)}
				v.start = strings.LastIndex(text[:in.Offset()-1], string(raw))
				v.end = v.start + len(raw)
			}
			others = append(others, v)
		}
		require.Equal(t, others, ours, text)
	})
}
