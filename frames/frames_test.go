package frames_test

import (
	"bytes"
	"context"
	"errors"
	"fmt"
	"image"
	"os"
	"os/exec"
	"path/filepath"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"huekeep/core/audit"
	"huekeep/core/audit/kinds"
	"huekeep/core/color"
	"huekeep/core/library"
	"huekeep/frames"
)

// needed skips a test where ffmpeg is not installed.
func needed(t *testing.T) {
	t.Helper()
	if _, err := exec.LookPath("ffmpeg"); err != nil {
		if os.Getenv("CI") != "" {
			t.Fatal("ffmpeg is not installed")
		}
		t.Skip("ffmpeg is not installed")
	}
}

// film has ffmpeg make a video of two seconds of one color and two of another.
func film(t *testing.T, name, filter string, args ...string) []byte {
	t.Helper()
	needed(t)
	out := filepath.Join(t.TempDir(), name)
	all := append([]string{"-v", "error", "-f", "lavfi", "-i", "color=0xE2572B:s=160x90:d=2:r=10,format=rgb24", "-f", "lavfi", "-i", "color=0x00A34F:s=160x90:d=2:r=10,format=rgb24",
		"-filter_complex", "[0][1]concat=n=2" + filter}, args...)
	told, err := exec.Command("ffmpeg", append(all, out)...).CombinedOutput()
	require.NoError(t, err, "%s", told)
	data, err := os.ReadFile(out)
	require.NoError(t, err)
	return data
}

func TestColorsOfVideosAreFound(t *testing.T) {
	buoy := library.Color{Name: "Buoy", RGB: color.RGB8{R: 0xE2, G: 0x57, B: 0x2B}, Status: library.Approved}
	for name, args := range map[string][]string{
		"x.mp4": {"-c:v", "libx264", "-pix_fmt", "yuv420p"},
		// As delivered for screens: the matrix of BT.709, and said so.
		"hd.mp4": {"-c:v", "libx264", "-pix_fmt", "yuv420p", "-colorspace", "bt709", "-color_primaries", "bt709", "-color_trc", "bt709"},
		"x.webm": {"-c:v", "libvpx-vp9", "-pix_fmt", "yuv420p"},
		"x.mkv":  {"-c:v", "ffv1", "-pix_fmt", "yuv444p"},
		"x.avi":  {"-c:v", "mpeg4", "-q:v", "2"},
	} {
		t.Run(name, func(t *testing.T) {
			filter := ""
			if name == "hd.mp4" {
				filter = ",scale=out_color_matrix=bt709,format=yuv420p"
			}
			scan, err := kinds.ReadWith(name, film(t, name, filter, args...), kinds.Options{Frames: frames.Reader(context.Background())})
			require.NoError(t, err)
			assert.Equal(t, "4 frames, one a second, and 1 change of scene", scan.About)
			r := audit.NewJudge(audit.Rules{Colors: []library.Color{buoy}}).Judge(name, scan)
			require.Len(t, r.Colors, 2, "%v", r.Colors)
			assert.Equal(t, audit.OffBrand, r.Colors[0].Verdict)
			assert.Equal(t, "2 frames from 0:02 on", r.Colors[0].Places[0].Where)
			assert.Equal(t, audit.OnBrand, r.Colors[1].Verdict, "%v", r.Colors[1])
			assert.InDelta(t, 0.5, *r.Score, 0.01)
		})
	}
}

func TestAVideoIsGivenUpAndDamageIsSaid(t *testing.T) {
	data := film(t, "x.mp4", "", "-c:v", "libx264", "-pix_fmt", "yuv420p")
	read := frames.Reader(context.Background())
	stop := errors.New("given up")
	_, err := read(data, 300, func(_, _ float64, _ *image.NRGBA) error { return stop })
	assert.ErrorIs(t, err, stop)
	n := 0
	_, err = read(data, 2, func(_, _ float64, _ *image.NRGBA) error { n++; return nil })
	require.NoError(t, err)
	assert.Equal(t, 2, n, "at most as many as asked for")

	for _, spoiled := range [][]byte{data[:200], append([]byte("RIFF\x10\x00\x00\x00AVI "), make([]byte, 100)...)} {
		_, err := read(spoiled, 300, func(_, _ float64, _ *image.NRGBA) error { return nil })
		require.Error(t, err)
		assert.Contains(t, err.Error(), "no frames that can be read")
		assert.NotContains(t, err.Error(), os.TempDir())
	}
	ended, cancel := context.WithCancel(context.Background())
	cancel()
	_, err = frames.Reader(ended)(data, 300, func(_, _ float64, _ *image.NRGBA) error { return nil })
	assert.Error(t, err)
}

// stills is a video of code values, a second of each, without loss, that names its matrix or none.
func stills(t *testing.T, seconds [][3]int, w, h int, matrix string) []byte {
	t.Helper()
	needed(t)
	var raw []byte
	for _, codes := range seconds {
		for i, n := range []int{w * h, w * h / 4, w * h / 4} {
			raw = append(raw, bytes.Repeat([]byte{byte(codes[i])}, n)...)
		}
	}
	out := filepath.Join(t.TempDir(), "x.mp4")
	args := []string{"-v", "error", "-f", "rawvideo", "-pix_fmt", "yuv420p", "-s", fmt.Sprintf("%dx%d", w, h), "-r", "1", "-i", "-", "-c:v", "libx264", "-preset", "ultrafast", "-qp", "0"}
	if matrix != "" {
		args = append(args, "-colorspace", matrix, "-color_primaries", matrix, "-color_trc", matrix)
	}
	c := exec.Command("ffmpeg", append(args, out)...)
	c.Stdin = bytes.NewReader(raw)
	told, err := c.CombinedOutput()
	require.NoError(t, err, "%s", told)
	data, err := os.ReadFile(out)
	require.NoError(t, err)
	return data
}

// A frame has the colors that its code values mean, with the matrix that the video names; where it names none, with that of BT.709 from 720
// lines on, and that of BT.601 below.
func TestFramesHaveTheColorsOfTheirCodes(t *testing.T) {
	for name, c := range map[string]struct {
		means  color.VideoMatrix
		w, h   int
		matrix string
		note   string
	}{
		"high definition":            {color.BT709, 1280, 720, "", "with that of BT.709, as players read video of 720 lines or more"},
		"high definition, named":     {color.BT709, 1280, 720, "bt709", ""},
		"high definition of another": {color.BT601, 1280, 720, "smpte170m", ""},
		"standard definition":        {color.BT601, 640, 360, "", "with that of BT.601"},
		"standard, of another":       {color.BT709, 640, 360, "bt709", ""},
		"larger than is looked at":   {color.BT709, 1920, 1080, "", "with that of BT.709"},
	} {
		t.Run(name, func(t *testing.T) {
			hexes := []string{"#E2572B", "#0E3A53", "#F2B632", "#FFFFFF"}
			var codes [][3]int
			for _, hex := range hexes {
				rgb, err := color.FromHex(hex)
				require.NoError(t, err)
				codes = append(codes, c.means.YCbCr(rgb.RGB(), 8, false))
			}
			n := 0
			looked, err := frames.Reader(context.Background())(stills(t, codes, c.w, c.h, c.matrix), len(hexes), func(at, _ float64, img *image.NRGBA) error {
				assert.InDelta(t, n, at, 0.01)
				want := c.means.RGB(codes[n], 8, false).RGB8()
				got := img.NRGBAAt(img.Rect.Dx()/2, img.Rect.Dy()/2)
				assert.InDelta(t, want.R, got.R, 1, hexes[n])
				assert.InDelta(t, want.G, got.G, 1, hexes[n])
				assert.InDelta(t, want.B, got.B, 1, hexes[n])
				n++
				return nil
			})
			require.NoError(t, err)
			assert.Equal(t, len(hexes), n)
			assert.Contains(t, looked.Note, c.note)
			assert.Equal(t, c.note == "", looked.Note == "", looked.Note)
		})
	}
}

// A video for screens of another kind is read, and what is not followed is said.
func TestAVideoForOtherScreensSaysSo(t *testing.T) {
	for name, args := range map[string][]string{
		"(PQ)":      {"-colorspace", "bt2020nc", "-color_primaries", "bt2020", "-color_trc", "smpte2084"},
		"(HLG)":     {"-colorspace", "bt2020nc", "-color_primaries", "bt2020", "-color_trc", "arib-std-b67"},
		"(BT.2020)": {"-colorspace", "bt2020nc", "-color_primaries", "bt2020", "-color_trc", "bt709"},
		"(P3)":      {"-colorspace", "bt709", "-color_primaries", "smpte432", "-color_trc", "bt709"},
	} {
		data := film(t, "x.mp4", "", append([]string{"-c:v", "libx264", "-pix_fmt", "yuv420p"}, args...)...)
		scan, err := kinds.ReadWith("x.mp4", data, kinds.Options{Frames: frames.Reader(context.Background())})
		require.NoError(t, err)
		require.Len(t, scan.Notes, 1, name)
		assert.Contains(t, scan.Notes[0], name)
	}
}

// A video in high definition that was made with the matrix of standard definition and does not say so, as some programs write it, has all
// of its colors off, and the report says why.
func TestAVideoOfTheOtherMatrixIsExplained(t *testing.T) {
	needed(t)
	rules := audit.Rules{Neutrals: true}
	filter := "color=0xFFFFFF:s=1280x720:d=1:r=1,format=rgb24"
	for i, hex := range []string{"#E2572B", "#0E3A53", "#F2B632", "#4E7D5B"} {
		rgb, err := color.FromHex(hex)
		require.NoError(t, err)
		rules.Colors = append(rules.Colors, library.Color{Name: []string{"Buoy", "Sound", "Lamp", "Marsh"}[i], RGB: rgb, Status: library.Approved})
		filter += fmt.Sprintf(",drawbox=%d:100:280:500:0x%s:fill", 20+310*i, hex[1:])
	}
	out := filepath.Join(t.TempDir(), "x.mp4")
	told, err := exec.Command("ffmpeg", "-v", "error", "-f", "lavfi", "-i", filter, "-vf", "scale=out_color_matrix=bt601:flags=accurate_rnd,format=yuv420p", "-c:v", "libx264", "-qp", "0", out).CombinedOutput()
	require.NoError(t, err, "%s", told)
	data, err := os.ReadFile(out)
	require.NoError(t, err)
	scan, err := kinds.ReadWith("x.mp4", data, kinds.Options{Frames: frames.Reader(context.Background())})
	require.NoError(t, err)
	explained := map[string]string{}
	for _, k := range audit.NewJudge(rules).Judge("x.mp4", scan).Colors {
		assert.Equal(t, k.Count, k.Fixed, "no video is repainted")
		if k.Verdict != audit.OnBrand {
			explained[k.Nearest.Name] = k.Reason
		}
	}
	require.GreaterOrEqual(t, len(explained), 3, "%v", explained)
	for name, why := range explained {
		assert.Contains(t, why, name+", video made with the matrix of BT.601 and read with that of BT.709, as are")
	}
}

// What flashes for 0.6 of a second between two looks is found, and counts for as long as it shows; and a still of ten seconds counts as ten.
func TestFlashesBetweenTheSecondsAreFound(t *testing.T) {
	needed(t)
	out := filepath.Join(t.TempDir(), "x.mkv")
	args := []string{"-v", "error"}
	for _, p := range []struct {
		hex     string
		seconds float64
	}{{"E2572B", 2.2}, {"00A34F", 0.6}, {"E2572B", 3.4}, {"7A4E7E", 0.6}, {"E2572B", 2.2}} {
		args = append(args, "-f", "lavfi", "-i", fmt.Sprintf("color=0x%s:s=160x90:d=%g:r=10,format=rgb24", p.hex, p.seconds))
	}
	// The second flash covers an eighth of the picture only.
	filter := "[0][1][2]concat=n=3[a];[3]scale=80:22[box];[4]copy[b];[a][b]concat=n=2[whole];[box]tpad=start_duration=6.2:stop_mode=clone:stop_duration=2.2[late];[whole][late]overlay=enable='between(t,6.2,6.75)'"
	told, err := exec.Command("ffmpeg", append(args, "-filter_complex", filter, "-c:v", "ffv1", "-pix_fmt", "yuv444p", out)...).CombinedOutput()
	require.NoError(t, err, "%s", told)
	data, err := os.ReadFile(out)
	require.NoError(t, err)
	scan, err := kinds.ReadWith("x.mkv", data, kinds.Options{Frames: frames.Reader(context.Background())})
	require.NoError(t, err)
	found := map[string]int{}
	for _, u := range scan.Uses {
		found[u.Color.RGB.Hex()] = u.Count
	}
	near := func(hex string) int {
		want, err := color.FromHex(hex)
		require.NoError(t, err)
		for h, n := range found {
			is, err := color.FromHex(h)
			require.NoError(t, err)
			if color.DeltaE00(want.Lab(), is.Lab()) < 2 {
				return n
			}
		}
		return 0
	}
	assert.InDelta(t, 7, near("#00A34F"), 2, "%v", found)
	assert.Positive(t, near("#7A4E7E"), "%v", found)
	assert.InDelta(t, 92, near("#E2572B"), 3, "%v", found)
	assert.Regexp(t, `^\d+ frames, one a second, and 4 changes of scene$`, scan.About)
}

// A video of over a quarter of an hour is looked at to its end: times of that length are written with two decimals only.
func TestALongVideoIsLookedAtToItsEnd(t *testing.T) {
	needed(t)
	out := filepath.Join(t.TempDir(), "x.mp4")
	told, err := exec.Command("ffmpeg", "-v", "error", "-f", "lavfi", "-i", "color=0xE2572B:s=160x90:d=1100:r=3/7,format=rgb24", "-f", "lavfi", "-i", "color=0x00A34F:s=160x90:d=550:r=3/7,format=rgb24",
		"-filter_complex", "[0][1]concat=n=2", "-c:v", "libx264", "-pix_fmt", "yuv420p", out).CombinedOutput()
	require.NoError(t, err, "%s", told)
	data, err := os.ReadFile(out)
	require.NoError(t, err)
	var times []float64
	lasts := 0.0
	looked, err := frames.Reader(context.Background())(data, 300, func(at, stands float64, _ *image.NRGBA) error {
		times, lasts = append(times, at), lasts+stands
		return nil
	})
	require.NoError(t, err)
	assert.Greater(t, len(times), 100)
	assert.Greater(t, times[len(times)-1], 1600.0)
	assert.InDelta(t, 1650, lasts, 10)
	assert.NotContains(t, looked.Note, "could not be read")
	scan, err := kinds.ReadWith("x.mp4", data, kinds.Options{Frames: frames.Reader(context.Background())})
	require.NoError(t, err)
	require.Len(t, scan.Uses, 2)
	assert.InDelta(t, 67, scan.Uses[0].Count, 2)
	assert.InDelta(t, 33, scan.Uses[1].Count, 2)
}
