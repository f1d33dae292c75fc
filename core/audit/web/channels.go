package web

import (
	"fmt"
	"math"
	"regexp"
	"strconv"
	"strings"

	"huekeep/core/audit"
	"huekeep/core/color"
	"huekeep/core/form"
)

// Channel is one number of a color whose numbers stand apart in a text: the arguments of a call, the members of an object.
type Channel struct {
	At    int     // where it stands in the text that has them all
	Text  string  // "0.886f", "226", "0xE2", "226.0 / 255.0"
	Value float64 // as written, before it is divided
	Full  float64 // what it is divided by, to be 0 to 1
}

var (
	PlainNumber = regexp.MustCompile(`^([+-]?(?:\d+\.?\d*|\.\d+))([fFdDlL]?)$`)
	ratioNumber = regexp.MustCompile(`^\(?\s*((?:\d+\.?\d*|\.\d+))[fFdD]?\s*/\s*((?:\d+\.?\d*|\.\d+))[fFdD]?\s*\)?$`)
	hexNumber   = regexp.MustCompile(`^0[xX]([0-9A-Fa-f]{1,2})$`)
)

// ReadChannel reads the text of a number; full is 0 where it is not known yet. Whole says that it has no fraction.
func ReadChannel(text string, at int) (c Channel, whole, ok bool) {
	c = Channel{At: at, Text: text}
	if m := hexNumber.FindStringSubmatch(text); m != nil {
		v, _ := strconv.ParseUint(m[1], 16, 8)
		c.Value, c.Full = float64(v), 255
		return c, true, true
	}
	if m := ratioNumber.FindStringSubmatch(text); m != nil {
		v, _ := strconv.ParseFloat(m[1], 64)
		of, _ := strconv.ParseFloat(m[2], 64)
		c.Value, c.Full = v, of
		return c, false, of > 0
	}
	m := PlainNumber.FindStringSubmatch(text)
	if m == nil {
		return c, false, false
	}
	v, err := strconv.ParseFloat(m[1], 64)
	c.Value = v
	return c, m[2] == "" && !strings.Contains(m[1], "."), err == nil
}

// Share is the number from 0 to 1.
func (c Channel) Share() float64 { return c.Value / c.Full }

// written is another number, 0 to 1, in the way of this one.
func (c Channel) written(v float64) string {
	if strings.HasPrefix(c.Text, "0x") || strings.HasPrefix(c.Text, "0X") {
		digits := fmt.Sprintf("%02X", int(math.Round(v*255)))
		if strings.ContainsAny(c.Text[2:], "abcdef") {
			digits = strings.ToLower(digits)
		}
		return c.Text[:2] + digits
	}
	n := color.NumberLength(strings.TrimLeft(c.Text, "( \t"))
	from := len(c.Text) - len(strings.TrimLeft(c.Text, "( \t"))
	number := c.Text[from : from+n]
	_, fraction, point := strings.Cut(number, ".")
	decimals := 0
	if c.Full < 255 {
		decimals = max(3, len(fraction)) // a step of 8 bits is 0.004 of what is full
		if c.Full > 1 {
			decimals = max(1, len(fraction))
		}
	}
	text := strconv.FormatFloat(v*c.Full, 'f', decimals, 64)
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
	return c.Text[:from] + text + c.Text[from+n:]
}

// channelText is a color of three numbers, each 0 to 1, as CSS writes it in a space of it.
func channelText(space string, of [3]Channel) string {
	text := "color(" + space
	for _, c := range of {
		text += " " + strconv.FormatFloat(c.Share(), 'g', 8, 64)
	}
	return text + ")"
}

// ChannelColor is the color of three numbers in a space of CSS.
func ChannelColor(space string, of [3]Channel) (audit.Color, error) {
	if space == "srgb" {
		plain := true
		var v [3]uint8
		for i, c := range of {
			plain = plain && c.Full == 255 && c.Value == math.Trunc(c.Value) && c.Value >= 0 && c.Value <= 255
			v[i] = uint8(max(0, min(255, c.Value)))
		}
		if plain {
			return audit.Screen(color.RGB8{R: v[0], G: v[1], B: v[2]}), nil
		}
	}
	c, err := color.ParseCSS(channelText(space, of))
	return audit.ColorOf(c), err
}

// ChannelForm writes three numbers where those of a color stand in its text, and leaves what is between them.
func ChannelForm(space string, of [3]Channel) form.Form {
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
				if of[order[j]].At < of[order[i]].At {
					order[i], order[j] = order[j], order[i]
				}
			}
		}
		var b strings.Builder
		done := 0
		for n, i := range order {
			c := of[i]
			if n > 0 && c.At == of[order[n-1]].At { // one number is all three
				if math.Abs(values[i]-values[order[n-1]]) > 0.5/255 {
					return "", fmt.Errorf("one number stands there for a gray, and %s is none", to.Name)
				}
				continue
			}
			if c.At < done || c.At+len(c.Text) > len(old) || old[c.At:c.At+len(c.Text)] != c.Text {
				return "", fmt.Errorf("%q is not what was read there", old)
			}
			b.WriteString(old[done:c.At])
			b.WriteString(c.written(values[i]))
			done = c.At + len(c.Text)
		}
		return b.String() + old[done:], nil
	})
}
