// Command smooth takes the waves out of the black of a press profile: colprof leaves some along the grays of its backward
// table. Where a point of the table is printable, black is what press.Condition.Best plans and the other inks are solved
// for through the forward table. The profile is changed in place.
package main

import (
	"encoding/binary"
	"fmt"
	"math"
	"os"

	"huekeep/core/color"
	"huekeep/core/press"
)

func main() {
	for _, path := range os.Args[1:] {
		if err := smooth(path); err != nil {
			fmt.Fprintf(os.Stderr, "%s: %v\n", path, err)
			os.Exit(1)
		}
	}
}

const (
	grays     = 30  // chroma up to which black matters to the eye
	printable = 0.5 // ΔE00 up to which a point of the table counts as printable
)

func smooth(path string) error {
	data, err := os.ReadFile(path) // #nosec G703 -- the path is the developer's
	if err != nil {
		return err
	}
	c, err := press.New("press", "", 0, data)
	if err != nil {
		return err
	}
	tag := table(data, "B2A1")
	if tag == nil || string(tag[:4]) != "mft2" {
		return fmt.Errorf("a table B2A1 of type mft2 is wanted")
	}
	points := int(tag[10])
	entries, exits := int(binary.BigEndian.Uint16(tag[48:])), int(binary.BigEndian.Uint16(tag[50:]))
	before := tag[52:]
	grid := before[2*3*entries:]
	after := grid[2*4*points*points*points:]
	place := func(axis, i int) float64 { // 0 to 65535
		return back(before[2*axis*entries:], entries, float64(i)/float64(points-1)*65535)
	}
	changed := 0
	for i := range points {
		for j := range points {
			for k := range points {
				lab := color.Lab{L: place(0, i) / 652.8, A: place(1, j)/256 - 128, B: place(2, k)/256 - 128}
				if math.Hypot(lab.A, lab.B) > grays || lab.L > 100 {
					continue
				}
				build := c.Best(lab)
				if color.DeltaE00(lab, c.Lab(build)) > printable {
					continue
				}
				at := grid[2*4*((i*points+j)*points+k):]
				for ink, v := range build.Array() {
					binary.BigEndian.PutUint16(at[2*ink:], uint16(math.Round(back(after[2*ink*exits:], exits, v/100*65535))))
				}
				changed++
			}
		}
	}
	fmt.Printf("%s: %d of %d points\n", path, changed, points*points*points)
	return os.WriteFile(path, data, 0o644) // #nosec G306 G703 -- a file of the source
}

// table is the data of a tag.
func table(profile []byte, name string) []byte {
	n := int(binary.BigEndian.Uint32(profile[128:]))
	for i := range n {
		entry := profile[132+12*i:]
		if string(entry[:4]) == name {
			return profile[binary.BigEndian.Uint32(entry[4:]):]
		}
	}
	return nil
}

// back finds where a rising curve of n 16-bit entries reaches v; both run from 0 to 65535.
func back(curve []byte, n int, v float64) float64 {
	at := func(i int) float64 { return float64(binary.BigEndian.Uint16(curve[2*i:])) }
	lo, hi := 0, n-1
	for hi-lo > 1 {
		if mid := (lo + hi) / 2; at(mid) <= v {
			lo = mid
		} else {
			hi = mid
		}
	}
	part := 0.0
	if at(hi) > at(lo) {
		part = math.Min(1, math.Max(0, (v-at(lo))/(at(hi)-at(lo))))
	}
	return (float64(lo) + part) / float64(n-1) * 65535
}
