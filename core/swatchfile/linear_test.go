package swatchfile_test

import (
	"testing"

	"huekeep/core/color"
	"huekeep/core/hostile"
	"huekeep/core/icc"
	"huekeep/core/swatchfile"
	"huekeep/core/typeface"
)

// Everything that is read of a swatch file, a pasted list, a profile or a font takes time that is linear in its bytes.
func TestSwatchFilesThatRepeatATokenTakeLinearTime(t *testing.T) {
	xml := []string{"<a>", "<a ", "<a b='", "<!--", "<![CDATA[", "&", "&#1", "&a;", "</a>", "<a/>", "<?", "<!ENTITY a '&a;'>", "<!DOCTYPE"}
	for name, c := range map[string]struct {
		head, tail string
		tokens     []string
	}{
		"x.gpl":    {"GIMP Palette\n", "", append(hostile.Pairs("0 \t#\n1a"), "1 2 3 a\n", "Name: a\n", "Columns: 1\n", "255 255 255\n", "# a\n")},
		"x.soc":    {"<?xml version='1.0'?><office:color-table xmlns:office='o' xmlns:draw='d'>", "</office:color-table>", append([]string{"<draw:color draw:name='a' draw:color='#112233'/>", "<draw:color draw:name='"}, xml...)},
		"x.cxf":    {"<?xml version='1.0'?><cc:CxF xmlns:cc='http://colorexchangeformat.com/CxF3-core'><cc:Resources><cc:ObjectCollection>", "</cc:ObjectCollection></cc:Resources></cc:CxF>", append([]string{"<cc:Object Name='a' Id='a'>", "<cc:Object Name='a' Id='a'><cc:ColorValues><cc:ColorCIELab>", "<cc:ReflectanceSpectrum StartWL='400'>0 ", "0.5 ", "<cc:Tag Name='Tint-of' Value='a'/>"}, xml...)},
		"x.csv":    {"name,hex\n", "", append(hostile.Pairs("\",\n;a#1\t "), "a,#112233\n", "\"a\"\"", ",,,,", "=1")},
		"x.tsv":    {"name\thex\n", "", append(hostile.Pairs("\"\t\na#1"), "a\t#112233\n")},
		"x.json":   {"{\"colors\":[", "]}", append(hostile.Pairs("{}[]\",:\\1"), "{\"name\":\"a\",\"hex\":\"#112233\"},", "{\"a\":", "[[", "\"\\u00", "{\"$value\":\"{a}\"},")},
		"x.tokens": {"{", "}", []string{"\"a\":{\"$type\":\"color\",\"$value\":\"{a}\"},", "\"a\":{", "\"a\":{\"$value\":\"#112233\"},", "\"$extends\":\"{a}\","}},
		"x.css":    {":root{", "}", append(hostile.Pairs("{}();:'\"/*\\-@#"), "--a:#112233;", "--a:var(--a);", "--a:var(--b,", "--a:rgb(", "/*", "url(", "--a:{")},
		"x.scss":   {"", "", []string{"$a:#112233;", "$a:$a;", "$a:(", "$m:(a:", "//", "/*", "#{", "@function f($a){", "@use 'a' with("}},
		"x.txt":    {"CGATS.17\n", "", append(hostile.Pairs("\"\n\t 1#"), "BEGIN_DATA\n", "END_DATA\n", "BEGIN_DATA_FORMAT\nSAMPLE_ID LAB_L LAB_A LAB_B\nEND_DATA_FORMAT\n", "KEYWORD \"a\"\n", "1 2 3 4\n")},
	} {
		t.Run(name, func(t *testing.T) {
			t.Parallel()
			bare := hostile.Cases("", "", c.tokens...)
			for i := range bare {
				bare[i].Few = true
			}
			hostile.Linear(t, func(data []byte) { _, _, _ = swatchfile.Read(name, data) }, append(hostile.Cases(c.head, c.tail, c.tokens...), bare...))
		})
	}
	typed := append(hostile.Pairs("#(),/%1a \t\n-:;'\"[]"), "rgb(", "rgb(1 2 3)", "color-mix(in srgb,", "calc(", "calc((", "calc(1+", "rgb(from ", "#112233", "#112233 ", "Name #112233\n", "Name: ", "hsl(", "lab(", "cmyk ", "10 20 30 40 ", "var(--a,", "url(", "color(srgb ", "none ", "min(", "light-dark(", "1e9", "--", "+-", "**")
	t.Run("typed", func(t *testing.T) {
		t.Parallel()
		hostile.Linear(t, func(data []byte) { _, _ = color.Parse(string(data)) }, append(hostile.Cases("", "", typed...), hostile.Cases("rgb(", ")", typed...)...))
	})
	t.Run("pasted", func(t *testing.T) {
		t.Parallel()
		hostile.Linear(t, func(data []byte) { color.ReadList(string(data)) }, append(hostile.Cases("", "", typed...), hostile.Cases("Name ", "", typed...)...))
	})
	head := "\x00\x00\x10\x00lcms\x04 \x00\x00prtrCMYKLab \x07\xe6\x00\x01\x00\x01\x00\x00\x00\x00\x00\x00acsp" + string(make([]byte, 88))
	t.Run("profiles", func(t *testing.T) {
		t.Parallel()
		hostile.Linear(t, func(data []byte) { _, _ = icc.Parse(data) }, hostile.Cases(head, "", "\xff\xff\xff\xff", "\x00\x00\x00\x01", "A2B0\x00\x00\x00\x80\x00\x00\x00\xff", "A2B0\x00\x00\x00\x84\x7f\xff\xff\xff", "mft2\x00\x00\x00\x00\x04\x03\xff\x00", "mAB \x00\x00\x00\x00", "curv\x00\x00\x00\x00\xff\xff\xff\xff"))
	})
	t.Run("fonts", func(t *testing.T) {
		t.Parallel()
		for _, magic := range []string{"\x00\x01\x00\x00", "OTTO", "wOF2", "wOFF", "ttcf"} {
			hostile.Linear(t, func(data []byte) { _, _ = typeface.Check(data) }, hostile.Cases(magic, "", "\xff\xff\xff\xff", "\x00\x00\x00\x01", "\x00\xffglyf\x00\x00\x00\x00\x00\x00\x00\x0c\x00\x00\xff\xff", "cmap\x00\x00\x00\x00\x00\x00\x00\x0c\x7f\xff\xff\xff"))
		}
	})
}
