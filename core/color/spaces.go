package color

import "math"

// space is an RGB or XYZ space of the function color() of CSS Color 4.
type space struct {
	toXYZ          matrix // from linear channels
	d50            bool   // the white is D50 and not D65
	decode, encode func(float64) float64
	channels       [3]string
}

var rgbChannels, xyzChannels = [3]string{"r", "g", "b"}, [3]string{"x", "y", "z"}

func same(v float64) float64 { return v }

// power is a plain transfer curve, mirrored for negative values.
func power(exponent float64) func(float64) float64 {
	return func(v float64) float64 { return math.Copysign(math.Pow(math.Abs(v), exponent), v) }
}

// The transfer curves of ROMM RGB (ISO 22028-2) and of BT.2020 at its full precision, mirrored for negative values.
const (
	rommBreak   = 1. / 512
	bt2020Alpha = 1.09929682680944
	bt2020Beta  = 0.018053968510807
)

func rommDecode(v float64) float64 {
	if a := math.Abs(v); a > 16*rommBreak {
		return math.Copysign(math.Pow(a, 1.8), v)
	}
	return v / 16
}

func rommEncode(v float64) float64 {
	if a := math.Abs(v); a >= rommBreak {
		return math.Copysign(math.Pow(a, 1/1.8), v)
	}
	return v * 16
}

// CameraLight is the light of a value of BT.709 and BT.2020, 0 to 1, by the inverse of their camera curve (Recommendation ITU-R BT.2020,
// table 4). The function color() takes its rec2020 by it too, as Chromium does.
func CameraLight(v float64) float64 { return bt2020Decode(v) }

func bt2020Decode(v float64) float64 {
	if a := math.Abs(v); a >= bt2020Beta*4.5 {
		return math.Copysign(math.Pow((a+bt2020Alpha-1)/bt2020Alpha, 1/0.45), v)
	}
	return v / 4.5
}

func bt2020Encode(v float64) float64 {
	if a := math.Abs(v); a > bt2020Beta {
		return math.Copysign(bt2020Alpha*math.Pow(a, 0.45)-(bt2020Alpha-1), v)
	}
	return v * 4.5
}

// spaces holds the predefined spaces, with the matrices of CSS Color 4.
var spaces = map[string]space{
	"srgb":              {linearToXYZ, false, decode, encode, rgbChannels},
	"srgb-linear":       {linearToXYZ, false, same, same, rgbChannels},
	"display-p3":        {p3ToXYZ, false, decode, encode, rgbChannels},
	"display-p3-linear": {p3ToXYZ, false, same, same, rgbChannels},
	"a98-rgb":           {a98ToXYZ, false, power(563. / 256), power(256. / 563), rgbChannels},
	"prophoto-rgb":      {prophotoToXYZ, true, rommDecode, rommEncode, rgbChannels},
	"rec2020":           {rec2020ToXYZ, false, bt2020Decode, bt2020Encode, rgbChannels},
	"xyz":               {unity, false, same, same, xyzChannels},
	"xyz-d65":           {unity, false, same, same, xyzChannels},
	"xyz-d50":           {unity, true, same, same, xyzChannels},
}

var (
	unity   = matrix{{1, 0, 0}, {0, 1, 0}, {0, 0, 1}}
	p3ToXYZ = matrix{
		{608311. / 1250200, 189793. / 714400, 198249. / 1000160},
		{35783. / 156275, 247089. / 357200, 198249. / 2500400},
		{0, 32229. / 714400, 5220557. / 5000800},
	}
	a98ToXYZ = matrix{
		{573536. / 994567, 263643. / 1420810, 187206. / 994567},
		{591459. / 1989134, 6239551. / 9945670, 374412. / 4972835},
		{53769. / 1989134, 351524. / 4972835, 4929758. / 4972835},
	}
	prophotoToXYZ = matrix{
		{0.79776664490064230, 0.13518129740053308, 0.03134773412839220},
		{0.28807482881940130, 0.71183523424187300, 0.00008993693872564},
		{0, 0, 0.82510460251046020},
	}
	rec2020ToXYZ = matrix{
		{63426534. / 99577255, 20160776. / 139408157, 47086771. / 278816314},
		{26158966. / 99577255, 472592308. / 697040785, 8267143. / 139408157},
		{0, 19567812. / 697040785, 295819943. / 278816314},
	}
)

// function is how color() reads a space. What is sRGB already does not go through XYZ, where half a level is lost.
func (s space) function() function {
	f := function{rgb: s.rgb, of: s.of}
	if s.toXYZ == linearToXYZ {
		f.rgb = func(v [3]float64) RGB { return Linear{s.decode(v[0]), s.decode(v[1]), s.decode(v[2])}.RGB() }
		f.of = func(c RGB) [3]float64 {
			l := c.Linear()
			return [3]float64{s.encode(l.R), s.encode(l.G), s.encode(l.B)}
		}
	}
	return f
}

func (s space) rgb(v [3]float64) RGB {
	x, y, z := s.toXYZ.mul(s.decode(v[0]), s.decode(v[1]), s.decode(v[2]))
	if s.d50 {
		x, y, z = d50ToD65.mul(x, y, z)
	}
	return XYZ{x, y, z}.Linear().RGB()
}

func (s space) of(c RGB) [3]float64 {
	v := s.linear(c)
	return [3]float64{s.encode(v[0]), s.encode(v[1]), s.encode(v[2])}
}

// linear is of without the transfer curve.
func (s space) linear(c RGB) [3]float64 {
	v := c.Linear().XYZ()
	x, y, z := v.X, v.Y, v.Z
	if s.d50 {
		x, y, z = d65ToD50.mul(x, y, z)
	}
	back := s.toXYZ.inverse()
	x, y, z = back.mul(x, y, z)
	return [3]float64{x, y, z}
}

// inverse is by cofactors; the matrices of color spaces all have one.
func (m *matrix) inverse() (out matrix) {
	cofactor := func(r, c int) float64 {
		r1, r2, c1, c2 := (r+1)%3, (r+2)%3, (c+1)%3, (c+2)%3
		return m[r1][c1]*m[r2][c2] - m[r1][c2]*m[r2][c1]
	}
	det := m.determinant()
	for r := range 3 {
		for c := range 3 {
			out[c][r] = cofactor(r, c) / det
		}
	}
	return out
}

func (m *matrix) determinant() float64 {
	return m[0][0]*(m[1][1]*m[2][2]-m[1][2]*m[2][1]) - m[0][1]*(m[1][0]*m[2][2]-m[1][2]*m[2][0]) + m[0][2]*(m[1][0]*m[2][1]-m[1][1]*m[2][0])
}
