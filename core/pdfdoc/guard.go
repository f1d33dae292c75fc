package pdfdoc

import (
	"bytes"
	"compress/zlib"
	"fmt"
	"io"
	"strconv"

	"huekeep/core/limits"
)

// guard refuses a PDF whose objects would take far more memory than the file, before they are parsed: it counts what stands
// outside of streams, and what the object streams (ISO 32000, 7.5.7) unpack to, without keeping either.
func guard(data []byte) error {
	var loose, packed int64
	streams, inOne := 0, 0
	defined := map[string]int{}
	encrypted := bytes.Contains(data, []byte("/Encrypt"))
	for rest := data; ; {
		at := bytes.Index(rest, []byte("stream"))
		if at < 0 {
			loose += int64(len(rest))
			if err := again(defined, rest); err != nil {
				return err
			}
			break
		}
		loose += int64(at)
		if inOne++; bytes.Contains(rest[:at], []byte("endobj")) || inOne == 1 {
			inOne = 1
		}
		if inOne > mostStreams {
			return fmt.Errorf("an object of it has over %d streams and no end", mostStreams)
		}
		if err := again(defined, rest[:at]); err != nil {
			return err
		}
		head := rest[max(0, at-2000):at]
		body := rest[at+len("stream"):]
		body = bytes.TrimPrefix(bytes.TrimPrefix(body, []byte("\r")), []byte("\n"))
		if begin := bytes.LastIndex(head, []byte("obj")); begin >= 0 {
			head = head[begin:]
		}
		end := bytes.Index(body, []byte("endstream"))
		if end < 0 {
			if end = len(body); bytes.Count(body, []byte("stream")) > mostStreams {
				return fmt.Errorf("a stream of it has no end and over %d beginnings", mostStreams)
			}
		}
		if bytes.Contains(plainNames(head), []byte("/ObjStm")) {
			streams++
			n, err := inflated(body[:end], limits.PDFObjects-packed)
			if packed += n; err != nil && encrypted && streams > 30 {
				return fmt.Errorf("it is encrypted and holds more than can be read; save it without protection and try again")
			}
		}
		if loose+packed > limits.PDFObjects {
			break
		}
		rest = bytes.TrimPrefix(body[end:], []byte("endstream"))
	}
	if loose+packed > limits.PDFObjects {
		return fmt.Errorf("its objects come to over %s unpacked, more than can be read; save the pages with the colors alone and try again",
			limits.Size(limits.PDFObjects))
	}
	return nil
}

// What no program writes and the parser takes long for: streams of one object, and definitions of one.
const (
	mostStreams  = 32
	mostVersions = 2000
)

// again refuses objects that are defined over and over.
func again(defined map[string]int, text []byte) error {
	for {
		at := bytes.Index(text, []byte(" obj"))
		if at < 0 {
			return nil
		}
		number := text[:at]
		if i := bytes.LastIndexByte(number, ' '); i >= 0 {
			number = number[:i]
		}
		from := len(number)
		for from > 0 && len(number)-from < 10 && number[from-1] >= '0' && number[from-1] <= '9' {
			from--
		}
		key := string(number[from:])
		if defined[key]++; defined[key] > mostVersions {
			return fmt.Errorf("it defines the object %s over %d times", key, mostVersions)
		}
		text = text[at+len(" obj"):]
	}
}

// inflated counts what a stream unpacks to, up to a little over a limit. Filters other than Flate are counted as what they are
// inside; nothing that writes files packs objects with them.
func inflated(body []byte, limit int64) (int64, error) {
	z, err := zlib.NewReader(bytes.NewReader(body))
	if err != nil {
		return int64(len(body)), err
	}
	n, err := io.Copy(io.Discard, io.LimitReader(z, limit+1))
	return n, err
}

// plainNames writes out the escapes that names may have, so that none hides behind them (ISO 32000, 7.3.5).
func plainNames(s []byte) []byte {
	if bytes.IndexByte(s, '#') < 0 {
		return s
	}
	out := make([]byte, 0, len(s))
	for i := 0; i < len(s); i++ {
		if s[i] == '#' && i+2 < len(s) {
			if v, err := strconv.ParseUint(string(s[i+1:i+3]), 16, 8); err == nil {
				out = append(out, byte(v))
				i += 2
				continue
			}
		}
		out = append(out, s[i])
	}
	return out
}
