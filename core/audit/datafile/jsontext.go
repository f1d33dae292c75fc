package datafile

// jsonText goes through a JSON text (RFC 8259) value by value. It takes what the lexer of tdewolff/parse takes, which a fuzz target holds
// it to, and tells at once whether a text has a mark of a color in it.
type jsonText struct {
	data       string
	at         int
	start, end int  // of the last one, without what stands around it
	marked     bool // the last text has one of the marks that a color or the name of a token has in it
	open       []byte
	comma      bool // one has to follow, or an end
}

// What jsonText comes upon, beside '{', '}', '[', ']', '"' for a text and '0' for a number.
const (
	jsonEnd   = 0
	jsonWrong = '!'
	jsonKey   = 'k'
	jsonWord  = 't' // true, false or null
)

// What open has for an object of which a value is to follow; '{' and '[' for what else is open.
const jsonValue = ':'

// inText marks the bytes of a text that are looked at.
var inText = [256]byte{'"': 1, 0: 1, '\\': 1, '#': 1, '(': 1, '{': 1}

// blankJSON marks white space.
var blankJSON = [' ' + 1]bool{' ': true, '\n': true, '\r': true, '\t': true}

func (j *jsonText) blank() {
	for j.at < len(j.data) && j.data[j.at] <= ' ' && blankJSON[j.data[j.at]] {
		j.at++
	}
}

// peek is the byte that comes; 0 at the end, and for a byte that is 0, which no JSON text has.
func (j *jsonText) peek() byte {
	if j.at < len(j.data) {
		return j.data[j.at]
	}
	return 0
}

// next goes on to the next value, key, beginning or end.
func (j *jsonText) next() byte {
	j.blank()
	c := j.peek()
	state := byte(0)
	if n := len(j.open); n > 0 {
		state = j.open[n-1]
	}
	if c == ',' {
		if state != '[' && state != '{' {
			return jsonWrong
		}
		j.at++
		j.blank()
		j.comma = false
		c = j.peek()
	}
	j.start = j.at
	switch {
	case c == '}' || c == ']':
		if state != c-2 { // the bytes of brackets lie two apart
			return jsonWrong
		}
		j.comma = true
		j.open = j.open[:len(j.open)-1]
		j.valued()
		j.at++
		j.end = j.at
		return c
	case j.comma && c != 0:
		return jsonWrong
	case c == '{' || c == '[':
		j.open = append(j.open, c)
		j.at++
		j.end = j.at
		return c
	case state == '{':
		if c != '"' || !j.text() {
			return jsonWrong
		}
		j.end = j.at
		j.blank()
		if j.peek() != ':' {
			return jsonWrong
		}
		j.at++
		j.open[len(j.open)-1] = jsonValue
		return jsonKey
	}
	j.comma = true
	j.valued()
	kind := byte(0)
	switch {
	case c == '"':
		if j.text() {
			kind = '"'
		}
	case c == '-' || c >= '0' && c <= '9':
		if j.number() {
			kind = '0'
		}
	case j.word("true") || j.word("false") || j.word("null"):
		kind = jsonWord
	}
	j.end = j.at
	if kind == 0 && j.at < len(j.data) {
		return jsonWrong
	}
	return kind
}

// valued notes that the object around has its value.
func (j *jsonText) valued() {
	if n := len(j.open); n > 0 && j.open[n-1] == jsonValue {
		j.open[n-1] = '{'
	}
}

func (j *jsonText) word(w string) bool {
	if len(j.data)-j.at < len(w) || j.data[j.at:j.at+len(w)] != w {
		return false
	}
	j.at += len(w)
	return true
}

// text goes behind a text; to where it breaks off, if it has no end.
func (j *jsonText) text() bool {
	marked, d, at := false, j.data, j.at+1
	for at < len(d) {
		c := d[at]
		at++
		if inText[c] == 0 {
			continue
		}
		if c == '"' || c == 0 {
			j.marked = marked
			j.at = at
			if c == 0 {
				j.at--
			}
			return c == '"'
		}
		marked = true
		if c == '\\' && at < len(d) && d[at] != 0 {
			at++
		}
	}
	j.at = at
	return false
}

// number goes behind a number.
func (j *jsonText) number() bool {
	d, at := j.data, j.at
	digits := func() bool {
		from := at
		for at < len(d) && d[at] >= '0' && d[at] <= '9' {
			at++
		}
		return at > from
	}
	if d[at] == '-' {
		at++
	}
	if at < len(d) && d[at] == '0' {
		at++
	} else if !digits() {
		return false
	}
	j.at = at
	if at < len(d) && d[at] == '.' {
		if at++; !digits() {
			return true // up to the point
		}
		j.at = at
	}
	if at < len(d) && d[at]|0x20 == 'e' {
		if at++; at < len(d) && (d[at] == '+' || d[at] == '-') {
			at++
		}
		if !digits() {
			return true
		}
		j.at = at
	}
	return true
}
