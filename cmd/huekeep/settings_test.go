package main

import (
	"os"
	"path/filepath"
	"regexp"
	"strings"
	"testing"
	"time"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"huekeep/keep/dumps"
)

func TestSettings(t *testing.T) {
	s, err := readSettings()
	require.NoError(t, err)
	assert.Equal(t, settings{secure: "auto", life: 14 * 24 * time.Hour, idle: 12 * time.Hour, file: time.Minute, again: 5 * time.Minute, log: "text",
		dumps: dumps.Settings{At: 150 * time.Minute, Kept: 14, Version: version()}}, s, "without any")
	for name, c := range map[string]struct {
		set  map[string]string
		part string // of what is wrong; empty for nothing
	}{
		"a word for a number":           {map[string]string{"IDLE_HOURS": "many"}, "HUEKEEP_IDLE_HOURS"},
		"too long":                      {map[string]string{"SESSION_DAYS": "4000"}, "from 0.01 to 365"},
		"negative":                      {map[string]string{"ROOM": "-1"}, "HUEKEEP_ROOM"},
		"a made-up word":                {map[string]string{"SECURE": "yes"}, "one of 1, 0, auto"},
		"no network":                    {map[string]string{"HOOK_NETWORKS": "ours"}, "HUEKEEP_HOOK_NETWORKS"},
		"no proxy":                      {map[string]string{"PROXIES": "the one in front"}, "HUEKEEP_PROXIES"},
		"a provider without a client":   {map[string]string{"SIGN_IN": "https://id.example", "URL": "https://c.example"}, "HUEKEEP_SIGN_IN_CLIENT"},
		"a provider without a way back": {map[string]string{"SIGN_IN": "https://id.example", "SIGN_IN_CLIENT": "x"}, "HUEKEEP_URL"},
		"no time of a day":              {map[string]string{"DUMPS_AT": "half past two"}, "as 02:30"},
		"no dump is kept":               {map[string]string{"DUMPS_KEPT": "0"}, "HUEKEEP_DUMPS_KEPT"},
		"dumps nowhere":                 {map[string]string{"DUMPS": "/backup"}, "HUEKEEP_DUMPS: "},
		"dumps among files":             {map[string]string{"DUMPS": "file:///a/files/dumps", "FILES": "file:///a/files"}, "is where the files are"},
		"files among dumps":             {map[string]string{"DUMPS": "file:///a", "FILES": "file:///a/files/"}, "is where the files are"},
		"dumps in the folder of data":   {map[string]string{"DUMPS": "file:///a/files/x", "DATA": "/a"}, "is where the files are"},
		"dumps in the bucket of files":  {map[string]string{"DUMPS": "s3://b?region=x", "FILES": "s3://b?region=x&use_path_style=true"}, "is where the files are"},
		"all well":                      {map[string]string{"IDLE_HOURS": "2", "ROOM": "1.5", "LOG": "json", "ACCESS_LOG": "1", "SIGN_IN": "https://id.example", "SIGN_IN_CLIENT": "x", "URL": "https://c.example/"}, ""},
	} {
		t.Run(name, func(t *testing.T) {
			for k, v := range c.set {
				t.Setenv("HUEKEEP_"+k, v)
			}
			s, err := readSettings()
			if c.part != "" {
				assert.ErrorContains(t, err, c.part)
				return
			}
			require.NoError(t, err)
			assert.Equal(t, int64(1.5e9), s.room)
			assert.Equal(t, 2*time.Hour, s.idle)
			assert.True(t, s.access)
			assert.Equal(t, "https://c.example/sign-in/back", s.provider.Redirect)
		})
	}
}

// The documents list every setting, the program knows every one that it reads, and one that is misspelled is told of.
func TestSettingsAreKnownAndListed(t *testing.T) {
	text, err := os.ReadFile("../../docs/operations.md")
	require.NoError(t, err)
	listed := map[string]bool{}
	for _, m := range regexp.MustCompile("(?m)^\\| (`HUEKEEP_.*?) \\|").FindAllStringSubmatch(string(text), -1) {
		first := ""
		for _, n := range regexp.MustCompile("`([A-Z_]+)`").FindAllStringSubmatch(m[1], -1) {
			if name, ok := strings.CutPrefix(n[1], "HUEKEEP_"); ok {
				first = name
				listed[name] = true
			} else {
				listed[strings.TrimSuffix(first, "_CLIENT")+n[1]] = true // "_SECRET" beside HUEKEEP_SIGN_IN_CLIENT
			}
		}
	}
	for _, name := range known {
		assert.True(t, listed[name], "docs/operations.md does not list HUEKEEP_%s", name)
	}
	files, err := filepath.Glob("*.go")
	require.NoError(t, err)
	for _, f := range files {
		if strings.HasSuffix(f, "_test.go") {
			continue
		}
		source, err := os.ReadFile(f)
		require.NoError(t, err)
		for _, m := range regexp.MustCompile(`(?:setting|number|choice)\("([A-Z_]+)"|"HUEKEEP_([A-Z_]+)"`).FindAllStringSubmatch(string(source), -1) {
			assert.Contains(t, known, m[1]+m[2], f)
		}
	}
	t.Setenv("HUEKEEP_FILLS", "x")
	assert.Contains(t, unknownSettings(), "HUEKEEP_FILLS")
}
