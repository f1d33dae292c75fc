package icc_test

import (
	"bytes"
	"encoding/binary"
	"math"
)

// madeProfile is a smooth invented device, written as a profile with tables of one kind. The tables agree with each other
// only roughly; what is tested is that they are read as lcms2 reads them.
type madeProfile struct {
	name, space, pcs string
	version, bits    int
	kind             string // "mft1", "mft2", "mAB" (with mBA)
	parametric       bool   // curves of an mAB
	bare             bool   // an mAB of nothing but curves B, matrix and curves M
	points           int    // grid points along the first axis; 0 is 7
}

func made() []madeProfile {
	return []madeProfile{
		{"v2 CMYK mft1 Lab", "CMYK", "Lab ", 2, 8, "mft1", false, false, 0},
		{"v2 RGB mft2 XYZ", "RGB ", "XYZ ", 2, 16, "mft2", false, false, 0},
		{"v2 RGB mft2 Lab", "RGB ", "Lab ", 2, 16, "mft2", false, false, 0},
		{"v4 CMYK mft2 Lab", "CMYK", "Lab ", 4, 16, "mft2", false, false, 0},
		{"v4 CMYK mAB 16 bit", "CMYK", "Lab ", 4, 16, "mAB", true, false, 0},
		{"v4 CMYK mAB 8 bit", "CMYK", "Lab ", 4, 8, "mAB", false, false, 0},
		{"v4 RGB mAB Lab", "RGB ", "Lab ", 4, 16, "mAB", true, false, 0},
		{"v4 RGB mAB XYZ", "RGB ", "XYZ ", 4, 16, "mAB", true, false, 0},
		{"v4 RGB mAB without grid", "RGB ", "XYZ ", 4, 16, "mAB", true, true, 0},
		{"v4 gray mAB", "GRAY", "Lab ", 4, 16, "mAB", true, false, 0},
	}
}

func (m madeProfile) channels() int { return map[string]int{"CMYK": 4, "RGB ": 3, "GRAY": 1}[m.space] }

// pcsOf invents a color for device values, encoded for a new table: smooth, with a black of L* 9 or so.
func (m madeProfile) pcsOf(dev []float64) [3]float64 {
	var l, a, b float64
	switch m.space {
	case "CMYK":
		light := (1 - 0.45*dev[0]) * (1 - 0.5*dev[1]) * (1 - 0.1*dev[2]) * (1 - 0.85*dev[3])
		l, a, b = 100*light, 50*(dev[1]-dev[0])*(1-dev[3]), 60*(dev[2]-0.6*dev[0]-0.3*dev[1])*(1-dev[3])
	case "GRAY":
		l = 9 + 91*dev[0]
	default:
		l = 9 + 91*(0.3*dev[0]+0.6*dev[1]+0.1*dev[2])
		a, b = 70*(dev[0]-dev[1]), 60*(0.5*dev[0]+0.5*dev[1]-dev[2])
	}
	if m.pcs == "Lab " {
		v := [3]float64{l / 100, (a + 128) / 255, (b + 128) / 255}
		if m.kind == "mft2" {
			v = [3]float64{l * 652.8 / 65535, (a + 128) * 256 / 65535, (b + 128) * 256 / 65535}
		}
		return v
	}
	y := math.Pow((l+16)/116, 3)
	return [3]float64{(0.9642*y + a/600) / xyz15, y / xyz15, (0.8249*y - b/600) / xyz15}
}

const xyz15 = 65535. / 32768

// deviceOf invents device values for an encoded color.
func (m madeProfile) deviceOf(pcs []float64) []float64 {
	l, a, b := pcs[0], pcs[1]-0.5, pcs[2]-0.5
	if m.pcs == "XYZ " {
		l, a, b = math.Cbrt(pcs[1]*xyz15), pcs[0]-pcs[1], pcs[1]-pcs[2]
	}
	var v []float64
	switch m.space {
	case "CMYK":
		dark := 1 - l
		v = []float64{dark*0.8 - a, dark*0.7 + a, dark*0.7 + b, dark*dark*1.2 - 0.2}
	case "GRAY":
		v = []float64{l}
	default:
		v = []float64{l + a, l - a/2 + b/5, l - b}
	}
	for i := range v {
		v[i] = math.Min(1, math.Max(0, v[i]))
	}
	return v
}

func (m madeProfile) profile() []byte {
	tags := []struct {
		name string
		data []byte
	}{
		{"desc", append([]byte("desc\x00\x00\x00\x00\x00\x00\x00\x05made\x00"), make([]byte, 79)...)},
		{"wtpt", xyzTag(0.9*0.9642, 0.92, 0.75)},
		{"A2B0", m.tableTag(true, 0)}, {"A2B1", m.tableTag(true, 1)}, {"A2B2", m.tableTag(true, 2)},
		{"B2A0", m.tableTag(false, 0)}, {"B2A1", m.tableTag(false, 1)}, {"B2A2", m.tableTag(false, 2)},
	}
	var body bytes.Buffer
	head := make([]byte, 128+4+12*len(tags))
	copy(head[4:], "test")
	head[8] = byte(m.version)
	copy(head[12:], "prtr")
	copy(head[16:], m.space)
	copy(head[20:], m.pcs)
	copy(head[36:], "acsp")
	copy(head[68:], xyzTag(0.9642, 1, 0.8249)[8:])
	binary.BigEndian.PutUint32(head[128:], uint32(len(tags)))
	for i, tag := range tags {
		e := head[132+12*i:]
		copy(e, tag.name)
		binary.BigEndian.PutUint32(e[4:], uint32(len(head)+body.Len()))
		binary.BigEndian.PutUint32(e[8:], uint32(len(tag.data)))
		body.Write(tag.data)
		align(&body)
	}
	binary.BigEndian.PutUint32(head, uint32(len(head)+body.Len()))
	return append(head, body.Bytes()...)
}

func xyzTag(x, y, z float64) []byte {
	b := bytes.NewBufferString("XYZ \x00\x00\x00\x00")
	for _, v := range []float64{x, y, z} {
		put(b, int32(math.Round(v*65536)))
	}
	return b.Bytes()
}

// put writes a number in the byte order of profiles.
func put(b *bytes.Buffer, v any) {
	if err := binary.Write(b, binary.BigEndian, v); err != nil {
		panic(err)
	}
}

func align(b *bytes.Buffer) {
	for b.Len()%4 != 0 {
		b.WriteByte(0)
	}
}

func (m madeProfile) tableTag(toLab bool, intent int) []byte {
	in, out := m.channels(), 3
	if !toLab {
		in, out = out, in
	}
	// Sizes differ by axis where the format can hold that, and the intents differ so that a mix-up shows.
	var size [4]int
	for i := range in {
		size[i] = m.points
		if m.points == 0 {
			size[i] = 7 + intent
		}
		if m.kind == "mAB" {
			size[i] += i
		}
	}
	warp := func(v float64) float64 { return math.Pow(math.Max(0, v), 1+0.1*float64(intent)) }
	grid := func(b *bytes.Buffer) {
		index := make([]int, in)
		for {
			v := make([]float64, in)
			for i := range v {
				v[i] = float64(index[i]) / float64(size[i]-1)
			}
			var values []float64
			if toLab {
				p := m.pcsOf(v)
				values = p[:]
			} else {
				values = m.deviceOf(v)
			}
			for i, x := range values {
				if i == 0 {
					x = warp(x)
				}
				m.sample(b, x)
			}
			k := in - 1
			for ; k >= 0; k-- {
				if index[k]++; index[k] < size[k] {
					break
				}
				index[k] = 0
			}
			if k < 0 {
				return
			}
		}
	}
	var b bytes.Buffer
	if m.kind != "mAB" {
		b.WriteString(m.kind + "\x00\x00\x00\x00")
		b.Write([]byte{byte(in), byte(out), byte(size[0]), 0})
		for i := range 9 {
			v := int32(0)
			if i%4 == 0 {
				v = 65536
			}
			if m.pcs == "XYZ " && !toLab {
				v = v / 10 * 9 // goes through XYZ before the curves
			}
			put(&b, v)
		}
		entries := 256
		if m.kind == "mft2" {
			entries = 33
			put(&b, []uint16{uint16(entries), uint16(entries)})
		}
		curves := func(n int, gamma float64) {
			for range n {
				for i := range entries {
					m.sample(&b, math.Pow(float64(i)/float64(entries-1), gamma))
				}
			}
		}
		curves(in, 1.1)
		grid(&b)
		curves(out, 1)
		return b.Bytes()
	}
	b.WriteString(map[bool]string{true: "mAB ", false: "mBA "}[toLab] + "\x00\x00\x00\x00")
	b.Write([]byte{byte(in), byte(out), 0, 0})
	b.Write(make([]byte, 20))
	mark := func(field int) {
		align(&b)
		binary.BigEndian.PutUint32(b.Bytes()[12+4*field:], uint32(b.Len()))
	}
	mark(0) // curves B
	m.curves(&b, 3, 1)
	if m.channels() != 4 {
		mark(1)
		for i, v := range []float64{0.98, 0.01, 0, 0, 1, 0, 0.01, 0, 0.99, 0, 0.002, -0.001} {
			_ = i
			put(&b, int32(v*65536))
		}
		mark(2)
		m.curves(&b, 3, 1.02)
	}
	if !m.bare {
		mark(3)
		dims := make([]byte, 16)
		for i := range in {
			dims[i] = byte(size[i])
		}
		b.Write(dims)
		b.Write([]byte{byte(m.bits / 8), 0, 0, 0})
		grid(&b)
		mark(4)
		m.curves(&b, m.channels(), 1.15)
	}
	return b.Bytes()
}

func (m madeProfile) sample(b *bytes.Buffer, v float64) {
	v = math.Min(1, math.Max(0, v))
	if m.bits == 8 {
		b.WriteByte(byte(math.Round(v * 255)))
		return
	}
	put(b, uint16(math.Round(v*65535)))
}

// curves writes n curves near the exponent gamma; if parametric, each of another kind, all continuous.
func (m madeProfile) curves(b *bytes.Buffer, n int, gamma float64) {
	for i := range n {
		switch {
		case !m.parametric && gamma == 1:
			b.WriteString("curv\x00\x00\x00\x00\x00\x00\x00\x00")
		case !m.parametric && i == 0:
			b.WriteString("curv\x00\x00\x00\x00\x00\x00\x00\x01")
			put(b, uint16(math.Round(gamma*256)))
		case !m.parametric:
			b.WriteString("curv\x00\x00\x00\x00\x00\x00\x00\x21")
			for k := range 33 {
				put(b, uint16(math.Round(65535*math.Pow(float64(k)/32, gamma))))
			}
		default:
			kind := i % 5
			parameters := [][]float64{
				{gamma},
				{gamma, 0.99, 0.01},
				{gamma, 0.95, 0.02, 0.01},
				{gamma, 0.99, 0.01, 0.9, 0.05},
				{gamma, 0.97, 0.01, 0.9, 0.05, 0.01, 0.01},
			}[kind]
			b.WriteString("para\x00\x00\x00\x00")
			put(b, []uint16{uint16(kind), 0})
			for _, v := range parameters {
				put(b, int32(math.Round(v*65536)))
			}
		}
		align(b)
	}
}
