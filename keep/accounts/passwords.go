package accounts

import (
	"context"
	_ "embed"
	"strings"
	"sync"
	"unicode"
	"unicode/utf8"

	"huekeep/core/limits"
	"huekeep/keep"
	"huekeep/store"
)

// The most common passwords of ten characters and more, of the frequency lists of zxcvbn 4.4.2.
//
//go:embed common.txt
var commonText string

var common = sync.OnceValue(func() map[string]bool {
	set := map[string]bool{}
	for _, p := range strings.Fields(commonText) {
		set[p] = true
	}
	return set
})

// leastPassword is how many characters a password has, leastOwn how many letters and digits are left without the words of the person: name,
// address, house.
const (
	leastPassword = 10
	leastOwn      = 6
)

// checkPassword refuses what is guessed first. There are no rules about kinds of characters (NIST SP 800-63B).
func checkPassword(password string, words ...string) error {
	switch n := utf8.RuneCountInString(password); {
	case n < leastPassword:
		return keep.Wrong("password", "a password has at least %d characters; this one has %d", leastPassword, n)
	case len(password) > limits.PasswordBytes:
		return keep.Wrong("password", "a password has at most %d characters", limits.PasswordBytes)
	}
	plain := strings.ToLower(password)
	if common()[plain] {
		return keep.Wrong("password", "this is one of the most common passwords, which are tried first; take another one")
	}
	own := plain
	for _, w := range append(words, "huekeep") {
		for _, part := range strings.FieldsFunc(strings.ToLower(w),
			func(r rune) bool { return !unicode.IsLetter(r) && !unicode.IsDigit(r) }) {
			if len(part) >= 3 {
				own = strings.ReplaceAll(own, part, "")
			}
		}
	}
	seen, left := map[rune]bool{}, 0
	for _, r := range own {
		if unicode.IsLetter(r) || unicode.IsDigit(r) || r > unicode.MaxASCII {
			seen[r] = true
			left++
		}
	}
	if own != plain && left < leastOwn {
		return keep.Wrong("password", "this password is hardly more than a name that others know: yours or your house's; take another one")
	}
	if len(seen) < 3 {
		return keep.Wrong("password", "this password is one that is tried first; take another one")
	}
	return nil
}

// hash checks a password of somebody and makes what is kept of it.
func (r *Rules) hash(ctx context.Context, password, email, name string, houses ...string) (string, error) {
	if err := checkPassword(password, append(houses, email, name)...); err != nil {
		return "", err
	}
	return keep.HashSecret(ctx, password, r.Cost)
}

// hashOf does the same for an account that there is.
func (r *Rules) hashOf(ctx context.Context, u store.User, password string) (string, error) {
	rows, err := r.DB.With(ctx).Memberships(u.ID)
	if err != nil {
		return "", err
	}
	var names []string
	for _, m := range rows {
		names = append(names, m.House.Name)
	}
	return r.hash(ctx, password, u.Email, u.Name, names...)
}
