package standin

import (
	"fmt"
	"regexp"
	"strings"
)

// Web stands in for a site's build: it reads the style sheet and takes every custom property of :root.
type Web struct{}

var (
	rootRule   = regexp.MustCompile(`(?s):root\s*\{(.*?)\}`)
	rootValue  = regexp.MustCompile(`--([\p{L}\p{N}-]+)\s*:\s*(#[0-9A-Fa-f]{6})\s*;`)
	leadRemark = regexp.MustCompile(`(?s)^\s*/\*\s*(.*?)\s*\*/`)
)

// Receive takes the custom properties of a style sheet.
func (Web) Receive(file string, data []byte) (Receipt, error) {
	var r Receipt
	if m := leadRemark.FindSubmatch(data); m != nil {
		r.Title = string(m[1])
	}
	root := rootRule.FindSubmatch(data)
	if root == nil {
		return r, fmt.Errorf("%s has no :root rule", file)
	}
	for _, m := range rootValue.FindAllSubmatch(root[1], -1) {
		r.Colors = append(r.Colors, Taken{"--" + string(m[1]), strings.ToUpper(string(m[2]))})
	}
	if len(r.Colors) == 0 {
		return r, fmt.Errorf("%s has no custom properties with colors", file)
	}
	return r, nil
}
