package media

import (
	"cmp"
	"errors"
	"strings"
	"sync"

	"huekeep/core/color"
	"huekeep/core/ink"
	"huekeep/core/library"
	"huekeep/core/press"
	"huekeep/keep"
	"huekeep/store"
)

// Values reads what can decide a color in a house: screen values, builds of its presses, inks of its book.
type Values struct {
	book func() (*ink.Book, error)
	on   func(press string) (*press.Condition, error)
}

// Values reads the values of a house; its book and its presses are looked up when one asks for them.
func (r *Rules) Values(db *store.DB, house int64) Values {
	return Values{sync.OnceValues(func() (*ink.Book, error) { return r.Book(db, house) }),
		func(name string) (*press.Condition, error) { return r.Condition(db, house, name) }}
}

// mostMaster is how many bytes of a master are kept.
const mostMaster = 400

// Read reads what somebody typed: any notation of a screen value, a build, or the code of an ink. A build and an ink may say what they are
// on, "cmyk(70 20 0 10) on uncoated"; coated is meant where they do not.
func (v Values) Read(field, text string) (keep.Given, error) {
	value, on := strings.TrimSpace(text), ""
	if at := strings.LastIndex(strings.ToLower(value), " on "); at > 0 {
		value, on = strings.TrimSpace(value[:at]), strings.TrimSpace(value[at+len(" on "):])
	}
	t, paper, err := color.ReadValue(value)
	on = cmp.Or(on, paper)
	switch {
	case err == nil && t.CMYK != nil && t.Alpha == 1:
		return v.Build(field, *t.CMYK, on)
	case err == nil && on != "":
		return keep.Given{}, keep.Wrong(field, "%s is a screen value; builds and inks are on a paper", value)
	case err == nil:
		return keep.Master(field, text)
	}
	g, found := v.Ink(field, value, on)
	var problem *keep.Error
	if errors.As(found, &problem) && problem.Kind == keep.NotFound {
		return keep.Master(field, text) // which says what is wrong with it
	}
	return g, found
}

// Build is what a build on a press decides; an empty press is coated.
func (v Values) Build(field string, build color.CMYK, on string) (g keep.Given, err error) {
	condition := press.Coated()
	if on != "" && on != condition.Name {
		if condition, err = v.on(strings.ReplaceAll(on, " ", "-")); err != nil { // a page writes names with blanks
			return g, keep.Wrong(field, "%v", err)
		}
	}
	if total := build.Total(); total > condition.InkLimit {
		return g, keep.Wrong(field, "%s is %g %% of ink in all; %s takes at most %g %%", build, total, condition.Label, condition.InkLimit)
	}
	g.Master, g.RGB = library.ByBuild(build, condition.Name, condition.Identity().SHA256, condition.Lab(build))
	if on == "" {
		g.Note = "the build is taken as one for coated paper"
	}
	return g, nil
}

// Ink is what an ink of the house's book on a stock decides; an empty stock is coated. A code that the book does not have is NotFound.
func (v Values) Ink(field, code, on string) (g keep.Given, err error) {
	book, err := v.book()
	if err != nil {
		return g, err
	}
	found, ok := book.Find(code)
	if !ok {
		return g, &keep.Error{Kind: keep.NotFound, Field: field, Message: keep.Sentence(code + " is not in the " + book.Name + " ink book")}
	}
	stock := ink.Stock(on)
	if on == "" {
		stock, g.Note = ink.Coated, "the ink is taken as on coated stock"
	}
	if err := library.CheckStock(string(stock)); err != nil {
		return g, keep.Wrong(field, "%v", err)
	}
	g.Master, g.RGB = library.ByInk(found.Code, string(stock), book.Name, found.Lab(stock))
	if len(g.String()) > mostMaster {
		return g, keep.Wrong(field, "the name of the ink or of its book is too long to decide a color")
	}
	return g, nil
}
