package main

import (
	"archive/zip"
	"bytes"
	"compress/zlib"
	"encoding/binary"
	"encoding/json"
	"fmt"
	"hash/crc32"
	"image"
	"image/png"
	"mime/multipart"
	"strings"
	"testing"
	"time"

	"github.com/andybalholm/brotli"
	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"huekeep/core/press"
)

// give gives a file to a door of the program and says what came of it.
func (v *victim) give(method, path, name string, data []byte) (status int, said string) {
	var b bytes.Buffer
	w := multipart.NewWriter(&b)
	part, err := w.CreateFormFile("file", name)
	require.NoError(v.t, err)
	_, _ = part.Write(data)
	require.NoError(v.t, w.Close())
	status, text := v.ask(method, path, &b, w.FormDataContentType())
	return status, string(text)
}

// pngOf is a PNG file that says it has so many pixels a side, and holds zeros.
func pngOf(side uint32, zeros int) []byte {
	chunk := func(kind string, data []byte) []byte {
		out := append(append(binary.BigEndian.AppendUint32(nil, uint32(len(data))), kind...), data...)
		return binary.BigEndian.AppendUint32(out, crc32.ChecksumIEEE(out[4:]))
	}
	var packed bytes.Buffer
	z := zlib.NewWriter(&packed)
	for range zeros >> 20 {
		_, _ = z.Write(make([]byte, 1<<20))
	}
	_ = z.Close()
	header := append(binary.BigEndian.AppendUint32(binary.BigEndian.AppendUint32(nil, side), side), 8, 6, 0, 0, 0)
	return bytes.Join([][]byte{[]byte("\x89PNG\r\n\x1a\n"), chunk("IHDR", header), chunk("IDAT", packed.Bytes()), chunk("IEND", nil)}, nil)
}

// webFont is a WOFF2 font of one table that comes to very much.
func webFont(size int) []byte {
	var packed bytes.Buffer
	z := brotli.NewWriterLevel(&packed, 5)
	for range size >> 20 {
		_, _ = z.Write(make([]byte, 1<<20))
	}
	_ = z.Close()
	table := []byte{0x0A} // glyf is 10, transformed
	length := []byte{byte(size>>28)&0x7F | 0x80, byte(size>>21)&0x7F | 0x80, byte(size>>14)&0x7F | 0x80, byte(size>>7)&0x7F | 0x80, byte(size) & 0x7F}
	table = append(append(table, length...), length...)
	head := []byte("wOF2\x00\x01\x00\x00")
	head = binary.BigEndian.AppendUint32(head, uint32(48+len(table)+packed.Len()))
	head = append(head, 0, 1, 0, 0)
	head = binary.BigEndian.AppendUint32(head, uint32(size))
	head = binary.BigEndian.AppendUint32(head, uint32(packed.Len()))
	return bytes.Join([][]byte{head, make([]byte, 48-len(head)), table, packed.Bytes()}, nil)
}

// What comes to very much, is cut off, or repeats one opening, at every door that takes a file: a sentence, or it is read, each in its time;
// and the program goes on, with no more memory than it may have.
func TestHostileFilesAtEveryDoor(t *testing.T) {
	t.Parallel()
	v := running(t, "HUEKEEP_FILE_SECONDS=6")
	profile := press.Coated().Profile()
	many := bytes.Clone(profile)
	binary.BigEndian.PutUint32(many[128:], 0xFFFFFFFF) // tags
	wide := bytes.Clone(profile)
	for at := bytes.Index(wide, []byte("mft")); at >= 0 && at < len(wide); { // a table of 255 points an ink
		wide[at+10] = 255
		next := bytes.Index(wide[at+1:], []byte("mft"))
		if next < 0 {
			break
		}
		at += 1 + next
	}
	var flat bytes.Buffer
	require.NoError(t, png.Encode(&flat, image.NewGray(image.Rect(0, 0, 7000, 7000))))
	inks := "code,name,class,coated L,coated a,coated b,uncoated L,uncoated a,uncoated b\n"
	quoted := []byte(strings.Repeat(`"`, 3_000_001))
	nested := bytes.Repeat([]byte(`{"a":`), 2_000_000)
	var packed bytes.Buffer
	z := zip.NewWriter(&packed)
	for _, name := range []string{"library.json", "projects.json"} {
		w, err := z.Create(name)
		require.NoError(t, err)
		for range 160 {
			_, _ = w.Write(bytes.Repeat([]byte(" "), 1<<20))
		}
	}
	require.NoError(t, z.Close())
	files := map[string][]byte{
		"archive": packed.Bytes(),
		"empty":   {}, "49,000 pixels a side": pngOf(49_000, 64<<20), "4,000 pixels a side": pngOf(4000, 62<<20), "7,000 gray pixels a side": flat.Bytes(),
		"half a picture": pngOf(300, 1<<20)[:90], "half a profile": profile[:len(profile)/2], "tags": many, "tables": wide,
		"a web font": webFont(200 << 20), "half a font": []byte("OTTO\x00\x05\xff\xff"), "tables of a font": append([]byte("\x00\x01\x00\x00\xff\xff"), bytes.Repeat([]byte("glyf\x00\x00\x00\x00\x00\x00\x00\x0c\x7f\xff\xff\xff"), 65_535)...),
		"inks": []byte(inks + strings.Repeat("a,b,solid,1,2,3,1,2,3\n", 400_000)), "quotes": quoted, "cells": []byte(inks + strings.Repeat(",", 4_000_000)),
		"nested": nested, "lists": bytes.Repeat([]byte("["), 4_000_000), "aliases": []byte(`{"a":{"$type":"color","$value":"{b}"},"b":{"$type":"color","$value":"{a}"}}`),
		"tiff": []byte("II*\x00\x08\x00\x00\x00\x03\x00\x00\x01\x04\x00\x01\x00\x00\x00\xff\xff\xff\x7f\x01\x01\x04\x00\x01\x00\x00\x00\xff\xff\xff\x7f\x11\x01\x04\x00\xff\xff\xff\x0f\x08\x00\x00\x00\x00\x00\x00\x00"),
	}
	doors := []struct{ method, path string }{
		{"PUT", "/houses/1/mark"}, {"POST", "/houses/1/boards/logos"}, {"POST", "/houses/1/typefaces"}, {"PUT", "/houses/1/ink-book?name=Tried"},
		{"POST", "/houses/1/presses?label=Tried"}, {"POST", "/houses/1/restore?replace=false"},
		{"POST", "/houses/1/proofs?press=coated&intent=1&bpc=true&paper=false&form=png"}, {"POST", "/houses/1/files"},
	}
	taken := map[string]int{}
	for name, data := range files {
		for _, door := range doors {
			begun := time.Now()
			status, said := v.give(door.method, door.path, name, data)
			took := time.Since(begun)
			at := fmt.Sprintf("%s %s with %s (%v): %d %.200s", door.method, door.path, name, took.Round(time.Millisecond), status, said)
			taken[fmt.Sprint(status)]++
			if !assert.Less(t, status, 500, at) {
				continue
			}
			assert.Less(t, took, 60*time.Second, at) // its time and a second, and what else this machine does
			if status >= 400 && status != 404 && status != 405 {
				var problem struct{ Title string }
				require.NoError(t, json.Unmarshal([]byte(said), &problem), at)
				assert.NotEmpty(t, problem.Title, at)
				assert.NotContains(t, said, "panic", at)
				assert.NotContains(t, said, "broke off", at)
			}
			assert.NotContains(t, []int{404, 405}, status, at)
			if took > time.Second {
				t.Log(at)
			}
		}
	}
	t.Log(taken)
	status, _ := v.ask("GET", "/houses/1/colors", nil, "")
	assert.Equal(t, 200, status)
	status, said := v.give("POST", "/houses/1/boards/logos", "logo.png", func() []byte {
		var b bytes.Buffer
		_ = png.Encode(&b, image.NewGray(image.Rect(0, 0, 20, 20)))
		return b.Bytes()
	}())
	assert.Equal(t, 201, status, said)
}
