package canvas

import (
	"fmt"
	"image/color"

	"math"

	"github.com/tdewolff/canvas/text"
	"github.com/tdewolff/font"
)

// FontStyle defines the font style to be used for the font. It specifies a boldness with optionally italic, e.g. FontBlack | FontItalic will specify a black boldness (a font-weight of 800 in CSS) and italic.
type FontStyle int

// see FontStyle
const (
	FontRegular    FontStyle = iota // 400
	FontThin                        // 100
	FontExtraLight                  // 200
	FontLight                       // 300
	FontMedium                      // 500
	FontSemiBold                    // 600
	FontBold                        // 700
	FontExtraBold                   // 800
	FontBlack                       // 900
	FontItalic     FontStyle = 1 << 8
)

// Italic returns true if italic.
func (style FontStyle) Italic() bool {
	return style&FontItalic != 0
}

// Weight returns the font weight (FontRegular, FontBold, ...)
func (style FontStyle) Weight() FontStyle {
	return style & 0xFF
}

// FauxWeight returns the path offset for fake boldness relative to regular style. The offset is multiplied by the font size (in millimeters) for an offset in millimeters.
func (style FontStyle) FauxWeight() float64 {
	switch style.Weight() {
	case FontThin:
		return -0.02
	case FontExtraLight:
		return -0.01
	case FontLight:
		return -0.005
	case FontMedium:
		return 0.005
	case FontSemiBold:
		return 0.01
	case FontBold:
		return 0.02
	case FontExtraBold:
		return 0.03
	case FontBlack:
		return 0.04
	}
	return 0.0
}

func (style FontStyle) String() string {
	var s string
	switch style.Weight() {
	case FontThin:
		s = "Thin"
	case FontExtraLight:
		s = "ExtraLight"
	case FontLight:
		s = "Light"
	case FontRegular:
		s = "Regular"
	case FontMedium:
		s = "Medium"
	case FontSemiBold:
		s = "SemiBold"
	case FontBold:
		s = "Bold"
	case FontExtraBold:
		s = "ExtraBold"
	case FontBlack:
		s = "Black"
	default:
		return "Unknown"
	}
	if style.Italic() {
		s += " Italic"
	}
	return s
}

// FontVariant defines the font variant to be used for the font, such as subscript or smallcaps.
type FontVariant int

// see FontVariant
const (
	FontNormal FontVariant = iota
	FontSubscript
	FontSuperscript
	FontSmallcaps
)

func (variant FontVariant) String() string {
	switch variant {
	case FontNormal:
		return "Normal"
	case FontSubscript:
		return "Subscript"
	case FontSuperscript:
		return "Superscript"
	case FontSmallcaps:
		return "Smallcaps"
	}
	return "Unknown"
}

////////////////////////////////////////////////////////////////

// FontSubsetter holds a map between original glyph IDs and new glyph IDs in a subsetted font.
type FontSubsetter struct {
	IDs   []uint16          // old glyphIDs for increasing new glyphIDs
	IDMap map[uint16]uint16 // old to new glyphID
}

// NewFontSubsetter returns a new font subsetter.
func NewFontSubsetter() *FontSubsetter {
	return &FontSubsetter{
		IDs:   []uint16{0}, // .notdef should always be at zero
		IDMap: map[uint16]uint16{0: 0},
	}
}

// Get maps a glyphID of the original font to the subsetted font. If the glyphID is not subsetted, it will be added to the map.
func (subsetter *FontSubsetter) Get(glyphID uint16) uint16 {
	if subsetGlyphID, ok := subsetter.IDMap[glyphID]; ok {
		return subsetGlyphID
	}
	subsetGlyphID := uint16(len(subsetter.IDs))
	subsetter.IDs = append(subsetter.IDs, glyphID)
	subsetter.IDMap[glyphID] = subsetGlyphID
	return subsetGlyphID
}

// List returns all subsetted IDs in the order of appearance.
func (subsetter *FontSubsetter) List() []uint16 {
	return subsetter.IDs
}

////////////////////////////////////////////////////////////////

// Font defines an SFNT font such as TTF or OTF.
type Font struct {
	*font.SFNT
	name       string
	style      FontStyle
	shaper     text.Shaper
	variations string
	features   string
}

var nonameFonts = 0

// LoadFont loads a font from memory.
func LoadFont(b []byte, index int, style FontStyle) (*Font, error) {
	SFNT, err := font.ParseFont(b, index)
	if err != nil {
		return nil, err
	}

	shaper, err := text.NewShaperSFNT(SFNT)
	if err != nil {
		return nil, err
	}

	name := ""
NameLoop:
	for _, id := range []int{6, 4, 1} {
		for _, record := range SFNT.Name.Get(font.NameID(id)) {
			name = record.String()
			break NameLoop
		}
	}
	if name == "" {
		name = fmt.Sprintf("f%d", nonameFonts)
		nonameFonts++
	}

	font := &Font{
		SFNT:   SFNT,
		name:   name,
		style:  style,
		shaper: shaper,
	}
	return font, nil
}

// Name returns the name of the font.
func (f *Font) Name() string {
	return f.name
}

// Style returns the style of the font.
func (f *Font) Style() FontStyle {
	return f.style
}

////////////////////////////////////////////////////////////////

// FontFamily contains a family of fonts (bold, italic, ...). Allowing to select an italic style as the native italic font or to use faux italic if not present.
type FontFamily struct {
	name  string
	fonts map[FontStyle]*Font
}

// NewFontFamily returns a new font family.
func NewFontFamily(name string) *FontFamily {
	return &FontFamily{
		name:  name,
		fonts: map[FontStyle]*Font{},
	}
}

// LoadFont loads a font from memory.
func (family *FontFamily) LoadFont(b []byte, index int, style FontStyle) error {
	font, err := LoadFont(b, index, style)
	if err != nil {
		return err
	}
	family.fonts[style] = font
	font.name = family.name
	return nil
}

// Face gets the font face given by the font size in points. Other arguments that can be passed: Paint/Pattern/color.Color (=Black), FontStyle (=FontRegular), FontVariant (=FontNormal), multiple FontDecorator, and Hinting (=VerticalHinting).
func (family *FontFamily) Face(size float64, args ...interface{}) *FontFace {
	if len(family.fonts) == 0 {
		panic("font family is empty")
	}

	face := &FontFace{
		Fill:    Paint{Color: Black},
		Hinting: font.VerticalHinting,
		Size:    size * mmPerPt,
	}
	for _, iarg := range args {
		switch arg := iarg.(type) {
		case Paint:
			face.Fill = arg
		case Pattern:
			face.Fill = Paint{Pattern: arg}
		case Gradient:
			face.Fill = Paint{Gradient: arg}
		case color.Color:
			face.Fill = Paint{Color: rgbaColor(arg)}
		case FontStyle:
			face.Style = arg
		case FontVariant:
			face.Variant = arg
		case FontDecorator:
			face.Deco = append(face.Deco, arg)
		case font.Hinting:
			face.Hinting = arg
		}
	}

	// add weight for sub- and superscript
	if face.Variant == FontSubscript || face.Variant == FontSuperscript {
		switch face.Style.Weight() {
		case FontThin:
			face.Style = face.Style&FontItalic | FontExtraLight
		case FontExtraLight:
			face.Style = face.Style&FontItalic | FontLight
		case FontLight:
			face.Style = face.Style&FontItalic | FontRegular
		case FontRegular:
			face.Style = face.Style&FontItalic | FontSemiBold
		case FontMedium:
			face.Style = face.Style&FontItalic | FontSemiBold
		case FontSemiBold:
			face.Style = face.Style&FontItalic | FontBold
		case FontBold:
			face.Style = face.Style&FontItalic | FontExtraBold
		case FontExtraBold:
			face.Style = face.Style&FontItalic | FontBlack
		default:
			face.FauxBold += 0.02
		}
	}

	// find closest font that matches requested style
	face.Font = family.fonts[face.Style]
	if face.Font == nil {
		minDiff := math.Inf(1.0)
		minStyle := FontRegular
		for style := range family.fonts {
			diff := math.Abs(face.Style.FauxWeight() - style.FauxWeight())
			if face.Style.Italic() != style.Italic() {
				diff += 0.02
			}
			if diff < minDiff {
				minStyle = style
				minDiff = diff
			}
		}
		face.Font = family.fonts[minStyle]
		face.FauxBold += face.Style.FauxWeight() - minStyle.FauxWeight()
		if face.Style.Italic() != minStyle.Italic() {
			sign := 1.0
			if !face.Style.Italic() {
				sign = -1.0
			}
			if face.Font.Post.ItalicAngle != 0 {
				face.FauxItalic = sign * math.Tan(-face.Font.Post.ItalicAngle)
			} else {
				face.FauxItalic = sign * 0.3
			}
		}
	}

	if face.Variant == FontSubscript || face.Variant == FontSuperscript {
		scale := 0.583
		xOffset, yOffset := int16(0), int16(0)
		units := float64(face.Font.Head.UnitsPerEm)
		if face.Variant == FontSubscript {
			if face.Font.OS2.YSubscriptXSize != 0 {
				scale = float64(face.Font.OS2.YSubscriptXSize) / units
			}
			if face.Font.OS2.YSubscriptXOffset != 0 {
				xOffset = face.Font.OS2.YSubscriptXOffset
			}
			yOffset = int16(0.33 * units)
			if face.Font.OS2.YSubscriptYOffset != 0 {
				yOffset = -face.Font.OS2.YSubscriptYOffset
			}
		} else if face.Variant == FontSuperscript {
			if face.Font.OS2.YSuperscriptXSize != 0 {
				scale = float64(face.Font.OS2.YSuperscriptXSize) / units
			}
			if face.Font.OS2.YSuperscriptXOffset != 0 {
				xOffset = face.Font.OS2.YSuperscriptXOffset
			}
			yOffset = int16(-0.33 * units)
			if face.Font.OS2.YSuperscriptYOffset != 0 {
				yOffset = face.Font.OS2.YSuperscriptYOffset
			}
		}
		face.Size *= scale
		face.XOffset = int32(float64(xOffset) / scale)
		face.YOffset = int32(float64(yOffset) / scale)
	}
	face.MmPerEm = face.Size / float64(face.Font.Head.UnitsPerEm)
	return face
}

////////////////////////////////////////////////////////////////

// FontFace defines a font face from a given font. It specifies the font size, color, faux styles and font decorations.
type FontFace struct {
	Font *Font

	Size    float64 // in mm
	Style   FontStyle
	Variant FontVariant

	Fill    Paint
	Deco    []FontDecorator
	Hinting font.Hinting

	// faux styles for bold, italic, and sub- and superscript
	FauxBold, FauxItalic float64
	XOffset, YOffset     int32

	Language  string
	Script    text.Script
	Direction text.Direction // TODO: really needed here?

	// letter spacing
	// stroke and stroke color
	// line height
	// shadow

	MmPerEm float64 // millimeters per EM unit!
}

// FontMetrics contains a number of metrics that define a font face. See https://developer.apple.com/library/archive/documentation/TextFonts/Conceptual/CocoaTextArchitecture/Art/glyph_metrics_2x.png for an explanation of the different metrics.
type FontMetrics struct {
	LineHeight float64
	Ascent     float64
	Descent    float64
	LineGap    float64
	XHeight    float64
	CapHeight  float64

	XMin, YMin float64
	XMax, YMax float64
}

func (m FontMetrics) String() string {
	return fmt.Sprintf("{LineHeight: %v, Ascent: %v, Descent: %v, LineGap: %v, XHeight: %v, CapHeight: %v}", m.LineHeight, m.Ascent, m.Descent, m.LineGap, m.XHeight, m.CapHeight)
}

// Metrics returns the font metrics. See https://developer.apple.com/library/archive/documentation/TextFonts/Conceptual/CocoaTextArchitecture/Art/glyph_metrics_2x.png for an explanation of the different metrics.
func (face *FontFace) Metrics() FontMetrics {
	// TODO: use resolution
	sfnt := face.Font.SFNT
	ascender, descender, lineGap := sfnt.VerticalMetrics()
	return FontMetrics{
		LineHeight: face.MmPerEm * float64(ascender+descender+lineGap),
		Ascent:     face.MmPerEm * float64(ascender),
		Descent:    face.MmPerEm * float64(descender),
		LineGap:    face.MmPerEm * float64(lineGap),
		XHeight:    face.MmPerEm * float64(sfnt.OS2.SxHeight),
		CapHeight:  face.MmPerEm * float64(sfnt.OS2.SCapHeight),
		XMin:       face.MmPerEm * float64(sfnt.Head.XMin),
		YMin:       face.MmPerEm * float64(sfnt.Head.YMin),
		XMax:       face.MmPerEm * float64(sfnt.Head.XMax),
		YMax:       face.MmPerEm * float64(sfnt.Head.YMax),
	}
}

// PPEM returns the pixels-per-EM for a given resolution of the font face.
func (face *FontFace) PPEM(resolution Resolution) uint16 {
	// ppem is for hinting purposes only, this does not influence glyph advances
	return uint16(resolution.DPMM() * face.MmPerEm * float64(face.Font.Head.UnitsPerEm))
}

func (face *FontFace) Glyphs(s string) []text.Glyph {
	ppem := face.PPEM(DefaultResolution)
	return face.Font.shaper.Shape(s, ppem, face.Direction, face.Script, face.Language, face.Font.features, face.Font.variations)
}

// TextWidth returns the width of a given string in millimeters.
func (face *FontFace) TextWidth(s string) float64 {
	return face.textWidth(face.Glyphs(s))
}

func (face *FontFace) textWidth(glyphs []text.Glyph) float64 {
	w := int32(0)
	for _, glyph := range glyphs {
		if !glyph.Vertical {
			w += glyph.XAdvance
		} else {
			w -= glyph.YAdvance
		}
	}
	return face.MmPerEm * float64(w)
}

func (face *FontFace) heights(mode WritingMode) (float64, float64, float64, float64) {
	metrics := face.Metrics()
	if mode != HorizontalTB {
		ascent, descent, lineGap, xHeight := metrics.Ascent, metrics.Descent, metrics.LineGap, metrics.XHeight
		ascent -= xHeight / 2.0
		descent += xHeight / 2.0
		if mode == VerticalLR {
			ascent, descent = descent, ascent
		}
		return ascent + lineGap, ascent, descent, descent + lineGap
	}
	return metrics.Ascent + metrics.LineGap, metrics.Ascent, metrics.Descent, metrics.Descent + metrics.LineGap
}

// Decorate will return the decoration path over a given width in millimeters.
func (face *FontFace) Decorate(width float64) *Path {
	p := &Path{}
	if face.Deco != nil {
		for _, deco := range face.Deco {
			p = p.Append(deco.Decorate(face, width))
		}
	}
	return p
}

// ToPath converts a string to its glyph paths.
func (face *FontFace) ToPath(s string) (*Path, float64, error) {
	ppem := face.PPEM(DefaultResolution)
	return face.toPath(face.Glyphs(s), ppem)
}

func (face *FontFace) toPath(glyphs []text.Glyph, ppem uint16) (*Path, float64, error) {
	p := &Path{}
	f := face.MmPerEm
	x, y := face.XOffset, face.YOffset
	for _, glyph := range glyphs {
		err := face.Font.GlyphPath(p, glyph.ID, ppem, f*float64(x+glyph.XOffset), f*float64(y+glyph.YOffset), f, font.NoHinting)
		if err != nil {
			return p, 0.0, err
		}
		x += glyph.XAdvance
		y += glyph.YAdvance
	}

	if face.FauxBold != 0.0 {
		d := face.FauxBold * face.Size
		if face.Font.IsTrueType {
			// TrueType is CW oriented for filling contours.
			d = -d
		}
		p = p.Offset(d, Tolerance)
	}
	if face.FauxItalic != 0.0 {
		p = p.Transform(Identity.Shear(face.FauxItalic, 0.0))
	}
	return p, face.MmPerEm * float64(x), nil
}

////////////////////////////////////////////////////////////////

// FontDecorator is an interface that returns a path given a font face and a width in millimeters.
type FontDecorator interface {
	Decorate(*FontFace, float64) *Path
}
