package main

import (
	"fmt"
	"image"
	"strings"

	"github.com/spf13/cobra"

	"huekeep/core/color"
	"huekeep/core/limits"
	"huekeep/core/picture"
	"huekeep/core/vision"
)

func visionCommand() *cobra.Command {
	var asJSON bool
	var kind string
	var severity float64
	c := &cobra.Command{
		Use:     "vision COLOR...",
		Short:   "Show how colors look with impaired color vision, and which of them become hard to tell apart",
		Example: "  huekeep vision '#E2572B' '#4E7D5B' --type deuteranopia --severity 0.6",
		Args:    cobra.MinimumNArgs(1),
		RunE: func(cmd *cobra.Command, args []string) error {
			k, err := vision.Find(kind)
			if err != nil {
				return err
			}
			if !(severity >= 0 && severity <= 1) {
				return fmt.Errorf("the severity is %g; it lies between 0 and 1", severity)
			}
			type one struct {
				Hex  string `json:"hex"`
				Seen string `json:"seen"`
			}
			type pair struct {
				A         string  `json:"a"`
				B         string  `json:"b"`
				DeltaE00  float64 `json:"deltaE00"`
				Simulated float64 `json:"simulated"` // ΔE00 with the deficiency
			}
			out := struct {
				Type       string  `json:"type"`
				Severity   float64 `json:"severity"`
				Colors     []one   `json:"colors"`
				Confusable []pair  `json:"confusable"`
			}{Type: vision.Kinds[k].Name, Severity: severity, Confusable: []pair{}}
			var set []color.RGB8
			for _, a := range args {
				_, rgb, err := readColor(a)
				if err != nil {
					return err
				}
				set = append(set, rgb)
				out.Colors = append(out.Colors, one{rgb.Hex(), vision.Simulate(rgb, k, severity).Hex()})
			}
			for _, p := range vision.Confusable(set, k, severity, vision.Apart) {
				out.Confusable = append(out.Confusable, pair{set[p.A].Hex(), set[p.B].Hex(), round(p.Seen, 4), round(p.Simulated, 4)})
			}
			if asJSON {
				return writeJSON(cmd.OutOrStdout(), out)
			}
			for _, c := range out.Colors {
				fmt.Fprintf(cmd.OutOrStdout(), "%s  looks like %s\n", c.Hex, c.Seen)
			}
			for _, p := range out.Confusable {
				fmt.Fprintf(cmd.OutOrStdout(), "%s and %s become hard to tell apart: %.1f instead of %.1f\n", p.A, p.B, p.Simulated,
					p.DeltaE00)
			}
			return nil
		},
	}
	var names string
	for i, k := range vision.Kinds {
		if i > 0 {
			names += ", "
		}
		names += k.Name
	}
	c.Flags().BoolVar(&asJSON, "json", false, "answer in JSON")
	c.Flags().StringVar(&kind, "type", vision.Kinds[vision.Deutan].Name, names)
	c.Flags().Float64Var(&severity, "severity", 1, "0 (none) to 1")
	return c
}

func extractCommand() *cobra.Command {
	var asJSON, asChart bool
	var n int
	c := &cobra.Command{
		Use:   "extract PICTURE",
		Short: "Find the colors of a picture, or the patches of a picture of a palette",
		Long: "Finds the colors of a picture (PNG, JPEG, WebP, GIF, TIFF, BMP), each with its share of the area. A picture that shows a\n" +
			"palette gives its patches in reading order, unless -n asks for the colors of the area; --chart insists on patches.",
		Example: "  huekeep extract logo.png -n 4\n  huekeep extract palette.jpg --chart --json",
		Args:    cobra.ExactArgs(1),
		RunE: func(cmd *cobra.Command, args []string) error {
			data, err := readFile(args[0], limits.UploadBytes)
			if err != nil {
				return err
			}
			p, err := picture.DecodeOwn(data)
			if err != nil {
				return fmt.Errorf("%s: %w", args[0], err)
			}
			type one struct {
				Hex   string  `json:"hex"`
				Wide  string  `json:"wide,omitempty"` // the color itself, as CSS writes it, where sRGB does not hold it
				Share float64 `json:"share"`          // of the opaque area, 0 to 1
				X     int     `json:"x"`
				Y     int     `json:"y"`
			}
			out := struct {
				Width   int    `json:"width"`
				Height  int    `json:"height"`
				Profile string `json:"profile,omitempty"`
				Note    string `json:"note,omitempty"`
				Chart   bool   `json:"chart"`
				Colors  []one  `json:"colors"`
			}{Width: p.Rect.Dx(), Height: p.Rect.Dy(), Profile: p.Profile, Note: p.Note, Colors: []one{}}
			add := func(c color.RGB8, at image.Point, window int, share float64) {
				found := one{Hex: c.Hex(), Share: round(share, 4), X: at.X, Y: at.Y}
				if t, ok := p.Beyond(at.X, at.Y, window); ok {
					found.Hex, found.Wide = t.RGB8().Hex(), t.Exactly()
				}
				out.Colors = append(out.Colors, found)
			}
			if asChart || !cmd.Flags().Changed("number") {
				for _, patch := range picture.Chart(p.NRGBA) {
					b := patch.Box
					add(patch.Color, b.Min.Add(b.Max).Div(2), picture.PatchWindow, float64(b.Dx()*b.Dy())/float64(out.Width*out.Height))
				}
			}
			switch out.Chart = len(out.Colors) > 0; {
			case out.Chart:
			case asChart:
				return fmt.Errorf("%s does not show a palette of flat patches in rows or columns", args[0])
			default:
				areas, err := picture.Colors(p.NRGBA, n)
				if err != nil {
					return fmt.Errorf("%s: %w", args[0], err)
				}
				for _, a := range areas {
					add(a.Color, a.At, 1, a.Share)
				}
			}
			if asJSON {
				return writeJSON(cmd.OutOrStdout(), out)
			}
			if p.Note != "" {
				fmt.Fprintln(cmd.ErrOrStderr(), p.Note)
			}
			for _, c := range out.Colors {
				fmt.Fprintln(cmd.OutOrStdout(), strings.TrimRight(fmt.Sprintf("%s  %5.1f %%  at %d, %d  %s", c.Hex, c.Share*100, c.X, c.Y, c.Wide), " "))
			}
			return nil
		},
	}
	c.Flags().BoolVar(&asJSON, "json", false, "answer in JSON")
	c.Flags().BoolVar(&asChart, "chart", false, "the picture is a palette: answer with its patches")
	c.Flags().IntVarP(&n, "number", "n", 6, "how many colors at most, 1 to 64")
	return c
}
