package office_test

import (
	"fmt"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"huekeep/core/audit/audittest"
	"huekeep/core/audit/kinds"
)

// Whatever derives from a style with a name shows its colors, unless it has one of its own.
func TestStylesPassTheirColorsOn(t *testing.T) {
	text := `<?xml version="1.0"?><office:document xmlns:office="urn:oasis:names:tc:opendocument:xmlns:office:1.0" xmlns:style="s" xmlns:text="t" xmlns:fo="f" office:mimetype="application/vnd.oasis.opendocument.text"><office:styles>` +
		`<style:style style:name="Heading" style:family="paragraph"><style:text-properties fo:color="#0E3A53" fo:background-color="#F2B632"/></style:style>` +
		`<style:style style:name="Heading_20_1" style:family="paragraph" style:parent-style-name="Heading"/>` +
		`<style:style style:name="Round" style:family="paragraph" style:parent-style-name="Round"><style:text-properties fo:color="#123456"/></style:style>` +
		`</office:styles><office:automatic-styles>` +
		`<style:style style:name="P1" style:family="paragraph" style:parent-style-name="Heading_20_1"><style:paragraph-properties fo:break-before="page"/></style:style>` +
		`<style:style style:name="P2" style:family="paragraph" style:parent-style-name="Heading_20_1"><style:text-properties fo:color="#E2572B"/></style:style>` +
		`</office:automatic-styles><office:body><office:text><text:p text:style-name="P1">One</text:p><text:p text:style-name="P2">Two</text:p><text:p text:style-name="Heading">Three</text:p>` +
		`<text:p text:style-name="Round">Four</text:p></office:text></office:body></office:document>`
	scan, err := kinds.Read("x.fodt", []byte(text))
	require.NoError(t, err)
	var got []string
	for _, u := range scan.Uses {
		got = append(got, fmt.Sprintf("%s %s < %s", u.RGB.Hex(), u.Where, u.Link))
	}
	assert.ElementsMatch(t, []string{
		`#0E3A53 paragraph 1 “One”, text < style paragraph Heading text`,
		`#F2B632 paragraph 1 “One”, background < style paragraph Heading background`,
		`#E2572B paragraph 2 “Two”, text < `,
		`#F2B632 paragraph 2 “Two”, background < style paragraph Heading background`,
		`#0E3A53 paragraph 3 “Three”, text < style paragraph Heading text`,
		`#F2B632 paragraph 3 “Three”, background < style paragraph Heading background`,
		`#123456 paragraph 4 “Four”, text < style paragraph Round text`,
		`#0E3A53 style Heading, text < `,
		`#F2B632 style Heading, background < `,
		`#123456 style Round, text < `,
	}, got)
}

// Sparklines are drawn in the colors of what their group shows (as another program writes them).
func TestSparklinesOfASheet(t *testing.T) {
	assert.ElementsMatch(t, []string{"#E2572C sheet Data, sparkline, series", "#000000 sheet Data, sparkline, axis", "#4F81BD sheet Data, sparkline, markers", "#F2B632 sheet Data, sparkline, high"}, audittest.Told(t, "x.fods",
		[]byte(`<office:document xmlns:office="o" xmlns:table="t" xmlns:calcext="c" office:mimetype="application/vnd.oasis.opendocument.spreadsheet"><office:body><office:spreadsheet><table:table table:name="Data">`+
			`<calcext:sparkline-groups><calcext:sparkline-group calcext:type="line" calcext:markers="true" calcext:high="true" calcext:display-x-axis="true" calcext:color-series="#e2572c" calcext:color-negative="#0e3a53" `+
			`calcext:color-axis="#000000" calcext:color-markers="#4f81bd" calcext:color-first="#95b3d7" calcext:color-last="#95b3d7" calcext:color-high="#f2b632" calcext:color-low="#4f81bd"/></calcext:sparkline-groups>`+
			`</table:table></office:spreadsheet></office:body></office:document>`)))
}
