package server

import (
	"bytes"
	"encoding/json"
	"errors"
	"fmt"
	"io"
	"reflect"
	"strings"

	"huekeep/keep"
)

// member is what is wrong with one member of a request. It goes through the layers of libraries as text, from which fail takes it apart.
type member struct{ name, said string }

const memberMark = "\x00member\x00"

func (m member) Error() string { return memberMark + m.name + "\x00" + m.said }

// wrongMember finds a member's error in the text of another.
func wrongMember(text string) (m member, ok bool) {
	_, rest, ok := strings.Cut(text, memberMark)
	if !ok {
		return m, false
	}
	m.name, m.said, ok = strings.Cut(rest, "\x00")
	return m, ok
}

// strictJSON reads the body of a request. What is misspelled would be taken for left out, so that a member that is not known is an error,
// as is one of another type, and a change that does not say which version of the thing it changes.
func strictJSON(data []byte, into any) error {
	d := json.NewDecoder(bytes.NewReader(data))
	d.DisallowUnknownFields()
	err := d.Decode(into)
	var wrong *json.UnmarshalTypeError
	switch {
	case errors.As(err, &wrong) && wrong.Field != "":
		return member{wrong.Field, fmt.Sprintf("%s is a %s, where %s is expected.", wrong.Field, wrong.Value, expected(wrong.Type))}
	case err != nil:
		if name, ok := strings.CutPrefix(err.Error(), "json: unknown field "); ok {
			name = strings.Trim(name, `"`)
			return member{name, fmt.Sprintf("There is no member %q here; is it misspelled?", keep.Short(name, 60))}
		}
		return err
	}
	if _, err := d.Token(); !errors.Is(err, io.EOF) {
		return errors.New("json: something stands behind its end")
	}
	v := reflect.Indirect(reflect.ValueOf(into))
	if v.Kind() != reflect.Struct {
		return nil
	}
	if f := v.FieldByName("Version"); f.IsValid() && f.CanInt() && f.Int() == 0 {
		return member{"version", "The version is missing: a change says which version of the thing it changes, as it was read."}
	}
	return nil
}

// expected is a type in a sentence.
func expected(t reflect.Type) string {
	switch t.Kind() {
	case reflect.String:
		return "a text"
	case reflect.Bool:
		return "true or false"
	case reflect.Slice, reflect.Array:
		return "a list"
	case reflect.Struct, reflect.Map:
		return "an object"
	case reflect.Int, reflect.Int8, reflect.Int16, reflect.Int32, reflect.Int64:
		return "a whole number"
	}
	return "a number"
}
