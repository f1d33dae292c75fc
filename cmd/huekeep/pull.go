package main

import (
	"context"
	"crypto/sha256"
	"encoding/hex"
	"encoding/json"
	"errors"
	"fmt"
	"io"
	"net/http"
	"net/url"
	"os"
	"path/filepath"
	"slices"
	"strings"
	"time"

	"github.com/spf13/cobra"

	"huekeep/api"
	"huekeep/core/limits"
	"huekeep/core/swatchfile"
)

// newExit is how pull ends when it wrote something.
const newExit = 3

// pulledName is the file in which pull notes what it wrote, so that it asks for what changed only.
const pulledName = ".huekeep-pull.json"

// pulled is a file as it was written.
type pulled struct {
	ETag   string `json:"etag"`
	SHA256 string `json:"sha256"`
}

func pullCommand() *cobra.Command {
	var as, sets []string
	var dir string
	c := &cobra.Command{
		Use:   "pull ADDRESS",
		Short: "Write the current files of a pickup or a public link where they changed; ends with 3 if something is new, with 0 if not",
		Example: "  huekeep pull https://colors.house.example/p/… --as css,tokens -o src/colors\n" +
			"  huekeep pull \"$COLORS\" --as npm -o vendor || [ $? -eq 3 ]",
		Args: cobra.ExactArgs(1),
		RunE: func(cmd *cobra.Command, args []string) error {
			p, err := newPuller(args[0], dir)
			if err != nil {
				return err
			}
			for i, name := range as {
				packing, err := swatchfile.FindPacking(strings.TrimSpace(name))
				if err != nil {
					return err
				}
				as[i] = packing.Name
			}
			n, err := p.pull(cmd.Context(), cmd.OutOrStdout(), as, sets)
			if err != nil {
				return err
			}
			if n > 0 {
				return exitError{newExit, nil}
			}
			return nil
		},
	}
	c.Flags().StringSliceVar(&as, "as", nil, "packings, by name; everything that lies there if it is left out")
	c.Flags().StringSliceVar(&sets, "set", nil, "swatch sets, by name; all if it is left out")
	c.Flags().StringVarP(&dir, "output", "o", ".", "folder to write into; it is made if it is not there")
	return c
}

// puller fetches from one address into one folder.
type puller struct {
	base, token, dir string
	client           *http.Client
	known            map[string]pulled
}

func newPuller(address, dir string) (*puller, error) {
	u, err := url.Parse(address)
	if err != nil || u.Host == "" || u.Scheme != "https" && u.Scheme != "http" {
		return nil, fmt.Errorf("%q is not the address of a pickup or a public link: https://…/p/…", address)
	}
	before, token, ok := strings.Cut(strings.TrimSuffix(u.Path, "/"), "/p/")
	before = strings.TrimSuffix(before, "/api")
	if !ok || token == "" || strings.Contains(token, "/") {
		return nil, fmt.Errorf("%q is not the address of a pickup or a public link: https://…/p/…", address)
	}
	p := &puller{base: u.Scheme + "://" + u.Host + before, token: token, dir: dir, client: &http.Client{Timeout: 2 * time.Minute},
		known: map[string]pulled{}}
	text, err := os.ReadFile(filepath.Join(dir, pulledName))
	if errors.Is(err, os.ErrNotExist) {
		return p, nil
	} else if err != nil {
		return nil, err
	}
	if err := json.Unmarshal(text, &p.known); err != nil {
		return nil, fmt.Errorf("%s is damaged (%v); delete it, and everything is fetched anew", filepath.Join(dir, pulledName), err)
	}
	return p, nil
}

// get asks for an address; what is not an answer is an error in the server's words.
func (p *puller) get(ctx context.Context, path, etag string) (*http.Response, error) {
	req, err := http.NewRequestWithContext(ctx, http.MethodGet, p.base+path, nil)
	if err != nil {
		return nil, err
	}
	req.Header.Set("Authorization", "Bearer "+p.token) // so that the house knows that it is in use
	req.Header.Set("User-Agent", "huekeep-pull")
	if etag != "" {
		req.Header.Set("If-None-Match", etag)
	}
	res, err := p.client.Do(req)
	if err != nil {
		return nil, unreached(p.base, err)
	}
	if res.StatusCode == http.StatusOK || res.StatusCode == http.StatusNotModified {
		return res, nil
	}
	defer res.Body.Close()
	text, _ := io.ReadAll(io.LimitReader(res.Body, 1<<16)) // what came is said
	return nil, problemOf(res, text)
}

// pull writes what changed and says so; it counts what it wrote.
func (p *puller) pull(ctx context.Context, out io.Writer, as, sets []string) (n int, err error) {
	res, err := p.get(ctx, "/api/p/"+p.token, "")
	if err != nil {
		return 0, err
	}
	var list api.Pickup
	err = json.NewDecoder(io.LimitReader(res.Body, limits.UploadBytes)).Decode(&list)
	res.Body.Close()
	if err != nil {
		return 0, fmt.Errorf("what lies there could not be read: %w", err)
	}
	found := map[string]bool{}
	wanted := func(names []string, name string) bool { return len(names) == 0 || slices.Contains(names, name) }
	for _, set := range list.Sets {
		if !wanted(sets, set.Name) {
			continue
		}
		found["set "+set.Name] = true
		for _, f := range set.Files {
			if !wanted(as, f.Packing) {
				continue
			}
			found[f.Packing] = true
			fresh, err := p.file(ctx, set.Edition, f.Name)
			if err != nil {
				return n, fmt.Errorf("%s: %w", f.Name, err)
			}
			if !fresh {
				continue
			}
			n++
			if set.Edition > 0 {
				fmt.Fprintf(out, "%s: %s, edition %d\n", f.Name, set.Name, set.Edition)
			} else {
				fmt.Fprintf(out, "%s: %s\n", f.Name, set.Name)
			}
		}
	}
	for _, name := range sets {
		if !found["set "+name] {
			return n, fmt.Errorf("there is no swatch set %q at this address", name)
		}
	}
	for _, name := range as {
		if !found[name] {
			return n, fmt.Errorf("there is no %s at this address", name)
		}
	}
	return n, nil
}

// file fetches one file if it changed, or is not as it was written any more: of the edition that was listed, since a newer one may be there
// by now; 0 for what has none.
func (p *puller) file(ctx context.Context, edition int, name string) (fresh bool, err error) {
	if name == "" || name != filepath.Base(name) || strings.HasPrefix(name, ".") {
		return false, fmt.Errorf("the server names a file %q, which is none", name)
	}
	path := filepath.Join(p.dir, name)
	etag := ""
	if there, err := os.ReadFile(path); err == nil && sumOf(there) == p.known[name].SHA256 {
		etag = p.known[name].ETag
	}
	of := ""
	if edition > 0 {
		of = fmt.Sprintf("%d/", edition)
	}
	res, err := p.get(ctx, "/api/p/"+p.token+"/"+of+url.PathEscape(name), etag)
	if err != nil {
		return false, err
	}
	defer res.Body.Close()
	if res.StatusCode == http.StatusNotModified {
		return false, nil
	}
	data, err := io.ReadAll(io.LimitReader(res.Body, limits.UploadBytes+1))
	switch {
	case err != nil:
		return false, fmt.Errorf("it broke off: %w", err)
	case len(data) > limits.UploadBytes:
		return false, fmt.Errorf("it has over %s", limits.Size(limits.UploadBytes))
	case res.ContentLength >= 0 && !res.Uncompressed && int64(len(data)) != res.ContentLength:
		return false, errors.New("it broke off")
	}
	there, err := os.ReadFile(path)
	same := err == nil && sumOf(there) == sumOf(data)
	if !same {
		if err := os.MkdirAll(p.dir, 0o755); err != nil { //nolint:gosec // a folder of a project
			return false, err
		}
		if err := writeWhole(path, data); err != nil {
			return false, err
		}
	}
	p.known[name] = pulled{res.Header.Get("ETag"), sumOf(data)}
	text, err := json.MarshalIndent(p.known, "", "  ")
	if err != nil {
		return false, err
	}
	return !same, writeWhole(filepath.Join(p.dir, pulledName), append(text, '\n'))
}

// writeWhole writes a file at once: it is there as it was, or as it is to be.
func writeWhole(path string, data []byte) error {
	f, err := os.CreateTemp(filepath.Dir(path), ".huekeep-*")
	if err != nil {
		return err
	}
	_, err = f.Write(data)
	if err = errors.Join(err, f.Chmod(0o644), f.Close()); err == nil {
		err = os.Rename(f.Name(), path)
	}
	if err != nil {
		return errors.Join(err, os.Remove(f.Name()))
	}
	return nil
}

// sumOf is the SHA-256 of a text, or of several, each with its length.
func sumOf(texts ...[]byte) string {
	h := sha256.New()
	for _, t := range texts {
		if len(texts) > 1 {
			fmt.Fprintf(h, "%d:", len(t))
		}
		h.Write(t)
	}
	return hex.EncodeToString(h.Sum(nil))
}
