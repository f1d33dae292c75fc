// Package ui holds the built interface. A checkout without Node compiles all the same: then only a placeholder is there.
package ui

import (
	"embed"
	"io/fs"
)

//go:embed all:built
var built embed.FS

// Built is the interface as Vite built it, or an empty folder.
func Built() fs.FS {
	sub, err := fs.Sub(built, "built/app")
	if err != nil {
		panic(err) // the path is valid
	}
	return sub
}

// Notices are the licenses of what ships and was made by others: fonts and press profiles, and code, of which scripts/notices writes them.
var Notices = notices + code

//go:embed notices.txt
var notices string

//go:embed notices-code.txt
var code string
