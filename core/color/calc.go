package color

import (
	"fmt"
	"math"
	"slices"
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

// calculator evaluates one value of a color function: constants, the mathematical functions of CSS Values 4, and the channels of the color
// that a relative one starts from.
type calculator struct {
	text     string
	at       int
	channels map[string]float64
	depth    int
}

// quantityOf reads one value. What a calculation gives that is no number counts as 0, as in CSS; infinity stays.
func quantityOf(text string, channels map[string]float64) (quantity, error) {
	if strings.EqualFold(text, "none") {
		return quantity{0, missing, text}, nil
	}
	c := calculator{text: strings.ToLower(text), channels: channels}
	q, err := c.factor()
	if err == nil && c.at < len(c.text) {
		err = c.wrong()
	}
	if math.IsNaN(q.v) {
		q.v = 0
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

// sum is what stands in calc() and in parentheses; there are blanks on both sides of plus and minus.
func (c *calculator) sum() (quantity, error) {
	q, err := c.product()
	for err == nil {
		from := c.at
		blank := c.blank()
		sign := 1.0
		switch {
		case c.take('+'):
		case c.take('-'):
			sign = -1
		default:
			c.at = from
			return q, nil
		}
		if !blank || !c.blank() {
			return q, c.wrong()
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

// product multiplies and divides. What it comes to is a plain number, a percentage or an angle, whatever is on the way.
func (c *calculator) product() (quantity, error) {
	q, err := c.factor()
	var powers [angle + 1]int
	powers[q.unit]++
	single := true
	for err == nil {
		from := c.at
		c.blank()
		times := c.take('*')
		if !times && !c.take('/') {
			c.at = from
			break
		}
		var r quantity
		if r, err = c.factor(); err != nil {
			return q, err
		}
		single = false
		if times {
			q.v *= r.v
			powers[r.unit]++
		} else {
			q.v /= r.v // by zero it is infinity
			powers[r.unit]--
		}
	}
	if err != nil || single {
		return q, err
	}
	switch p, a := powers[percentage], powers[angle]; {
	case p == 0 && a == 0:
		q.unit = plain
	case p == 1 && a == 0:
		q.unit = percentage
	case p == 0 && a == 1:
		q.unit = angle
	default:
		return q, fmt.Errorf("%q multiplies or divides what does not go together", c.text)
	}
	return q, nil
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
	for c.at < len(c.text) && (c.text[c.at] >= 'a' && c.text[c.at] <= 'z' || c.at > start && c.text[c.at] == '2') {
		c.at++
	}
	if word := c.text[start:c.at]; word != "" {
		if c.take('(') {
			return c.function(word)
		}
		if v, ok := c.channels[word]; ok {
			return quantity{v: v}, nil
		}
		if v, ok := constants[word]; ok && c.depth > 1 { // they stand in calculations only
			return quantity{v: v}, nil
		}
		return quantity{}, c.wrong()
	}
	if c.depth > 1 && strings.HasPrefix(c.text[c.at:], "-infinity") {
		c.at += len("-infinity")
		return quantity{v: math.Inf(-1)}, nil
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

var constants = map[string]float64{"pi": math.Pi, "e": math.E, "infinity": math.Inf(1), "nan": math.NaN()}

// A mathematical function takes so many values, at least and at most, of one kind each, and gives a value of the same kind, a plain
// number, or an angle.
type mathematical struct {
	least, most int
	kind        kind
	of          func(v []float64) float64
}

type kind byte

const (
	alike  kind = iota // values of one kind, and so is the result
	pure               // plain numbers, and so is the result
	ratio              // values of one kind give a plain number
	turned             // a plain number or an angle gives a plain number
	angled             // plain numbers give an angle
	toward             // values of one kind give an angle
)

const degree = 180 / math.Pi

func one(f func(float64) float64) func([]float64) float64 {
	return func(v []float64) float64 { return f(v[0]) }
}

// mathematics are the functions of CSS Values 4, 10.
var mathematics = map[string]mathematical{
	"calc":  {1, 1, alike, one(same)},
	"min":   {1, 32, alike, slices.Min[[]float64]},
	"max":   {1, 32, alike, slices.Max[[]float64]},
	"clamp": {3, 3, alike, func(v []float64) float64 { return math.Max(v[0], math.Min(v[1], v[2])) }},
	"abs":   {1, 1, alike, one(math.Abs)},
	"mod": {2, 2, alike, func(v []float64) float64 {
		a, b := v[0], v[1]
		switch {
		case math.IsInf(b, 0) && !math.IsInf(a, 0) && math.Signbit(a) == math.Signbit(b):
			return a
		case math.IsInf(b, 0):
			return math.NaN()
		}
		return a - b*math.Floor(a/b)
	}},
	"rem": {2, 2, alike, func(v []float64) float64 { return math.Mod(v[0], v[1]) }},
	"hypot": {1, 32, alike, func(v []float64) (sum float64) {
		for _, x := range v {
			sum = math.Hypot(sum, x)
		}
		return sum
	}},
	"sign": {1, 1, ratio, one(func(v float64) float64 {
		if v == 0 || math.IsNaN(v) {
			return v
		}
		return math.Copysign(1, v)
	})},
	"pow":  {2, 2, pure, func(v []float64) float64 { return math.Pow(v[0], v[1]) }},
	"sqrt": {1, 1, pure, one(math.Sqrt)},
	"exp":  {1, 1, pure, one(math.Exp)},
	"log": {1, 2, pure, func(v []float64) float64 {
		if len(v) == 2 {
			return math.Log(v[0]) / math.Log(v[1])
		}
		return math.Log(v[0])
	}},
	"sin":   {1, 1, turned, one(math.Sin)},
	"cos":   {1, 1, turned, one(math.Cos)},
	"tan":   {1, 1, turned, one(math.Tan)},
	"asin":  {1, 1, angled, one(func(v float64) float64 { return math.Asin(v) * degree })},
	"acos":  {1, 1, angled, one(func(v float64) float64 { return math.Acos(v) * degree })},
	"atan":  {1, 1, angled, one(func(v float64) float64 { return math.Atan(v) * degree })},
	"atan2": {2, 2, toward, func(v []float64) float64 { return math.Atan2(v[0], v[1]) * degree }},
}

// rounding are the ways of round().
var rounding = map[string]func(float64) float64{
	"nearest": func(v float64) float64 { return math.Floor(v + 0.5) }, "up": math.Ceil, "down": math.Floor, "to-zero": math.Trunc,
}

// function evaluates a mathematical function whose parenthesis is open.
func (c *calculator) function(name string) (quantity, error) {
	f, known := mathematics[name]
	if name == "round" {
		way := rounding["nearest"]
		c.blank()
		for word, w := range rounding {
			if strings.HasPrefix(c.text[c.at:], word) {
				from := c.at
				c.at += len(word)
				if c.blank(); c.take(',') {
					way = w
				} else {
					c.at = from
				}
				break
			}
		}
		f, known = mathematical{1, 2, alike, func(v []float64) float64 {
			step := 1.0
			if len(v) == 2 {
				step = v[1]
			}
			return toStep(v[0], step, way)
		}}, true
	}
	if !known {
		return quantity{}, fmt.Errorf("%q calls %s(), which is not read", c.text, name)
	}
	var v []float64
	var unit unit
	open := [2]bool{} // ends of clamp() that are none
	for n := 0; ; n++ {
		c.blank()
		if rest := c.text[c.at:]; name == "clamp" && n != 1 && strings.HasPrefix(rest, "none") {
			c.at += len("none")
			open[n/2] = true
			v = append(v, math.Inf(n-1))
		} else {
			q, err := c.sum()
			if err != nil {
				return q, err
			}
			if n > 0 && q.unit != unit && !(n == 1 && open[0]) {
				return q, fmt.Errorf("%q compares values of different kinds", c.text)
			}
			unit, v = q.unit, append(v, q.v)
		}
		if c.blank(); !c.take(',') {
			break
		}
		if n > 32 {
			return quantity{}, c.wrong()
		}
	}
	if len(v) < f.least || len(v) > f.most {
		return quantity{}, fmt.Errorf("%q gives %s() %d values", c.text, name, len(v))
	}
	if name == "round" && len(v) == 1 && unit != plain {
		return quantity{}, c.wrong()
	}
	switch f.kind {
	case turned:
		if unit == angle {
			v[0] /= degree
		} else if unit != plain {
			return quantity{}, c.wrong()
		}
		unit = plain
	case pure, angled:
		if unit != plain {
			return quantity{}, c.wrong()
		}
	}
	q := quantity{v: math.NaN()}
	if !slices.ContainsFunc(v, math.IsNaN) {
		q.v = f.of(v)
	}
	switch f.kind {
	case alike:
		q.unit = unit
	case angled, toward:
		q.unit = angle
	}
	return c.closed(q, nil)
}

// toStep is v at a multiple of a step.
func toStep(v, step float64, way func(float64) float64) float64 {
	step = math.Abs(step)
	switch {
	case step == 0 || math.IsInf(v, 0) && math.IsInf(step, 0):
		return math.NaN()
	case math.IsInf(v, 0):
		return v
	case math.IsInf(step, 0):
		if up := way(math.Copysign(0.25, v)); up != 0 {
			return math.Copysign(math.Inf(1), up)
		}
		return 0
	}
	return way(v/step) * step
}

// constant reads a number with its unit.
func (c *calculator) constant() (quantity, error) {
	digits := NumberLength(c.text[c.at:])
	if digits == 0 {
		return quantity{}, c.wrong()
	}
	if digits > 1 && c.text[c.at+digits-1] == '.' { // a point without digits after it is no part of a number in CSS
		return quantity{}, c.wrong()
	}
	v, err := strconv.ParseFloat(c.text[c.at:c.at+digits], 64)
	if err != nil && !math.IsInf(v, 0) {
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
