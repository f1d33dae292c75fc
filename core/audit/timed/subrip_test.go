package timed_test

import (
	"os"
	"os/exec"
	"path/filepath"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"huekeep/core/audit"
	"huekeep/core/audit/audittest"
	"huekeep/core/audit/kinds"
)

// What another program makes of styled subtitles is read with every color in it.
func TestSubRipOfAnotherProgram(t *testing.T) {
	if _, err := exec.LookPath("ffmpeg"); err != nil {
		if os.Getenv("CI") != "" {
			t.Fatal("ffmpeg must be installed in CI")
		}
		t.Skip("ffmpeg is not installed")
	}
	dir := t.TempDir()
	from, to := filepath.Join(dir, "a.ass"), filepath.Join(dir, "a.srt")
	require.NoError(t, os.WriteFile(from, []byte("[Script Info]\nScriptType: v4.00+\n\n[V4+ Styles]\nFormat: Name, Fontname, Fontsize, PrimaryColour\nStyle: Default,Arial,20,&H00FFFFFF\nStyle: Safety,Arial,20,&H002B57E2\n\n"+
		"[Events]\nFormat: Layer, Start, End, Style, Name, MarginL, MarginR, MarginV, Effect, Text\nDialogue: 0,0:00:01.00,0:00:02.00,Default,,0,0,0,,{\\c&H533A0E&}Mind the gap\nDialogue: 0,0:00:03.00,0:00:04.00,Default,,0,0,0,,{\\c&H2B57E2&}Now\n"), 0o600))
	out, err := exec.Command("ffmpeg", "-loglevel", "error", "-i", from, to).CombinedOutput()
	require.NoError(t, err, string(out))
	data, err := os.ReadFile(to)
	require.NoError(t, err)
	scan, err := kinds.Read("a.srt", data)
	require.NoError(t, err)
	assert.Equal(t, "2 cues", scan.About)
	found := map[string]bool{}
	for _, k := range audit.NewJudge(audittest.Rules("Buoy #E2572B", "Sound #0E3A53")).Judge("a.srt", scan).Colors {
		found[k.Hex] = k.Verdict == audit.OnBrand
	}
	assert.Equal(t, map[string]bool{"#0E3A53": true, "#E2572B": true}, found, string(data))
}
