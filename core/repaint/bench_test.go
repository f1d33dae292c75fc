package repaint_test

import (
	"fmt"
	"strings"
	"testing"
	"time"

	"github.com/stretchr/testify/require"

	"huekeep/core/audit"
	"huekeep/core/audit/kinds"
	"huekeep/core/repaint"
)

// BenchmarkRepaint states what repainting costs as a ratio to reading the same file once. What is written is read again before anybody gets
// it, so it is two readings and the writing.
func BenchmarkRepaint(b *testing.B) {
	var slides []([2]string)
	ids, rels := "", ""
	for i := range 60 {
		var s strings.Builder
		for k := range 40 {
			fmt.Fprintf(&s, `<p:sp><p:cNvPr id="%d" name="Shape %d"/><p:spPr><a:xfrm><a:off x="1" y="1"/></a:xfrm><a:prstGeom prst="rect"><a:avLst/></a:prstGeom><a:solidFill><a:srgbClr val="E2572C"/></a:solidFill></p:spPr><p:txBody><a:bodyPr/><a:p><a:r><a:t>Sailing leaves at ten past the hour and again at noon</a:t></a:r></a:p></p:txBody></p:sp>`, k, k)
		}
		slides = append(slides, [2]string{fmt.Sprintf("ppt/s%d.xml", i), "<p:sld>" + s.String() + "</p:sld>"})
		ids += fmt.Sprintf(`<p:sldId r:id="s%d"/>`, i)
		rels += fmt.Sprintf(`<Relationship Id="s%d" Type="x/relationships/slide" Target="s%d.xml"/>`, i, i)
	}
	deck := zipped(b, append(office("ppt/presentation.xml", "", `<p:presentation xmlns:r="r">`+ids+`</p:presentation>`, [2]string{"ppt/_rels/presentation.xml.rels", "<r>" + rels + "</r>"}), slides...)...)
	plan := repaint.Plan{Colors: []repaint.Step{{From: "#E2572C", To: "Buoy"}}}
	least := func(f func()) time.Duration {
		best := time.Hour
		for range 3 {
			at := time.Now()
			f()
			best = min(best, time.Since(at))
		}
		return best
	}
	scan, painted := time.Hour, time.Hour
	for b.Loop() {
		scan = min(scan, least(func() {
			_, err := kinds.Read("x.pptx", deck)
			require.NoError(b, err)
		}))
		painted = min(painted, least(func() {
			r, err := repaint.File("x.pptx", deck, audit.Rules{Colors: brand}, plan, kinds.Options{})
			require.NoError(b, err)
			require.Equal(b, 2400, r.Uses)
		}))
	}
	b.ReportMetric(float64(painted)/float64(scan), "x-scanning")
}
