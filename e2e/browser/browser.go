// Package browser drives the real interface in headless Chromium.
package browser

import (
	"fmt"
	"os"
	"os/exec"
	"time"

	"github.com/go-rod/rod"
	"github.com/go-rod/rod/lib/launcher"
	"github.com/go-rod/rod/lib/proto"
	"github.com/go-rod/rod/lib/utils"
)

// Find returns the path of Debian's Chromium, first of the one without windows, which takes two thirds of the time, or an error that says
// how to install it.
func Find() (string, error) {
	for _, name := range []string{"chromium-headless-shell", "chromium", "chromium-browser", "google-chrome"} {
		if p, err := exec.LookPath(name); err == nil {
			return p, nil
		}
	}
	return "", fmt.Errorf("chromium is not installed; on Debian: apt-get install chromium-headless-shell")
}

// often is how soon one looks again for what a page does not show yet.
func often() utils.Sleeper {
	return utils.BackoffSleeper(10*time.Millisecond, 200*time.Millisecond, nil)
}

// Start launches a browser; stop ends it and removes its profile.
func Start() (b *rod.Browser, stop func(), err error) {
	path, err := Find()
	if err != nil {
		return nil, nil, err
	}
	profile, err := os.MkdirTemp("", "huekeep-browser-")
	if err != nil {
		return nil, nil, err
	}
	l := launcher.New().Bin(path).Leakless(false).UserDataDir(profile).
		Set("no-sandbox").Set("disable-gpu").Set("disable-quic").Set("disable-background-networking").
		Set("disable-component-update").Set("disable-sync").Set("hide-scrollbars").Set("force-color-profile", "srgb")
	address, err := l.Launch()
	if err != nil {
		os.RemoveAll(profile)
		return nil, nil, err
	}
	b = rod.New().ControlURL(address).Sleeper(often)
	if err := b.Connect(); err != nil {
		l.Kill()
		os.RemoveAll(profile)
		return nil, nil, err
	}
	return b, func() {
		_ = b.Close()
		l.Kill()
		l.Cleanup()
	}, nil
}

// Open opens a page of 1280x800.
func Open(b *rod.Browser, url string) (*rod.Page, error) {
	p, err := b.Page(proto.TargetCreateTarget{URL: "about:blank"})
	if err != nil {
		return nil, err
	}
	p = p.Timeout(3 * time.Minute)
	if err := p.SetViewport(&proto.EmulationSetDeviceMetricsOverride{Width: 1280, Height: 800, DeviceScaleFactor: 1}); err != nil {
		return nil, err
	}
	if err := p.Navigate(url); err != nil {
		return nil, err
	}
	return p, p.WaitLoad()
}
