package accounts

import (
	"strings"
	"testing"
	"time"

	"github.com/pquerna/otp/totp"
	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"huekeep/keep"
)

func TestPasswords(t *testing.T) {
	words := []string{"Odelwick Ferries", "nia.quay@odelwick.example", "Nia Quay"}
	for password, part := range map[string]string{
		"a quiet harbor wall":     "",
		"a long password":         "",
		"änderungen überall":      "",
		"1029384756":              "most common",
		"Odelwick-Ferries-2026":   "hardly more than a name",
		"odelwick2026":            "hardly more than a name",
		"NiaQuay12":               "10 characters",
		"NiaQuay123":              "hardly more than a name",
		"huekeep2026":             "hardly more than a name",
		"zzzzzzzzzzzz":            "tried first",
		"nine char":               "10 characters",
		strings.Repeat("x", 1001): "at most 1000",
		"password123":             "most common",
	} {
		err := checkPassword(password, words...)
		if part == "" {
			assert.NoError(t, err, password)
		} else if assert.Error(t, err, password) {
			assert.Contains(t, err.Error(), part, password)
		}
	}
}

func TestAddresses(t *testing.T) {
	got, err := Address("  Nia@X.Example ")
	require.NoError(t, err)
	assert.Equal(t, "nia@x.example", got)
	for _, bad := range []string{"", "nia", "Nia <nia@x.example>", "a@b@c", strings.Repeat("x", 190) + "@x.example", "nia@x.example\nBcc: all@x.example"} {
		_, err := Address(bad)
		assert.Error(t, err, bad)
	}
}

// One-time codes are good a period before and after, once, and none that is older than the last one taken.
func TestOneTimeCodes(t *testing.T) {
	const key = "JBSWY3DPEHPK3PXP"
	now := time.Unix(1_700_000_000, 0)
	at := func(off time.Duration) string {
		c, err := totp.GenerateCode(key, now.Add(off))
		require.NoError(t, err)
		return c
	}
	step := now.Unix() / codePeriod
	for off, want := range map[time.Duration]bool{0: true, -30 * time.Second: true, 30 * time.Second: true, -90 * time.Second: false, 90 * time.Second: false} {
		_, ok := fits(key, at(off), 0, now)
		assert.Equal(t, want, ok, off)
	}
	taken, ok := fits(key, " "+at(0)[:3]+" "+at(0)[3:], 0, now)
	assert.True(t, ok, "with spaces")
	assert.Equal(t, step, taken)
	_, ok = fits(key, at(0), taken, now)
	assert.False(t, ok, "used")
	_, ok = fits(key, at(-30*time.Second), taken, now)
	assert.False(t, ok, "older than the one that was used")
	for _, bad := range []string{"", "12345", "abcdef", "0000000"} {
		_, ok = fits(key, bad, 0, now)
		assert.False(t, ok, bad)
	}
	c := recoveryCode()
	assert.Regexp(t, `^[a-z2-7]{4}(-[a-z2-7]{4}){3}$`, c)
	assert.Equal(t, plainCode(c), plainCode(" "+strings.ToUpper(c)))
}

func TestAnAccessTokenGivesNoMoreThanItsRole(t *testing.T) {
	for _, c := range []struct{ member, token, want keep.Role }{
		{keep.RoleKeeper, keep.RoleReader, keep.RoleReader}, {keep.RoleReader, keep.RoleKeeper, keep.RoleReader},
		{keep.RoleContributor, keep.RoleContributor, keep.RoleContributor}, {keep.RoleKeeper, "", keep.RoleKeeper},
	} {
		assert.Equal(t, c.want, SignedIn{Cap: c.token}.least(c.member), "%v", c)
	}
}
