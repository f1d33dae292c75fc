package standin

import (
	"crypto/hmac"
	"crypto/sha256"
	"encoding/base64"
	"encoding/json"
	"errors"
	"fmt"
	"io"
	"net"
	"net/http"
	"strconv"
	"strings"
	"sync"
	"time"
)

// HookReceiver is a program that is told of what happens: it takes signed messages of the Standard Webhooks form, refuses those that are
// not signed with its secret or are too old, and keeps the last ones.
type HookReceiver struct {
	Now func() time.Time

	listener net.Listener
	server   *http.Server

	mutex  sync.Mutex
	secret string
	seen   map[string]bool
	list   []HookMessage
}

// HookMessage is a message that was taken.
type HookMessage struct {
	ID, Type, Body string
}

// hookTolerance is how old a message may be, so that nobody can send one again later.
const hookTolerance = 5 * time.Minute

// StartHooks starts a receiver on loopback.
func StartHooks() (*HookReceiver, error) {
	listener, err := net.Listen("tcp", "127.0.0.1:0")
	if err != nil {
		return nil, err
	}
	r := &HookReceiver{Now: time.Now, listener: listener, seen: map[string]bool{}}
	r.server = &http.Server{Handler: r, ReadHeaderTimeout: 5 * time.Second}
	go func() { _ = r.server.Serve(listener) }() // it ends when it is closed
	return r, nil
}

// Address is where it takes messages.
func (r *HookReceiver) Address() string { return "http://" + r.listener.Addr().String() + "/colors" }

// Close stops it.
func (r *HookReceiver) Close() error { return r.server.Close() }

// Trust gives it the secret with which messages are signed. Until then it takes any, and says so.
func (r *HookReceiver) Trust(secret string) {
	r.mutex.Lock()
	defer r.mutex.Unlock()
	r.secret = secret
}

// Messages lists what was taken, oldest first.
func (r *HookReceiver) Messages() []HookMessage {
	r.mutex.Lock()
	defer r.mutex.Unlock()
	return append([]HookMessage(nil), r.list...)
}

// mostHookMessages is how many are kept.
const mostHookMessages = 100

// ServeHTTP implements http.Handler.
func (r *HookReceiver) ServeHTTP(w http.ResponseWriter, req *http.Request) {
	if req.Method != http.MethodPost {
		http.Error(w, "This stand-in takes messages of webhooks.", http.StatusMethodNotAllowed)
		return
	}
	body, err := io.ReadAll(io.LimitReader(req.Body, 1<<20))
	if err != nil {
		http.Error(w, "The message broke off.", http.StatusBadRequest)
		return
	}
	r.mutex.Lock()
	defer r.mutex.Unlock()
	id := req.Header.Get("webhook-id")
	how := "The signature was not looked at, since this stand-in does not know the secret."
	if r.secret != "" {
		if err := verify(r.secret, req.Header, string(body), r.Now()); err != nil {
			http.Error(w, "Not taken: "+err.Error()+".", http.StatusUnauthorized)
			return
		}
		how = "The signature fits."
	}
	var message struct {
		Type string `json:"type"`
	}
	if err := json.Unmarshal(body, &message); err != nil {
		http.Error(w, "Not taken: it is no JSON.", http.StatusBadRequest)
		return
	}
	if r.seen[id] {
		fmt.Fprintf(w, "Taken before: %s.", message.Type)
		return
	}
	r.seen[id] = true
	if r.list = append(r.list, HookMessage{id, message.Type, string(body)}); len(r.list) > mostHookMessages {
		r.list = r.list[1:]
	}
	fmt.Fprintf(w, "Taken: %s. %s", message.Type, how)
}

// verify checks a signature as a receiver does (Standard Webhooks, "Verifying webhook authenticity"). It is written apart from the sender,
// so that one holds the other.
func verify(secret string, header http.Header, body string, now time.Time) error {
	key, err := base64.StdEncoding.DecodeString(strings.TrimPrefix(secret, "whsec_"))
	if err != nil {
		return err
	}
	seconds, err := strconv.ParseInt(header.Get("webhook-timestamp"), 10, 64)
	if err != nil {
		return errors.New("it says no time")
	}
	if age := now.Sub(time.Unix(seconds, 0)); age > hookTolerance || age < -hookTolerance {
		return errors.New("it is too old or too new")
	}
	mac := hmac.New(sha256.New, key)
	mac.Write([]byte(header.Get("webhook-id") + "." + header.Get("webhook-timestamp") + "." + body))
	for _, one := range strings.Fields(header.Get("webhook-signature")) {
		version, text, _ := strings.Cut(one, ",")
		if sum, err := base64.StdEncoding.DecodeString(text); err == nil && version == "v1" && hmac.Equal(sum, mac.Sum(nil)) {
			return nil
		}
	}
	return errors.New("the signature does not fit")
}
