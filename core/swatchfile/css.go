package swatchfile

import (
	"fmt"
	"strings"

	"huekeep/core/library"
)

// WriteCSS writes an edition as CSS custom properties on :root, in the order of the set: the colors, their scales and permitted tints, what
// stands on them by the house's rules, and gradients. A color that sRGB does not reach has its own value below, for screens that show more.
func WriteCSS(e library.Edition) ([]byte, error) { return writeProperties(e, ":root", "") }

// WriteUtilityCSS writes an edition as the theme block of a utility-class framework: properties in the namespace of colors, from which
// such a framework makes its classes.
func WriteUtilityCSS(e library.Edition) ([]byte, error) {
	return writeProperties(e, "@theme", "color-")
}

func writeProperties(e library.Edition, rule, namespace string) ([]byte, error) {
	s, err := sheet(e, cssName, "-")
	if err != nil {
		return nil, err
	}
	var b strings.Builder
	fmt.Fprintf(&b, "/* %s */\n%s {\n", comment(e.Title()), rule)
	for _, v := range s.values {
		fmt.Fprintf(&b, "  --%s%s: %s; /* %s */\n", namespace, v.name, v.css(), comment(v.title))
	}
	if len(s.on) > 0 {
		b.WriteString("\n  /* what stands on a ground, by the rules of the house */\n")
		for _, p := range s.on {
			fmt.Fprintf(&b, "  --%son-%s: var(--%s%s);\n", namespace, p.ground, namespace, p.color)
		}
	}
	if len(s.gradients) > 0 {
		b.WriteString("\n")
		for _, g := range s.gradients {
			fmt.Fprintf(&b, "  --gradient-%s: %s; /* %s */\n", g.name,
				g.css(func(name string) string { return "var(--" + namespace + name + ")" }), comment(g.title))
		}
	}
	b.WriteString("}\n")
	wide := ""
	for _, v := range s.values {
		if v.wide != "" {
			wide += fmt.Sprintf("    --%s%s: %s;\n", namespace, v.name, v.wide)
		}
	}
	switch {
	case wide == "":
	case e.Before(6): // what was sent then
		fmt.Fprintf(&b, "\n/* measured, beyond what a plain screen shows */\n@supports (color: oklch(0.5 0.1 0)) {\n  :root {\n%s  }\n}\n",
			wide)
	default:
		fmt.Fprintf(&b, "\n/* beyond sRGB, on screens that show more */\n@supports (color: oklch(0.5 0.1 0)) {\n  @media (color-gamut: p3) {\n    :root {\n%s    }\n  }\n}\n",
			strings.ReplaceAll(wide, "    --", "      --"))
	}
	return []byte(b.String()), nil
}

// cssName is what a custom property can be called: letters, digits and hyphens.
func cssName(name string) string { return Slug(name) }

// cssLoses is what custom properties leave out, and which of them had to be told from another of the same name.
func cssLoses(e library.Edition) []lost {
	out := printValuesLost(e, "Custom properties")
	for i, name := range colorNames(e, cssName) {
		if Slug(e.Colors[i].Name) != name {
			out = append(out, lost{"some names",
				fmt.Sprintf("A custom property's name has letters, digits and hyphens only; that of %s is --%s, since another color has the one before", e.Colors[i].Name, name)})
		}
	}
	return out
}
