package demo

import (
	"bytes"
	"image/color"
	"image/jpeg"
	"math"
	"math/rand/v2"
)

// Photo is a harbor at dusk as a camera would have it: a sky, water that mirrors it, a hull a little off its blue, a funnel band a
// little off its red, lamps, and a green mooring line that no brand color answers. It is made by code, the same each time.
func Photo() Picture {
	const w, h, horizon = 1600, 1000, 430
	random := rand.New(rand.NewPCG(7, 11))
	mix := func(a, b [3]float64, t float64) (out [3]float64) {
		t = min(1, max(0, t))
		for i := range out {
			out[i] = a[i] + (b[i]-a[i])*t
		}
		return out
	}
	top, low := [3]float64{92, 76, 118}, [3]float64{232, 168, 120}
	deep, glow := [3]float64{30, 52, 74}, [3]float64{150, 122, 118}
	hull, band, lamp, line := [3]float64{19, 63, 90}, [3]float64{215, 82, 48}, [3]float64{244, 190, 70}, [3]float64{46, 150, 78}
	img := paint(w, h, func(x, y int) color.NRGBA {
		fx, fy := float64(x), float64(y)
		var c [3]float64
		if y < horizon {
			c = mix(top, low, math.Pow(fy/horizon, 1.6))
		} else {
			wave := 0.06 * math.Sin(fy/5+2*math.Sin(fx/70))
			c = mix(glow, deep, (fy-horizon)/300+wave)
		}
		shade := 1 - 0.10*math.Sin(fx/160) // light along the ship's side
		bow := 260 + 0.5*(fy-470)
		switch {
		case y > 470 && y < 720 && fx > bow && x < 1280:
			c = mix([3]float64{}, hull, shade)
			if y > 690 {
				c = mix(c, deep, 0.7)
			}
		case y > 330 && y <= 470 && x > 420 && x < 1180:
			c = mix([3]float64{}, [3]float64{226, 222, 214}, shade*0.92)
			if y > 380 && y < 420 && (x/46)%2 == 0 {
				c = [3]float64{74, 70, 78}
			}
		case y > 190 && y <= 330 && x > 740 && x < 880:
			c = mix([3]float64{}, band, shade)
			if y < 215 {
				c = [3]float64{40, 42, 48}
			}
		}
		if d := math.Abs(fy - 560 - (1280-fx)*(1280-fx)/9000); x > 1280 && d < 7 {
			c = line
		}
		for _, at := range [][2]float64{{330, 300}, {1240, 300}, {1400, 380}, {120, 390}} {
			d := math.Hypot(fx-at[0], fy-at[1])
			if d < 26 {
				c = lamp
			} else if d < 120 {
				c = mix(lamp, c, 0.45+0.55*(d-26)/94)
			}
		}
		grain := 5 * (random.Float64() + random.Float64() - 1)
		of := func(v float64) uint8 { return uint8(min(255, max(0, v+grain))) }
		return color.NRGBA{of(c[0]), of(c[1]), of(c[2]), 255}
	})
	var out bytes.Buffer
	_ = jpeg.Encode(&out, img, &jpeg.Options{Quality: 92}) // a buffer does not fail
	return Picture{Name: "harbor-at-dusk.jpg", Data: out.Bytes()}
}
