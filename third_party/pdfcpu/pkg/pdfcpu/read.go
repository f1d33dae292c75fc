/*
Copyright 2018 The pdfcpu Authors.

Licensed under the Apache License, Version 2.0 (the "License");
you may not use this file except in compliance with the License.
You may obtain a copy of the License at

	http://www.apache.org/licenses/LICENSE-2.0

Unless required by applicable law or agreed to in writing, software
distributed under the License is distributed on an "AS IS" BASIS,
WITHOUT WARRANTIES OR CONDITIONS OF ANY KIND, either express or implied.
See the License for the specific language governing permissions and
limitations under the License.
*/

package pdfcpu

import (
	"bufio"
	"bytes"
	"context"
	"encoding/xml"
	"errors"
	"fmt"
	"io"

	"sort"
	"strconv"
	"strings"
	"unicode"

	"github.com/pdfcpu/pdfcpu/pkg/filter"
	"github.com/pdfcpu/pdfcpu/pkg/log"
	"github.com/pdfcpu/pdfcpu/pkg/pdfcpu/model"
	"github.com/pdfcpu/pdfcpu/pkg/pdfcpu/scan"
	"github.com/pdfcpu/pdfcpu/pkg/pdfcpu/types"
)

const (
	defaultBufSize     = 1 << 10 // 1 KiB
	maxBufSize         = 1 << 20 // 1 MiB
	maxObjectBufferLen = 64 << 20
)

var (
	// ErrCorruptHeader reports a missing or malformed PDF header.
	ErrCorruptHeader = errors.New("no header version available")

	// ErrPostScriptInput reports a PostScript input stream passed to the PDF reader.
	ErrPostScriptInput = errors.New("PostScript input is not supported; convert to PDF before processing")

	// ErrEmptyInput reports an empty input stream passed to the PDF reader.
	ErrEmptyInput = errors.New("the file could not be opened because it is empty")

	// ErrMissingXRefSection reports a PDF without a detectable final xref section.
	ErrMissingXRefSection = errors.New("can't detect last xref section")

	// ErrReferenceDoesNotExist reports a reference to a missing indirect object.
	ErrReferenceDoesNotExist = errors.New("referenced object does not exist")

	// ErrWrongPassword reports supplied PDF credentials that fail password authentication.
	ErrWrongPassword = errors.New("please provide the correct password")

	// ErrNotEncrypted reports an operation requiring encryption on an unencrypted PDF.
	ErrNotEncrypted = errors.New("this file is not encrypted")

	// ErrEncrypted reports an operation that cannot process encrypted PDFs.
	ErrEncrypted = errors.New("this file is encrypted")

	// ErrOwnerPasswordRequired reports missing owner credentials for an encryption operation.
	ErrOwnerPasswordRequired = errors.New("please provide owner password and optional user password")

	// ErrPermissionDenied reports a PDF operation blocked by encryption permission bits.
	ErrPermissionDenied = errors.New("operation restricted via permission bits setting")

	errMissingReadSeeker            = errors.New("missing PDF read seeker")
	errMissingXRefEOF               = errors.New("no matching %%EOF for startxref")
	errInvalidLastXRefSection       = errors.New("invalid last xref section")
	errInvalidXRefStreamWArray      = errors.New("invalid xref stream W array")
	errCorruptXRefStream            = errors.New("corrupt xref stream")
	errCorruptXRefSubsection        = errors.New("corrupt xref subsection")
	errIncompleteXRefSubsection     = errors.New("incomplete xref subsection")
	errMissingScannerLine           = errors.New("missing scanner line")
	errMissingTrailerSize           = errors.New("missing trailer Size")
	errMissingTrailerRoot           = errors.New("missing trailer Root")
	errInvalidTrailerID             = errors.New("invalid trailer ID")
	errMissingTrailerID             = errors.New("missing trailer ID")
	errCorruptTrailerDict           = errors.New("corrupt trailer dict")
	errMissingXRefStreamDict        = errors.New("missing xref stream dictionary")
	errMissingXRefStreamLength      = errors.New("missing xref stream Length")
	errCorruptStreamMarker          = errors.New("corrupt stream marker")
	errObjectBufferLimit            = errors.New("object buffer limit exceeded")
	errTruncatedStreamMarker        = errors.New("truncated stream marker")
	errUnregisteredObject           = errors.New("unregistered object")
	errNilDereferencedObject        = errors.New("nil dereferenced object")
	errCorruptIntegerObject         = errors.New("corrupt integer object")
	errCorruptDictObject            = errors.New("corrupt dict object")
	errMissingObjectStreamEntry     = errors.New("missing object stream xref entry")
	errMissingObjectStream          = errors.New("missing object stream")
	errCorruptStreamDict            = errors.New("corrupt stream dict")
	errMissingStreamLength          = errors.New("missing stream length")
	errMissingStreamOffset          = errors.New("missing stream offset")
	errCorruptFilterArray           = errors.New("corrupt filter array")
	errCorruptDecodeParms           = errors.New("corrupt decode parameters")
	errObjectStreamContainsStream   = errors.New("object stream contains stream object")
	errCorruptObjectStreamDict      = errors.New("corrupt object stream dict")
	errCorruptObjectStream          = errors.New("corrupt object stream")
	errMissingObjectStreamObjects   = errors.New("missing object stream objects")
	errObjectStreamObjectCountLimit = errors.New("object stream object count limit exceeded")
	errInvalidPermissions           = errors.New("invalid permissions")

	zero int64 = 0
)

func hasPostScriptHeader(buf []byte) bool {
	buf = bytes.TrimPrefix(buf, []byte{0xEF, 0xBB, 0xBF})
	buf = bytes.TrimLeft(buf, "\x00\t\n\f\r ")
	if !bytes.HasPrefix(buf, []byte("%!")) {
		return false
	}
	i := bytes.IndexAny(buf, "\x0A\x0D")
	if i < 0 {
		i = len(buf)
	}
	return bytes.Contains(buf[:i], []byte("PS-Adobe"))
}

// Read takes a readSeeker and generates a PDF model context,
// an in-memory representation containing a cross reference table.
func Read(rs io.ReadSeeker, conf *model.Configuration) (*model.Context, error) {
	return ReadWithContext(context.Background(), rs, conf)
}

// ReadWithContext takes a readSeeker and generates a PDF model context,
// an in-memory representation containing a cross reference table.
// If the passed Go context is cancelled, reading will be interrupted.
func ReadWithContext(c context.Context, rs io.ReadSeeker, conf *model.Configuration) (*model.Context, error) {
	if log.ReadEnabled() {
		log.Read.Println("Read: begin")
	}

	if rs == nil {
		return nil, errMissingReadSeeker
	}

	ctx, err := model.NewContext(rs, conf)
	if err != nil {
		return nil, err
	}

	if ctx.Read.FileSize == 0 {
		return nil, ErrEmptyInput
	}

	if log.InfoEnabled() {
		if ctx.Reader15 {
			log.Info.Println("PDF Version 1.5 conforming reader")
		} else {
			log.Info.Println("PDF Version 1.4 conforming reader - no object streams or xrefstreams allowed")
		}
	}

	// Populate xRefTable.
	if err = readXRefTable(c, ctx); err != nil {
		return nil, fmt.Errorf("xref table: %w", err)
	}

	// Make all objects explicitly available (load into memory) in corresponding xRefTable entries.
	// Also decode any involved object streams.
	if err = dereferenceXRefTable(c, ctx); err != nil {
		return nil, err
	}

	// Some PDFWriters write an incorrect Size into trailer.
	if ctx.XRefTable.Size == nil || *ctx.XRefTable.Size != ctx.MaxObjNr+1 {
		maxObjNr := ctx.MaxObjNr + 1
		ctx.XRefTable.Size = &maxObjNr
		model.ShowRepaired("trailer size")
	}

	if log.ReadEnabled() {
		log.Read.Println("Read: end")
	}

	return ctx, nil
}

// fillBuffer reads from r until buf is full or read returns an error.
// Unlike io.ReadAtLeast fillBuffer does not return ErrUnexpectedEOF
// if an EOF happens after reading some but not all the bytes.
// Special thanks go to Rene Kaufmann.
func fillBuffer(r io.Reader, buf []byte) (int, error) {
	var n int
	var err error

	for n < len(buf) && err == nil {
		var nn int
		nn, err = r.Read(buf[n:])
		n += nn
	}

	if n > 0 && err == io.EOF {
		return n, nil
	}

	return n, err
}

func newPositionedReader(rs io.ReadSeeker, offset *int64) (*bufio.Reader, error) {
	if _, err := rs.Seek(*offset, io.SeekStart); err != nil {
		return nil, err
	}

	if log.ReadEnabled() {
		log.Read.Printf("newPositionedReader: positioned to offset: %d\n", *offset)
	}

	return bufio.NewReader(rs), nil
}

func incrEpilogIndex(s string) int {
	suffixes := []string{"%%EO", "%%E", "%%", "%"}
	for _, suf := range suffixes {
		if strings.HasSuffix(s, suf) {
			return len(s) - len(suf)
		}
	}
	return -1
}

// Get the file offset of the last XRefSection.
// Go to end of file and search backwards for the first occurrence of startxref {offset} %%EOF
func offsetLastXRefSection(ctx *model.Context, skip int64) (*int64, error) {
	rs := ctx.Read.RS

	var (
		prevBuf, workBuf []byte
		bufSize          int64 = 512
		offset           int64
	)

	if ctx.Read.FileSize < bufSize {
		bufSize = ctx.Read.FileSize
	}

	for i := 1; offset == 0; i++ {

		off, err := rs.Seek(-int64(i)*bufSize-skip, io.SeekEnd)
		if err != nil {
			return nil, ErrMissingXRefSection
		}

		if log.ReadEnabled() {
			log.Read.Printf("scanning for offsetLastXRefSection starting at %d\n", off)
		}

		curBuf := make([]byte, bufSize)

		if _, err = fillBuffer(rs, curBuf); err != nil {
			return nil, fmt.Errorf("scan for startxref: %w", err)
		}

		workBuf = curBuf
		if prevBuf != nil {
			workBuf = append(curBuf, prevBuf...)
		}

		j := strings.LastIndex(string(workBuf), "startxref")
		if j == -1 {
			prevBuf = curBuf
			continue
		}

		start := j + len("startxref")
		if start >= len(workBuf) {
			return nil, errMissingXRefEOF
		}

		p := workBuf[start+1:]
		posEOF := strings.Index(string(p), "%%EOF")
		if posEOF < 0 {
			posEOF = incrEpilogIndex(string(p))
			if posEOF < 0 {
				return nil, errMissingXRefEOF
			}
		}

		p = p[:posEOF]
		s := strings.TrimSpace(string(p))
		s = strings.TrimSpace(strings.TrimRight(s, "%"))
		offset, err = strconv.ParseInt(s, 10, 64)
		if err != nil {
			return nil, errInvalidLastXRefSection
		}
		if offset >= ctx.Read.FileSize {
			offset = 0
		}
	}

	if log.ReadEnabled() {
		log.Read.Printf("Offset last xrefsection: %d\n", offset)
	}

	return &offset, nil
}

func createXRefTableEntry(entryType string, objNr int, offset, offExtra int64, generation, incr int) (model.XRefTableEntry, bool) {
	entry := model.XRefTableEntry{Offset: &offset, Generation: &generation, Incr: incr}

	if entryType == "n" {

		// in use object

		if log.ReadEnabled() {
			log.Read.Printf("createXRefTableEntry: Object #%d is in use at offset=%d, generation=%d\n", objNr, offset, generation)
		}

		if offset == 0 {
			if objNr == 0 {
				entry.Free = true
				model.ShowRepaired("obj#0")
				return entry, true
			}
			if log.InfoEnabled() {
				log.Info.Printf("createXRefTableEntry: Skip entry for in use object #%d with offset 0\n", objNr)
			}
			return entry, false
		}

		if offset < 9 {
			return entry, false
		}

		*entry.Offset += offExtra

		return entry, true
	}

	// free object

	if log.ReadEnabled() {
		log.Read.Printf("createXRefTableEntry: Object #%d is unused, next free is object#%d, generation=%d\n", objNr, offset, generation)
	}

	entry.Free = true

	return entry, true
}

func decodeSubsection(fields []string) (int64, int, string, error) {
	s := fields[0]
	for len(s) > 0 && !unicode.IsDigit(rune(s[0])) {
		s = s[1:]
	}

	offset, err := strconv.ParseInt(s, 10, 64)
	if err != nil {
		return 0, 0, "", err
	}

	s = "00000"
	// model.ShowRepaired
	if len(fields[1]) <= 5 {
		s = fields[1]
	}
	generation, err := strconv.Atoi(s)
	if err != nil {
		return 0, 0, "", err
	}

	entryType := fields[2]
	if entryType != "f" && entryType != "n" {
		return 0, 0, "", errCorruptXRefSubsection
	}

	return offset, generation, entryType, nil
}

// Read next subsection entry and generate corresponding xref table entry.
func parseXRefTableEntry(xRefTable *model.XRefTable, fields []string, objNr int, offExtra int64, incr int) error {
	if log.ReadEnabled() {
		log.Read.Println("parseXRefTableEntry: begin")
	}

	offset, generation, entryType, err := decodeSubsection(fields)
	if err != nil {
		return err
	}

	entry, ok := createXRefTableEntry(entryType, objNr, offset, offExtra, generation, incr)
	if !ok {
		return nil
	}

	if log.ReadEnabled() {
		log.Read.Printf("parseXRefTableEntry: Insert new xreftable entry for Object %d\n", objNr)
	}

	xRefTable.Table[objNr] = &entry

	if log.ReadEnabled() {
		log.Read.Println("parseXRefTableEntry: end")
	}

	return nil
}

// Process xRef table subsection and create corresponding xRef table entries.
func parseXRefTableSubSection(xRefTable *model.XRefTable, s *bufio.Scanner, fields []string, offExtra int64, incr int) (string, error) {
	var line string
	trailer := false

	for !trailer && len(fields) == 2 {

		startObjNumber, err := strconv.Atoi(fields[0])
		if err != nil {
			return "", err
		}

		objCount, err := strconv.Atoi(fields[1])
		if err != nil {
			return "", err
		}

		if log.ReadEnabled() {
			log.Read.Printf("detected xref subsection, startObj=%d length=%d\n", startObjNumber, objCount)
		}

		// Process all entries of this subsection into xRefTable entries.
		for i := 0; ; i++ {

			objNr := startObjNumber + i

			line, err = scanLine(s)
			if err != nil {
				return "", err
			}

			fields = strings.Fields(line)
			if len(fields) != 3 {
				if i < objCount {
					return "", errIncompleteXRefSubsection
				}
				trailer = strings.Contains(line, "trailer")
				break
			}

			if xRefTable.Exists(objNr) {
				if log.ReadEnabled() {
					log.Read.Printf("parseXRefTableEntry: end - Skip entry %d - already assigned\n", objNr)
				}
				// Add incr!
				continue
			}

			if len(fields[0]) == 1 { // should be 10
				continue
			}

			if i >= objCount {
				model.ShowMsg(fmt.Sprintf("digesting extra XrefTable entry for obj#%d", objNr))
			}
			if err = parseXRefTableEntry(xRefTable, fields, objNr, offExtra, incr); err != nil {
				return "", err
			}
		}
	}

	return line, nil
}

// Parse compressed object.
func compressedObject(c context.Context, s string) (types.Object, error) {
	if log.ReadEnabled() {
		log.Read.Println("compressedObject: begin")
	}

	o, err := model.ParseObjectContext(c, &s, 0)
	if err != nil {
		return nil, err
	}

	d, ok := o.(types.Dict)
	if !ok {
		// return trivial Object: Integer, Array, etc.
		if log.ReadEnabled() {
			log.Read.Println("compressedObject: end, any other than dict")
		}
		return o, nil
	}

	streamLength, streamLengthRef := d.Length()
	if streamLength == nil && streamLengthRef == nil {
		// return Dict
		if log.ReadEnabled() {
			log.Read.Println("compressedObject: end, dict")
		}
		return d, nil
	}

	return nil, errObjectStreamContainsStream
}

func buildObjectArrayForObjectStream(
	c context.Context,
	osd *types.ObjectStreamDict,
	objs []string,
	fullContent bool,
	decodedContent []byte) (types.Array, error) {
	var objArray types.Array
	var offsetOld int

	for i := 0; i < len(objs); i += 2 {

		if err := c.Err(); err != nil {
			return nil, err
		}

		offset, err := strconv.Atoi(objs[i+1])
		if err != nil {
			return nil, fmt.Errorf("object stream dict offset %d: %w", i/2, err)
		}

		offset += osd.FirstObjOffset
		if offset < osd.FirstObjOffset {
			return nil, errCorruptObjectStreamDict
		}
		if fullContent && offset > len(decodedContent) {
			return nil, errCorruptObjectStreamDict
		}
		if i > 0 && offset < offsetOld {
			return nil, errCorruptObjectStreamDict
		}

		if i > 0 {
			o := types.NewLazyObjectStreamObject(osd, offsetOld, offset, compressedObject)
			objArray = append(objArray, o)
		}

		if i == len(objs)-2 {
			o := types.NewLazyObjectStreamObject(osd, offset, -1, compressedObject)
			objArray = append(objArray, o)
		}

		offsetOld = offset
	}

	return objArray, nil
}

// Parse all objects of an object stream and save them into objectStreamDict.ObjArray.
func parseObjectStream(c context.Context, osd *types.ObjectStreamDict, limits model.ResourceLimits) error {
	if log.ReadEnabled() {
		log.Read.Printf("parseObjectStream begin: decoding %d objects.\n", osd.ObjCount)
	}

	decodedContent := osd.Content
	fullContent := decodedContent != nil
	if decodedContent == nil {
		// The actual content will be decoded lazily, only decode the prolog here.
		var err error
		decodedContent, err = osd.DecodeLengthWithLimit(int64(osd.FirstObjOffset), limits.MaxDecodeBytes)
		if err != nil {
			return fmt.Errorf("decode object stream prolog: %w", err)
		}
	}
	if osd.FirstObjOffset > len(decodedContent) {
		return errCorruptObjectStreamDict
	}
	prolog := decodedContent[:osd.FirstObjOffset]

	// Remove inline comment.
	if i := bytes.Index(prolog, []byte("%")); i != -1 {
		prolog = prolog[:i]
	}

	// The separator used in the prolog shall be white space
	// but some PDF writers use 0x00.
	prolog = bytes.ReplaceAll(prolog, []byte{0x00}, []byte{0x20})

	objs := strings.Fields(string(prolog))
	if len(objs)%2 > 0 {
		return errCorruptObjectStreamDict
	}
	if len(objs)/2 > limits.MaxObjectStreamCount {
		return fmt.Errorf(
			"object stream object count %d exceeds limit %d: %w",
			len(objs)/2,
			limits.MaxObjectStreamCount,
			errObjectStreamObjectCountLimit,
		)
	}

	// e.g., 10 0 11 25 = 2 Objects: #10 @ offset 0, #11 @ offset 25

	objArray, err := buildObjectArrayForObjectStream(c, osd, objs, fullContent, decodedContent)
	if err != nil {
		return fmt.Errorf("build object stream object array: %w", err)
	}

	osd.ObjArray = objArray

	if log.ReadEnabled() {
		log.Read.Println("parseObjectStream end")
	}

	return nil
}

func createXRefTableEntryFromXRefStream(entryType int64, objNr int, c2, c3, offExtra int64, objStreams types.IntSet, incr int) model.XRefTableEntry {
	var xRefTableEntry model.XRefTableEntry

	switch entryType {

	case 0x00:
		// free object
		if log.ReadEnabled() {
			log.Read.Printf("createXRefTableEntryFromXRefStream: Object #%d is unused, next free is object#%d, generation=%d\n", objNr, c2, c3)
		}
		g := int(c3)

		xRefTableEntry =
			model.XRefTableEntry{
				Free:       true,
				Compressed: false,
				Offset:     &c2,
				Generation: &g,
				Incr:       incr}

	case 0x01:
		// in use object
		if log.ReadEnabled() {
			log.Read.Printf("createXRefTableEntryFromXRefStream: Object #%d is in use at offset=%d, generation=%d\n", objNr, c2, c3)
		}
		g := int(c3)

		c2 += offExtra

		xRefTableEntry =
			model.XRefTableEntry{
				Free:       false,
				Compressed: false,
				Offset:     &c2,
				Generation: &g,
				Incr:       incr}

	case 0x02:
		// compressed object
		// generation always 0.
		if log.ReadEnabled() {
			log.Read.Printf("createXRefTableEntryFromXRefStream: Object #%d is compressed at obj %5d[%d]\n", objNr, c2, c3)
		}
		objNumberRef := int(c2)
		objIndex := int(c3)

		xRefTableEntry =
			model.XRefTableEntry{
				Free:            false,
				Compressed:      true,
				ObjectStream:    &objNumberRef,
				ObjectStreamInd: &objIndex,
				Incr:            incr}

		objStreams[objNumberRef] = true
	}

	return xRefTableEntry
}

// For each object embedded in this xRefStream create the corresponding xRef table entry.
func extractXRefTableEntriesFromXRefStream(buf []byte, offExtra int64, xsd *types.XRefStreamDict, ctx *model.Context, incr int) error {
	if log.ReadEnabled() {
		log.Read.Printf("extractXRefTableEntriesFromXRefStream begin")
	}

	// Note:
	// A value of zero for an element in the W array indicates that the corresponding field shall not be present in the stream,
	// and the default value shall be used, if there is one.
	// If the first element is zero, the type field shall not be present, and shall default to type 1.

	i1 := xsd.W[0]
	i2 := xsd.W[1]
	i3 := xsd.W[2]

	xrefEntryLen := i1 + i2 + i3
	if log.ReadEnabled() {
		log.Read.Printf("extractXRefTableEntriesFromXRefStream: begin xrefEntryLen = %d\n", xrefEntryLen)
	}

	if xrefEntryLen == 0 {
		return errInvalidXRefStreamWArray
	}

	if len(buf)%xrefEntryLen > 0 {
		return errCorruptXRefStream
	}

	objCount := len(xsd.Objects)
	if log.ReadEnabled() {
		log.Read.Printf("extractXRefTableEntriesFromXRefStream: objCount:%d %v\n", objCount, xsd.Objects)
		log.Read.Printf("extractXRefTableEntriesFromXRefStream: len(buf):%d objCount*xrefEntryLen:%d\n", len(buf), objCount*xrefEntryLen)
	}
	if len(buf) < objCount*xrefEntryLen {
		// Sometimes there is an additional xref entry not accounted for by "Index".
		// We ignore such entries and do not treat this as an error.
		return errCorruptXRefStream
	}

	j := 0

	// bufToInt64 interprets the content of buf as an int64.
	bufToInt64 := func(buf []byte) (i int64) {
		for _, b := range buf {
			i <<= 8
			i |= int64(b)
		}
		return
	}

	for i := 0; i < len(buf) && j < len(xsd.Objects); i += xrefEntryLen {

		objNr := xsd.Objects[j]

		if ctx.XRefTable.Exists(objNr) {
			if log.ReadEnabled() {
				log.Read.Printf("Skip entry %d - already assigned\n", objNr)
			}
			j++
			continue
		}

		var c1 int64
		if i1 == 0 {
			// If the first element is zero, the type field shall not be present,
			// and shall default to type 1.
			c1 = 1
		} else {
			c1 = bufToInt64(buf[i : i+i1])
		}
		c2 := bufToInt64(buf[i+i1 : i+i1+i2])
		c3 := bufToInt64(buf[i+i1+i2 : i+i1+i2+i3])

		entry := createXRefTableEntryFromXRefStream(c1, objNr, c2, c3, offExtra, ctx.Read.ObjectStreams, incr)
		ctx.Table[objNr] = &entry
		j++
	}

	if log.ReadEnabled() {
		log.Read.Println("extractXRefTableEntriesFromXRefStream: end")
	}

	return nil
}

func xRefStreamDict(c context.Context, ctx *model.Context, o types.Object, objNr int, streamOffset int64) (*types.XRefStreamDict, error) {
	d, ok := o.(types.Dict)
	if !ok {
		return nil, fmt.Errorf("xref stream obj#%d: %w", objNr, errMissingXRefStreamDict)
	}

	// Parse attributes for stream object.
	streamLength, streamLengthObjNr := d.Length()
	if streamLength == nil && streamLengthObjNr == nil {
		return nil, fmt.Errorf("xref stream obj#%d: %w", objNr, errMissingXRefStreamLength)
	}

	filterPipeline, err := pdfFilterPipeline(c, ctx, d)
	if err != nil {
		return nil, err
	}

	// We have a stream object.
	if log.ReadEnabled() {
		log.Read.Printf("xRefStreamDict: streamobject #%d\n", objNr)
	}
	sd := types.NewStreamDict(d, streamOffset, streamLength, streamLengthObjNr, filterPipeline)

	if err = loadEncodedStreamContent(c, ctx, &sd, false); err != nil {
		return nil, err
	}

	// Decode xrefstream content
	if err = saveDecodedStreamContent(nil, &sd, 0, 0, true); err != nil {
		return nil, fmt.Errorf("xRefStreamDict: cannot decode stream for obj#:%d: %w", objNr, err)
	}

	if ctx.Configuration.ValidationMode == model.ValidationRelaxed {
		return model.ParseXRefStreamDictRelaxedWithLimits(&sd, ctx.Configuration.Limits)
	}
	return model.ParseXRefStreamDictWithLimits(&sd, ctx.Configuration.Limits)
}

func processXRefStream(ctx *model.Context, xsd *types.XRefStreamDict, objNr *int, offset *int64, offExtra int64, incr int) (prevOffset *int64, err error) {
	if log.ReadEnabled() {
		log.Read.Println("processXRefStream: begin")
	}

	if err = parseTrailer(ctx.XRefTable, xsd.Dict); err != nil {
		return nil, err
	}

	// Parse xRefStream and create xRefTable entries for embedded objects.
	if err = extractXRefTableEntriesFromXRefStream(xsd.Content, offExtra, xsd, ctx, incr); err != nil {
		return nil, err
	}

	*offset += offExtra

	if entry, ok := ctx.Table[*objNr]; ok && entry.Offset != nil && *entry.Offset == *offset {
		entry.Object = *xsd
	}

	//////////////////
	// entry :=
	// 	model.XRefTableEntry{
	// 		Free:       false,
	// 		Offset:     offset,
	// 		Generation: genNr,
	// 		Object:     *xsd}

	// if log.ReadEnabled() {
	// 	log.Read.Printf("processXRefStream: Insert new xRefTable entry for Object %d\n", *objNr)
	// }

	// ctx.Table[*objNr] = &entry
	// ctx.Read.XRefStreams[*objNr] = true
	///////////////////

	prevOffset = xsd.PreviousOffset

	if log.ReadEnabled() {
		log.Read.Println("processXRefStream: end")
	}

	return prevOffset, nil
}

// Parse xRef stream and setup xrefTable entries for all embedded objects and the xref stream dict.
func parseXRefStream(c context.Context, ctx *model.Context, rd io.Reader, offset *int64, offExtra int64, incr int) (prevOffset *int64, err error) {
	if log.ReadEnabled() {
		log.Read.Printf("parseXRefStream: begin at offset %d\n", *offset)
	}

	buf, endInd, streamInd, streamOffset, err := buffer(c, rd, maxObjectBufferLen)
	if err != nil {
		return nil, err
	}

	if log.ReadEnabled() {
		log.Read.Printf("parseXRefStream: endInd=%[1]d(%[1]x) streamInd=%[2]d(%[2]x)\n", endInd, streamInd)
	}

	line := string(buf)

	// We expect a stream and therefore "stream" before "endobj" if "endobj" within buffer.
	// There is no guarantee that "endobj" is contained in this buffer for large streams!
	if streamInd < 0 || (endInd > 0 && endInd < streamInd) {
		return nil, fmt.Errorf("xref stream object: %w", errCorruptXRefStream)
	}

	// Init object parse buf.
	l := line[:streamInd]

	objNr, genNr, err := model.ParseObjectAttributes(&l)
	if err != nil {
		return nil, err
	}

	// parse this object
	if log.ReadEnabled() {
		log.Read.Printf("parseXRefStream: xrefstm obj#:%d gen:%d\n", *objNr, *genNr)
		log.Read.Printf("parseXRefStream: dereferencing object %d\n", *objNr)
	}

	o, err := model.ParseObjectContext(c, &l, 0, recursionLimit(ctx))
	if err != nil {
		return nil, fmt.Errorf("parseXRefStream: no object: %w", err)
	}

	if log.ReadEnabled() {
		log.Read.Printf("parseXRefStream: we have an object: %s\n", o)
	}

	streamOffset += *offset
	xsd, err := xRefStreamDict(c, ctx, o, *objNr, streamOffset)
	if err != nil {
		return nil, err
	}

	return processXRefStream(ctx, xsd, objNr, offset, offExtra, incr)
}

// Parse an xRefStream for a hybrid PDF file.
func parseHybridXRefStream(c context.Context, ctx *model.Context, offset *int64, offExtra int64, incr int) error {
	if log.ReadEnabled() {
		log.Read.Println("parseHybridXRefStream: begin")
	}

	rd, err := newPositionedReader(ctx.Read.RS, offset)
	if err != nil {
		return err
	}

	if _, err = parseXRefStream(c, ctx, rd, offset, offExtra, incr); err != nil {
		return err
	}

	if log.ReadEnabled() {
		log.Read.Println("parseHybridXRefStream: end")
	}

	return nil
}

func parseTrailerSize(xRefTable *model.XRefTable, d types.Dict) error {
	i := d.Size()
	if i == nil {
		return errMissingTrailerSize
	}
	// Not reliable!
	// Patched after all read in.
	xRefTable.Size = i
	return nil
}

func parseTrailerRoot(xRefTable *model.XRefTable, d types.Dict) error {
	indRef := d.IndirectRefEntry("Root")
	if indRef == nil {
		return errMissingTrailerRoot
	}
	xRefTable.Root = indRef
	if log.ReadEnabled() {
		log.Read.Printf("parseTrailerRoot: Root object: %s\n", *xRefTable.Root)
	}
	return nil
}

func parseTrailerInfo(xRefTable *model.XRefTable, d types.Dict) error {
	indRef := d.IndirectRefEntry("Info")
	if indRef != nil {
		xRefTable.Info = indRef
		if log.ReadEnabled() {
			log.Read.Printf("parseTrailerInfo: Info object: %s\n", *xRefTable.Info)
		}
	}
	return nil
}

func parseTrailerID(xRefTable *model.XRefTable, d types.Dict) error {
	arr := d.ArrayEntry("ID")
	if arr != nil {
		if len(arr) != 2 {
			if xRefTable.ValidationMode == model.ValidationStrict {
				return errInvalidTrailerID
			}
			if len(arr) != 1 {
				return errInvalidTrailerID
			}
			arr = append(arr, arr[0])
			model.ShowRepaired("trailer ID")
		}
		xRefTable.ID = arr
		if log.ReadEnabled() {
			log.Read.Printf("parseTrailerID: ID object: %s\n", xRefTable.ID)
		}
		return nil
	}

	if xRefTable.Encrypt == nil {
		return nil
	}

	if xRefTable.ValidationMode == model.ValidationStrict {
		return errMissingTrailerID
	}

	return nil
}

// Parse trailer dict and return any offset of a previous xref section.
func parseTrailer(xRefTable *model.XRefTable, d types.Dict) error {
	if log.ReadEnabled() {
		log.Read.Println("parseTrailer begin")
	}

	if indRef := d.IndirectRefEntry("Encrypt"); indRef != nil {
		xRefTable.Encrypt = indRef
		if log.ReadEnabled() {
			log.Read.Printf("parseTrailer: Encrypt object: %s\n", *xRefTable.Encrypt)
		}
	}

	if xRefTable.Size == nil {
		if err := parseTrailerSize(xRefTable, d); err != nil {
			return err
		}
	}

	if xRefTable.Root == nil {
		if err := parseTrailerRoot(xRefTable, d); err != nil {
			return err
		}
	}

	if xRefTable.Info == nil {
		if err := parseTrailerInfo(xRefTable, d); err != nil {
			return err
		}
	}

	if xRefTable.ID == nil {
		if err := parseTrailerID(xRefTable, d); err != nil {
			return err
		}
	}

	if log.ReadEnabled() {
		log.Read.Println("parseTrailerf end")
	}

	return nil
}

func scanForPreviousXref(ctx *model.Context, offset *int64) *int64 {
	var (
		prevBuf, workBuf []byte
		bufSize          int64 = 512
		off              int64
		match1           []byte = []byte("startxref")
		match2           []byte = []byte("xref")
	)

	m := match1

	for i := int64(1); ; i++ {
		off = *offset - i*bufSize
		rd, err := newPositionedReader(ctx.Read.RS, &off)
		if err != nil {
			return nil
		}

		curBuf := make([]byte, bufSize)

		n, err := fillBuffer(rd, curBuf)
		if err != nil {
			return nil
		}

		workBuf = curBuf
		if prevBuf != nil {
			workBuf = append(curBuf, prevBuf...)
		}

		j := bytes.LastIndex(workBuf, m)
		if j == -1 {
			if int64(n) < bufSize {
				return nil
			}
			prevBuf = curBuf
			continue
		}

		if bytes.Equal(m, match1) {
			m = match2
			continue
		}

		off += int64(j)
		break
	}

	return &off
}

func handleAdditionalStreams(trailerDict types.Dict, xRefTable *model.XRefTable) {
	arr := trailerDict.ArrayEntry("AdditionalStreams")
	if arr == nil {
		return
	}

	if log.ReadEnabled() {
		log.Read.Printf("found AdditionalStreams: %s\n", arr)
	}

	a := types.Array{}
	for _, value := range arr {
		if indRef, ok := value.(types.IndirectRef); ok {
			a = append(a, indRef)
		}
	}

	xRefTable.AdditionalStreams = &a
}

func offsetPrev(ctx *model.Context, trailerDict types.Dict, offCurXRef *int64) *int64 {
	offset := trailerDict.Prev()
	if offset != nil {
		if log.ReadEnabled() {
			log.Read.Printf("offsetPrev: previous xref table section offset:%d\n", *offset)
		}
		if *offset == 0 {
			offset = nil
			if offCurXRef != nil {
				if off := scanForPreviousXref(ctx, offCurXRef); off != nil {
					offset = off
				}
			}
		}
	}
	return offset
}

func parseTrailerDict(c context.Context, ctx *model.Context, trailerDict types.Dict, offCurXRef *int64, offExtra int64, incr int, repairing bool) (*int64, error) {
	if log.ReadEnabled() {
		log.Read.Println("parseTrailerDict begin")
	}

	xRefTable := ctx.XRefTable

	if err := parseTrailer(xRefTable, trailerDict); err != nil {
		return nil, err
	}

	handleAdditionalStreams(trailerDict, xRefTable)

	offset := offsetPrev(ctx, trailerDict, offCurXRef)

	offsetXRefStream := trailerDict.Int64Entry("XRefStm")
	if offsetXRefStream == nil || repairing {
		// No cross reference stream.
		if !ctx.Reader15 && xRefTable.Version() >= model.V15 && !ctx.Read.Hybrid {
			return nil, fmt.Errorf("parseTrailerDict: PDF1.4 conformant reader: found incompatible version: %s", xRefTable.VersionString())
		}
		if log.ReadEnabled() {
			log.Read.Println("parseTrailerDict end")
		}
		// continue to parse previous xref section, if there is any.
		return offset, nil
	}

	// This file is using cross reference streams.

	if !ctx.Read.Hybrid {
		ctx.Read.Hybrid = true
		ctx.Read.UsingXRefStreams = true
	}

	// 1.5 conformant readers process hidden objects contained
	// in XRefStm before continuing to process any previous XRefSection.
	// Previous XRefSection is expected to have free entries for hidden entries.
	// May appear in XRefSections only.
	if ctx.Reader15 {
		if err := parseHybridXRefStream(c, ctx, offsetXRefStream, offExtra, incr); err != nil {
			if err := bypassXrefSection(c, ctx, offExtra, err, incr); err != nil {
				return nil, err
			}
			return nil, nil
		}
	}

	if log.ReadEnabled() {
		log.Read.Println("parseTrailerDict end")
	}

	return offset, nil
}

func scanLineRaw(s *bufio.Scanner) (string, error) {
	if ok := s.Scan(); !ok {
		if s.Err() != nil {
			return "", s.Err()
		}
		return "", errMissingScannerLine
	}
	return s.Text(), nil
}

func scanLine(s *bufio.Scanner) (s1 string, err error) {
	for i := 0; i <= 1; i++ {
		s1, err = scanLineRaw(s)
		if err != nil {
			return "", err
		}
		if len(s1) > 0 {
			break
		}
	}
	return s1, nil
}

func scanTrailerDictStart(s *bufio.Scanner, line *string) error {
	l := *line
	var err error
	for {
		i := strings.Index(l, "<<")
		if i >= 0 {
			*line = l[i:]
			return nil
		}
		l, err = scanLine(s)
		if log.ReadEnabled() {
			log.Read.Printf("line: <%s>\n", l)
		}
		if err != nil {
			return err
		}
	}
}

func scanTrailerDictRemainder(s *bufio.Scanner, line string, buf bytes.Buffer) (string, error) {
	var (
		i   int
		err error
	)

	for i = strings.Index(line, "startxref"); i < 0; {
		if log.ReadEnabled() {
			log.Read.Printf("line: <%s>\n", line)
		}
		buf.WriteString(line)
		buf.WriteString("\x0a")
		if line, err = scanLine(s); err != nil {
			return "", err
		}
		i = strings.Index(line, "startxref")
	}

	line = line[:i]
	if log.ReadEnabled() {
		log.Read.Printf("line: <%s>\n", line)
	}
	buf.WriteString(line[:i])
	buf.WriteString("\x0a")

	return buf.String(), nil
}

func scanTrailer(s *bufio.Scanner, line string) (string, error) {
	var buf bytes.Buffer
	if log.ReadEnabled() {
		log.Read.Printf("line: <%s>\n", line)
	}

	if err := scanTrailerDictStart(s, &line); err != nil {
		return "", err
	}

	return scanTrailerDictRemainder(s, line, buf)
}

func processTrailer(c context.Context, ctx *model.Context, s *bufio.Scanner, line string, offCurXRef *int64, offExtra int64, incr int, repairing bool) (*int64, error) {
	var trailerString string

	if line != "trailer" {
		trailerString = line[7:]
		if log.ReadEnabled() {
			log.Read.Printf("processTrailer: trailer leftover: <%s>\n", trailerString)
		}
	} else {
		if log.ReadEnabled() {
			log.Read.Printf("line (len %d) <%s>\n", len(line), line)
		}
	}

	trailerString, err := scanTrailer(s, trailerString)
	if err != nil {
		return nil, err
	}

	if log.ReadEnabled() {
		log.Read.Printf("processTrailer: trailerString: (len:%d) <%s>\n", len(trailerString), trailerString)
	}

	o, err := model.ParseObjectContext(c, &trailerString, 0, recursionLimit(ctx))
	if err != nil {
		return nil, err
	}

	trailerDict, ok := o.(types.Dict)
	if !ok {
		return nil, errCorruptTrailerDict
	}

	if log.ReadEnabled() {
		log.Read.Printf("processTrailer: trailerDict:\n%s\n", trailerDict)
	}

	return parseTrailerDict(c, ctx, trailerDict, offCurXRef, offExtra, incr, repairing)
}

// Parse xRef section into corresponding number of xRef table entries.
func parseXRefSection(c context.Context, ctx *model.Context, s *bufio.Scanner, fields []string, ssCount *int, offCurXRef *int64, offExtra int64, incr int) (*int64, error) {
	if log.ReadEnabled() {
		log.Read.Println("parseXRefSection begin")
	}

	var (
		line string
		err  error
	)

	if len(fields) == 0 {

		line, err = scanLine(s)
		if err != nil {
			return nil, err
		}

		if log.ReadEnabled() {
			log.Read.Printf("parseXRefSection: <%s>\n", line)
		}

		fields = strings.Fields(line)
	}

	line = strings.TrimLeft(line, " ")
	if !strings.HasPrefix(line, "trailer") {
		// Process all sub sections of this xRef section.
		if line, err = parseXRefTableSubSection(ctx.XRefTable, s, fields, offExtra, incr); err != nil {
			return nil, err
		}
		*ssCount++
		line = strings.TrimLeft(line, " ")
	}

	if log.ReadEnabled() {
		log.Read.Println("parseXRefSection: All subsections read!")
	}

	if !strings.HasPrefix(line, "trailer") {
		return nil, fmt.Errorf("xrefsection: missing trailer dict, line = <%s>", line)
	}

	if log.ReadEnabled() {
		log.Read.Println("parseXRefSection: parsing trailer dict..")
	}

	return processTrailer(c, ctx, s, line, offCurXRef, offExtra, incr, false)
}

func scanForVersion(rs io.ReadSeeker, prefix string) ([]byte, int, error) {
	bufSize := 100

	if _, err := rs.Seek(0, io.SeekStart); err != nil {
		return nil, 0, fmt.Errorf("seek header: %w", err)
	}

	buf := make([]byte, bufSize)
	var curBuf []byte

	off := 0
	found := false
	var buf2 []byte

	for !found {
		n, err := fillBuffer(rs, buf)
		if err != nil {
			if !errors.Is(err, io.EOF) {
				return nil, 0, fmt.Errorf("read header: %w", err)
			}
			return nil, 0, ErrCorruptHeader
		}
		curBuf = buf[:n]
		if off == 0 && hasPostScriptHeader(curBuf) {
			return nil, 0, ErrPostScriptInput
		}
		for {
			i := bytes.IndexByte(curBuf, '%')
			if i < 0 {
				// no match, check next block
				off += len(curBuf)
				break
			}

			// Check all occurrences
			if i < len(curBuf)-18 {
				if !bytes.HasPrefix(curBuf[i:], []byte(prefix)) {
					// No match, keep checking
					off += i + 1
					curBuf = curBuf[i+1:]
					continue
				}
				off += i
				curBuf = curBuf[i:]
				found = true
				break
			}

			// Partial match, need 2nd buffer
			if len(buf2) == 0 {
				buf2 = make([]byte, bufSize)
			}
			n, err := fillBuffer(rs, buf2)
			if err != nil {
				if !errors.Is(err, io.EOF) {
					return nil, 0, fmt.Errorf("read header: %w", err)
				}
				return nil, 0, ErrCorruptHeader
			}
			buf3 := append(curBuf[i:], buf2[:n]...)
			if !bytes.HasPrefix(buf3, []byte(prefix)) {
				// No match, keep checking
				off += len(curBuf)
				curBuf = buf2
				continue
			}
			off += i
			curBuf = buf3
			found = true
			break
		}
	}

	return curBuf, off, nil
}

// Get version from first line of file.
// Beginning with PDF 1.4, the Version entry in the document’s catalog dictionary
// (located via the Root entry in the file’s trailer, as described in 7.5.5, "File Trailer"),
// if present, shall be used instead of the version specified in the Header.
// The header version comes as the first line of the file.
// eolCount is the number of characters used for eol (1 or 2).
func headerVersion(rs io.ReadSeeker) (v *model.Version, eolCount int, offset int64, err error) {
	if log.ReadEnabled() {
		log.Read.Println("headerVersion begin")
	}

	prefix := "%PDF-"

	s, off, err := scanForVersion(rs, prefix)
	if err != nil {
		return nil, 0, 0, err
	}

	pdfVersion, err := model.PDFVersion(string(s[len(prefix) : len(prefix)+3]))
	if err != nil {
		return nil, 0, 0, fmt.Errorf("unknown PDF header version: %w", err)
	}

	s = s[8:]
	s = bytes.TrimLeft(s, "\t\f ")

	// Detect the used eol which should be 1 (0x00, 0x0D) or 2 chars (0x0D0A)long.
	// %PDF-1.x{whiteSpace}{text}{eol} or
	j := bytes.IndexAny(s, "\x0A\x0D")
	if j < 0 {
		return nil, 0, 0, ErrCorruptHeader
	}

	switch s[j] {
	case 0x0A:
		eolCount = 1
	case 0x0D:
		eolCount = 1
		if (len(s) > j+1) && (s[j+1] == 0x0A) {
			eolCount = 2
		}
	}

	if log.ReadEnabled() {
		log.Read.Printf("headerVersion: end, found header version: %s\n", pdfVersion)
	}

	return &pdfVersion, eolCount, int64(off), nil
}

func parseAndLoad(c context.Context, ctx *model.Context, line string, offset *int64, incr int, offsetPrev *int64) (int, error) {
	l := line
	objNr, generation, err := model.ParseObjectAttributes(&l)
	if err != nil {
		return 0, err
	}

	if *objNr == 0 {
		return 0, nil
	}

	off := *offset

	obj, endInd, streamInd, streamOffset, err := object(c, ctx, off, *objNr, *generation)
	if err != nil {
		return endInd, err
	}
	obj, err = resolveObject(c, ctx, obj, off, *objNr, *generation, endInd, streamInd, streamOffset)
	if err != nil {
		return endInd, err
	}

	if d, ok := obj.(types.Dict); ok {
		if typ := d.Type(); typ != nil {
			if *typ == "Catalog" {
				ctx.RootDict = d
				ctx.Root = types.NewIndirectRef(*objNr, *generation)
				model.ShowRepaired("catalog")
			}
		}
	}

	*offset += int64(len(line))

	sd, ok := obj.(types.StreamDict)
	if ok {
		if err = loadStreamDict(c, ctx, &sd, *objNr, *generation, true); err != nil {
			return endInd, err
		}
		obj = sd
		*offset = sd.StreamOffset + *sd.StreamLength
	}

	e, found := ctx.Table[*objNr]
	if !found {
		entry := model.XRefTableEntry{
			Free:       false,
			Generation: generation,
			Offset:     &off,
			Object:     obj,
			Incr:       incr,
		}
		ctx.Table[*objNr] = &entry
		return endInd, nil
	}

	e.Offset = &off
	e.Object = obj
	e.Incr = incr

	return endInd, nil
}

func processObject(c context.Context, ctx *model.Context, line string, offset *int64, incr int, offsetPrev *int64) (*bufio.Scanner, error) {
	endInd, err := parseAndLoad(c, ctx, line, offset, incr, offsetPrev)
	if err != nil {
		if ctx.XRefTable.ValidationMode != model.ValidationRelaxed || endInd < 0 {
			return nil, err
		}
		model.ShowSkipped(fmt.Sprintf("malformed object at offset %d: %v", *offset, err))
		*offset += int64(endInd + len("endobj"))
	}
	rd, err := newPositionedReader(ctx.Read.RS, offset)
	if err != nil {
		return nil, err
	}
	s := bufio.NewScanner(rd)
	s.Buffer(make([]byte, 0, defaultBufSize), maxObjectBufferLen)
	s.Split(scan.LinesSingleEOL)
	return s, nil
}

func objCandidate(withinObj bool, line string) bool {
	if withinObj {
		return false
	}
	i := strings.Index(line, "obj")
	return i > 2 && strings.Index(line, "endobj") != i-3
}

func checkEndObj(withinObj *bool, line *string) {
	if *withinObj {
		i := strings.Index(*line, "endobj")
		if i >= 0 {
			*line = (*line)[i:]
			*withinObj = false
		}
	}
}

func ensureNoStartXRef(line string, i int) bool {
	return i == 0 || i > 0 && line[i-1] != 't'
}

func registerXRefEntry(ctx *model.Context, line string, offset int64, incr int) bool {
	objNr, generation, err := model.ParseObjectAttributes(&line)
	if err != nil || *objNr == 0 {
		return false
	}

	ctx.Table[*objNr] = &model.XRefTableEntry{
		Generation: generation,
		Offset:     &offset,
		Incr:       incr,
	}
	return true
}

func registerXRefObjects(ctx *model.Context, incr int) error {
	var offset int64
	rd, err := newPositionedReader(ctx.Read.RS, &offset)
	if err != nil {
		return err
	}

	s := bufio.NewScanner(rd)
	s.Buffer(make([]byte, 0, defaultBufSize), maxObjectBufferLen)
	s.Split(scan.LinesSingleEOL)

	withinObj := false
	for s.Scan() {
		rawLine := s.Text()
		line := types.TrimLeadingComment(rawLine)
		checkEndObj(&withinObj, &line)
		if objCandidate(withinObj, line) && registerXRefEntry(ctx, line, offset, incr) {
			withinObj = !strings.Contains(line, "endobj")
		}
		offset += int64(len(rawLine) + 1)
	}
	if err := s.Err(); err != nil {
		return fmt.Errorf("repair xref table: register objects: %w", err)
	}
	return nil
}

type xrefRepairState struct {
	scanner       *bufio.Scanner
	offset        int64
	withinObj     bool
	withinXref    bool
	withinTrailer bool
	bb            []byte
	offsetPrev    *int64
}

func processXRefRepairLine(c context.Context, ctx *model.Context, state *xrefRepairState, line string, length, eolCount int, offExtra int64, incr int) (bool, error) {
	if !state.withinXref {
		return false, nil
	}

	state.offset += int64(length + eolCount)
	if !state.withinTrailer {
		if strings.Contains(line, "trailer") {
			state.bb = append([]byte{}, line...)
			state.withinTrailer = true
		}
		return true, nil
	}
	if length == 0 {
		return true, nil
	}

	state.bb = append(state.bb, '\n')
	state.bb = append(state.bb, line...)
	if !strings.HasPrefix(line, "startxref") {
		return true, nil
	}

	offsetPrev, err := processTrailer(c, ctx, state.scanner, string(state.bb), nil, offExtra, incr, true)
	if err != nil {
		return false, err
	}
	state.offsetPrev = offsetPrev
	state.withinXref = false
	state.withinTrailer = false
	model.ShowRepaired("xreftable")
	return true, nil
}

// bypassXrefSection is a fix for digesting corrupt xref sections.
// It populates the xRefTable by reading in all indirect objects line by line
// and works on the assumption of a single xref section - meaning no incremental updates.
func bypassXrefSection(c context.Context, ctx *model.Context, offExtra int64, wasErr error, incr int) error {
	ctx.Table = make(map[int]*model.XRefTableEntry)

	var z int64
	g := types.FreeHeadGeneration
	ctx.Table[0] = &model.XRefTableEntry{
		Free:       true,
		Offset:     &z,
		Generation: &g}
	if err := registerXRefObjects(ctx, incr); err != nil {
		return err
	}

	rs := ctx.Read.RS
	var offset int64

	rd, err := newPositionedReader(rs, &offset)
	if err != nil {
		return err
	}

	s := bufio.NewScanner(rd)
	s.Buffer(make([]byte, 0, defaultBufSize), maxObjectBufferLen)
	s.Split(scan.LinesSingleEOL)
	eolCount := 1

	state := xrefRepairState{scanner: s}
	var prevLine string

	for {
		line, err := scanLineRaw(state.scanner)
		if err != nil {
			if errors.Is(err, errMissingScannerLine) {
				break
			}
			return fmt.Errorf("repair xref table: scan input: %w", err)
		}
		length := len(line)
		line = types.TrimLeadingComment(line)
		if len(prevLine) > 0 {
			line = prevLine + line
			prevLine = ""
		}
		handled, err := processXRefRepairLine(c, ctx, &state, line, length, eolCount, offExtra, incr)
		if err != nil {
			return err
		}
		if handled {
			continue
		}
		i := strings.Index(line, "xref")
		if ensureNoStartXRef(line, i) {
			state.offset += int64(length + eolCount)
			state.withinXref = true
			continue
		}
		checkEndObj(&state.withinObj, &line)
		if objCandidate(state.withinObj, line) {
			if !strings.HasSuffix(line, "obj") {
				state.withinObj = true
				state.scanner, err = processObject(c, ctx, line, &state.offset, incr, state.offsetPrev)
				if err != nil {
					return err
				}
				continue
			}
			prevLine = line
			continue
		}

		state.offset += int64(length + eolCount)
		continue
	}
	return nil
}

func postProcess(ctx *model.Context, xrefSectionCount int) {
	// Ensure free object #0 if exactly one xref subsection
	// and in one of the following weird situations:
	if xrefSectionCount == 1 && !ctx.Exists(0) {
		// Fix for #250
		e := ctx.Table[1]
		if e != nil && e.Free {
			// Create free object 0 by shifting down all objects by one.
			for i := 1; i <= *ctx.Size; i++ {
				ctx.Table[i-1] = ctx.Table[i]
			}
			delete(ctx.Table, *ctx.Size)
		} else {
			// Create free object 0 from scratch if the free list head is missing.
			g0 := types.FreeHeadGeneration
			ctx.Table[0] = &model.XRefTableEntry{Free: true, Offset: &zero, Generation: &g0}
		}
		model.ShowRepaired("obj#0")
	}
}

func tryXRefSection(c context.Context, ctx *model.Context, rs io.ReadSeeker, offset *int64, offExtra int64, xrefSectionCount *int, incr int) (*int64, error) {
	rd, err := newPositionedReader(rs, offset)
	if err != nil {
		return nil, err
	}

	s := bufio.NewScanner(rd)
	buf := make([]byte, 0, 4096)
	s.Buffer(buf, 1024*1024)
	s.Split(scan.Lines)

	line, err := scanLine(s)
	if err != nil {
		return nil, err
	}
	if log.ReadEnabled() {
		log.Read.Printf("xref line 1: <%s>\n", line)
	}
	repairOff := len(line)

	if strings.TrimSpace(line) == "xref" {
		if log.ReadEnabled() {
			log.Read.Println("tryXRefSection: found xref section")
		}
		return parseXRefSection(c, ctx, s, nil, xrefSectionCount, offset, offExtra, incr)
	}

	// Repair fix for #823
	if strings.HasPrefix(line, "xref") {
		fields := strings.Fields(line)
		if len(fields) == 3 {
			return parseXRefSection(c, ctx, s, fields[1:], xrefSectionCount, offset, offExtra, incr)
		}
	}

	// Repair fix for #326
	if line, err = scanLine(s); err != nil {
		return nil, err
	}
	if log.ReadEnabled() {
		log.Read.Printf("xref line 2: <%s>\n", line)
	}

	i := strings.Index(line, "xref")
	if i == 0 || (i > 0 && line[i-1] != 't') { // Don't confuse with "startxref".
		if log.ReadEnabled() {
			log.Read.Println("tryXRefSection: found xref section")
		}
		repairOff += i
		if log.ReadEnabled() {
			log.Read.Printf("Repair offset: %d\n", repairOff)
		}
		ctx.Read.RepairOffset = int64(repairOff)
		return parseXRefSection(c, ctx, s, nil, xrefSectionCount, offset, offExtra, incr)
	}

	return &zero, nil
}

func parseXRefStreamOrRepair(c context.Context, ctx *model.Context, rs io.ReadSeeker, offset *int64, offExtra int64, incr int) (*int64, bool, error) {
	if log.ReadEnabled() {
		log.Read.Println("buildXRefTableStartingAt: found xref stream")
	}
	ctx.Read.UsingXRefStreams = true
	rd, err := newPositionedReader(rs, offset)
	if err != nil {
		return nil, false, err
	}

	next, err := parseXRefStream(c, ctx, rd, offset, offExtra, incr)
	if err == nil {
		return next, false, nil
	}
	if ctx.Configuration.ValidationMode == model.ValidationStrict && errors.Is(err, model.ErrXRefStreamIndexSizeMismatch) {
		return nil, false, err
	}

	// Try fix for corrupt single xref section.
	return nil, true, bypassXrefSection(c, ctx, offExtra, err, incr)
}

// Build XRefTable by reading XRef streams or XRef sections.
func buildXRefTableStartingAt(c context.Context, ctx *model.Context, offset *int64) error {
	if log.ReadEnabled() {
		log.Read.Println("buildXRefTableStartingAt: begin")
	}

	rs := ctx.Read.RS
	hv, eolCount, offExtra, err := headerVersion(rs)
	if err != nil {
		return err
	}
	*offset += offExtra

	ctx.HeaderVersion = hv
	ctx.Read.EolCount = eolCount
	offs := map[int64]bool{}
	xrefSectionCount := 0
	incr := 0

	for offset != nil {

		incr++
		//fmt.Printf("Incr: %d\n", incr)

		if err := c.Err(); err != nil {
			return err
		}

		if offs[*offset] {
			if offset, err = offsetLastXRefSection(ctx, ctx.Read.FileSize-*offset); err != nil {
				return err
			}
			if offs[*offset] {
				return nil
			}
		}

		offs[*offset] = true

		off, err := tryXRefSection(c, ctx, rs, offset, offExtra, &xrefSectionCount, incr)
		if err != nil {
			return err
		}

		if off == nil || *off != 0 {
			offset = off
			continue
		}

		repaired := false
		offset, repaired, err = parseXRefStreamOrRepair(c, ctx, rs, offset, offExtra, incr)
		if err != nil {
			return err
		}
		if repaired {
			return nil
		}
	}

	postProcess(ctx, xrefSectionCount)

	if log.ReadEnabled() {
		log.Read.Println("buildXRefTableStartingAt: end")
	}

	return nil
}

// Populate the cross reference table for this PDF file.
// Goto offset of first xref table entry.
// Can be "xref" or indirect object reference eg. "34 0 obj"
// Keep digesting xref sections as long as there is a defined previous xref section
// and build up the xref table along the way.
func readXRefTable(c context.Context, ctx *model.Context) (err error) {
	if log.ReadEnabled() {
		log.Read.Println("readXRefTable: begin")
	}

	offset, err := offsetLastXRefSection(ctx, 0)
	if err != nil {
		if !repairableLastXRefSection(ctx, err) {
			return err
		}
		zero := int64(0)
		offset = &zero
	}

	ctx.Write.OffsetPrevXRef = offset

	err = buildXRefTableStartingAt(c, ctx, offset)
	if errors.Is(err, io.EOF) {
		return fmt.Errorf("xref table: unexpected eof: %w", err)
	}
	if err != nil {
		return
	}

	//Log list of free objects (not the "free list").
	//log.Read.Printf("freelist: %v\n", ctx.freeObjects())

	// Note: Acrobat 6.0 and later do not use the free list to recycle object numbers - pdfcpu does.
	err = ctx.EnsureValidFreeList()

	if log.ReadEnabled() {
		log.Read.Println("readXRefTable: end")
	}

	return err
}

func isMissingXRefSection(err error) bool {
	return errors.Is(err, ErrMissingXRefSection)
}

func repairableLastXRefSection(ctx *model.Context, err error) bool {
	if isMissingXRefSection(err) {
		return true
	}
	return ctx.XRefTable.ValidationMode == model.ValidationRelaxed && errors.Is(err, errMissingXRefEOF)
}

func growBufBy(buf []byte, size int, rd io.Reader) ([]byte, error) {
	b := make([]byte, size)

	if _, err := fillBuffer(rd, b); err != nil {
		return nil, err
	}
	//log.Read.Printf("growBufBy: Read %d bytes\n", n)

	return append(buf, b...), nil
}

func nextStreamOffset(line string, streamInd int) (int, error) {
	const marker = "stream"
	if streamInd < 0 || streamInd > len(line)-len(marker) || line[streamInd:streamInd+len(marker)] != marker {
		return 0, errCorruptStreamMarker
	}
	off := streamInd + len(marker)

	// Relaxed compatibility: tolerate optional ASCII spaces before the required EOL.
	for off < len(line) && line[off] == 0x20 {
		off++
	}
	if off == len(line) {
		return 0, errTruncatedStreamMarker
	}

	// Skip 0A eol.
	if line[off] == '\n' {
		return off + 1, nil
	}

	// Skip 0D eol.
	if line[off] == '\r' {
		off++
		// Skip 0D0A eol.
		if off < len(line) && line[off] == '\n' {
			off++
		}
	}

	return off, nil
}

func lastStreamMarker(streamInd *int, endInd int, line string) {
	if *streamInd > len(line)-len("stream") {
		// No space for another stream marker.
		*streamInd = -1
		return
	}

	// We start searching after this stream marker.
	bufpos := *streamInd + len("stream")

	// Search for next stream marker.
	i := strings.Index(line[bufpos:], "stream")
	if i < 0 {
		// No stream marker within line buffer.
		*streamInd = -1
		return
	}

	// We found the next stream marker.
	*streamInd += len("stream") + i

	if endInd > 0 && *streamInd > endInd {
		// We found a stream marker of another object
		*streamInd = -1
	}

}

func growObjectBuffer(buf []byte, growSize int, rd io.Reader, maxObjectBytes int64) ([]byte, error) {
	remaining := maxObjectBytes - int64(len(buf))
	if remaining <= 0 {
		return nil, fmt.Errorf("maximum length %d: %w", maxObjectBytes, errObjectBufferLimit)
	}
	if int64(growSize) > remaining {
		growSize = int(remaining)
	}
	return growBufBy(buf, growSize, rd)
}

func streamOffsetForBuffer(buf []byte, line string, streamInd int, rd io.Reader, maxObjectBytes int64) ([]byte, int64, error) {
	for {
		off, err := nextStreamOffset(line, streamInd)
		if err == nil {
			return buf, int64(off), nil
		}
		if !errors.Is(err, errTruncatedStreamMarker) {
			return nil, 0, err
		}

		buf, err = growObjectBuffer(buf, defaultBufSize, rd, maxObjectBytes)
		if err != nil {
			return nil, 0, err
		}
		line = string(buf)
	}
}

// Provide a PDF file buffer of sufficient size for parsing an object w/o stream.
func buffer(c context.Context, rd io.Reader, maxObjectBytes int64) (buf []byte, endInd int, streamInd int, streamOffset int64, err error) {
	// process: # gen obj ... obj dict ... {stream ... data ... endstream} ... endobj
	//                                    streamInd                            endInd
	//                                  -1 if absent                        -1 if absent

	//log.Read.Println("buffer: begin")

	endInd, streamInd = -1, -1
	growSize := defaultBufSize

	for endInd < 0 && streamInd < 0 {
		if err := c.Err(); err != nil {
			return nil, 0, 0, 0, err
		}

		if buf, err = growObjectBuffer(buf, growSize, rd, maxObjectBytes); err != nil {
			return nil, 0, 0, 0, err
		}

		growSize = min(growSize*2, maxBufSize)
		line := string(buf)

		endInd, streamInd, err = model.DetectKeywordsWithContext(c, line)
		if err != nil {
			return nil, 0, 0, 0, err
		}

		if endInd > 0 && (streamInd < 0 || streamInd > endInd) {
			// No stream marker in buf detected.
			break
		}

		// For very rare cases where "stream" also occurs within obj dict
		// we need to find the last "stream" marker before a possible end marker.
		for streamInd > 0 && !keywordStreamRightAfterEndOfDict(line, streamInd) {
			lastStreamMarker(&streamInd, endInd, line)
		}

		if log.ReadEnabled() {
			log.Read.Printf("buffer: endInd=%d streamInd=%d\n", endInd, streamInd)
		}

		if streamInd > 0 {

			// streamOffset ... the offset where the actual stream data begins.
			//                  is right after the eol after "stream".
			buf, streamOffset, err = streamOffsetForBuffer(buf, line, streamInd, rd, maxObjectBytes)
			if err != nil {
				return nil, 0, 0, 0, err
			}
		}
	}

	//log.Read.Printf("buffer: end, returned bufsize=%d streamOffset=%d\n", len(buf), streamOffset)

	return buf, endInd, streamInd, streamOffset, nil
}

// return true if 'stream' follows end of dict: >>{whitespace}stream
func keywordStreamRightAfterEndOfDict(buf string, streamInd int) bool {
	//log.Read.Println("keywordStreamRightAfterEndOfDict: begin")

	// Get a slice of the chunk right in front of 'stream'.
	b := buf[:streamInd]

	// Look for last end of dict marker.
	eod := strings.LastIndex(b, ">>")
	if eod < 0 {
		// No end of dict in buf.
		return false
	}

	// We found the last >>. Return true if after end of dict only whitespace.
	ok := strings.TrimSpace(b[eod:]) == ">>"

	//log.Read.Printf("keywordStreamRightAfterEndOfDict: end, %v\n", ok)

	return ok
}

// inlineImageFilterAliases are standardized for inline images only.
// Relaxed validation also accepts them for regular streams for reader compatibility.
var inlineImageFilterAliases = map[string]string{
	"AHx": filter.ASCIIHex,
	"A85": filter.ASCII85,
	"LZW": filter.LZW,
	"Fl":  filter.Flate,
	"RL":  filter.RunLength,
	"CCF": filter.CCITTFax,
	"DCT": filter.DCT,
}

func streamFilterName(ctx *model.Context, name string) string {
	if ctx.XRefTable.ValidationMode == model.ValidationRelaxed {
		if canonicalName, ok := inlineImageFilterAliases[name]; ok {
			return canonicalName
		}
	}
	return name
}

func normalizeStreamFilterName(ctx *model.Context, dict types.Dict, name string) string {
	filterName := streamFilterName(ctx, name)
	if filterName == name {
		return name
	}
	dict.Update("Filter", types.Name(filterName))
	model.ShowRepaired(fmt.Sprintf("stream filter %s", name))
	return filterName
}

func normalizeStreamFilterArray(ctx *model.Context, dict types.Dict, filters types.Array) types.Array {
	if ctx.XRefTable.ValidationMode != model.ValidationRelaxed {
		return filters
	}
	canonicalFilters := filters.Clone().(types.Array)
	repaired := false
	for i, obj := range canonicalFilters {
		name, ok := obj.(types.Name)
		if !ok {
			continue
		}
		filterName := streamFilterName(ctx, name.String())
		if filterName != name.String() {
			canonicalFilters[i] = types.Name(filterName)
			repaired = true
		}
	}
	if !repaired {
		return filters
	}
	dict.Update("Filter", canonicalFilters)
	model.ShowRepaired("stream filter pipeline")
	return canonicalFilters
}

func buildFilterPipeline(c context.Context, ctx *model.Context, filterArray, decodeParmsArr types.Array) ([]types.PDFFilter, error) {
	var filterPipeline []types.PDFFilter

	for i, f := range filterArray {

		filterName, ok := f.(types.Name)
		if !ok {
			return nil, fmt.Errorf("filter pipeline entry %d: %w", i, errCorruptFilterArray)
		}
		name := streamFilterName(ctx, filterName.Value())
		if decodeParmsArr == nil || decodeParmsArr[i] == nil {
			filterPipeline = append(filterPipeline, types.PDFFilter{Name: name, DecodeParms: nil})
			continue
		}

		dict, ok := decodeParmsArr[i].(types.Dict)
		if !ok {
			indRef, ok := decodeParmsArr[i].(types.IndirectRef)
			if !ok {
				return nil, fmt.Errorf("filter pipeline DecodeParms entry %d: %w", i, errCorruptDecodeParms)
			}
			d, err := dereferencedDict(c, ctx, indRef.ObjectNumber.Value())
			if err != nil {
				return nil, fmt.Errorf("filter pipeline DecodeParms entry %d: %w", i, err)
			}
			dict = d
		}

		filterPipeline = append(filterPipeline, types.PDFFilter{Name: name, DecodeParms: dict})
	}

	return filterPipeline, nil
}

func singleFilter(c context.Context, ctx *model.Context, filterName string, d types.Dict) ([]types.PDFFilter, error) {
	filterName = streamFilterName(ctx, filterName)
	obj, found := d.Find("DecodeParms")
	if !found {
		// w/o decode parameters.
		if log.ReadEnabled() {
			log.Read.Println("singleFilter: end w/o decode parms")
		}
		return []types.PDFFilter{{Name: filterName}}, nil
	}

	var err error

	if indRef, ok := obj.(types.IndirectRef); ok {
		obj, err = dereferencedObject(c, ctx, indRef.ObjectNumber.Value())
		if err != nil {
			return nil, fmt.Errorf("single filter DecodeParms: %w", err)
		}
	}

	if d, ok := obj.(types.Dict); ok {
		if len(d) == 0 {
			d = nil
		}
		return []types.PDFFilter{{Name: filterName, DecodeParms: d}}, nil
	}

	if arr, ok := obj.(types.Array); ok {
		if len(arr) > 1 {
			return nil, fmt.Errorf("single filter %s DecodeParms: %w", filterName, errCorruptDecodeParms)
		}
		if len(arr) == 0 || arr[0] == nil {
			return []types.PDFFilter{{Name: filterName}}, nil
		}
		d, ok := arr[0].(types.Dict)
		if !ok {
			return nil, fmt.Errorf("single filter %s DecodeParms: %w", filterName, errCorruptDecodeParms)
		}
		if len(d) == 0 {
			d = nil
		}
		return []types.PDFFilter{{Name: filterName, DecodeParms: d}}, nil
	}

	return nil, fmt.Errorf("single filter %s DecodeParms: %w", filterName, errCorruptDecodeParms)
}

func filterArraySupportsDecodeParms(ctx *model.Context, filters types.Array) bool {
	for _, obj := range filters {
		if name, ok := obj.(types.Name); ok {
			if filter.SupportsDecodeParms(streamFilterName(ctx, name.String())) {
				return true
			}
		}
	}
	return false
}

// Return the filter pipeline associated with this stream dict.
func pdfFilterPipeline(c context.Context, ctx *model.Context, dict types.Dict) ([]types.PDFFilter, error) {
	if log.ReadEnabled() {
		log.Read.Println("pdfFilterPipeline: begin")
	}

	var err error

	o, found := dict.Find("Filter")
	if !found {
		// stream is not compressed.
		return nil, nil
	}

	// compressed stream.

	var filterPipeline []types.PDFFilter

	if indRef, ok := o.(types.IndirectRef); ok {
		if o, err = dereferencedObject(c, ctx, indRef.ObjectNumber.Value()); err != nil {
			return nil, fmt.Errorf("filter pipeline Filter: %w", err)
		}
	}

	//fmt.Printf("dereferenced filter obj: %s\n", obj)

	if name, ok := o.(types.Name); ok {
		filterName := normalizeStreamFilterName(ctx, dict, name.String())
		return singleFilter(c, ctx, filterName, dict)
	}

	// filter pipeline.

	// Array of filternames
	filterArray, ok := o.(types.Array)
	if !ok {
		return nil, fmt.Errorf("filter pipeline: %w", errCorruptFilterArray)
	}

	// Optional array of decode parameter dicts.
	var decodeParmsArr types.Array
	decodeParms, found := dict.Find("DecodeParms")
	if found {
		if filterArraySupportsDecodeParms(ctx, filterArray) {
			decodeParmsArr, ok = decodeParms.(types.Array)
			if ok {
				if len(decodeParmsArr) != len(filterArray) {
					return nil, fmt.Errorf("filter pipeline DecodeParms: %w", errCorruptDecodeParms)
				}
			}
		}
	}

	filterArray = normalizeStreamFilterArray(ctx, dict, filterArray)

	//fmt.Printf("decodeParmsArr: %s\n", decodeParmsArr)

	filterPipeline, err = buildFilterPipeline(c, ctx, filterArray, decodeParmsArr)

	if log.ReadEnabled() {
		log.Read.Println("pdfFilterPipeline: end")
	}

	return filterPipeline, err
}

func streamDictForObject(c context.Context, ctx *model.Context, d types.Dict, objNr, streamInd int, streamOffset, offset int64) (sd types.StreamDict, err error) {
	streamLength, streamLengthRef := d.Length()

	if streamInd <= 0 {
		return sd, fmt.Errorf("stream obj#%d: %w", objNr, errMissingStreamOffset)
	}

	filterPipeline, err := pdfFilterPipeline(c, ctx, d)
	if err != nil {
		return sd, fmt.Errorf("stream obj#%d filter pipeline: %w", objNr, err)
	}

	streamOffset += offset

	// We have a stream object.
	sd = types.NewStreamDict(d, streamOffset, streamLength, streamLengthRef, filterPipeline)

	if log.ReadEnabled() {
		log.Read.Printf("streamDictForObject: end, Streamobject #%d\n", objNr)
	}

	return sd, nil
}

func dict(ctx *model.Context, d1 types.Dict, objNr, genNr, endInd, streamInd int) (d2 types.Dict, err error) {
	if ctx.EncKey != nil {
		if _, err := decryptDeepObject(d1, objNr, genNr, ctx.EncKey, ctx.AES4Strings, ctx.E.R); err != nil {
			return nil, err
		}
	}

	if endInd >= 0 && (streamInd < 0 || streamInd > endInd) {
		if log.ReadEnabled() {
			log.Read.Printf("dict: end, #%d\n", objNr)
		}
		d2 = d1
	}

	return d2, nil
}

func object(c context.Context, ctx *model.Context, offset int64, objNr, genNr int) (o types.Object, endInd, streamInd int, streamOffset int64, err error) {
	var rd io.Reader

	if rd, err = newPositionedReader(ctx.Read.RS, &offset); err != nil {
		return nil, 0, 0, 0, err
	}

	//log.Read.Printf("object: seeked to offset:%d\n", offset)

	// process: # gen obj ... obj dict ... {stream ... data ... endstream} endobj
	//                                    streamInd                        endInd
	//                                  -1 if absent                    -1 if absent
	var buf []byte
	if buf, endInd, streamInd, streamOffset, err = buffer(c, rd, maxObjectBufferLen); err != nil {
		return nil, 0, 0, 0, err
	}

	//log.Read.Printf("streamInd:%d(#%x) streamOffset:%d(#%x) endInd:%d(#%x)\n", streamInd, streamInd, streamOffset, streamOffset, endInd, endInd)
	//log.Read.Printf("buflen=%d\n%s", len(buf), hex.Dump(buf))

	line := string(buf)

	var l string

	if endInd < 0 { // && streamInd >= 0, streamdict
		// buf: # gen obj ... obj dict ... stream ... data
		// implies we detected no endobj and a stream starting at streamInd.
		// big stream, we parse object until "stream"
		if log.ReadEnabled() {
			log.Read.Println("object: big stream, we parse object until stream")
		}
		l = line[:streamInd]
	} else if streamInd < 0 { // dict
		// buf: # gen obj ... obj dict ... endobj
		// implies we detected endobj and no stream.
		// small object w/o stream, parse until "endobj"
		if log.ReadEnabled() {
			log.Read.Println("object: small object w/o stream, parse until endobj")
		}
		l = line[:endInd]
	} else if streamInd < endInd { // streamdict
		// buf: # gen obj ... obj dict ... stream ... data ... endstream endobj
		// implies we detected endobj and stream.
		// small stream within buffer, parse until "stream"
		if log.ReadEnabled() {
			log.Read.Println("object: small stream within buffer, parse until stream")
		}
		l = line[:streamInd]
	} else { // dict
		// buf: # gen obj ... obj dict ... endobj # gen obj ... obj dict ... stream
		// small obj w/o stream, parse until "endobj"
		// stream in buf belongs to subsequent object.
		if log.ReadEnabled() {
			log.Read.Println("object: small obj w/o stream, parse until endobj")
		}
		l = line[:endInd]
	}

	// Parse object number and object generation.
	var objectNr, generationNr *int
	if objectNr, generationNr, err = model.ParseObjectAttributes(&l); err != nil {
		return nil, 0, 0, 0, err
	}

	if objNr != *objectNr || genNr != *generationNr {
		// This is suspicious, but ok if two object numbers point to same offset and only one of them is used
		// (compare entry.RefCount) like for cases where the PDF Writer is MS Word 2013.
		if log.ReadEnabled() {
			log.Read.Printf("object %d: non matching objNr(%d) or generationNumber(%d) tags found.\n", objNr, *objectNr, *generationNr)
		}
	}

	l = strings.TrimSpace(l)
	if len(l) == 0 {
		// 7.3.9
		// Specifying the null object as the value of a dictionary entry (7.3.7, "Dictionary Objects")
		// shall be equivalent to omitting the entry entirely.
		return nil, endInd, streamInd, streamOffset, err
	}

	o, err = model.ParseObjectContext(c, &l, 0, recursionLimit(ctx))

	return o, endInd, streamInd, streamOffset, err
}

func resolveObject(c context.Context, ctx *model.Context, obj types.Object, offset int64, objNr, genNr, endInd, streamInd int, streamOffset int64) (types.Object, error) {
	switch o := obj.(type) {

	case types.Dict:
		d, err := dict(ctx, o, objNr, genNr, endInd, streamInd)
		if err != nil || d != nil {
			// Dict
			return d, err
		}
		// StreamDict.
		return streamDictForObject(c, ctx, o, objNr, streamInd, streamOffset, offset)

	case types.Array:
		if ctx.EncKey != nil {
			if _, err := decryptDeepObject(o, objNr, genNr, ctx.EncKey, ctx.AES4Strings, ctx.E.R); err != nil {
				return nil, err
			}
		}
		return o, nil

	case types.StringLiteral:
		if ctx.EncKey != nil {
			sl, err := decryptStringLiteral(o, objNr, genNr, ctx.EncKey, ctx.AES4Strings, ctx.E.R)
			if err != nil {
				return nil, err
			}
			return *sl, nil
		}
		return o, nil

	case types.HexLiteral:
		if ctx.EncKey != nil {
			hl, err := decryptHexLiteral(o, objNr, genNr, ctx.EncKey, ctx.AES4Strings, ctx.E.R)
			if err != nil {
				return nil, err
			}
			return *hl, nil
		}
		return o, nil

	default:
		return o, nil
	}
}

// ParseObjectWithContext parses an object at offset using c for cancellation.
func ParseObjectWithContext(c context.Context, ctx *model.Context, offset int64, objNr, genNr int) (types.Object, error) {
	if log.ReadEnabled() {
		log.Read.Printf("ParseObject: begin, obj#%d, offset:%d\n", objNr, offset)
	}

	obj, endInd, streamInd, streamOffset, err := object(c, ctx, offset, objNr, genNr)
	if err != nil {
		if ctx.XRefTable.ValidationMode == model.ValidationRelaxed {
			if errors.Is(err, io.EOF) {
				err = nil
			}
		}
		return nil, err
	}

	return resolveObject(c, ctx, obj, offset, objNr, genNr, endInd, streamInd, streamOffset)
}

func dereferencedObject(c context.Context, ctx *model.Context, objNr int) (types.Object, error) {
	entry, ok := ctx.Find(objNr)
	if !ok {
		return nil, fmt.Errorf("object %d: %w", objNr, errUnregisteredObject)
	}

	if entry.Compressed {
		if err := decompressXRefTableEntry(ctx.XRefTable, objNr, entry); err != nil {
			return nil, err
		}
	}

	if entry.Object == nil {

		if log.ReadEnabled() {
			log.Read.Printf("dereferencedObject: dereferencing object %d\n", objNr)
		}

		if entry.Free {
			return nil, ErrReferenceDoesNotExist
		}

		o, err := ParseObjectWithContext(c, ctx, *entry.Offset, objNr, *entry.Generation)
		if err != nil {
			return nil, fmt.Errorf("problem dereferencing object %d: %w", objNr, err)
		}

		if o == nil {
			return nil, fmt.Errorf("object %d: %w", objNr, errNilDereferencedObject)
		}

		entry.Object = o
	} else if l, ok := entry.Object.(types.LazyObjectStreamObject); ok {
		o, err := l.DecodedObject(c)
		if err != nil {
			return nil, fmt.Errorf("problem dereferencing object %d: %w", objNr, err)
		}

		if err := model.ProcessRefCountsWithError(ctx.XRefTable, o); err != nil {
			return nil, err
		}
		entry.Object = o
	}

	return entry.Object, nil
}

func dereferencedInteger(c context.Context, ctx *model.Context, objNr int) (*types.Integer, error) {
	o, err := dereferencedObject(c, ctx, objNr)
	if err != nil {
		return nil, err
	}

	i, ok := o.(types.Integer)
	if !ok {
		return nil, fmt.Errorf("object %d: %w", objNr, errCorruptIntegerObject)
	}

	return &i, nil
}

func dereferencedDict(c context.Context, ctx *model.Context, objNr int) (types.Dict, error) {
	o, err := dereferencedObject(c, ctx, objNr)
	if err != nil {
		return nil, err
	}

	d, ok := o.(types.Dict)
	if !ok {
		return nil, fmt.Errorf("object %d: %w", objNr, errCorruptDictObject)
	}

	return d, nil
}

// dereference a Integer object representing an int64 value.
func int64Object(c context.Context, ctx *model.Context, objNr int) (*int64, error) {
	if log.ReadEnabled() {
		log.Read.Printf("int64Object begin: %d\n", objNr)
	}

	i, err := dereferencedInteger(c, ctx, objNr)
	if err != nil {
		return nil, err
	}

	i64 := int64(i.Value())

	if log.ReadEnabled() {
		log.Read.Printf("int64Object end: %d\n", objNr)
	}

	return &i64, nil

}

func readStreamContentBlindly(rd io.Reader, maxStreamBytes int64) (buf []byte, err error) {
	// Weak heuristic for reading in stream data for cases where stream length is unknown.
	// ...data...{eol}endstream{eol}endobj

	growSize := defaultBufSize
	if int64(growSize) > maxStreamBytes {
		growSize = int(maxStreamBytes)
	}

	if buf, err = growBufBy(buf, growSize, rd); err != nil {
		return nil, err
	}

	i := bytes.Index(buf, []byte("endstream"))
	for i < 0 {
		if int64(len(buf)) >= maxStreamBytes {
			return nil, fmt.Errorf(
				"stream content exceeds maximum blind read length %d",
				maxStreamBytes,
			)
		}

		growSize = min(growSize*2, maxBufSize)

		remaining := maxStreamBytes - int64(len(buf))
		if int64(growSize) > remaining {
			growSize = int(remaining)
		}

		buf, err = growBufBy(buf, growSize, rd)
		if err != nil {
			return nil, err
		}

		i = bytes.Index(buf, []byte("endstream"))
	}

	buf = buf[:i]

	// Cut off trailing eol's.
	for len(buf) > 0 {
		last := buf[len(buf)-1]
		if last != 0x0A && last != 0x0D {
			break
		}
		buf = buf[:len(buf)-1]
	}

	return buf, nil
}

// Reads and returns a file buffer with length = stream length using provided reader positioned at offset.
func readStreamContent(rd io.Reader, streamLength int, maxStreamBytes int64) ([]byte, error) {
	if log.ReadEnabled() {
		log.Read.Printf("readStreamContent: begin streamLength:%d\n", streamLength)
	}

	if streamLength <= 0 {
		// Read until "endstream" then fix "Length", but do not allow
		// unbounded memory growth for missing or corrupt markers.
		return readStreamContentBlindly(rd, maxStreamBytes)
	}

	if int64(streamLength) > maxStreamBytes {
		return nil, fmt.Errorf(
			"stream length %d exceeds maximum supported length %d",
			streamLength,
			maxStreamBytes,
		)
	}

	buf := make([]byte, streamLength)

	totalCount := 0
	for totalCount < streamLength {
		count, err := fillBuffer(rd, buf[totalCount:])
		if count < 0 || count > streamLength-totalCount {
			return nil, fmt.Errorf("invalid stream read count=%d", count)
		}
		if count > 0 {
			totalCount += count

			if log.ReadEnabled() {
				log.Read.Printf("count=%d, buflen=%d(%X)\n", count, len(buf), len(buf))
			}
		}

		if err != nil {
			if !errors.Is(err, io.EOF) {
				return nil, err
			}

			// Search only the bytes actually read. Searching the whole
			// preallocated buffer includes zero-filled unread bytes.
			eob := bytes.Index(buf[:totalCount], []byte("endstream"))
			if eob < 0 {
				return nil, err
			}
			return buf[:eob], nil
		}

		if count == 0 {
			return nil, io.ErrNoProgress
		}
	}

	if log.ReadEnabled() {
		log.Read.Printf("readStreamContent: end\n")
	}

	return buf, nil
}

func ensureStreamLength(sd *types.StreamDict, fixLength bool) error {
	if sd == nil || sd.Dict == nil {
		return errCorruptStreamDict
	}

	l := int64(len(sd.Raw))
	if fixLength || sd.StreamLength == nil || l != *sd.StreamLength {
		sd.StreamLength = &l
		sd.Dict["Length"] = types.Integer(l)
	}

	return nil
}

func decodeLimit(ctx *model.Context) int64 {
	if ctx == nil || ctx.Configuration == nil {
		return model.DefaultResourceLimits().MaxDecodeBytes
	}
	return ctx.Configuration.Limits.MaxDecodeBytes
}

func streamLimit(ctx *model.Context) int64 {
	if ctx == nil || ctx.Configuration == nil {
		return model.DefaultResourceLimits().MaxStreamBytes
	}
	return ctx.Configuration.Limits.MaxStreamBytes
}

func recursionLimit(ctx *model.Context) int {
	if ctx == nil || ctx.Configuration == nil {
		return model.DefaultResourceLimits().MaxRecursionDepth
	}
	return ctx.Configuration.Limits.MaxRecursionDepth
}

func ensureIndirectStreamLength(c context.Context, ctx *model.Context, sd *types.StreamDict, fixLength bool) error {
	if fixLength || sd.StreamLength != nil {
		return nil
	}
	if sd.StreamLengthObjNr == nil {
		if ctx.XRefTable.ValidationMode == model.ValidationStrict {
			return errMissingStreamLength
		}
		model.ShowSkipped("missing stream length")
		return nil
	}

	streamLength, err := int64Object(c, ctx, *sd.StreamLengthObjNr)
	if err != nil && !errors.Is(err, ErrReferenceDoesNotExist) {
		return err
	}
	sd.StreamLength = streamLength

	return nil
}

// loadEncodedStreamContent loads the encoded stream content into sd.
func loadEncodedStreamContent(c context.Context, ctx *model.Context, sd *types.StreamDict, fixLength bool) error {
	if sd.Raw != nil {
		return nil
	}

	if log.ReadEnabled() {
		log.Read.Printf("loadEncodedStreamContent: begin\n%v\n", sd)
	}

	// Read stream content encoded at offset with stream length.

	// Dereference stream length if stream length is an indirect object.
	if err := ensureIndirectStreamLength(c, ctx, sd, fixLength); err != nil {
		return fmt.Errorf("stream length: %w", err)
	}

	rd, err := newPositionedReader(ctx.Read.RS, &sd.StreamOffset)
	if err != nil {
		return fmt.Errorf("position stream reader: %w", err)
	}

	l1 := 0
	if !fixLength && sd.StreamLength != nil {
		l1 = int(*sd.StreamLength)
	}
	sd.Raw, err = readStreamContent(rd, l1, streamLimit(ctx))
	if err != nil {
		return fmt.Errorf("read stream content: %w", err)
	}

	if err := ensureStreamLength(sd, fixLength); err != nil {
		return fmt.Errorf("stream length: %w", err)
	}

	if log.ReadEnabled() {
		log.Read.Printf("loadEncodedStreamContent: end: len(streamDictRaw)=%d\n", len(sd.Raw))
	}

	return nil
}

func metadataStream(sd *types.StreamDict) bool {
	if sd == nil {
		return false
	}

	t := sd.Dict.Type()
	return t != nil && *t == "Metadata"
}

func unencryptedMetadata(ctx *model.Context, sd *types.StreamDict) bool {
	return ctx != nil && ctx.XRefTable != nil && ctx.E != nil && !ctx.E.Emd && metadataStream(sd)
}

func repairablePlaintextMetadata(ctx *model.Context, sd *types.StreamDict, err error) bool {
	if ctx == nil || ctx.XRefTable == nil || ctx.E == nil || ctx.XRefTable.ValidationMode != model.ValidationRelaxed {
		return false
	}
	if !ctx.E.Emd || !ctx.AES4Streams || !metadataStream(sd) {
		return false
	}
	return errors.Is(err, errAESCiphertextTooShort) || errors.Is(err, errAESCiphertextUnaligned)
}

func validPlaintextMetadata(ctx *model.Context, sd *types.StreamDict) bool {
	probe := *sd
	probe.Raw = bytes.Clone(sd.Raw)
	probe.Content = nil
	if err := probe.DecodeWithLimit(decodeLimit(ctx)); err != nil {
		return false
	}

	var x model.XMPMeta
	return xml.Unmarshal(probe.Content, &x) == nil
}

func decryptStreamContent(ctx *model.Context, sd *types.StreamDict, objNr, genNr int) error {
	if ctx == nil || ctx.EncKey == nil || unencryptedMetadata(ctx, sd) {
		return nil
	}

	raw, err := decryptStream(sd.Raw, objNr, genNr, ctx.EncKey, ctx.AES4Streams, ctx.E.R)
	if err != nil {
		if repairablePlaintextMetadata(ctx, sd, err) && validPlaintextMetadata(ctx, sd) {
			model.ShowRepaired(fmt.Sprintf("plaintext metadata obj#%d", objNr))
			return nil
		}
		return err
	}
	sd.Raw = raw

	return ensureStreamLength(sd, true)
}

// Decodes the raw encoded stream content and saves it to streamDict.Content.
func saveDecodedStreamContent(ctx *model.Context, sd *types.StreamDict, objNr, genNr int, decode bool) (err error) {
	if log.ReadEnabled() {
		log.Read.Printf("saveDecodedStreamContent: begin decode=%t\n", decode)
	}

	// If the "Identity" crypt filter is used we do not need to decrypt.
	if ctx != nil && ctx.EncKey != nil {
		if len(sd.FilterPipeline) == 1 && sd.FilterPipeline[0].Name == "Crypt" {
			sd.Content = sd.Raw
			return nil
		}
	}

	// Special case: If the length of the encoded data is 0, we do not need to decode anything.
	if len(sd.Raw) == 0 {
		sd.Content = sd.Raw
		return nil
	}

	// ctx gets created after XRefStream parsing.
	// XRefStreams are not encrypted.
	if err := decryptStreamContent(ctx, sd, objNr, genNr); err != nil {
		return fmt.Errorf("decrypt stream content: %w", err)
	}

	if !decode {
		return nil
	}

	if sd.Image() {
		return nil
	}

	// Actual decoding of stream data.
	err = sd.DecodeWithLimit(decodeLimit(ctx))
	if errors.Is(err, filter.ErrUnsupportedFilter) {
		err = nil
	}
	if err != nil {
		return fmt.Errorf("decode stream content: %w", err)
	}

	if log.ReadEnabled() {
		log.Read.Println("saveDecodedStreamContent: end")
	}

	return nil
}

// Resolve compressed xRefTableEntry
func decompressXRefTableEntry(xRefTable *model.XRefTable, objNr int, entry *model.XRefTableEntry) error {
	if log.ReadEnabled() {
		log.Read.Printf("decompressXRefTableEntry: compressed object %d at %d[%d]\n", objNr, *entry.ObjectStream, *entry.ObjectStreamInd)
	}

	// Resolve xRefTable entry of referenced object stream.
	objectStreamXRefTableEntry, ok := xRefTable.Find(*entry.ObjectStream)
	if !ok {
		return fmt.Errorf("object stream %d: %w", *entry.ObjectStream, errMissingObjectStreamEntry)
	}

	// Object of this entry has to be a ObjectStreamDict.
	sd, ok := objectStreamXRefTableEntry.Object.(types.ObjectStreamDict)
	if !ok {
		return fmt.Errorf("object stream %d: %w", *entry.ObjectStream, errMissingObjectStream)
	}

	// Get indexed object from ObjectStreamDict.
	o, err := sd.IndexedObject(*entry.ObjectStreamInd)
	if err != nil {
		return fmt.Errorf("decompressXRefTableEntry: problem dereferencing object stream %d: %w", *entry.ObjectStream, err)
	}

	// Save object to XRefRableEntry.
	g := 0
	entry.Object = o
	entry.Generation = &g
	entry.Compressed = false

	if log.ReadEnabled() {
		log.Read.Printf("decompressXRefTableEntry: end, Obj %d[%d]:\n<%s>\n", *entry.ObjectStream, *entry.ObjectStreamInd, o)
	}

	return nil
}

// Log interesting stream content.
func logStream(o types.Object) {
	if !log.ReadEnabled() {
		return
	}

	switch o := o.(type) {

	case types.StreamDict:

		if o.Content == nil {
			log.Read.Println("logStream: no stream content")
		}

		// if o.IsPageContent {
		// 	//log.Read.Printf("content <%s>\n", StreamDict.Content)
		// }

	case types.ObjectStreamDict:

		if o.Content == nil {
			log.Read.Println("logStream: no object stream content")
		} else {
			log.Read.Printf("logStream: objectStream content = %s\n", o.Content)
		}

		if o.ObjArray == nil {
			log.Read.Println("logStream: no object stream obj arr")
		} else {
			log.Read.Printf("logStream: objectStream objArr = %s\n", o.ObjArray)
		}

	default:
		log.Read.Println("logStream: no ObjectStreamDict")

	}

}

func decodeObjectStreamObjects(c context.Context, ctx *model.Context, sd *types.StreamDict, objNr int) (*types.ObjectStreamDict, error) {
	osd, err := model.ObjectStreamDictWithLimits(sd, ctx.Configuration.Limits)
	if err != nil {
		return nil, fmt.Errorf("object stream obj#%d: parse dictionary: %w", objNr, err)
	}

	if log.ReadEnabled() {
		log.Read.Printf("decodeObjectStreamObjects: decoding object stream %d:\n", objNr)
	}

	// Parse all objects of this object stream and save them to ObjectStreamDict.ObjArray.
	if err = parseObjectStream(c, osd, ctx.Configuration.Limits); err != nil {
		return nil, fmt.Errorf("object stream obj#%d: parse objects: %w", objNr, err)
	}

	if osd.ObjArray == nil {
		return nil, fmt.Errorf("object stream obj#%d: %w", objNr, errMissingObjectStreamObjects)
	}

	if log.ReadEnabled() {
		log.Read.Printf("decodeObjectStreamObjects: decoded object stream %d:\n", objNr)
	}

	return osd, nil
}

func decodeObjectStream(c context.Context, ctx *model.Context, objNr int) error {
	entry := ctx.Table[objNr]
	if entry == nil {
		return fmt.Errorf("object stream obj#%d: %w", objNr, errMissingObjectStreamEntry)
	}

	if log.ReadEnabled() {
		log.Read.Printf("decodeObjectStream: parsing object stream for obj#%d\n", objNr)
	}

	// Parse object stream from file.
	o, err := ParseObjectWithContext(c, ctx, *entry.Offset, objNr, *entry.Generation)
	if err != nil {
		return fmt.Errorf("object stream obj#%d: parse object: %w", objNr, err)
	}
	if o == nil {
		return fmt.Errorf("object stream obj#%d: %w", objNr, errCorruptObjectStream)
	}

	// Ensure StreamDict
	sd, ok := o.(types.StreamDict)
	if !ok {
		return fmt.Errorf("object stream obj#%d: %w", objNr, errCorruptObjectStream)
	}

	// Load encoded stream content to xRefTable.
	if err = loadEncodedStreamContent(c, ctx, &sd, false); err != nil {
		return fmt.Errorf("object stream obj#%d: load encoded content: %w", objNr, err)
	}

	// Will only decrypt, the actual stream content is decoded later lazily.
	if err = saveDecodedStreamContent(ctx, &sd, objNr, *entry.Generation, false); err != nil {
		if log.ReadEnabled() {
			log.Read.Printf("obj %d: %s", objNr, err)
		}
		return fmt.Errorf("object stream obj#%d: decode content: %w", objNr, err)
	}

	// Ensure decoded objectArray for object stream dicts.
	if !sd.IsObjStm() {
		return fmt.Errorf("object stream obj#%d: %w", objNr, errCorruptObjectStream)
	}

	// We have an object stream.
	if log.ReadEnabled() {
		log.Read.Printf("decodeObjectStream: object stream #%d\n", objNr)
	}

	ctx.Read.UsingObjectStreams = true

	osd, err := decodeObjectStreamObjects(c, ctx, &sd, objNr)
	if err != nil {
		return err
	}

	// Save object stream dict to xRefTableEntry.
	entry.Object = *osd

	return nil
}

// Decode all object streams so contained objects are ready to be used.
func decodeObjectStreams(c context.Context, ctx *model.Context) error {
	// Note:
	// Entry "Extends" intentionally left out.
	// No object stream collection validation necessary.

	if log.ReadEnabled() {
		log.Read.Println("decodeObjectStreams: begin")
	}

	// Get sorted slice of object numbers.
	var keys []int
	for k := range ctx.Read.ObjectStreams {
		keys = append(keys, k)
	}
	sort.Ints(keys)

	for _, objNr := range keys {

		if err := c.Err(); err != nil {
			return err
		}
		if err := decodeObjectStream(c, ctx, objNr); err != nil {
			return err
		}
	}

	if log.ReadEnabled() {
		log.Read.Println("decodeObjectStreams: end")
	}

	return nil
}

func handleLinearizationParmDict(ctx *model.Context, obj types.Object, objNr int) error {
	if ctx.Read.Linearized {
		// Linearization dict already processed.
		return nil
	}

	// handle linearization parm dict.
	if d, ok := obj.(types.Dict); ok && d.IsLinearizationParmDict() {

		ctx.Read.Linearized = true
		ctx.LinearizationObjs[objNr] = true
		if log.ReadEnabled() {
			log.Read.Printf("handleLinearizationParmDict: identified linearizationObj #%d\n", objNr)
		}

		a := d.ArrayEntry("H")

		if a == nil {
			return fmt.Errorf("handleLinearizationParmDict: corrupt linearization dict at obj:%d - missing array entry H", objNr)
		}

		if len(a) != 2 && len(a) != 4 {
			return fmt.Errorf("handleLinearizationParmDict: corrupt linearization dict at obj:%d - corrupt array entry H, needs length 2 or 4", objNr)
		}

		offset, ok := a[0].(types.Integer)
		if !ok {
			return fmt.Errorf("handleLinearizationParmDict: corrupt linearization dict at obj:%d - corrupt array entry H, needs Integer values", objNr)
		}

		offset64 := int64(offset.Value())
		ctx.OffsetPrimaryHintTable = &offset64

		if len(a) == 4 {

			offset, ok := a[2].(types.Integer)
			if !ok {
				return fmt.Errorf("handleLinearizationParmDict: corrupt linearization dict at obj:%d - corrupt array entry H, needs Integer values", objNr)
			}

			offset64 := int64(offset.Value())
			ctx.OffsetOverflowHintTable = &offset64
		}
	}

	return nil
}

func loadStreamDict(c context.Context, ctx *model.Context, sd *types.StreamDict, objNr, genNr int, fixLength bool) error {
	// Load encoded stream content for stream dicts into xRefTable entry.
	if err := loadEncodedStreamContent(c, ctx, sd, fixLength); err != nil {
		return fmt.Errorf("stream obj#%d: load encoded content: %w", objNr, err)
	}

	// Decode stream content.
	if err := saveDecodedStreamContent(ctx, sd, objNr, genNr, ctx.DecodeAllStreams); err != nil {
		return fmt.Errorf("stream obj#%d: decode content: %w", objNr, err)
	}

	ctx.Read.BinaryTotalSize += *sd.StreamLength

	return nil
}

func updateBinaryTotalSize(ctx *model.Context, o types.Object) {
	switch o := o.(type) {
	case types.StreamDict:
		ctx.Read.BinaryTotalSize += *o.StreamLength
	case types.ObjectStreamDict:
		ctx.Read.BinaryTotalSize += *o.StreamLength
	case types.XRefStreamDict:
		ctx.Read.BinaryTotalSize += *o.StreamLength
	}
}

func dereferenceAndLoad(c context.Context, ctx *model.Context, objNr int, entry *model.XRefTableEntry) error {
	if log.ReadEnabled() {
		log.Read.Printf("dereferenceAndLoad: dereferencing object %d\n", objNr)
	}

	// Parse object from ctx: anything goes dict, array, integer, float, streamdict...
	o, err := ParseObjectWithContext(c, ctx, *entry.Offset, objNr, *entry.Generation)
	if err != nil {
		if ctx.XRefTable.ValidationMode == model.ValidationStrict {
			return fmt.Errorf("dereferenceAndLoad: problem dereferencing object %d: %w", objNr, err)
		}
		if ctx.Read.RepairOffset > 0 {
			o, err = ParseObjectWithContext(c, ctx, *entry.Offset+ctx.Read.RepairOffset, objNr, *entry.Generation)
		}
		if err != nil {
			model.ShowSkipped(fmt.Sprintf("obj #%d reason: %v", objNr, err))
		}
		if errors.Is(err, model.ErrCorruptObjectOffset) || errors.Is(err, errUnregisteredObject) {
			return err
		}
	}
	if o == nil {
		return nil
	}

	entry.Object = o

	// Linearization dicts are validated and recorded for stats only.
	if err = handleLinearizationParmDict(ctx, o, objNr); err != nil {
		return err
	}

	// Handle stream dicts.

	if _, ok := o.(types.ObjectStreamDict); ok {
		return fmt.Errorf("object stream should already be dereferenced at obj:%d", objNr)
	}

	if _, ok := o.(types.XRefStreamDict); ok {
		return fmt.Errorf("xref stream should already be dereferenced at obj:%d", objNr)
	}

	if sd, ok := o.(types.StreamDict); ok {
		if err = loadStreamDict(c, ctx, &sd, objNr, *entry.Generation, false); err != nil {
			return err
		}
		entry.Object = sd
	}

	if log.ReadEnabled() {
		log.Read.Printf("dereferenceAndLoad: end obj %d of %d\n<%s>\n", objNr, len(ctx.Table), entry.Object)
	}

	return nil
}

func dereferenceObject(c context.Context, ctx *model.Context, objNr int) error {
	if log.ReadEnabled() {
		log.Read.Printf("dereferenceObject: begin, dereferencing object %d\n", objNr)
	}

	if objNr > ctx.MaxObjNr {
		ctx.MaxObjNr = objNr
	}

	entry := ctx.Table[objNr]

	if entry.Free {
		if log.ReadEnabled() {
			log.Read.Printf("free object %d\n", objNr)
		}
		return nil
	}

	if entry.Compressed {
		if err := decompressXRefTableEntry(ctx.XRefTable, objNr, entry); err != nil {
			return err
		}
		//log.Read.Printf("dereferenceObject: decompressed entry, Compressed=%v\n%s\n", entry.Compressed, entry.Object)
		return nil
	}

	// entry is in use.
	if log.ReadEnabled() {
		log.Read.Printf("in use object %d\n", objNr)
	}

	if entry.Offset == nil || *entry.Offset == 0 {
		if log.ReadEnabled() {
			log.Read.Printf("dereferenceObject: already decompressed or used object w/o offset -> ignored")
		}
		return nil
	}

	o := entry.Object

	if o != nil {
		// Already dereferenced.
		logStream(entry.Object)
		updateBinaryTotalSize(ctx, o)
		if log.ReadEnabled() {
			log.Read.Printf("dereferenceObject: using cached object %d of %d\n<%s>\n", objNr, ctx.MaxObjNr+1, entry.Object)
		}
		return nil
	}

	if err := dereferenceAndLoad(c, ctx, objNr, entry); err != nil {
		return err
	}

	logStream(entry.Object)

	return nil
}

func dereferenceObjectsSorted(c context.Context, ctx *model.Context) error {
	xRefTable := ctx.XRefTable
	var keys []int
	for k := range xRefTable.Table {
		keys = append(keys, k)
	}
	sort.Ints(keys)

	for _, objNr := range keys {
		if err := c.Err(); err != nil {
			return err
		}
		if err := dereferenceObject(c, ctx, objNr); err != nil {
			return err
		}
	}

	for _, objNr := range keys {
		entry := xRefTable.Table[objNr]
		if entry.Free || entry.Compressed {
			continue
		}
		if err := c.Err(); err != nil {
			return err
		}
		if err := model.ProcessRefCountsWithError(xRefTable, entry.Object); err != nil {
			return err
		}
	}

	return nil
}

func dereferenceObjectsRaw(c context.Context, ctx *model.Context) error {
	xRefTable := ctx.XRefTable
	for objNr := range xRefTable.Table {
		if err := c.Err(); err != nil {
			return err
		}
		if err := dereferenceObject(c, ctx, objNr); err != nil {
			return err
		}
	}

	for objNr := range xRefTable.Table {
		entry := xRefTable.Table[objNr]
		if entry.Free || entry.Compressed {
			continue
		}
		if err := c.Err(); err != nil {
			return err
		}
		if err := model.ProcessRefCountsWithError(xRefTable, entry.Object); err != nil {
			return err
		}
	}

	return nil
}

// Dereferences all objects including compressed objects from object streams.
func dereferenceObjects(c context.Context, ctx *model.Context) error {
	if log.ReadEnabled() {
		log.Read.Println("dereferenceObjects: begin")
	}

	f := dereferenceObjectsRaw
	if log.StatsEnabled() {
		f = dereferenceObjectsSorted
	}

	if err := f(c, ctx); err != nil {
		repairOffset := errors.Is(err, model.ErrCorruptObjectOffset)
		repairMissing := ctx.XRefTable.ValidationMode == model.ValidationRelaxed && errors.Is(err, errUnregisteredObject)
		if !repairOffset && !repairMissing {
			return err
		}
		if err := bypassXrefSection(c, ctx, 0, err, 1); err != nil {
			return err
		}
		if err = f(c, ctx); err != nil {
			return err
		}
	}

	if log.ReadEnabled() {
		log.Read.Println("dereferenceObjects: end")
	}

	return nil
}

// Locate a possible Version entry (since V1.4) in the catalog
// and record this as rootVersion (as opposed to headerVersion).
func identifyRootVersion(xRefTable *model.XRefTable) error {
	if log.ReadEnabled() {
		log.Read.Println("identifyRootVersion: begin")
		defer log.Read.Println("identifyRootVersion: end")
	}

	// Try to get Version from Root.
	rootVersionStr, err := xRefTable.ParseRootVersion()
	if err != nil {
		return fmt.Errorf("root version: %w", err)
	}

	if rootVersionStr == nil {
		return nil
	}

	// Since PDF 1.4 the header version may be overridden by a Version entry in the catalog.
	if *xRefTable.HeaderVersion < model.V14 {
		if log.InfoEnabled() {
			log.Info.Printf("identifyRootVersion: PDF version is %s - will ignore root version: %s\n", xRefTable.HeaderVersion, *rootVersionStr)
		}
		return nil
	}

	// Validate version and save corresponding constant to xRefTable.
	rootVersion, err := model.PDFVersion(*rootVersionStr)
	if err != nil {
		if xRefTable.ValidationMode == model.ValidationStrict {
			return nil
		}
		rootVersion, err = model.PDFVersionRelaxed(*rootVersionStr)
		if err != nil {
			return nil
		}
	}

	xRefTable.RootVersion = &rootVersion

	return nil
}

// Parse all Objects including stream content from file and save to the corresponding xRefTableEntries.
// This includes processing of object streams and linearization dicts.
func dereferenceXRefTable(c context.Context, ctx *model.Context) error {
	if log.ReadEnabled() {
		log.Read.Println("dereferenceXRefTable: begin")
	}

	xRefTable := ctx.XRefTable

	// Note for encrypted files:
	// Mandatory provide userpw to open & display file.
	// Access may be restricted (Decode access privileges).
	// Optionally provide ownerpw in order to gain unrestricted access.
	if err := checkForEncryption(c, ctx); err != nil {
		return err
	}
	//fmt.Println("pw authenticated")

	// Prepare decompressed objects.
	if err := decodeObjectStreams(c, ctx); err != nil {
		return err
	}

	// For each xRefTableEntry assign a Object either by parsing from file or pointing to a decompressed object.
	if err := dereferenceObjects(c, ctx); err != nil {
		return err
	}

	// Identify an optional Version entry in the root object/catalog.
	if err := identifyRootVersion(xRefTable); err != nil {
		return err
	}

	if log.ReadEnabled() {
		log.Read.Println("dereferenceXRefTable: end")
	}

	return nil
}

func handleUnencryptedFile(ctx *model.Context) error {
	if ctx.Cmd == model.DECRYPT || ctx.Cmd == model.SETPERMISSIONS {
		return ErrNotEncrypted
	}

	if ctx.Cmd != model.ENCRYPT {
		return nil
	}

	// Encrypt subcommand found.

	if ctx.OwnerPW == "" {
		return ErrOwnerPasswordRequired
	}

	return nil
}

func needsOwnerAndUserPassword(cmd model.CommandMode) bool {
	return cmd == model.CHANGEOPW || cmd == model.CHANGEUPW || cmd == model.SETPERMISSIONS
}

func handlePermissions(ctx *model.Context) error {
	// AES256 Validate permissions
	ok, err := validatePermissions(ctx)
	if err != nil {
		return fmt.Errorf("validate permissions: %w", err)
	}

	if !ok {
		return fmt.Errorf("user password permissions: %w", errInvalidPermissions)
	}

	if ctx.OwnerPW == "" && ctx.UserPW == "" {
		return nil
	}

	// Double check minimum permissions for pdfcpu processing.
	if !hasNeededPermissions(ctx.Cmd, ctx.E) {
		return ErrPermissionDenied
	}

	return nil
}

func setupEncryptionKey(ctx *model.Context, d types.Dict) (err error) {
	if ctx.E, err = supportedEncryption(ctx, d); err != nil {
		return fmt.Errorf("parse encryption dictionary: %w", err)
	}

	if len(ctx.ID) == 0 {
		if ctx.XRefTable.ValidationMode == model.ValidationStrict {
			return fmt.Errorf("read encryption ID: %w", errMissingTrailerID)
		}
	} else {
		if ctx.E.ID, err = ctx.IDFirstElement(); err != nil {
			return fmt.Errorf("read encryption ID: %w", err)
		}
	}

	var ok bool

	//fmt.Printf("opw: <%s> upw: <%s> \n", ctx.OwnerPW, ctx.UserPW)

	// Validate the owner password aka. permissions/master password.
	if ok, err = validateOwnerPassword(ctx); err != nil {
		return fmt.Errorf("validate owner password: %w", err)
	}

	// If the owner password does not match we generally move on if the user password is correct
	// unless we need to insist on a correct owner password due to the specific command in progress.
	if !ok && needsOwnerAndUserPassword(ctx.Cmd) {
		return fmt.Errorf("%w with --opw", ErrOwnerPasswordRequired)
	}

	// Generally the owner password, which is also regarded as the master password or set permissions password
	// is sufficient for moving on. A password change is an exception since it requires both current passwords.
	if ok && !needsOwnerAndUserPassword(ctx.Cmd) {
		// AES256 Validate permissions
		if ok, err = validatePermissions(ctx); err != nil {
			return fmt.Errorf("validate permissions: %w", err)
		}
		if !ok {
			return fmt.Errorf("owner password permissions: %w", errInvalidPermissions)
		}
		return nil
	}

	// Validate the user password aka. document open password.
	if ok, err = validateUserPassword(ctx); err != nil {
		return fmt.Errorf("validate user password: %w", err)
	}
	if !ok {
		return ErrWrongPassword
	}

	//fmt.Printf("upw ok: %t\n", ok)

	return handlePermissions(ctx)
}

func checkForEncryption(c context.Context, ctx *model.Context) error {
	if err := requireContextWithXRefTable(ctx); err != nil {
		return err
	}
	indRef := ctx.Encrypt
	if indRef == nil {
		// This file is not encrypted.
		if err := handleUnencryptedFile(ctx); err != nil {
			return fmt.Errorf("encryption status: %w", err)
		}
		return nil
	}

	// This file is encrypted.

	if log.ReadEnabled() {
		log.Read.Printf("Encryption: %v\n", indRef)
	}

	if ctx.Cmd == model.BOOKLET ||
		ctx.Cmd == model.ENCRYPT ||
		ctx.Cmd == model.MERGEAPPEND ||
		ctx.Cmd == model.MERGECREATE ||
		ctx.Cmd == model.MERGECREATEZIP ||
		ctx.Cmd == model.ADDSIGNATURE {
		return fmt.Errorf("encryption status: %w", ErrEncrypted)
	}

	// Dereference encryptDict.
	objNr := indRef.ObjectNumber.Value()
	d, err := dereferencedDict(c, ctx, objNr)
	if err != nil {
		return fmt.Errorf("encryption dictionary obj#%d: %w", objNr, classifyEncryptionDictionaryError(err))
	}

	if log.ReadEnabled() {
		log.Read.Printf("%s\n", d)
	}

	// We need to decrypt this file in order to read it.
	if err := setupEncryptionKey(ctx, d); err != nil {
		return fmt.Errorf("encryption setup: %w", err)
	}

	return nil
}
