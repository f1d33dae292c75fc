package frames

import (
	"bufio"
	"context"
	"fmt"
	"image"
	"os"
	"os/exec"

	"huekeep/core/picture"
)

func init() {
	if _, err := exec.LookPath("ffmpeg"); err == nil {
		picture.AV1 = still
	}
}

// matrices are the names that ffmpeg has for matrices of ITU-T H.273 (8.3); of others it takes what the video says.
var matrices = map[uint16]string{1: "bt709", 4: "fcc", 5: "smpte170m", 6: "smpte170m", 7: "smpte240m", 9: "bt2020"}

// still is a picture that is kept as video in ISO base media. It is not turned.
func still(data []byte, matrix uint16, full bool) (image.Image, error) {
	ctx, cancel := context.WithTimeout(context.Background(), longest)
	defer cancel()
	f, err := os.CreateTemp("", "huekeep-still")
	if err != nil {
		return nil, err
	}
	defer os.Remove(f.Name())
	defer f.Close()
	if _, err := f.Write(data); err != nil {
		return nil, err
	}
	scale := "scale=flags=neighbor+accurate_rnd+full_chroma_int"
	if name := matrices[matrix]; name != "" {
		scale += ":in_color_matrix=" + name + ":in_range=" + map[bool]string{true: "full", false: "limited"}[full]
	}
	said := &complaint{name: f.Name()}
	cmd := exec.CommandContext(ctx, "ffmpeg", "-v", "error", "-nostdin", "-protocol_whitelist", "file", "-threads", "1", "-noautorotate", "-f", "mov",
		"-i", f.Name(), "-map", "0:v:0", "-vf", scale+",format=rgb24", "-frames:v", "1", "-f", "image2pipe", "-c:v", "ppm", "-pix_fmt", "rgb24", "pipe:1")
	cmd.Stderr = said.begin()
	out, err := cmd.StdoutPipe()
	if err != nil {
		return nil, err
	}
	if err := cmd.Start(); err != nil {
		return nil, err
	}
	img, failed := ppm(bufio.NewReaderSize(out, 1<<16))
	cancelled := ctx.Err()
	err = cmd.Wait()
	switch {
	case cancelled != nil:
		return nil, fmt.Errorf("it could not be read within %s", longest)
	case failed != nil:
		return nil, fmt.Errorf("ffmpeg cannot read it (%s)", said.reason(err))
	}
	return img, nil
}
