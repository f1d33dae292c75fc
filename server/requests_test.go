package server

import (
	"errors"
	"net"
	"net/netip"
	"testing"

	"github.com/gofiber/fiber/v3"
	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"huekeep/keep"
	"huekeep/store"
)

func TestAgents(t *testing.T) {
	for header, want := range map[string]string{
		"Mozilla/5.0 (X11; Linux x86_64; rv:140.0) Gecko/20100101 Firefox/140.0":                                                 "Firefox on Linux",
		"Mozilla/5.0 (Windows NT 10.0; Win64; x64) AppleWebKit/537.36 (KHTML, like Gecko) Chrome/150.0 Safari/537.36 Edg/150.0":  "Edge on Windows",
		"Mozilla/5.0 (iPhone; CPU iPhone OS 19_0 like Mac OS X) AppleWebKit/605.1 (KHTML, like Gecko) Version/19.0 Safari/604.1": "Safari on iPhone",
		"Mozilla/5.0 (Linux; Android 16) AppleWebKit/537.36 (KHTML, like Gecko) Chrome/150.0 Mobile Safari/537.36":               "Chromium on Android",
		"curl/8.5.0": "curl", "": "", "build-tool/1.0 (something)": "build-tool/1.0",
	} {
		assert.Equal(t, want, agent(header), header)
	}
}

func TestNoLogHasTheSecretOfALink(t *testing.T) {
	const secret = "cv8nckxuzT15qDzYKYXONdcBDKFETBHxjX6XHgUUWYo"
	for path, want := range map[string]string{"/p/" + secret: "/p/…", "/p/" + secret + "/core.css": "/p/…/core.css", "/b/" + secret + "/faces.css": "/b/…/faces.css", "/api/houses/1/colors": "/api/houses/1/colors",
		"/h/1/library": "/h/1/library"} {
		assert.Equal(t, want, logged(path))
	}
}

func TestTrustedProxies(t *testing.T) {
	list, err := Proxies("127.0.0.1, 10.0.0.0/8 2001:db8::/32")
	require.NoError(t, err)
	s := &server{Options: Options{Proxies: list}}
	for address, want := range map[string]bool{"127.0.0.1": true, "127.0.0.2": false, "10.200.1.1": true, "11.0.0.1": false, "2001:db8::1": true, "::ffff:10.0.0.1": true, "::1": false} {
		assert.Equal(t, want, s.trusted(netip.MustParseAddr(address)), address)
	}
	for _, bad := range []string{"here", "10.0.0.0/99", "1.2.3"} {
		_, err := Proxies(bad)
		assert.Error(t, err, bad)
	}
	none, err := Proxies("")
	require.NoError(t, err)
	assert.Empty(t, none)
}

func TestWhatIsMisreadIsSaidInOurWords(t *testing.T) {
	for theirs, want := range map[string]string{
		"Invalid format for parameter house: error binding string parameter: strconv.ParseInt": "The request could not be understood: house is missing or not of the right form.",
		"Query parameter 'query' is required, but not found":                                   "The request could not be understood: query is missing or not of the right form.",
		"unexpected end of JSON input":                                                         "The request could not be understood: what it holds is not the JSON that is expected here.",
		"invalid character 'x' looking for beginning of value":                                 "The request could not be understood: what it holds is not the JSON that is expected here.",
		"something nobody thought of":                                                          "The request could not be understood.",
	} {
		assert.Equal(t, want, misread(theirs), theirs)
	}
}

func TestStatuses(t *testing.T) {
	assert.Equal(t, 404, statusOf(keep.None("color")))
	assert.Equal(t, 413, statusOf(fiber.ErrRequestEntityTooLarge))
	assert.Equal(t, 500, statusOf(errors.New("an accident")))
	assert.Equal(t, 503, statusOf(&net.OpError{Op: "dial", Err: errors.New("refused")}), "the database is away")
	uncertain := keep.Explain(errors.Join(store.ErrUncertain, &net.OpError{Op: "read", Err: errors.New("reset")}))
	assert.Equal(t, keep.CodeUncertain, uncertain.Code, "and is not said to have done nothing")
}

func TestCookies(t *testing.T) {
	assert.Equal(t, "huekeep_session=x; Path=/; HttpOnly; SameSite=Lax; Max-Age=60", cookie(false, sessionCookie, "x", 60e9))
	assert.Equal(t, "__Host-huekeep_session=; Path=/; HttpOnly; SameSite=Lax; Max-Age=-1; Secure", cookie(true, sessionCookie, "", -1e9))
}

// A file is called what somebody called it: browsers escape a quote in its name, and nothing else is changed.
func TestTheNameOfAnUploadIsWhatItWas(t *testing.T) {
	for sent, want := range map[string]string{
		`form-data; name="file"; filename="Chart %22of%22 [fares] (100%).emf"`: `Chart "of" [fares] (100%).emf`,
		`form-data; name="file"; filename="a%0D%0Ab.css"`:                      "a b.css",
		`form-data; name="file"; filename="site/a b.css"`:                      "site/a b.css",
		`form-data; name="file"`:                                               "",
		`form-data; name="file`:                                                "",
	} {
		assert.Equal(t, want, uploadName(sent), sent)
	}
}
