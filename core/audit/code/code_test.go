package code_test

import (
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"huekeep/core/audit/audittest"
	"huekeep/core/audit/kinds"
)

func TestSourcesOfApplications(t *testing.T) {
	for name, c := range map[string]struct {
		file, text string
		want       []string
	}{
		"Swift": {"Theme.swift", "let buoy = UIColor(red: 0.886, green: 87/255, blue: 43.0 / 255.0, alpha: 1)\nlet sound = Color(.displayP3, red: 0.1, green: 0.9, blue: 0.3)\nlet a = #colorLiteral(red: 1, green: 0, blue: 0, alpha: 0.5) // UIColor(red: 1, green: 1, blue: 1)\nlet gray = UIColor(white: 0.5, alpha: 1)\nlet h = Color(hex: \"E2572B\"), n = UIColor(hex: 0x0E3A53)\nlet mix = UIColor(red: x, green: y, blue: z, alpha: 1)",
			[]string{"#E2572B Theme.swift 1:12, buoy", "color(display-p3 0.1 0.9 0.3) Theme.swift 2:13, sound", "#FF0000 Theme.swift 3:9, a", "#808080 Theme.swift 4:12, gray", "#E2572B Theme.swift 5:21, hex", "#0E3A53 Theme.swift 5:48, n"}},
		"which end its opacity is at": {"T.swift", "let a = UIColor(hex: \"#FFE2572B\"), b = UIColor(hex: \"#E2572BFF\"), c = UIColor(hex: \"#80E25780\")", []string{"#E2572B T.swift 1:23, hex", "#E2572B T.swift 1:54, hex", "? #80E25780 T.swift 1:85, hex"}},
		"Kotlin":                      {"Theme.kt", "val Buoy = Color(0xFFE2572B)\nval Lamp = Color(242, 182, 50)\nval Sound = Color(red = 0.0549f, green = 0.2275f, blue = 0.3255f)\nval x = Color.parseColor(\"#80E2572B\"); val id = \"order #123456\"; val s = \"${map[\"#111111\"]} #222222\"\nval accentColor = 0xFF0E3A53.toInt(); val mask = 0xFF00FF00\nval w = Color.White; val g = Color.Green", []string{"#E2572B Theme.kt 1:18, Buoy", "#F2B632 Theme.kt 2:12, Lamp", "#0E3A53 Theme.kt 3:13, Sound", "#E2572B Theme.kt 4:27, parseColor", "#0E3A53 Theme.kt 5:19, accentColor", "#FFFFFF Theme.kt 6:9, w"}},
		"Java":                        {"Theme.java", "static final Color BUOY = new Color(226, 87, 43), SOUND = new Color(0x0E3A53), HALF = new Color(0x80E2572B, true);\nnode.setStyle(\"-fx-background-color: #E2572B;\"); char q = '\"'; Color.decode(\"#F2B632\"); Color.rgb(14, 58, 83, 0.5); Color.getHSBColor(0.5f, 1, 1);", []string{"#E2572B Theme.java 1:31, BUOY", "#0E3A53 Theme.java 1:69, SOUND", "#E2572B Theme.java 1:97, HALF", "#E2572B Theme.java 2:38, setStyle, -fx-background-color", "#F2B632 Theme.java 2:78, decode", "#0E3A53 Theme.java 2:89", "? Color.getHSBColor(0.5f, 1, 1) Theme.java 2:117"}},
		"Dart":                        {"theme.dart", "const buoy = Color(0xFFE2572B);\nfinal lamp = const Color.fromARGB(255, 242, 182, 50), sound = Color.fromRGBO(14, 58, 83, 0.8), wide = Color.from(alpha: 1, red: 0.1, green: 0.9, blue: 0.3, colorSpace: ColorSpace.displayP3);\nfinal c = Colors.orange; final none = Color(0x00FFFFFF);", []string{"#E2572B theme.dart 1:20, buoy", "#F2B632 theme.dart 2:20, lamp", "#0E3A53 theme.dart 2:63, sound", "color(display-p3 0.1 0.9 0.3) theme.dart 2:103, wide"}},
		"QML":                         {"Main.qml", "Rectangle { color: \"#E2572B\"; border.color: \"tomato\"; Text { color: Qt.rgba(0.0549, 0.2275, 0.3255, 1); text: \"tomato\" } }\nItem { property color c: \"#80F2B632\" }", []string{"#E2572B Main.qml 1:21, color", "#FF6347 Main.qml 1:46, color", "#0E3A53 Main.qml 1:69, color", "#F2B632 Main.qml 2:27, c"}},
		"C#":                          {"Theme.cs", "var a = Color.FromRgb(0xE2, 0x57, 0x2B); var b = Color.FromArgb(255, 14, 58, 83);", []string{"#E2572B Theme.cs 1:9, a", "#0E3A53 Theme.cs 1:50, b"}},
		"Python":                      {"plot.py", "plt.plot(x, color='#E2572B')  # '#111111'\nax.bar(x, y, facecolor=(0.0549, 0.2275, 0.3255), edgecolor='tomato', label='tomato')\ncolor = (242, 182, 50)\nd = 'see #4 and #123456'", []string{"#E2572B plot.py 1:20, color", "#0E3A53 plot.py 2:24, facecolor", "#FF6347 plot.py 2:61, edgecolor", "#F2B632 plot.py 3:9, color"}},
	} {
		t.Run(name, func(t *testing.T) {
			assert.ElementsMatch(t, c.want, audittest.Told(t, c.file, []byte(c.text)))
			scan, err := kinds.Read(c.file, []byte(c.text))
			require.NoError(t, err)
			assert.Empty(t, scan.Unread)
		})
	}
}
