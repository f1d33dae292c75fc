package audit

import (
	"fmt"
	"math"
	"regexp"
	"strconv"
	"strings"

	"huekeep/core/color"
	"huekeep/core/form"
)

// channel is one number of a color whose numbers stand apart in a text: the arguments of a call, the members of an object.
type channel struct {
	at    int     // where it stands in the text that has them all
	text  string  // "0.886f", "226", "0xE2", "226.0 / 255.0"
	value float64 // as written, before it is divided
	full  float64 // what it is divided by, to be 0 to 1
}

var (
	plainNumber = regexp.MustCompile(`^([+-]?(?:\d+\.?\d*|\.\d+))([fFdDlL]?)$`)
	ratioNumber = regexp.MustCompile(`^\(?\s*((?:\d+\.?\d*|\.\d+))[fFdD]?\s*/\s*((?:\d+\.?\d*|\.\d+))[fFdD]?\s*\)?$`)
	hexNumber   = regexp.MustCompile(`^0[xX]([0-9A-Fa-f]{1,2})$`)
)

// readChannel reads the text of a number; full is 0 where it is not known yet. Whole says that it has no fraction.
func readChannel(text string, at int) (c channel, whole, ok bool) {
	c = channel{at: at, text: text}
	if m := hexNumber.FindStringSubmatch(text); m != nil {
		v, _ := strconv.ParseUint(m[1], 16, 8)
		c.value, c.full = float64(v), 255
		return c, true, true
	}
	if m := ratioNumber.FindStringSubmatch(text); m != nil {
		v, _ := strconv.ParseFloat(m[1], 64)
		of, _ := strconv.ParseFloat(m[2], 64)
		c.value, c.full = v, of
		return c, false, of > 0
	}
	m := plainNumber.FindStringSubmatch(text)
	if m == nil {
		return c, false, false
	}
	v, err := strconv.ParseFloat(m[1], 64)
	c.value = v
	return c, m[2] == "" && !strings.Contains(m[1], "."), err == nil
}

// share is the number from 0 to 1.
func (c channel) share() float64 { return c.value / c.full }

// written is another number, 0 to 1, in the way of this one.
func (c channel) written(v float64) string {
	if strings.HasPrefix(c.text, "0x") || strings.HasPrefix(c.text, "0X") {
		digits := fmt.Sprintf("%02X", int(math.Round(v*255)))
		if strings.ContainsAny(c.text[2:], "abcdef") {
			digits = strings.ToLower(digits)
		}
		return c.text[:2] + digits
	}
	n := color.NumberLength(strings.TrimLeft(c.text, "( \t"))
	from := len(c.text) - len(strings.TrimLeft(c.text, "( \t"))
	number := c.text[from : from+n]
	_, fraction, point := strings.Cut(number, ".")
	decimals := 0
	if c.full < 255 {
		decimals = max(3, len(fraction)) // a step of 8 bits is 0.004 of what is full
		if c.full > 1 {
			decimals = max(1, len(fraction))
		}
	}
	text := strconv.FormatFloat(v*c.full, 'f', decimals, 64)
	if decimals > 0 {
		text = strings.TrimRight(text, "0")
		if strings.HasSuffix(text, ".") {
			text += "0"
		}
	} else if point {
		text += ".0"
	}
	if strings.HasPrefix(number, ".") {
		text = strings.TrimPrefix(text, "0")
	}
	return c.text[:from] + text + c.text[from+n:]
}

// channelText is a color of three numbers, each 0 to 1, as CSS writes it in a space of it.
func channelText(space string, of [3]channel) string {
	text := "color(" + space
	for _, c := range of {
		text += " " + strconv.FormatFloat(c.share(), 'g', 8, 64)
	}
	return text + ")"
}

// channelColor is the color of three numbers in a space of CSS.
func channelColor(space string, of [3]channel) (Color, error) {
	if space == "srgb" {
		plain := true
		var v [3]uint8
		for i, c := range of {
			plain = plain && c.full == 255 && c.value == math.Trunc(c.value) && c.value >= 0 && c.value <= 255
			v[i] = uint8(max(0, min(255, c.value)))
		}
		if plain {
			return Screen(color.RGB8{R: v[0], G: v[1], B: v[2]}), nil
		}
	}
	c, err := color.ParseCSS(channelText(space, of))
	return colorOf(c), err
}

// channelForm writes three numbers where those of a color stand in its text, and leaves what is between them.
func channelForm(space string, of [3]channel) form.Form {
	return form.Func(func(old string, to form.Paint) (string, error) {
		values := [3]float64{float64(to.RGB.R) / 255, float64(to.RGB.G) / 255, float64(to.RGB.B) / 255}
		if space != "srgb" {
			was := channelText(space, of)
			v, ok := [3]float64{}, false
			if to.Wide != "" {
				v, ok = color.NumbersLike(was, to.Wide)
			}
			if !ok {
				v, ok = color.Numbers(space, to.RGB.RGB())
			}
			if !ok {
				return "", fmt.Errorf("%q cannot be written in its space", old)
			}
			values = v
		}
		order := []int{0, 1, 2}
		for i := range 2 { // three numbers, as they stand
			for j := i + 1; j < 3; j++ {
				if of[order[j]].at < of[order[i]].at {
					order[i], order[j] = order[j], order[i]
				}
			}
		}
		var b strings.Builder
		done := 0
		for n, i := range order {
			c := of[i]
			if n > 0 && c.at == of[order[n-1]].at { // one number is all three
				if math.Abs(values[i]-values[order[n-1]]) > 0.5/255 {
					return "", fmt.Errorf("one number stands there for a gray, and %s is none", to.Name)
				}
				continue
			}
			if c.at < done || c.at+len(c.text) > len(old) || old[c.at:c.at+len(c.text)] != c.text {
				return "", fmt.Errorf("%q is not what was read there", old)
			}
			b.WriteString(old[done:c.at])
			b.WriteString(c.written(values[i]))
			done = c.at + len(c.text)
		}
		return b.String() + old[done:], nil
	})
}
