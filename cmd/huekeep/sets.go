package main

import (
	"fmt"
	"strings"

	"github.com/spf13/cobra"

	"huekeep/core/color"
	"huekeep/core/contrast"
	"huekeep/core/harmony"
	"huekeep/core/ink"
	"huekeep/core/scale"
)

type foundInk struct {
	Code   string   `json:"code"`
	Name   string   `json:"name"`
	Class  string   `json:"class"`
	Stock  string   `json:"stock"`
	Lab    labJSON  `json:"lab"`
	DeltaE *float64 `json:"deltaE,omitempty"` // from the color asked for
}

func inksCommand() *cobra.Command {
	var asJSON bool
	var stock, class string
	var n int
	c := &cobra.Command{
		Use:     "inks QUERY|COLOR",
		Short:   "Find spot inks by a color, or by part of a number or a name",
		Example: "  huekeep inks '#E2572B' -n 3\n  huekeep inks 013\n  huekeep inks heath --stock uncoated",
		Args:    cobra.ExactArgs(1),
		RunE: func(cmd *cobra.Command, args []string) error {
			if stock != string(ink.Coated) && stock != string(ink.Uncoated) {
				return fmt.Errorf("there is no stock %q; there are coated and uncoated", stock)
			}
			if n < 1 {
				return fmt.Errorf("-n is %d; at least one ink is wanted", n)
			}
			book, err := ink.Quern().OfClass(class)
			if err != nil {
				return err
			}
			out := []foundInk{}
			// What is written like a color is one; three digits alone are part of a number.
			if lab, _, err := readColor(args[0]); err == nil {
				for _, m := range book.Nearest(lab, ink.Stock(stock), n) {
					de := round(m.DeltaE, 4)
					out = append(out, foundInk{m.Ink.Code, m.Ink.Name, m.Ink.Class, stock, labOf(m.Ink.Lab(ink.Stock(stock))), &de})
				}
			} else {
				for _, k := range book.Search(args[0], n) {
					out = append(out, foundInk{k.Code, k.Name, k.Class, stock, labOf(k.Lab(ink.Stock(stock))), nil})
				}
			}
			if asJSON {
				return writeJSON(cmd.OutOrStdout(), out)
			}
			if len(out) == 0 {
				return fmt.Errorf("%q is neither a color nor part of an ink's number or name", args[0])
			}
			for _, k := range out {
				distance := ""
				if k.DeltaE != nil {
					distance = fmt.Sprintf("  %.1f %s", *k.DeltaE, color.Word(*k.DeltaE))
				}
				fmt.Fprintf(cmd.OutOrStdout(), "%s  %-18s %-11s %s%s\n", k.Code, k.Name, k.Class, k.Stock, distance)
			}
			return nil
		},
	}
	c.Flags().BoolVar(&asJSON, "json", false, "answer in JSON")
	c.Flags().StringVar(&stock, "stock", "coated", "coated or uncoated")
	c.Flags().StringVar(&class, "class", "", "solid, pastel, metallic or fluorescent; without it all")
	c.Flags().IntVarP(&n, "number", "n", 5, "how many at most")
	return c
}

func harmonyCommand() *cobra.Command {
	var asJSON, spread bool
	var scheme, wheel string
	var count int
	c := &cobra.Command{
		Use:     "harmony COLOR",
		Short:   "Build a set around a color",
		Example: "  huekeep harmony '#0E3A53' --scheme triadic --wheel painter",
		Args:    cobra.ExactArgs(1),
		RunE: func(cmd *cobra.Command, args []string) error {
			_, rgb, err := readColor(args[0])
			if err != nil {
				return err
			}
			members, err := harmony.Build(rgb, scheme, harmony.Wheel(wheel), count)
			if err != nil {
				return err
			}
			if spread {
				members = harmony.Spread(rgb, harmony.Wheel(wheel), members)
			}
			if note := harmony.Cannot(rgb, scheme); note != "" {
				fmt.Fprintln(cmd.ErrOrStderr(), "huekeep:", note)
			}
			type one struct {
				Hex  string  `json:"hex"`
				Turn float64 `json:"turn"`
			}
			out := []one{}
			for _, m := range members {
				out = append(out, one{m.Color.Hex(), m.Turn})
			}
			if asJSON {
				return writeJSON(cmd.OutOrStdout(), out)
			}
			for _, m := range out {
				fmt.Fprintf(cmd.OutOrStdout(), "%s  %g°\n", m.Hex, m.Turn)
			}
			return nil
		},
	}
	var names []string
	for _, s := range harmony.Schemes {
		names = append(names, s.Name)
	}
	c.Flags().BoolVar(&asJSON, "json", false, "answer in JSON")
	c.Flags().IntVar(&count, "members", 0,
		"how many, 2 to 8; 0 for as many as the scheme has hues, more are lighter and darker ones of these")
	c.Flags().StringVar(&scheme, "scheme", "complementary", strings.Join(names, ", "))
	c.Flags().StringVar(&wheel, "wheel", "perceptual", "perceptual or painter")
	c.Flags().BoolVar(&spread, "spread", false, "give each member the lightness that suits its hue, and not the color's own")
	return c
}

func scaleCommand() *cobra.Command {
	var asJSON bool
	c := &cobra.Command{
		Use:   "scale COLOR",
		Short: "Make the step scale 50, 100 to 900, 950 of a color",
		Args:  cobra.ExactArgs(1),
		RunE: func(cmd *cobra.Command, args []string) error {
			_, rgb, err := readColor(args[0])
			if err != nil {
				return err
			}
			type one struct {
				Step   int    `json:"step"`
				Hex    string `json:"hex"`
				Master bool   `json:"master"`
			}
			out := []one{}
			for _, s := range scale.Steps(rgb) {
				out = append(out, one{s.Name, s.Color.Hex(), s.Master})
			}
			if asJSON {
				return writeJSON(cmd.OutOrStdout(), out)
			}
			for _, s := range out {
				mark := ""
				if s.Master {
					mark = "  master"
				}
				fmt.Fprintf(cmd.OutOrStdout(), "%4d  %s%s\n", s.Step, s.Hex, mark)
			}
			return nil
		},
	}
	c.Flags().BoolVar(&asJSON, "json", false, "answer in JSON")
	return c
}

func contrastCommand() *cobra.Command {
	var asJSON bool
	c := &cobra.Command{
		Use:   "contrast A B",
		Short: "Show the WCAG 2.2 contrast ratio of two colors and what it is enough for",
		Args:  cobra.ExactArgs(2),
		RunE: func(cmd *cobra.Command, args []string) error {
			_, a, err := readColor(args[0])
			if err != nil {
				return err
			}
			_, b, err := readColor(args[1])
			if err != nil {
				return err
			}
			ratio := contrast.Ratio(a, b)
			g := contrast.Grade(ratio)
			if asJSON {
				return writeJSON(cmd.OutOrStdout(), struct {
					Ratio    float64 `json:"ratio"`
					Text     string  `json:"text"`
					Large    string  `json:"large"`
					Graphics bool    `json:"graphics"`
				}{contrast.Cut(ratio, 4), g.Text, g.Large, g.Graphics})
			}
			graphics := "fails"
			if g.Graphics {
				graphics = "passes"
			}
			_, err = fmt.Fprintf(cmd.OutOrStdout(), "%.2f:1  text %s, large text %s, graphics %s\n", contrast.Cut(ratio, 2), g.Text,
				g.Large, graphics)
			return err
		},
	}
	c.Flags().BoolVar(&asJSON, "json", false, "answer in JSON")
	return c
}
