package main

import (
	"bytes"
	"context"
	"encoding/json"
	"errors"
	"fmt"
	"io"
	"io/fs"
	"os"
	"path/filepath"
	"slices"
	"strings"
	"syscall"
	"time"

	"github.com/fsnotify/fsnotify"
	"github.com/spf13/cobra"

	"huekeep/core/audit"
	"huekeep/core/audit/kinds"
	"huekeep/core/report"
)

func watchCommand() *cobra.Command {
	var j judging
	var to toHouse
	c := &cobra.Command{
		Use:   "watch FOLDER...",
		Short: "Judge project files whenever they are saved, until it is stopped",
		Long: "Judges the files of folders as audit does, and again whenever one is saved: what is different is told within a second.\n" +
			"With --server and --project the house judges them too, by its own library, once nothing was saved for two seconds,\n" +
			"and keeps what is new as a run; then --library may be left out, and the house alone judges.",
		Example: "  huekeep watch site/ --library ferries.json\n" +
			"  huekeep watch site/ --server https://colors.house.example/h/1 --project Website",
		Args: cobra.MinimumNArgs(1),
		RunE: func(cmd *cobra.Command, args []string) error {
			for _, p := range args {
				if info, err := os.Stat(p); err != nil {
					return fmt.Errorf("%s: %s", p, reason(err))
				} else if !info.IsDir() {
					return fmt.Errorf("%s is no folder; a folder is watched, with what is in it", p)
				}
			}
			house, err := to.of(cmd.ErrOrStderr())
			if err != nil {
				return err
			}
			w := &watching{judging: &j, cmd: cmd, paths: args, out: cmd.OutOrStdout(), says: cmd.ErrOrStderr(), house: house,
				kept: &inMemory{}, was: map[string]audit.Report{}, unread: map[string]string{}}
			if house != nil && j.given(cmd) == "" {
				return w.serve(cmd.Context())
			}
			if w.byRules, err = j.rules(cmd); err != nil {
				return err
			}
			w.here, w.rulesAt = true, time.Now()
			return w.serve(cmd.Context())
		},
	}
	j.flags(c)
	c.Flags().StringVar(&to.server, "server", "", "address of a house that is to judge too, as a browser shows it: https://…/h/1")
	c.Flags().StringVar(&to.project, "project", "", "name of the project in the house; it is begun if there is none")
	c.Flags().BoolVar(&to.exactly, "exactly", false, "files that the project has and that are not here are taken out of it")
	return c
}

// What is saved is looked at once nothing more came for a moment, since programs write in pieces; a house is told after a longer one.
const (
	settled     = 120 * time.Millisecond
	longest     = 700 * time.Millisecond
	settledMore = 2 * time.Second
)

// watching is folders that are watched.
type watching struct {
	*judging
	cmd       *cobra.Command
	paths     []string
	out, says io.Writer
	here      bool         // they are judged here
	house     *judgedThere // that judges them; nil for none
	kept      *inMemory
	byRules   audit.Rules
	rulesAt   time.Time               // when those were read
	was       map[string]audit.Report // what was told last, by file
	unread    map[string]string       // why files could not be read
	begun     bool
}

// serve judges whenever something was saved, until the context ends.
func (w *watching) serve(ctx context.Context) error {
	watcher, err := fsnotify.NewWatcher()
	if err != nil {
		return tooMany(err)
	}
	defer watcher.Close()
	if err := w.folders(watcher, w.paths...); err != nil {
		return err
	}
	for _, beside := range append([]string{w.library, w.excuses}, w.paths...) { // a folder that goes may come back
		if _, err := os.Stat(beside); beside != "" && err == nil {
			if err := watcher.Add(filepath.Dir(filepath.Clean(beside))); err != nil {
				return tooMany(err)
			}
		}
	}
	if err := w.look(ctx); err != nil {
		return err
	}
	soon, later := time.NewTimer(time.Hour), time.NewTimer(time.Hour)
	soon.Stop()
	later.Stop()
	if w.house != nil {
		later.Reset(0)
	}
	var since time.Time         // of the first event that was not looked at; zero for none
	var asked chan func() error // the house is asked, and what is to be done with its answer; nil while it is not
	for {
		select {
		case <-ctx.Done():
			return context.Cause(ctx)
		case answer := <-asked:
			asked = nil
			if err := answer(); err != nil {
				return err
			}
		case err := <-watcher.Errors:
			return tooMany(err)
		case e := <-watcher.Events:
			if e.Op == fsnotify.Chmod || !w.concerns(e.Name) {
				continue
			}
			if info, err := os.Stat(e.Name); err == nil && info.IsDir() && e.Has(fsnotify.Create) {
				if err := w.folders(watcher, e.Name); err != nil {
					return err
				}
			}
			if since.IsZero() {
				since = time.Now()
			}
			soon.Reset(min(settled, max(0, longest-time.Since(since)))) // where it never is still, now and then
			if w.house != nil {
				later.Reset(settledMore)
			}
		case <-soon.C:
			since = time.Time{}
			if err := w.look(ctx); err != nil {
				return err
			}
		case <-later.C:
			if asked != nil { // one after the other
				later.Reset(settledMore)
				continue
			}
			asked = make(chan func() error, 1)
			go func(to chan func() error) { to <- w.ask(ctx) }(asked)
		}
	}
}

// concerns says whether a file that was written is one that is judged or judged by, or may be a folder or what a folder leaves out.
func (w *watching) concerns(name string) bool {
	name = filepath.Clean(name)
	if same := func(own string) bool { return own != "" && name == filepath.Clean(own) }; same(w.library) || same(w.excuses) {
		return true
	}
	for _, root := range w.paths {
		rel, err := filepath.Rel(root, name)
		if err != nil || rel == ".." || strings.HasPrefix(rel, ".."+string(filepath.Separator)) {
			continue
		}
		kind := strings.ToLower(filepath.Ext(name))
		return kind == "" || kind == ".gitignore" || rel == "." || slices.Contains(kinds.Extensions(), kind) || w.isFolder(name)
	}
	return false
}

// isFolder says whether something is a folder, or was one: its name may look like that of a file.
func (w *watching) isFolder(name string) bool {
	info, err := os.Stat(name)
	return err != nil || info.IsDir()
}

// tooMany says what is to be done where a machine watches no more.
func tooMany(err error) error {
	if errors.Is(err, syscall.ENOSPC) || errors.Is(err, syscall.EMFILE) {
		return fmt.Errorf("the machine watches no more folders: raise fs.inotify.max_user_watches, or name smaller folders (%w)", err)
	}
	return err
}

// folders watches folders with those in them.
func (w *watching) folders(watcher *fsnotify.Watcher, roots ...string) error {
	for _, root := range roots {
		err := filepath.WalkDir(root, func(path string, d fs.DirEntry, err error) error {
			if err != nil || !d.IsDir() {
				return nil // what cannot be read is told of when it is judged
			}
			if kinds.Skipped(d.Name()) && path != root {
				return fs.SkipDir
			}
			return watcher.Add(path)
		})
		if err != nil {
			return tooMany(err)
		}
	}
	return nil
}

// look judges the files here and tells what is different since it was told last.
func (w *watching) look(ctx context.Context) error {
	if !w.here {
		return nil
	}
	rules, err := w.current()
	if err != nil { // the library is just being saved, or was spoiled: what was told stays
		fmt.Fprintf(w.says, "huekeep: %v\n", err)
		return nil
	}
	list, unread := inputs(w.says, w.paths, "", w.library, w.excuses)
	rules.Excuses = placed(rules.Excuses, w.excuses, w.paths, list)
	limit, err := fileTime()
	if err != nil {
		return err
	}
	look, err := newLooker(rules, limit, io.Discard, w.kept, false)
	if err != nil {
		return err
	}
	w.kept.turn()
	files, more, err := look.at(ctx, list)
	if err != nil {
		return err
	}
	return w.tell(files, append(unread, more...))
}

// tell writes what is different.
func (w *watching) tell(files []audit.Report, unread []audit.Unread) error {
	at := time.Now().Format("15:04:05")
	doc := report.Document{}
	now := map[string]audit.Report{}
	for _, f := range files {
		now[f.Path] = f
		was, known := w.was[f.Path]
		if wants := f.Findings()+f.UnjudgedUses() > 0; known && alike(was, f) || !known && !wants {
			continue
		} else if wants {
			doc.Files = append(doc.Files, f)
		} else if was.Findings()+was.UnjudgedUses() > 0 {
			fmt.Fprintf(w.out, "%s %s: nothing is off any more\n", at, f.Path)
		}
	}
	why := map[string]string{}
	for _, u := range unread {
		why[u.Path] = u.Why
		if w.unread[u.Path] != u.Why {
			fmt.Fprintf(w.out, "%s %s: not read: %s\n", at, u.Path, u.Why)
		}
	}
	for path, was := range w.was {
		if _, there := now[path]; !there && why[path] == "" && was.Findings()+was.UnjudgedUses() > 0 {
			fmt.Fprintf(w.out, "%s %s: is gone\n", at, path)
		}
	}
	w.was, w.unread = now, why
	for _, f := range doc.Files {
		fmt.Fprintf(w.out, "%s ", at)
		if err := report.Text(w.out, report.Document{Files: []audit.Report{f}}); err != nil {
			return err
		}
	}
	if !w.begun {
		w.begun = true
		wanted := 0
		for _, f := range files {
			wanted += f.Findings() + f.UnjudgedUses()
		}
		what := "uses"
		if wanted == 1 {
			what = "use"
		}
		fmt.Fprintf(w.out, "%s %s, %d %s neither on-brand nor excused; watching\n", at, nFiles(len(files)), wanted, what)
	}
	return nil
}

// alike says whether two reports tell the same.
func alike(a, b audit.Report) bool {
	one, err := json.Marshal(a)
	other, err2 := json.Marshal(b)
	return err == nil && err2 == nil && bytes.Equal(one, other)
}

// rulesLast is how long what lies at an address is taken as it was.
const rulesLast = time.Minute

// current are the rules as they are by now: files are read again, an address now and then.
func (w *watching) current() (audit.Rules, error) {
	if _, err := os.Stat(w.library); err != nil && time.Since(w.rulesAt) < rulesLast {
		return w.byRules, nil
	}
	rules, err := w.rules(w.cmd)
	if err == nil {
		w.byRules, w.rulesAt = rules, time.Now()
	}
	return rules, err
}

// ask has the house judge the files, and gives what is to be done with its answer. What it does not answer is asked again with the next
// file that is saved.
func (w *watching) ask(ctx context.Context) (then func() error) {
	list, unread := inputs(io.Discard, w.paths, "", w.library, w.excuses)
	doc, err := w.house.judge(ctx, w.paths, list, unread)
	return func() error {
		switch {
		case ctx.Err() != nil:
			return context.Cause(ctx)
		case err != nil:
			fmt.Fprintf(w.says, "huekeep: %v; it is asked again when a file is saved\n", err)
		case !w.here:
			return w.tell(doc.Files, doc.Unread)
		}
		return nil
	}
}
