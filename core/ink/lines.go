//go:build !js

package ink

import (
	"fmt"
	"regexp"
	"strings"

	"huekeep/core/color"
)

// mayBeCode is what may be the code of an ink in a text; onStock the stock behind it, as a word or as its letter.
var (
	mayBeCode = regexp.MustCompile(`\b[A-Za-z]{1,4}[- ]?\d{3,5}(?:\b|[CU]\b)`)
	onStock   = regexp.MustCompile(`^(?:[ -]?([CU])\b|[\s,;(]*(?i:on\s+)?(?i:(coated|uncoated))\b(?i:\s+(?:paper|stock))?\)?)`)
)

// Marked is a line of a text with an ink of the book that stands on it.
type Marked struct {
	color.Line
	Ink     Ink
	Stock   Stock  // coated where it does not say
	Written string // the code with its stock as they stand there; empty where none does
}

// Mark looks for the code of an ink on a line. An ink without another value is a value of its own: the line is understood then, with
// nothing but a name and the ink. A line with two inks is not understood.
func (b *Book) Mark(l color.Line) Marked {
	m := Marked{Line: l}
	for _, at := range mayBeCode.FindAllStringIndex(l.Text, -1) {
		text := strings.TrimRight(l.Text[at[0]:at[1]], "CU")
		k, ok := b.Find(text)
		switch {
		case !ok:
			continue
		case m.Written != "" && m.Ink.Code != k.Code:
			m.Err = fmt.Errorf("two inks stand on the line, %s and %s; give each a line of its own", m.Ink.Code, k.Code)
			return m
		case m.Written != "":
			continue
		}
		m.Ink, m.Stock, m.Written = k, Coated, text
		if of := onStock.FindStringSubmatch(l.Text[at[0]+len(text):]); of != nil {
			m.Written += of[0]
			if of[1] == "U" || strings.EqualFold(of[2], string(Uncoated)) {
				m.Stock = Uncoated
			}
		}
	}
	switch {
	case m.Written == "":
	case l.Err != nil:
		rest := color.ReadList(strings.Replace(l.Text, m.Written, m.Ink.Lab(m.Stock).RGB().RGB8().Hex(), 1))
		if len(rest) == 1 && rest[0].Err == nil {
			m.Name, m.CMYK, m.Build, m.Err = rest[0].Name, rest[0].CMYK, rest[0].Build, nil
		}
	default:
		// The code was part of the name, or a number that is left out.
		if rest := color.ReadList(strings.Replace(l.Text, m.Written, "", 1)); len(rest) == 1 && rest[0].Err == nil {
			m.Name, m.Note = rest[0].Name, rest[0].Note
		}
	}
	return m
}
