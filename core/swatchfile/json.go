package swatchfile

import (
	"bytes"
	"encoding/json"
	"fmt"
	"io"

	"huekeep/core/limits"
)

// object is a JSON object that keeps the order of its members, which is the order of the colors.
type object []member

type member struct {
	key   string
	value any // object, []any, string, json.Number, bool or nil
}

func (o object) get(key string) (any, bool) {
	for _, m := range o {
		if m.key == key {
			return m.value, true
		}
	}
	return nil, false
}

func (o object) text(key string) string {
	v, _ := o.get(key)
	s, _ := v.(string)
	return s
}

func (o object) object(key string) object {
	v, _ := o.get(key)
	out, _ := v.(object)
	return out
}

func (o object) number(key string) float64 {
	v, _ := o.get(key)
	n, _ := v.(json.Number)
	f, _ := n.Float64()
	return f
}

// into reads a member into a Go value; a member that is not there leaves it.
func (o object) into(key string, to any) error {
	v, ok := o.get(key)
	if !ok {
		return nil
	}
	data, err := json.Marshal(v)
	if err == nil {
		err = json.Unmarshal(data, to)
	}
	if err != nil {
		return fmt.Errorf("its %s is not what it should be: %w", key, err)
	}
	return nil
}

// raw returns a member as JSON text; a text that holds JSON is taken as it is. Empty if there is none.
func (o object) raw(key string) string {
	v, ok := o.get(key)
	if s, isText := v.(string); isText || !ok {
		return s
	}
	text, err := json.Marshal(v)
	if err != nil {
		return ""
	}
	return string(text)
}

func (o object) MarshalJSON() ([]byte, error) {
	var b bytes.Buffer
	b.WriteByte('{')
	for i, m := range o {
		if i > 0 {
			b.WriteByte(',')
		}
		for j, v := range []any{m.key, m.value} {
			if j > 0 {
				b.WriteByte(':')
			}
			enc := json.NewEncoder(&b)
			enc.SetEscapeHTML(false)
			if err := enc.Encode(v); err != nil {
				return nil, err
			}
		}
	}
	b.WriteByte('}')
	return b.Bytes(), nil
}

// readJSON reads one JSON object and says where it stops being one.
func readJSON(data []byte) (object, error) {
	data = bytes.TrimPrefix(data, []byte("\xef\xbb\xbf"))
	dec := json.NewDecoder(bytes.NewReader(data))
	dec.UseNumber()
	left := limits.JSONValues
	v, err := readValue(dec, 0, &left)
	if err == nil {
		if _, extra := dec.Token(); extra != io.EOF {
			err = fmt.Errorf("something follows after its end")
		}
	}
	if err != nil {
		line := 1 + bytes.Count(data[:min(int(dec.InputOffset()), len(data))], []byte("\n"))
		if err == io.EOF || err == io.ErrUnexpectedEOF {
			err = fmt.Errorf("it is cut off")
		}
		return nil, fmt.Errorf("line %d of the JSON: %w", line, err)
	}
	o, ok := v.(object)
	if !ok {
		return nil, fmt.Errorf("the JSON holds no object at its top")
	}
	return o, nil
}

func readValue(dec *json.Decoder, depth int, left *int) (any, error) {
	if *left--; *left < 0 {
		return nil, fmt.Errorf("it holds over %d values", limits.JSONValues)
	}
	if depth > limits.Depth {
		return nil, fmt.Errorf("it is nested over %d deep", limits.Depth)
	}
	t, err := dec.Token()
	if err != nil {
		return nil, err
	}
	switch t {
	case json.Delim('{'):
		o := object{}
		seen := map[string]bool{}
		for dec.More() {
			k, err := dec.Token()
			if err != nil {
				return nil, err
			}
			key, _ := k.(string)
			if seen[key] {
				return nil, fmt.Errorf("the name %q stands twice in one group", key)
			}
			seen[key] = true
			v, err := readValue(dec, depth+1, left)
			if err != nil {
				return nil, err
			}
			o = append(o, member{key, v})
		}
		_, err = dec.Token()
		return o, err
	case json.Delim('['):
		list := []any{}
		for dec.More() {
			v, err := readValue(dec, depth+1, left)
			if err != nil {
				return nil, err
			}
			list = append(list, v)
		}
		_, err = dec.Token()
		return list, err
	}
	return t, nil
}
