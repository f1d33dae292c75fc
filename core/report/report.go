// Package report writes judged files for programs and for people: JSON, SARIF, JUnit, CSV, plain text and a page to print.
package report

import (
	"bytes"
	"cmp"
	"encoding/csv"
	"encoding/json"
	"encoding/xml"
	"fmt"
	"html/template"
	"io"
	"slices"
	"strconv"
	"strings"
	"unicode"

	_ "embed"

	"huekeep/core/audit"
)

// Document is what is written: judged files, and those that could not be read.
type Document struct {
	// the folders that were judged, as they were named; paths of their files begin with them
	Roots    []string       `json:"roots,omitempty"`
	Files    []audit.Report `json:"files"`
	Unread   []audit.Unread `json:"unread"`
	Compared bool           `json:"compared,omitempty"` // with an earlier one: places say what is new
	Version  string         `json:"-"`                  // of the program
	House    string         `json:"-"`                  // whose library judged; stands on each page in print
	Title    string         `json:"-"`                  // of what was judged, and when; likewise
	All      bool           `json:"-"`                  // places are listed in JSON, however many there are
}

// Format is a way to write a document.
type Format struct {
	Name  string
	About string
	Media string
	All   bool // it is of all places, however many
	Write func(w io.Writer, d Document) error
}

// Formats lists the ways to write a document.
var Formats = []Format{
	{"text", "for people, with line and column as compilers write them", "text/plain; charset=utf-8", false, Text},
	{"json", "everything", "application/json", false, JSON},
	{"sarif", "for code hosts (SARIF 2.1.0)", "application/sarif+json", true, SARIF},
	{"junit", "for build servers (JUnit XML)", "application/xml", true, JUnit},
	{"csv", "a row for each place", "text/csv; charset=utf-8", true, CSV},
	{"html", "a page to print, for whoever mends it", "text/html; charset=utf-8", false, HTML},
}

// Find returns a format by its name.
func Find(name string) (Format, error) {
	var names []string
	for _, f := range Formats {
		if f.Name == name {
			return f, nil
		}
		names = append(names, f.Name)
	}
	return Format{}, fmt.Errorf("there is no format %q; there are %s", name, strings.Join(names, ", "))
}

// Score writes a share for people, rounded down so that only all is 100 %.
func Score(s *float64) string {
	if s == nil {
		return "nothing was judged"
	}
	return fmt.Sprintf("%.1f %% on-brand", *s*100)
}

// Share is what part of the uses could not be judged.
func Share(r audit.Report) string {
	n := r.UnjudgedUses()
	if n == 0 {
		return ""
	}
	return fmt.Sprintf(", %.1f %% unjudged", 100*float64(n)/float64(max(1, r.Uses)))
}

// JSON writes everything.
func JSON(w io.Writer, d Document) error {
	if d.Files == nil {
		d.Files = []audit.Report{}
	}
	if d.Unread == nil {
		d.Unread = []audit.Unread{}
	}
	most := d.places()
	var head bytes.Buffer // with the files taken out, each of which is a line of its own: a report can be large
	short := d
	short.Files = []audit.Report{}
	enc := json.NewEncoder(&head)
	enc.SetEscapeHTML(false)
	if err := enc.Encode(short); err != nil {
		return err
	}
	before, after, _ := strings.Cut(head.String(), `"files":[]`)
	if _, err := io.WriteString(w, before+`"files":[`); err != nil {
		return err
	}
	line := json.NewEncoder(w)
	line.SetEscapeHTML(false)
	for i, f := range d.Files {
		between := ","
		if i == 0 {
			between = "\n"
		}
		if _, err := io.WriteString(w, between); err != nil {
			return err
		}
		if most > 0 {
			f = f.Brief(most)
		}
		if err := line.Encode(f); err != nil {
			return err
		}
	}
	_, err := io.WriteString(w, "]"+after)
	return err
}

// writtenPlaces is about how many places a document in JSON lists, of all colors of all files: some megabytes.
const writtenPlaces = 20_000

// places is how many places of each color are listed in JSON; 0 for all.
func (d Document) places() int {
	if d.All {
		return 0
	}
	colors := 1
	for _, f := range d.Files {
		colors += len(f.Colors)
	}
	return max(3, min(audit.BriefPlaces, writtenPlaces/colors))
}

// said is what is told of a color.
func said(c audit.Judged) string {
	name := c.Hex
	switch {
	case c.Spot != "":
		name = "the ink " + c.Spot
	case c.CMYK != "":
		name = c.CMYK
	case c.Wide != "":
		name = c.Wide
	}
	text := fmt.Sprintf("%s %s", c.Verdict, name)
	if c.Nearest != nil {
		text += fmt.Sprintf(", nearest %s %s (%.1f %s)", c.Nearest.Name, c.Nearest.Hex, c.Nearest.DeltaE, c.Nearest.Word)
		if c.Nearest.Successor != "" {
			text += ", use " + c.Nearest.Successor
		}
	}
	return text
}

// lines writes a line, whatever the names in it hold: a file cannot make two of one, or speak to a terminal.
type lines struct{ to io.Writer }

func (l lines) printf(format string, args ...any) {
	text := strings.Map(func(r rune) rune {
		if unicode.IsControl(r) {
			return ' '
		}
		return r
	}, fmt.Sprintf(format, args...))
	fmt.Fprintln(l.to, text)
}

// finding is a line of Text: what was found at a place of a file.
type finding struct {
	line, column int
	text, where  string
	times        int
}

// mostPlaces is how many places of one color Text names.
const mostPlaces = 8

// Text writes files with what wants a decision, place by place in the order of the file; those without anything to say are only counted.
// What could not be read belongs where errors go.
func Text(to io.Writer, d Document) error {
	w := lines{to}
	colored, wanted, unjudged, unread, news := 0, 0, 0, len(d.Unread), 0
	for i, r := range d.Files {
		if r.Uses > 0 {
			colored++
		}
		wanted += r.Findings()
		unjudged += r.UnjudgedUses()
		fresh := 0
		each(&d.Files[i], func(k known, _ int, n *int) {
			if !k.verdict.Fine() {
				fresh += *n
			}
		})
		news += fresh
		unread += len(r.Unread)
		if r.Uses == 0 && len(r.Unread) == 0 && len(r.Notes) == 0 && len(d.Files) > 1 {
			continue
		}
		w.printf("%s: %s, %s, %s%s", r.Path, r.About, numbered(r.Uses, "use", "uses"), Score(r.Score), Share(r))
		list, more := findings(r, d.Compared)
		if old := r.Findings() + r.UnjudgedUses() - fresh; d.Compared && old > 0 {
			more = append(more, numbered(old, "use is", "uses are")+" in the baseline")
		}
		for _, f := range list {
			times := ""
			if f.times > 1 {
				times = fmt.Sprintf(", %d times", f.times)
			}
			w.printf("%s %s (%s%s)", at(r.Path, f.line, f.column), f.text, f.where, times)
		}
		for _, text := range more {
			w.printf("%s: %s", r.Path, text)
		}
		for _, u := range r.Unread {
			w.printf("%s: not read: %s: %s", r.Path, u.Path, u.Why)
		}
		for _, c := range r.Causes {
			if c.Colors > 1 {
				w.printf("%s: %s of %d colors, one cause: %s", r.Path, numbered(c.Uses, "use", "uses"), c.Colors, c.Text)
			}
		}
		for _, n := range r.Notes {
			w.printf("%s: %s", r.Path, n)
		}
	}
	if len(d.Files) > 1 {
		text := fmt.Sprintf("%d files, %d with colors; %s neither on-brand nor excused", len(d.Files), colored,
			numbered(wanted, "use is", "uses are"))
		if unjudged > 0 {
			text += fmt.Sprintf(", %d could not be judged", unjudged)
		}
		if d.Compared {
			text += fmt.Sprintf("; %s new", numbered(news, "is", "are"))
		}
		if unread > 0 {
			text += "; " + numbered(unread, "file or part", "files or parts") + " could not be read"
		}
		w.printf("%s", text)
	}
	return nil
}

// findings lists what is at the places of a file, new places only of one that was compared, and says what more there is.
func findings(r audit.Report, compared bool) (list []finding, more []string) {
	at := map[finding]int{}
	add := func(f finding, times int) {
		i, ok := at[f]
		if !ok {
			i = len(list)
			at[f] = i
			list = append(list, f)
		}
		list[i].times += times
	}
	for _, c := range r.Colors {
		if c.Verdict.Fine() {
			continue
		}
		places := c.Places
		if compared {
			places = slices.DeleteFunc(slices.Clone(places), func(p audit.Place) bool { return p.New == 0 })
		}
		for _, p := range places[:min(mostPlaces, len(places))] {
			if compared {
				p.Count = p.New
			}
			add(finding{p.Line, p.Column, said(c), p.Value + ", " + place(r.Path, p.Where, p.Line), 0}, max(1, p.Count))
		}
		n := len(places) - mostPlaces
		if !compared {
			n = max(0, n) + c.Unlisted.Places
		} else if c.Unlisted.New > 0 { // of which it is not known in how many places they are
			more = append(more, "and "+numbered(c.Unlisted.New, "more use", "more uses")+" of "+c.Hex)
		}
		if n > 0 {
			more = append(more, "and "+numbered(n, "more place", "more places")+" of "+c.Hex)
		}
	}
	const most = 20
	undecided := r.Unjudged
	if compared {
		undecided = slices.DeleteFunc(slices.Clone(undecided), func(u audit.Undecided) bool { return u.New == 0 })
	}
	for _, u := range undecided[:min(most, len(undecided))] {
		add(finding{u.Line, u.Column, "unjudged " + u.Value + ": " + u.Why, place(r.Path, u.Where, u.Line), 0}, max(1, u.Count))
	}
	n := max(0, len(undecided)-most)
	for _, u := range undecided {
		if !compared {
			n += u.Unlisted.Places
		}
	}
	if n > 0 {
		more = append(more, "and "+numbered(n, "more place", "more places")+" that could not be judged")
	}
	slices.SortStableFunc(list, func(a, b finding) int { return cmp.Or(a.line-b.line, a.column-b.column) })
	return list, more
}

func numbered(n int, one, many string) string {
	if n == 1 {
		return "1 " + one
	}
	return strconv.Itoa(n) + " " + many
}

func at(path string, line, column int) string {
	if line == 0 {
		return path + ":"
	}
	return fmt.Sprintf("%s:%d:%d:", path, line, column)
}

// place is a place without the file and the line that stand in front of it already.
func place(path, where string, line int) string {
	if line == 0 {
		return where
	}
	if _, rest, ok := strings.Cut(where, ", "); ok && !strings.Contains(where, " > ") {
		return rest
	}
	return where
}

// CSV writes a row for each place.
func CSV(w io.Writer, d Document) error {
	c := csv.NewWriter(w)
	head := []string{"path", "kind", "verdict", "found", "hex", "value", "nearest", "nearest hex", "deltaE", "successor", "count", "where",
		"line", "column", "note"}
	if d.Compared {
		head = append(head, "new")
	}
	row := func(cells ...string) {
		_ = c.Write(append(cells, make([]string, len(head))...)[:len(head)]) // the error comes with Flush
	}
	row(head...)
	for _, r := range d.Files {
		for _, k := range r.Colors {
			name, hex, de, successor := "", "", "", ""
			if k.Nearest != nil {
				name, hex, de, successor = k.Nearest.Name, k.Nearest.Hex, strconv.FormatFloat(k.Nearest.DeltaE, 'f', 2, 64),
					k.Nearest.Successor
			}
			note := k.Reason
			if k.Excuse != nil {
				note = k.Excuse.Reason
			}
			for _, p := range k.Places {
				row(cell(r.Path), r.Kind, string(k.Verdict), cell(k.Key), k.Hex, cell(p.Value), cell(name), hex, de, cell(successor),
					strconv.Itoa(p.Count), cell(p.Where), number(p.Line), number(p.Column), cell(note), number(p.New))
			}
		}
		for _, u := range r.Unjudged {
			row(cell(r.Path), r.Kind, "unjudged", "", "", cell(u.Value), "", "", "", "", strconv.Itoa(u.Count), cell(u.Where),
				number(u.Line), number(u.Column), cell(u.Why), number(u.New))
		}
	}
	for _, u := range d.Unread {
		row(cell(u.Path), "", "not read", "", "", "", "", "", "", "", "", "", "", "", cell(u.Why))
	}
	c.Flush()
	return c.Error()
}

func number(n int) string {
	if n == 0 {
		return ""
	}
	return strconv.Itoa(n)
}

// cell keeps a sheet program from taking a text for a formula.
func cell(s string) string {
	if s != "" && strings.ContainsRune("=+-@\t\r", rune(s[0])) {
		return "'" + s
	}
	return s
}

// What is written of the Static Analysis Results Interchange Format 2.1.0 (OASIS), by the numbers of its sections.
type (
	sarifText struct { // 3.12
		Text string `json:"text"`
	}
	sarifRule struct { // 3.49
		ID    string    `json:"id"`
		Short sarifText `json:"shortDescription"`
	}
	sarifRegion struct { // 3.30
		Line   int `json:"startLine"`
		Column int `json:"startColumn,omitempty"`
	}
	sarifArtifact struct { // 3.4
		URI string `json:"uri"`
	}
	sarifPhysical struct { // 3.29
		Artifact sarifArtifact `json:"artifactLocation"`
		Region   *sarifRegion  `json:"region,omitempty"`
	}
	sarifLogical struct { // 3.33
		Name string `json:"fullyQualifiedName"`
	}
	sarifLocation struct { // 3.28
		Physical sarifPhysical  `json:"physicalLocation"`
		Logical  []sarifLogical `json:"logicalLocations,omitempty"`
	}
	sarifSuppression struct { // 3.35
		Kind          string `json:"kind"`
		Status        string `json:"status"`
		Justification string `json:"justification"`
	}
	sarifResult struct { // 3.27
		Rule         string             `json:"ruleId"`
		Level        string             `json:"level"`
		Message      sarifText          `json:"message"`
		Locations    []sarifLocation    `json:"locations"`
		Fingerprints map[string]string  `json:"partialFingerprints"`
		Baseline     string             `json:"baselineState,omitempty"`
		Suppressions []sarifSuppression `json:"suppressions,omitempty"`
	}
	sarifNotification struct { // 3.58
		Level     string          `json:"level"`
		Message   sarifText       `json:"message"`
		Locations []sarifLocation `json:"locations"`
	}
)

// sarifSpot is a place of a file; without a line it is the file as a whole.
func sarifSpot(path, where string, line, column int) []sarifLocation {
	l := sarifLocation{Physical: sarifPhysical{Artifact: sarifArtifact{uri(path)}}, Logical: []sarifLogical{{where}}}
	if line > 0 {
		l.Physical.Region = &sarifRegion{line, column}
	}
	return []sarifLocation{l}
}

// sarifResults are the findings of a file, a place each.
func (d Document) sarifResults(r audit.Report) (out []sarifResult) {
	seen := map[string]int{}
	add := func(v audit.Verdict, key, message, where string, line, column, fresh int, excuse *audit.Excuse) {
		x := sarifResult{Rule: string(v), Level: v.Sort().Level, Message: sarifText{message},
			Locations:    sarifSpot(r.Path, where, line, column),
			Fingerprints: map[string]string{"hueKeep/v1": d.fingerprint(r.Path, known{v, key, audit.WithoutLine(where)}, seen)}}
		if d.Compared {
			x.Baseline = "unchanged"
			if fresh > 0 {
				x.Baseline = "new"
			}
		}
		if excuse != nil {
			x.Suppressions = []sarifSuppression{{"external", "accepted", excuse.Reason}}
		}
		out = append(out, x)
	}
	for _, c := range r.Colors {
		if c.Verdict == audit.OnBrand {
			continue
		}
		for _, p := range c.Places {
			add(c.Verdict, c.Key, said(c)+", written as "+p.Value, p.Where, p.Line, p.Column, p.New, c.Excuse)
		}
	}
	for _, u := range r.Unjudged {
		add(audit.Unjudged, u.Value, u.Value+" could not be judged: "+u.Why, u.Where, u.Line, u.Column, u.New, nil)
	}
	return out
}

// SARIF writes the results in the Static Analysis Results Interchange Format 2.1.0 (OASIS).
func SARIF(w io.Writer, d Document) error {
	rules, results, notes := []sarifRule{}, []sarifResult{}, []sarifNotification{}
	for _, s := range audit.Sorts() {
		if s.Word != audit.OnBrand {
			rules = append(rules, sarifRule{string(s.Word), sarifText{"A found color: " + s.Means}})
		}
	}
	for _, r := range d.Files {
		results = append(results, d.sarifResults(r)...)
	}
	for _, u := range d.Unread {
		notes = append(notes, sarifNotification{"error", sarifText{u.Why}, sarifSpot(u.Path, u.Path, 0, 0)})
	}
	enc := json.NewEncoder(w)
	enc.SetEscapeHTML(false)
	enc.SetIndent("", "  ")
	return enc.Encode(map[string]any{
		"$schema": "https://docs.oasis-open.org/sarif/sarif/v2.1.0/errata01/os/schemas/sarif-schema-2.1.0.json", "version": "2.1.0",
		"runs": []any{map[string]any{
			"tool": map[string]any{"driver": map[string]any{"name": "Hue Keep", "version": cmp.Or(d.Version, "unknown"),
				"rules": rules}},
			"columnKind":  "unicodeCodePoints",
			"results":     results,
			"invocations": []any{map[string]any{"executionSuccessful": len(d.Unread) == 0, "toolExecutionNotifications": notes}},
		}},
	})
}

// uri is a path as a relative reference (RFC 3986).
func uri(path string) string {
	var b strings.Builder
	for i := range len(path) {
		c := path[i]
		switch {
		case c == '\\':
			b.WriteByte('/')
		case c >= 'a' && c <= 'z' || c >= 'A' && c <= 'Z' || c >= '0' && c <= '9' || strings.IndexByte("-._~/", c) >= 0:
			b.WriteByte(c)
		default:
			fmt.Fprintf(&b, "%%%02X", c)
		}
	}
	return b.String()
}

// JUnit writes a suite for each file with a case for each found color.
func JUnit(w io.Writer, d Document) error {
	type failure struct {
		Message string `xml:"message,attr"`
		Type    string `xml:"type,attr"`
		Text    string `xml:",chardata"`
	}
	type skipped struct {
		Message string `xml:"message,attr"`
	}
	type testCase struct {
		Name    string   `xml:"name,attr"`
		Class   string   `xml:"classname,attr"`
		Failure *failure `xml:"failure,omitempty"`
		Error   *failure `xml:"error,omitempty"`
		Skipped *skipped `xml:"skipped,omitempty"`
	}
	type suite struct {
		Name     string     `xml:"name,attr"`
		Tests    int        `xml:"tests,attr"`
		Failures int        `xml:"failures,attr"`
		Errors   int        `xml:"errors,attr"`
		Skipped  int        `xml:"skipped,attr"`
		Cases    []testCase `xml:"testcase"`
	}
	type suites struct {
		XMLName xml.Name `xml:"testsuites"`
		Suites  []suite  `xml:"testsuite"`
	}
	var out suites
	for _, r := range d.Files {
		s := suite{Name: clean(r.Path)}
		for _, c := range r.Colors {
			t := testCase{Name: clean(c.Key), Class: clean(r.Path)}
			if !c.Verdict.Fine() {
				var places []string
				for _, p := range c.Places {
					if p.New > 0 || !d.Compared {
						places = append(places, fmt.Sprintf("%s (%s)", p.Where, p.Value))
					}
				}
				if len(places) == 0 {
					t.Skipped = &skipped{clean(said(c) + ", in the baseline")}
					s.Skipped++
				} else {
					t.Failure = &failure{clean(said(c)), string(c.Verdict), clean(strings.Join(places, "\n"))}
					s.Failures++
				}
			}
			s.Cases = append(s.Cases, t)
		}
		for _, u := range r.Unjudged {
			t := testCase{Name: clean(u.Value + " at " + u.Where), Class: clean(r.Path)}
			if d.Compared && u.New == 0 {
				t.Skipped = &skipped{clean(u.Why + ", in the baseline")}
				s.Skipped++
			} else {
				t.Failure = &failure{clean(u.Why), "unjudged", clean(u.Where)}
				s.Failures++
			}
			s.Cases = append(s.Cases, t)
		}
		s.Tests = len(s.Cases)
		out.Suites = append(out.Suites, s)
	}
	for _, u := range d.Unread {
		out.Suites = append(out.Suites, suite{Name: clean(u.Path), Tests: 1, Errors: 1,
			Cases: []testCase{{Name: "read", Class: clean(u.Path), Error: &failure{clean(u.Why), "unread", ""}}}})
	}
	if _, err := io.WriteString(w, xml.Header); err != nil {
		return err
	}
	enc := xml.NewEncoder(w)
	enc.Indent("", "  ")
	if err := enc.Encode(out); err != nil {
		return err
	}
	_, err := io.WriteString(w, "\n")
	return err
}

// clean leaves out what XML cannot hold.
func clean(s string) string {
	return strings.Map(func(r rune) rune {
		if r < ' ' && r != '\t' && r != '\n' || r == 0xfffe || r == 0xffff {
			return -1
		}
		return r
	}, s)
}

//go:embed page.html
var pageText string

var page = template.Must(template.New("page").Funcs(template.FuncMap{
	"score":   Score,
	"share":   Share,
	"wanting": func(v audit.Verdict) bool { return !v.Fine() },
	"paint":   func(hex string) template.CSS { return template.CSS("background:" + hex) }, // #nosec: from a color, six digits
	"quoted":  quoted,
	"places":  func(p []audit.Place) []audit.Place { return p[:min(len(p), 200)] },
	"more": func(c audit.Judged) string {
		if n := max(0, len(c.Places)-200) + c.Unlisted.Places; n > 0 {
			return numbered(n, "more place", "more places")
		}
		return ""
	},
	"undone": func(u []audit.Undecided) []audit.Undecided { return u[:min(len(u), 200)] },
}).Parse(pageText))

// quoted is a text as a string of CSS.
func quoted(text string) template.CSS {
	var b strings.Builder
	b.WriteByte('"')
	for _, r := range text {
		if r < ' ' || strings.ContainsRune("\"\\<>&", r) {
			fmt.Fprintf(&b, "\\%x ", r) // CSS Syntax 3, 4.3.7
		} else {
			b.WriteRune(r)
		}
	}
	return template.CSS(b.String() + `"`) // #nosec: every sign that could end it is escaped
}

// HTML writes a page to print: what wants a decision, with patches and places.
func HTML(w io.Writer, d Document) error { return page.Execute(w, d) }
