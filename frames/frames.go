// Package frames takes frames out of videos with ffmpeg, where it is installed.
package frames

import (
	"bufio"
	"bytes"
	"cmp"
	"context"
	"encoding/json"
	"errors"
	"fmt"
	"image"
	"io"
	"os"
	"os/exec"
	"path/filepath"
	"slices"
	"strconv"
	"strings"
	"time"

	"huekeep/core/audit/scanning"
	"huekeep/core/limits"
)

// longest is how long ffmpeg may take for one video.
const longest = 3 * time.Minute

// Reader gives the reader of frames, nil if ffmpeg is not installed. Its programs end with the context.
func Reader(ctx context.Context) scanning.Frames {
	program, err := exec.LookPath("ffmpeg")
	if err != nil {
		return nil
	}
	return func(data []byte, most int, f func(at, lasts float64, frame *image.NRGBA) error) (scanning.Looked, error) {
		return take(ctx, program, data, most, f)
	}
}

// container is the demuxer for a video by its first bytes: named, so that ffmpeg does not look for other things in the file, such as lists
// of other files.
func container(data []byte) string {
	switch {
	case len(data) > 8 && bytes.Equal(data[4:8], []byte("ftyp")):
		return "mov"
	case bytes.HasPrefix(data, []byte("\x1aE\xdf\xa3")):
		return "matroska"
	}
	return "avi"
}

func take(ctx context.Context, program string, data []byte, most int,
	f func(at, lasts float64, frame *image.NRGBA) error) (looked scanning.Looked, err error) {
	ctx, cancel := context.WithTimeout(ctx, longest)
	defer cancel()
	folder, err := os.MkdirTemp("", "huekeep-video")
	if err != nil {
		return looked, err
	}
	defer os.RemoveAll(folder)
	name := filepath.Join(folder, "video")
	if err := os.WriteFile(name, data, 0o600); err != nil {
		return looked, err
	}
	about := probed(ctx, program, name, data)
	begin := []string{"-v", "error", "-nostdin", "-protocol_whitelist", "file"}
	input := []string{"-f", container(data), "-i", name, "-map", "0:v:0"}
	said := &complaint{name: name}
	all, err := timeline(ctx, program, slices.Concat(begin, quick(container(data)), input), said)
	if len(all) == 0 {
		if ctx.Err() != nil {
			return looked, fmt.Errorf("the video could not be looked into within %s", longest)
		}
		return looked, fmt.Errorf("the video has no frames that can be read (%s)", said.reason(err))
	}
	chosen, looked := choose(all, about.seconds, most)
	looked.Note = about.note
	var which []string
	for _, c := range chosen {
		which = append(which, fmt.Sprintf("eq(pts,%d)", c.pts))
	}
	filter := fmt.Sprintf("select='%s',%s,format=rgb24", sum(which), about.scale())
	cmd := exec.CommandContext(ctx, program, append(slices.Concat(begin, []string{"-threads", "1"}, input), "-vf", filter, "-vsync",
		"passthrough", "-frames:v", strconv.Itoa(len(chosen)), "-f", "image2pipe", "-c:v", "ppm", "-pix_fmt", "rgb24", "pipe:1")...)
	cmd.Stderr = said.begin()
	out, err := cmd.StdoutPipe()
	if err != nil {
		return looked, err
	}
	if err := cmd.Start(); err != nil {
		return looked, err
	}
	in := bufio.NewReaderSize(out, 1<<16)
	n := 0
	var failed error
	for _, c := range chosen {
		frame, err := ppm(in)
		if errors.Is(err, io.EOF) {
			break
		}
		if err == nil {
			err = f(c.at, c.lasts, frame)
		}
		if err != nil {
			failed = err
			cancel()
			break
		}
		n++
	}
	err = cmd.Wait()
	switch {
	case failed != nil:
		return looked, failed
	case n < len(chosen) && ctx.Err() != nil:
		return looked, fmt.Errorf("the video could not be looked into within %s", longest)
	case n == 0:
		return looked, fmt.Errorf("the video has no frames that can be read (%s)", said.reason(err))
	case n < len(chosen):
		looked.Note = strings.TrimSpace(fmt.Sprintf("%s %d of the %d frames that were to be looked at could not be read.", looked.Note,
			len(chosen)-n, len(chosen)))
	}
	return looked, nil
}

// From calls f with the frames of a video that show from a time on, for so long, in seconds, until it says that it has seen enough. An
// error is a sentence.
func From(ctx context.Context, data []byte, at, lasts float64, f func(frame *image.NRGBA) (enough bool, err error)) error {
	program, err := exec.LookPath("ffmpeg")
	if err != nil {
		return errors.New("frames of a video are shown where ffmpeg is installed, and it is not")
	}
	ctx, cancel := context.WithTimeout(ctx, longest)
	defer cancel()
	folder, err := os.MkdirTemp("", "huekeep-video")
	if err != nil {
		return err
	}
	defer os.RemoveAll(folder)
	name := filepath.Join(folder, "video")
	if err := os.WriteFile(name, data, 0o600); err != nil {
		return err
	}
	second := func(v float64) string { return strconv.FormatFloat(v, 'f', 3, 64) }
	said := &complaint{name: name}
	cmd := exec.CommandContext(ctx, program, "-v", "error", "-nostdin", "-protocol_whitelist", "file", "-threads", "1", "-ss", second(at),
		"-t",
		second(lasts), "-f", container(data), "-i", name, "-map", "0:v:0", "-vf", probed(ctx, program, name, data).scale()+",format=rgb24",
		"-vsync", "passthrough", "-f", "image2pipe", "-c:v", "ppm", "-pix_fmt", "rgb24", "pipe:1")
	cmd.Stderr = said.begin()
	out, err := cmd.StdoutPipe()
	if err != nil {
		return err
	}
	if err := cmd.Start(); err != nil {
		return err
	}
	in := bufio.NewReaderSize(out, 1<<16)
	n := 0
	for ; ; n++ {
		frame, err := ppm(in)
		if errors.Is(err, io.EOF) {
			break
		}
		enough := false
		if err == nil {
			enough, err = f(frame)
		}
		if err != nil || enough {
			cancel()
			_ = cmd.Wait() // it was ended
			return err
		}
	}
	if err = cmd.Wait(); n == 0 {
		return fmt.Errorf("the video has no frame at that time that can be read (%s)", said.reason(err))
	}
	return nil
}

// sum adds up terms in groups: ffmpeg reads a hundred in a row at most.
func sum(terms []string) string {
	var groups []string
	for group := range slices.Chunk(terms, 50) {
		groups = append(groups, "("+strings.Join(group, "+")+")")
	}
	return strings.Join(groups, "+")
}

// quick leaves out, for the first look, what nothing else is made from and what only smooths. Frames of AVI have no time stamps of their
// own: without some of them the others would get different ones.
func quick(container string) []string {
	if container == "avi" {
		return []string{"-threads", "2"}
	}
	return []string{"-threads", "2", "-skip_frame", "noref", "-skip_loop_filter", "all"}
}

// moment is a frame of a video.
type moment struct {
	frame int
	pts   int64   // its time stamp, in units of the video
	at    float64 // seconds, to six digits
	score float64 // how much the picture changes with it, 0 to 1, as ffmpeg's filter select has it
	lasts float64 // seconds that it stands for, of one that is chosen
}

// changes is the score from which a frame counts as a change of scene: a twentieth of the picture that becomes another color.
const changes = 0.01

// timeline lists frames of a video with their times, and how much changes with each: looked at small, which is enough for that.
func timeline(ctx context.Context, program string, input []string, said *complaint) (all []moment, err error) {
	filter := "scale=160:-2:flags=fast_bilinear,format=rgb24,select='gte(scene,0)',metadata=mode=print:file=-"
	cmd := exec.CommandContext(ctx, program, append(slices.Clone(input), "-vf", filter, "-vsync", "passthrough", "-f", "null",
		os.DevNull)...)
	cmd.Stderr = said.begin()
	out, err := cmd.StdoutPipe()
	if err != nil {
		return nil, err
	}
	if err := cmd.Start(); err != nil {
		return nil, err
	}
	lines := bufio.NewScanner(out)
	for lines.Scan() {
		line := lines.Text()
		var m moment
		if n, _ := fmt.Sscanf(line, "frame:%d pts:%d pts_time:%f", &m.frame, &m.pts, &m.at); n == 3 {
			m.frame = len(all)
			all = append(all, m)
		} else if _, text, ok := strings.Cut(line, "lavfi.scene_score="); ok && len(all) > 0 {
			all[len(all)-1].score, _ = strconv.ParseFloat(text, 64)
		}
	}
	return all, cmd.Wait()
}

// choose chooses the frames to look at: where the scene changes, in the middle of what shows for less than a second, and evenly spread, one
// a second unless that were too many.
func choose(all []moment, seconds float64, most int) (chosen []moment, looked scanning.Looked) {
	end := max(seconds, all[len(all)-1].at+0.001)
	var cuts []moment
	for _, m := range all[1:] {
		if m.score >= changes {
			cuts = append(cuts, m)
		}
	}
	if room := most / 3; len(cuts) > room {
		slices.SortFunc(cuts, func(a, b moment) int { return cmp.Compare(b.score, a.score) })
		cuts, looked.Passed = cuts[:room], len(cuts)-room
		slices.SortFunc(cuts, func(a, b moment) int { return cmp.Compare(a.frame, b.frame) })
	}
	looked.Changes = len(cuts)
	wanted := map[int]bool{}
	for i, c := range cuts {
		wanted[c.frame] = true
		next := len(all)
		if i+1 < len(cuts) {
			next = cuts[i+1].frame
		}
		if next < len(all) && all[next].at-c.at < 1 {
			wanted[(c.frame+next)/2] = true
		}
	}
	looked.Apart = max(1, end/float64(max(1, most-len(wanted))))
	for i, next := 0, 0.0; i < len(all) && len(wanted) < most; i++ {
		if all[i].at-all[0].at >= next-1e-6 {
			wanted[i] = true
			for next <= all[i].at-all[0].at+1e-6 {
				next += looked.Apart
			}
		}
	}
	for i, m := range all {
		if wanted[i] {
			chosen = append(chosen, m)
		}
	}
	for i := range chosen {
		until := end
		if i+1 < len(chosen) {
			until = chosen[i+1].at
		}
		chosen[i].lasts = max(until-chosen[i].at, 0.001)
	}
	return chosen, looked
}

// complaint is what ffmpeg says of a file, without where it lies.
type complaint struct {
	name string
	text bytes.Buffer
}

func (c *complaint) begin() io.Writer {
	c.text.Reset()
	return &limited{&c.text, 4000}
}

func (c *complaint) reason(err error) string {
	reason := strings.TrimSpace(strings.ReplaceAll(c.text.String(), c.name, "it"))
	if i := strings.IndexByte(reason, '\n'); i > 0 {
		reason = reason[:i]
	}
	if _, text, ok := strings.Cut(reason, "] "); ok && strings.HasPrefix(reason, "[") { // which part of ffmpeg says so
		reason = text
	}
	if reason == "" && err != nil {
		reason = err.Error()
	}
	return reason
}

// video is what is asked of a video beforehand.
type video struct {
	seconds float64 // how long it is; 0 if that is not known
	matrix  string  // that its Y'CbCr has to be read with, as ffmpeg calls it; empty where it says so itself
	note    string  // what a person should know of how its colors were read, or empty
}

// scale is the filter that makes frames no wider than they are looked at. Without accurate rounding and chroma in full, ffmpeg is quick and
// up to three levels off.
func (v video) scale() string {
	scale := "scale='min(1280,iw)':-2:flags=neighbor+accurate_rnd+full_chroma_int"
	if v.matrix != "" {
		scale += ":in_color_matrix=" + v.matrix
	}
	return scale
}

// highDefinition is how many lines a picture has from which the matrix of BT.709 is meant where none is named, as players take it; of fewer
// it is that of BT.601 (ITU-R BT.709 and BT.601).
const highDefinition = 720

func probed(ctx context.Context, program, name string, data []byte) (v video) {
	probe := filepath.Join(filepath.Dir(program), "ffprobe")
	out, err := exec.CommandContext(ctx, probe, "-v", "error", "-protocol_whitelist", "file", "-f", container(data), "-select_streams",
		"v:0", "-show_entries", "format=duration:stream=height,pix_fmt,color_space,color_primaries,color_transfer", "-of", "json",
		name).Output()
	if err != nil {
		return v
	}
	var said struct {
		Format struct {
			Duration string `json:"duration"`
		} `json:"format"`
		Streams []struct {
			Height    int    `json:"height"`
			Pixels    string `json:"pix_fmt"`
			Matrix    string `json:"color_space"`
			Primaries string `json:"color_primaries"`
			Transfer  string `json:"color_transfer"`
		} `json:"streams"`
	}
	if json.Unmarshal(out, &said) != nil {
		return v
	}
	v.seconds, _ = strconv.ParseFloat(said.Format.Duration, 64)
	if len(said.Streams) == 0 {
		return v
	}
	s := said.Streams[0]
	if (s.Matrix == "" || s.Matrix == "unknown") && strings.HasPrefix(s.Pixels, "yuv") {
		called := "BT.601, as players read video of fewer than 720 lines"
		if s.Height >= highDefinition {
			v.matrix, called = "bt709", "BT.709, as players read video of 720 lines or more"
		}
		v.note = "The video does not name the matrix of its colors; it was read with that of " + called + "."
	}
	for _, other := range []struct{ said, code, name string }{{s.Transfer, "smpte2084", "PQ"}, {s.Transfer, "arib-std-b67", "HLG"},
		{s.Primaries, "bt2020", "BT.2020"}, {s.Primaries, "smpte432", "P3"}, {s.Primaries, "smpte431", "P3 of cinemas"}} {
		if other.said == other.code {
			v.note = fmt.Sprintf("The video is made for another kind of screen (%s), which is not followed: its colors come out other than they look there.", other.name)
			break
		}
	}
	return v
}

// ppm reads one picture of a row of them, in the plainest of formats.
func ppm(in *bufio.Reader) (*image.NRGBA, error) {
	var w, h, most int
	if _, err := fmt.Fscanf(in, "P6\n%d %d\n%d\n", &w, &h, &most); err != nil {
		return nil, io.EOF
	}
	if w < 1 || h < 1 || most != 255 || w*h > limits.PictureBytes/8 {
		return nil, errors.New("the video has frames that are too large to read")
	}
	row := make([]byte, 3*w)
	img := image.NewNRGBA(image.Rect(0, 0, w, h))
	for y := range h {
		if _, err := io.ReadFull(in, row); err != nil {
			return nil, io.EOF
		}
		to := img.Pix[y*img.Stride:]
		for x := range w {
			copy(to[4*x:], row[3*x:3*x+3])
			to[4*x+3] = 255
		}
	}
	return img, nil
}

// limited keeps the first bytes of what is written to it.
type limited struct {
	to   *bytes.Buffer
	left int
}

func (l *limited) Write(p []byte) (int, error) {
	n := min(len(p), l.left)
	l.to.Write(p[:n])
	l.left -= n
	return len(p), nil
}
