// Command release packs what was built into what one installs: Debian packages, archives, an image for containers, the bill of materials
// and the checksums of all of it. From the same files come the same bytes. It is a module of its own, since nothing of what it needs ships.
//
//	go run . -version 1.0.0 -commit f31b… -at 1764619893 -out dist -docs .. amd64=bin/amd64 arm64=bin/arm64 <components.json
//
// Each folder that is named holds the program "huekeep"; components.json is what `go run ./scripts/notices -list` writes.
package main

import (
	"crypto/sha256"
	"encoding/json"
	"flag"
	"fmt"
	"io"
	"log"
	"os"
	"path/filepath"
	"slices"
	"strings"
	"time"
)

// release is what is packed.
type release struct {
	version string
	commit  string
	at      time.Time // of the commit; everything in it is as old
	out     string
	docs    string // the root of the sources
	built   []build
	parts   []component
}

// build is a program for an architecture, as Go and Debian name it.
type build struct{ arch, program string }

// component is something that others made and that ships.
type component struct{ Name, Version, Kind string }

func main() {
	log.SetFlags(0)
	r := release{}
	at := flag.Int64("at", 0, "when it was committed, in seconds since 1970")
	flag.StringVar(&r.version, "version", "", "as Debian writes versions")
	flag.StringVar(&r.commit, "commit", "", "that it was built from")
	flag.StringVar(&r.out, "out", "dist", "the folder that it is put into")
	flag.StringVar(&r.docs, "docs", "..", "the root of the sources")
	flag.Parse()
	r.at = time.Unix(*at, 0).UTC()
	for _, b := range flag.Args() {
		arch, folder, ok := strings.Cut(b, "=")
		if !ok {
			log.Fatalf("%q is not ARCHITECTURE=FOLDER", b)
		}
		r.built = append(r.built, build{arch, filepath.Join(folder, "huekeep")})
	}
	if r.version == "" || *at == 0 || len(r.built) == 0 {
		log.Fatal("there is no version, no time or nothing that was built")
	}
	if err := json.NewDecoder(os.Stdin).Decode(&r.parts); err != nil {
		log.Fatalf("the components: %v", err)
	}
	if err := r.pack(); err != nil {
		log.Fatal(err)
	}
}

func (r release) pack() error {
	if err := os.MkdirAll(r.out, 0o755); err != nil {
		return err
	}
	for _, b := range r.built {
		if err := r.debian(b); err != nil {
			return fmt.Errorf("the package for %s: %w", b.arch, err)
		}
		if err := r.archive(b); err != nil {
			return fmt.Errorf("the archive for %s: %w", b.arch, err)
		}
	}
	if err := r.image(); err != nil {
		return fmt.Errorf("the image: %w", err)
	}
	if err := r.materials(); err != nil {
		return fmt.Errorf("the bill of materials: %w", err)
	}
	return r.checksums()
}

// name is the name of a file of the release. What Debian writes as ~ is none for the name of a file on the web.
func (r release) name(of string) string {
	return filepath.Join(r.out, "huekeep-"+strings.ReplaceAll(r.version, "~", "-")+of)
}

// create writes a file of the release that is there wholly or not at all.
func create(path string, write func(w io.Writer) error) error {
	f, err := os.Create(path + ".part")
	if err != nil {
		return err
	}
	if err := write(f); err != nil {
		_ = f.Close()
		return err
	}
	if err := f.Close(); err != nil {
		return err
	}
	return os.Rename(path+".part", path)
}

// sums is the name of the file of checksums, in the form of sha256sum.
const sums = "SHA256SUMS"

func (r release) checksums() error {
	entries, err := os.ReadDir(r.out)
	if err != nil {
		return err
	}
	var lines []string
	for _, e := range entries {
		if e.Name() == sums || e.IsDir() {
			continue
		}
		f, err := os.Open(filepath.Join(r.out, e.Name()))
		if err != nil {
			return err
		}
		sum := sha256.New()
		_, err = io.Copy(sum, f)
		_ = f.Close()
		if err != nil {
			return err
		}
		lines = append(lines, fmt.Sprintf("%x  %s\n", sum.Sum(nil), e.Name()))
	}
	slices.Sort(lines)
	return create(filepath.Join(r.out, sums), func(w io.Writer) error {
		_, err := io.WriteString(w, strings.Join(lines, ""))
		return err
	})
}
