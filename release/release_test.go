package main

import (
	"archive/tar"
	"bytes"
	"compress/gzip"
	"encoding/json"
	"errors"
	"io"
	"os"
	"os/exec"
	"path/filepath"
	"runtime"
	"strings"
	"testing"
	"time"
)

func TestPackageURLs(t *testing.T) {
	for want, c := range map[string]component{
		"pkg:golang/golang.org/x/text@v0.30.0":               {"golang.org/x/text", "v0.30.0", "golang"},
		"pkg:npm/%40tanstack/svelte-query@6.3.6":             {"@tanstack/svelte-query", "6.3.6", "npm"},
		"pkg:npm/svelte@5.1.0":                               {"svelte", "5.1.0", "npm"},
		"pkg:golang/github.com/a/b@v0.0.0-2026+incompatible": {"github.com/a/b", "v0.0.0-2026+incompatible", "golang"},
	} {
		if got := purl(c); got != want {
			t.Errorf("%v is %s and not %s", c, got, want)
		}
	}
}

// program stands for the real one: it writes a manual page and what completes it.
const program = "#!/bin/sh\ncase $1 in man) echo page >\"$2/huekeep.1\" ;; completion) echo \"for $2\" ;; esac\n"

func packed(t *testing.T) (release, map[string][]byte) {
	t.Helper()
	r := release{version: "1.2.3~rc1", commit: "abc", at: time.Unix(1764619893, 0).UTC(), out: t.TempDir(), docs: "..", parts: []component{{"svelte", "5.1.0", "npm"}}}
	for _, arch := range []string{"amd64", "arm64"} {
		folder := t.TempDir()
		if err := os.WriteFile(filepath.Join(folder, "huekeep"), []byte(program), 0o755); err != nil {
			t.Fatal(err)
		}
		r.built = append(r.built, build{arch, filepath.Join(folder, "huekeep")})
	}
	if err := r.pack(); err != nil {
		t.Fatal(err)
	}
	out := map[string][]byte{}
	entries, err := os.ReadDir(r.out)
	if err != nil {
		t.Fatal(err)
	}
	for _, e := range entries {
		if out[e.Name()], err = os.ReadFile(filepath.Join(r.out, e.Name())); err != nil {
			t.Fatal(err)
		}
	}
	return r, out
}

func TestTheSameBytesAndWhatIsInThem(t *testing.T) {
	if runtime.GOARCH != "amd64" && runtime.GOARCH != "arm64" {
		t.Skip("nothing is built for " + runtime.GOARCH)
	}
	r, first := packed(t)
	_, second := packed(t)
	if len(first) != 7 {
		t.Errorf("there are %d files", len(first))
	}
	for name, data := range first {
		if !bytes.Equal(data, second[name]) {
			t.Errorf("%s is another one each time", name)
		}
	}
	for _, name := range []string{"huekeep_1.2.3~rc1_amd64.deb", "huekeep-1.2.3-rc1-linux-arm64.tar.gz", "huekeep-1.2.3-rc1.oci.tar", "huekeep-1.2.3-rc1.cdx.json"} {
		if !strings.Contains(string(first[sums]), "  "+name+"\n") {
			t.Errorf("no checksum of %s", name)
		}
	}
	var bom struct{ Components []struct{ Purl string } }
	if err := json.Unmarshal(first["huekeep-1.2.3-rc1.cdx.json"], &bom); err != nil || len(bom.Components) != 1 || bom.Components[0].Purl != "pkg:npm/svelte@5.1.0" {
		t.Errorf("the bill of materials: %v, %v", bom, err)
	}
	z, err := gzip.NewReader(bytes.NewReader(first["huekeep-1.2.3-rc1-linux-amd64.tar.gz"]))
	if err != nil {
		t.Fatal(err)
	}
	modes := map[string]int64{}
	for in := tar.NewReader(z); ; {
		h, err := in.Next()
		if errors.Is(err, io.EOF) {
			break
		} else if err != nil {
			t.Fatal(err)
		}
		modes[h.Name] = h.Mode
		if !h.ModTime.Equal(r.at) || h.Uid != 0 {
			t.Errorf("%s is of %s and of %d", h.Name, h.ModTime, h.Uid)
		}
	}
	for name, mode := range map[string]int64{"huekeep/usr/bin/huekeep": 0o755, "huekeep/etc/huekeep/huekeep.env": 0o640, "huekeep/usr/share/man/man1/huekeep.1.gz": 0o644,
		"huekeep/usr/lib/systemd/system/huekeep.service": 0o644, "huekeep/usr/share/doc/huekeep/alerts.yaml": 0o644} {
		if modes[name] != mode {
			t.Errorf("%s has the mode %o", name, modes[name])
		}
	}
}

// What the package's scripts and the commands around the service are written in is understood by the shell that runs them.
func TestTheScripts(t *testing.T) {
	for _, name := range []string{"postinst", "prerm", "postrm", "huekeep-doctor"} {
		if out, err := exec.Command("sh", "-n", "files/"+name).CombinedOutput(); err != nil {
			t.Errorf("%s: %s", name, out)
		}
	}
}
