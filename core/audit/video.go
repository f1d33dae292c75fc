package audit

import (
	"bytes"
	"errors"
	"fmt"
	"image"

	"huekeep/core/color"
	"huekeep/core/recognize"
	"huekeep/core/source"
)

// Frames takes frames out of a video: at most so many, evenly spread and where the scene changes. f is given each with its time and with how long
// it stands for what is seen, in seconds.
type Frames func(data []byte, most int, f func(at, lasts float64, frame *image.NRGBA) error) (Looked, error)

// Looked says how a video was looked at.
type Looked struct {
	Note    string  // what a person should know of how its colors were read, or empty
	Apart   float64 // seconds between the frames that are evenly spread
	Changes int     // of scene that were looked at
	Passed  int     // changes of scene beyond what is looked at
}

// mostFrames is how many frames of a video are looked at.
const mostFrames = 300

// isVideo recognizes ISO base media (MP4, MOV), Matroska and WebM, and AVI.
func isVideo(data []byte) bool {
	return len(data) > 16 && !recognize.Still(data) && (bytes.Equal(data[4:8], []byte("ftyp")) || bytes.HasPrefix(data, []byte("\x1aE\xdf\xa3")) || bytes.HasPrefix(data, []byte("RIFF")) && bytes.Equal(data[8:12], []byte("AVI ")))
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
		shown  float64 // pixels by seconds
	}
	found := map[color.RGB8]*seen{}
	var order []color.RGB8
	frames, all := 0, 0.0
	looked, err := s.Frames(data, mostFrames, func(at, lasts float64, frame *image.NRGBA) error {
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
			k.shown += float64(a.pixels) * lasts
			all += float64(a.pixels) * lasts
		}
		return nil
	})
	if err != nil {
		return "", err
	}
	if looked.Note != "" {
		s.note("%s", looked.Note)
	}
	for _, c := range order {
		k := found[c]
		s.add(&Use{Value: c.Hex(), Color: Screen(c), Where: fmt.Sprintf("%s from %s on", plural(k.frames, "frame"), clock(k.first)), Count: s.area(int(1e6*k.shown/max(all, 1e-9)), 1e6), Pixels: true, More: &More{Slack: [3]float64{3, 3, 3}},
			Fixed: "the pixels of a video are not repainted"})
	}
	return plural(frames, "frame") + ", " + looked.spacing(), nil
}

// spacing says what was looked at, so that nobody takes it for all.
func (l Looked) spacing() string {
	said := "one a second"
	if l.Apart > 1.001 {
		said = fmt.Sprintf("one every %.1f seconds", l.Apart)
	}
	if l.Changes > 0 {
		said += ", and " + plural(l.Changes, "change") + " of scene"
	}
	if l.Passed > 0 {
		said += fmt.Sprintf(" (%d more were passed over)", l.Passed)
	}
	return said
}

func clock(seconds float64) string { return fmt.Sprintf("%d:%02d", int(seconds)/60, int(seconds)%60) }
