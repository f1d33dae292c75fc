package color

import (
	"fmt"
	"math"
	"strconv"
	"strings"
)

// quantity is one value of a color function: a number, a percentage, an angle in degrees, or none.
type quantity struct {
	v    float64
	unit unit
	text string // as written
}

type unit byte

const (
	plain unit = iota
	percentage
	angle
	missing // "none", which counts as 0
)

// calculator evaluates one value of a color function: constants, calc(), min(), max(), clamp() and the channels of the color
// that a relative one starts from.
type calculator struct {
	text     string
	at       int
	channels map[string]float64
	depth    int
}

// quantityOf reads one value.
func quantityOf(text string, channels map[string]float64) (quantity, error) {
	if strings.EqualFold(text, "none") {
		return quantity{0, missing, text}, nil
	}
	c := calculator{text: strings.ToLower(text), channels: channels}
	q, err := c.factor()
	if err == nil && c.at < len(c.text) {
		err = c.wrong()
	}
	q.text = text
	return q, err
}

func (c *calculator) wrong() error { return fmt.Errorf("%q is not a number", c.text) }

func (c *calculator) blank() bool {
	from := c.at
	for c.at < len(c.text) && strings.IndexByte(" \t\n\r\f", c.text[c.at]) >= 0 {
		c.at++
	}
	return c.at > from
}

func (c *calculator) take(b byte) bool {
	if c.at < len(c.text) && c.text[c.at] == b {
		c.at++
		return true
	}
	return false
}

// sum is what stands in calc() and in parentheses.
func (c *calculator) sum() (quantity, error) {
	q, err := c.product()
	for err == nil {
		c.blank()
		sign := 1.0
		switch {
		case c.take('+'):
		case c.take('-'):
			sign = -1
		default:
			return q, nil
		}
		var r quantity
		if r, err = c.product(); err == nil {
			if r.unit != q.unit {
				return q, fmt.Errorf("%q adds values of different kinds", c.text)
			}
			q.v += sign * r.v
		}
	}
	return q, err
}

func (c *calculator) product() (quantity, error) {
	q, err := c.factor()
	for err == nil {
		c.blank()
		times := c.take('*')
		if !times && !c.take('/') {
			return q, nil
		}
		var r quantity
		if r, err = c.factor(); err != nil {
			return q, err
		}
		switch {
		case times && q.unit == plain:
			q = quantity{q.v * r.v, r.unit, ""}
		case r.unit != plain:
			return q, fmt.Errorf("%q multiplies or divides by what is not a plain number", c.text)
		case times:
			q.v *= r.v
		case r.v == 0:
			return q, fmt.Errorf("%q divides by zero", c.text)
		default:
			q.v /= r.v
		}
	}
	return q, err
}

func (c *calculator) factor() (quantity, error) {
	if c.depth++; c.depth > 32 {
		return quantity{}, fmt.Errorf("%q is nested too deeply", c.text)
	}
	defer func() { c.depth-- }()
	c.blank()
	if c.take('(') {
		return c.closed(c.sum())
	}
	start := c.at
	for c.at < len(c.text) && (c.text[c.at] >= 'a' && c.text[c.at] <= 'z') {
		c.at++
	}
	if word := c.text[start:c.at]; word != "" {
		if c.take('(') {
			return c.function(word)
		}
		if v, ok := c.channels[word]; ok {
			return quantity{v: v}, nil
		}
		if c.depth > 1 { // constants stand in calculations only
			switch word {
			case "pi":
				return quantity{v: math.Pi}, nil
			case "e":
				return quantity{v: math.E}, nil
			case "none":
				return quantity{}, nil
			}
		}
		return quantity{}, c.wrong()
	}
	return c.constant()
}

func (c *calculator) closed(q quantity, err error) (quantity, error) {
	c.blank()
	if err == nil && !c.take(')') {
		err = c.wrong()
	}
	return q, err
}

// function evaluates calc(), min(), max() and clamp().
func (c *calculator) function(name string) (quantity, error) {
	wanted := map[string]int{"calc": 1, "clamp": 3, "min": -1, "max": -1}[name]
	if wanted == 0 {
		return quantity{}, fmt.Errorf("%q calls %s(), which is not read", c.text, name)
	}
	var all []quantity
	for {
		q, err := c.sum()
		if err != nil {
			return q, err
		}
		if all = append(all, q); q.unit != all[0].unit {
			return q, fmt.Errorf("%q compares values of different kinds", c.text)
		}
		if c.blank(); !c.take(',') {
			break
		}
	}
	if wanted > 0 && len(all) != wanted {
		return quantity{}, fmt.Errorf("%q gives %s() %d values", c.text, name, len(all))
	}
	q := all[0]
	switch name {
	case "clamp":
		q.v = math.Max(all[0].v, math.Min(all[1].v, all[2].v))
	case "min", "max":
		for _, r := range all {
			if r.v < q.v == (name == "min") {
				q.v = r.v
			}
		}
	}
	return c.closed(q, nil)
}

// constant reads a number with its unit.
func (c *calculator) constant() (quantity, error) {
	digits := NumberLength(c.text[c.at:])
	if digits == 0 {
		return quantity{}, c.wrong()
	}
	v, err := strconv.ParseFloat(c.text[c.at:c.at+digits], 64)
	if err != nil || math.IsInf(v, 0) {
		return quantity{}, c.wrong()
	}
	c.at += digits
	rest := c.text[c.at:]
	for _, u := range []struct {
		suffix string
		unit   unit
		factor float64
	}{{"%", percentage, 1}, {"deg", angle, 1}, {"grad", angle, 0.9}, {"rad", angle, 180 / math.Pi}, {"turn", angle, 360}} {
		if strings.HasPrefix(rest, u.suffix) {
			c.at += len(u.suffix)
			return quantity{v: v * u.factor, unit: u.unit}, nil
		}
	}
	return quantity{v: v}, nil
}

// NumberLength is the length of the number that a text begins with: a sign, digits with a point, an exponent.
func NumberLength(s string) int {
	i, digits := 0, 0
	if i < len(s) && (s[i] == '+' || s[i] == '-') {
		i++
	}
	for point := false; i < len(s) && (s[i] >= '0' && s[i] <= '9' || s[i] == '.' && !point); i++ {
		if s[i] == '.' {
			point = true
		} else {
			digits++
		}
	}
	if digits == 0 {
		return 0
	}
	if i < len(s) && (s[i] == 'e' || s[i] == 'E') {
		k := i + 1
		if k < len(s) && (s[k] == '+' || s[k] == '-') {
			k++
		}
		from := k
		for k < len(s) && s[k] >= '0' && s[k] <= '9' {
			k++
		}
		if k > from {
			i = k
		}
	}
	return i
}
