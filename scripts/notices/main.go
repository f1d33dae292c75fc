// Notices writes the licenses of the code that ships and was made by others: the Go modules that the program is built of, the npm packages
// that the interface may have in it, and Go itself. The same text stands once, under the names of all that it is the license of.
//
//	go run ./scripts/notices >ui/notices-code.txt
//
// With -list it writes what ships, fonts too, as JSON for the bill of materials of a release: an array of name, version and kind.
package main

import (
	"bytes"
	"cmp"
	"encoding/json"
	"flag"
	"fmt"
	"log"
	"os"
	"os/exec"
	"path/filepath"
	"regexp"
	"runtime"
	"slices"
	"strings"
)

// shown are the packages that the interface is written with; what these need ships with them.
var shown = []string{"svelte", "tailwindcss", "daisyui"}

// work is something that others made, with what it says of its license.
type work struct {
	kind          string // of package: golang or npm, as package URLs name them
	name, version string
	folder        string
}

func main() {
	log.SetFlags(0)
	list := flag.Bool("list", false, "what ships, as JSON")
	flag.Parse()
	all, err := modules()
	if err == nil {
		var more []work
		more, err = packages("ui", *list)
		all = append(all, more...)
	}
	if err == nil && *list {
		err = writeList(all)
	} else if err == nil {
		err = write(all)
	}
	if err != nil {
		log.Fatal(err)
	}
}

// modules are Go, and the modules of which the program is built.
func modules() (list []work, err error) {
	root, err := exec.Command("go", "env", "GOROOT").Output()
	if err != nil {
		return nil, err
	}
	list = append(list, work{"golang", goName, "", strings.TrimSpace(string(root))})
	var out []byte
	for _, of := range [][]string{{"./cmd/huekeep"}, {"./cmd/corewasm", "GOOS=js", "GOARCH=wasm"}} {
		c := exec.Command("go", "list", "-deps", "-json=Module", of[0])
		c.Env, c.Stderr = append(os.Environ(), of[1:]...), os.Stderr
		more, err := c.Output()
		if err != nil {
			return nil, fmt.Errorf("go list: %w", err)
		}
		out = append(out, more...)
	}
	seen := map[string]bool{}
	for in := json.NewDecoder(bytes.NewReader(out)); in.More(); {
		var p struct {
			Module *struct {
				Path, Version, Dir string
				Main               bool
				Replace            *struct{ Dir string }
			}
		}
		if err := in.Decode(&p); err != nil {
			return nil, err
		}
		if m := p.Module; m != nil && !m.Main && !seen[m.Path] {
			seen[m.Path] = true
			dir := m.Dir
			if m.Replace != nil {
				dir = m.Replace.Dir
			}
			list = append(list, work{"golang", m.Path, m.Version, dir})
		}
	}
	return list, nil
}

// packages are what the interface depends on at run time, and what that depends on. Fonts have notices of their own.
func packages(ui string, fonts bool) (list []work, err error) {
	var root struct {
		Dependencies map[string]string
		Overrides    map[string]string // with nothing, of what does not ship
	}
	if err := read(filepath.Join(ui, "package.json"), &root); err != nil {
		return nil, err
	}
	todo := slices.Clone(shown)
	for name := range root.Dependencies {
		todo = append(todo, name)
	}
	seen := map[string]bool{}
	for len(todo) > 0 {
		name := todo[0]
		todo = todo[1:]
		if seen[name] || root.Overrides[name] != "" || !fonts && strings.HasPrefix(name, "@fontsource") ||
			strings.HasPrefix(name, "@types/") {
			continue
		}
		seen[name] = true
		dir := filepath.Join(ui, "node_modules", name)
		var p struct {
			Version      string
			Dependencies map[string]string
		}
		if err := read(filepath.Join(dir, "package.json"), &p); err != nil {
			return nil, err
		}
		list = append(list, work{"npm", name, p.Version, dir})
		for more := range p.Dependencies {
			todo = append(todo, more)
		}
	}
	return list, nil
}

// goName is what Go itself is called in the notices.
const goName = "Go, its library and its loader of WebAssembly"

func writeList(all []work) error {
	type component struct{ Name, Version, Kind string }
	list := []component{}
	for _, w := range all {
		if w.name == goName {
			w.name, w.version = "std", strings.TrimPrefix(runtime.Version(), "go")
		}
		list = append(list, component{w.name, w.version, w.kind})
	}
	slices.SortFunc(list, func(a, b component) int {
		return cmp.Or(strings.Compare(a.Kind, b.Kind), strings.Compare(a.Name, b.Name))
	})
	return json.NewEncoder(os.Stdout).Encode(list)
}

func read(name string, into any) error {
	text, err := os.ReadFile(name)
	if err == nil {
		err = json.Unmarshal(text, into)
	}
	if err != nil {
		return fmt.Errorf("%s: %w", name, err)
	}
	return nil
}

// license are files with terms, also of what a package has within its one file as a module of ECMAScript.
var license = regexp.MustCompile(`(?i)^(un)?licen[sc]e|^copying|^notice|^patents|-es-bundle\.js\.licen[sc]e`)

// texts are the licenses of a work; where none lies in it, what it says of itself.
func (w work) texts() (list []string, err error) {
	entries, err := os.ReadDir(w.folder)
	if err != nil {
		return nil, err
	}
	for _, e := range entries {
		if e.Type().IsRegular() && license.MatchString(e.Name()) && !strings.HasSuffix(e.Name(), ".go") {
			text, err := os.ReadFile(filepath.Join(w.folder, e.Name()))
			if err != nil {
				return nil, err
			}
			list = append(list, strings.TrimSpace(strings.ReplaceAll(string(text), "\r", "")))
		}
	}
	if len(list) > 0 {
		return list, nil
	}
	var p struct{ License string }
	if err := read(filepath.Join(w.folder, "package.json"), &p); err == nil && p.License != "" {
		return []string{fmt.Sprintf("License: %s, as its package says.", p.License)}, nil
	}
	for _, e := range entries {
		if filepath.Ext(e.Name()) != ".go" {
			continue
		}
		text, err := os.ReadFile(filepath.Join(w.folder, e.Name()))
		if err != nil {
			return nil, err
		}
		head, _, _ := strings.Cut(string(text), "\npackage ")
		if slices.ContainsFunc(list, func(s string) bool { return s == head }) || !strings.Contains(strings.ToLower(head), "licen") {
			continue
		}
		list = append(list, head)
	}
	if len(list) == 0 {
		return nil, fmt.Errorf("%s says nothing of its license", w.name)
	}
	return list, nil
}

func write(all []work) error {
	under := map[string][]string{}
	for _, w := range all {
		list, err := w.texts()
		if err != nil {
			return err
		}
		for _, text := range list {
			name := strings.TrimSpace(w.name + " " + w.version)
			if !slices.Contains(under[text], name) {
				under[text] = append(under[text], name)
			}
		}
	}
	var texts []string
	for text, names := range under {
		slices.Sort(names)
		texts = append(texts, text)
	}
	slices.SortFunc(texts, func(a, b string) int { return cmp.Or(strings.Compare(under[a][0], under[b][0]), strings.Compare(a, b)) })
	fmt.Println("\n== Code ==")
	for _, text := range texts {
		fmt.Printf("\n-- %s --\n\n%s\n", strings.Join(under[text], "; "), text)
	}
	return nil
}
