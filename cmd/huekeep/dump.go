package main

import (
	"errors"
	"fmt"
	"io"
	"os"
	"path/filepath"

	"github.com/spf13/cobra"

	"huekeep/keep"
	"huekeep/keep/dumps"
)

func dumpCommand() *cobra.Command {
	var demo bool
	c := &cobra.Command{
		Use:   "dump FILE.tar.gz",
		Short: "Write the database and the files of all houses into one file, while the server may be running",
		Args:  cobra.ExactArgs(1),
		RunE: func(cmd *cobra.Command, args []string) (err error) {
			p, err := openPlace(cmd.Context(), databaseName(demo), false, true)
			if err != nil {
				return err
			}
			defer func() { err = errors.Join(err, p.close()) }()
			return wholeFile(args[0], func(f *os.File) error {
				m, err := dumps.Write(cmd.Context(), p.place(), dumps.How{Version: version()}, f)
				if err == nil {
					fmt.Fprintf(cmd.OutOrStdout(), "%s: the database and %d files\n", args[0], m.Files())
					for _, key := range m.Missing {
						fmt.Fprintf(cmd.ErrOrStderr(), "huekeep: the file %s is not there; it may have gone meanwhile\n", key)
					}
				}
				return err
			})
		},
	}
	c.Flags().BoolVar(&demo, "demo", false, "of the demo")
	return c
}

func databaseName(demo bool) string {
	if demo {
		return "huekeep_demo"
	}
	return "huekeep"
}

// publicFile is wholeFile of what others may read as far as they may read what one writes.
func publicFile(path string, write func(w io.Writer) error) error {
	return putFile(path, 0o666, func(f *os.File) error { return write(f) })
}

// wholeFile writes a file that is there when it is whole, and not before; nobody else may read it.
func wholeFile(path string, write func(f *os.File) error) error { return putFile(path, 0o600, write) }

func putFile(path string, mode os.FileMode, write func(f *os.File) error) (err error) {
	if real, err := filepath.EvalSymlinks(path); err == nil {
		path = real
	}
	there, missing := os.Stat(path)
	if missing == nil && !there.Mode().IsRegular() && !there.IsDir() { // a device or a pipe cannot be put in place
		f, err := os.OpenFile(path, os.O_WRONLY, 0)
		if err != nil {
			return err
		}
		return errors.Join(write(f), f.Close())
	}
	f, err := os.OpenFile(filepath.Join(filepath.Dir(path), "."+filepath.Base(path)+"-"+keep.Random()[:8]),
		os.O_CREATE|os.O_EXCL|os.O_WRONLY, mode)
	if err != nil {
		return err
	}
	defer func() {
		if err != nil {
			err = errors.Join(err, os.Remove(f.Name()))
		}
	}()
	if missing == nil && mode != 0o600 { // it stays as open or closed as it was
		if err := f.Chmod(there.Mode().Perm()); err != nil {
			return errors.Join(err, f.Close())
		}
	}
	if err := errors.Join(write(f), f.Sync(), f.Close()); err != nil {
		return err
	}
	return os.Rename(f.Name(), path)
}

func loadCommand() *cobra.Command {
	var demo bool
	c := &cobra.Command{
		Use:   "load FILE.tar.gz",
		Short: "Bring a dump back, into an empty database; it comes in wholly or not at all",
		Args:  cobra.ExactArgs(1),
		RunE: func(cmd *cobra.Command, args []string) (err error) {
			f, err := os.Open(args[0])
			if err != nil {
				return err
			}
			defer f.Close()
			// Read once to see that it is whole, before anything is written.
			if _, _, err := dumps.Check(f); err != nil {
				return fmt.Errorf("%s: %w", args[0], err)
			}
			p, err := openPlace(cmd.Context(), databaseName(demo), false, false)
			if err != nil {
				return err
			}
			defer func() { err = errors.Join(err, p.close()) }()
			n, err := dumps.Load(cmd.Context(), p.place(), f)
			if err == nil {
				fmt.Fprintf(cmd.OutOrStdout(), "%s is loaded: the database and %d files. Everybody signs in anew.\n", args[0], n)
			}
			return err
		},
	}
	c.Flags().BoolVar(&demo, "demo", false, "into the demo")
	return c
}
