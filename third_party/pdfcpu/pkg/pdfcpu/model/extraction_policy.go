/*
Copyright 2026 The pdfcpu Authors.

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

// UnsupportedResourcePolicy controls how extraction handles unsupported resources.
type UnsupportedResourcePolicy int

const (
	// UnsupportedResourceSkip continues extraction and reports skipped resources.
	UnsupportedResourceSkip UnsupportedResourcePolicy = iota

	// UnsupportedResourceFail stops extraction at the first unsupported resource.
	UnsupportedResourceFail
)
