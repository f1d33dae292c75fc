package recognize

import (
	"bytes"
	"slices"
)

// unread lists, by the bytes that it begins with at a place, what people have and what is not read, with what to bring instead.
var unread = []struct {
	at    int
	begin string
	says  string
}{
	{0, "\xd0\xcf\x11\xe0", "in the office formats from before 2007, which are not read; save it in a newer one, such as .docx, .xlsx, .pptx or .odt"},
	{0, "%!PS", "PostScript, which is not read; make a PDF of it"},
	{0, `{\rtf`, "rich text (RTF), which is not read; save it as .docx or .odt, or paste its text"},
	{0, "7z\xbc\xaf\x27\x1c", another}, {0, "Rar!\x1a\x07", another}, {0, "\x1f\x8b", another}, {0, "BZh", another}, {0, "\xfd7zXZ\x00",
		another},
	{0, "\x28\xb5\x2f\xfd", another}, {257, "ustar", another},
	{36, "acsp", "an ICC profile, which holds no colors of its own; add that of a press under Library, presses"},
	{0, "OTTO", font}, {0, "\x00\x01\x00\x00\x00", font}, {0, "true\x00", font}, {0, "ttcf", font}, {0, "wOFF", font}, {0, "wOF2", font},
	{0, "ID3", sound}, {8, "WAVEfmt", sound}, {0, "fLaC", sound},
	{0, "MZ", program}, {0, "\x7fELF", program},
}

const (
	another = "an archive of a kind that is not read; pack the files as .zip, or drop the folder"
	font    = "a font, which holds no colors that are read"
	sound   = "a sound, which holds no colors"
	program = "a program, which is not read"
)

// Familiar says what a file is that people have and that is not read, and what to bring instead: "a font, which ..."; empty for others.
func Familiar(data []byte) string {
	if Still(data) {
		return "a picture in HEIF (HEIC or the like), which is not read; save it as PNG or JPEG"
	}
	for _, u := range unread {
		if len(data) >= u.at && bytes.HasPrefix(data[u.at:], []byte(u.begin)) {
			return u.says
		}
	}
	return ""
}

// Still says whether it is a still picture in HEIF, which begins as a video does (ISO/IEC 23008-12).
func Still(data []byte) bool {
	if len(data) < 12 || string(data[4:8]) != "ftyp" {
		return false
	}
	return slices.Contains([]string{"heic", "heix", "hevc", "hevx", "heim", "heis", "mif1", "msf1", "avif", "avis"}, string(data[8:12]))
}

// Closed says whether a file is no text at all, of no kind that Look knows.
func Closed(data []byte) bool {
	return !UTF16(data) && bytes.IndexByte(data[:min(len(data), 64<<10)], 0) >= 0
}
