package swatchfile_test

import (
	"archive/zip"
	"bytes"
	"compress/zlib"
	"encoding/json"
	"fmt"
	"image/png"
	"io"
	"strconv"
	"testing"
	"time"

	"github.com/stretchr/testify/require"

	"huekeep/core/color"
	"huekeep/core/ink"
	"huekeep/core/library"
	"huekeep/core/press"
	"huekeep/core/swatchfile"
)

// sixty is an edition as the house fixes one: a build for every press and an ink for each color.
func sixty(b testing.TB) library.Edition {
	e := library.Edition{House: "Large", Set: "All", Number: 1}
	for _, s := range press.Shipped {
		c, err := press.Get(s.Name)
		require.NoError(b, err)
		e.Profiles = append(e.Profiles, library.Profile{Press: s.Name, Label: s.Label, InkLimit: s.InkLimit, Name: c.Identity().Name, SHA256: c.Identity().SHA256})
	}
	inks := ink.Quern().Nearest(color.Lab{L: 50}, ink.Coated, 60)
	for i := range 60 {
		c := library.Color{ID: int64(i + 1), Name: fmt.Sprintf("Color %d", i), RGB: color.RGB8{R: uint8(i * 4), G: uint8(i * 37), B: uint8(255 - i*3)}, Status: library.Approved}
		for _, s := range press.Shipped {
			p, err := press.Get(s.Name)
			require.NoError(b, err)
			c.Builds = append(c.Builds, library.Build{Press: s.Name, Value: p.Build(c.RGB.Lab()).Whole, Origin: library.Derived})
		}
		lab := inks[i].Ink.Lab(ink.Coated)
		c.Spots = []library.Spot{{Stock: "coated", Code: inks[i].Ink.Code, Lab: &lab, Origin: library.Derived}}
		e.Colors = append(e.Colors, c)
	}
	return e
}

// BenchmarkPackings packs sixty colors in every form, one after the other. Text is stated as a ratio to what it takes to write the same edition as plain
// JSON with encoding/json, a picture to encoding its pixels, and an archive or PDF to deflating what it holds. It says how long all of them
// take; under a second is wanted.
func BenchmarkPackings(b *testing.B) {
	e := sixty(b)
	all := time.Duration(0)
	for _, p := range swatchfile.Packings() {
		if p.Name == "kit" {
			continue // it is made of the others
		}
		b.Run(p.Name, func(b *testing.B) {
			file, err := p.Pack(e)
			require.NoError(b, err)
			unit, anchor := beside(b, e, file)
			plain, packing := time.Hour, time.Hour
			for b.Loop() {
				for range 10 {
					plain = min(plain, took(anchor))
					packing = min(packing, took(func() { _, _ = p.Pack(e) }))
				}
			}
			all += packing
			b.ReportMetric(float64(packing)/float64(plain), unit)
		})
	}
	b.Logf("all packings of 60 colors: %v", all.Round(time.Millisecond))
}

// beside is what packing a file is held against.
func beside(b testing.TB, e library.Edition, file []byte) (unit string, anchor func()) {
	if z, err := zip.NewReader(bytes.NewReader(file), int64(len(file))); err == nil {
		parts := unpacked(b, z)
		return "x-deflating", func() { deflate(b, parts) }
	}
	if img, err := png.Decode(bytes.NewReader(file)); err == nil {
		return "x-png", func() { require.NoError(b, png.Encode(io.Discard, img)) }
	}
	if bytes.HasPrefix(file, []byte("%PDF")) {
		var parts [][]byte
		for _, s := range bytes.Split(file, []byte("stream\n")) {
			if r, err := zlib.NewReader(bytes.NewReader(s)); err == nil {
				part, _ := io.ReadAll(r)
				parts = append(parts, part)
			}
		}
		require.NotEmpty(b, parts)
		return "x-deflating", func() { deflate(b, parts) }
	}
	return "x-json", func() {
		_, err := json.Marshal(e)
		require.NoError(b, err)
	}
}

func took(f func()) time.Duration {
	at := time.Now()
	f()
	return time.Since(at)
}

func unpacked(b testing.TB, z *zip.Reader) (parts [][]byte) {
	for _, f := range z.File {
		r, err := f.Open()
		require.NoError(b, err)
		data, err := io.ReadAll(r)
		require.NoError(b, err)
		parts = append(parts, data)
	}
	return parts
}

func deflate(b testing.TB, parts [][]byte) {
	z := zip.NewWriter(io.Discard)
	for i, data := range parts {
		w, err := z.Create(strconv.Itoa(i))
		require.NoError(b, err)
		_, err = w.Write(data)
		require.NoError(b, err)
	}
	require.NoError(b, z.Close())
}
