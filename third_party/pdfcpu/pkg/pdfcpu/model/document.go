/*
Copyright 2023 The pdfcpu Authors.

Licensed under the Apache License, Version 2.0 (the "License");
you may not use this file except in compliance with the License.
You may obtain a copy of the License at

	http://www.apache.org/licenses/LICENSE-2.0

Unless required by applicable law or agreed to in writing, software
distributed under the License is distributed on an "AS IS" BASIS,
WITHOUT WARRANTIES OR CONDITIONS OF ANY KIND, either express or implied.
See the License for the specific language governing permissions and
limitations under the License.
*/

package model

import (
	"encoding/json"
	"errors"
	"fmt"
	"strings"

	"github.com/pdfcpu/pdfcpu/pkg/pdfcpu/types"
)

type PageMode int

const (
	PageModeUseNone PageMode = iota
	PageModeUseOutlines
	PageModeUseThumbs
	PageModeFullScreen
	PageModeUseOC
	PageModeUseAttachments
)

// PageModeFor returns a page mode for s.
func PageModeFor(s string) *PageMode {
	if s == "" {
		return nil
	}
	var pm PageMode
	switch strings.ToLower(s) {
	case "usenone":
		pm = PageModeUseNone
	case "useoutlines":
		pm = PageModeUseOutlines
	case "usethumbs":
		pm = PageModeUseThumbs
	case "fullscreen":
		pm = PageModeFullScreen
	case "useoc":
		pm = PageModeUseOC
	case "useattachments":
		pm = PageModeUseAttachments
	default:
		return nil
	}
	return &pm
}

// String returns the string value of pm.
func (pm *PageMode) String() string {
	if pm == nil {
		return ""
	}
	switch *pm {
	case PageModeUseNone:
		return "UseNone" // = default
	case PageModeUseOutlines:
		return "UseOutlines"
	case PageModeUseThumbs:
		return "UseThumbs"
	case PageModeFullScreen:
		return "FullScreen"
	case PageModeUseOC:
		return "UseOC"
	case PageModeUseAttachments:
		return "UseAttachments"
	default:
		return "?"
	}
}

type PageLayout int

const (
	PageLayoutSinglePage PageLayout = iota
	PageLayoutTwoColumnLeft
	PageLayoutTwoColumnRight
	PageLayoutTwoPageLeft
	PageLayoutTwoPageRight
	PageLayoutOneColumn
)

// String returns the string value of pl.
func (pl *PageLayout) String() string {
	if pl == nil {
		return ""
	}
	switch *pl {
	case PageLayoutSinglePage:
		return "SinglePage" // = default
	case PageLayoutOneColumn:
		return "OneColumn"
	case PageLayoutTwoColumnLeft:
		return "TwoColumnLeft"
	case PageLayoutTwoColumnRight:
		return "TwoColumnRight"
	case PageLayoutTwoPageLeft:
		return "TwoPageLeft"
	case PageLayoutTwoPageRight:
		return "TwoPageRight"
	default:
		return "?"
	}
}

type NonFullScreenPageMode PageMode

type PageBoundary int

const (
	MediaBox PageBoundary = iota
	CropBox
	TrimBox
	BleedBox
	ArtBox
)

// PageBoundaryFor returns a page boundary for s.
func PageBoundaryFor(s string) *PageBoundary {
	if s == "" {
		return nil
	}
	var pb PageBoundary
	switch strings.ToLower(s) {
	case "mediabox":
		pb = MediaBox
	case "cropbox":
		pb = CropBox
	case "trimbox":
		pb = TrimBox
	case "bleedbox":
		pb = BleedBox
	case "artbox":
		pb = ArtBox
	default:
		return nil
	}
	return &pb
}

// String returns the string value of pb.
func (pb *PageBoundary) String() string {
	if pb == nil {
		return ""
	}
	switch *pb {
	case MediaBox:
		return "MediaBox"
	case CropBox:
		return "CropBox"
	case TrimBox:
		return "TrimBox"
	case BleedBox:
		return "BleedBox"
	case ArtBox:
		return "ArtBox"
	default:
		return "?"
	}
}

type PrintScaling int

const (
	PrintScalingNone PrintScaling = iota
	PrintScalingAppDefault
)

// PrintScalingFor returns print scaling for s.
func PrintScalingFor(s string) *PrintScaling {
	if s == "" {
		return nil
	}
	var ps PrintScaling
	switch strings.ToLower(s) {
	case "none":
		ps = PrintScalingNone
	case "appdefault":
		ps = PrintScalingAppDefault
	default:
		return nil
	}
	return &ps
}

// String returns the string value of ps.
func (ps *PrintScaling) String() string {
	if ps == nil {
		return ""
	}
	switch *ps {
	case PrintScalingNone:
		return "None"
	case PrintScalingAppDefault:
		return "AppDefault"
	default:
		return "?"
	}
}

type Direction int

const (
	L2R Direction = iota
	R2L
)

// DirectionFor returns the direction for s.
func DirectionFor(s string) *Direction {
	if s == "" {
		return nil
	}
	var d Direction
	switch strings.ToLower(s) {
	case "l2r":
		d = L2R
	case "r2l":
		d = R2L
	default:
		return nil
	}
	return &d
}

// String returns the string value of d.
func (d *Direction) String() string {
	if d == nil {
		return ""
	}
	switch *d {
	case L2R:
		return "L2R"
	case R2L:
		return "R2L"
	default:
		return "?"
	}
}

type PaperHandling int

const (
	Simplex PaperHandling = iota
	DuplexFlipShortEdge
	DuplexFlipLongEdge
)

// PaperHandlingFor returns paper handling for s.
func PaperHandlingFor(s string) *PaperHandling {
	if s == "" {
		return nil
	}
	var ph PaperHandling
	switch strings.ToLower(s) {
	case "simplex":
		ph = Simplex
	case "duplexflipshortedge":
		ph = DuplexFlipShortEdge
	case "duplexfliplongedge":
		ph = DuplexFlipLongEdge
	default:
		return nil
	}
	return &ph
}

// String returns the string value of ph.
func (ph *PaperHandling) String() string {
	if ph == nil {
		return ""
	}
	switch *ph {
	case Simplex:
		return "Simplex"
	case DuplexFlipShortEdge:
		return "DuplexFlipShortEdge"
	case DuplexFlipLongEdge:
		return "DuplexFlipLongEdge"
	default:
		return "?"
	}
}

// ViewerPreferences see 12.2 Table 147
type ViewerPreferences struct {
	HideToolbar           *bool
	HideMenubar           *bool
	HideWindowUI          *bool
	FitWindow             *bool
	CenterWindow          *bool
	DisplayDocTitle       *bool // since 1.4
	NonFullScreenPageMode *NonFullScreenPageMode
	Direction             *Direction     // since 1.3
	ViewArea              *PageBoundary  // since 1.4 to 1.7
	ViewClip              *PageBoundary  // since 1.4 to 1.7
	PrintArea             *PageBoundary  // since 1.4 to 1.7
	PrintClip             *PageBoundary  // since 1.4 to 1.7
	PrintScaling          *PrintScaling  // since 1.6
	Duplex                *PaperHandling // since 1.7
	PickTrayByPDFSize     *bool          // since 1.7
	PrintPageRange        types.Array    // since 1.7
	NumCopies             *types.Integer // since 1.7
	Enforce               types.Array    // since 2.0
}

type ViewerPrefJSON struct {
	HideToolbar           *bool    `json:"hideToolbar,omitempty"`
	HideMenubar           *bool    `json:"hideMenubar,omitempty"`
	HideWindowUI          *bool    `json:"hideWindowUI,omitempty"`
	FitWindow             *bool    `json:"fitWindow,omitempty"`
	CenterWindow          *bool    `json:"centerWindow,omitempty"`
	DisplayDocTitle       *bool    `json:"displayDocTitle,omitempty"`
	NonFullScreenPageMode string   `json:"nonFullScreenPageMode,omitempty"`
	Direction             string   `json:"direction,omitempty"`
	ViewArea              string   `json:"viewArea,omitempty"`
	ViewClip              string   `json:"viewClip,omitempty"`
	PrintArea             string   `json:"printArea,omitempty"`
	PrintClip             string   `json:"printClip,omitempty"`
	PrintScaling          string   `json:"printScaling,omitempty"`
	Duplex                string   `json:"duplex,omitempty"`
	PickTrayByPDFSize     *bool    `json:"pickTrayByPDFSize,omitempty"`
	PrintPageRange        []int    `json:"printPageRange,omitempty"`
	NumCopies             *int     `json:"numCopies,omitempty"`
	Enforce               []string `json:"enforce,omitempty"`
}

// MarshalJSON marshals JSON data.
func (vp *ViewerPreferences) MarshalJSON() ([]byte, error) {
	vpJSON := ViewerPrefJSON{
		HideToolbar:           vp.HideToolbar,
		HideMenubar:           vp.HideMenubar,
		HideWindowUI:          vp.HideWindowUI,
		FitWindow:             vp.FitWindow,
		CenterWindow:          vp.CenterWindow,
		DisplayDocTitle:       vp.DisplayDocTitle,
		NonFullScreenPageMode: (*PageMode)(vp.NonFullScreenPageMode).String(),
		Direction:             vp.Direction.String(),
		ViewArea:              vp.ViewArea.String(),
		ViewClip:              vp.ViewClip.String(),
		PrintArea:             vp.PrintArea.String(),
		PrintClip:             vp.PrintClip.String(),
		PrintScaling:          vp.PrintScaling.String(),
		Duplex:                vp.Duplex.String(),
		PickTrayByPDFSize:     vp.PickTrayByPDFSize,
		NumCopies:             (*int)(vp.NumCopies),
	}

	if len(vp.PrintPageRange) > 0 {
		var ii []int
		for _, v := range vp.PrintPageRange {
			ii = append(ii, v.(types.Integer).Value())
		}
		vpJSON.PrintPageRange = ii
	}

	if len(vp.Enforce) > 0 {
		var ss []string
		for _, v := range vp.Enforce {
			ss = append(ss, v.(types.Name).Value())
		}
		vpJSON.Enforce = ss
	}

	return json.Marshal(&vpJSON)
}

func (vp *ViewerPreferences) unmarshalPrintPageRange(vpJSON ViewerPrefJSON) error {
	if len(vpJSON.PrintPageRange) > 0 {
		arr := vpJSON.PrintPageRange
		if len(arr)%2 > 0 {
			return errors.New("invalid \"PrintPageRange\" - expecting pairs of ascending page numbers")
		}
		for i := 0; i < len(arr); i += 2 {
			if arr[i] >= arr[i+1] {
				// TODO validate ascending, non overlapping int intervals.
				return errors.New("invalid \"PrintPageRange\" - expecting pairs of ascending page numbers")
			}
		}
		vp.PrintPageRange = types.NewIntegerArray(arr...)
	}

	return nil
}

func (vp *ViewerPreferences) unmarshalPrinterPreferences(vpJSON ViewerPrefJSON) error {
	vp.PrintArea = PageBoundaryFor(vpJSON.PrintArea)
	if vpJSON.PrintArea != "" && vp.PrintArea == nil {
		return fmt.Errorf("unknown \"PrintArea\", got: %s want one of: MediaBox, CropBox, TrimBox, BleedBox, ArtBox", vpJSON.PrintArea)
	}

	vp.PrintClip = PageBoundaryFor(vpJSON.PrintClip)
	if vpJSON.PrintClip != "" && vp.PrintClip == nil {
		return fmt.Errorf("unknown \"PrintClip\", got: %s want one of: MediaBox, CropBox, TrimBox, BleedBox, ArtBox", vpJSON.PrintClip)
	}

	vp.PrintScaling = PrintScalingFor(vpJSON.PrintScaling)
	if vpJSON.PrintScaling != "" && vp.PrintScaling == nil {
		return fmt.Errorf("unknown \"PrintScaling\", got: %s, want one of: None, AppDefault", vpJSON.PrintScaling)
	}

	vp.Duplex = PaperHandlingFor(vpJSON.Duplex)
	if vpJSON.Duplex != "" && vp.Duplex == nil {
		return fmt.Errorf("unknown \"Duplex\", got: %s, want one of: Simplex, DuplexFlipShortEdge, DuplexFlipLongEdge", vpJSON.Duplex)
	}

	if err := vp.unmarshalPrintPageRange(vpJSON); err != nil {
		return err
	}

	if len(vpJSON.Enforce) > 1 {
		return errors.New("\"Enforce\" must be array with one element: \"PrintScaling\"")
	}

	if len(vpJSON.Enforce) > 0 {
		if vpJSON.Enforce[0] != "PrintScaling" {
			return errors.New("\"Enforce\" must be array with one element: \"PrintScaling\"")
		}
		vp.Enforce = types.NewNameArray("PrintScaling")
	}

	return nil
}

// UnmarshalJSON unmarshals JSON data.
func (vp *ViewerPreferences) UnmarshalJSON(data []byte) error {
	vpJSON := ViewerPrefJSON{}

	if err := json.Unmarshal(data, &vpJSON); err != nil {
		return err
	}

	*vp = ViewerPreferences{
		HideToolbar:       vpJSON.HideToolbar,
		HideMenubar:       vpJSON.HideMenubar,
		HideWindowUI:      vpJSON.HideWindowUI,
		FitWindow:         vpJSON.FitWindow,
		CenterWindow:      vpJSON.CenterWindow,
		DisplayDocTitle:   vpJSON.DisplayDocTitle,
		PickTrayByPDFSize: vpJSON.PickTrayByPDFSize,
		NumCopies:         (*types.Integer)(vpJSON.NumCopies),
	}

	if vp.NumCopies != nil && *vp.NumCopies < 1 {
		return fmt.Errorf("invalid \"NumCopies\", got: %d, want a numerical value > 0", *vp.NumCopies)
	}

	vp.NonFullScreenPageMode = (*NonFullScreenPageMode)(PageModeFor(vpJSON.NonFullScreenPageMode))
	if vpJSON.NonFullScreenPageMode != "" {
		if vp.NonFullScreenPageMode == nil {
			return fmt.Errorf("unknown \"NonFullScreenPageMode\", got: %s want one of: UseNone, UseOutlines, UseThumbs, UseOC", vpJSON.NonFullScreenPageMode)
		}
		pm := (PageMode)(*vp.NonFullScreenPageMode)
		if pm == PageModeFullScreen || pm == PageModeUseAttachments {
			return fmt.Errorf("unknown \"NonFullScreenPageMode\", got: %s want one of: UseNone, UseOutlines, UseThumbs, UseOC", vpJSON.NonFullScreenPageMode)
		}
	}

	vp.Direction = DirectionFor(vpJSON.Direction)
	if vpJSON.Direction != "" && vp.Direction == nil {
		return fmt.Errorf("unknown \"Direction\", got: %s want one of: L2R, R2L", vpJSON.Direction)
	}

	vp.ViewArea = PageBoundaryFor(vpJSON.ViewArea)
	if vpJSON.ViewArea != "" && vp.ViewArea == nil {
		return fmt.Errorf("unknown \"ViewArea\", got: %s want one of: MediaBox, CropBox, TrimBox, BleedBox, ArtBox", vpJSON.ViewArea)
	}

	vp.ViewClip = PageBoundaryFor(vpJSON.ViewClip)
	if vpJSON.ViewClip != "" && vp.ViewClip == nil {
		return fmt.Errorf("unknown \"ViewClip\", got: %s want one of: MediaBox, CropBox, TrimBox, BleedBox, ArtBox", vpJSON.ViewClip)
	}

	return vp.unmarshalPrinterPreferences(vpJSON)
}

func renderViewerFlags(vp ViewerPreferences, ss *[]string) {
	if vp.HideToolbar != nil {
		*ss = append(*ss, fmt.Sprintf("%22s%s = %t", "", "HideToolbar", *vp.HideToolbar))
	}

	if vp.HideMenubar != nil {
		*ss = append(*ss, fmt.Sprintf("%22s%s = %t", "", "HideMenubar", *vp.HideMenubar))
	}

	if vp.HideWindowUI != nil {
		*ss = append(*ss, fmt.Sprintf("%22s%s = %t", "", "HideWindowUI", *vp.HideWindowUI))
	}

	if vp.FitWindow != nil {
		*ss = append(*ss, fmt.Sprintf("%22s%s = %t", "", "FitWindow", *vp.FitWindow))
	}

	if vp.CenterWindow != nil {
		*ss = append(*ss, fmt.Sprintf("%22s%s = %t", "", "CenterWindow", *vp.CenterWindow))
	}

	if vp.DisplayDocTitle != nil {
		*ss = append(*ss, fmt.Sprintf("%22s%s = %t", "", "DisplayDocTitle", *vp.DisplayDocTitle))
	}

	if vp.NonFullScreenPageMode != nil {
		pm := PageMode(*vp.NonFullScreenPageMode)
		*ss = append(*ss, fmt.Sprintf("%22s%s = %s", "", "NonFullScreenPageMode", pm.String()))
	}
}

// String returns the string value of vp.
func (vp ViewerPreferences) String() string {
	var ss []string

	renderViewerFlags(vp, &ss)

	if vp.Direction != nil {
		ss = append(ss, fmt.Sprintf("%22s%s = %s", "", "Direction", vp.Direction))
	}

	if vp.ViewArea != nil {
		ss = append(ss, fmt.Sprintf("%22s%s = %s", "", "ViewArea", vp.ViewArea))
	}

	if vp.ViewClip != nil {
		ss = append(ss, fmt.Sprintf("%22s%s = %s", "", "ViewClip", vp.ViewClip))
	}

	if vp.PrintArea != nil {
		ss = append(ss, fmt.Sprintf("%22s%s = %s", "", "PrintArea", vp.PrintArea))
	}

	if vp.PrintClip != nil {
		ss = append(ss, fmt.Sprintf("%22s%s = %s", "", "PrintClip", vp.PrintClip))
	}

	if vp.PrintScaling != nil {
		ss = append(ss, fmt.Sprintf("%22s%s = %s", "", "PrintScaling", vp.PrintScaling))
	}

	if vp.Duplex != nil {
		ss = append(ss, fmt.Sprintf("%22s%s = %s", "", "Duplex", vp.Duplex))
	}

	if vp.PickTrayByPDFSize != nil {
		ss = append(ss, fmt.Sprintf("%22s%s = %t", "", "PickTrayByPDFSize", *vp.PickTrayByPDFSize))
	}

	if len(vp.PrintPageRange) > 0 {
		var ss1 []string
		for i := 0; i < len(vp.PrintPageRange); i += 2 {
			ss1 = append(ss1, fmt.Sprintf("%d-%d", vp.PrintPageRange[i].(types.Integer), vp.PrintPageRange[i+1].(types.Integer)))
		}
		ss = append(ss, fmt.Sprintf("%22s%s = %s", "", "PrintPageRange", strings.Join(ss1, ",")))
	}

	if vp.NumCopies != nil {
		ss = append(ss, fmt.Sprintf("%22s%s = %d", "", "NumCopies", *vp.NumCopies))
	}

	if len(vp.Enforce) > 0 {
		var ss1 []string
		for _, v := range vp.Enforce {
			ss1 = append(ss1, v.String())
		}
		ss = append(ss, fmt.Sprintf("%22s%s = %s", "", "Enforce", strings.Join(ss1, ",")))
	}

	return strings.TrimSpace(strings.Join(ss, "\n"))
}
