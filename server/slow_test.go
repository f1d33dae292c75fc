package server_test

import (
	"bufio"
	"fmt"
	"io"
	"net"
	"net/http"
	"testing"
	"time"

	"github.com/gofiber/fiber/v3"
	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"
)

// Clients that send half a request and wait, on every kind of route, keep nobody else waiting; a body that is declared to be 2 GB is refused when
// it begins to come.
func TestSlowClientsAndDeclaredBodies(t *testing.T) {
	s := newSite(t)
	listener, err := net.Listen("tcp", "127.0.0.1:0")
	require.NoError(t, err)
	go func() { _ = s.app.Listener(listener, fiber.ListenConfig{DisableStartupMessage: true}) }()
	t.Cleanup(func() { _ = s.app.ShutdownWithTimeout(time.Second) })
	address := listener.Addr().String()
	dial := func() net.Conn {
		c, err := net.Dial("tcp", address)
		require.NoError(t, err)
		t.Cleanup(func() { c.Close() })
		return c
	}
	k := s.as("keeper")
	h := k.ferries()
	for n := range 60 {
		for _, path := range []string{"/", "/health", "/api/session", "/api" + house(h, "/audits"), "/api" + house(h, "/files"), "/p/nothing", "/b/nothing", "/sign-in/back"} {
			c := dial()
			switch n % 3 {
			case 0:
				_, err = io.WriteString(c, "GE")
			case 1:
				_, err = fmt.Fprintf(c, "GET %s HTTP/1.1\r\nHost: x\r\nX-", path)
			default:
				_, err = fmt.Fprintf(c, "POST %s HTTP/1.1\r\nHost: x\r\nContent-Type: application/json\r\nContent-Length: 100000\r\n\r\n{", path)
			}
			require.NoError(t, err)
		}
	}
	client := http.Client{Timeout: 20 * time.Second}
	res, err := client.Get("http://" + address + "/health")
	require.NoError(t, err)
	res.Body.Close()
	assert.Equal(t, 200, res.StatusCode)

	for _, kind := range []string{"application/json", "multipart/form-data; boundary=x"} {
		c := dial()
		_, err := fmt.Fprintf(c, "POST /api%s HTTP/1.1\r\nHost: %s\r\nCookie: %s\r\nX-CSRF-Token: %s\r\nContent-Type: %s\r\nContent-Length: 2147483648\r\n\r\n", house(h, "/audits"), address, k.cookie, k.csrf, kind)
		require.NoError(t, err)
		_, _ = io.WriteString(c, "--x\r\nContent-Disposition: form-data; name=\"file\"; filename=\"a.css\"\r\n\r\n")
		_, _ = c.Write(make([]byte, 1<<20)) // the first of it
		require.NoError(t, c.SetReadDeadline(time.Now().Add(20*time.Second)))
		answer, err := http.ReadResponse(bufio.NewReader(c), nil)
		require.NoError(t, err, kind)
		answer.Body.Close()
		assert.Equal(t, 413, answer.StatusCode, kind)
	}
}
