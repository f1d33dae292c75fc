package main

import (
	"archive/zip"
	"bytes"
	"compress/zlib"
	"encoding/json"
	"fmt"
	"os"
	"os/exec"
	"path/filepath"
	"strings"
	"testing"
	"time"

	"huekeep/core/pdfdoc"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"
)

func TestGatherListsWhatFilesHold(t *testing.T) {
	css := write(t, "a.css", []byte(":root { --deep-sound: #0E3A53; --veil: rgb(226 87 43 / 50%); }"))
	table := write(t, "a.csv", []byte("name,hex,cmyk,spot\nLamp,#F2B632,0/30/90/0,QN-0105\n"))
	broken := write(t, "b.svg", []byte("<svg><path fill='#111'"))
	out, errs, code := huekeep(t, "gather", css, table, broken, "--json")
	assert.Equal(t, 2, code, "one could not be read")
	assert.Empty(t, errs)
	var v gatheredJSON
	require.NoError(t, json.Unmarshal([]byte(out), &v))
	require.Len(t, v.Files, 2)
	assert.Equal(t, css, v.Files[0].Path)
	assert.Equal(t, "custom properties", v.Files[0].Kind)
	assert.Equal(t, []candidateJSON{{Name: "deep sound", Hex: "#0E3A53", Master: masterJSON{"screen", "#0E3A53"}, Alpha: 1, Where: []string{}, Disagree: []string{}},
		{Name: "veil", Hex: "#E2572B", Master: masterJSON{"screen", "#E2572B"}, Alpha: 0.5, Where: []string{}, Disagree: []string{}}}, v.Files[0].Colors)
	assert.Contains(t, v.Files[0].Notes[0], "read as opaque: veil")
	lamp := v.Files[1].Colors[0]
	assert.Equal(t, [4]float64{0, 30, 90, 0}, *lamp.CMYK)
	assert.Equal(t, "QN-0105", *lamp.Spot)
	require.Len(t, v.Unread, 1)
	assert.Equal(t, broken, v.Unread[0].Path)
	assert.Contains(t, v.Unread[0].Why, "b.svg: line 1 is not well-formed")

	out, errs, code = huekeep(t, "gather", table)
	assert.Zero(t, code)
	assert.Equal(t, table+": a table, 1 colors\n  #F2B632  Lamp  CMYK 0 30 90 0  ink QN-0105\n", out)
	assert.Empty(t, errs)
}

// Every line of a text is a color, a question, or left with why.
func TestEveryLineOfATextIsTold(t *testing.T) {
	text := write(t, "mail.txt", []byte("Hello Kim\nDeep Sound #0E3A53\nTarpaulin CMYK 70 20 0 10\nLantern 260 83 33\nGold XYZ 40 42 10\n"))
	out, errs, code := huekeep(t, "gather", text, "--json")
	require.Zero(t, code, errs)
	var v gatheredJSON
	require.NoError(t, json.Unmarshal([]byte(out), &v))
	f := v.Files[0]
	require.Len(t, f.Colors, 2)
	assert.Equal(t, []masterJSON{{"screen", "#0E3A53"}, {"build", "cmyk(70 20 0 10) on coated"}}, []masterJSON{f.Colors[0].Master, f.Colors[1].Master})
	require.Len(t, f.Asked, 1)
	assert.Equal(t, []any{4, "as HSB", "as HSL"}, []any{f.Asked[0].Line, f.Asked[0].Readings[0].As, f.Asked[0].Readings[1].As})
	assert.Equal(t, []leftJSON{{1, "Hello Kim", "it holds no color value"}, {5, "Gold XYZ 40 42 10", "XYZ 40 42 10: values of XYZ are not read here; give the color as hex, RGB or Lab"}}, f.Left)
	assert.Len(t, f.Notes, 2, "and said to whoever reads the page")
}

// Files that are small and unpack to much, or are large and say little, must neither take the memory of the machine nor run on.
func TestHostileFilesStayWithinTheirMemory(t *testing.T) {
	dir := t.TempDir()
	deflated := func(n int, unit string) []byte {
		var b bytes.Buffer
		z, err := zlib.NewWriterLevel(&b, zlib.BestCompression)
		require.NoError(t, err)
		chunk := []byte(strings.Repeat(unit, 1<<20/len(unit)))
		for range n {
			_, err := z.Write(chunk)
			require.NoError(t, err)
		}
		require.NoError(t, z.Close())
		return b.Bytes()
	}
	stream := func(dict string, body []byte) string {
		return fmt.Sprintf("<< %s /Filter /FlateDecode /Length %d >>\nstream\n%s\nendstream", dict, len(body), body)
	}
	zipped := func(parts map[string]func(w *bytes.Buffer)) []byte {
		var b bytes.Buffer
		z := zip.NewWriter(&b)
		for name, f := range parts {
			w, err := z.Create(name)
			require.NoError(t, err)
			var body bytes.Buffer
			f(&body)
			_, err = w.Write(body.Bytes())
			require.NoError(t, err)
		}
		require.NoError(t, z.Close())
		return b.Bytes()
	}
	text := func(s string) func(*bytes.Buffer) { return func(w *bytes.Buffer) { w.WriteString(s) } }
	many := func(head, unit, foot string, n int) func(*bytes.Buffer) {
		return func(w *bytes.Buffer) {
			w.WriteString(head)
			for range n / len(unit) {
				w.WriteString(unit)
			}
			w.WriteString(foot)
		}
	}
	const mb = 1 << 20
	book := func(sheet, strings func(*bytes.Buffer)) []byte {
		return zipped(map[string]func(*bytes.Buffer){
			"[Content_Types].xml":        text(`<Types xmlns="http://schemas.openxmlformats.org/package/2006/content-types"><Default Extension="xml" ContentType="application/xml"/><Default Extension="rels" ContentType="application/vnd.openxmlformats-package.relationships+xml"/><Override PartName="/xl/workbook.xml" ContentType="application/vnd.openxmlformats-officedocument.spreadsheetml.sheet.main+xml"/></Types>`),
			"_rels/.rels":                text(`<Relationships xmlns="http://schemas.openxmlformats.org/package/2006/relationships"><Relationship Id="rId1" Type="http://schemas.openxmlformats.org/officeDocument/2006/relationships/officeDocument" Target="xl/workbook.xml"/></Relationships>`),
			"xl/workbook.xml":            text(`<workbook xmlns="http://schemas.openxmlformats.org/spreadsheetml/2006/main" xmlns:r="http://schemas.openxmlformats.org/officeDocument/2006/relationships"><sheets><sheet name="Colors" sheetId="1" r:id="rId1"/></sheets></workbook>`),
			"xl/_rels/workbook.xml.rels": text(`<Relationships xmlns="http://schemas.openxmlformats.org/package/2006/relationships"><Relationship Id="rId1" Type="http://schemas.openxmlformats.org/officeDocument/2006/relationships/worksheet" Target="worksheets/sheet1.xml"/><Relationship Id="rId2" Type="http://schemas.openxmlformats.org/officeDocument/2006/relationships/sharedStrings" Target="sharedStrings.xml"/></Relationships>`),
			"xl/worksheets/sheet1.xml":   sheet,
			"xl/sharedStrings.xml":       strings,
		})
	}
	page := "<< /Type /Page /Parent 2 0 R /MediaBox [0 0 9 9] /Contents [%s] >>"
	bomb := deflated(256, "0 0 0 rg ")
	files := map[string][]byte{
		"content.pdf": pdfdoc.Plain("<< /Type /Catalog /Pages 2 0 R >>", "<< /Type /Pages /Kids [3 0 R] /Count 1 >>", fmt.Sprintf(page, strings.Repeat("4 0 R ", 8)), stream("", bomb)),
		"objects.pdf": pdfdoc.Plain("<< /Type /Catalog /Pages 2 0 R >>", "<< /Type /Pages /Kids [] /Count 0 >>", stream("/Type /Obj#53tm /N 1 /First 4", deflated(300, "[[[[[[[["))),
		"loose.pdf":   pdfdoc.Plain("<< /Type /Catalog /Pages 2 0 R >>", strings.Repeat("[", 90*mb)),
		"sheet.xlsx":  book(many(`<worksheet xmlns="http://schemas.openxmlformats.org/spreadsheetml/2006/main"><sheetData>`, `<row><c t="inlineStr"><is><t>a</t></is></c></row>`, `</sheetData></worksheet>`, 300*mb), text("<sst/>")),
		"texts.xlsx":  book(text(`<worksheet xmlns="http://schemas.openxmlformats.org/spreadsheetml/2006/main"><sheetData/></worksheet>`), many(`<sst xmlns="http://schemas.openxmlformats.org/spreadsheetml/2006/main">`, `<si><t>a</t></si>`, `</sst>`, 300*mb)),
		"wide.csv":    []byte("name,hex\n" + strings.Repeat(strings.Repeat(",", 900_000)+"\n", 33)),
		"long.csv":    []byte("name,hex\n" + strings.Repeat("\n,", 90_000)),
		"nodes.json":  []byte(`{"a":[` + strings.Repeat("1,", 30*mb) + `1]}`),
		"groups.json": []byte(`{"a":{}` + strings.Repeat(`,"b":{}`, 8*mb) + `}`),
		"lines.txt":   []byte(strings.Repeat("#123456\n", 95_000)),
		"empty.svg":   []byte("<svg>" + strings.Repeat("<a/>", 24*mb) + "</svg>"),
		"rules.css":   []byte(strings.Repeat("a{}", 10*mb)),
		"props.css":   []byte(strings.Repeat("--a:#123;", 3*mb)),
		"large.css":   []byte(strings.Repeat("a{}", 33*mb)),
		"words.css":   []byte("a{" + strings.Repeat("b ", 15*mb)),
		"large.csv":   []byte("name,hex\n" + strings.Repeat("\n,", 30*mb)),
		"cells.ods": zipped(map[string]func(*bytes.Buffer){"mimetype": text("application/vnd.oasis.opendocument.spreadsheet"),
			"content.xml": many(`<o xmlns:table="urn:oasis:names:tc:opendocument:xmlns:table:1.0"><table:table>`, `<table:table-row><table:table-cell/></table:table-row>`, `</table:table></o>`, 300*mb)}),
	}
	for name, data := range files {
		t.Run(name, func(t *testing.T) {
			path := filepath.Join(dir, name)
			require.NoError(t, os.WriteFile(path, data, 0o600))
			cmd := exec.Command(program, "gather", path)
			var out bytes.Buffer
			cmd.Stdout, cmd.Stderr = &out, &out
			require.NoError(t, cmd.Start())
			peak, done := 0, make(chan error, 1)
			go func() { done <- cmd.Wait() }()
			for running := true; running; {
				select {
				case <-done:
					running = false
				case <-time.After(5 * time.Millisecond):
					peak = max(peak, highWater(cmd.Process.Pid))
				}
			}
			said := out.String()
			t.Logf("%d KB, %d MB at the peak, %s: %.160s", len(data)/1024, peak, cmd.ProcessState.UserTime(), said)
			assert.Less(t, peak, 300, "MB")
			assert.NotContains(t, said, "goroutine")
			require.NoError(t, os.Remove(path))
		})
	}
}

// highWater is the most memory that a process has had, in MB; 0 if it is gone.
func highWater(pid int) int {
	status, err := os.ReadFile(fmt.Sprintf("/proc/%d/status", pid))
	if err != nil {
		return 0
	}
	_, after, _ := strings.Cut(string(status), "VmHWM:")
	kb := 0
	fmt.Sscan(after, &kb)
	return kb / 1024
}
