package report

import (
	"crypto/sha256"
	"encoding/hex"
	"encoding/json"
	"errors"
	"fmt"
	"path"
	"strings"

	"huekeep/core/audit"
)

// Baseline is what an earlier report tells of: a finding is known again by its file, its verdict, its color and its place without the line.
type Baseline struct {
	typed  map[string]map[known]int // uses, by path as it was typed, without what depends on where one stands
	rooted map[string]map[known]int // by path from the folder that was judged; empty where several were
}

// known is what a finding is known again by, in its file.
type known struct {
	verdict    audit.Verdict
	key, where string
}

// ReadBaseline reads a report in JSON, of any version. Anything else is an error.
func ReadBaseline(data []byte) (*Baseline, error) {
	var shape struct {
		Files *[]map[string]json.RawMessage `json:"files"`
	}
	if err := json.Unmarshal(data, &shape); err != nil {
		return nil, fmt.Errorf("it is not a report in JSON: %w", err)
	}
	if shape.Files == nil {
		return nil, errors.New(`it is not a report: it has no list "files"`)
	}
	for i, f := range *shape.Files {
		for _, member := range []string{"path", "uses", "colors", "unjudged"} {
			if f[member] == nil {
				return nil, fmt.Errorf("it is not a report: file %d has no member %q", i+1, member)
			}
		}
	}
	var doc Document
	if err := json.Unmarshal(data, &doc); err != nil {
		return nil, fmt.Errorf("it is not a report in JSON: %w", err)
	}
	b := &Baseline{typed: map[string]map[known]int{}, rooted: map[string]map[known]int{}}
	for i := range doc.Files {
		at := plain(doc.Files[i].Path)
		if b.typed[at] == nil {
			b.typed[at] = map[known]int{}
		}
		each(&doc.Files[i], func(f known, count int, _ *int) { b.typed[at][f] += max(0, count) })
		if len(doc.Roots) == 1 {
			b.rooted[doc.from(doc.Files[i].Path)] = b.typed[at]
		}
	}
	return b, nil
}

// each gives what was found at each place of a file, how often, and where it is noted how much of it is new.
func each(r *audit.Report, f func(of known, count int, fresh *int)) {
	for i := range r.Colors {
		c := &r.Colors[i]
		for k := range c.Places {
			p := &c.Places[k]
			f(known{c.Verdict, c.Key, audit.WithoutLine(p.Where)}, p.Count, &p.New)
		}
		if c.Unlisted.Uses > 0 {
			f(known{c.Verdict, c.Key, unlisted}, c.Unlisted.Uses, &c.Unlisted.New)
		}
	}
	for i := range r.Unjudged {
		u := &r.Unjudged[i]
		f(known{audit.Unjudged, u.Value, audit.WithoutLine(u.Where)}, u.Count, &u.New)
		if u.Unlisted.Uses > 0 {
			f(known{audit.Unjudged, u.Value, unlisted}, u.Unlisted.Uses, &u.Unlisted.New)
		}
	}
}

// unlisted is the place of uses that a brief report only counts. No scanner has such a place.
const unlisted = "\x00"

// from is a path from the folder that was judged; of a file that was named itself, the path as it was typed.
func (d Document) from(name string) string {
	name = plain(name)
	for _, root := range d.Roots {
		if root = plain(root); root == "." {
			return name
		} else if rest, ok := strings.CutPrefix(name, root+"/"); ok {
			return rest
		}
	}
	return name
}

// plain is a path without what depends on where one stands: "./a" and "../c/a" begin at their first name.
func plain(name string) string {
	name = path.Clean(strings.ReplaceAll(name, `\`, "/"))
	for strings.HasPrefix(name, "../") {
		name = name[len("../"):]
	}
	if name != "/" {
		name = strings.TrimPrefix(name, "/")
	}
	return name
}

// file finds the findings of a file: under its path from the folder that is judged, or as it is typed; under the longest path that it ends
// with, as for a file that is judged by itself; or under the only path that ends with its own, as for a folder of what was judged then. A
// name alone says too little for that: what is the name of another file is new.
func (b *Baseline) file(d Document, name string) map[known]int {
	typed := plain(name)
	if len(d.Roots) == 1 {
		if there, ok := b.rooted[d.from(name)]; ok {
			return there
		}
	}
	if there, ok := b.typed[typed]; ok {
		return there
	}
	longest, found := "", map[known]int(nil)
	var ends []map[known]int
	for _, paths := range []map[string]map[known]int{b.typed, b.rooted} {
		for p, there := range paths {
			if strings.Contains(p, "/") && strings.HasSuffix(typed, "/"+p) && len(p) > len(longest) {
				longest, found = p, there
			}
		}
	}
	if found != nil {
		return found
	}
	for p, there := range b.typed {
		if strings.Contains(typed, "/") && strings.HasSuffix(p, "/"+typed) {
			ends = append(ends, there)
		}
	}
	if len(ends) == 1 {
		return ends[0]
	}
	return nil
}

// Compare notes in a document which of its findings a baseline does not have.
func (d *Document) Compare(b *Baseline) {
	d.Compared = true
	for i := range d.Files {
		left := map[known]int{}
		of := map[known]int{} // of a color, wherever it is
		for f, n := range b.file(*d, d.Files[i].Path) {
			left[f] = n
			of[known{f.verdict, f.key, ""}] += n
		}
		take := func(f known, n int) int {
			n = min(n, left[f])
			left[f] -= n
			of[known{f.verdict, f.key, ""}] -= n
			return n
		}
		var rest []func()
		each(&d.Files[i], func(f known, count int, fresh *int) {
			was := take(f, count)
			*fresh = count - was
			if f.where == unlisted && *fresh > 0 { // what is only counted may have been listed then: of what no place was found again
				rest = append(rest, func() {
					n := min(*fresh, of[known{f.verdict, f.key, ""}])
					of[known{f.verdict, f.key, ""}] -= n
					*fresh -= n
				})
			} else if *fresh > 0 { // and what is listed may have been only counted
				*fresh -= take(known{f.verdict, f.key, unlisted}, *fresh)
			}
		})
		for _, f := range rest {
			f()
		}
	}
}

// Failing counts the uses with one of some verdicts; of a document that was compared only what is new.
func (d Document) Failing(verdicts map[audit.Verdict]bool) (n int) {
	for i := range d.Files {
		each(&d.Files[i], func(f known, count int, fresh *int) {
			switch {
			case !verdicts[f.verdict]:
			case d.Compared:
				n += *fresh
			default:
				n += count
			}
		})
	}
	return n
}

// fingerprint is how a finding is known again by programs: it stays when lines move, and tells the places of one file apart.
func (d Document) fingerprint(file string, of known, seen map[string]int) string {
	sum := sha256.Sum256([]byte(strings.Join([]string{d.from(file), string(of.verdict), of.key, of.where}, "\x00")))
	id := hex.EncodeToString(sum[:16])
	seen[id]++
	return fmt.Sprintf("%s:%d", id, seen[id])
}
