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
	"github.com/pdfcpu/pdfcpu/pkg/pdfcpu/types"
)

// AnnotationType represents the various PDF annotation types.
type AnnotationType int

// AnnotationRenderer is the interface for PDF annotations.
// Pointer-backed implementations must not pass a typed nil pointer through this interface;
// generic typed-nil detection is intentionally not performed in production code.
type AnnotationRenderer interface {
	RenderDict(xRefTable *XRefTable, pageIndRef *types.IndirectRef) (types.Dict, error)
	Type() AnnotationType
	Rectangle() types.Rectangle
	RectString() string
	APObjNrInt() int
	ID() string
	Content() string
	ContentString() string
	CustomTypeString() string
}

// XFA conform rich text string examples:
// The<b> second </b>and<span style="font-weight:bold"> fourth </span> words are bold.
// The<i> second </i>and<span style="font-style:italic"> fourth </span> words are italicized.
// For more information see <a href="http://www.example.com/">this</a> web site.
