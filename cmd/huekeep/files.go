package main

import (
	"bytes"
	"fmt"
	"io"
	"os"
	"path/filepath"
	"strings"

	"github.com/spf13/cobra"

	"huekeep/core/library"
	"huekeep/core/limits"
	"huekeep/core/swatchfile"
)

func packCommand() *cobra.Command {
	var set, as, out string
	var names []string
	for _, p := range swatchfile.Packings() {
		names = append(names, p.Name)
	}
	c := &cobra.Command{
		Use:   "pack LIB.json|ADDRESS",
		Short: "Write a swatch set for one kind of application",
		Long: "Writes a swatch set of a library, which is a file, an address (see audit) or - for standard input. Without -o the file gets the packing's name\n" +
			"and nothing that is there is written over.",
		Example: "  huekeep pack ferries.json --set Core --as deck -o core.pptx",
		Args:    cobra.ExactArgs(1),
		RunE: func(cmd *cobra.Command, args []string) error {
			p, err := swatchfile.FindPacking(as)
			if err != nil {
				return err
			}
			if given, is := filepath.Ext(out), filepath.Ext(p.FileName(library.Edition{})); out != "-" && given != "" &&
				!strings.EqualFold(given, is) {
				return fmt.Errorf("--as %s writes %s, and %s is called otherwise", as, is, out)
			}
			lib, err := openLibrary(cmd.Context(), args[0])
			if err != nil {
				return err
			}
			e, err := chooseSet(lib, set)
			if err != nil {
				return fmt.Errorf("%s: %w", args[0], err)
			}
			if len(e.Colors) == 0 {
				return fmt.Errorf("%s: the set %s holds no colors", args[0], e.Set)
			}
			for _, lost := range p.Loses(e) {
				fmt.Fprintln(cmd.ErrOrStderr(), lost)
			}
			data, err := p.Pack(e)
			if err != nil {
				return err
			}
			if out == "-" {
				_, err = cmd.OutOrStdout().Write(data)
				return err
			}
			if out == "" {
				out = p.FileName(e)
				if _, err := os.Stat(out); err == nil {
					return fmt.Errorf("%s is there already; -o %s writes over it", out, out)
				}
				fmt.Fprintf(cmd.ErrOrStderr(), "huekeep: %s is written\n", out)
			}
			return publicFile(out, func(w io.Writer) error { _, err := w.Write(data); return err })
		},
	}
	c.Flags().StringVar(&set, "set", "", "swatch set or group to write; without it all current colors")
	c.Flags().StringVar(&as, "as", "deck", "packing: "+strings.Join(names, " or "))
	c.Flags().StringVarP(&out, "output", "o", "", `file to write, "-" for standard output`)
	return c
}

// chooseSet takes a swatch set by name, a group where no set has the name, or all current colors.
func chooseSet(lib swatchfile.Library, name string) (library.Edition, error) {
	if e, ok := lib.SetEdition(name); ok {
		return e, nil
	}
	e := library.Edition{House: lib.House, Set: name}
	var known []string
	for _, s := range lib.Sets {
		known = append(known, s.Name)
	}
	for _, c := range lib.Colors {
		if !c.Retired() && (name == "" || c.Group == name) {
			e.Colors = append(e.Colors, c)
		}
	}
	switch {
	case len(e.Colors) == 0 && name == "":
		return e, fmt.Errorf("it holds no colors that are current")
	case len(e.Colors) == 0:
		return e, fmt.Errorf("there is no swatch set %q; there are: %s", name, strings.Join(known, ", "))
	}
	if e.House == "" {
		e.House = "Colors"
	}
	if e.Set == "" {
		e.Set = "All colors"
	}
	return e, nil
}

func readLibrary(name string) (swatchfile.Library, error) {
	data, err := readFile(name, limits.LibraryBytes)
	if err != nil {
		return swatchfile.Library{}, err
	}
	lib, err := swatchfile.ReadTokens(data)
	if err != nil {
		return lib, fmt.Errorf("%s: %w", name, err)
	}
	return lib, nil
}

// readFile reads a file of a limited size, or standard input for "-".
func readFile(name string, limit int64) ([]byte, error) {
	f := os.Stdin
	if name != "-" {
		var err error
		if f, err = os.Open(name); err != nil {
			return nil, err
		}
		defer f.Close()
	}
	var data bytes.Buffer
	if info, err := f.Stat(); err == nil && info.Mode().IsRegular() {
		data.Grow(int(min(info.Size(), limit)) + bytes.MinRead) // no growing, no copies
	}
	if _, err := data.ReadFrom(io.LimitReader(f, limit+1)); err != nil {
		return nil, err
	}
	if int64(data.Len()) > limit {
		return nil, fmt.Errorf("%s has over %s, the most that is read", name, limits.Size(limit))
	}
	return data.Bytes(), nil
}
