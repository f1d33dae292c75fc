// Package frames takes frames out of videos with ffmpeg, where it is installed.
package frames

import (
	"bufio"
	"bytes"
	"context"
	"encoding/json"
	"errors"
	"fmt"
	"image"
	"io"
	"os"
	"os/exec"
	"path/filepath"
	"strconv"
	"strings"
	"time"

	"huekeep/core/audit"
	"huekeep/core/limits"
)

// longest is how long ffmpeg may take for one video.
const longest = 3 * time.Minute

// Reader gives the reader of frames, nil if ffmpeg is not installed. Its programs end with the context.
func Reader(ctx context.Context) audit.Frames {
	program, err := exec.LookPath("ffmpeg")
	if err != nil {
		return nil
	}
	return func(data []byte, most int, f func(at float64, frame *image.NRGBA) error) (string, error) {
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

func take(ctx context.Context, program string, data []byte, most int, f func(at float64, frame *image.NRGBA) error) (note string, err error) {
	ctx, cancel := context.WithTimeout(ctx, longest)
	defer cancel()
	folder, err := os.MkdirTemp("", "huekeep-video")
	if err != nil {
		return "", err
	}
	defer os.RemoveAll(folder)
	name := filepath.Join(folder, "video")
	if err := os.WriteFile(name, data, 0o600); err != nil {
		return "", err
	}
	rate, about := 1.0, probed(ctx, program, name, data)
	if about.seconds > float64(most) {
		rate = float64(most) / about.seconds
	}
	// Without accurate rounding and chroma in full, ffmpeg is quick and up to three levels off.
	scale := "scale='min(1280,iw)':-2:flags=neighbor+accurate_rnd+full_chroma_int"
	if about.matrix != "" {
		scale += ":in_color_matrix=" + about.matrix
	}
	cmd := exec.CommandContext(ctx, program, "-v", "error", "-nostdin", "-protocol_whitelist", "file", "-threads", "1", "-f", container(data), "-i", name,
		"-vf", fmt.Sprintf("fps=%g:round=up,%s,format=rgb24", rate, scale), "-frames:v", strconv.Itoa(most), "-f", "image2pipe", "-c:v", "ppm", "-pix_fmt", "rgb24", "pipe:1")
	var complaint bytes.Buffer
	cmd.Stderr = &limited{&complaint, 4000}
	out, err := cmd.StdoutPipe()
	if err != nil {
		return "", err
	}
	if err := cmd.Start(); err != nil {
		return "", err
	}
	in := bufio.NewReaderSize(out, 1<<16)
	n := 0
	var failed error
	for ; n < most; n++ {
		frame, err := ppm(in)
		if errors.Is(err, io.EOF) {
			break
		}
		if err == nil {
			err = f(float64(n)/rate, frame)
		}
		if err != nil {
			failed = err
			cancel()
			break
		}
	}
	err = cmd.Wait()
	switch {
	case failed != nil:
		return "", failed
	case n == 0 && ctx.Err() != nil:
		return "", fmt.Errorf("the video could not be looked into within %s", longest)
	case n == 0:
		reason := strings.TrimSpace(strings.ReplaceAll(complaint.String(), name, "it"))
		if i := strings.IndexByte(reason, '\n'); i > 0 {
			reason = reason[:i]
		}
		if _, text, ok := strings.Cut(reason, "] "); ok && strings.HasPrefix(reason, "[") { // which part of ffmpeg says so
			reason = text
		}
		if reason == "" && err != nil {
			reason = err.Error()
		}
		return "", fmt.Errorf("the video has no frames that can be read (%s)", reason)
	}
	return about.note, nil
}

// video is what is asked of a video beforehand.
type video struct {
	seconds float64 // how long it is; 0 if that is not known
	matrix  string  // that its Y'CbCr has to be read with, as ffmpeg calls it; empty where it says so itself
	note    string  // what a person should know of how its colors were read, or empty
}

// highDefinition is how many lines a picture has from which the matrix of BT.709 is meant where none is named, as players take it; of fewer
// it is that of BT.601 (ITU-R BT.709 and BT.601).
const highDefinition = 720

func probed(ctx context.Context, program, name string, data []byte) (v video) {
	probe := filepath.Join(filepath.Dir(program), "ffprobe")
	out, err := exec.CommandContext(ctx, probe, "-v", "error", "-protocol_whitelist", "file", "-f", container(data), "-select_streams", "v:0", "-show_entries", "format=duration:stream=height,pix_fmt,color_space,color_primaries,color_transfer", "-of", "json", name).Output()
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
