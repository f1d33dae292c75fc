package standin

import (
	"crypto/rand"
	"crypto/rsa"
	"crypto/sha256"
	"crypto/subtle"
	"encoding/base64"
	"encoding/json"
	"fmt"
	"html/template"
	"net"
	"net/http"
	"net/url"
	"sync"
	"time"

	"github.com/go-jose/go-jose/v4"
)

// Provider is a simulated sign-in provider (OpenID Connect 1.0): whoever comes says which address is theirs and is believed. It knows one
// client.
type Provider struct {
	Client, Secret string
	Unverified     bool // it does not say that it knows the address

	issuer string
	server *http.Server
	key    *rsa.PrivateKey

	mutex sync.Mutex
	codes map[string]grant
}

// grant is what a code stands for.
type grant struct {
	email, name, nonce, challenge, redirect string
	until                                   time.Time
}

// StartProvider starts one on a free port of this machine.
func StartProvider(client, secret string) (*Provider, error) {
	listener, err := net.Listen("tcp", "127.0.0.1:0")
	if err != nil {
		return nil, err
	}
	key, err := rsa.GenerateKey(rand.Reader, 2048)
	if err != nil {
		return nil, err
	}
	p := &Provider{Client: client, Secret: secret, issuer: "http://" + listener.Addr().String(), key: key, codes: map[string]grant{}}
	mux := http.NewServeMux()
	mux.HandleFunc("GET /.well-known/openid-configuration", p.configuration)
	mux.HandleFunc("GET /keys", p.keys)
	mux.HandleFunc("GET /authorize", p.ask)
	mux.HandleFunc("POST /authorize", p.authorize)
	mux.HandleFunc("POST /token", p.token)
	p.server = &http.Server{Handler: mux, ReadHeaderTimeout: 5 * time.Second}
	go func() { _ = p.server.Serve(listener) }() // it ends when it is closed
	return p, nil
}

// Issuer is the provider's address.
func (p *Provider) Issuer() string { return p.issuer }

// Close ends it.
func (p *Provider) Close() error { return p.server.Close() }

func answer(w http.ResponseWriter, status int, v any) {
	w.Header().Set("Content-Type", "application/json")
	w.WriteHeader(status)
	_ = json.NewEncoder(w).Encode(v) // who asked has gone
}

func (p *Provider) configuration(w http.ResponseWriter, _ *http.Request) {
	answer(w, http.StatusOK, map[string]any{"issuer": p.issuer, "authorization_endpoint": p.issuer + "/authorize",
		"token_endpoint": p.issuer + "/token", "jwks_uri": p.issuer + "/keys",
		"response_types_supported": []string{"code"}, "subject_types_supported": []string{"public"},
		"id_token_signing_alg_values_supported": []string{"RS256"}})
}

func (p *Provider) keys(w http.ResponseWriter, _ *http.Request) {
	answer(w, http.StatusOK, jose.JSONWebKeySet{Keys: []jose.JSONWebKey{{Key: &p.key.PublicKey, KeyID: "standin", Algorithm: "RS256",
		Use: "sig"}}})
}

var askPage = template.Must(template.New("").Parse(`<!doctype html><meta charset="utf-8"><title>A sign-in provider</title>
<h1>A simulated sign-in provider</h1><form method="post" action="/authorize?{{.}}"><p><label>E-mail <input name="email" type="email" required></label></p>
<p><label>Name <input name="name"></label></p><p><button>That is me</button> <button name="refuse" value="1" formnovalidate>Not now</button></p></form>`))

func (p *Provider) ask(w http.ResponseWriter, r *http.Request) {
	w.Header().Set("Content-Type", "text/html; charset=utf-8")
	_ = askPage.Execute(w, r.URL.RawQuery)
}

func (p *Provider) authorize(w http.ResponseWriter, r *http.Request) {
	q := r.URL.Query()
	back, err := url.Parse(q.Get("redirect_uri"))
	if err != nil || q.Get("client_id") != p.Client || q.Get("response_type") != "code" || q.Get("code_challenge_method") != "S256" {
		answer(w, http.StatusBadRequest, map[string]string{"error": "invalid_request"})
		return
	}
	out := url.Values{"state": {q.Get("state")}}
	if r.FormValue("refuse") != "" {
		out.Set("error", "access_denied")
	} else {
		code := rand.Text()
		p.mutex.Lock()
		p.codes[code] = grant{r.FormValue("email"), r.FormValue("name"), q.Get("nonce"), q.Get("code_challenge"), q.Get("redirect_uri"),
			time.Now().Add(time.Minute)}
		p.mutex.Unlock()
		out.Set("code", code)
	}
	back.RawQuery = out.Encode()
	http.Redirect(w, r, back.String(), http.StatusFound)
}

func (p *Provider) token(w http.ResponseWriter, r *http.Request) {
	refuse := func(why string) { answer(w, http.StatusBadRequest, map[string]string{"error": why}) }
	client, secret, ok := r.BasicAuth()
	if !ok {
		client, secret = r.FormValue("client_id"), r.FormValue("client_secret")
	}
	if client != p.Client || subtle.ConstantTimeCompare([]byte(secret), []byte(p.Secret)) != 1 {
		refuse("invalid_client")
		return
	}
	p.mutex.Lock()
	g, ok := p.codes[r.FormValue("code")]
	delete(p.codes, r.FormValue("code")) // each is good once
	p.mutex.Unlock()
	sum := sha256.Sum256([]byte(r.FormValue("code_verifier")))
	if !ok || time.Now().After(g.until) || g.redirect != r.FormValue("redirect_uri") ||
		base64.RawURLEncoding.EncodeToString(sum[:]) != g.challenge {
		refuse("invalid_grant")
		return
	}
	id, err := p.sign(map[string]any{"iss": p.issuer, "sub": "person " + g.email, "aud": p.Client, "nonce": g.nonce,
		"iat": time.Now().Unix(), "exp": time.Now().Add(5 * time.Minute).Unix(),
		"email": g.email, "email_verified": !p.Unverified, "name": g.name})
	if err != nil {
		refuse(fmt.Sprint("server_error: ", err))
		return
	}
	answer(w, http.StatusOK, map[string]any{"access_token": rand.Text(), "token_type": "Bearer", "expires_in": 300, "id_token": id})
}

func (p *Provider) sign(claims map[string]any) (string, error) {
	signer, err := jose.NewSigner(jose.SigningKey{Algorithm: jose.RS256, Key: jose.JSONWebKey{Key: p.key, KeyID: "standin"}},
		(&jose.SignerOptions{}).WithType("JWT"))
	if err != nil {
		return "", err
	}
	text, err := json.Marshal(claims)
	if err != nil {
		return "", err
	}
	signed, err := signer.Sign(text)
	if err != nil {
		return "", err
	}
	return signed.CompactSerialize()
}
