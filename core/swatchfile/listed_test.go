package swatchfile_test

import (
	"os"
	"path/filepath"
	"strings"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"huekeep/core/library"
	"huekeep/core/swatchfile"
)

// What an application lists of an edition is called as the edition before, so that it takes its place; which edition it is stands in the file. What was
// sent by versions of before is called what it was.
func TestANewerEditionTakesThePlaceOfTheOlder(t *testing.T) {
	const listed, number = "Odelwick Ferries, Core", "edition 2"
	for packing, listing := range map[string][]struct{ part, says string }{
		"deck":              {{"ppt/theme/theme1.xml", `name="` + listed + `">`}, {"ppt/theme/theme1.xml", `<a:clrScheme name="` + listed + `">`}, {"docProps/core.xml", "<dc:title>" + listed + "</dc:title>"}, {"docProps/core.xml", number}},
		"book-template":     {{"xl/theme/theme1.xml", `name="` + listed + `">`}, {"docProps/core.xml", number}},
		"document-template": {{"word/theme/theme1.xml", `name="` + listed + `">`}, {"docProps/core.xml", number}},
		"odf-text":          {{"meta.xml", "<dc:title>" + listed + "</dc:title>"}, {"meta.xml", number}},
		"theme-part":        {{"", `<a:clrScheme name="` + listed + `">`}},
		"gpl":               {{"", "Name: " + listed + "\n"}, {"", "# " + listed + ", " + number + "\n"}},
		"mlt":               {{"", `title="` + listed + `"`}, {"", number}},
		"lottie":            {{"", `"nm": "` + listed + `"`}, {"", number}},
	} {
		p, err := swatchfile.FindPacking(packing)
		require.NoError(t, err)
		e := edition(t)
		data, err := p.Pack(e)
		require.NoError(t, err)
		for _, want := range listing {
			text := string(data)
			if want.part != "" {
				text = parts(t, data)[want.part]
			}
			assert.Contains(t, text, want.says, "%s %s", packing, want.part)
		}
		assert.Equal(t, "odelwick-ferries-core"+p.Extension, p.FileName(e))
		e.Early = 8
		data, err = p.Pack(e)
		require.NoError(t, err)
		if listing[0].part == "" {
			assert.NotContains(t, string(data), listing[0].says, packing)
		}
		assert.Equal(t, "odelwick-ferries-core-2"+p.Extension, p.FileName(e))
	}
}

// Every packing says how it is loaded, what one sees then, what to do when not, and what people call it.
func TestEveryPackingSaysHowItIsLoaded(t *testing.T) {
	seen := map[string]bool{}
	for _, p := range swatchfile.Packings() {
		l := p.Loading()
		if !assert.Contains(t, l.Packings, p.Name, "loading.txt does not say how %s is loaded", p.Name) {
			continue
		}
		assert.NotEmpty(t, l.For, p.Name)
		assert.NotEmpty(t, l.Do, p.Name)
		assert.NotEmpty(t, l.Worked, p.Name)
		assert.NotEmpty(t, l.Else, p.Name)
		assert.GreaterOrEqual(t, len(p.Words()), 4, "loading.txt has words that people call %s by, four at least", p.Name)
		seen[p.Name] = true
	}
	for _, l := range swatchfile.Loadings() {
		for _, p := range l.Packings {
			assert.True(t, seen[p], "%s of %s is a packing", p, l.Key)
		}
		same, err := swatchfile.LoadingOf(l.Key)
		require.NoError(t, err)
		assert.Equal(t, l, same)
	}
	_, err := swatchfile.LoadingOf("nothing")
	assert.EqualError(t, err, `there is no loading note "nothing"`)
}

// What the house says stands in the kit and on the card, before what is said to everybody; editions of before have neither.
func TestWhatTheHouseSaysOfLoadingGoesAlong(t *testing.T) {
	e := edition(t)
	e.Loading = []library.HouseNote{{Key: "key-in", Text: "Mixer 2, menu <Mattes>.\nAsk Kim."}, {Key: "style-sheet", Text: "It goes into site/styles."}}
	data, err := swatchfile.Kit(e, []string{"css", "key-in-pdf"})
	require.NoError(t, err)
	page := parts(t, data)["index.html"]
	for _, says := range []string{"<b>It goes into site/styles.</b>", "Mixer 2, menu &lt;Mattes&gt;.", "<b>Ask Kim.</b>", "Websites and web applications", "When it worked: In the browser"} {
		assert.Contains(t, page, says)
	}
	card := filepath.Join(t.TempDir(), "card.pdf")
	need(t, "pdftotext", "poppler-utils")
	for n, text := range []string{"Mixer 2, menu <Mattes>.", strings.Repeat("A long sentence about a mixer of another time. ", 40)} {
		e.Loading[0].Text = text + "\nAsk Kim."
		data, err = swatchfile.WriteKeyInPDF(e)
		require.NoError(t, err)
		require.NoError(t, os.WriteFile(card, data, 0o600))
		said := run(t, "pdftotext", "-layout", card, "-")
		assert.Contains(t, said, "Ask Kim.", n)
		assert.Contains(t, said, "When it worked:")
	}
	e.Early = 8
	early, err := swatchfile.WriteKeyInPDF(e)
	require.NoError(t, err)
	require.NoError(t, os.WriteFile(card, early, 0o600))
	assert.NotContains(t, run(t, "pdftotext", card, "-"), "Ask Kim.")
}
