package main

import (
	"fmt"
	"os"
	"path/filepath"
	"strings"

	"github.com/spf13/cobra"

	"huekeep/core/limits"
	"huekeep/core/picture"
	"huekeep/core/proof"
)

// proofing is what the command proof is asked for.
type proofing struct {
	rendering
	paper, own, asJSON bool
	out                string
	limit              float64
}

// proofAnswer is what it says.
type proofAnswer struct {
	Width      int     `json:"width"`
	Height     int     `json:"height"`
	Note       string  `json:"note,omitempty"` // of how the picture was read
	Press      string  `json:"press"`
	Intent     string  `json:"intent"`
	BlackPoint bool    `json:"bpc"`
	Paper      bool    `json:"paper"`
	OutOfGamut float64 `json:"outOfGamut"` // share of the area, 0 to 1
	InkLimit   float64 `json:"inkLimit"`   // percent
	OverLimit  float64 `json:"overLimit"`  // share of the area, 0 to 1
	Heaviest   struct {
		X   int     `json:"x"`
		Y   int     `json:"y"`
		Ink float64 `json:"ink"` // total, percent
	} `json:"heaviest"`
}

// run shows how a picture prints.
func (o *proofing) run(cmd *cobra.Command, args []string) error {
	kind := strings.ToLower(filepath.Ext(o.out))
	if kind == ".tiff" {
		kind = ".tif"
	}
	if kind != ".png" && kind != ".tif" {
		return fmt.Errorf("the answer %q is neither a .png (what the print looks like) nor a .tif (its inks)", o.out)
	}
	press, err := o.condition()
	if err != nil {
		return err
	}
	if !cmd.Flags().Changed("limit") {
		o.limit = press.InkLimit
	}
	if !(o.limit > 0 && o.limit <= 400) {
		return fmt.Errorf("the ink limit is %g; it lies between 0 and 400 percent", o.limit)
	}
	data, err := readFile(args[0], limits.UploadBytes)
	if err != nil {
		return err
	}
	p, err := picture.DecodeOwn(data)
	if err != nil {
		return fmt.Errorf("%s: %w", args[0], err)
	}
	seen, lab := p.Seen()
	soft := proof.Of(press, o.paper, lab)
	inks := soft.Inks(seen)
	if o.own {
		if inks = p.Inks; inks == nil {
			return fmt.Errorf("%s has no inks of its own; it is no CMYK picture", args[0])
		}
	}
	report := soft.Measure(seen, inks, o.limit)
	var file []byte
	if kind == ".png" {
		file, err = proof.WritePNG(soft.Screen(inks))
	} else {
		file, err = proof.WriteTIFF(inks, press.Profile())
	}
	if err != nil {
		return fmt.Errorf("%s: %w", args[0], err)
	}
	if err := os.WriteFile(o.out, file, 0o644); err != nil {
		return err
	}
	answer := proofAnswer{Width: p.Rect.Dx(), Height: p.Rect.Dy(), Note: p.Note, Press: press.Name, Intent: strings.ToLower(o.intent),
		BlackPoint: o.blackPoint, Paper: o.paper,
		OutOfGamut: round(report.OutOfGamut, 6), InkLimit: o.limit, OverLimit: round(report.OverInk, 6)}
	answer.Heaviest.X, answer.Heaviest.Y, answer.Heaviest.Ink = report.X, report.Y, round(report.Heaviest, 1)
	if o.asJSON {
		return writeJSON(cmd.OutOrStdout(), answer)
	}
	if p.Note != "" {
		fmt.Fprintln(cmd.ErrOrStderr(), p.Note)
	}
	fmt.Fprintf(cmd.OutOrStdout(), "%.1f %% of the area is out of the gamut of %s\n", 100*answer.OutOfGamut, press.Label)
	fmt.Fprintf(cmd.OutOrStdout(), "%.1f %% takes over %g %% of ink; most, %.0f %%, at %d, %d\n", 100*answer.OverLimit, o.limit,
		answer.Heaviest.Ink, report.X, report.Y)
	return nil
}

func proofCommand() *cobra.Command {
	var o proofing
	c := &cobra.Command{
		Use:   "proof PICTURE -o OUT",
		Short: "Show how a picture prints, or separate it into inks",
		Long: "Writes what a picture looks like in print (OUT ends in .png, in sRGB) or its inks (.tif, CMYK with the press's profile), and\n" +
			"says which share of it the press cannot print, which share takes more ink than the limit, and where most of it lies.",
		Example: "  huekeep proof photo.jpg --press newsprint --paper -o printed.png\n  huekeep proof photo.jpg --intent perceptual --limit 280 -o inks.tif --json",
		Args:    cobra.ExactArgs(1),
		RunE:    o.run,
	}
	o.flags(c)
	c.Flags().BoolVar(&o.paper, "paper", false, "show the color of the paper, as it looks beside a screen")
	c.Flags().BoolVar(&o.own, "own", false, "take the inks of a CMYK picture as they are, instead of separating it anew")
	c.Flags().Float64Var(&o.limit, "limit", 0, "total ink in percent that is too much (the press's own limit unless given)")
	c.Flags().StringVarP(&o.out, "output", "o", "", "where to write, a .png or a .tif")
	c.Flags().BoolVar(&o.asJSON, "json", false, "answer in JSON")
	_ = c.MarkFlagRequired("output")
	return c
}
