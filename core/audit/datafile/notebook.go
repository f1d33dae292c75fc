package datafile

import (
	"bytes"
	"encoding/base64"
	"encoding/json"
	"fmt"
	"strings"

	"huekeep/core/audit"
	"huekeep/core/audit/code"
	"huekeep/core/audit/scanning"
	"huekeep/core/audit/web"
	"huekeep/core/limits"
	"huekeep/core/source"
)

// noteCell is a cell of a notebook while it is read.
type noteCell struct {
	kind    string
	source  []run
	outputs []output
}

// run is a text of a JSON file.
type run struct{ start, end int }

// output is one form of what a cell gave.
type output struct {
	mime  string
	texts []run
}

// ScanNotebook reads a notebook (the open nbformat 4): the code of its cells, their Markdown, and what they gave as pictures, drawings and
// pages.
func ScanNotebook(s *scanning.Scanner, p *source.Part, name string) (string, error) {
	data, err := scanning.PlainText(p)
	if err != nil {
		return "", err
	}
	if len(data) > limits.LibraryBytes {
		return "", fmt.Errorf("it has %s; of notebooks, at most %s are read", limits.Size(int64(len(data))),
			limits.Size(limits.LibraryBytes))
	}
	cells, err := notebookCells(string(data))
	if err != nil {
		return "", err
	}
	for i, c := range cells {
		if err := s.Watch.At(fmt.Sprintf("cell %d of %d", i+1, len(cells)), float64(i)/float64(len(cells))); err != nil {
			return "", err
		}
		place := fmt.Sprintf("%s cell %d", name, i+1)
		scan := code.ScanCode
		if c.kind == "markdown" {
			scan = web.ScanMarkdown
		}
		if c.kind == "code" || c.kind == "markdown" {
			if err := jsonLines(s, p, data, c.source, place, scan); err != nil {
				return "", err
			}
		}
		for _, o := range c.outputs {
			at := place + ", output"
			switch {
			case o.mime == "text/html":
				err = jsonLines(s, p, data, o.texts, at, web.ScanHTML)
			case o.mime == "image/svg+xml":
				err = jsonLines(s, p, data, o.texts, at, web.ScanSVG)
			case strings.HasPrefix(o.mime, "image/"):
				err = packedPicture(s, p, data, o.texts, at)
			}
			if err != nil {
				return "", err
			}
		}
	}
	return audit.Plural(len(cells), "cell"), s.Tally.Check()
}

// joined is what texts of a JSON file say one behind the other.
func joined(data []byte, texts []run) (all string, each []string) {
	for _, t := range texts {
		each = append(each, unquote(string(data[t.start:t.end])))
	}
	return strings.Join(each, ""), each
}

// jsonLines scans a text that is a list of its lines, or one text, in JSON.
func jsonLines(s *scanning.Scanner, p *source.Part, data []byte, texts []run, place string,
	scan func(*scanning.Scanner, *source.Part, string) (string, error)) error {
	if len(texts) == 0 {
		return nil
	}
	all, each := joined(data, texts)
	first, last := texts[0].start, texts[len(texts)-1].end
	in, err := p.Within(place, first, last, []byte(all), func(now []byte) ([]byte, error) {
		pieces := []string{string(now)}
		if len(texts) > 1 {
			pieces = strings.SplitAfter(string(now), "\n")
			if n := len(pieces); pieces[n-1] == "" {
				pieces = pieces[:n-1]
			}
		}
		if len(pieces) != len(texts) {
			return nil, fmt.Errorf("%s: its lines would be others", place)
		}
		var b bytes.Buffer
		for i, piece := range pieces {
			if i > 0 {
				b.Write(data[texts[i-1].end:texts[i].start])
			}
			if piece == each[i] {
				b.Write(data[texts[i].start:texts[i].end])
				continue
			}
			var one bytes.Buffer
			e := json.NewEncoder(&one)
			e.SetEscapeHTML(false)
			if err := e.Encode(piece); err != nil {
				return nil, err
			}
			b.Write(bytes.TrimRight(one.Bytes(), "\n"))
		}
		return b.Bytes(), nil
	})
	if err != nil {
		s.Unread(place, err)
		return nil
	}
	inside := *s
	inside.Inside = true
	if _, err := scan(&inside, in, place); err != nil {
		if err := s.Watch.At(place, -1); err != nil {
			return err
		}
		s.Unread(place, err)
	}
	return s.Tally.Check()
}

// packedPicture scans a picture that a notebook holds in base64.
func packedPicture(s *scanning.Scanner, p *source.Part, data []byte, texts []run, place string) error {
	if len(texts) == 0 {
		return nil
	}
	all, _ := joined(data, texts)
	picture, err := base64.StdEncoding.DecodeString(strings.Join(strings.Fields(all), ""))
	if err != nil {
		s.Unread(place, fmt.Errorf("what is embedded there is not base64"))
		return nil
	}
	in, err := p.Within("picture", texts[0].start, texts[len(texts)-1].end, picture, func(now []byte) ([]byte, error) {
		end := ""
		if strings.HasSuffix(all, "\n") {
			end = `\n`
		}
		return []byte(`"` + base64.StdEncoding.EncodeToString(now) + end + `"`), nil
	})
	if err != nil {
		s.Unread(place, err)
		return nil
	}
	return s.Embedded(in, place)
}

// notebookCells reads where the texts of a notebook's cells stand.
func notebookCells(text string) (out []noteCell, err error) {
	in := jsonText{data: text}
	var path []string // the names of what is open; "" for a list and what it holds
	key := ""
	var now *noteCell
	var mime string
	for count := 0; ; count++ {
		g := in.next()
		if count > limits.JSONValues {
			return nil, fmt.Errorf("it holds over %d values", limits.JSONValues)
		}
		switch g {
		case jsonEnd, jsonWrong:
			if g == jsonWrong || len(path) > 0 {
				return nil, fmt.Errorf("line %d is not JSON", 1+strings.Count(text[:min(in.at, len(text))], "\n"))
			}
			if out == nil {
				out = []noteCell{}
			}
			return out, nil
		case '{', '[':
			if len(path) >= limits.Depth {
				return nil, fmt.Errorf("it is nested over %d deep", limits.Depth)
			}
			path = append(path, key)
			key = ""
			if g == '{' && len(path) == 3 && path[1] == "cells" {
				out = append(out, noteCell{})
				now = &out[len(out)-1]
			}
			if len(path) == 6 && path[3] == "outputs" && path[5] == "data" && now != nil {
				mime = ""
			}
		case '}', ']':
			path = path[:len(path)-1]
			if len(path) == 2 {
				now = nil
			}
			key = ""
		case jsonKey:
			key = unquote(text[in.start:in.end])
			if len(path) == 6 && path[5] == "data" && path[3] == "outputs" && now != nil {
				mime = key
				now.outputs = append(now.outputs, output{mime: mime})
			}
		case '"':
			at := run{in.start, in.end}
			switch {
			case now == nil:
			case len(path) == 3 && key == "cell_type":
				now.kind = unquote(text[in.start:in.end])
			case len(path) == 3 && key == "source", len(path) == 4 && path[3] == "source":
				now.source = append(now.source, at)
			case mime != "" && path[min(5, len(path)-1)] == "data" && (len(path) == 6 || len(path) == 7 && path[6] == mime):
				o := &now.outputs[len(now.outputs)-1]
				o.texts = append(o.texts, at)
			}
			key = ""
		default:
			key = ""
		}
	}
}
