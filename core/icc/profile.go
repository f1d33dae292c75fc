// Package icc reads ICC profiles (ICC.1:2022 and the older v2) and turns device values into CIELAB and back.
package icc

import (
	"encoding/binary"
	"fmt"

	"huekeep/core/limits"
)

// Intent is a rendering intent; the numbers are those of the profile header.
type Intent int

const (
	Perceptual Intent = iota
	RelativeColorimetric
	Saturation
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

func (p *Profile) description() string {
	d := p.tags["desc"]
	if len(d) >= 12 && string(d[:4]) == "desc" {
		n := int(binary.BigEndian.Uint32(d[8:]))
		if n > 1 && n <= len(d)-12 {
			return string(d[12 : 12+n-1])
		}
	}
	return ""
}

// channels is the number of device values in a color space signature.
func channels(space string) int {
	switch space {
	case "CMYK":
		return 4
	case "RGB ", "Lab ", "XYZ ":
		return 3
	case "GRAY":
		return 1
	}
	return 0
}
