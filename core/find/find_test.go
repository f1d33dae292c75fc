package find_test

import (
	"testing"

	"github.com/stretchr/testify/assert"

	"huekeep/core/find"
)

func TestWordsAreFoundAsPeopleTypeThem(t *testing.T) {
	for _, c := range []struct {
		typed, text string
		fits        bool
	}{
		{"deep", "Deep Sound", true},
		{"sound deep", "Deep Sound", true},
		{"dep sound", "Deep Sound", false}, // three letters are too short to be wrong
		{"salmarsh", "Saltmarsh", true},
		{"saltmrash", "Saltmarsh", true},
		{"heater cliff", "Heather Cliff", true},
		{"fogg", "Fog", true},
		{"grey", "dark gray", true},
		{"odelwik", "Odelwick Ferries", true},
		{"recipiants", "Recipients", true},
		{"zürich", "Zurich office", true},
		{"who has the film", "Film crew", true},
		{"the", "the harbor", true},
		{"QN-0076", "QN-0076 Rosewood Inlet", true},
		{"QN-0077", "QN-0076 Rosewood Inlet", false}, // another number is another ink
		{"buoy", "Bow", false},
		{"lamp", "Lump sum", true},
		{"", "anything", false},
		{"  ", "anything", false},
		{"dark blue", "dark red", false},
	} {
		assert.Equal(t, c.fits, find.Of(c.typed).In(find.Plain(c.text)) > 0, "%q in %q", c.typed, c.text)
	}
}

func TestWhatIsMeantComesFirst(t *testing.T) {
	w := find.Of("lamp")
	last := 5.0
	for _, text := range []string{"Lamp", "Lamplight", "Headlamp", "Lump"} {
		is := w.In(find.Plain(text))
		assert.Less(t, is, last, text)
		assert.Positive(t, is, text)
		last = is
	}
}

func FuzzFind(f *testing.F) {
	f.Add("deep sound", "Deep Sound #0E3A53")
	f.Add("ÅÄÖ", "åäö")
	f.Fuzz(func(t *testing.T, typed, text string) {
		if is := find.Of(typed).In(find.Plain(text)); is < 0 || is > 4 {
			t.Fatal(is)
		}
	})
}
