package office

import (
	"bytes"
	"unicode"
	"unicode/utf8"

	"huekeep/core/audit"
	"huekeep/core/audit/scanning"
	"huekeep/core/markup"
)

// paragraphs are the open ones of a text, each inside of the one before. Their uses wait for the first words, by which a person finds them.
type paragraphs struct {
	list  []paragraph // those that are closed lie behind, for their room to be used again
	depth int
	words []byte // of the one that is closed
}

type paragraph struct {
	number int
	from   [][2]int // where its first words stand
	length int
	uses   []audit.Use // their places end with the paragraph
	roles  []string
}

func (p *paragraphs) begin(number int) {
	if p.depth == len(p.list) {
		p.list = append(p.list, paragraph{})
	}
	old := &p.list[p.depth]
	*old = paragraph{number: number, from: old.from[:0], uses: old.uses[:0], roles: old.roles[:0]}
	p.depth++
}

// last is the innermost one; nil outside of any.
func (p *paragraphs) last() *paragraph {
	if p.depth == 0 {
		return nil
	}
	return &p.list[p.depth-1]
}

// number is that of the innermost one; 0 outside of any.
func (p *paragraphs) number() int {
	if l := p.last(); l != nil {
		return l.number
	}
	return 0
}

// text takes a text of the innermost one.
func (p *paragraphs) text(r *markup.Reader) {
	if l := p.last(); l != nil && l.length < 40 {
		l.from = append(l.from, [2]int{r.Start, r.End})
		if raw := r.Data[r.Start:r.End]; bytes.IndexByte(raw, '&') < 0 {
			l.length += len(raw)
		} else {
			l.length += len(r.Decode(raw))
		}
	}
}

// wait keeps a use of the innermost one.
func (p *paragraphs) wait(u *audit.Use, role string) {
	l := p.last()
	l.uses, l.roles = append(l.uses, *u), append(l.roles, role)
}

// end reports the uses of the innermost one.
func (p *paragraphs) end(s *scanning.Scanner, r *markup.Reader) {
	l := p.last()
	if l == nil {
		return
	}
	p.depth--
	if len(l.uses) == 0 {
		return
	}
	first := p.firstWords(l, r)
	for i := range l.uses {
		u := &l.uses[i]
		where := s.Texts.Phrase().Add(u.Where)
		if first != "" {
			where.More(" “").More(first).More("”")
		}
		u.Where = where.Add(l.roles[i]).Done()
		s.Add(u)
	}
}

// firstWords are the first of a paragraph, at most thirty characters, with single blanks.
func (p *paragraphs) firstWords(l *paragraph, r *markup.Reader) string {
	const most = 30
	out, count, cut, gap := p.words[:0], 0, 0, false
	put := func(n int) {
		if count += n; count <= most-3 {
			cut = len(out)
		}
	}
	for _, at := range l.from {
		raw := r.Data[at[0]:at[1]]
		if bytes.IndexByte(raw, '&') >= 0 {
			raw = []byte(r.Decode(raw))
		}
		for len(raw) > 0 && count <= most {
			c, n := rune(raw[0]), 1
			if c >= utf8.RuneSelf {
				c, n = utf8.DecodeRune(raw)
			}
			if unicode.IsSpace(c) {
				gap = len(out) > 0
				raw = raw[n:]
				continue
			}
			if gap {
				out, gap = append(out, ' '), false
				put(1)
			}
			if n > 1 || c >= utf8.RuneSelf {
				out = utf8.AppendRune(out, c)
				put(1)
				raw = raw[n:]
				continue
			}
			end := 1 // the rest of a plain word
			for end < len(raw) && raw[end] > ' ' && raw[end] < utf8.RuneSelf {
				end++
			}
			if end > most-3-count { // it is cut in it, or behind it
				end = 1
			}
			out = append(out, raw[:end]...)
			put(end)
			raw = raw[end:]
		}
	}
	p.words = out
	if count > most {
		out = append(out[:cut], "..."...)
	}
	return string(out)
}
