package server

import (
	"fmt"
	"slices"
	"strings"

	"huekeep/keep"
	"huekeep/keep/accounts"
)

// What of a house an access token of a purpose may change: the first part of the address behind the house's number. All of them look.
var purposeChanges = map[string][]string{
	accounts.ToAudit: {"audits", "projects", "runs", "repaints", "excuses", "plans", "remarks", "jobs"},
	accounts.ToSend:  {"sets", "editions", "send", "recipients"},
}

// serves says, with a sentence if not, whether an access token is for what is asked.
func serves(signed accounts.SignedIn, method, path string) error {
	if signed.Purpose == "" || signed.Purpose == accounts.Everything || !changes(method) {
		return nil
	}
	rest, ok := strings.CutPrefix(path, "/api/houses/")
	if ok {
		_, rest, _ = strings.Cut(rest, "/")
		first, _, _ := strings.Cut(rest, "/")
		if slices.Contains(purposeChanges[signed.Purpose], first) {
			return nil
		}
	}
	does := map[string]string{accounts.ToRead: "looks and downloads", accounts.ToAudit: "judges and repaints files",
		accounts.ToSend: "fixes editions and sends them"}[signed.Purpose]
	return &keep.Error{Kind: keep.Forbidden, Message: fmt.Sprintf("The access token %q only %s. Make one for this purpose under your name.",
		signed.Named, does)}
}
