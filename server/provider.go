package server

import (
	"context"
	"crypto/subtle"
	"errors"
	"fmt"
	"log/slog"
	"net/http"
	"net/url"
	"strings"
	"sync"
	"time"

	"github.com/coreos/go-oidc/v3/oidc"
	"github.com/gofiber/fiber/v3"
	"golang.org/x/oauth2"

	"huekeep/keep"
	"huekeep/keep/accounts"
)

// Provider is a sign-in provider (OpenID Connect 1.0), asked with an authorization code and PKCE.
type Provider struct {
	Name     string // on the button
	Issuer   string
	Client   string
	Secret   string
	Redirect string // the address of this program that the provider sends people back to

	mutex sync.Mutex
	found *oidc.Provider // once it has answered
}

// providerTime is how long the provider may take.
const providerTime = 15 * time.Second

// discover asks the provider about itself, once it is needed, so that this program starts while the provider is away.
func (p *Provider) discover(ctx context.Context) (*oidc.Provider, *oauth2.Config, error) {
	p.mutex.Lock()
	defer p.mutex.Unlock()
	if p.found == nil {
		// Its keys are fetched with this context long after the request.
		found, err := oidc.NewProvider(oidc.ClientContext(context.WithoutCancel(ctx), &http.Client{Timeout: providerTime}), p.Issuer)
		if err != nil {
			return nil, nil, err
		}
		p.found = found
	}
	return p.found, &oauth2.Config{ClientID: p.Client, ClientSecret: p.Secret, Endpoint: p.found.Endpoint(), RedirectURL: p.Redirect,
		Scopes: []string{oidc.ScopeOpenID, "email", "profile"}}, nil
}

const flowCookie = "huekeep_sign_in"

// providerPages are the way to the provider and back.
func (s *server) providerPages(app *fiber.App) {
	if s.Provider == nil {
		return
	}
	app.Get("/sign-in/provider", s.toProvider)
	app.Get("/sign-in/back", s.fromProvider)
}

// toProvider sends somebody to the provider. What has to fit when they come back stands in a cookie for ten minutes. An invitation may be
// taken along.
func (s *server) toProvider(c fiber.Ctx) error {
	if err := s.paces.address.paced(network(c.Context())); err != nil {
		return err
	}
	_, config, err := s.Provider.discover(c.Context())
	if err != nil {
		slog.Error("the sign-in provider does not answer", "error", err)
		return s.backWith(c, refusedAway)
	}
	state, nonce, verifier := keep.Random(), keep.Random(), oauth2.GenerateVerifier()
	invitation := c.Query("invitation")
	if len(invitation) > 64 {
		invitation = ""
	}
	c.Response().Header.Add("Set-Cookie", cookie(isSecure(c.Context()), flowCookie,
		strings.Join([]string{state, nonce, verifier, url.QueryEscape(invitation)}, "."), 10*time.Minute))
	return c.Redirect().To(config.AuthCodeURL(state, oidc.Nonce(nonce), oauth2.S256ChallengeOption(verifier)))
}

// fromProvider opens a session for whom the provider vouches.
func (s *server) fromProvider(c fiber.Ctx) error {
	if err := s.paces.address.paced(network(c.Context())); err != nil {
		return err
	}
	parts := strings.Split(cookieOf(c, flowCookie), ".")
	c.Response().Header.Add("Set-Cookie", cookie(isSecure(c.Context()), flowCookie, "", -1))
	if len(parts) != 4 || subtle.ConstantTimeCompare([]byte(parts[0]), []byte(c.Query("state"))) != 1 {
		return s.backWith(c, refusedWay)
	}
	if c.Query("error") != "" {
		return s.backWith(c, refusedThere)
	}
	vouched, err := s.vouched(c.Context(), c.Query("code"), parts[1], parts[2])
	if err != nil {
		slog.Error("the sign-in provider's answer was not taken", "id", keep.FromOf(c.Context()).Request, "error", err)
		return s.backWith(c, refusedAnswer)
	}
	invitation, _ := url.QueryUnescape(parts[3])
	signed, err := s.Accounts.Vouch(c.Context(), vouched, invitation)
	if ours := keep.Explain(err); ours != nil {
		slog.Info("the sign-in provider's word was not enough", "id", keep.FromOf(c.Context()).Request, "why", ours.Message)
		switch ours.Code {
		case accounts.CodeUnverified:
			return s.backWith(c, refusedUnverified)
		case accounts.CodeNoAccount:
			return s.backWith(c, refusedUnknown)
		}
		return s.backWith(c, refusedHere)
	} else if err != nil {
		return err
	}
	c.Response().Header.Add("Set-Cookie", *s.sessionCookie(c.Context(), signed))
	return c.Redirect().To("/?signed-in")
}

func (s *server) vouched(ctx context.Context, code, nonce, verifier string) (v accounts.Vouched, err error) {
	found, config, err := s.Provider.discover(ctx)
	if err != nil {
		return v, err
	}
	ctx, stop := context.WithTimeout(oidc.ClientContext(ctx, &http.Client{Timeout: providerTime}), providerTime)
	defer stop()
	token, err := config.Exchange(ctx, code, oauth2.VerifierOption(verifier))
	if err != nil {
		return v, fmt.Errorf("exchange: %w", err)
	}
	raw, ok := token.Extra("id_token").(string)
	if !ok {
		return v, errors.New("there is no ID token in the answer")
	}
	id, err := found.Verifier(&oidc.Config{ClientID: s.Provider.Client}).Verify(ctx, raw)
	if err != nil {
		return v, err
	}
	if subtle.ConstantTimeCompare([]byte(id.Nonce), []byte(nonce)) != 1 {
		return v, errors.New("the nonce is another one")
	}
	var claims struct {
		Email    string `json:"email"`
		Verified bool   `json:"email_verified"`
		Name     string `json:"name"`
	}
	if err := id.Claims(&claims); err != nil {
		return v, err
	}
	return accounts.Vouched{Subject: keep.Digest(id.Issuer + "\n" + id.Subject), Email: claims.Email, Verified: claims.Verified,
		Name: claims.Name}, nil
}

// backWith leads back to the sign-in, which says why.
func (s *server) backWith(c fiber.Ctx, why refusal) error {
	return c.Redirect().To("/?" + url.Values{"refused": {string(why)}}.Encode())
}

// refusal is why the provider's way in did not lead in; the page has a sentence for each, and shows no other text.
type refusal string

const (
	refusedAway       refusal = "away"       // the provider does not answer
	refusedWay        refusal = "way"        // it is not the way that was gone
	refusedThere      refusal = "there"      // the provider said no
	refusedAnswer     refusal = "answer"     // its answer could not be checked
	refusedUnverified refusal = "unverified" // it does not say whose address it is
	refusedUnknown    refusal = "unknown"    // there is no account for the address
	refusedHere       refusal = "here"       // something else
)
