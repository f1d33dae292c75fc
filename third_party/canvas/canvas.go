package canvas

import (
	"image"
	"image/color"
	"io"

	"reflect"
	"sort"
)

// const mmPerPx = 25.4 / 96.0
// const pxPerMm = 96.0 / 25.4
const mmPerPt = 25.4 / 72.0

const inchPerMm = 1.0 / 25.4

// Resolution is used for rasterizing. Higher resolutions will result in larger images.
type Resolution float64

// DPMM (dots-per-millimeter) for the resolution of rasterization.
func DPMM(dpmm float64) Resolution {
	return Resolution(dpmm)
}

// DPMM returns the resolution in dots-per-millimeter.
func (res Resolution) DPMM() float64 {
	return float64(res)
}

// DefaultResolution is the default resolution used for font PPEMs and is set to 96 DPI.
const DefaultResolution = Resolution(96.0 * inchPerMm)

////////////////////////////////////////////////////////////////

// Paint is the type of paint used to fill or stroke a path. It can be either a color or a pattern. Default is transparent (no paint).
type Paint struct {
	Color color.RGBA
	Gradient
	Pattern
}

// Equal returns true if Paints are equal.
func (paint Paint) Equal(other Paint) bool {
	if paint.IsColor() && other.IsColor() && paint.Color == other.Color {
		return true
	} else if paint.IsGradient() && other.IsGradient() && reflect.DeepEqual(paint.Gradient, other.Gradient) {
		return true
	} else if paint.IsPattern() && other.IsPattern() && reflect.DeepEqual(paint.Pattern, other.Pattern) {
		return true
	}
	return false
}

// Has returns true if paint has a color or pattern.
func (paint Paint) Has() bool {
	return paint.Color.A != 0 || paint.Gradient != nil || paint.Pattern != nil
}

// IsColor returns true when paint is a uniform color.
func (paint Paint) IsColor() bool {
	return paint.Color.A != 0 && paint.Gradient == nil && paint.Pattern == nil
}

// IsGradient returns true when paint is a gradient.
func (paint Paint) IsGradient() bool {
	return paint.Gradient != nil && paint.Pattern == nil
}

// IsPattern returns true when paint is a pattern.
func (paint Paint) IsPattern() bool {
	return paint.Pattern != nil
}

func ScaleDash(scale float64, offset float64, d []float64) (float64, []float64) {
	d2 := make([]float64, len(d))
	for i := range d {
		d2[i] = d[i] * scale
	}
	return offset * scale, d2
}

// Style is the path style that defines how to draw the path. When Fill is not set it will not fill the path. If StrokeColor is transparent or StrokeWidth is zero, it will not stroke the path. If Dashes is an empty array, it will not draw dashes but instead a solid stroke line. FillRule determines how to fill the path when paths overlap and have certain directions (clockwise, counter clockwise).
type Style struct {
	Fill         Paint
	Stroke       Paint
	StrokeWidth  float64
	StrokeCapper Capper
	StrokeJoiner Joiner
	DashOffset   float64
	Dashes       []float64
	FillRule     // TODO: test for all renderers
}

// HasFill returns true if the style has a fill
func (style Style) HasFill() bool {
	return style.Fill.Has()
}

// HasStroke returns true if the style has a stroke
func (style Style) HasStroke() bool {
	return style.Stroke.Has() && 0.0 < style.StrokeWidth
}

// IsDashed returns true if the style has dashes
func (style Style) IsDashed() bool {
	return 0 < len(style.Dashes)
}

// DefaultStyle is the default style for paths. It fills the path with a black color and has no stroke.
var DefaultStyle = Style{
	Fill:         Paint{Color: Black},
	Stroke:       Paint{},
	StrokeWidth:  1.0,
	StrokeCapper: ButtCap,
	StrokeJoiner: MiterJoin,
	DashOffset:   0.0,
	Dashes:       []float64{},
	FillRule:     NonZero,
}

// Renderer is an interface that renderers implement. It defines the size of the target (in mm) and functions to render paths, text objects and images.
type Renderer interface {
	Size() (float64, float64)
	RenderPath(path *Path, style Style, m Matrix)
	RenderText(text *Text, m Matrix)
	RenderImage(img image.Image, m Matrix)
}

////////////////////////////////////////////////////////////////

// CoordSystem is the coordinate system, which can be either of the four cartesian quadrants. Most useful are the I'th and IV'th quadrants. CartesianI is the default quadrant with the zero-point in the bottom-left (the default for mathematics). The CartesianII has its zero-point in the bottom-right, CartesianIII in the top-right, and CartesianIV in the top-left (often used as default for printing devices). See https://en.wikipedia.org/wiki/Cartesian_coordinate_system#Quadrants_and_octants for an explanation.
type CoordSystem int

// See CoordSystem.
const (
	CartesianI CoordSystem = iota
	CartesianII
	CartesianIII
	CartesianIV
)

// ContextState defines the state of the context, including fill or stroke style, view and coordinate view.
type ContextState struct {
	Style
	view        Matrix
	coordView   Matrix
	coordSystem CoordSystem
}

// Context maintains the state for the current path, path style, and view transformation matrix.
type Context struct {
	Renderer

	path *Path
	ContextState
	stack []ContextState
}

// NewContext returns a new context which is a wrapper around a renderer. Contexts maintain the state of the current path, path style, and view transformation matrix.
func NewContext(r Renderer) *Context {
	return &Context{
		Renderer: r,
		path:     &Path{},
		ContextState: ContextState{
			Style:       DefaultStyle,
			view:        Identity,
			coordView:   Identity,
			coordSystem: CartesianI,
		},
		stack: nil,
	}
}

// Width returns the width of the canvas in millimeters.
func (c *Context) Width() float64 {
	w, _ := c.Renderer.Size()
	return w
}

// Height returns the height of the canvas in millimeters.
func (c *Context) Height() float64 {
	_, h := c.Renderer.Size()
	return h
}

// Size returns the width and height of the canvas in millimeters.
func (c *Context) Size() (float64, float64) {
	return c.Renderer.Size()
}

// Push saves the current draw state so that it can be popped later on.
func (c *Context) Push() {
	c.stack = append(c.stack, c.ContextState)
}

// Pop restores the last pushed draw state and uses that as the current draw state. If there are no states on the stack, this will do nothing.
func (c *Context) Pop() {
	if len(c.stack) == 0 {
		return
	}
	c.ContextState = c.stack[len(c.stack)-1]
	c.stack = c.stack[:len(c.stack)-1]
}

func (c *Context) CoordSystemView() Matrix {
	// a function since renderer's width/height may change
	switch c.coordSystem {
	case CartesianII:
		return Identity.ReflectXAbout(c.Width() / 2.0)
	case CartesianIII:
		return Identity.ReflectXAbout(c.Width() / 2.0).ReflectYAbout(c.Height() / 2.0)
	case CartesianIV:
		return Identity.ReflectYAbout(c.Height() / 2.0)
	}
	return Identity
}

// SetCoordSystem sets the Cartesian coordinate system.
func (c *Context) SetCoordSystem(coordSystem CoordSystem) {
	c.coordSystem = coordSystem
}

// SetView sets the current affine transformation matrix through which all operations will be transformed. See `Matrix` for how transformations work.
func (c *Context) SetView(view Matrix) {
	c.view = view
}

// SetFillColor sets the color to be used for filling operations. The default fill color is black.
func (c *Context) SetFillColor(col color.Color) {
	c.Style.Fill.Color = rgbaColor(col)
	c.Style.Fill.Gradient = nil
	c.Style.Fill.Pattern = nil
}

// SetStrokeColor sets the color to be used for stroking operations. The default stroke color is transparent.
func (c *Context) SetStrokeColor(col color.Color) {
	c.Style.Stroke.Color = rgbaColor(col)
	c.Style.Stroke.Gradient = nil
	c.Style.Stroke.Pattern = nil
}

// SetStrokeWidth sets the width in millimeters for stroking operations. The default stroke width is 1.0.
func (c *Context) SetStrokeWidth(width float64) {
	c.Style.StrokeWidth = width
}

// SetStrokeJoiner sets the line join function to be used for stroke mid points. The default stroke joiner is a miter join with a limit of 4.0 for a bevel join.
func (c *Context) SetStrokeJoiner(joiner Joiner) {
	c.Style.StrokeJoiner = joiner
}

// Close closes the current path.
func (c *Context) Close() {
	c.path.Close()
}

// DrawPath draws a path at position (x,y) using the current draw state.
func (c *Context) DrawPath(x, y float64, paths ...*Path) {
	if !c.Style.HasFill() && !c.Style.HasStroke() {
		return
	}

	// TODO: apply coordinate view to fill/stroke gradients/patterns
	style := c.Style
	m := c.CoordSystemView()
	//if style.Fill.IsPattern() {
	//	style.Fill.Pattern = style.Fill.Pattern.SetView(m)
	//} else if style.Fill.IsGradient() {
	//	style.Fill.Gradient = style.Fill.Gradient.SetView(m)
	//}
	//if style.Stroke.IsPattern() {
	//	style.Stroke.Pattern = style.Stroke.Pattern.SetView(m)
	//} else if style.Stroke.IsGradient() {
	//	style.Stroke.Gradient = style.Stroke.Gradient.SetView(m)
	//}

	// get view
	coord := c.coordView.Dot(Point{x, y})
	m = m.Mul(c.view).Translate(coord.X, coord.Y)

	dashes := style.Dashes
	for _, path := range paths {
		var ok bool
		style.Dashes, ok = path.checkDash(c.Style.DashOffset, dashes)
		if !ok {
			style.Stroke = Paint{}
		}
		c.RenderPath(path, style, m)
	}
}

// DrawText draws text at position (x,y) using the current draw state.
func (c *Context) DrawText(x, y float64, text *Text) {
	if text.Empty() {
		return
	}

	// get view
	coord := c.coordView.Dot(Point{x, y})
	m := c.CoordSystemView().Mul(c.view).Translate(coord.X, coord.Y)

	// keep textbox origin at the top-left
	if c.coordSystem == CartesianIII || c.coordSystem == CartesianIV {
		m = m.ReflectY()
	}
	if c.coordSystem == CartesianII || c.coordSystem == CartesianIII {
		m = m.ReflectX()
	}
	c.RenderText(text, m)
}

// DrawImage draws an image at position (x,y) using the current draw state and the given resolution in pixels-per-millimeter. A higher resolution will draw a smaller image (ie. more image pixels per millimeter of document).
func (c *Context) DrawImage(x, y float64, img image.Image, resolution Resolution) {
	if img.Bounds().Size().Eq(image.Point{}) {
		return
	}

	// get view
	coord := c.coordView.Dot(Point{x, y})
	m := c.CoordSystemView().Mul(c.view).Translate(coord.X, coord.Y)

	// set resolution
	m = m.Scale(1.0/resolution.DPMM(), 1.0/resolution.DPMM())

	// set origin of image closest to the image's origin (ie. top-left for CartesianIV)
	if c.coordSystem == CartesianIII || c.coordSystem == CartesianIV {
		m = m.ReflectYAbout(float64(img.Bounds().Size().Y) / 2.0)
	}
	if c.coordSystem == CartesianII || c.coordSystem == CartesianIII {
		m = m.ReflectXAbout(float64(img.Bounds().Size().X) / 2.0)
	}
	c.RenderImage(img, m)
}

////////////////////////////////////////////////////////////////
////////////////////////////////////////////////////////////////
////////////////////////////////////////////////////////////////

type layer struct {
	// path, text OR img is set
	path *Path
	text *Text
	img  image.Image

	m     Matrix
	style Style // only for path
}

// Canvas stores all drawing operations as layers that can be re-rendered to other renderers.
type Canvas struct {
	layers map[int][]layer
	zindex int
	W, H   float64
}

// New returns a new canvas with width and height in millimeters, that records all drawing operations into layers. The canvas can then be rendered to any other renderer.
func New(width, height float64) *Canvas {
	return &Canvas{
		layers: map[int][]layer{},
		W:      width,
		H:      height,
	}
}

// Size returns the size of the canvas in millimeters.
func (c *Canvas) Size() (float64, float64) {
	return c.W, c.H
}

// RenderPath renders a path to the canvas using a style and a transformation matrix.
func (c *Canvas) RenderPath(path *Path, style Style, m Matrix) {
	path = path.Copy()
	c.layers[c.zindex] = append(c.layers[c.zindex], layer{path: path, m: m, style: style})
}

// RenderText renders a text object to the canvas using a transformation matrix.
func (c *Canvas) RenderText(text *Text, m Matrix) {
	c.layers[c.zindex] = append(c.layers[c.zindex], layer{text: text, m: m})
}

// RenderImage renders an image to the canvas using a transformation matrix.
func (c *Canvas) RenderImage(img image.Image, m Matrix) {
	c.layers[c.zindex] = append(c.layers[c.zindex], layer{img: img, m: m})
}

// Reset empties the canvas.
func (c *Canvas) Reset() {
	c.layers = map[int][]layer{}
}

// RenderTo renders the accumulated canvas drawing operations to another renderer.
func (c *Canvas) RenderTo(r Renderer) {
	c.RenderViewTo(r, Identity)
}

// RenderViewTo transforms and renders the accumulated canvas drawing operations to another renderer.
func (c *Canvas) RenderViewTo(r Renderer, view Matrix) {
	zindices := []int{}
	for zindex := range c.layers {
		zindices = append(zindices, zindex)
	}
	sort.Ints(zindices)

	for _, zindex := range zindices {
		for _, l := range c.layers[zindex] {
			m := view.Mul(l.m)
			if l.path != nil {
				r.RenderPath(l.path, l.style, m)
			} else if l.text != nil {
				r.RenderText(l.text, m)
			} else if l.img != nil {
				r.RenderImage(l.img, m)
			}
		}
	}
}

// Writer can write a canvas to a writer.
type Writer func(w io.Writer, c *Canvas) error

// Write writes the canvas to an io.Writer using the given writer. See renderers/ for an overview of implementations of canvas.Writer.
func (c *Canvas) Write(w io.Writer, writer Writer) error {
	return writer(w, c)
}
