/*
Copyright 2021 The pdfcpu Authors.

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

package model

import (
	"context"
	"errors"
	"fmt"

	"github.com/pdfcpu/pdfcpu/pkg/pdfcpu/types"
)

// ErrExpectedDict signals that a PDF object is not a dictionary.
var ErrExpectedDict = errors.New("expected types.Dict")

func processDictRefCounts(xRefTable *XRefTable, d types.Dict, depth int) error {
	if err := xRefTable.CheckRecursionDepth("reference count traversal", depth); err != nil {
		return err
	}
	for _, e := range d {
		switch o1 := e.(type) {
		case types.IndirectRef:
			xRefTable.IncrementRefCount(&o1)
		case types.Dict:
			if err := processRefCounts(xRefTable, o1, depth+1); err != nil {
				return err
			}
		case types.Array:
			if err := processRefCounts(xRefTable, o1, depth+1); err != nil {
				return err
			}
		}
	}
	return nil
}

func processArrayRefCounts(xRefTable *XRefTable, a types.Array, depth int) error {
	if err := xRefTable.CheckRecursionDepth("reference count traversal", depth); err != nil {
		return err
	}
	for _, e := range a {
		switch o1 := e.(type) {
		case types.IndirectRef:
			xRefTable.IncrementRefCount(&o1)
		case types.Dict:
			if err := processRefCounts(xRefTable, o1, depth+1); err != nil {
				return err
			}
		case types.Array:
			if err := processRefCounts(xRefTable, o1, depth+1); err != nil {
				return err
			}
		}
	}
	return nil
}

func processRefCounts(xRefTable *XRefTable, o types.Object, depth int) error {
	switch o := o.(type) {
	case types.Dict:
		return processDictRefCounts(xRefTable, o, depth)
	case types.StreamDict:
		return processDictRefCounts(xRefTable, o.Dict, depth)
	case types.Array:
		return processArrayRefCounts(xRefTable, o, depth)
	}
	return nil
}

// ProcessRefCountsWithError processes reference counts and returns an error.
func ProcessRefCountsWithError(xRefTable *XRefTable, o types.Object) error {
	return processRefCounts(xRefTable, o, 0)
}

func (xRefTable *XRefTable) indRefToObject(ir *types.IndirectRef, decodeLazy bool) (types.Object, int, error) {
	if ir == nil {
		return nil, 0, errors.New("input argument is nil")
	}

	// 7.3.10
	// An indirect reference to an undefined object shall not be considered an error by a conforming reader;
	// it shall be treated as a reference to the null object.
	entry, found := xRefTable.FindTableEntryForIndRef(ir)
	if !found || entry.Free {
		return nil, 0, nil
	}

	xRefTable.CurObj = int(ir.ObjectNumber)

	if l, ok := entry.Object.(types.LazyObjectStreamObject); ok && decodeLazy {
		ob, err := l.DecodedObject(context.TODO())
		if err != nil {
			return nil, 0, err
		}

		if err := ProcessRefCountsWithError(xRefTable, ob); err != nil {
			return nil, 0, err
		}
		entry.Object = ob
	}

	// return dereferenced object and increment nr.
	return entry.Object, entry.Incr, nil
}

// Dereference resolves an indirect object and returns the resulting PDF object.
func (xRefTable *XRefTable) Dereference(o types.Object) (types.Object, error) {
	ir, ok := o.(types.IndirectRef)
	if !ok {
		// Nothing do dereference.
		return o, nil
	}

	obj, _, err := xRefTable.indRefToObject(&ir, true)
	return obj, err
}

// DereferenceBoolean resolves and validates a boolean object, which may be an indirect reference.
func (xRefTable *XRefTable) DereferenceBoolean(o types.Object, sinceVersion Version) (*types.Boolean, error) {
	o, err := xRefTable.Dereference(o)
	if err != nil || o == nil {
		return nil, err
	}

	b, ok := o.(types.Boolean)
	if !ok {
		return nil, fmt.Errorf("wrong type <%v>", o)
	}

	// Version check
	if err = xRefTable.ValidateVersion("DereferenceBoolean", sinceVersion); err != nil {
		return nil, err
	}

	return &b, nil
}

// DereferenceNumber resolves a number object, which may be an indirect reference and returns a float64.
func (xRefTable *XRefTable) DereferenceNumber(o types.Object) (float64, error) {
	var (
		f   float64
		err error
	)

	o, err = xRefTable.Dereference(o)
	if err != nil {
		return 0, err
	}

	switch o := o.(type) {

	case types.Integer:
		f = float64(o.Value())

	case types.Float:
		f = o.Value()

	default:
		err = fmt.Errorf("wrong type <%v>", o)

	}

	return f, err
}

// DereferenceArray resolves and validates an array object, which may be an indirect reference.
func (xRefTable *XRefTable) DereferenceArray(o types.Object) (types.Array, error) {
	o, err := xRefTable.Dereference(o)
	if err != nil || o == nil {
		return nil, err
	}

	a, ok := o.(types.Array)
	if !ok {
		return nil, fmt.Errorf("wrong type %T <%v>", o, o)
	}

	return a, nil
}

// DereferenceDict resolves and validates a dictionary object, which may be an indirect reference.
func (xRefTable *XRefTable) DereferenceDict(o types.Object) (types.Dict, error) {
	rawObject := o
	o, err := xRefTable.Dereference(o)
	if err != nil || o == nil {
		return nil, err
	}

	d, ok := o.(types.Dict)
	if !ok {
		return nil, dereferenceDictTypeError(rawObject, o)
	}

	return d, nil
}

func dereferenceDictTypeError(rawObject, resolvedObject types.Object) error {
	if ir, ok := rawObject.(types.IndirectRef); ok {
		return fmt.Errorf(
			"obj#%d gen#%d: %w, got %T",
			ir.ObjectNumber.Value(),
			ir.GenerationNumber.Value(),
			ErrExpectedDict,
			resolvedObject,
		)
	}
	return fmt.Errorf("%w, got %T", ErrExpectedDict, resolvedObject)
}
