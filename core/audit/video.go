package audit

import (
	"bytes"
	"errors"
	"fmt"
	"image"

	"huekeep/core/color"
	"huekeep/core/source"
)

// Frames takes frames out of a video: at most so many, evenly spread, one a second or fewer. f is given each with its time in seconds.
// The note is what a person should know of how its colors were read, or empty.
type Frames func(data []byte, most int, f func(at float64, frame *image.NRGBA) error) (note string, err error)

// mostFrames is how many frames of a video are looked at.
const mostFrames = 300

// isVideo recognizes ISO base media (MP4, MOV), Matroska and WebM, and AVI.
func isVideo(data []byte) bool {
	return len(data) > 16 && !isStill(data) && (bytes.Equal(data[4:8], []byte("ftyp")) || bytes.HasPrefix(data, []byte("\x1aE\xdf\xa3")) || bytes.HasPrefix(data, []byte("RIFF")) && bytes.Equal(data[8:12], []byte("AVI ")))
}

// isStill recognizes pictures in the box structure of videos, by their brand (ISO/IEC 23008-12, HEIF).
func isStill(data []byte) bool {
	if len(data) < 12 || !bytes.Equal(data[4:8], []byte("ftyp")) {
		return false
	}
	switch string(data[8:12]) {
	case "heic", "heix", "hevc", "hevx", "heim", "heis", "mif1", "msf1", "avif", "avis":
		return true
	}
	return false
}

// scanVideo looks at frames of a video; colors that stand in several are counted by the time they first show.
func scanVideo(s *scanner, p *source.Part, name string) (string, error) {
	if s.Frames == nil {
		return "", errors.New("video is looked into where ffmpeg is installed, and it is not")
	}
	data, err := p.Bytes()
	if err != nil {
		return "", err
	}
	type seen struct {
		first  float64
		frames int
		pixels int
	}
	found := map[color.RGB8]*seen{}
	var order []color.RGB8
	frames, all := 0, 0
	note, err := s.Frames(data, mostFrames, func(at float64, frame *image.NRGBA) error {
		frames++
		if err := s.Watch.at(fmt.Sprintf("frame at %s", clock(at)), -1); err != nil {
			return err
		}
		for _, a := range areas(frame, videoNoise) {
			k := found[a.color]
			if k == nil {
				k = &seen{first: at}
				found[a.color] = k
				order = append(order, a.color)
			}
			k.frames++
			k.pixels += a.pixels
			all += a.pixels
		}
		return nil
	})
	if err != nil {
		return "", err
	}
	if note != "" {
		s.note("%s", note)
	}
	for _, c := range order {
		k := found[c]
		s.add(&Use{Value: c.Hex(), Color: Screen(c), Where: fmt.Sprintf("%s from %s on", plural(k.frames, "frame"), clock(k.first)), Count: s.area(k.pixels, all), Pixels: true, More: &More{Slack: [3]float64{3, 3, 3}},
			Fixed: "the pixels of a video are not repainted"})
	}
	return plural(frames, "frame"), nil
}

func clock(seconds float64) string { return fmt.Sprintf("%d:%02d", int(seconds)/60, int(seconds)%60) }
