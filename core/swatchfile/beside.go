package swatchfile

import (
	"fmt"
	"math"

	"huekeep/core/color"
	"huekeep/core/library"
)

// sheerValue is a value that something may be seen through.
type sheerValue struct {
	rgb    color.RGB8
	opaque float64 // 0 to 1
}

// css writes it so that every browser and every preprocessor takes it.
func (v sheerValue) css() string {
	if v.opaque == 1 {
		return v.rgb.Hex()
	}
	return fmt.Sprintf("rgba(%d, %d, %d, %s)", v.rgb.R, v.rgb.G, v.rgb.B, short(v.opaque, 2))
}

// hex writes it with 8 digits where something is seen through it (CSS Color 4, 5.2).
func (v sheerValue) hex() string {
	if v.opaque == 1 {
		return v.rgb.Hex()
	}
	return fmt.Sprintf("%s%02X", v.rgb.Hex(), int(math.Round(v.opaque*255)))
}

// packedValue is a companion as packings for programs carry it.
type packedValue struct {
	title string
	sheerValue
}

// beside lists what packings for programs carry beside a color: its companions, and before the first sheer of an opacity what is laid over
// grounds.
func beside(c library.Color) (out []packedValue) {
	opacities := map[int]bool{}
	for _, r := range c.Packed() {
		if r.Kind == "sheer" && !opacities[r.Amount] {
			opacities[r.Amount] = true
			out = append(out, packedValue{r.Title(c.Name), sheerValue{c.RGB, float64(r.Amount) / 100}})
		}
		out = append(out, packedValue{r.Name(c.Name), sheerValue{r.Value, 1}})
	}
	return out
}
