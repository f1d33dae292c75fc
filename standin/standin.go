// Package standin simulates the outside world: applications that receive packings, a mail server, a color reader. The applications
// open what they are given with readers of their own, take what they can and say so, as the real ones would.
package standin

import (
	"fmt"
	"slices"
	"strings"
	"time"

	"huekeep/outside"
)

// World is all that is simulated of what the rules ask for.
func World() outside.World {
	return outside.World{Applications: Applications(), Bench: NewBench(uint64(time.Now().UnixNano()))}
}

// reader opens one kind of file.
type reader struct {
	extension string
	read      func(data []byte) (outside.Receipt, error)
}

// program is an application that is no more than the files it opens.
type program struct {
	readers []reader
	boxes   int // that colors go into, 0 for as many as come
}

// Applications are the receiving applications, by the kind of recipient that has one.
func Applications() map[string]outside.Application {
	office := func(data []byte) (outside.Receipt, error) { return readOffice(data) }
	return map[string]outside.Application{
		"office": program{readers: []reader{{".pptx", office}, {".potx", office}, {".xlsx", office}, {".xltx", office}, {".docx", office},
			{".dotx", office},
			{".theme.xml", readTheme}, {".otp", readOpenDocument}, {".ots", readOpenDocument}, {".ott", readOpenDocument}, {".soc",
				readMarkup}}},
		"video": program{boxes: 16, readers: []reader{{".video.csv", readBoxes}, {".1080.png", readPicture}, {".2160.png", readPicture},
			{".card.svg", readMarkup}, {".vtt", readMarkup},
			{".ttml", readMarkup}, {".ass", readSubStation}, {".lottie.json", readAnimation}, {".mlt", readMarkup}, {".key-in.pdf",
				readPDF}, {".png", readPicture}}},
		"web": program{readers: []reader{{".theme.css", readStyles}, {".css", readStyles}, {".scss", readMarkup}, {".ts", readMarkup},
			{".tokens.json", readMarkup}, {".strings.json", readMarkup},
			{".tgz", readPackage}, {".json", readMarkup}}},
		"print":  program{readers: []reader{{".print.pdf", readPDF}, {".cxf", readExchange}, {".pdf", readPDF}}},
		"client": program{readers: []reader{{".png", readPicture}, {".svg", readMarkup}, {".pdf", readPDF}}},
	}
}

// Receive opens the file with the reader for its kind.
func (p program) Receive(file string, data []byte) (outside.Receipt, error) {
	var known []string
	for _, r := range p.readers {
		if !strings.HasSuffix(strings.ToLower(file), r.extension) {
			known = append(known, r.extension)
			continue
		}
		out, err := r.read(data)
		if err != nil {
			return out, fmt.Errorf("%s cannot be opened: %w", file, err)
		}
		if len(out.Colors) == 0 {
			return out, fmt.Errorf("%s has no colors", file)
		}
		if p.boxes > 0 && len(out.Colors) > p.boxes && r.extension == ".video.csv" {
			out.Note = fmt.Sprintf("It has %d boxes; %d of %d colors did not fit.", p.boxes, len(out.Colors)-p.boxes, len(out.Colors))
			out.Colors = out.Colors[:p.boxes]
		}
		return out, nil
	}
	return outside.Receipt{}, fmt.Errorf("it cannot take %s; it takes %s", file, strings.Join(slices.Compact(known), ", "))
}
