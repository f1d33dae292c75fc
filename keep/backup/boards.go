package backup

import (
	"encoding/json"
	"fmt"
	"slices"
	"strings"

	"huekeep/core/board"
	"huekeep/core/board/page"
	"huekeep/core/swatchfile"
	"huekeep/core/typeface"
	"huekeep/keep"
	"huekeep/keep/boards"
	"huekeep/store"
)

// Boards in a backup: with their sheets and answers, the typefaces that they are set in, and their logos; without links, whose
// secrets nobody has.

func exportBoards(db *store.DB, a keep.Actor, _ []store.SetWith, b *swatchfile.Backup) error {
	lines, err := db.Boards(a.House.ID)
	if err != nil {
		return err
	}
	faces, logos := map[int64]bool{}, map[string]bool{}
	uses := func(content string) error {
		of, err := board.Read(content)
		if of.Logo != "" {
			logos[of.Logo] = true
		}
		for _, o := range of.Options {
			if id, ok := boards.Own(o.Typeface); ok {
				faces[id] = true
			}
		}
		return err
	}
	slices.Reverse(lines) // so that those that were changed last come back last
	for _, l := range lines {
		row, err := db.Board(a.House.ID, l.ID)
		if err != nil {
			return err
		}
		if err := uses(row.Content); err != nil {
			return err
		}
		to := swatchfile.Board{Document: json.RawMessage(row.Content), By: row.ByName, Changed: row.ChangedAt}
		sheets, err := db.BoardSheets(a.House.ID, l.ID)
		if err != nil {
			return err
		}
		answers, err := db.BoardAnswers(l.ID)
		if err != nil {
			return err
		}
		slices.Reverse(sheets)
		for _, s := range sheets {
			if err := uses(s.Content); err != nil {
				return err
			}
			sheet := swatchfile.BoardSheet{Number: s.Number, Document: json.RawMessage(s.Content), By: s.ByName, Fixed: s.FixedAt}
			for _, x := range answers {
				if x.SheetID == s.ID {
					sheet.Answers = append(sheet.Answers, swatchfile.BoardAnswer{Name: x.Name, Choice: x.Choice, Comment: x.Comment,
						First: x.FirstAt, At: x.At})
				}
			}
			to.Sheets = append(to.Sheets, sheet)
		}
		b.Boards = append(b.Boards, to)
	}
	current, err := db.Typefaces(a.House.ID)
	if err != nil {
		return err
	}
	for _, t := range current {
		faces[t.ID] = true
	}
	for id := range faces {
		t, err := db.Typeface(a.House.ID, id)
		if err != nil {
			return err
		}
		b.Typefaces = append(b.Typefaces, swatchfile.Typeface{ID: t.ID, Name: t.Name, Data: t.Data, By: t.ByName, Added: t.AddedAt,
			Removed: t.RemovedAt})
	}
	slices.SortFunc(b.Typefaces, func(x, y swatchfile.Typeface) int { return int(x.ID - y.ID) })
	for key := range logos {
		l, err := db.Logo(a.House.ID, key)
		if err != nil {
			return err
		}
		b.Logos = append(b.Logos, swatchfile.Logo{Key: key, Data: l.Data})
	}
	slices.SortFunc(b.Logos, func(x, y swatchfile.Logo) int { return strings.Compare(x.Key, y.Key) })
	return nil
}

// boards brings back those that the house does not have by title, with what they need. Those that it has stay, whether the library is
// replaced or added to: somebody may be looking at their sheets.
func (in *restore) boards() error {
	b, house := in.lib.Backup, in.a.House.ID
	if b == nil {
		return nil
	}
	there, err := in.tx.Boards(house)
	if err != nil {
		return err
	}
	named := map[string]bool{}
	for _, l := range there {
		named[store.NameKey(l.Title)] = true
	}
	faces, err := in.typefaces()
	if err != nil {
		return err
	}
	for _, l := range b.Logos {
		if _, err := page.ReadLogo(l.Data); err != nil {
			return keep.Wrong("file", "a logo of the file: %v", err)
		}
		if err := in.tx.KeepLogo(store.Logo{HouseID: house, SHA256: l.Key, Data: l.Data}); err != nil {
			return err
		}
	}
	for _, from := range b.Boards {
		title, content, err := in.board(from.Document, faces)
		if err != nil {
			return err
		}
		if named[store.NameKey(title)] {
			continue
		}
		row := store.Board{HouseID: house, Title: title, Version: 1, Content: content, ByName: from.By, ChangedAt: from.Changed}
		if err := in.tx.Add(&row); err != nil {
			return err
		}
		for _, s := range from.Sheets {
			_, content, err := in.board(s.Document, faces)
			if err != nil {
				return err
			}
			sheet := store.BoardSheet{BoardID: row.ID, HouseID: house, Number: s.Number, Content: content, ByName: s.By, FixedAt: s.Fixed}
			if err := in.tx.Add(&sheet); err != nil {
				return err
			}
			for i, x := range s.Answers {
				if err := in.tx.Add(&store.BoardAnswer{SheetID: sheet.ID, Page: keep.Digest(fmt.Sprint("restored ", sheet.ID, i)),
					Name: x.Name, NameKey: store.NameKey(x.Name),
					Choice: x.Choice, Comment: x.Comment, FirstAt: x.First, At: x.At}); err != nil {
					return err
				}
			}
		}
	}
	return nil
}

// board reads a board of the file, with the numbers that its colors and typefaces have here.
func (in *restore) board(document json.RawMessage, faces map[string]string) (title, content string, err error) {
	b, err := board.Read(string(document))
	if err == nil {
		err = b.Check()
	}
	if err != nil {
		return "", "", keep.Wrong("file", "a board of the file: %v", err)
	}
	move := func(p *board.Paint) { p.ID = in.now[p.ID] }
	for i := range b.Options {
		o := &b.Options[i]
		move(&o.Ground)
		move(&o.Type)
		if o.Outline != nil {
			move(o.Outline)
		}
		for k := range o.Accents {
			move(&o.Accents[k])
		}
		if to, ok := faces[o.Typeface]; ok {
			o.Typeface = to
		} else if _, ok := typeface.Find(o.Typeface); !ok {
			return "", "", keep.Wrong("file", "the board %s is set in a typeface that the file does not hold", b.Title)
		}
	}
	content, err = b.Write()
	return b.Title, content, err
}

// typefaces brings back those that the house does not have by name, and says which each of the file's is here.
func (in *restore) typefaces() (map[string]string, error) {
	house := in.a.House.ID
	there, err := in.tx.Typefaces(house)
	if err != nil {
		return nil, err
	}
	out := map[string]string{}
	for _, t := range in.lib.Backup.Typefaces {
		at := slices.IndexFunc(there, func(o store.Typeface) bool { return o.Name == t.Name })
		if at < 0 {
			if _, err := typeface.Check(t.Data); err != nil {
				return nil, keep.Wrong("file", "the typeface %s: %v", t.Name, err)
			}
			row := store.Typeface{HouseID: house, Name: t.Name, Kind: typeface.Kind(t.Data), Data: t.Data, ByName: t.By, AddedAt: t.Added,
				RemovedAt: t.Removed}
			if err := in.tx.Add(&row); err != nil {
				return nil, err
			}
			there, at = append(there, row), len(there)
		}
		out[boards.OwnKey(t.ID)] = boards.OwnKey(there[at].ID)
	}
	return out, nil
}
