package swatchfile

import (
	_ "embed"
	"fmt"
	"slices"
	"strings"

	"huekeep/core/library"
)

//go:embed loading.txt
var loadingText string

// Loading says how the packings of a group are loaded.
type Loading struct {
	Key      string   // of the group
	Packings []string // that are loaded in this way
	For      string   // what kind of application
	Do       []string // in order
	Folders  []string // where files are put by hand: "Windows: ..."
	Worked   string   // what one sees then
	Else     []string // what to do when not
}

// Loadings lists every way of loading.
func Loadings() []Loading { return slices.Clone(loadings) }

// Loading is how the packing is loaded.
func (p Packing) Loading() Loading { return loadings[loadedAs[p.Name]] }

// Own is what the house says of loading it, as of the edition, in lines.
func (p Packing) Own(e library.Edition) []string {
	for _, n := range e.Loading {
		if n.Key == p.Loading().Key {
			return strings.Split(n.Text, "\n")
		}
	}
	return nil
}

// Words are what people call the packing when they look for one.
func (p Packing) Words() []string { return calledAs[p.Name] }

// LoadingOf finds a way of loading by its key.
func LoadingOf(key string) (Loading, error) {
	for _, l := range loadings {
		if l.Key == key {
			return l, nil
		}
	}
	return Loading{}, fmt.Errorf("there is no loading note %q", key)
}

var loadings, loadedAs, calledAs = readLoadings(loadingText)

// readLoadings reads the text that ships; what is wrong in it ends the program, and so the tests.
func readLoadings(text string) (list []Loading, byPacking map[string]int, words map[string][]string) {
	byPacking, words = map[string]int{}, map[string][]string{}
	for n, line := range strings.Split(text, "\n") {
		if line = strings.TrimSpace(line); line == "" || line[0] == '#' {
			continue
		}
		key, value, ok := strings.Cut(line, ": ")
		if !ok {
			panic(fmt.Sprintf("loading.txt, line %d: it has no colon", n+1))
		}
		if name, is := strings.CutPrefix(key, "= "); is {
			l := Loading{Key: name, Packings: strings.Fields(value)}
			for _, p := range l.Packings {
				byPacking[p] = len(list)
			}
			list = append(list, l)
			continue
		}
		l := &list[len(list)-1]
		switch what, of, _ := strings.Cut(key, " "); what {
		case "for":
			l.For = value
		case "do":
			l.Do = append(l.Do, value)
		case "folder":
			l.Folders = append(l.Folders, value)
		case "worked":
			l.Worked = value
		case "else":
			l.Else = append(l.Else, value)
		case "words":
			words[of] = strings.Fields(value)
		default:
			panic(fmt.Sprintf("loading.txt, line %d: %q is not known", n+1, what))
		}
	}
	return list, byPacking, words
}
