package pixels

import (
	"bytes"
	"errors"
	"fmt"
	"image"

	"huekeep/core/audit"
	"huekeep/core/audit/scanning"
	"huekeep/core/color"
	"huekeep/core/recognize"
	"huekeep/core/source"
)

// mostFrames is how many frames of a video are looked at.
const mostFrames = 300

// IsVideo recognizes ISO base media (MP4, MOV), Matroska and WebM, and AVI.
func IsVideo(data []byte) bool {
	return len(data) > 16 && !recognize.Still(data) && (bytes.Equal(data[4:8], []byte("ftyp")) ||
		bytes.HasPrefix(data, []byte("\x1aE\xdf\xa3")) || bytes.HasPrefix(data, []byte("RIFF")) && bytes.Equal(data[8:12], []byte("AVI ")))
}

// ScanVideo looks at frames of a video; colors that stand in several are counted by the time they first show.
func ScanVideo(s *scanning.Scanner, p *source.Part, name string) (string, error) {
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
		shown  float64 // pixels by seconds
	}
	found := map[color.RGB8]*seen{}
	var order []color.RGB8
	frames, all := 0, 0.0
	looked, err := s.Frames(data, mostFrames, func(at, lasts float64, frame *image.NRGBA) error {
		frames++
		if err := s.Watch.At(fmt.Sprintf("frame at %s", Clock(at)), -1); err != nil {
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
			k.shown += float64(a.pixels) * lasts
			all += float64(a.pixels) * lasts
		}
		return nil
	})
	if err != nil {
		return "", err
	}
	if looked.Note != "" {
		s.Note("%s", looked.Note)
	}
	for _, c := range order {
		k := found[c]
		s.Add(&audit.Use{Value: c.Hex(), Color: audit.Screen(c), Where: fmt.Sprintf("%s from %s on", audit.Plural(k.frames, "frame"),
			Clock(k.first)), Count: areaCount(s, int(1e6*k.shown/max(all, 1e-9)), 1e6), Pixels: true,
			More:  &audit.More{Slack: [3]float64{3, 3, 3}},
			Fixed: "the pixels of a video are not repainted"})
	}
	return audit.Plural(frames, "frame") + ", " + spacing(looked), nil
}

// spacing says what was looked at, so that nobody takes it for all.
func spacing(l scanning.Looked) string {
	said := "one a second"
	if l.Apart > 1.001 {
		said = fmt.Sprintf("one every %.1f seconds", l.Apart)
	}
	if l.Changes > 0 {
		said += ", and " + audit.Plural(l.Changes, "change") + " of scene"
	}
	if l.Passed > 0 {
		said += fmt.Sprintf(" (%d more were passed over)", l.Passed)
	}
	return said
}

// Clock is a time of a video as reports write it: "1:05".
func Clock(seconds float64) string { return fmt.Sprintf("%d:%02d", int(seconds)/60, int(seconds)%60) }
