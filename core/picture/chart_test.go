package picture_test

import (
	"fmt"
	"image"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"huekeep/core/color"
	"huekeep/core/picture"
	"huekeep/core/scale"
)

func patches(img *image.NRGBA) []string {
	out := []string{}
	for _, p := range picture.Chart(img) {
		out = append(out, p.Color.Hex())
	}
	return out
}

// Neighbors of a step scale differ by little and touch; without noise each stays a patch of its own.
func TestTouchingStepsOfOneColorStayApart(t *testing.T) {
	img := canvas(1100, 200, "#FFFFFF")
	var want []string
	for i, s := range scale.Steps(hex("#1D6F6A")) {
		fill(img, s.Color.Hex(), 100*i, 0, 100, 200)
		want = append(want, s.Color.Hex())
	}
	assert.Equal(t, want, patches(img))
	near := canvas(400, 200, "#FFFFFF")
	for i, c := range []string{"#E2572B", "#E1572C", "#E0562B", "#DF552A"} {
		fill(near, c, 100*i, 0, 100, 200)
	}
	assert.Equal(t, []string{"#E2572B", "#E1572C", "#E0562B", "#DF552A"}, patches(near), "even a level apart")
}

func TestOtherLayoutsOfPalettes(t *testing.T) {
	t.Run("a hundred patches", func(t *testing.T) {
		img := canvas(1000, 1000, "#FFFFFF")
		var want []string
		for i := range 100 {
			c := color.OKLCH{L: 0.35 + 0.05*float64(i/10), C: 0.1, H: 36 * float64(i%10)}.OKLab().RGB().RGB8().Hex()
			fill(img, c, 100*(i%10)+5, 100*(i/10)+5, 90, 90)
			want = append(want, c)
		}
		assert.Equal(t, want, patches(img))
	})
	t.Run("stripes of different width", func(t *testing.T) {
		img := canvas(1000, 300, "#FFFFFF")
		x := 0
		for i, w := range []int{400, 250, 150, 120, 80} {
			fill(img, ferry[i], x, 0, w, 300)
			x += w
		}
		assert.Equal(t, ferry[:5], patches(img))
	})
	t.Run("rows from edge to edge", func(t *testing.T) {
		img := canvas(400, 600, "#FFFFFF")
		for i := range 6 {
			fill(img, ferry[i], 0, 100*i, 400, 100)
			write(t, img, "Color of the harbor", "#FFFFFF", 24, 20, 100*i+60)
		}
		assert.Equal(t, ferry[:6], patches(img))
	})
	t.Run("on a transparent ground", func(t *testing.T) {
		img := image.NewNRGBA(image.Rect(0, 0, 700, 200))
		for i := range 6 {
			fill(img, ferry[i], 20+110*i, 20, 90, 160)
		}
		assert.Equal(t, ferry[:6], patches(img))
	})
	t.Run("on a dark ground with a heading", func(t *testing.T) {
		img := canvas(900, 500, "#1E1E1E")
		write(t, img, "Winter board, second draft", "#E8E8E8", 40, 40, 80)
		for i := range 8 {
			fill(img, ferry[[]int{1, 2, 3, 4, 5, 6, 8, 9}[i]], 40+210*(i%4), 120+180*(i/4), 190, 150)
		}
		assert.Equal(t, []string{ferry[1], ferry[2], ferry[3], ferry[4], ferry[5], ferry[6], ferry[8], ferry[9]}, patches(img))
	})
	t.Run("one large and four small", func(t *testing.T) {
		img := canvas(800, 400, "#FFFFFF")
		fill(img, ferry[0], 0, 0, 400, 400)
		for i := range 4 {
			fill(img, ferry[i+1], 400+200*(i%2), 200*(i/2), 200, 200)
		}
		got := patches(img)
		require.Len(t, got, 5)
		assert.ElementsMatch(t, ferry[:5], got)
	})
}

func TestWhatIsNoPaletteIsNotTakenForOne(t *testing.T) {
	for name, draw := range map[string]func(*image.NRGBA){
		"two halves": func(img *image.NRGBA) { fill(img, ferry[0], 0, 0, 300, 400) },
		"text only":  func(img *image.NRGBA) { write(t, img, "HARBOR OPEN", "#111111", 70, 20, 200) },
		"bars of a chart": func(img *image.NRGBA) {
			for i, h := range []int{60, 330, 140, 260} {
				fill(img, ferry[0], 40+130*i, 380-h, 60, h)
			}
		},
		"scattered pieces": func(img *image.NRGBA) {
			for i := range 7 {
				fill(img, ferry[i], 37*i*i%520, 91*i%350, 20+i*9, 15+i*i)
			}
		},
	} {
		img := canvas(600, 400, "#F7F5F0")
		draw(img)
		assert.Empty(t, patches(img), name)
	}
}

// The answer must not depend on the size that a palette was saved at.
func TestThePaletteIsTheSameAtAnySize(t *testing.T) {
	for _, s := range []int{20, 60, 200, 700} {
		img := canvas(5*s, s, "#FFFFFF")
		for i := range 5 {
			fill(img, ferry[i], s*i, 0, s, s)
		}
		assert.Equal(t, ferry[:5], patches(img), fmt.Sprintf("%d pixels a patch", s))
	}
}

func TestPalettesInTheirSurroundings(t *testing.T) {
	six := []string{ferry[0], ferry[1], ferry[2], ferry[3], ferry[5], ferry[6]}
	row := func(img *image.NRGBA, x, y, w, h, gap int) {
		for i, c := range six {
			fill(img, c, x+i*(w+gap), y, w, h)
		}
	}
	t.Run("under a header bar", func(t *testing.T) {
		img := canvas(1200, 700, "#FFFFFF")
		fill(img, "#7A1F3D", 0, 0, 1200, 110)
		write(t, img, "Ferries, spring palette", "#FFFFFF", 48, 40, 75)
		row(img, 60, 200, 160, 380, 24)
		assert.Equal(t, six, patches(img))
	})
	t.Run("between a header and a footer", func(t *testing.T) {
		img := canvas(1200, 700, "#F4F4F4")
		fill(img, "#2B2B2B", 0, 0, 1200, 90)
		fill(img, "#2B2B2B", 0, 640, 1200, 60)
		row(img, 60, 160, 160, 400, 24)
		assert.Equal(t, six, patches(img))
	})
	t.Run("above a photo", func(t *testing.T) {
		img := canvas(1200, 900, "#FFFFFF")
		scene := photo(1200, 640)
		copy(img.Pix[260*img.Stride:], scene.Pix)
		row(img, 0, 0, 200, 260, 0)
		assert.Equal(t, six, patches(img))
	})
	t.Run("as circles of a frame over a photo", func(t *testing.T) {
		img := photo(1200, 900)
		fill(img, "#FFFFFF", 100, 620, 1000, 200)
		row(img, 140, 650, 130, 140, 28)
		assert.Equal(t, six, patches(img))
	})
	t.Run("in a dark program window", func(t *testing.T) {
		img := canvas(1440, 900, "#2D2D30")
		fill(img, "#1B1B1C", 0, 0, 1440, 44)
		write(t, img, "Untitled board   File  Edit  View", "#C8C8C8", 20, 16, 30)
		fill(img, "#252526", 0, 44, 260, 856)
		for i := range 9 {
			write(t, img, "Layer of the picture", "#BBBBBB", 18, 20, 100+i*40)
		}
		fill(img, "#3F3F46", 260, 44, 1180, 40)
		fill(img, "#007ACC", 0, 872, 1440, 28)
		row(img, 330, 300, 150, 150, 24)
		assert.Equal(t, six, patches(img))
	})
	t.Run("in a window on a photo of a desktop", func(t *testing.T) {
		img := photo(1400, 900)
		fill(img, "#1E1E1E", 200, 120, 1000, 640)
		fill(img, "#333333", 200, 120, 1000, 40)
		for i := range 8 {
			c := append(append([]string{}, six...), ferry[8], ferry[9])[i]
			fill(img, c, 250+230*(i%4), 220+240*(i/4), 200, 200)
		}
		assert.Equal(t, append(append([]string{}, six...), ferry[8], ferry[9]), patches(img))
	})
	t.Run("a photo alone, with a few flat things", func(t *testing.T) {
		img := photo(1200, 900)
		fill(img, "#B8442A", 300, 500, 120, 80)
		fill(img, "#F7F5F0", 700, 300, 90, 200)
		fill(img, "#222222", 100, 700, 260, 40)
		assert.Empty(t, patches(img))
	})
	t.Run("a page with buttons", func(t *testing.T) {
		img := canvas(1200, 900, "#FFFFFF")
		copy(img.Pix[300*img.Stride:], photo(1200, 500).Pix)
		for i, c := range []string{"#0E3A53", "#E2572B", "#0E3A53"} {
			fill(img, c, 700+150*i, 40, 120, 44)
		}
		assert.Empty(t, patches(img))
	})
}
