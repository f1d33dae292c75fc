package manual

import (
	"bytes"
	"fmt"
	"image/png"

	"huekeep/core/color"
	"huekeep/core/ink"
	"huekeep/core/pdfpage"
)

// Picture is a page as one sees it, beside what was read on it.
type Picture struct {
	Page          int
	Width, Height float64 // points
	PNG           []byte  // empty where all pages together would be too much
}

// Manual is a finished document in which colors are written down.
type Manual struct {
	Pages    int // of the document
	Colors   []Color
	Pictures []Picture // of the pages that have colors
	Notes    []string
}

const (
	pictureSide  = 1000    // pixels of a picture across, at the most; half as many more down
	pictureBytes = 8 << 20 // of all pictures
	mostRead     = 60      // pages with values that are read
)

// FromPDF reads a PDF. The builds are those that its pages paint with, by page, as far as they are known.
func FromPDF(data []byte, builds map[int][]color.CMYK, book *ink.Book) (m Manual, err error) {
	f, err := pdfpage.Open(data)
	if err != nil {
		return m, err
	}
	defer f.Close()
	m.Pages = f.Pages
	var pages []Page
	shown := map[int]Picture{}
	bytes := 0
	for n := 1; n <= f.Pages; n++ {
		p, picture, err := readPage(f, n, builds[n], book)
		switch {
		case err != nil:
			m.Notes = append(m.Notes, fmt.Sprintf("Page %d was not read: %v.", n, err))
		case p != nil && len(pages) == mostRead:
			m.Notes = append(m.Notes, fmt.Sprintf("Values stand on over %d pages; what stands on page %d and behind it was not read.",
				mostRead, n))
			n = f.Pages
		case p != nil:
			pages = append(pages, *p)
			if bytes += len(picture.PNG); bytes > pictureBytes {
				picture.PNG = nil
			}
			shown[n] = picture
		}
	}
	m.Colors = Read(pages, book)
	m.most()
	for _, p := range pages {
		for _, c := range m.Colors {
			if c.Page == p.Number {
				m.Pictures = append(m.Pictures, shown[p.Number])
				break
			}
		}
	}
	return m, nil
}

// readPage reads a page, and takes its picture; nil if nothing on it looks like a value.
func readPage(f *pdfpage.File, n int, builds []color.CMYK, book *ink.Book) (*Page, Picture, error) {
	at, err := f.Page(n)
	if err != nil {
		return nil, Picture{}, err
	}
	defer at.Close()
	words, err := at.Words()
	if err != nil || !Promising(words, book) {
		return nil, Picture{}, err
	}
	img, scale, err := at.Picture(pictureSide, pictureSide*3/2)
	if err != nil {
		return nil, Picture{}, err
	}
	areas, err := at.Areas(img, scale)
	if err != nil {
		return nil, Picture{}, err
	}
	p := &Page{Number: n, Width: at.Width, Height: at.Height, Words: words, Areas: areas}
	if len(builds) > 0 {
		if p.Builds, err = pdfpage.Shown(builds); err != nil {
			return nil, Picture{}, err
		}
	}
	var b bytes.Buffer
	if err := (&png.Encoder{CompressionLevel: png.BestSpeed}).Encode(&b, img); err != nil {
		return nil, Picture{}, err
	}
	return p, Picture{n, at.Width, at.Height, b.Bytes()}, nil
}
