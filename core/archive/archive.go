// Package archive opens ZIP-based documents with limits on everything that comes out of them.
package archive

import (
	"archive/zip"
	"bytes"
	"fmt"
	"io"
	"strings"

	"huekeep/core/limits"
)

// Is says whether data begins like a ZIP archive, be it an empty one. A table may begin with the letters PK.
func Is(data []byte) bool {
	return bytes.HasPrefix(data, []byte("PK\x03\x04")) || bytes.HasPrefix(data, []byte("PK\x05\x06"))
}

// Archive is a ZIP-based document whose entries are opened with a limit on what comes out of each and of all together.
type Archive struct {
	Files map[string]*zip.File // by name, without a leading slash
	left  int64                // bytes that may still be unpacked
}

// Open reads the directory of a ZIP archive and refuses absurd ones before anything is unpacked.
func Open(data []byte) (*Archive, error) {
	z, err := zip.NewReader(bytes.NewReader(data), int64(len(data)))
	if err != nil {
		return nil, fmt.Errorf("it is not a whole ZIP archive: its directory is missing or damaged, as in a file that was cut off")
	}
	if len(z.File) > limits.Entries {
		return nil, fmt.Errorf("it has %d entries; at most %d are read", len(z.File), limits.Entries)
	}
	a := &Archive{Files: map[string]*zip.File{}, left: limits.UnpackedBytes}
	for _, f := range z.File {
		if f.UncompressedSize64 > limits.PartBytes {
			return nil, fmt.Errorf("its part %q unpacks to %s; at most %s are read", f.Name,
				limits.Size(int64(min(f.UncompressedSize64, 1<<62))), limits.Size(limits.PartBytes))
		}
		a.Files[strings.TrimPrefix(f.Name, "/")] = f
	}
	return a, nil
}

// Part returns a reader over one part; reading past the limits is an error that names the part.
func (a *Archive) Part(name string) (io.ReadCloser, error) {
	f, ok := a.Files[name]
	if !ok {
		return nil, fmt.Errorf("its part %q is missing", name)
	}
	r, err := f.Open()
	if err != nil {
		return nil, fmt.Errorf("its part %q cannot be unpacked (%w)", name, err)
	}
	return &limited{r, a, name, limits.PartBytes}, nil
}

// Read returns the whole of one part.
func (a *Archive) Read(name string) ([]byte, error) {
	r, err := a.Part(name)
	if err != nil {
		return nil, err
	}
	defer r.Close()
	return io.ReadAll(r)
}

type limited struct {
	io.ReadCloser
	archive *Archive
	name    string
	left    int64
}

func (l *limited) Read(p []byte) (int, error) {
	n, err := l.ReadCloser.Read(p)
	l.left -= int64(n)
	l.archive.left -= int64(n)
	if l.left < 0 || l.archive.left < 0 {
		return n, fmt.Errorf("its part %q unpacks to more than the limit of %s for one part or %s for all", l.name,
			limits.Size(limits.PartBytes), limits.Size(limits.UnpackedBytes))
	}
	if err != nil && err != io.EOF {
		err = fmt.Errorf("its part %q is damaged (%w)", l.name, err)
	}
	return n, err
}
