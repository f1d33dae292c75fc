/*
Copyright 2025 The pdfcpu Authors.

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
)

// Preferred cert revocation checking mechanism values
const (
	CRL = iota
	OCSP
)

const (
	SigTypeForm = iota
	SigTypePage
	SigTypeUR
	SigTypeDTS
)

// Signature represents a digital signature.
type Signature struct {
	Type          int
	Certified     bool
	Authoritative bool
	Visible       bool
	Signed        bool
	ObjNr         int
	PageNr        int
}

// String returns a string representation.
func (sig Signature) String(status SignatureStatus) string {
	s := ""
	if sig.Type == SigTypeForm {
		s = "form signature ("
	} else if sig.Type == SigTypePage {
		s = "page signature ("
	} else if sig.Type == SigTypeUR {
		s = "usage rights signature ("
	} else {
		s = "document timestamp ("
	}

	if sig.Type != SigTypeDTS {
		if sig.Certified {
			s += "certified, "
		} else if sig.Authoritative {
			s += "authoritative, "
		}
	}

	if sig.Type == SigTypeDTS {
		s1 := "locally validated, "
		if status != SignatureStatusValid {
			s1 = "not " + s1
		}
		s += s1
	}

	if sig.Visible {
		s += "visible, "
	} else {
		s += "invisible, "
	}

	if sig.Signed {
		s += "signed)"
	} else {
		s += "unsigned)"
	}

	if sig.Visible {
		s += fmt.Sprintf(" on page %d", sig.PageNr)
	}

	//s += fmt.Sprintf(" objNr%d", sig.ObjNr)

	return s
}

// SignatureStatus represents the compatibility status produced by the
// local assessment of observed evidence. It is not a legal, regulatory,
// enterprise-policy or policy-based trust decision.
type SignatureStatus int

const (
	SignatureStatusUnknown SignatureStatus = 1 << iota

	// SignatureStatusValid indicates that the supported cryptographic and local
	// validation checks completed successfully.
	SignatureStatusValid

	SignatureStatusInvalid
)

// SignatureStatusStrings manages string representations for signature statuses.
var SignatureStatusStrings = map[SignatureStatus]string{
	SignatureStatusUnknown: "validity of the signature is unknown",
	SignatureStatusValid:   "signature is valid",
	SignatureStatusInvalid: "signature is invalid",
}

// String returns the string value of st.
func (st SignatureStatus) String() string {
	return SignatureStatusStrings[st]
}
