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

package model

import (
	"fmt"
	"strings"

	"github.com/pdfcpu/pdfcpu/pkg/pdfcpu/types"
)

// Node is an opinionated implementation of the PDF name tree.
// pdfcpu caches all name trees found in the PDF catalog with this data structure.
// The PDF spec does not impose any rules regarding a strategy for the creation of nodes.
// A binary tree was chosen where each leaf node has a limited number of entries (maxEntries).
// Once maxEntries has been reached a leaf node turns into an intermediary node with two kids,
// which are leaf nodes each of them holding half of the sorted entries of the original leaf node.
type Node struct {
	Kids       []*Node    // Mirror of the name tree's Kids array, an array of indirect references.
	Names      []entry    // Mirror of the name tree's Names array.
	Kmin, Kmax string     // Mirror of the name tree's Limit array[Kmin,Kmax].
	D          types.Dict // The PDF dict representing this name tree node.
}

// entry is a key value pair.
type entry struct {
	k string
	v types.Object
}

func (n Node) leaf() bool {
	return len(n.Kids) == 0
}

func keyLess(k, s string) bool {
	return k < s
}

func keyLessOrEqual(k, s string) bool {
	return k == s || keyLess(k, s)
}

func (n Node) withinLimits(k string) bool {
	return keyLessOrEqual(n.Kmin, k) && keyLessOrEqual(k, n.Kmax)
}

// Value returns the value for given key
func (n Node) Value(k string) (types.Object, bool) {
	if !n.withinLimits(k) {
		return nil, false
	}

	if n.leaf() {

		// names are sorted by key.
		for _, v := range n.Names {

			if v.k < k {
				continue
			}

			if v.k == k {
				return v.v, true
			}

			return nil, false
		}

		return nil, false
	}

	// kids are sorted by key ranges.
	for _, v := range n.Kids {
		if v.withinLimits(k) {
			return v.Value(k)
		}
	}

	return nil, false
}

type NameMap map[string][]types.Dict

// String returns the string value of n.
func (n Node) String() string {
	a := []string{}

	if n.leaf() {
		a = append(a, "[")
		for _, n := range n.Names {
			a = append(a, fmt.Sprintf("(%s,%s)", n.k, n.v))
		}
		a = append(a, fmt.Sprintf("{%s,%s}]", n.Kmin, n.Kmax))
		return strings.Join(a, "")
	}

	a = append(a, fmt.Sprintf("{%s,%s}", n.Kmin, n.Kmax))

	for _, v := range n.Kids {
		a = append(a, v.String())
	}

	return strings.Join(a, ",")
}
