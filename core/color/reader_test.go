package color_test

import (
	"errors"
	"fmt"
	"math/rand/v2"
	"strings"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"huekeep/core/color"
)

// said is what was understood of a line: "Deep Sound #0E3A53 + 96 50 20 64", "Deep Sound ? HSB HSL", "-" for words, "!" for what is wrong.
func said(l color.Line) string {
	var unsure *color.Unsure
	out := l.Name
	switch {
	case errors.Is(l.Err, color.ErrWords):
		return "-"
	case errors.As(l.Err, &unsure):
		out += " ?"
		for _, r := range unsure.Readings {
			out += " " + strings.TrimPrefix(r.As, "as ")
		}
	case errors.Is(l.Err, color.ErrInkOnly):
	case l.Err != nil:
		return "!"
	default:
		out += " " + l.RGB.Hex()
	}
	if l.CMYK != nil {
		out += " + " + l.CMYK.String()
		if l.Paper != "" {
			out += " " + l.Paper
		}
	}
	return strings.TrimSpace(out)
}

func TestWhatPeopleWrite(t *testing.T) {
	const sound, build = "Deep Sound #0E3A53", "Deep Sound + 96 50 20 64"
	for written, want := range map[string]string{
		// labels, with every mark between
		"Deep Sound 0x0E3A53": sound, "Deep Sound HEX: 0E3A53": sound, "Deep Sound - Hex code #0E3A53": sound, "Deep Sound html #0E3A53": sound, "Deep Sound web: 0E3A53": sound,
		"Deep Sound RGB 14 58 83": sound, "Deep Sound sRGB: 14, 58, 83": sound, "Deep Sound RGB (14 | 58 | 83)": sound, "Deep Sound RGB 14.58.83": sound, "Deep Sound R: 14 G: 58 B: 83": sound,
		"Deep Sound red 14 green 58 blue 83": sound, "Deep Sound R=14, G=58, B=83": sound, "Deep Sound 14/58/83": sound, "Deep Sound 14.58.83": sound, "Deep Sound (14, 58, 83)": sound,
		"RGB 14 58 83 Deep Sound": sound, "Deep Sound;14;58;83": sound, "Deep Sound rgb 5.5% 22.7% 32.5%": sound,
		"Deep Sound CMYK 96 50 20 64": build, "Deep Sound C96 M50 Y20 K64": build, "Deep Sound cyan 96 magenta 50 yellow 20 black 64": build, "Deep Sound cyan: 96% magenta: 50% yellow: 20% key: 64%": build,
		"Deep Sound 96 50 20 64": build, "Deep Sound 96/50/20/64": build, "Deep Sound 96, 50, 20, 64": build, "Deep Sound 4c 96 50 20 64": build, "Deep Sound 4C: 96/50/20/64": build,
		"Deep Sound process 96 50 20 64": build, "Deep Sound CMYK (96/50/20/64)": build, "Deep Sound CMYK 96 50 20 64 (uncoated)": build + " uncoated", "Deep Sound CMYK 96 50 20 64 on coated paper": build + " coated",
		"Deep Sound HSL 202 71 19": sound, "Deep Sound H202 S71 L19": sound, "Deep Sound hue 202 saturation 71 lightness 19": sound, "Deep Sound HSL 202\u00b0 71% 19%": sound,
		"Deep Sound HSB 202 83 33": "Deep Sound #0E3B54", "Deep Sound H202 S83 B33": "Deep Sound #0E3B54", "Deep Sound hue 202 sat 83 brightness 33": "Deep Sound #0E3B54",
		"Deep Sound L*a*b* 23.1 -7.5 -19.4": "Deep Sound #123B54", "Deep Sound L 23 a -7 b -19": "Deep Sound #143B53", "Deep Sound CIELAB 23/-7/-19": "Deep Sound #143B53",
		"Gray 40%": "+ 0 0 0 40", "40 % black": "+ 0 0 0 40", "K40": "+ 0 0 0 40", "Warm grey 60% black": "Warm grey + 0 0 0 60", "Shade grey: 35 %": "Shade + 0 0 0 35",
		"Fog 12,5 40,2 3,1 10": "Fog + 12.5 40.2 3.1 10", "Fog CMYK 12,5 40,2 3,1 10,0": "Fog + 12.5 40.2 3.1 10", "Fog 12,5,40": "Fog #0C0528",
		"Deep Sound 96C 50M 20Y 64K": build, "Deep Sound 96% C, 50% M, 20% Y, 64% K": build, "Deep Sound 14R 58G 83B": sound,
		"Lab: L=23 a=-7 b=-19": "#143B53", "Deep Sound \u2192 #0E3A53": sound, "Deep Sound: hex=#0E3A53, rgb=(14, 58, 83), cmyk=(96, 50, 20, 64)": sound + " + 96 50 20 64",
		"Deep Sound (RGB 14/58/83, #0E3A53)": sound, "#0E3A53 (Deep Sound)": sound, "Rich black 60 40 40 100": "Rich black + 60 40 40 100", "Gray 128 128 128": "Gray #808080",
		"50% gray #808080": "50% gray #808080", "Deep Sound hex 0E3A53 | RGB 14,58,83 | CMYK 96,50,20,64": sound + " + 96 50 20 64",
		"Ink Blue #0E3A53": "Ink Blue #0E3A53", "Web Blue 14 58 83": "Web Blue #0E3A53", "Lab Coat #FFFFFF": "Lab Coat #FFFFFF", "Process Blue 96/50/20/64": "Process Blue + 96 50 20 64",
		// nor are papers in a name what a build is for
		"Coated Steel 96/50/20/64": "Coated Steel + 96 50 20 64", "Uncoated Linen CMYK 10 10 20 5": "Uncoated Linen + 10 10 20 5", "CMYK 96 50 20 64 uncoated Deep Sound": build + " uncoated",
		// digits of a name are no numbers
		"Blue2 14 58 83": "Blue2 #0E3A53", "Z0 96 50 20 64": "Z0 + 96 50 20 64", "Blue2, 14, 58, 83": "Blue2 #0E3A53", "Mix .5 .25 1": "Mix #8040FF", "B2B #0E3A53": "B2B #0E3A53",
		// several kinds on a line
		"Deep Sound #0E3A53 / RGB 14 58 83 / CMYK 96 50 20 64": sound + " + 96 50 20 64",
		"Deep Sound\t#0E3A53\t14\t58\t83\t96\t50\t20\t64":      sound + " + 96 50 20 64",
		"Deep Sound | #0E3A53 | 14 58 83 | 96 50 20 64":        sound + " + 96 50 20 64",
		"Deep Sound #0E3A53 RGB 200 58 83":                     "Deep Sound ? #0E3A53 RGB 200 58 83",
		// what may be two things is asked, what cannot be is wrong
		"Deep Sound 202\u00b0 83% 33%": "Deep Sound ? HSB HSL", "Deep Sound 260 83 33": "Deep Sound ? HSB HSL", "Deep Sound 255 58 83 50": "Deep Sound ? RGB, opaque",
		"Deep Sound 400 83 33": "!", "Deep Sound HSL 202 171 19": "!", "video 26 124 120": "!", "YCbCr 26 124 120": "!", "Gold XYZ 40 42 10": "!", "CMYK 120 0 0 0": "!", "RGB 300 0 0": "!",
		"Call me at 020 7946 0018": "!", "Page 12 of 40": "!", "12.5.2026": "!", "C 10 M 20": "!",
		// so is what is mostly something else
		"Version 2.1.3": "Version ? RGB", "12.11.26": "? RGB", "3/4/5": "? RGB", "Slide 4 5 6": "Slide ? RGB", "Room: 12 13 14": "Room ? RGB", "RGB 12.11.26": "#0C0B1A", "Teal 29/111/106": "Teal #1D6F6A",
		"Tel 030 22 33 44": "!", "order no. 7": "!", "Order 12 34 56 78": "!", "Roomy Blue 12 13 14": "Roomy Blue #0C0D0E",
		// an opacity in front, as programs write it
		"#FF0E3A53": "? opacity in front opacity behind", "#0E3A53FF": "#0E3A53", "#FFCC00FF": "#FFCC00", "0xFF0E3A53": "#0E3A53", "Color(0xFF0E3A53)": "#0E3A53", "0xFFCC00FF": "? opacity in front opacity behind",
		"<color name=\"lamp\">#FFF2B632</color>": "lamp #F2B632", "<color name=\"sea\">#0E3A53</color>": "sea #0E3A53", "Slate | 59 | 68 | 75": "Slate #3B444B",
		"Thanks, Ada": "-", "Best regards": "-", "Sea green": "-", "Hull: navy": "Hull #000080",
		// names keep what is theirs
		"Primary/500 #0E3A53": "Primary/500 #0E3A53", "1. Deep Sound #0E3A53": sound, "\u2022 Deep Sound \u2013 #0E3A53": sound, "Black Sea #0E3A53": "Black Sea #0E3A53", "Gray 40 #0E3A53": "Gray 40 #0E3A53",
	} {
		lines := color.ReadList(written)
		if assert.Len(t, lines, 1, written) {
			assert.Equal(t, want, said(lines[0]), written)
		}
	}
}

func TestWhatIsLeftOutIsSaid(t *testing.T) {
	for written, note := range map[string]string{
		"Deep Sound #0E3A53 80%":          "80% beside it was left out",
		"Deep Sound, 60 % tint #0E3A53":   "",
		"Deep Sound #0E3A5380":            "its transparency was left out; a brand color is opaque",
		"Deep Sound #0E3A53 RGB 14 58 84": "RGB 14 58 84 beside it is not quite the same, 0.4 away",
	} {
		assert.Equal(t, note, color.ReadList(written)[0].Note, written)
	}
}

func TestSeveralColorsAndBlocks(t *testing.T) {
	for written, want := range map[string][]string{
		"#0E3A53, #E2572B #F2B632":                                        {"#0E3A53", "#E2572B", "#F2B632"},
		"Deep Sound, Buoy, Lamp: #0E3A53 #E2572B #F2B632":                 {"Deep Sound #0E3A53", "Buoy #E2572B", "Lamp #F2B632"},
		"Deep Sound #0E3A53, Buoy #E2572B":                                {"Deep Sound #0E3A53", "Buoy #E2572B"},
		"not #123456 but #123457":                                         {"#123456", "#123457"},
		"between #123456 and #654321":                                     {"#123456", "#654321"},
		"Old #123456, New #654321":                                        {"Old #123456", "New #654321"},
		"#0E3A53 Deep Sound; #E2572B Buoy":                                {"Deep Sound #0E3A53", "Buoy #E2572B"},
		"Hi Kim, please use #0E3A53 for the header and #E2572B for more.": {"#0E3A53", "#E2572B"},
		"Deep Sound\nHEX #0E3A53\nRGB 14 58 83\nCMYK 96 50 20 64\nBuoy\n#E2572B\n226 87 43\n0 77 92 6": {"Deep Sound #0E3A53 + 96 50 20 64", "Buoy #E2572B + 0 77 92 6"},
		"Deep Sound #0E3A53\nCMYK 96 50 20 64\n\nBuoy #E2572B":                                         {"Deep Sound #0E3A53 + 96 50 20 64", "Buoy #E2572B"},
		"Deep Sound\nC: 96 M: 50 Y: 20 K: 64":                                                          {"Deep Sound + 96 50 20 64"},
		"Blue\n14 58 83\nRed\n226 87 43":                                                               {"Blue #0E3A53", "Red #E2572B"},
		"Colors\n#0E3A53\n#E2572B":                                                                     {"-", "#0E3A53", "#E2572B"},
		"#0E3A53\n14 58 84\n#E2572B":                                                                   {"#0E3A53", "#0E3A54", "#E2572B"},
		"Deep Sound #0E3A53\n14 58 83":                                                                 {"Deep Sound #0E3A53", "#0E3A53"},
		"Hex: #0E3A53\nRGB: 200 58 83":                                                                 {"? #0E3A53 RGB: 200 58 83"},
		"Hello Kim,\nhere they are:\n\nDeep Sound #0E3A53\n\nBest\nAda":                                {"-", "-", "Deep Sound #0E3A53", "-", "-"},
		"hello there\nTwo #000000 #ffffff":                                                             {"-", "#000000", "#FFFFFF"},
		"Deep Sound\n\n#0E3A53":                                                                        {"-", "#0E3A53"},
		"Deep Sound\n#0E3A53\nCMYK 96 50 20 64 (own press)\nSpot QN-0453":                              {"Deep Sound #0E3A53 + 96 50 20 64 own press"},
		"CMYK 96 50 20 64 (Gold)":                                                                      {"Gold + 96 50 20 64"},
		"CMYK 96 50 20 64\nRGB 14 58 83":                                                               {"#0E3A53 + 96 50 20 64"},
		"--deep-sound: #0E3A53;\n--accent: var(--deep-sound);\n--again: var(--accent)":                 {"deep-sound #0E3A53", "accent #0E3A53", "again #0E3A53"},
		"Blue-500: #0E3A53\nAccent: {color.blue-500}":                                                  {"Blue-500 #0E3A53", "Accent #0E3A53"},
		"--accent: var(--blue-500);":                                                                   {"!"},
		"--a: var(--b);\n--b: var(--a);":                                                               {"!", "!"},
		"CMYK 96 50 20 64\nCMYK 0 77 92 6":                                                             {"+ 96 50 20 64", "+ 0 77 92 6"},
	} {
		var got []string
		for _, l := range color.ReadList(written) {
			got = append(got, said(l))
		}
		assert.Equal(t, want, got, written)
	}
}

// What this program writes of a color, in every notation, alone, with a name and as a block of all kinds, is read back as that color.
func TestWhatIsWrittenIsReadBack(t *testing.T) {
	r := rand.New(rand.NewPCG(3, 5))
	for range 500 {
		c := color.RGB8{R: uint8(r.Uint32()), G: uint8(r.Uint32()), B: uint8(r.Uint32())}
		build := color.CMYK{C: float64(r.IntN(101)), M: float64(r.IntN(101)), Y: float64(r.IntN(101)), K: float64(r.IntN(101))}
		for _, n := range color.Notations {
			text, err := color.Write(c, n.Name)
			if one, e := color.Parse(text); err != nil || e != nil || one.RGB8() != c {
				continue // a short form says less than the color
			}
			for _, written := range []string{text, "Deep Sound " + text, "Deep Sound: " + text} {
				lines := color.ReadList(written)
				require.Len(t, lines, 1, written)
				require.NoError(t, lines[0].Err, written)
				require.Equal(t, c, lines[0].RGB, written)
			}
		}
		block := fmt.Sprintf("Deep Sound\n%s\nRGB %d %d %d\nCMYK %s (coated)\nSpot QN-0453", c.Hex(), c.R, c.G, c.B, build)
		lines := color.ReadList(block + "\n\n" + block)
		require.Len(t, lines, 2, block)
		for _, l := range lines {
			require.Equal(t, "Deep Sound "+c.Hex()+" + "+build.String()+" coated", said(l), block)
			require.Contains(t, l.Text, "QN-0453")
		}
	}
}

// A field takes what a line of a list takes, as long as it is one value.
func TestOneValueInAField(t *testing.T) {
	for text, want := range map[string]string{
		"#E2572B": "#E2572B", "10 60 80 5": "inks 10 60 80 5", "HSB 260 83 33": "#260E54", "40 % black": "inks 0 0 0 40", "C10 M60 Y80 K5": "inks 10 60 80 5",
		"hex: e2572b": "#E2572B", "0xE2572B": "#E2572B", "L*a*b* 50 40 -12": "#AF5A8D", "12,5 40,2 3,1 0": "inks 12.5 40.2 3.1 0", "color(display-p3 0 1 0)": "color(display-p3 0 1 0)",
		"cmyk 10 20 30 40 uncoated": "inks 10 20 30 40 on uncoated", "hex e2572b rgb 226 87 43": "#E2572B",
		"#FF0E3A53": "in front or behind", "0xFF0E3A53": "#0E3A53",
		"260 83 33": "may be HSB or HSL", "Buoy #E2572B": "a name beside it", "#E2572B cmyk 0 77 92 6": "two values", "#E2572B #000000": "several values", "#E2572B\n#000000": "several values",
		"hsl 20": "is not a color value", "hello": "is not a color value", "rgb 300 2 3": "red is 300", "": "nothing was given", "#12345": "has 5 hexadecimal digits",
	} {
		got := ""
		v, paper, err := color.ReadValue(text)
		switch {
		case err != nil:
			assert.ErrorContains(t, err, want, text)
			continue
		case v.CMYK != nil:
			got = "inks " + v.CMYK.String()
			if paper != "" {
				got += " on " + paper
			}
		case v.Outside():
			got = v.Exactly()
		default:
			got = v.RGB8().Hex()
		}
		assert.Equal(t, want, got, text)
	}
}
