// Command presses writes the shipped press profiles without what the core in the browser does not ask for: the tables of
// other intents and the measurements. It takes the folder to write to.
package main

import (
	"encoding/binary"
	"fmt"
	"os"
	"path/filepath"

	"huekeep/core/press"
)

// kept are the tags that a colorimetric rendering needs, with the license.
var kept = []string{"desc", "cprt", "wtpt", "A2B1", "B2A1"}

func main() {
	for _, s := range press.Shipped {
		if err := write(s.Name, os.Args[1]); err != nil {
			fmt.Fprintln(os.Stderr, err)
			os.Exit(1)
		}
	}
}

func write(name, folder string) error {
	c, err := press.Get(name)
	if err != nil {
		return err
	}
	return os.WriteFile(filepath.Join(folder, name+".icc"), lean(c.Profile()), 0o644) // #nosec G306 G703 -- a file of the build
}

// lean is a profile (ICC.1:2022, 7.3) with the kept tags only.
func lean(profile []byte) []byte {
	tags := map[string][]byte{}
	for i := range int(binary.BigEndian.Uint32(profile[128:])) {
		entry := profile[132+12*i:]
		offset, size := binary.BigEndian.Uint32(entry[4:]), binary.BigEndian.Uint32(entry[8:])
		tags[string(entry[:4])] = profile[offset : offset+size]
	}
	head := append([]byte(nil), profile[:128]...)
	head = binary.BigEndian.AppendUint32(head, uint32(len(kept)))
	var body []byte
	at := 132 + 12*len(kept)
	for _, tag := range kept {
		head = append(head, tag...)
		head = binary.BigEndian.AppendUint32(head, uint32(at+len(body)))
		head = binary.BigEndian.AppendUint32(head, uint32(len(tags[tag])))
		body = append(body, tags[tag]...)
		for len(body)%4 != 0 {
			body = append(body, 0)
		}
	}
	out := append(head, body...)
	binary.BigEndian.PutUint32(out, uint32(len(out)))
	return out
}
