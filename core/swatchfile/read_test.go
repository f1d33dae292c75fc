package swatchfile_test

import (
	"archive/zip"
	"bytes"
	"fmt"
	"os"
	"os/exec"
	"path/filepath"
	"slices"
	"strings"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"huekeep/core/color"
	"huekeep/core/hostile"
	"huekeep/core/library"
	"huekeep/core/swatchfile"
)

// need skips a test without an independent program, but never in CI.
func need(t testing.TB, program, debian string) {
	t.Helper()
	if _, err := exec.LookPath(program); err != nil {
		if os.Getenv("CI") != "" {
			t.Fatalf("%s must be installed in CI (%s)", program, debian)
		}
		t.Skipf("%s of Debian's %s is not installed", program, debian)
	}
}

func edition(t testing.TB) library.Edition {
	l := ferries()
	e, ok := l.SetEdition("Core")
	require.True(t, ok)
	e.Colors[0].Aliases, e.Colors[0].Tags = []string{"Hull blue", "Navy of the fleet"}, []string{"print"}
	return e
}

// Everything that a format can carry comes back; what it cannot is announced.
func TestWhatIsWrittenIsReadBack(t *testing.T) {
	e := edition(t)
	full := []string{"tsv", "csv", "xlsx"}
	for _, p := range swatchfile.Packings() {
		t.Run(p.Name, func(t *testing.T) {
			data, err := p.Write(e)
			require.NoError(t, err)
			again, err := p.Write(e)
			require.NoError(t, err)
			assert.Equal(t, data, again, "the same edition is the same file")
			if !slices.Contains([]string{"deck", "deck-template", "document", "document-template", "theme-part", "soc", "gpl", "csv", "tsv", "xlsx", "cxf", "css", "scss",
				"utility-css", "tokens", "tokens-string"}, p.Name) {
				return // it is for looking at, or for programs that we do not read files of; gather reads pictures and pages
			}
			l, reader, err := swatchfile.Read("x"+p.Extension, data)
			require.NoError(t, err)
			if p.For == swatchfile.Office && p.Name != "soc" {
				assert.GreaterOrEqual(t, len(l.Colors), len(e.Colors))
				return
			}
			require.Len(t, l.Colors, len(e.Colors), reader.Name)
			for i, c := range e.Colors {
				got := l.Colors[i]
				assert.Equal(t, c.RGB, got.RGB, c.Name)
				assert.Equal(t, c.Name, got.Name)
				for _, name := range full {
					if name == p.Name {
						assert.Equal(t, [5]any{c.Group, c.Role, c.Rule, c.Aliases, c.Tags}, [5]any{got.Group, got.Role, got.Rule, got.Aliases, got.Tags})
					}
				}
				if p.Name == "cxf" || p.Name == "csv" || p.Name == "xlsx" || p.Name == "tsv" {
					require.Len(t, got.Builds, len(c.Builds))
					require.Len(t, got.Spots, len(c.Spots))
					if len(c.Builds) > 0 {
						assert.Equal(t, c.Builds[0].Value, got.Builds[0].Value)
						assert.Equal(t, c.Spots[0].Code, got.Spots[0].Code)
					}
					assert.Empty(t, p.Loses(e))
				} else {
					assert.Len(t, p.Loses(e), 2, "builds and inks are left out, and it says so")
				}
			}
		})
	}
}

// Palettes that an office suite ships, and the measurements that the press profiles were made from.
func TestFilesThatOtherProgramsWrote(t *testing.T) {
	for file, want := range map[string]string{
		"/usr/lib/libreoffice/share/palette/standard.soc":       "#000000",
		"/usr/lib/libreoffice/share/palette/html.soc":           "#F0F8FF",
		"/usr/lib/libreoffice/share/palette/freecolour-hlc.soc": "",
		"/usr/share/color/icc/FOGRA39L.ti3":                     "",
		"/usr/share/color/icc/TR002.ti3":                        "",
	} {
		data, err := os.ReadFile(file)
		if err != nil && os.Getenv("CI") == "" {
			t.Logf("%s is not here", file)
			continue
		}
		require.NoError(t, err)
		l, _, err := swatchfile.Read(file, data)
		require.NoError(t, err, file)
		assert.Greater(t, len(l.Colors), 10, file)
		if want != "" {
			assert.Contains(t, hexes(l), want, file)
		}
		if strings.HasSuffix(file, ".ti3") {
			c := l.Colors[0]
			require.NotNil(t, c.Reading(), file)
			require.Len(t, c.Builds, 1)
			assert.Less(t, color.DeltaE00(c.RGB.Lab(), *c.Reading()), 40.0)
		}
	}
}

func hexes(l swatchfile.Library) []string {
	var out []string
	for _, c := range l.Colors {
		out = append(out, c.RGB.Hex())
	}
	return out
}

// An office suite opens our workbook and palette, and what it saves in its own way is read.
func TestAnOfficeSuiteAgrees(t *testing.T) {
	need(t, "soffice", "libreoffice")
	dir := t.TempDir()
	convert := func(to, file string) {
		out, err := exec.Command("soffice", "--headless", "-env:UserInstallation=file://"+dir+"/profile", "--convert-to", to, "--outdir", dir, file).CombinedOutput()
		require.NoError(t, err, string(out))
	}
	data, err := swatchfile.WriteWorkbook(edition(t))
	require.NoError(t, err)
	ours := filepath.Join(dir, "ours.xlsx")
	require.NoError(t, os.WriteFile(ours, data, 0o600))
	convert("csv", ours)
	table, err := os.ReadFile(filepath.Join(dir, "ours.csv"))
	require.NoError(t, err)
	l, _, err := swatchfile.Read("ours.csv", table)
	require.NoError(t, err)
	assert.Equal(t, "Deep Sound", l.Colors[0].Name)
	assert.Equal(t, "92 52.5 27 62", l.Colors[0].Builds[0].Value.String())

	page := filepath.Join(dir, "page.html")
	require.NoError(t, os.WriteFile(page, []byte(`<html><body><h1 style="color:#0E3A53">A</h1><p style="color:#E2572B;background:#F7F5F0">B</p></body></html>`), 0o600))
	convert("odt:writer8", page)
	written, err := os.ReadFile(filepath.Join(dir, "page.odt"))
	require.NoError(t, err)
	l, _, err = swatchfile.Read("page.odt", written)
	require.NoError(t, err)
	assert.Contains(t, hexes(l), "#E2572B")
	deck, err := swatchfile.WriteDeck(edition(t))
	require.NoError(t, err)
	require.NoError(t, os.WriteFile(filepath.Join(dir, "deck.pptx"), deck, 0o600))
	convert("odp", filepath.Join(dir, "deck.pptx"))
	written, err = os.ReadFile(filepath.Join(dir, "deck.odp"))
	require.NoError(t, err)
	l, _, err = swatchfile.Read("deck.odp", written)
	require.NoError(t, err)
	assert.Contains(t, hexes(l), "#0E3A53")
}

func TestOurXMLIsWellFormed(t *testing.T) {
	need(t, "xmllint", "libxml2-utils")
	e := edition(t)
	e.Colors[0].Name = `A <"quoted"> & odd 'name'`
	for _, write := range []func(library.Edition) ([]byte, error){swatchfile.WriteSOC, swatchfile.WriteCxF} {
		data, err := write(e)
		require.NoError(t, err)
		cmd := exec.Command("xmllint", "--noout", "-")
		cmd.Stdin = bytes.NewReader(data)
		out, err := cmd.CombinedOutput()
		require.NoError(t, err, string(out))
	}
}

func TestReadingByContent(t *testing.T) {
	for _, c := range []struct{ file, text, format, want string }{
		{"a.css", ":root{--deep-sound:#0e3a53;--link: var(--deep-sound);--gap:4px}", "css", "deep sound #0E3A53, link #0E3A53"},
		{"a.scss", "// Ferries\n$buoy: rgb(226 87 43) !default; // The buoy\n$call: $buoy;", "css", "The buoy #E2572B, call #E2572B"},
		{"a.txt", "Name;Hex;CMYK\nBuoy;#E2572B;0/77/92/6\n\nFog;201 209 211;", "table", "Buoy #E2572B, Fog #C9D1D3"},
		{"a.tsv", "colour\tred\tgreen\tblue\nLamp\t242\t182\t50\n", "table", "Lamp #F2B632"},
		{"a.csv", "Deep Sound,#0E3A53\nnot a color\nBuoy,#E2572B\n", "table", "Deep Sound #0E3A53, Buoy #E2572B"},
		{"wrong.json", "GIMP Palette\nName: x\n#\n226 87 43 Buoy\n", "gpl", "Buoy #E2572B"},
		{"a.txt", "CGATS.17\nBEGIN_DATA_FORMAT\nSAMPLE_ID SAMPLE_NAME LAB_L LAB_A LAB_B\nEND_DATA_FORMAT\nBEGIN_DATA\n1 \"Harbor Grey\" 50 0 0\nEND_DATA\n", "cgats", "Harbor Grey #777777"},
		{"a.txt", "CGATS.17\nBEGIN_DATA_FORMAT\nSAMPLE_ID XYZ_X XYZ_Y XYZ_Z\nEND_DATA_FORMAT\nBEGIN_DATA\nA1 96.42 100 82.49\nEND_DATA\n", "cgats", "A1 #FFFFFF"},
		{"a.xml", `<a:theme xmlns:a="x" name="T"><a:clrScheme name="S"><a:dk1><a:sysClr val="windowText" lastClr="000000"/></a:dk1><a:accent1><a:srgbClr val="E2572B"/></a:accent1></a:clrScheme><a:fmtScheme><a:srgbClr val="123456"/></a:fmtScheme><a:custClrLst><a:custClr name="Buoy"><a:srgbClr val="E2572B"/></a:custClr></a:custClrLst></a:theme>`, "theme-part", "Buoy #E2572B, dk1 #000000"},
		{"a.cxf", `<CxF xmlns="http://colorexchangeformat.com/CxF3-core"><Resources><ObjectCollection><Object Name="Red" ObjectType="Standard"><ColorValues><ColorSRGB MaxRange="1"><R>1</R><G>0</G><B>0</B></ColorSRGB></ColorValues></Object></ObjectCollection></Resources></CxF>`, "cxf", "Red #FF0000"},
	} {
		l, r, err := swatchfile.Read(c.file, []byte(c.text))
		if !assert.NoError(t, err, c.text) {
			continue
		}
		var got []string
		for _, x := range l.Colors {
			got = append(got, x.Name+" "+x.RGB.Hex())
		}
		assert.Equal(t, c.format, r.Name, c.text)
		assert.Equal(t, c.want, strings.Join(got, ", "), c.text)
	}
	// A table from an office program in UTF-16.
	utf16 := []byte("\xff\xfe")
	for _, r := range "Name\tHex\nBuöy\t#E2572B\n" {
		utf16 = append(utf16, byte(r), byte(r>>8))
	}
	l, _, err := swatchfile.Read("a.txt", utf16)
	require.NoError(t, err)
	assert.Equal(t, "Buöy", l.Colors[0].Name)
}

func TestBrokenFilesAreRefusedWithTheirPlace(t *testing.T) {
	for _, c := range []struct{ file, text, part string }{
		{"a.gpl", "", "empty"},
		{"a.gpl", "GIMP Palette\n300 0 0 x", "line 2: \"300\""},
		{"a.gpl", "GIMP Palette\n3 0", "line 2 has no three values"},
		{"a.soc", `<o:color-table><draw:color draw:color="#12"/></o:color-table>`, "line 1"},
		{"a.soc", `<o:color-table xmlns:o="o">` + "\n<x", "line 2 is not well-formed"},
		{"a.cxf", `<CxF><Object Name="x"><ColorValues/></Object></CxF>`, `object "x": it has neither`},
		{"a.cxf", `<CxF><Object Name="x"><ColorValues><ColorCIELab><L>900</L><A>0</A><B>0</B></ColorCIELab></ColorValues></Object></CxF>`, "outside its range"},
		{"a.txt", "BEGIN_DATA_FORMAT\nLAB_L LAB_A LAB_B\nEND_DATA_FORMAT\nBEGIN_DATA\n1 2\nEND_DATA", "line 5: it has 2 values"},
		{"a.txt", "BEGIN_DATA_FORMAT\nLAB_L LAB_A LAB_B\nEND_DATA_FORMAT\nBEGIN_DATA\n1 2 3\n", "cut off"},
		{"a.csv", "name,hex\nA,#12\n", "row 2"},
		{"a.csv", "name,hex,cmyk\nA,#123456,1 2 3\n", "row 2"},
		{"a.css", "a { color: 4px }", "defines no custom property"},
		{"a.json", `{"a":`, "cut off"},
		{"a.png", "\x89PNG\r\n\x1a\n\x00\x00", "neither text nor an archive"},
		{"a.txt", "hello there", "neither a head"},
	} {
		_, _, err := swatchfile.Read(c.file, []byte(c.text))
		if assert.Error(t, err, c.text) {
			assert.Contains(t, err.Error(), c.part, c.text)
		}
	}
}

// An archive whose parts say that they unpack to 5 GB, or unpack to more than they say, is refused before it fills memory.
func TestArchivesThatUnpackToTooMuch(t *testing.T) {
	part := func(name string, size uint64) []byte {
		var b bytes.Buffer
		z := zip.NewWriter(&b)
		for _, n := range []string{"[Content_Types].xml", "xl/workbook.xml", "mimetype"} {
			w, err := z.Create(n)
			require.NoError(t, err)
			_, _ = w.Write([]byte("application/vnd.oasis.opendocument.text"))
		}
		w, err := z.CreateRaw(&zip.FileHeader{Name: name, Method: zip.Deflate, CompressedSize64: 3, UncompressedSize64: size})
		require.NoError(t, err)
		_, _ = w.Write([]byte{3, 0, 0})
		require.NoError(t, z.Close())
		return b.Bytes()
	}
	for name, data := range map[string][]byte{"a.pptx": part("ppt/theme/theme1.xml", 5<<30), "a.xlsx": part("xl/worksheets/sheet1.xml", 5<<30), "a.ott": part("styles.xml", 5<<30)} {
		_, _, err := swatchfile.Read(name, data)
		assert.Error(t, err, name)
	}
}

func FuzzRead(f *testing.F) {
	e := edition(f)
	for _, p := range swatchfile.Packings() {
		data, err := p.Write(e)
		require.NoError(f, err)
		f.Add(p.Extension, data)
	}
	f.Add(".txt", []byte("BEGIN_DATA_FORMAT\nLAB_L LAB_A LAB_B CMYK_C CMYK_M CMYK_Y CMYK_K\nEND_DATA_FORMAT\nBEGIN_DATA\n1 2 3 4 5 6 7\nEND_DATA"))
	f.Fuzz(func(t *testing.T, extension string, data []byte) {
		defer hostile.Timely(t, len(extension))()
		l, _, err := swatchfile.Read("x"+extension, data)
		if err != nil {
			return
		}
		for _, c := range l.Colors {
			for _, b := range c.Builds {
				if !b.Value.Valid() {
					t.Fatalf("%s has the build %v", c.Name, b.Value)
				}
			}
		}
	})
}

// BenchmarkImport states what reading 10,000 colors costs in each text format, as a ratio to the design tokens form.
func BenchmarkImport(b *testing.B) {
	e := library.Edition{House: "Large", Set: "All"}
	for i := range 10_000 {
		e.Colors = append(e.Colors, library.Color{Name: fmt.Sprintf("Color %d", i), RGB: color.RGB8{R: uint8(i), G: uint8(i >> 4), B: uint8(i >> 8)}})
	}
	for _, p := range swatchfile.Packings() {
		if !slices.Contains([]string{"soc", "gpl", "csv", "tsv", "xlsx", "cxf", "css", "scss", "tokens"}, p.Name) {
			continue
		}
		data, err := p.Write(e)
		require.NoError(b, err)
		b.Run(p.Name, func(b *testing.B) {
			for b.Loop() {
				_, _, err := swatchfile.Read("x"+p.Extension, data)
				require.NoError(b, err)
			}
		})
	}
}
