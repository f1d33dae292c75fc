package main

import (
	"context"
	"errors"
	"fmt"
	"io"
	"os"

	"github.com/spf13/cobra"

	"huekeep/core/limits"
	"huekeep/core/swatchfile"
	"huekeep/keep"
	"huekeep/keep/stations"
	"huekeep/keep/trail"
	"huekeep/keep/whole"
)

// inHouse runs f for a house as its keeper would; whoever may read the database's settings may do so. It stands on the house's trail.
func inHouse(ctx context.Context, name string, changes bool, f func(*stations.Stations, keep.Actor) error) (err error) {
	if name == "" {
		return errors.New("--house is missing: name the house")
	}
	s, err := openStore(ctx, "huekeep", false, true)
	if err != nil {
		return err
	}
	defer func() { err = errors.Join(err, s.close()) }()
	a, err := s.Accounts.Operator(ctx, name)
	if err != nil {
		return err
	}
	what := "exportLibrary"
	if changes {
		what = "restoreLibrary"
	}
	step, err := s.Trail.Begin(ctx, a, what, trail.Thing{})
	if err != nil {
		return err
	}
	err = f(s.Stations, a)
	outcome := 200
	if err != nil {
		outcome = 422
	}
	s.Trail.End(ctx, a, step, outcome, nil, "")
	return err
}

func exportCommand() *cobra.Command {
	var name, out string
	var all bool
	c := &cobra.Command{
		Use:     "export",
		Short:   "Write a house as one Hue Keep library file, its backup, or with all its projects",
		Example: "  huekeep export --house 'Odelwick Ferries' -o ferries.json\n  huekeep export --house 'Odelwick Ferries' --all -o ferries.zip",
		Args:    cobra.NoArgs,
		RunE: func(cmd *cobra.Command, _ []string) error {
			return inHouse(cmd.Context(), name, false, func(k *stations.Stations, a keep.Actor) error {
				write := func(w io.Writer) error {
					if all {
						return k.Whole.Write(cmd.Context(), a, w)
					}
					lib, err := k.Backup.Export(cmd.Context(), a)
					if err != nil {
						return err
					}
					data, err := swatchfile.WriteLibrary(lib)
					if err == nil {
						_, err = w.Write(data)
					}
					return err
				}
				if out == "-" || out == "" {
					return write(cmd.OutOrStdout())
				}
				return wholeFile(out, func(f *os.File) error { return write(f) })
			})
		},
	}
	c.Flags().StringVar(&name, "house", "", "the house to write")
	c.Flags().BoolVar(&all, "all", false, "an archive with the files of its projects, excuses and plans too")
	c.Flags().StringVarP(&out, "output", "o", "-", `file to write, "-" for standard output`)
	return c
}

// restore brings back a backup or the archive of a house, which may be of any size.
func restore(ctx context.Context, k *stations.Stations, a keep.Actor, path string, replace bool) (done whole.Restored, all bool,
	err error) {
	f, err := os.Open(path)
	if err != nil {
		return done, false, err
	}
	defer f.Close()
	var head [2]byte
	if _, err := io.ReadFull(f, head[:]); err == nil && string(head[:]) == "PK" {
		info, err := f.Stat()
		if err != nil {
			return done, true, err
		}
		done, err = k.Whole.Restore(ctx, a, f, info.Size(), replace)
		return done, true, err
	}
	data, err := readFile(path, limits.LibraryBytes)
	if err != nil {
		return done, false, err
	}
	done.Restored, err = k.Backup.Restore(ctx, a, data, replace)
	return done, false, err
}

func importCommand() *cobra.Command {
	var name string
	var replace bool
	c := &cobra.Command{
		Use:   "import FILE",
		Short: "Restore a backup into a house, wholly or not at all",
		Long: "Restores a Hue Keep library file, or the archive of a house (export --all), into a house that exists (see account). Colors that are there with name and value are left\n" +
			"out; --replace takes away what the house had. A file that was cut or changed is refused.",
		Example: "  huekeep import ferries.json --house 'Odelwick Ferries' --replace",
		Args:    cobra.ExactArgs(1),
		RunE: func(cmd *cobra.Command, args []string) error {
			return inHouse(cmd.Context(), name, true, func(k *stations.Stations, a keep.Actor) error {
				done, all, err := restore(cmd.Context(), k, a, args[0], replace)
				if err != nil {
					return fmt.Errorf("%s: %w", args[0], err)
				}
				fmt.Fprintf(cmd.OutOrStdout(), "%d colors came in, %d were there already\n", done.Added, done.Present)
				if all {
					fmt.Fprintf(cmd.OutOrStdout(),
						"%d projects with %d runs, %d excuses and %d plans came in; projects without runs are judged as soon as the program serves\n", done.Projects, done.Runs, done.Excuses, done.Plans)
				}
				for _, n := range done.There {
					fmt.Fprintf(cmd.OutOrStdout(), "%s was there already\n", n)
				}
				for _, r := range done.Renamed {
					fmt.Fprintln(cmd.OutOrStdout(), r)
				}
				return nil
			})
		},
	}
	c.Flags().StringVar(&name, "house", "", "the house to restore into")
	c.Flags().BoolVar(&replace, "replace", false, "take away what the house had")
	return c
}
