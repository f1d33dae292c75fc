package canvas

import (
	"math"

	"strings"

	"github.com/tdewolff/parse/v2"
)

type svgDef func(string, *Canvas)

type svgElem struct {
	tag   string
	id    string
	attrs map[string]string
}

type svgState struct {
	strokeMiterLimit float64
	textX            float64
	textY            float64
	textAnchor       string
	fontFamily       string
	fontSize         float64
}

var svgDefaultState = svgState{
	strokeMiterLimit: 4.0,
	textAnchor:       "start",
	fontFamily:       "serif",
	fontSize:         16.0, // in px
}

type svgCanvas struct {
	c                       *Canvas
	ctx                     *Context
	width, height, diagonal float64
}

type svgParser struct {
	z   *parse.Input
	err error
	svgCanvas

	elemStack  []svgElem
	stateStack []svgState
	state      svgState

	cssRules []cssRule // from <style>
	defs     map[string]svgDef
	fonts    map[string]*FontFamily

	// active definitions for attributes
	activeDefs map[string]svgDef
}

func (svg *svgParser) init(width, height float64, viewbox [4]float64) {
	svg.width, svg.height = width*96.0/25.4, height*96.0/25.4
	svg.diagonal = math.Sqrt((svg.width*svg.width + svg.height*svg.height) / 2.0)

	svg.c = New(width, height)
	svg.ctx = NewContext(svg.c)
	svg.ctx.SetCoordSystem(CartesianIV)
	if 0.0 < (viewbox[2]-viewbox[0]) && 0.0 < (viewbox[3]-viewbox[1]) {
		m := Identity.Scale(width/(viewbox[2]-viewbox[0]), height/(viewbox[3]-viewbox[1])).Translate(-viewbox[0], -viewbox[1])
		svg.ctx.SetView(m)
	}
	svg.ctx.SetStrokeJoiner(MiterJoiner{BevelJoin, svgDefaultState.strokeMiterLimit})
	svg.state = svgDefaultState
}

type cssAttrSelector struct {
	op   byte // empty, =, ~, |
	attr string
	val  string
}

func (attr cssAttrSelector) String() string {
	sb := strings.Builder{}
	sb.WriteString(attr.attr)
	if attr.op != 0 {
		sb.WriteByte(attr.op)
		if attr.op != '=' {
			sb.WriteByte('=')
		}
		sb.WriteByte('"')
		sb.WriteString(attr.val)
		sb.WriteByte('"')
	}
	return sb.String()
}

type cssSelectorNode struct {
	op    byte   // space or >, first is always space
	typ   string // is * for universal
	attrs []cssAttrSelector
}

func (sel cssSelectorNode) String() string {
	sb := strings.Builder{}
	sb.WriteByte(sel.op)
	sb.WriteString(sel.typ)
	for _, attr := range sel.attrs {
		if attr.attr == "id" && attr.op == '=' {
			sb.WriteByte('#')
			sb.WriteString(attr.val)
		} else if attr.attr == "class" && attr.op == '~' {
			sb.WriteByte('.')
			sb.WriteString(attr.val)
		} else {
			sb.WriteByte('[')
			sb.WriteString(attr.String())
			sb.WriteByte(']')
		}
	}
	return sb.String()
}

type cssSelector []cssSelectorNode

func (sels cssSelector) String() string {
	if len(sels) == 0 {
		return ""
	}
	sb := strings.Builder{}
	for _, sel := range sels {
		sb.WriteString(sel.String())
	}
	return sb.String()[1:]
}

type cssProperty struct {
	key, val string
}

func (prop cssProperty) String() string {
	return prop.key + ":" + prop.val
}

type cssRule struct {
	selectors []cssSelector
	props     []cssProperty
}

func (rule cssRule) String() string {
	sb := strings.Builder{}
	for i, sel := range rule.selectors {
		if i != 0 {
			sb.WriteString(", ")
		}
		sb.WriteString(sel.String())
	}
	sb.WriteString(" { ")
	for _, prop := range rule.props {
		sb.WriteString(prop.String())
		sb.WriteString("; ")
	}
	sb.WriteString("}")
	return sb.String()
}
