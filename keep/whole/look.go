package whole

import (
	"bytes"
	"context"
	"io"
	"time"

	"huekeep/core/swatchfile"
	"huekeep/keep"
	"huekeep/keep/backup"
	"huekeep/store"
)

// Contents is what a file holds that can be brought back, and what it would do in a house.
type Contents struct {
	House                                                 string // that it was taken from
	Colors, Sets, Editions, Recipients, Boards, Gradients int
	Pairs, Presses, Typefaces, Starters                   int
	InkBook                                               string
	Archive                                               bool // projects come along
	Projects                                              []ProjectLine
	Excuses, Plans                                        int
	Fresh, Present                                        int      // colors that adding brings in, and leaves out since they are there
	Renamed                                               []string // names that are taken here, and that adding gives a number
	Here                                                  Here
}

// ProjectLine is a project of an archive.
type ProjectLine struct {
	Name        string
	Files, Runs int
	Bare        int  // runs that come without their reports, and so not at all
	There       bool // a project of that name is in the house, and stays as it is
	At          time.Time
}

// Here is what goes when a house is replaced.
type Here struct {
	Colors, Sets, Editions, Recipients, Mails int
	Lost                                      int // mails of the list whose recipients the file does not hold
}

// Look says what a file holds and what it would do, and changes nothing.
func (r *Rules) Look(ctx context.Context, a keep.Actor, in io.ReaderAt, size int64) (out Contents, err error) {
	if err := a.May(keep.RoleKeeper); err != nil {
		return out, err
	}
	var head [2]byte
	var text []byte
	if _, err := in.ReadAt(head[:], 0); err == nil && bytes.Equal(head[:], []byte("PK")) {
		box, err := open(in, size)
		if err != nil {
			return out, err
		}
		text, out.Archive, out.Excuses, out.Plans = box.library, true, len(box.list.Excuses), len(box.list.Plans)
		for _, p := range box.list.Projects {
			line := ProjectLine{Name: p.Name, At: p.At}
			for _, f := range p.Files {
				if f.Entry != "" {
					line.Files++
				}
			}
			for _, l := range p.Runs {
				if len(l.Reports) > 0 {
					line.Runs++
				} else {
					line.Bare++
				}
			}
			out.Projects = append(out.Projects, line)
		}
	} else if text, err = io.ReadAll(io.NewSectionReader(in, 0, size)); err != nil {
		return out, err
	}
	lib, err := r.Backup.ReadBackup(ctx, a, text)
	if err != nil {
		return out, err
	}
	out.count(lib)
	return out, r.Backup.DB.In(ctx, func(tx *store.DB) error { // of one moment
		for i, p := range out.Projects {
			_, err := tx.ProjectNamed(a.House.ID, p.Name)
			out.Projects[i].There = err == nil
		}
		return out.compare(tx, a.House.ID, lib)
	})
}

func (c *Contents) count(lib swatchfile.Library) {
	c.House, c.Colors, c.Sets = lib.House, len(lib.Colors), len(lib.Sets)
	if b := lib.Backup; b != nil {
		c.Editions, c.Recipients, c.Boards, c.Gradients = len(b.Editions), len(b.Recipients), len(b.Boards), len(b.Gradients)
		c.Pairs, c.Presses, c.Typefaces, c.Starters = len(b.Pairs), len(b.Presses), len(b.Typefaces), len(b.Starters)
		if b.InkBook != nil {
			c.InkBook = b.InkBook.Name
		}
	}
}

func (c *Contents) compare(tx *store.DB, id int64, lib swatchfile.Library) error {
	colors, err := tx.Colors(id)
	if err != nil {
		return err
	}
	added := backup.Adding(colors, lib.Colors)
	c.Fresh, c.Present, c.Renamed = added.Added, added.Present, added.Renamed
	sets, err := tx.Sets(id)
	if err != nil {
		return err
	}
	editions, err := tx.EditionLines(id)
	if err != nil {
		return err
	}
	recipients, err := tx.Recipients(id)
	if err != nil {
		return err
	}
	mails, err := tx.Mails(id, -1)
	if err != nil {
		return err
	}
	c.Here = Here{Colors: len(colors), Sets: len(sets), Editions: len(editions), Recipients: len(recipients), Mails: len(mails)}
	stays := map[string]bool{}
	if lib.Backup != nil {
		for _, to := range lib.Backup.Recipients {
			stays[store.NameKey(to.Name)] = true
		}
	}
	of := map[int64]bool{}
	for _, to := range recipients {
		of[to.ID] = stays[to.NameKey]
	}
	for _, m := range mails {
		if !of[m.RecipientID] {
			c.Here.Lost++
		}
	}
	return nil
}
