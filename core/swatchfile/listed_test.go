package swatchfile_test

import (
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

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
