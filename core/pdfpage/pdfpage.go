// Package pdfpage shows the pages of a PDF: the words on them with their places, the areas that are painted, and pictures of them. The
// engine is PDFium, compiled to WebAssembly: it runs in a sandbox that sees the file's bytes and nothing of the machine, with memory of its
// own that ends at a limit.
package pdfpage

import (
	"context"
	"errors"
	"fmt"
	"image"
	"image/draw"
	"io"
	"os"
	"path/filepath"
	"sync"
	"time"

	"github.com/klippa-app/go-pdfium"
	"github.com/klippa-app/go-pdfium/references"
	"github.com/klippa-app/go-pdfium/requests"
	"github.com/klippa-app/go-pdfium/webassembly"
	"github.com/tetratelabs/wazero"
	"github.com/tetratelabs/wazero/api"
	"github.com/tetratelabs/wazero/experimental"

	"huekeep/core/limits"
)

// memoryPages is how much memory the engine may take, in pages of 64 KB: 128 MB. It is set aside at once, so that it is never copied to
// grow.
const memoryPages = 128 << 4

// machine is the engine, ready to open files; it is made ready when it is first needed, which takes seconds the first time on a machine.
var machine = sync.OnceValues(func() (pdfium.Pool, error) {
	config := wazero.NewRuntimeConfig().WithMemoryLimitPages(memoryPages).WithCoreFeatures(api.CoreFeaturesV2 |
		experimental.CoreFeaturesExceptionHandling)
	if dir := cacheDir(); dir != "" {
		if cache, err := wazero.NewCompilationCacheWithDir(dir); err == nil {
			config = config.WithCompilationCache(cache)
		}
	}
	return webassembly.Init(webassembly.Config{
		Context: experimental.WithMemoryAllocator(context.Background(), experimental.MemoryAllocatorFunc(setAside)),
		MinIdle: 0, MaxIdle: 1, MaxTotal: 4,
		RuntimeConfig: config,
		FSConfig:      wazero.NewFSConfig(), // no folder of this machine
		Stdout:        io.Discard, Stderr: io.Discard,
	})
})

// room is an engine's memory.
type room struct {
	all  []byte
	used int // up to where it was lent
}

// spare is the memory of engines that ended, for the next: each is so large that it is not to lie about until it is collected.
var spare = make(chan []byte, 2)

// setAside gives an engine all that it may ever have; the machine lends what is touched.
func setAside(_, _ uint64) experimental.LinearMemory {
	select {
	case all := <-spare:
		return &room{all: all}
	default:
		return &room{all: make([]byte, memoryPages<<16)}
	}
}

func (r *room) Reallocate(size uint64) []byte {
	if size > uint64(len(r.all)) {
		return nil
	}
	r.used = max(r.used, int(size))
	return r.all[:size]
}

func (r *room) Free() {
	clear(r.all[:r.used]) // an engine begins with nothing in its memory
	select {
	case spare <- r.all:
	default:
	}
	r.all = nil
}

// cacheDir is where the engine is kept as it was made ready for this processor; empty for nowhere. It holds programs, so that it must not
// be a folder that others can write to. A service has one of its own (systemd.exec(5), CacheDirectory).
func cacheDir() string {
	dir := os.Getenv("CACHE_DIRECTORY")
	if dir == "" {
		own, err := os.UserCacheDir()
		if err != nil {
			return ""
		}
		dir = filepath.Join(own, "huekeep")
	}
	dir = filepath.Join(dir, "pdf-engine")
	if os.MkdirAll(dir, 0o700) != nil {
		return ""
	}
	if i, err := os.Stat(dir); err != nil || i.Mode().Perm()&0o022 != 0 {
		return ""
	}
	return dir
}

// patience is how long one waits for an engine that others are using.
const patience = 30 * time.Second

// File is an open PDF. It is closed when it is no longer needed, and used by one goroutine at a time.
type File struct {
	Pages  int
	engine pdfium.Pdfium
	doc    references.FPDF_DOCUMENT
}

// errDamaged is the error of a file that the engine cannot read.
var errDamaged = errors.New("the PDF is damaged")

// Open opens a PDF that needs no password. Errors are sentences without the file's name.
func Open(data []byte) (f *File, err error) {
	defer guard(&err)
	m, err := machine()
	if err != nil {
		return nil, fmt.Errorf("pages cannot be read here: %w", err)
	}
	engine, err := m.GetInstance(patience)
	if err != nil {
		return nil, fmt.Errorf("pages cannot be read now: %w", err)
	}
	f = &File{engine: engine}
	doc, err := engine.OpenDocument(&requests.OpenDocument{File: &data})
	if err != nil {
		f.Close()
		return nil, errDamaged
	}
	f.doc = doc.Document
	count, err := engine.FPDF_GetPageCount(&requests.FPDF_GetPageCount{Document: f.doc})
	if err != nil {
		f.Close()
		return nil, errDamaged
	}
	f.Pages = min(count.PageCount, limits.PDFPages)
	return f, nil
}

// Close ends it, with the memory that it took.
func (f *File) Close() {
	var err error
	defer guard(&err)
	_ = f.engine.Close()
}

// guard makes an error of a panic: the engine breaks off where a file makes it do what it must not.
func guard(err *error) {
	if r := recover(); r != nil {
		*err = errDamaged
	}
}

// Page is one page. Its places are in points from the upper left corner, as one sees it.
type Page struct {
	Number        int // from 1
	Width, Height float64
	file          *File
	page          requests.Page
	loaded        references.FPDF_PAGE
	toSeen        affine
}

// Box is a rectangle, in points from the upper left corner of a page.
type Box struct{ X0, Y0, X1, Y1 float64 }

// Width is how wide it is.
func (b Box) Width() float64 { return b.X1 - b.X0 }

// Height is how high it is.
func (b Box) Height() float64 { return b.Y1 - b.Y0 }

// With is the smallest rectangle around both.
func (b Box) With(o Box) Box {
	return Box{min(b.X0, o.X0), min(b.Y0, o.Y0), max(b.X1, o.X1), max(b.Y1, o.Y1)}
}

// Overlap is the common width and height of both; negative where they are so far apart.
func (b Box) Overlap(o Box) (width, height float64) {
	return min(b.X1, o.X1) - max(b.X0, o.X0), min(b.Y1, o.Y1) - max(b.Y0, o.Y0)
}

// Page loads a page, counted from 1. It is closed when it is no longer needed.
func (f *File) Page(n int) (p *Page, err error) {
	defer guard(&err)
	loaded, err := f.engine.FPDF_LoadPage(&requests.FPDF_LoadPage{Document: f.doc, Index: n - 1})
	if err != nil {
		return nil, errDamaged
	}
	p = &Page{Number: n, file: f, loaded: loaded.Page, page: requests.Page{ByReference: &loaded.Page}}
	width, err := f.engine.FPDF_GetPageWidth(&requests.FPDF_GetPageWidth{Page: p.page}) // as one sees it: turned
	height, wrong := f.engine.FPDF_GetPageHeight(&requests.FPDF_GetPageHeight{Page: p.page})
	if err != nil || wrong != nil || width.Width <= 0 || height.Height <= 0 {
		p.Close()
		return nil, errDamaged
	}
	p.Width, p.Height = width.Width, height.Height
	if p.toSeen, err = p.seen(); err != nil {
		p.Close()
		return nil, errDamaged
	}
	return p, nil
}

// Close frees what the page takes.
func (p *Page) Close() {
	var err error
	defer guard(&err)
	_, _ = p.file.engine.FPDF_ClosePage(&requests.FPDF_ClosePage{Page: p.loaded})
}

// affine maps places by x' = a·x + c·y + e, y' = b·x + d·y + f.
type affine struct{ a, b, c, d, e, f float64 }

func (m affine) box(b Box) Box {
	at := func(x, y float64) (float64, float64) { return m.a*x + m.c*y + m.e, m.b*x + m.d*y + m.f }
	x0, y0 := at(b.X0, b.Y0)
	out := Box{x0, y0, x0, y0}
	for _, corner := range [][2]float64{{b.X1, b.Y0}, {b.X0, b.Y1}, {b.X1, b.Y1}} {
		x, y := at(corner[0], corner[1])
		out = out.With(Box{x, y, x, y})
	}
	return out
}

// after is what maps by the other first.
func (m affine) after(o affine) affine {
	return affine{
		m.a*o.a + m.c*o.b, m.b*o.a + m.d*o.b,
		m.a*o.c + m.c*o.d, m.b*o.c + m.d*o.d,
		m.a*o.e + m.c*o.f + m.e, m.b*o.e + m.d*o.f + m.f,
	}
}

// fine is how many parts of a point the engine's whole numbers count, and far how long the lines are that it maps.
const (
	fine = 64
	far  = 1000
)

// seen maps what the file says to what one sees: it may be turned, and cut to a part.
func (p *Page) seen() (affine, error) {
	at := func(x, y float64) (float64, float64, error) {
		to, err := p.file.engine.FPDF_PageToDevice(&requests.FPDF_PageToDevice{Page: p.page, SizeX: int(p.Width * fine),
			SizeY: int(p.Height * fine), PageX: x, PageY: y})
		if err != nil {
			return 0, 0, err
		}
		return float64(to.DeviceX) / fine, float64(to.DeviceY) / fine, nil
	}
	x0, y0, err := at(0, 0)
	if err != nil {
		return affine{}, err
	}
	x1, y1, err := at(far, 0)
	if err != nil {
		return affine{}, err
	}
	x2, y2, err := at(0, far)
	return affine{(x1 - x0) / far, (y1 - y0) / far, (x2 - x0) / far, (y2 - y0) / far, x0, y0}, err
}

// Picture is the page as one sees it, as large as fits so many pixels; and how many pixels a point has there.
func (p *Page) Picture(width, height int) (img *image.NRGBA, scale float64, err error) {
	defer guard(&err)
	r, err := p.file.engine.RenderPageInPixels(&requests.RenderPageInPixels{Page: p.page, Width: width, Height: height})
	if err != nil {
		return nil, 0, errDamaged
	}
	defer r.Cleanup()
	img = image.NewNRGBA(r.Result.RenderedImage.Bounds())
	draw.Draw(img, img.Rect, image.White, image.Point{}, draw.Src) // paper, where a page is transparent
	draw.Draw(img, img.Rect, r.Result.RenderedImage, img.Rect.Min, draw.Over)
	return img, float64(img.Rect.Dx()) / p.Width, nil
}
