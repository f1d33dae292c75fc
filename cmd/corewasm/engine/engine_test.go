package engine_test

import (
	"bytes"
	"encoding/json"
	"fmt"
	"image"
	"image/color"
	"image/png"
	"strings"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"huekeep/cmd/corewasm/engine"
	"huekeep/core/proof"
)

func TestQuestions(t *testing.T) {
	e := engine.New()
	for _, c := range []struct{ question, args, part string }{
		{"look", `{"value":"#E2572B"}`, `"hex":"#E2572B","rgb":[226,87,43],"hsl":[14,76,53]`},
		{"look", `{"oklch":{"l":0.6,"c":0.3,"h":150}}`, `"outside":true`},
		{"look", `{"value":"#E2572B"}`, `"hsb":[14,81,89]`},
		{"look", `{"value":"#E2572B"}`, `"outside":false,"exact":""`},
		{"look", `{"value":"color(display-p3 0.1 0.9 0.3)","from":"color(display-p3 0.1 0.9 0.3)"}`, `"exact":"color(display-p3 0.1 0.9 0.3)"`},
		{"look", `{"oklch":{"l":0.8,"c":0.3,"h":145}}`, `"outside":true,"exact":"oklch(0.8 0.3 145)"`},
		{"look", `{"cmyk":[0,78,94,5]}`, `"hex":"#E2572B"`},
		{"look", `{"cmyk":[0,78,194,5]}`, `an ink lies`},
		{"look", `{"oklch":{"l":2,"c":0,"h":0}}`, `"error":"lightness lies`},
		{"look", `{"value":"rgb(300 0 0)"}`, `red is 300, over 255`},
		{"look", `{"value":"red","press":"silk"}`, `there is no press condition`},
		{"look", `{"value":"red","from":"x"}`, `is not a color value`},
		{"specimen", `{"values":["#0E3A53","#E2572B","#F7F5F0"]}`, `[{"at":0,"plain":"#FFFFFF","on":[{"at":2,"ratio":11.0`},
		{"specimen", `{"values":["#0E3A53","#E2572B"]}`, `"shown":"3.2","use":"large text and signs only"`},
		{"specimen", `{"values":[` + strings.Repeat(`"#000",`, 120) + `"#FFF"]}`, `at most 120 are held against each other`},
		{"pair", `{"type":"#E2572B","ground":"#0E3A53","among":["#F7F5F0","#000"]}`, `"shown":"3.22","want":4.5,"type":{"hex":"#FF754A","shown":"4.5","deltaE":8.`},
		{"pair", `{"type":"#E2572B","ground":"#0E3A53","among":["#F7F5F0","#000"]}`, `"among":[{"at":0,"ratio":11.0`},
		{"pair", `{"type":"#000","ground":"#FFF","among":[]}`, `"shown":"21.00","want":7,"among":[]`},
		{"pair", `{"type":"#777","ground":"#777","want":7,"among":[]}`, `"want":7,"among":[]`},
		{"keepapart", `{"a":"#C00000","b":"#608000","kind":"deuteranopia","severity":1}`, `"ok":true`},
		{"keepapart", `{"a":"#C00000","b":"#608000","kind":"seen","severity":1}`, `there is no deficiency`},
		{"names", `{"values":["#00204A","#00204B","#FFF"],"taken":["WHITE"]}`, `["Very dark blue","Very dark blue 2","White 2"]`},
		{"look", `nonsense`, `could not be read`},
		{"inks", `{"value":"#E2572B","n":2}`, `[{"code":"QN-`},
		{"harmony", `{"value":"#E2572B","wheel":"perceptual","scheme":"triadic"}`, `{"members":[{"hex":"#E2572B","turn":0`},
		{"harmony", `{"value":"#0000FF","wheel":"perceptual","scheme":"complementary","spread":true}`, `"note":""`},
		{"harmony", `{"value":"#808080","wheel":"perceptual","scheme":"triadic"}`, `no hue to turn`},
		{"harmony", `{"value":"#E2572B","wheel":"perceptual","members":[{"hex":"#000000"},{"hex":"#0E3A53","free":true}]}`, `"hex":"#0E3A53"`},
		{"scale", `{"value":"#E2572B","percents":[50]}`, `"master":true`},
		{"gradients", `{"values":["#0E3A53","#8FC1D4","#E2572B","#F2B632"]}`, `"kind":"quiet","space":"oklab","at":[0,1]`},
		{"written", `{"value":"#E2572B"}`, `"hsl(14.43 75.93% 52.75%)"`},
		{"written", `{"value":"color(display-p3 0.93 0.72 0.13)"}`, `"color(display-p3 0.93 0.72 0.13)"`},
		{"contrast", `{"value":"#F2B632","ground":"#FFF","want":4.5}`, `"nearest":"#`},
		{"near", `{"values":["#E1572C"],"among":["#0E3A53","#E2572B"]}`, `[{"at":1,"deltaE":0.2`},
		{"near", `{"values":["red"],"among":[]}`, `"at":-1`},
		{"apart", `{"values":["#E2572B"],"among":["#E2572B","#0E3A53"]}`, `[[{"deltaE":0,"word":"identical"},{"deltaE":5`},
		{"vision", `{"values":["red"],"kind":"tunnel"}`, `there is no deficiency`},
		{"recipe", `{}`, `no answer to \"recipe\"`},
	} {
		assert.Contains(t, string(e.Call(c.question, []byte(c.args))), c.part, "%s %s", c.question, c.args)
	}
}

func TestTheBookOfAHouse(t *testing.T) {
	e := engine.New()
	book, _ := json.Marshal(engine.BookArgs{Name: "Own", CSV: "code,name,class,coated L,coated a,coated b,uncoated L,uncoated a,uncoated b\nHX 1,Red,solid,56,54,52,58,48,44\n"})
	assert.Equal(t, "true", string(e.Call("book", book)))
	assert.Contains(t, string(e.Call("inks", []byte(`{"value":"#E2572B","n":3}`))), `"code":"HX 1"`)
	assert.Contains(t, string(e.Call("book", []byte(`{"name":"x","csv":"nonsense"}`))), "error")
	assert.Equal(t, "true", string(e.Call("book", []byte(`{}`))))
	assert.Contains(t, string(e.Call("inks", []byte(`{"value":"#E2572B","n":1}`))), `"code":"QN-0076"`)
}

func TestPicturesAreKeptUntilClosed(t *testing.T) {
	img := image.NewNRGBA(image.Rect(0, 0, 90, 30))
	for x := range 90 {
		for y := range 30 {
			img.SetNRGBA(x, y, []color.NRGBA{{14, 58, 83, 255}, {226, 87, 43, 255}, {242, 182, 50, 255}}[x/30])
		}
	}
	var b bytes.Buffer
	require.NoError(t, png.Encode(&b, img))
	e := engine.New()
	var o engine.Opened
	require.NoError(t, json.Unmarshal(e.Open(b.Bytes()), &o))
	assert.Equal(t, []int{90, 30, 3}, []int{o.Width, o.Height, len(o.Chart)})
	assert.Equal(t, img.Pix, e.Pixels(o.ID))
	assert.JSONEq(t, `{"hex":"#E2572B","x":45,"y":15,"share":0}`, string(e.Call("sample", []byte(`{"id":1,"x":45,"y":15,"window":5}`))))
	assert.Contains(t, string(e.Call("colors", []byte(`{"id":1,"n":6}`))), `"hex":"#F2B632"`)
	assert.Contains(t, string(e.Call("sample", []byte(`{"id":1,"x":900,"y":0,"window":1}`))), "outside the picture")
	var printed engine.Proofed
	ask := fmt.Sprintf(`{"id":%d,"press":"newsprint","intent":1,"limit":240,"side":1000,"marks":true}`, o.ID)
	require.NoError(t, json.Unmarshal(e.Call("proof", []byte(ask)), &printed))
	assert.Len(t, e.Pixels(printed.Print), 4*printed.Width*printed.Height)
	assert.Len(t, e.Pixels(printed.Ink), 4*printed.Width*printed.Height)
	for wrong, why := range map[string]string{
		`"press":"silk","intent":1,"limit":240,"side":9`: "no press condition", `"press":"coated","intent":9,"limit":240,"side":9`: "no rendering intent",
		`"press":"coated","intent":1,"limit":0,"side":9`: "between 0 and 400", `"press":"coated","intent":1,"limit":240,"side":0`: "cannot be made",
	} {
		assert.Contains(t, string(e.Call("proof", fmt.Appendf(nil, `{"id":%d,%s}`, o.ID, wrong))), why)
	}
	// A palette held against it: all three colors are there; in their place they are what the palette has.
	var held engine.HeldAnswer
	require.NoError(t, json.Unmarshal(e.Call("held", fmt.Appendf(nil, `{"id":%d,"side":1000,"values":["#0E3A53","#E0552A","#00FF00"]}`, o.ID)), &held))
	assert.InDelta(t, 1.0/3, held.Matches[0].Share, 1e-9)
	assert.Equal(t, []any{"#E2572B", 0.0}, []any{held.Matches[1].Own, held.Matches[2].Share})
	assert.Equal(t, "#F2B632", held.Unanswered[0].Area.Own)
	var made engine.Reduced
	require.NoError(t, json.Unmarshal(e.Call("inplace", fmt.Appendf(nil, `{"id":%d,"side":0,"only":-1}`, o.ID)), &made))
	assert.Equal(t, []byte{0xE0, 0x55, 0x2A, 255}, e.Pixels(made.ID)[4*45:4*45+4])
	require.NoError(t, json.Unmarshal(e.Call("distances", fmt.Appendf(nil, `{"id":%d,"side":1000,"value":"#E2572B"}`, o.ID)), &made))
	assert.Equal(t, byte(0), e.Pixels(made.ID)[4*45+3])
	var seen engine.SeenAnswer
	require.NoError(t, json.Unmarshal(e.Call("seen", fmt.Appendf(nil, `{"id":%d,"side":1000,"kind":"achromatopsia","severity":1}`, o.ID)), &seen))
	gray := e.Pixels(seen.Seen.ID)
	assert.Equal(t, gray[0], gray[1])
	assert.Equal(t, img.Pix, e.Pixels(seen.Ordinary.ID))
	for q, why := range map[string]string{`"held" {"id":%d,"side":9,"values":[]}`: "palette of 0 colors", `"held" {"id":%d,"side":0,"values":["#000000"]}`: "cannot be made",
		`"distances" {"id":%d,"side":9,"value":"blue"}`: "blue", `"seen" {"id":%d,"side":9,"kind":"cyclopia","severity":1}`: "no deficiency"} {
		var name string
		_, err := fmt.Sscanf(q, "%q", &name)
		require.NoError(t, err)
		args := fmt.Sprintf(q[strings.Index(q, "{"):], o.ID)
		assert.Contains(t, string(e.Call(name, []byte(args))), why)
	}
	assert.Equal(t, "true", string(e.Call("close", []byte(`{"id":1}`))))
	assert.Contains(t, string(e.Call("colors", []byte(`{"id":1,"n":6}`))), "no longer open")
	assert.Nil(t, e.Pixels(1))
	assert.Contains(t, string(e.Open([]byte("x"))), "error")

	// What sRGB does not hold is told beside what plain screens show.
	wide, err := proof.WriteP3(img)
	require.NoError(t, err)
	require.NoError(t, json.Unmarshal(e.Open(wide), &o))
	p3 := "color(display-p3 0.949 0.7137 0.1961)"
	assert.Equal(t, p3, o.Chart[2].Wide)
	assert.Empty(t, o.Chart[1].Wide, "it has that one")
	sampled := string(e.Call("sample", fmt.Appendf(nil, `{"id":%d,"x":75,"y":15,"window":5}`, o.ID)))
	assert.Contains(t, sampled, p3)
	assert.Contains(t, string(e.Call("colors", fmt.Appendf(nil, `{"id":%d,"n":6}`, o.ID))), p3)
	assert.Contains(t, string(e.Call("near", fmt.Appendf(nil, `{"values":[%q],"among":["#FDB300",%q]}`, p3, p3))), `"at":1,"deltaE":0,`)
}

func TestEveryQuestionSurvivesOddArguments(t *testing.T) {
	e := engine.New()
	for _, q := range engine.Questions() {
		for _, args := range []string{``, `null`, `{}`, `[]`, `{"value":null}`, `{"id":-1,"n":-5,"x":1e9}`, `{"n":1e300}`, `{"value":"#123456","n":-3,"percents":[-1,1e9]}`} {
			assert.True(t, json.Valid(e.Call(q, []byte(args))), "%s %s", q, args)
		}
	}
}
