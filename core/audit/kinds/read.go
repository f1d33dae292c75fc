package kinds

import (
	"fmt"
	"path"
	"slices"
	"strings"

	"huekeep/core/audit"
	"huekeep/core/audit/datafile"
	"huekeep/core/audit/scanning"
	"huekeep/core/audit/web"
	"huekeep/core/limits"
	"huekeep/core/source"
)

// Options are what a scan may use beside the file.
type Options struct {
	Watch  scanning.Watch
	Frames scanning.Frames // nil if video cannot be looked into
	With   *Together
}

// newShared begins what the files of a project say of each other.
func newShared() []scanning.Shared {
	return []scanning.Shared{scanning.SheetVariables: web.NewVariables(), scanning.DesignTokens: datafile.NewTokens()}
}

// Together are files of one project: what one defines, as a style sheet does with variables, another may use. Their scans are whole when
// Finish was called.
type Together struct {
	shared []scanning.Shared
	scans  []*audit.Scan
	from   []*scanning.Tally
}

// NewTogether begins a project.
func NewTogether() *Together { return &Together{shared: newShared()} }

// Join puts files that were read apart, and are not finished, behind these, as if they had been read with them. An error says that they are
// too many.
func (t *Together) Join(o *Together) error {
	if t.defined()+o.defined() > limits.FoundPlaces {
		return scanning.ErrTooMany
	}
	for i, s := range t.shared {
		s.Join(o.shared[i])
	}
	t.scans, t.from = append(t.scans, o.scans...), append(t.from, o.from...)
	return nil
}

// defined is how many variables the style sheets define.
func (t *Together) defined() int { return t.shared[scanning.SheetVariables].(*web.Variables).Defined() }

// Finish works out what files use of each other. A scan with which that comes to too much says so (audit.Scan.Over).
func (t *Together) Finish() {
	for _, s := range t.shared {
		s.Resolve()
	}
	for i, s := range t.scans {
		s.Uses, s.Over = t.from[i].List(), t.from[i].Check()
	}
}

// Read finds every color in a file. Errors are sentences that name the file.
func Read(name string, data []byte) (*audit.Scan, error) { return ReadWith(name, data, Options{}) }

// ReadWatched is Read for a file that may take long.
func ReadWatched(name string, data []byte, watch scanning.Watch) (*audit.Scan, error) {
	return ReadWith(name, data, Options{Watch: watch})
}

// ReadWith is Read with options.
func ReadWith(name string, data []byte, o Options) (*audit.Scan, error) {
	if len(data) == 0 && emptyText(name) {
		return &audit.Scan{Kind: strings.TrimPrefix(scanning.Extension(name), "."), About: "empty", Notes: []string{}, Parts: 1,
			Alone: true, File: source.Open(path.Base(name), data)}, nil
	}
	k, base, err := kindOf(name, data)
	if err != nil {
		return nil, err
	}
	f := source.Open(base, data)
	project := o.With
	if project == nil {
		project = NewTogether()
	}
	s := scanning.New(k.Name, f, o.Watch.Steady(), o.Frames, theTable{}, project.shared)
	size := func() (n int) {
		for _, own := range project.shared {
			n += own.Size()
		}
		return n
	}
	before := size()
	about, err := k.Scan(s, f.Root, base)
	if err == nil {
		if o.With == nil {
			project.Finish()
		}
		err = s.Tally.Check()
	}
	if err != nil {
		return nil, fmt.Errorf("%s: %w", base, err)
	}
	s.Result.About, s.Result.Parts, s.Result.Alone = about, 1+f.Count(), size() == before
	if t := o.With; t != nil { // which has the uses when it is finished
		t.scans, t.from = append(t.scans, s.Result), append(t.from, s.Tally)
	} else {
		s.Result.Uses = s.Tally.List()
	}
	return s.Result, nil
}

// emptyText says whether a file without a byte is one in its kind: a style sheet or a script with nothing in it, which builds leave.
func emptyText(name string) bool {
	for _, k := range kinds() {
		if k.Text && slices.Contains(k.Extensions, scanning.Extension(name)) {
			return scanning.Extension(name) != ".json"
		}
	}
	return false
}

// Recognize says, with a sentence if not, whether a file is of a kind that is read.
func Recognize(name string, data []byte) error {
	if len(data) == 0 && emptyText(name) {
		return nil
	}
	_, _, err := kindOf(name, data)
	return err
}

// IsFolder says whether a file is read as a ZIP archive of others.
func IsFolder(name string, data []byte) bool {
	k, _, err := kindOf(name, data)
	return err == nil && k.Pack == "zip"
}
