package swatchfile

import (
	"archive/tar"
	"bytes"
	"compress/gzip"
	"encoding/json"
	"errors"
	"fmt"
	"strings"
	"unicode"

	"golang.org/x/text/unicode/norm"

	"huekeep/core/library"
)

// packageName names the package of a set as registries take it: letters of ASCII, digits and "-", 100 at most. It is that of every edition.
func packageName(e library.Edition) string {
	var b strings.Builder
	for _, r := range norm.NFKD.String(Slug(e.House + " " + e.Set)) {
		switch {
		case r == 'ß':
			b.WriteString("ss")
		case r < unicode.MaxASCII:
			b.WriteRune(r)
		case unicode.Is(unicode.Mn, r): // an accent
		default:
			b.WriteByte('-')
		}
	}
	name := strings.Join(strings.FieldsFunc(b.String(), func(r rune) bool { return r == '-' }), "-")
	if len(name) > 100 {
		name = strings.TrimRight(name[:100], "-")
	}
	if name == "" {
		return "house-colors"
	}
	return name
}

// WritePackage writes an edition as a package for bundlers: the style sheets, the module with its types, and tokens, each under a name that
// is imported from the package's. Its version is the edition.
func WritePackage(e library.Edition) ([]byte, error) {
	name := packageName(e)
	about, err := json.MarshalIndent(map[string]any{
		"name": name, "version": fmt.Sprintf("%d.0.0", e.Number), "description": oneLine(e.Title()), "license": "UNLICENSED",
		"type": "module", "sideEffects": []string{"*.css"},
		"main": "./colors.js", "module": "./colors.js", "types": "./colors.d.ts", "style": "./colors.css", "sass": "./colors.scss",
		"exports": map[string]any{
			".": map[string]string{"types": "./colors.d.ts", "style": "./colors.css", "sass": "./colors.scss",
				"default": "./colors.js"},
			// who imports one for its effect is not told that there is none
			"./colors.css":  map[string]string{"types": "./css.d.ts", "default": "./colors.css"},
			"./theme.css":   map[string]string{"types": "./css.d.ts", "default": "./theme.css"},
			"./colors.scss": "./colors.scss",
			"./colors.ts":   "./source/colors.ts",
			"./tokens.json": "./tokens.json", "./package.json": "./package.json",
		},
	}, "", "  ")
	if err != nil {
		return nil, err
	}
	var out bytes.Buffer
	z, err := gzip.NewWriterLevel(&out, gzip.BestCompression)
	if err != nil {
		return nil, err
	}
	w := tar.NewWriter(z)
	for _, f := range []struct {
		name  string
		write func(library.Edition) ([]byte, error)
	}{
		{"package.json", func(library.Edition) ([]byte, error) { return append(about, '\n'), nil }},
		{"README.md", func(library.Edition) ([]byte, error) { return packageReadme(e, name), nil }},
		{"colors.css", WriteCSS},
		{"theme.css", WriteUtilityCSS},
		{"colors.scss", WriteSCSS},
		{"colors.js", func(e library.Edition) ([]byte, error) { return module(e, false) }},
		{"colors.d.ts", declarations},
		{"css.d.ts", func(library.Edition) ([]byte, error) { return []byte("export {};\n"), nil }},
		{"source/colors.ts", WriteTypeScript},
		{"tokens.json", WriteTokens},
	} {
		data, err := f.write(e)
		if err == nil {
			err = w.WriteHeader(&tar.Header{Name: "package/" + f.name, Mode: 0o644, Size: int64(len(data)), ModTime: timeOf(e),
				Format: tar.FormatUSTAR})
		}
		if err == nil {
			_, err = w.Write(data)
		}
		if err != nil {
			return nil, fmt.Errorf("%s: %w", f.name, err)
		}
	}
	if err := errors.Join(w.Close(), z.Close()); err != nil {
		return nil, err
	}
	return out.Bytes(), nil
}

func packageReadme(e library.Edition, name string) []byte {
	var b strings.Builder
	fmt.Fprintf(&b, "# %s\n\n%d colors. The version of this package is the edition.\n\n```js\nimport { colors, order, value } from '%s';\nimport '%s/colors.css';\n```\n\n```scss\n@use 'pkg:%s/colors.scss';\n```\n\n",
		oneLine(e.Title()), len(e.Colors), name, name, name)
	for _, f := range [][2]string{{"colors.css", "custom properties"}, {"theme.css", "a theme block for utility classes"},
		{"colors.scss", "variables and maps"}, {"tokens.json", "design tokens"},
		{"colors.ts", "the module as it is written, with types"}} {
		fmt.Fprintf(&b, "- `%s/%s`: %s\n", name, f[0], f[1])
	}
	return []byte(b.String())
}

// packageLoses is what the style sheets of the package leave out, and which names of its module were mended.
func packageLoses(e library.Edition) []lost {
	out := cssLoses(e)
	for _, l := range typeScriptLoses(e) {
		if l.what == "some names" {
			out = append(out, l)
		}
	}
	return out
}

// declarations are the types of the module without them.
func declarations(e library.Edition) ([]byte, error) {
	s, err := sheet(e, memberName, "_")
	if err != nil {
		return nil, err
	}
	var b strings.Builder
	fmt.Fprintf(&b, "/** %s */\nexport declare const colors: {\n", comment(e.Title()))
	for _, v := range s.values {
		fmt.Fprintf(&b, "  /** %s */\n  readonly %s: '%s';\n", comment(v.title), v.name, v.hex())
	}
	b.WriteString("};\n\n" + nameTypes +
		"/** The colors of the set in their order, as a chart takes them. */\nexport declare const order: readonly ColorName[];\n\n" +
		"/** What stands on a ground, by the rules of the house. */\nexport declare const on: Partial<Record<ColorName, ColorName>>;\n\n" +
		gradientType +
		"export declare const gradients: Record<string, Gradient>;\n\n/** The value of a color. */\nexport declare function value(name: ColorName): Hex;\n")
	if len(s.beyond(e)) > 0 {
		b.WriteString("\n/** Colors beyond sRGB, as CSS writes them for screens that show more. */\nexport declare const wide: Partial<Record<ColorName, string>>;\n")
	}
	return []byte(b.String()), nil
}
