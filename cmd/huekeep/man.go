package main

import (
	"fmt"
	"os"
	"time"

	"github.com/spf13/cobra"
	"github.com/spf13/cobra/doc"
)

// manCommand writes the manual pages of all commands, from the commands. Their date is that of the build, so that the same commit makes the
// same pages.
func manCommand() *cobra.Command {
	return &cobra.Command{
		Use:     "man FOLDER",
		Short:   "Write the manual pages of all commands",
		Long:    "Writes a manual page (section 1) for each command into a folder. `huekeep completion bash|zsh|fish|powershell` writes what completes them.",
		Example: "  huekeep man /usr/local/share/man/man1",
		Args:    cobra.ExactArgs(1),
		RunE: func(cmd *cobra.Command, args []string) error {
			if err := os.MkdirAll(args[0], 0o755); err != nil {
				return err
			}
			_, at, _ := made()
			date, err := time.Parse(time.RFC3339, at)
			if err != nil {
				date = time.Unix(0, 0).UTC()
			}
			root := cmd.Root()
			root.DisableAutoGenTag = true
			if err := doc.GenManTree(root, &doc.GenManHeader{Title: "HUEKEEP", Section: "1", Source: "Hue Keep", Manual: "Hue Keep",
				Date: &date}, args[0]); err != nil {
				return fmt.Errorf("the manual pages cannot be written: %w", err)
			}
			return nil
		},
	}
}
