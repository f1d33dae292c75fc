/*
Copyright 2018 The pdfcpu Authors.

Licensed under the Apache License, Version 2.0 (the "License");
you may not use this file except in compliance with the License.
You may obtain a copy of the License at

	http://www.apache.org/licenses/LICENSE-2.0

Unless required by applicable law or agreed to in writing, software
distributed under the License is distributed on an "AS IS" BASIS,
WITHOUT WARRANTIES OR CONDITIONS OF ANY KIND, either express or implied.
See the License for the specific language governing permissions and
limitations under the License.
*/

package font

import (
	"errors"
	"fmt"

	"math"
	"os"

	"strings"
)

// TTFLight represents a TrueType font w/o font file.
type TTFLight struct {
	PostscriptName     string            // name: NameID 6
	Protected          bool              // OS/2: fsType
	UnitsPerEm         int               // head: unitsPerEm
	Ascent             int               // OS/2: sTypoAscender
	Descent            int               // OS/2: sTypoDescender
	CapHeight          int               // OS/2: sCapHeight
	FirstChar          uint16            // OS/2: fsFirstCharIndex
	LastChar           uint16            // OS/2: fsLastCharIndex
	UnicodeRange       [4]uint32         // OS/2: Unicode Character Range
	LLx, LLy, URx, URy float64           // head: xMin, yMin, xMax, yMax (fontbox)
	ItalicAngle        float64           // post: italicAngle
	FixedPitch         bool              // post: isFixedPitch
	Bold               bool              // OS/2: usWeightClass == 7
	HorMetricsCount    int               // hhea: numOfLongHorMetrics
	GlyphCount         int               // maxp: numGlyphs
	GlyphWidths        []int             // hmtx: fd.HorMetricsCount.advanceWidth
	Chars              map[uint32]uint16 // cmap: Unicode character to glyph index
	ToUnicode          map[uint16]uint32 // map glyph index to unicode character
	Planes             map[int]bool      // used Unicode planes
}

func validatePostScriptName(name string) error {
	if name == "" {
		return invalidFontData("missing PostScript name")
	}
	if len(name) > 63 {
		return invalidFontData("PostScript name length %d exceeds 63", len(name))
	}
	for i := 0; i < len(name); i++ {
		c := name[i]
		if c <= 0x20 || c >= 0x7f || strings.ContainsRune("()<>[]{}/%", rune(c)) {
			return invalidFontData("PostScript name contains invalid byte %#x at offset %d", c, i)
		}
	}
	return nil
}

func validateMetricCounts(fd TTFLight) error {
	if fd.UnitsPerEm < 16 || fd.UnitsPerEm > 16384 {
		return invalidFontData("units per em %d outside 16..16384", fd.UnitsPerEm)
	}
	if fd.GlyphCount <= 0 || fd.GlyphCount > int(^uint16(0)) {
		return invalidFontData("glyph count %d outside 1..%d", fd.GlyphCount, ^uint16(0))
	}
	if fd.HorMetricsCount <= 0 || fd.HorMetricsCount > fd.GlyphCount {
		return invalidFontData("horizontal metrics count %d outside 1..%d", fd.HorMetricsCount, fd.GlyphCount)
	}
	if len(fd.GlyphWidths) != fd.GlyphCount {
		return invalidFontData("glyph width count %d, expected %d", len(fd.GlyphWidths), fd.GlyphCount)
	}
	for gid, width := range fd.GlyphWidths {
		if width < 0 || width > int(^uint16(0)) {
			return invalidFontData("glyph ID %d width %d outside 0..%d", gid, width, ^uint16(0))
		}
	}
	return nil
}

func validateFontBoundingBox(fd TTFLight) error {
	for name, value := range map[string]float64{"LLx": fd.LLx, "LLy": fd.LLy, "URx": fd.URx, "URy": fd.URy} {
		if math.IsNaN(value) || math.IsInf(value, 0) {
			return invalidFontData("font bounding box %s is not finite", name)
		}
	}
	if fd.LLx >= fd.URx || fd.LLy >= fd.URy {
		return invalidFontData("invalid font bounding box (%.2f, %.2f, %.2f, %.2f)", fd.LLx, fd.LLy, fd.URx, fd.URy)
	}
	return nil
}

func validUnicodeScalar(r uint32) bool {
	return r <= 0x10FFFF && (r < 0xD800 || r > 0xDFFF)
}

func validateUnicodeMaps(fd TTFLight) error {
	if fd.FirstChar > fd.LastChar {
		return invalidFontData("first character %d exceeds last character %d", fd.FirstChar, fd.LastChar)
	}
	if fd.Chars == nil {
		return invalidFontData("missing character map")
	}
	for char, gid := range fd.Chars {
		if !validUnicodeScalar(char) {
			return invalidFontData("character %#x is not a Unicode scalar value", char)
		}
		if int(gid) >= fd.GlyphCount {
			return invalidFontData("character U+%04X maps to glyph ID %d outside 0..%d", char, gid, fd.GlyphCount-1)
		}
	}
	if fd.ToUnicode == nil {
		return invalidFontData("missing ToUnicode map")
	}
	for gid, char := range fd.ToUnicode {
		if int(gid) >= fd.GlyphCount {
			return invalidFontData("ToUnicode glyph ID %d outside 0..%d", gid, fd.GlyphCount-1)
		}
		if !validUnicodeScalar(char) {
			return invalidFontData("ToUnicode glyph ID %d maps to non-scalar value %#x", gid, char)
		}
	}
	return nil
}

func validateUnicodePlanes(fd TTFLight) error {
	if fd.Planes == nil {
		return invalidFontData("missing Unicode planes map")
	}
	if len(fd.Planes) == 0 {
		return invalidFontData("empty Unicode planes map")
	}
	for plane, used := range fd.Planes {
		if plane < 0 || plane > 16 {
			return invalidFontData("Unicode plane %d outside 0..16", plane)
		}
		if !used {
			return invalidFontData("Unicode plane %d is marked unused", plane)
		}
	}
	for char := range fd.Chars {
		if !fd.Planes[int(char>>16)] {
			return invalidFontData("character U+%04X has no Unicode plane entry", char)
		}
	}
	for _, char := range fd.ToUnicode {
		if !fd.Planes[int(char>>16)] {
			return invalidFontData("ToUnicode value U+%04X has no Unicode plane entry", char)
		}
	}
	return nil
}

// ValidateTTFLight validates the semantic invariants required for font embedding.
func ValidateTTFLight(fd TTFLight) error {
	if err := validatePostScriptName(fd.PostscriptName); err != nil {
		return err
	}
	if err := validateMetricCounts(fd); err != nil {
		return err
	}
	if err := validateFontBoundingBox(fd); err != nil {
		return err
	}
	if err := validateUnicodeMaps(fd); err != nil {
		return err
	}
	return validateUnicodePlanes(fd)
}

// String returns the string value of fd.
func (fd TTFLight) String() string {
	return fmt.Sprintf(`
 PostscriptName = %s
      Protected = %t
     UnitsPerEm = %d
         Ascent = %d
        Descent = %d
      CapHeight = %d
      FirstChar = %d
       LastChar = %d
FontBoundingBox = (%.2f, %.2f, %.2f, %.2f)
    ItalicAngle = %.2f
     FixedPitch = %t
           Bold = %t
HorMetricsCount = %d
	 GlyphCount = %d
len(GlyphWidths) = %d`,
		fd.PostscriptName,
		fd.Protected,
		fd.UnitsPerEm,
		fd.Ascent,
		fd.Descent,
		fd.CapHeight,
		fd.FirstChar,
		fd.LastChar,
		fd.LLx, fd.LLy, fd.URx, fd.URy,
		fd.ItalicAngle,
		fd.FixedPitch,
		fd.Bold,
		fd.HorMetricsCount,
		fd.GlyphCount,
		len(fd.GlyphWidths),
	)
}

// UserFontDir is the location for installed TTF or OTF font files.
var UserFontDir string

func openInstalledGob(fileName string) (f *os.File, err error) {
	opened, err := os.Open(fileName)
	if err != nil {
		return nil, fmt.Errorf("open installed font %s: %w", fileName, err)
	}
	defer func() {
		if err != nil {
			if closeErr := opened.Close(); closeErr != nil {
				err = errors.Join(err, fmt.Errorf("close installed font %s: %w", fileName, closeErr))
			}
		}
	}()
	fi, err := opened.Stat()
	if err != nil {
		return nil, fmt.Errorf("stat installed font %s: %w", fileName, err)
	}
	if fi.Size() > maxInstalledFontSize {
		return nil, invalidFontData("installed font %s: size %d exceeds limit %d", fileName, fi.Size(), maxInstalledFontSize)
	}
	return opened, nil
}
