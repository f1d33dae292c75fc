package main

import (
	"bufio"
	"fmt"
	"os"
	"strings"

	"huekeep/core/color"
)

func main() {
	s := bufio.NewScanner(os.Stdin)
	for s.Scan() {
		for _, l := range color.ReadList(strings.ReplaceAll(s.Text(), "⏎", "\n")) {
			out := fmt.Sprintf("%q %s", l.Name, l.RGB.Hex())
			if l.CMYK != nil {
				out += " cmyk " + l.CMYK.String()
			}
			if l.Err != nil {
				out += " ERR " + l.Err.Error()
			}
			if l.Note != "" {
				out += " NOTE " + l.Note
			}
			fmt.Printf("%-52s => %s\n", l.Text, out)
		}
	}
}
