package main

import (
	"errors"
	"fmt"
	"path/filepath"

	"github.com/spf13/cobra"

	"huekeep/keep"
)

// keysPath is the file of the keys that encrypt secrets in the database.
func keysPath() string { return setting("KEYS", filepath.Join(dataFolder(), "keys")) }

func openKeys() (*keep.Keys, error) { return keep.LoadKeys(keysPath()) }

// beside is a command that works on the database while the server may be running.
func beside(use, short string, run func(cmd *cobra.Command, s stored) error) *cobra.Command {
	var demo bool
	c := &cobra.Command{Use: use, Short: short, Args: cobra.NoArgs, RunE: func(cmd *cobra.Command, _ []string) (err error) {
		p, err := openPlace(cmd.Context(), databaseName(demo), false, true)
		if err != nil {
			return err
		}
		s, err := openStation(cmd.Context(), p)
		if err != nil {
			return errors.Join(err, p.close())
		}
		defer func() { err = errors.Join(err, s.close()) }()
		return run(cmd, s)
	}}
	c.Flags().BoolVar(&demo, "demo", false, "of the demo")
	return c
}

func keysCommand() *cobra.Command {
	c := &cobra.Command{Use: "keys", Short: "The keys that encrypt secrets in the database and seal the trail"}
	const short = "Make a new key and encrypt all secrets with it; restart the server afterwards. Older keys stay in the file for seals of the trail"
	c.AddCommand(beside("rotate", short, func(cmd *cobra.Command, s stored) error {
		s.Base.Keys.Rotate()
		// First the file, so that nothing is encrypted with a key that nobody has.
		if err := s.Base.Keys.Save(keysPath(), false); err != nil {
			return err
		}
		n, err := s.Accounts.EncryptSecrets(cmd.Context())
		if err != nil {
			return err
		}
		hooks, err := s.Hooks.EncryptSecrets(cmd.Context())
		if err != nil {
			return err
		}
		fmt.Fprintf(cmd.OutOrStdout(),
			"There is a new key in %s; the secrets of %d second factors and %d webhooks are encrypted with it. Restart the server, and keep a copy of the file beside your dumps.\n", keysPath(), n, hooks)
		return nil
	}))
	return c
}

func trailCommand() *cobra.Command {
	c := &cobra.Command{Use: "trail", Short: "The trail of who changed what"}
	c.AddCommand(beside("verify", "Look whether the trail is as it was sealed; ends with 1 if not",
		func(cmd *cobra.Command, s stored) error {
			chains, err := s.Trail.Verify(cmd.Context())
			if err != nil {
				return err
			}
			bad := false
			for _, c := range chains {
				name := "People"
				if c.House > 0 {
					h, err := s.Base.DB.With(cmd.Context()).House(c.House)
					if err != nil {
						return err
					}
					name = h.Name
				}
				if len(c.Wrong) == 0 {
					fmt.Fprintf(cmd.OutOrStdout(), "%s: %d rows are as they were sealed, %d wait for their seal\n", name, c.Sealed,
						c.Waiting)
				}
				for _, w := range c.Wrong {
					bad = true
					fmt.Fprintf(cmd.OutOrStdout(), "%s: %s\n", name, w)
				}
			}
			if bad {
				return exitError{code: 1}
			}
			return nil
		}))
	return c
}
