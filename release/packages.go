package main

import (
	"archive/tar"
	"bytes"
	"compress/gzip"
	"errors"
	"fmt"
	"io"
	"os"
	"os/exec"
	"path"
	"path/filepath"
	"runtime"
	"slices"
	"time"

	"github.com/goreleaser/nfpm/v2"
	"github.com/goreleaser/nfpm/v2/deb"
	"github.com/goreleaser/nfpm/v2/files"
)

// file is one that is installed.
type file struct {
	to     string // absolute
	from   string // a path, unless there is text
	text   []byte
	mode   os.FileMode
	config bool // whoever runs it changes it
}

// documents come along, for whoever has no network at hand.
var documents = []string{"README.md", "docs/operations.md", "docs/programs.md", "docs/builds.md", "docs/formats.md", "docs/security.md",
	"docs/alerts.yaml", "docs/dashboard.json"}

// installed is what an installation has, in the places of Debian.
func (r release) installed(b build) (list []file, err error) {
	list = []file{
		{to: "/usr/bin/huekeep", from: b.program, mode: 0o755},
		{to: "/usr/sbin/huekeep-doctor", from: "files/huekeep-doctor", mode: 0o755},
		{to: "/usr/sbin/huekeep-do", from: "files/huekeep-doctor", mode: 0o755},
		{to: "/usr/lib/systemd/system/huekeep.service", from: "files/huekeep.service", mode: 0o644},
		{to: "/etc/huekeep/huekeep.env", from: "files/huekeep.env", mode: 0o640, config: true},
	}
	for _, d := range documents {
		if _, err := os.Stat(filepath.Join(r.docs, d)); errors.Is(err, os.ErrNotExist) { // of a commit from before it was written
			fmt.Fprintln(os.Stderr, "there is no", d)
			continue
		}
		list = append(list, file{to: path.Join("/usr/share/doc/huekeep", path.Base(d)), from: filepath.Join(r.docs, d), mode: 0o644})
	}
	var notices []byte
	for _, n := range []string{"ui/notices.txt", "ui/notices-code.txt"} {
		text, err := os.ReadFile(filepath.Join(r.docs, n))
		if err != nil {
			return nil, err
		}
		notices = append(notices, text...)
	}
	list = append(list, file{to: "/usr/share/doc/huekeep/copyright", text: notices, mode: 0o644})
	// What the program says of itself is the same on every architecture; the one of this machine is asked.
	asked := slices.IndexFunc(r.built, func(b build) bool { return b.arch == runtime.GOARCH })
	if asked < 0 {
		return nil, fmt.Errorf("none of what was built runs on %s", runtime.GOARCH)
	}
	program, err := filepath.Abs(r.built[asked].program)
	if err != nil {
		return nil, err
	}
	folder, err := os.MkdirTemp("", "release-")
	if err != nil {
		return nil, err
	}
	defer os.RemoveAll(folder)
	man := exec.Command(program, "man", folder)
	man.Env = append(os.Environ(), fmt.Sprintf("SOURCE_DATE_EPOCH=%d", r.at.Unix()))
	if out, err := man.CombinedOutput(); err != nil {
		return nil, fmt.Errorf("manual pages: %w: %s", err, out)
	}
	pages, err := filepath.Glob(filepath.Join(folder, "*.1"))
	if err != nil {
		return nil, err
	}
	packed := map[string]string{"/usr/share/man/man8/huekeep-do.8.gz": "files/huekeep-do.8",
		"/usr/share/doc/huekeep/changelog.gz": filepath.Join(r.docs, "CHANGELOG.md")}
	for _, p := range pages {
		packed["/usr/share/man/man1/"+filepath.Base(p)+".gz"] = p
	}
	for to, from := range packed {
		text, err := zipped(from)
		if err != nil {
			return nil, err
		}
		list = append(list, file{to: to, text: text, mode: 0o644})
	}
	for shell, to := range map[string]string{"bash": "/usr/share/bash-completion/completions/huekeep",
		"zsh": "/usr/share/zsh/vendor-completions/_huekeep", "fish": "/usr/share/fish/vendor_completions.d/huekeep.fish"} {
		text, err := exec.Command(program, "completion", shell).Output()
		if err != nil {
			return nil, fmt.Errorf("completion of %s: %w", shell, err)
		}
		list = append(list, file{to: to, text: text, mode: 0o644})
	}
	slices.SortFunc(list, func(a, b file) int { return bytes.Compare([]byte(a.to), []byte(b.to)) })
	return list, nil
}

// zipped is a file as gzip packs it, without its name and time.
func zipped(path string) ([]byte, error) {
	text, err := os.ReadFile(path)
	if err != nil {
		return nil, err
	}
	var out bytes.Buffer
	z, err := gzip.NewWriterLevel(&out, gzip.BestCompression)
	if err != nil {
		return nil, err
	}
	if _, err := z.Write(text); err != nil {
		return nil, err
	}
	if err := z.Close(); err != nil {
		return nil, err
	}
	return out.Bytes(), nil
}

// debian writes the Debian package.
func (r release) debian(b build) error {
	list, err := r.installed(b)
	if err != nil {
		return err
	}
	folder, err := os.MkdirTemp("", "release-")
	if err != nil {
		return err
	}
	defer os.RemoveAll(folder)
	info := &nfpm.Info{
		Name: "huekeep", Arch: b.arch, Platform: "linux", Version: r.version, VersionSchema: "none", Section: "web", Priority: "optional",
		Maintainer: "The makers of Hue Keep <makers@huekeep.invalid>", MTime: r.at,
		Description: "master library of a house's colors\nKeeps the brand colors of a house as screen values, builds and inks, sends\nthem as swatch sets to office, video and web applications, and finds\noff-brand colors in files.",
		Overridables: nfpm.Overridables{
			Depends:    []string{"adduser"},
			Recommends: []string{"mariadb-server-core", "mariadb-client-core", "ca-certificates"},
			Suggests:   []string{"ffmpeg", "libreoffice-impress", "libreoffice-writer", "libreoffice-calc", "mariadb-server"},
			Scripts:    nfpm.Scripts{PostInstall: "files/postinst", PreRemove: "files/prerm", PostRemove: "files/postrm"},
			Deb:        nfpm.Deb{Compression: "xz"},
		},
	}
	for i, f := range list {
		if f.text != nil {
			f.from = filepath.Join(folder, fmt.Sprint(i))
			if err := os.WriteFile(f.from, f.text, 0o600); err != nil {
				return err
			}
		}
		c := &files.Content{Source: f.from, Destination: f.to, FileInfo: &files.ContentFileInfo{Owner: "root", Group: "root", Mode: f.mode,
			MTime: r.at}}
		if f.config {
			c.Type = files.TypeConfigNoReplace
		}
		info.Contents = append(info.Contents, c)
	}
	if err := nfpm.PrepareForPackager(info, "deb"); err != nil {
		return err
	}
	return create(filepath.Join(r.out, fmt.Sprintf("huekeep_%s_%s.deb", r.version, b.arch)),
		func(w io.Writer) error { return deb.Default.Package(info, w) })
}

// archive writes a tar of the same, for systems that have no packages of Debian.
func (r release) archive(b build) error {
	list, err := r.installed(b)
	if err != nil {
		return err
	}
	return create(r.name("-linux-"+b.arch+".tar.gz"), func(w io.Writer) error {
		z, err := gzip.NewWriterLevel(w, gzip.BestCompression)
		if err != nil {
			return err
		}
		t := tar.NewWriter(z)
		for _, f := range list {
			if f.text == nil {
				if f.text, err = os.ReadFile(f.from); err != nil {
					return err
				}
			}
			if err := entry(t, "huekeep"+f.to, f.mode, r.at, f.text); err != nil {
				return err
			}
		}
		if err := t.Close(); err != nil {
			return err
		}
		return z.Close()
	})
}

// entry writes a file of nobody in particular into a tar.
func entry(t *tar.Writer, name string, mode os.FileMode, at time.Time, data []byte) error {
	if err := t.WriteHeader(&tar.Header{Name: name, Mode: int64(mode), Size: int64(len(data)), ModTime: at, Typeflag: tar.TypeReg,
		Format: tar.FormatGNU}); err != nil {
		return err
	}
	_, err := t.Write(data)
	return err
}
