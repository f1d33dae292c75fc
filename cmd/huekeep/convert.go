package main

import (
	"encoding/json"
	"fmt"
	"io"
	"math"
	"text/tabwriter"

	"github.com/spf13/cobra"

	"huekeep/core/color"
	"huekeep/core/ink"
	"huekeep/core/press"
)

type labJSON struct {
	L float64 `json:"l"`
	A float64 `json:"a"`
	B float64 `json:"b"`
}

type convertJSON struct {
	Hex  string    `json:"hex"`
	RGB  [3]int    `json:"rgb"`
	Lab  labJSON   `json:"lab"`
	CMYK cmykJSON  `json:"cmyk"`
	Inks []inkJSON `json:"inks"`
}

type cmykJSON struct {
	Press    string     `json:"press"`
	Exact    [4]float64 `json:"exact"`
	Whole    [4]float64 `json:"whole"`
	DeltaE   float64    `json:"deltaE"`
	InGamut  bool       `json:"inGamut"`
	TotalInk float64    `json:"totalInk"`
}

type inkJSON struct {
	Code   string  `json:"code"`
	Stock  string  `json:"stock"`
	DeltaE float64 `json:"deltaE"`
}

func convertCommand() *cobra.Command {
	var asJSON bool
	c := &cobra.Command{
		Use:     "convert COLOR",
		Short:   "Show a color as hex, RGB, Lab, CMYK build and nearest spot inks",
		Example: "  huekeep convert '#0E3A53'\n  huekeep convert 'oklch(0.33 0.06 240)' --json",
		Args:    cobra.ExactArgs(1),
		RunE: func(cmd *cobra.Command, args []string) error {
			lab, rgb, err := readColor(args[0])
			if err != nil {
				return err
			}
			condition := press.Coated()
			b := condition.Build(lab)
			out := convertJSON{Hex: rgb.Hex(), RGB: [3]int{int(rgb.R), int(rgb.G), int(rgb.B)}, Lab: labOf(lab)}
			out.CMYK = cmykJSON{Press: condition.Name, Whole: b.Whole.Array(), DeltaE: round(b.DeltaE, 4), InGamut: b.InGamut, TotalInk: b.Whole.Total()}
			for i, v := range b.Exact.Array() {
				out.CMYK.Exact[i] = round(v, 2)
			}
			for _, m := range ink.Quern().Nearest(lab, ink.Coated, 5) {
				out.Inks = append(out.Inks, inkJSON{m.Ink.Code, string(m.Stock), round(m.DeltaE, 4)})
			}
			if asJSON {
				return writeJSON(cmd.OutOrStdout(), out)
			}
			w := tabwriter.NewWriter(cmd.OutOrStdout(), 0, 0, 2, ' ', 0)
			fmt.Fprintf(w, "hex\t%s\n", out.Hex)
			fmt.Fprintf(w, "RGB\t%d %d %d\n", out.RGB[0], out.RGB[1], out.RGB[2])
			fmt.Fprintf(w, "Lab\t%.2f %.2f %.2f\n", lab.L, lab.A, lab.B)
			fmt.Fprintf(w, "CMYK %s\t%s\t%.1f %s\n", condition.Name, b.Whole, b.DeltaE, color.Word(b.DeltaE))
			fmt.Fprintf(w, "  exact\t%s\ttotal ink %.0f %%\n", b.Exact, b.Whole.Total())
			if !b.InGamut {
				fmt.Fprintf(w, "  out of gamut\t%s\n", b.Direction)
			}
			for _, k := range out.Inks {
				fmt.Fprintf(w, "ink\t%s %s\t%.1f %s\n", k.Code, k.Stock, k.DeltaE, color.Word(k.DeltaE))
			}
			return w.Flush()
		},
	}
	c.Flags().BoolVar(&asJSON, "json", false, "answer in JSON")
	return c
}

func diffCommand() *cobra.Command {
	var asJSON bool
	c := &cobra.Command{
		Use:     "diff A B",
		Short:   "Show the CIEDE2000 difference of two colors",
		Example: "  huekeep diff '#E2572B' '#E1572C'",
		Args:    cobra.ExactArgs(2),
		RunE: func(cmd *cobra.Command, args []string) error {
			a, _, err := readColor(args[0])
			if err != nil {
				return err
			}
			b, _, err := readColor(args[1])
			if err != nil {
				return err
			}
			de := color.DeltaE00(a, b)
			if asJSON {
				return writeJSON(cmd.OutOrStdout(), struct {
					DeltaE00 float64 `json:"deltaE00"`
					Word     string  `json:"word"`
				}{round(de, 4), color.Word(de)})
			}
			_, err = fmt.Fprintf(cmd.OutOrStdout(), "%.2f %s\n", de, color.Word(de))
			return err
		},
	}
	c.Flags().BoolVar(&asJSON, "json", false, "answer in JSON")
	return c
}

// readColor reads any typed notation; a CMYK build is seen through the coated press.
func readColor(s string) (color.Lab, color.RGB8, error) {
	t, err := color.Parse(s)
	if err != nil {
		return color.Lab{}, color.RGB8{}, err
	}
	if t.CMYK != nil {
		lab := press.Coated().Lab(*t.CMYK)
		return lab, lab.RGB().RGB8(), nil
	}
	return t.RGB.Lab(), t.RGB8(), nil
}

func labOf(l color.Lab) labJSON { return labJSON{round(l.L, 4), round(l.A, 4), round(l.B, 4)} }

func round(v float64, digits int) float64 {
	p := math.Pow10(digits)
	return math.Round(v*p) / p
}

func writeJSON(w io.Writer, v any) error {
	e := json.NewEncoder(w)
	e.SetEscapeHTML(false)
	return e.Encode(v)
}
