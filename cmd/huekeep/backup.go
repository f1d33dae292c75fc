package main

import (
	"context"
	"errors"
	"fmt"
	"os"

	"github.com/spf13/cobra"

	"huekeep/core/limits"
	"huekeep/core/swatchfile"
	"huekeep/keep"
	"huekeep/keep/house"
)

// inHouse runs f for a house as its keeper would; whoever may read the database's settings may do so. It stands on the house's trail.
func inHouse(ctx context.Context, name string, changes bool, f func(*house.Rules, keep.Actor) error) (err error) {
	if name == "" {
		return errors.New("--house is missing: name the house")
	}
	s, err := openStore(ctx, "huekeep", false)
	if err != nil {
		return err
	}
	defer func() { err = errors.Join(err, s.close()) }()
	a, err := s.House.Operator(ctx, name)
	if err != nil {
		return err
	}
	what := "exportLibrary"
	if changes {
		what = "restoreLibrary"
	}
	step, err := s.House.Begin(ctx, a, what, house.Thing{})
	if err != nil {
		return err
	}
	err = f(s.House, a)
	outcome := 200
	if err != nil {
		outcome = 422
	}
	s.House.End(ctx, a, step, outcome, nil, "")
	return err
}

func exportCommand() *cobra.Command {
	var name, out string
	c := &cobra.Command{
		Use:     "export",
		Short:   "Write a house as one Hue Keep library file, its backup",
		Example: "  huekeep export --house 'Odelwick Ferries' -o ferries.json",
		Args:    cobra.NoArgs,
		RunE: func(cmd *cobra.Command, _ []string) error {
			return inHouse(cmd.Context(), name, false, func(k *house.Rules, a keep.Actor) error {
				lib, err := k.Export(cmd.Context(), a)
				if err != nil {
					return err
				}
				data, err := swatchfile.WriteLibrary(lib)
				if err != nil {
					return err
				}
				if out == "-" || out == "" {
					_, err = cmd.OutOrStdout().Write(data)
					return err
				}
				return os.WriteFile(out, data, 0o600)
			})
		},
	}
	c.Flags().StringVar(&name, "house", "", "the house to write")
	c.Flags().StringVarP(&out, "output", "o", "-", `file to write, "-" for standard output`)
	return c
}

func importCommand() *cobra.Command {
	var name string
	var replace bool
	c := &cobra.Command{
		Use:   "import FILE",
		Short: "Restore a backup into a house, wholly or not at all",
		Long: "Restores a Hue Keep library file into a house that exists (see account). Colors that are there with name and value are left\n" +
			"out; --replace takes away what the house had. A file that was cut or changed is refused.",
		Example: "  huekeep import ferries.json --house 'Odelwick Ferries' --replace",
		Args:    cobra.ExactArgs(1),
		RunE: func(cmd *cobra.Command, args []string) error {
			data, err := readFile(args[0], limits.LibraryBytes)
			if err != nil {
				return err
			}
			return inHouse(cmd.Context(), name, true, func(k *house.Rules, a keep.Actor) error {
				done, err := k.Restore(cmd.Context(), a, data, replace)
				if err != nil {
					return fmt.Errorf("%s: %w", args[0], err)
				}
				fmt.Fprintf(cmd.OutOrStdout(), "%d colors came in, %d were there already\n", done.Added, done.Present)
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
