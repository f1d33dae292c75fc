// Package office has LibreOffice, where it is installed, make the pages of office documents: a presentation, a text or sheets as a PDF.
// Documents come from anybody, so that it runs with a profile of its own that runs no macros, follows no links to other files or addresses,
// and is thrown away; without a network where the system lets it; within a time and so much memory.
package office

import (
	"context"
	"errors"
	"fmt"
	"net/url"
	"os"
	"os/exec"
	"path/filepath"
	"strconv"
	"sync"
	"syscall"
	"time"
)

// ErrAbsent says that LibreOffice is not installed.
var ErrAbsent = errors.New("LibreOffice is not installed on the server")

const (
	// Patience is how long documents may take.
	Patience = 90 * time.Second
	// memory is how much of it there may be, in KB of addresses.
	memory = 6 << 20
)

// Document is a document by the extension of its kind, such as ".pptx".
type Document struct {
	Extension string
	Data      []byte
}

// settings are those of a profile that trusts nobody.
const settings = `<?xml version="1.0" encoding="UTF-8"?>
<oor:items xmlns:oor="http://openoffice.org/2001/registry" xmlns:xs="http://www.w3.org/2001/XMLSchema" xmlns:xsi="http://www.w3.org/2001/XMLSchema-instance">
<item oor:path="/org.openoffice.Office.Common/Security/Scripting"><prop oor:name="MacroSecurityLevel" oor:op="fuse"><value>3</value></prop></item>
<item oor:path="/org.openoffice.Office.Common/Security/Scripting"><prop oor:name="DisableMacrosExecution" oor:op="fuse"><value>true</value></prop></item>
<item oor:path="/org.openoffice.Office.Common/Security/Scripting"><prop oor:name="BlockUntrustedRefererLinks" oor:op="fuse"><value>true</value></prop></item>
<item oor:path="/org.openoffice.Office.Common/Security/Scripting"><prop oor:name="DisableActiveContent" oor:op="fuse"><value>true</value></prop></item>
<item oor:path="/org.openoffice.Office.Calc/Content/Update"><prop oor:name="Link" oor:op="fuse"><value>2</value></prop></item>
<item oor:path="/org.openoffice.Office.Writer/Content/Update"><prop oor:name="Link" oor:op="fuse"><value>0</value></prop></item>
<item oor:path="/org.openoffice.Inet/Settings"><prop oor:name="ooInetProxyType" oor:op="fuse"><value>2</value></prop></item>
<item oor:path="/org.openoffice.Inet/Settings"><prop oor:name="ooInetHTTPProxyName" oor:op="fuse"><value>127.0.0.1</value></prop></item>
<item oor:path="/org.openoffice.Inet/Settings"><prop oor:name="ooInetHTTPProxyPort" oor:op="fuse"><value>9</value></prop></item>
<item oor:path="/org.openoffice.Inet/Settings"><prop oor:name="ooInetHTTPSProxyName" oor:op="fuse"><value>127.0.0.1</value></prop></item>
<item oor:path="/org.openoffice.Inet/Settings"><prop oor:name="ooInetHTTPSProxyPort" oor:op="fuse"><value>9</value></prop></item>
</oor:items>
`

// turn lets one conversion run at a time: each takes a processor and some hundred megabytes.
var turn = make(chan struct{}, 1)

// apart says whether a program can be started without a network, asked once.
var apart = sync.OnceValue(func() bool {
	program, err := exec.LookPath("unshare")
	return err == nil && exec.Command(program, "-rn", "true").Run() == nil
})

// Present says whether LibreOffice is installed.
func Present() bool {
	_, err := exec.LookPath("soffice")
	return err == nil
}

// PDFs makes the pages of documents, each as a PDF. An error says what is wrong in words.
func PDFs(ctx context.Context, documents ...Document) (out [][]byte, err error) {
	program, err := exec.LookPath("soffice")
	if err != nil {
		return nil, ErrAbsent
	}
	select {
	case turn <- struct{}{}:
		defer func() { <-turn }()
	case <-ctx.Done():
		return nil, ctx.Err()
	}
	dir, err := os.MkdirTemp("", "huekeep-pages")
	if err != nil {
		return nil, err
	}
	defer func() { _ = os.RemoveAll(dir) }()
	profile := filepath.Join(dir, "profile", "user")
	for _, d := range []string{profile, filepath.Join(dir, "in"), filepath.Join(dir, "out")} {
		if err := os.MkdirAll(d, 0o700); err != nil {
			return nil, err
		}
	}
	if err := os.WriteFile(filepath.Join(profile, "registrymodifications.xcu"), []byte(settings), 0o600); err != nil {
		return nil, err
	}
	args := []string{"-c", `ulimit -v "$0"; exec "$@"`, strconv.Itoa(memory)}
	if apart() {
		args = append(args, "unshare", "-rn")
	}
	args = append(args, program, "-env:UserInstallation="+(&url.URL{Scheme: "file", Path: filepath.Join(dir, "profile")}).String(),
		"--headless", "--norestore", "--nologo", "--nodefault", "--nolockcheck",
		"--convert-to", "pdf", "--outdir", filepath.Join(dir, "out"))
	for i, d := range documents {
		name := filepath.Join(dir, "in", strconv.Itoa(i)+filepath.Base(d.Extension))
		if err := os.WriteFile(name, d.Data, 0o600); err != nil {
			return nil, err
		}
		args = append(args, name)
	}
	within, cancel := context.WithTimeout(ctx, Patience)
	defer cancel()
	cmd := exec.CommandContext(within, "sh", args...)
	cmd.Env = []string{"PATH=" + os.Getenv("PATH"), "HOME=" + dir, "TMPDIR=" + dir, "LANG=C.UTF-8"}
	cmd.Dir = dir
	cmd.SysProcAttr = &syscall.SysProcAttr{Setpgid: true}
	cmd.Cancel = func() error { return syscall.Kill(-cmd.Process.Pid, syscall.SIGKILL) } // and what it started
	cmd.WaitDelay = 5 * time.Second
	said, err := cmd.CombinedOutput()
	switch {
	case ctx.Err() != nil:
		return nil, ctx.Err()
	case within.Err() != nil:
		return nil, fmt.Errorf("LibreOffice took longer than %d seconds to make its pages", int(Patience.Seconds()))
	}
	for i := range documents {
		data, read := os.ReadFile(filepath.Join(dir, "out", strconv.Itoa(i)+".pdf"))
		if read != nil {
			return nil, fmt.Errorf("LibreOffice could not make its pages (%w%s)", errors.Join(err, read), ending(said))
		}
		out = append(out, data)
	}
	return out, nil
}

// ending is the end of what a program said.
func ending(said []byte) string {
	const most = 200
	if len(said) == 0 {
		return ""
	}
	return ": " + string(said[max(0, len(said)-most):])
}
