package main

import (
	"fmt"
	"net/netip"
	"net/url"
	"os"
	"path/filepath"
	"slices"
	"strconv"
	"strings"
	"time"

	"huekeep/filestore"
	"huekeep/keep/accounts"
	"huekeep/keep/dumps"
	"huekeep/server"
)

// known are all settings, without the prefix that they share.
var known = []string{"ADDRESS", "URL", "DATABASE", "DATA", "FILES", "DUMPS", "DUMPS_AT", "DUMPS_KEPT", "SMTP", "PROXIES", "HOOK_NETWORKS",
	"SECURE", "SESSION_DAYS", "IDLE_HOURS", "ROOM", "SIGN_IN", "SIGN_IN_CLIENT", "SIGN_IN_SECRET", "SIGN_IN_NAME",
	"FILE_SECONDS", "AGAIN_MINUTES", "KEYS", "UPGRADE_DUMP", "LOG", "ACCESS_LOG", "METRICS", "TOKEN"}

// unknownSettings are variables that look like settings and are none.
func unknownSettings() (list []string) {
	for _, v := range os.Environ() {
		name, _, _ := strings.Cut(v, "=")
		if rest, ours := strings.CutPrefix(name, "HUEKEEP_"); ours && !slices.Contains(known, rest) {
			list = append(list, name)
		}
	}
	slices.Sort(list)
	return list
}

// setting reads one of the settings that the README lists.
func setting(name, fallback string) string {
	if v := os.Getenv("HUEKEEP_" + name); v != "" {
		return v
	}
	return fallback
}

// number reads a setting that is a number.
func number(name string, fallback, least, most float64) (float64, error) {
	text := setting(name, "")
	if text == "" {
		return fallback, nil
	}
	n, err := strconv.ParseFloat(text, 64)
	if err != nil || n < least || n > most {
		return 0, fmt.Errorf("HUEKEEP_%s is %q; it is a number from %g to %g", name, text, least, most)
	}
	return n, nil
}

// choice reads a setting that is one of some words.
func choice(name, fallback string, words ...string) (string, error) {
	text := setting(name, fallback)
	for _, w := range append(words, fallback) {
		if text == w {
			return text, nil
		}
	}
	return "", fmt.Errorf("HUEKEEP_%s is %q; it is one of %s", name, text, strings.Join(append(words, fallback), ", "))
}

// settings are those of a server, checked.
type settings struct {
	secure     string
	proxies    []netip.Prefix
	hooks      []netip.Prefix
	life, idle time.Duration
	file       time.Duration // that a foreign file may take
	again      time.Duration // for how long a library has been still before projects are judged again; 0 for never
	room       int64
	metrics    string // the address that metrics are served at; empty for none
	log        string // text or json
	access     bool
	provider   *server.Provider // nil for none
	dumps      dumps.Settings
}

func readSettings() (s settings, err error) {
	if s.secure, err = choice("SECURE", "auto", "1", "0"); err != nil {
		return s, err
	}
	if s.proxies, err = server.Proxies(setting("PROXIES", "")); err != nil {
		return s, fmt.Errorf("HUEKEEP_PROXIES: %w", err)
	}
	if s.hooks, err = server.Proxies(setting("HOOK_NETWORKS", "")); err != nil {
		return s, fmt.Errorf("HUEKEEP_HOOK_NETWORKS: %w", err)
	}
	days, err := number("SESSION_DAYS", accounts.SessionLife.Hours()/24, 0.01, 365)
	if err != nil {
		return s, err
	}
	hours, err := number("IDLE_HOURS", accounts.KeeperIdle.Hours(), 0.1, 8760)
	if err != nil {
		return s, err
	}
	if s.file, err = fileTime(); err != nil {
		return s, err
	}
	again, err := number("AGAIN_MINUTES", 5, 0, 1440)
	if err != nil {
		return s, err
	}
	s.again = time.Duration(again * float64(time.Minute))
	room, err := number("ROOM", 0, 0, 1e6)
	if err != nil {
		return s, err
	}
	s.life, s.idle, s.room = time.Duration(days*24*float64(time.Hour)), time.Duration(hours*float64(time.Hour)), int64(room*1e9)
	if s.log, err = choice("LOG", "text", "json"); err != nil {
		return s, err
	}
	access, err := choice("ACCESS_LOG", "0", "1")
	if err != nil {
		return s, err
	}
	s.access, s.metrics = access == "1", setting("METRICS", "")
	if s.dumps, err = dumpSettings(); err != nil {
		return s, err
	}
	if issuer := setting("SIGN_IN", ""); issuer != "" {
		s.provider = &server.Provider{Name: setting("SIGN_IN_NAME", "your organization"), Issuer: issuer,
			Client: setting("SIGN_IN_CLIENT", ""), Secret: setting("SIGN_IN_SECRET", "")}
		address := strings.TrimSuffix(setting("URL", ""), "/")
		if s.provider.Client == "" || address == "" {
			return s, fmt.Errorf("HUEKEEP_SIGN_IN needs HUEKEEP_SIGN_IN_CLIENT, and HUEKEEP_URL for the way back")
		}
		s.provider.Redirect = address + "/sign-in/back"
	}
	return s, nil
}

// dumpSettings are those of nightly dumps, but for what is dumped.
func dumpSettings() (d dumps.Settings, err error) {
	at, err := time.Parse("15:04", setting("DUMPS_AT", "02:30"))
	if err != nil {
		return d, fmt.Errorf("HUEKEEP_DUMPS_AT is %q; it is a time of the day as 02:30", setting("DUMPS_AT", ""))
	}
	kept, err := number("DUMPS_KEPT", 14, 1, 1000)
	if err != nil {
		return d, err
	}
	d = dumps.Settings{At: time.Duration(at.Hour())*time.Hour + time.Duration(at.Minute())*time.Minute, Kept: int(kept), Version: version()}
	to := setting("DUMPS", "")
	if to == "" {
		return d, nil
	}
	files := setting("FILES", "")
	if files == "" {
		data, err := filepath.Abs(dataFolder())
		if err != nil {
			return d, err
		}
		files = "file://" + filepath.Join(data, "files")
	}
	if oneWithin(to, files) {
		return d, fmt.Errorf("HUEKEEP_DUMPS is where the files are that are dumped (%s); name another folder or bucket: what is stored there and not on record is removed", files)
	}
	if d.To, err = filestore.At(to); err != nil {
		return d, fmt.Errorf("HUEKEEP_DUMPS: %w", err)
	}
	return d, nil
}

// oneWithin says whether two places for files are one, or one is a folder in the other.
func oneWithin(a, b string) bool {
	x, xErr := url.Parse(a)
	y, yErr := url.Parse(b)
	if xErr != nil || yErr != nil || x.Scheme != y.Scheme {
		return false
	}
	if x.Scheme != "file" {
		return x.Host == y.Host && x.Query().Get("endpoint") == y.Query().Get("endpoint")
	}
	in := func(inner, outer string) bool {
		rel, err := filepath.Rel(filepath.Clean(outer), filepath.Clean(inner))
		return err == nil && rel != ".." && !strings.HasPrefix(rel, "../")
	}
	return in(x.Path, y.Path) || in(y.Path, x.Path)
}
