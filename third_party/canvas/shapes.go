package canvas

// Rectangle returns a rectangle of width w and height h.
func Rectangle(w, h float64) *Path {
	if Equal(w, 0.0) || Equal(h, 0.0) {
		return &Path{}
	}

	p := &Path{}
	p.LineTo(w, 0.0)
	p.LineTo(w, h)
	p.LineTo(0.0, h)
	p.Close()
	return p
}
