package engine

import (
	"fmt"
	"maps"
	"reflect"
	"slices"
	"strings"
)

// TypeScript writes the types of all questions and answers as the browser's side declares them: an interface a struct, and
// Questions, which gives the arguments and the answer of each question. A member that may be left out is optional.
func TypeScript() string {
	t := typeScript{known: map[string]string{}}
	var asked strings.Builder
	for _, name := range Questions() {
		q := questions[name]
		fmt.Fprintf(&asked, "  %s: [%s, %s];\n", name, t.of(q.args), t.of(q.answer))
	}
	t.of(reflect.TypeFor[Opened]())
	var out strings.Builder
	out.WriteString("// Made from cmd/corewasm/engine by `make generate`; do not edit.\n")
	for _, name := range slices.Sorted(maps.Keys(t.known)) {
		fmt.Fprintf(&out, "\nexport interface %s {\n%s}\n", name, t.known[name])
	}
	fmt.Fprintf(&out, "\nexport interface Questions {\n%s}\n", asked.String())
	return out.String()
}

type typeScript struct {
	known map[string]string // the members of each interface
}

func (t typeScript) of(r reflect.Type) string {
	switch r.Kind() {
	case reflect.Pointer:
		return t.of(r.Elem())
	case reflect.Bool:
		return "boolean"
	case reflect.String:
		return "string"
	case reflect.Int, reflect.Float64:
		return "number"
	case reflect.Slice:
		return t.of(r.Elem()) + "[]"
	case reflect.Array:
		return "[" + strings.TrimSuffix(strings.Repeat(t.of(r.Elem())+", ", r.Len()), ", ") + "]"
	case reflect.Struct:
		if _, ok := t.known[r.Name()]; !ok {
			t.known[r.Name()] = "" // it may hold itself
			var members strings.Builder
			for i := range r.NumField() {
				name, options, _ := strings.Cut(r.Field(i).Tag.Get("json"), ",")
				if options == "omitempty" {
					name += "?"
				}
				fmt.Fprintf(&members, "  %s: %s;\n", name, t.of(r.Field(i).Type))
			}
			t.known[r.Name()] = members.String()
		}
		return r.Name()
	}
	panic("the browser has no type for " + r.String())
}
