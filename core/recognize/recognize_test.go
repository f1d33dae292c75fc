package recognize_test

import (
	"archive/zip"
	"bytes"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"huekeep/core/recognize"
)

func packed(t *testing.T, entries ...string) []byte {
	t.Helper()
	var b bytes.Buffer
	z := zip.NewWriter(&b)
	for i := 0; i < len(entries); i += 2 {
		w, err := z.Create(entries[i])
		require.NoError(t, err)
		_, err = w.Write([]byte(entries[i+1]))
		require.NoError(t, err)
	}
	require.NoError(t, z.Close())
	return b.Bytes()
}

func TestFilesAreWhatTheirContentSays(t *testing.T) {
	const types = "[Content_Types].xml"
	for name, c := range map[string]struct {
		data []byte
		want recognize.Content
	}{
		"a presentation":              {packed(t, types, "", "ppt/presentation.xml", ""), recognize.Content{Pack: "pptx"}},
		"a document":                  {packed(t, types, "", "word/document.xml", ""), recognize.Content{Pack: "docx"}},
		"a binary workbook":           {packed(t, types, "", "xl/workbook.bin", ""), recognize.Content{Pack: "xlsx"}},
		"a document elsewhere":        {packed(t, types, "", "_rels/.rels", `<r Target="/word/x.xml"/>`), recognize.Content{Pack: "docx"}},
		"a theme by itself":           {packed(t, types, "", "theme/theme/theme1.xml", ""), recognize.Content{Pack: "thmx"}},
		"an open document":            {packed(t, "mimetype", "application/vnd.oasis.opendocument.spreadsheet-template"), recognize.Content{Pack: "ods"}},
		"a folder":                    {packed(t, "site/a.css", ""), recognize.Content{Pack: "zip"}},
		"a folder with a ppt folder":  {packed(t, "ppt/a.css", ""), recognize.Content{Pack: "zip"}},
		"a drawing":                   {[]byte("<?xml version='1.0'?><!-- <a> --><!DOCTYPE svg [<!ENTITY x 'y'>]><svg:svg xmlns:svg='s'/>"), recognize.Content{Plain: true, Root: "svg"}},
		"a drawing in UTF-16":         {[]byte("\xff\xfe<\x00s\x00v\x00g\x00/\x00>\x00"), recognize.Content{Plain: true, Root: "svg"}},
		"a drawing of Western Europe": {[]byte("<?xml version='1.0' encoding='iso-8859-1'?><svg id='\xe9'/>"), recognize.Content{Plain: true, Root: "svg"}},
		"text":                        {[]byte("a { color: red }"), recognize.Content{Plain: true}},
		"other bytes":                 {[]byte("\x00\x01\x02"), recognize.Content{}},
		"nothing":                     {nil, recognize.Content{Plain: true}},
	} {
		t.Run(name, func(t *testing.T) {
			got := recognize.Look(c.data)
			got.Data = nil
			assert.Equal(t, c.want, got)
		})
	}
	for text, want := range map[string]bool{`{"a":1}`: true, "\ufeff [ {": true, "[1]": false, "{a": false, "": false, "[Script Info]": false} {
		assert.Equal(t, want, recognize.StartsJSON([]byte(text)), text)
	}
	assert.Equal(t, 3, recognize.InvalidByte([]byte("ab\xff")))
	assert.Zero(t, recognize.InvalidByte([]byte("åß")))
}
