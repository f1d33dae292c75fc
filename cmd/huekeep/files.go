package main

import (
	"bytes"
	"errors"
	"fmt"
	"io"
	"os"
	"strings"

	"github.com/spf13/cobra"

	"huekeep/core/audit"
	"huekeep/core/library"
	"huekeep/core/limits"
	"huekeep/core/swatchfile"
)

func auditCommand() *cobra.Command {
	var library string
	var tolerance float64
	var asJSON, neutrals bool
	c := &cobra.Command{
		Use:   "audit FILE...",
		Short: "Find every color in project files and judge it against a library",
		Long: "Finds every color in project files and judges it against a library: a Hue Keep library or any design tokens file.\n" +
			"Exit status: 0 all on-brand, 1 findings, 2 something could not be read.",
		Example: "  huekeep audit timetable.pptx poster.svg --library ferries.json",
		Args:    cobra.MinimumNArgs(1),
		RunE: func(cmd *cobra.Command, args []string) error {
			if library == "" {
				return errors.New("--library is missing: name the file with the colors to judge by")
			}
			lib, err := readLibrary(library)
			if err != nil {
				return err
			}
			rules := audit.Rules{Tolerance: lib.Tolerance, Neutrals: lib.Neutrals || neutrals, Colors: lib.Colors}
			if cmd.Flags().Changed("tolerance") {
				if !(tolerance > 0 && tolerance <= 100) {
					return fmt.Errorf("the tolerance %g is not between 0 and 100", tolerance)
				}
				rules.Tolerance = tolerance
			}
			out := struct {
				Files []audit.Report `json:"files"`
			}{Files: []audit.Report{}}
			findings, unread := false, false
			for _, name := range args {
				report, err := auditFile(name, rules)
				if err != nil {
					fmt.Fprintln(cmd.ErrOrStderr(), "huekeep:", err)
					unread = true
					continue
				}
				findings = findings || report.Findings() > 0
				out.Files = append(out.Files, report)
			}
			if asJSON {
				if err := writeJSON(cmd.OutOrStdout(), out); err != nil {
					return err
				}
			} else {
				for _, r := range out.Files {
					printReport(cmd.OutOrStdout(), r)
				}
			}
			switch {
			case unread:
				return exitError{code: 2}
			case findings:
				return exitError{code: 1}
			}
			return nil
		},
	}
	c.Flags().StringVar(&library, "library", "", "library or design tokens file (JSON)")
	c.Flags().Float64Var(&tolerance, "tolerance", audit.DefaultTolerance, "ΔE00 within which a color counts as drifted")
	c.Flags().BoolVar(&neutrals, "neutrals", false, "pure grays, black and white are on-brand too")
	c.Flags().BoolVar(&asJSON, "json", false, "answer in JSON")
	return c
}

func auditFile(name string, rules audit.Rules) (audit.Report, error) {
	data, err := readFile(name, limits.UploadBytes)
	if err != nil {
		return audit.Report{}, err
	}
	scan, err := audit.Read(name, data)
	if err != nil {
		return audit.Report{}, err
	}
	return audit.NewJudge(rules).Judge(name, scan), nil
}

func printReport(w io.Writer, r audit.Report) {
	score := "nothing was judged"
	if r.Score != nil {
		score = fmt.Sprintf("%.1f %% on-brand", *r.Score*100)
	}
	fmt.Fprintf(w, "%s: %s, %d uses, %s\n", r.Path, r.About, r.Uses, score)
	for _, c := range r.Colors {
		nearest := ""
		if c.Nearest != nil {
			nearest = fmt.Sprintf("%s %s, %.1f %s", c.Nearest.Name, c.Nearest.Hex, c.Nearest.DeltaE, c.Nearest.Word)
		}
		fmt.Fprintf(w, "  %-9s  %s  %5d  %s\n", c.Verdict, c.Hex, c.Count, nearest)
		if c.Verdict == audit.OnBrand {
			continue
		}
		for i, p := range c.Places {
			if i == 8 {
				fmt.Fprintf(w, "               and %d more places\n", len(c.Places)-i)
				break
			}
			fmt.Fprintf(w, "               %s (%s)\n", p.Where, p.Value)
		}
	}
	for _, n := range r.Notes {
		fmt.Fprintln(w, "  "+n)
	}
}

func packCommand() *cobra.Command {
	var set, as, out string
	var names []string
	for _, p := range swatchfile.Packings() {
		names = append(names, p.Name)
	}
	c := &cobra.Command{
		Use:     "pack LIB.json",
		Short:   "Write a swatch set for one kind of application",
		Example: "  huekeep pack ferries.json --set Core --as deck -o core.pptx",
		Args:    cobra.ExactArgs(1),
		RunE: func(cmd *cobra.Command, args []string) error {
			p, err := swatchfile.FindPacking(as)
			if err != nil {
				return err
			}
			lib, err := readLibrary(args[0])
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
			if out == "" {
				out = p.FileName(e)
			}
			if out == "-" {
				_, err = cmd.OutOrStdout().Write(data)
				return err
			}
			return os.WriteFile(out, data, 0o644)
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

// readFile reads a file of a limited size.
func readFile(name string, limit int64) ([]byte, error) {
	f, err := os.Open(name)
	if err != nil {
		return nil, err
	}
	defer f.Close()
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
