package kinds_test

import (
	"errors"
	"fmt"
	"runtime"
	"strings"
	"testing"
	"time"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"huekeep/core/audit"
	"huekeep/core/audit/audittest"
	"huekeep/core/audit/kinds"
	"huekeep/core/pdfdoc"
)

// peak reads a file and gives the most memory that was in use meanwhile beyond what there was, in MB.
func peak(t testing.TB, name string, data []byte) (scan *audit.Scan, mb float64, err error) {
	t.Helper()
	runtime.GC()
	var before runtime.MemStats
	runtime.ReadMemStats(&before)
	stop, most := make(chan bool), make(chan uint64)
	go func() {
		var top uint64
		for {
			select {
			case <-stop:
				most <- top
				return
			case <-time.After(2 * time.Millisecond):
				var m runtime.MemStats
				runtime.ReadMemStats(&m)
				top = max(top, m.HeapAlloc)
			}
		}
	}()
	scan, err = kinds.Read(name, data)
	stop <- true
	return scan, max(0, float64(<-most)-float64(before.HeapAlloc)) / 1e6, err
}

// Whatever comes in, reading it takes no more than 300 MB, or a sentence says why it is not read.
func TestLargeFilesAreReadWithinTheirMemory(t *testing.T) {
	if testing.Short() {
		t.Skip("it takes a while")
	}
	var rows strings.Builder
	rows.WriteString("<sheetData>")
	for r := range 10_000_000 / 500 {
		fmt.Fprintf(&rows, `<row r="%d">`, r+1)
		rows.WriteString(strings.Repeat(`<c s="1"/>`, 500))
		rows.WriteString("</row>")
	}
	const styles = `<fonts><font/></fonts><fills><fill/><fill><patternFill patternType="solid"><fgColor rgb="FFE2572B"/></patternFill></fill></fills><borders><border/></borders><cellXfs><xf/><xf fillId="1"/></cellXfs>`
	cells := audittest.Workbook(t, rows.String()+"</sheetData>", styles)
	var comps strings.Builder
	for i := range 1000 {
		fmt.Fprintf(&comps, `,{"id":"c%d","layers":[{"ty":0,"refId":"c%d"},{"ty":1,"nm":"s","sc":"#e2572b"}]}`, i, (i+1)%1000)
	}
	for name, c := range map[string]struct {
		file string
		data []byte
		uses int
	}{
		"ten million cells":       {"x.xlsx", cells, 10_000_000},
		"a drawing of 100 MB":     {"x.svg", []byte("<svg>" + strings.Repeat(`<path d="M0 0h10v10h-10z M0 0h10v10h-10z M0 0h10v10h-10z M0 0h10v10h-10z" class="a"/>`, 1_150_000) + `<path fill="#E2572B"/></svg>`), 1},
		"a thousand compositions": {"x.json", []byte(`{"fr":25,"layers":[{"ty":0,"refId":"c0"}],"assets":[{"id":"x","layers":[]}` + comps.String() + `]}`), 1000},
		"one long line of style":  {"x.css", []byte(strings.Repeat(".a>b{margin:0 1px 2px;width:10px}", 900_000) + ".c{color:#E2572B}"), 1},
	} {
		t.Run(name, func(t *testing.T) {
			scan, mb, err := peak(t, c.file, c.data)
			require.NoError(t, err)
			assert.Less(t, mb, 300.0)
			uses := 0
			for _, u := range scan.Uses {
				if u.RGB.Hex() == "#E2572B" && !u.Hidden && u.Why == "" {
					uses += u.Count
				}
			}
			if len(scan.Unread) == 0 {
				assert.Equal(t, c.uses, uses)
			} else {
				t.Log(scan.Unread)
			}
		})
	}
}

// Objects of a PDF that point to each other in a circle end.
func TestCirclesInAPDF(t *testing.T) {
	head := []string{"<</Type/Catalog/Pages 2 0 R>>", "<</Type/Pages/Kids[3 0 R]/Count 1>>"}
	for name, rest := range map[string][]string{
		"a form in itself":    {"<</Type/Page/Parent 2 0 R/MediaBox[0 0 9 9]/Contents 4 0 R/Resources<</XObject<</F 5 0 R>>>>>>", audittest.Stream("", "1 0 0 rg 0 0 1 1 re f /F Do"), audittest.Stream("/Type/XObject/Subtype/Form/BBox[0 0 1 1]/Resources<</XObject<</F 5 0 R>>>>", "0 1 0 rg f /F Do")},
		"a space in itself":   {"<</Type/Page/Parent 2 0 R/MediaBox[0 0 9 9]/Contents 4 0 R/Resources<</ColorSpace<</S 5 0 R>>>>>>", audittest.Stream("", "1 0 0 rg f /S cs 1 scn f"), "[/Separation/X 5 0 R 6 0 R]", "<</FunctionType 3/Functions[6 0 R 6 0 R]/Bounds[0.5]/Domain[0 1]>>"},
		"a pattern in itself": {"<</Type/Page/Parent 2 0 R/MediaBox[0 0 9 9]/Contents 4 0 R/Resources<</Pattern<</P 5 0 R>>>>>>", audittest.Stream("", "1 0 0 rg f /Pattern cs /P scn f"), audittest.Stream("/Type/Pattern/PatternType 1/PaintType 1/Resources<</Pattern<</P 5 0 R>>>>", "0 0 1 rg f /Pattern cs /P scn f")},
	} {
		done := make(chan error, 1)
		go func() {
			scan, err := kinds.Read("x.pdf", pdfdoc.Plain(append(append([]string{}, head...), rest...)...))
			if err == nil && len(scan.Uses) == 0 {
				err = errors.New("nothing was found")
			}
			done <- err
		}()
		select {
		case err := <-done:
			assert.NoError(t, err, name)
		case <-time.After(20 * time.Second):
			t.Fatalf("%s: it does not end", name)
		}
	}
	done := make(chan bool)
	go func() {
		_, _ = kinds.Read("x.pdf", pdfdoc.Plain("<</Type/Catalog/Pages 2 0 R>>", "<</Type/Pages/Kids[2 0 R 2 0 R]/Count 2>>"))
		close(done)
	}()
	select {
	case <-done:
	case <-time.After(20 * time.Second):
		t.Fatal("a page tree in itself: it does not end")
	}
}

// Tokens that refer to each other in a long row, or in a circle, are said to be undetermined, and everything else is read; so are functions of
// somebody's own of variables that nobody defines.
func TestLongRowsOfReferences(t *testing.T) {
	var b strings.Builder
	b.WriteString(`{"$type":"color","end":{"$value":"#E2572B"},"round":{"$value":"{about}"},"about":{"$value":"{round}"}`)
	const row = 2000
	for i := range row {
		to := fmt.Sprintf("t%d", i+1)
		if i == row-1 {
			to = "end"
		}
		fmt.Fprintf(&b, `,"t%d":{"$value":"{%s}"}`, i, to)
	}
	scan, err := kinds.Read("x.json", []byte(b.String()+"}"))
	require.NoError(t, err)
	known, vague := 0, 0
	for _, u := range scan.Uses {
		if u.Why == "" {
			known++
			assert.Equal(t, "#E2572B", u.RGB.Hex(), u.Where)
		} else {
			vague++
		}
	}
	assert.Equal(t, row+3, known+vague, "each is told")
	assert.Greater(t, known, 30, "rows as people make them are followed to their end")

	b.Reset()
	b.WriteString("$a: #E2572B;\n")
	for i := range 5000 {
		fmt.Fprintf(&b, "$b%d: f($a, $c%d);\n", i, i)
	}
	b.WriteString(".x { color: $a; fill: $b7 }")
	scan, err = kinds.Read("x.scss", []byte(b.String()))
	require.NoError(t, err)
	counts := map[string]int{}
	for _, u := range scan.Uses {
		why, _, _ := strings.Cut(u.Why, " ")
		counts[why]++
	}
	assert.Equal(t, 2, counts[""], "the color and what refers to it")
	assert.Equal(t, 1, counts["$c7"], "each function is told by what it misses")
	assert.Equal(t, 1, counts["$b7"], "and what refers to one")
}
