package main

import (
	"cmp"
	"fmt"
	"runtime"
	"runtime/debug"

	"github.com/spf13/cobra"
)

// lastNumber is that of the release which this is, or which it goes on from: scripts/release.sh reads it here, and CHANGELOG.md tells what
// it brought.
const lastNumber = "1.0.0"

// commit and built are set by the Makefile: the commit that the program was made from, and its time. release is set by scripts/release.sh:
// the number under which it is handed out, with the commit where it is one in between.
var commit, built, release string

// versionCommand says what the program was made from. A build by `go build` or `go install` knows it from the toolchain.
func versionCommand() *cobra.Command {
	return &cobra.Command{Use: "version", Short: "Say which build this is", Args: cobra.NoArgs,
		RunE: func(cmd *cobra.Command, _ []string) error {
			_, err := fmt.Fprintln(cmd.OutOrStdout(), version())
			return err
		}}
}

func version() string {
	rev, at, altered := made()
	if at != "" {
		at = " of " + at
	}
	return fmt.Sprintf("Hue Keep %s, %s%s%s, %s, %s/%s", cmp.Or(release, lastNumber), rev, at, altered, runtime.Version(), runtime.GOOS,
		runtime.GOARCH)
}

// builtFrom is the commit that the program was made from, as instances tell each other.
func builtFrom() string {
	rev, _, altered := made()
	return cmp.Or(release, rev) + altered
}

// made is the commit that the program was made from, when that was, and ", altered" if something was different.
func made() (rev, at, altered string) {
	rev, at = commit, built
	if info, ok := debug.ReadBuildInfo(); ok {
		for _, s := range info.Settings {
			switch {
			case s.Key == "vcs.revision":
				rev = s.Value[:min(12, len(s.Value))]
			case s.Key == "vcs.time":
				at = s.Value
			case s.Key == "vcs.modified" && s.Value == "true":
				altered = ", altered"
			}
		}
		if rev == "" && info.Main.Version != "" && info.Main.Version != "(devel)" {
			rev = info.Main.Version
		}
	}
	if rev == "" {
		rev = "of unknown origin"
	}
	return rev, at, altered
}
