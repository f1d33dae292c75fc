package repaint_test

import (
	"os"
	"path/filepath"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"huekeep/core/audit"
	"huekeep/core/audit/kinds"
	"huekeep/core/repaint"
)

// What other programs wrote is read with every color that was planted in it, and repainted in all of them.
func TestTextsOfOtherPrograms(t *testing.T) {
	rules := audit.Rules{Colors: brand}
	for name, planted := range map[string][]string{
		"lines.dot":  {"#F7F5F0", "#0E3A53", "#FFFFFF", "#E2572B", "#F2B632", "#FF6347", "#E1562A", "#4E7D5B", "#144E66"}, // Graphviz, with the layout
		"guide.tex":  {"#BF0303", "#0057AD", "#B08000", "#E0E8F7"},                                                        // Pandoc
		"guide.md":   {"#E2572B", "#F2B632", "#0E3A53"},
		"guide.epub": {"#60A0B0", "#BA2121", "#0E3A53"},
		"news.eml":   {"#0E3A53", "#F7F5F0", "#E1562A", "#F2B632"}, // the mail package of Python
		"plot.ipynb": {"#E2572B", "#F2B632", "#0E3A53", "#E1562A", "#4E7D5B"},
	} {
		t.Run(name, func(t *testing.T) {
			data, err := os.ReadFile(filepath.Join("..", "audit", "kinds", "testdata", "foreign", name))
			require.NoError(t, err)
			judged := func(data []byte) map[string]audit.Verdict {
				scan, err := kinds.Read(name, data)
				require.NoError(t, err)
				assert.Empty(t, scan.Unread)
				out := map[string]audit.Verdict{}
				for _, c := range audit.NewJudge(rules).Judge(name, scan).Colors {
					out[c.Hex] = c.Verdict
				}
				return out
			}
			before := judged(data)
			var plan repaint.Plan
			for _, hex := range planted {
				require.Contains(t, before, hex)
				if before[hex] != audit.OnBrand {
					plan.Colors = append(plan.Colors, repaint.Step{From: hex, To: "Lamp"})
				}
			}
			r, err := repaint.File(name, data, rules, plan, kinds.Options{})
			require.NoError(t, err)
			assert.Empty(t, r.Left)
			after := judged(r.Data)
			for _, s := range plan.Colors {
				assert.NotContains(t, after, s.From)
			}
			for hex, verdict := range before {
				if verdict == audit.OnBrand {
					assert.Contains(t, after, hex, "it stayed")
				}
			}
		})
	}
}
