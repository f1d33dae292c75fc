package kinds

import (
	"fmt"
	"path"
	"slices"
	"strings"

	"huekeep/core/audit"
	"huekeep/core/audit/scanning"
	"huekeep/core/source"
)

// scanArchive reads every file of a ZIP archive that is of a kind that is read, archives in it included.
func scanArchive(s *scanning.Scanner, p *source.Part, _ string) (string, error) {
	return scanFolder(s, p, nil)
}

// scanBook reads an electronic book (EPUB 3.3): its pages, style sheets, drawings and pictures.
func scanBook(s *scanning.Scanner, p *source.Part, _ string) (string, error) {
	return scanFolder(s, p, func(name string) bool { // what only describes it, and typefaces
		switch scanning.Extension(name) {
		case ".opf", ".ncx", ".ttf", ".otf", ".woff", ".woff2":
			return true
		}
		return name == "mimetype" || strings.HasPrefix(name, "META-INF/")
	})
}

// scanFolder reads the files of an archive but those that are passed over.
func scanFolder(s *scanning.Scanner, p *source.Part, passed func(name string) bool) (string, error) {
	parts, err := p.Parts()
	if err != nil {
		return "", err
	}
	read := 0
	var others []string
	for i, e := range parts {
		name := strings.TrimPrefix(strings.ReplaceAll(e.Name, "\\", "/"), "/")
		if Skipped(name) || passed != nil && passed(name) {
			continue
		}
		if err := s.Watch.At(fmt.Sprintf("file %d of %d, %s", i+1, len(parts), name), float64(i)/float64(len(parts))); err != nil {
			return "", err
		}
		data, err := e.Bytes()
		if err != nil {
			s.Unread(name, err)
			continue
		}
		if len(data) == 0 {
			continue
		}
		k, _, err := s.Table.Of(name, data)
		if err != nil {
			if slices.Contains(extensions, scanning.Extension(name)) {
				s.Unread(name, err)
			} else {
				others = append(others, name)
			}
			e.Release()
			continue
		}
		read++
		if err := s.ScanAs(k, e, name); err != nil {
			return "", err
		}
	}
	if n := len(others); n > 0 {
		s.Note("%s of kinds that are not read: %s.", audit.Plural(n, "file"), scanning.Shorten(strings.Join(others, ", "), 300))
	}
	return audit.Plural(read, "file"), nil
}

// Skipped says whether a file of a folder, by its path, is none of a project: hidden ones, and what programs keep for themselves.
func Skipped(name string) bool {
	for _, piece := range strings.Split(path.Clean(name), "/") {
		if strings.HasPrefix(piece, ".") && piece != "." && piece != ".." || piece == "__MACOSX" || piece == "node_modules" ||
			piece == "Thumbs.db" {
			return true
		}
	}
	return false
}
