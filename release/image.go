package main

import (
	"archive/tar"
	"bytes"
	"fmt"
	"io"
	"io/fs"
	"os"
	"path/filepath"

	v1 "github.com/google/go-containerregistry/pkg/v1"
	"github.com/google/go-containerregistry/pkg/v1/empty"
	"github.com/google/go-containerregistry/pkg/v1/layout"
	"github.com/google/go-containerregistry/pkg/v1/mutate"
	"github.com/google/go-containerregistry/pkg/v1/tarball"
)

// nobody is the account of the program in the image.
const nobody = 65532

// image writes an image for containers of all architectures, as a tar of an OCI layout. There is nothing in it but the program, a folder
// for its data and one for temporary files; the database is another container's.
func (r release) image() error {
	index := v1.ImageIndex(empty.Index)
	for _, b := range r.built {
		program, err := os.ReadFile(b.program)
		if err != nil {
			return err
		}
		var files bytes.Buffer
		t := tar.NewWriter(&files)
		for _, d := range []struct {
			name  string
			mode  int64
			owner int
		}{{"data/", 0o700, nobody}, {"tmp/", 0o1777, 0}, {"usr/", 0o755, 0}, {"usr/bin/", 0o755, 0}} {
			if err := t.WriteHeader(&tar.Header{Name: d.name, Mode: d.mode, Uid: d.owner, Gid: d.owner, ModTime: r.at,
				Typeflag: tar.TypeDir, Format: tar.FormatGNU}); err != nil {
				return err
			}
		}
		if err := entry(t, "usr/bin/huekeep", 0o755, r.at, program); err != nil {
			return err
		}
		if err := t.Close(); err != nil {
			return err
		}
		layer, err := tarball.LayerFromOpener(func() (io.ReadCloser, error) { return io.NopCloser(bytes.NewReader(files.Bytes())), nil })
		if err != nil {
			return err
		}
		one, err := mutate.Append(empty.Image,
			mutate.Addendum{Layer: layer, History: v1.History{Created: v1.Time{Time: r.at}, CreatedBy: "make release"}})
		if err != nil {
			return err
		}
		c, err := one.ConfigFile()
		if err != nil {
			return err
		}
		c = c.DeepCopy()
		c.Architecture, c.OS, c.Created = b.arch, "linux", v1.Time{Time: r.at}
		c.Config = v1.Config{
			User: fmt.Sprintf("%d:%d", nobody, nobody), WorkingDir: "/data", Entrypoint: []string{"/usr/bin/huekeep"},
			Cmd:          []string{"serve"},
			Env:          []string{"PATH=/usr/bin", "HUEKEEP_DATA=/data", "HUEKEEP_ADDRESS=0.0.0.0:7180", "XDG_CACHE_HOME=/data/cache"},
			ExposedPorts: map[string]struct{}{"7180/tcp": {}}, Volumes: map[string]struct{}{"/data": {}},
			Labels: map[string]string{"org.opencontainers.image.title": "Hue Keep", "org.opencontainers.image.version": r.version,
				"org.opencontainers.image.revision": r.commit},
		}
		if one, err = mutate.ConfigFile(one, c); err != nil {
			return err
		}
		index = mutate.AppendManifests(index,
			mutate.IndexAddendum{Add: one, Descriptor: v1.Descriptor{Platform: &v1.Platform{OS: "linux", Architecture: b.arch}}})
	}
	folder, err := os.MkdirTemp("", "release-")
	if err != nil {
		return err
	}
	defer os.RemoveAll(folder)
	to, err := layout.Write(folder, empty.Index)
	if err != nil {
		return err
	}
	if err := to.AppendIndex(index, layout.WithAnnotations(map[string]string{"org.opencontainers.image.ref.name": r.version})); err != nil {
		return err
	}
	return create(r.name(".oci.tar"), func(w io.Writer) error {
		t := tar.NewWriter(w)
		if err := filepath.WalkDir(folder, func(path string, e fs.DirEntry, err error) error { // in the order of names
			if err != nil || e.IsDir() {
				return err
			}
			data, err := os.ReadFile(path)
			if err != nil {
				return err
			}
			name, err := filepath.Rel(folder, path)
			if err != nil {
				return err
			}
			return entry(t, filepath.ToSlash(name), 0o644, r.at, data)
		}); err != nil {
			return err
		}
		return t.Close()
	})
}
