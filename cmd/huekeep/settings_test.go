package main

import (
	"testing"
	"time"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"
)

func TestSettings(t *testing.T) {
	s, err := readSettings()
	require.NoError(t, err)
	assert.Equal(t, settings{secure: "auto", life: 14 * 24 * time.Hour, idle: 12 * time.Hour, file: time.Minute, log: "text"}, s, "without any")
	for name, c := range map[string]struct {
		set  map[string]string
		part string // of what is wrong; empty for nothing
	}{
		"a word for a number":           {map[string]string{"IDLE_HOURS": "many"}, "HUEKEEP_IDLE_HOURS"},
		"too long":                      {map[string]string{"SESSION_DAYS": "4000"}, "from 0.01 to 365"},
		"negative":                      {map[string]string{"ROOM": "-1"}, "HUEKEEP_ROOM"},
		"a made-up word":                {map[string]string{"SECURE": "yes"}, "one of 1, 0, auto"},
		"no proxy":                      {map[string]string{"PROXIES": "the one in front"}, "HUEKEEP_PROXIES"},
		"a provider without a client":   {map[string]string{"SIGN_IN": "https://id.example", "URL": "https://c.example"}, "HUEKEEP_SIGN_IN_CLIENT"},
		"a provider without a way back": {map[string]string{"SIGN_IN": "https://id.example", "SIGN_IN_CLIENT": "x"}, "HUEKEEP_URL"},
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
