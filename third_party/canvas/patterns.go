package canvas

import (
	"math"
)

type Pattern interface {
	SetView(Matrix) Pattern
	SetColorSpace(ColorSpace) Pattern
	RenderTo(Renderer, *Path)
}

//type CanvasPattern struct {
//	c    *Canvas
//	cell Matrix
//}
//
//func NewPattern(c *Canvas, cell Matrix) *CanvasPattern {
//	return &CanvasPattern{
//		c:    c,
//		cell: cell,
//	}
//}
//
//func (p *CanvasPattern) ClipTo(r Renderer, clip *Path) {
//	//fmt.Println("src", p.c.Size())
//	//fmt.Println("dst", r.Size())
//	//fmt.Println("matrix", p.m)
//	// TODO: tile
//	p.c.RenderViewTo(r, p.cell)
//}

//type ImagePattern struct {
//	img  *image.RGBA
//	cell Matrix
//}
//
//func NewImagePattern() *ImagePattern {
//	return &ImagePattern{}
//}
//
//func (p *ImagePattern) ClipTo(r Renderer, clip *Path) {
//}

// Hatch pattern is a filling hatch pattern.
type HatchPattern struct {
	Fill      Paint
	Thickness float64
	cell      Matrix
	hatch     Hatcher
}

// Hatcher is a hatch pattern along the cell's axes. The rectangle (x0,y0)-(x1,y1) is expressed in the unit cell's coordinate system, and the returned path should be transformed by the cell to obtain the final hatch pattern.
type Hatcher func(float64, float64, float64, float64) *Path

// SetView sets the view. Automatically called by Canvas for coordinate system transformations.
func (p *HatchPattern) SetView(view Matrix) Pattern {
	return p
}

// SetColorSpace sets the color space. Automatically called by the rasterizer.
func (p *HatchPattern) SetColorSpace(colorSpace ColorSpace) Pattern {
	if _, ok := colorSpace.(LinearColorSpace); ok {
		return p
	}

	if p.Fill.IsGradient() {
		p.Fill.Gradient.SetColorSpace(colorSpace)
	} else if p.Fill.IsColor() {
		p.Fill.Color = colorSpace.ToLinear(p.Fill.Color)
	}
	return p
}

// Tile tiles the hatch pattern within the clipping path.
func (p *HatchPattern) Tile(clip *Path) *Path {
	dst := clip.FastBounds()

	// find extremes along cell axes
	invCell := p.cell.Inv()
	points := []Point{
		invCell.Dot(Point{dst.X0 - p.Thickness, dst.Y0 - p.Thickness}),
		invCell.Dot(Point{dst.X1 + p.Thickness, dst.Y0 - p.Thickness}),
		invCell.Dot(Point{dst.X1 + p.Thickness, dst.Y1 + p.Thickness}),
		invCell.Dot(Point{dst.X0 - p.Thickness, dst.Y1 + p.Thickness}),
	}
	x0, x1 := points[0].X, points[0].X
	y0, y1 := points[0].Y, points[0].Y
	for _, point := range points[1:] {
		x0 = math.Min(x0, point.X)
		x1 = math.Max(x1, point.X)
		y0 = math.Min(y0, point.Y)
		y1 = math.Max(y1, point.Y)
	}

	hatch := p.hatch(x0, y0, x1, y1)
	hatch = hatch.Transform(p.cell)
	hatch = hatch.And(clip)
	if p.Thickness != 0.0 {
		hatch = hatch.Stroke(p.Thickness, ButtCap, MiterJoin, 0.01)
	}
	return hatch
}

// RenderTo tiles the hatch pattern to the clipping path and renders it to the renderer.
func (p *HatchPattern) RenderTo(r Renderer, clip *Path) {
	hatch := p.Tile(clip)
	r.RenderPath(hatch, Style{Fill: p.Fill}, Identity)
}
