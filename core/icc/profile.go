// Package icc reads ICC profiles (ICC.1:2022, which is version 4, and the older version 2) and turns device values into
// CIELAB and back: RGB, gray and CMYK, curves with a matrix or tables (mft1, mft2, mAB, mBA), Lab or XYZ as connection
// space, all four rendering intents, with or without black point compensation, single values or rows of pixels.
//
// Two profiles are joined through Lab: one profile's ToLab, then the other's FromLab with the same Rendering. Black point
// compensation and the absolute intent scale each axis of XYZ, so going through the common Lab changes nothing.
package icc

import (
	"encoding/binary"
	"fmt"
	"strings"
	"unicode/utf16"

	"huekeep/core/limits"
)

// Profile is the readable part of an ICC profile.
type Profile struct {
	Class       string // "prtr", "mntr", "scnr", "spac" ...
	Space       string // device color space: "CMYK", "RGB ", "GRAY" ...
	PCS         string // "Lab " or "XYZ "
	Major       int    // version 2 or 4
	Description string
	tags        map[string][]byte
}

// Parse reads the header and the tag table. Everything in it that points outside the data is an error.
func Parse(data []byte) (*Profile, error) {
	if len(data) > limits.ProfileBytes {
		return nil, fmt.Errorf("the profile has %s; at most %s are read", limits.Size(int64(len(data))), limits.Size(limits.ProfileBytes))
	}
	if len(data) < 132 || string(data[36:40]) != "acsp" {
		return nil, fmt.Errorf("this is not an ICC profile")
	}
	if size := binary.BigEndian.Uint32(data); int64(size) > int64(len(data)) {
		return nil, fmt.Errorf("the profile is cut off: it says %d bytes and has %d", size, len(data))
	}
	p := &Profile{
		Class: string(data[12:16]), Space: string(data[16:20]), PCS: string(data[20:24]),
		Major: int(data[8]), tags: map[string][]byte{},
	}
	if p.Major != 2 && p.Major != 4 {
		return nil, fmt.Errorf("the profile is of version %d; 2 and 4 are read", p.Major)
	}
	count := binary.BigEndian.Uint32(data[128:])
	if count > 1000 || 132+12*int(count) > len(data) {
		return nil, fmt.Errorf("the profile claims %d tags, more than fit into it", count)
	}
	for i := range int(count) {
		e := data[132+12*i:]
		sig := string(e[:4])
		offset, size := uint64(binary.BigEndian.Uint32(e[4:])), uint64(binary.BigEndian.Uint32(e[8:]))
		if offset+size > uint64(len(data)) || size < 8 {
			return nil, fmt.Errorf("tag %q of the profile lies outside the file", sig)
		}
		p.tags[sig] = data[offset : offset+size]
	}
	p.Description = p.description()
	return p, nil
}

// Channels is the number of device values: 4 for CMYK, 3 for RGB, 1 for gray, 0 for a space that is not read.
func (p *Profile) Channels() int {
	switch p.Space {
	case "CMYK":
		return 4
	case "RGB ":
		return 3
	case "GRAY":
		return 1
	}
	return 0
}

// Shaped says whether the profile is one of curves and a matrix only, without tables: each channel then adds its part to a
// color in linear light, whatever the other channels are.
func (p *Profile) Shaped() bool {
	_, table := p.table("A2B", RelativeColorimetric)
	return p.Space == "RGB " && table == nil
}

func (p *Profile) description() string {
	d := p.tags["desc"]
	if len(d) < 16 {
		return ""
	}
	switch n := int64(binary.BigEndian.Uint32(d[8:])); string(d[:4]) {
	case "desc": // version 2: ASCII with a closing zero
		if n > 1 && n <= int64(len(d)-12) {
			return strings.ToValidUTF8(string(d[12:12+n-1]), "")
		}
	case "mluc": // version 4: records of language, length, offset; the first is as good as any
		if n < 1 || len(d) < 28 {
			return ""
		}
		size, offset := int64(binary.BigEndian.Uint32(d[20:])), int64(binary.BigEndian.Uint32(d[24:]))
		if size > 2000 || offset+size > int64(len(d)) {
			return ""
		}
		units := make([]uint16, size/2)
		for i := range units {
			units[i] = binary.BigEndian.Uint16(d[offset+2*int64(i):])
		}
		return strings.TrimRight(string(utf16.Decode(units)), "\x00")
	}
	return ""
}

// fixed reads an s15Fixed16Number.
func fixed(b []byte) float64 { return float64(int32(binary.BigEndian.Uint32(b))) / 65536 }

// xyz reads the first value of an XYZType tag.
func (p *Profile) xyz(tag string) ([3]float64, error) {
	d := p.tags[tag]
	if len(d) < 20 || string(d[:4]) != "XYZ " {
		return [3]float64{}, fmt.Errorf("the profile has no whole %s tag", tag)
	}
	return [3]float64{fixed(d[8:]), fixed(d[12:]), fixed(d[16:])}, nil
}
