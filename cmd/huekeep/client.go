package main

import (
	"bytes"
	"context"
	"encoding/json"
	"errors"
	"fmt"
	"io"
	"net"
	"net/http"
	"net/url"
	"strconv"
	"strings"
	"time"

	"huekeep/api"
	"huekeep/core/limits"
)

// houseClient asks a house of a server, with an access token.
type houseClient struct {
	site   string // the server, as people reach it
	house  int64
	token  string
	client *http.Client
	says   io.Writer // where it says that it waits
}

// newHouseClient reads the address of a house as a browser shows it: https://colors.house.example/h/1, whatever follows.
func newHouseClient(address string, says io.Writer) (*houseClient, error) {
	wrong := fmt.Errorf("%q is not the address of a house: open it in a browser and copy what stands there, https://…/h/1", address)
	u, err := url.Parse(address)
	if err != nil || u.Host == "" || u.Scheme != "https" && u.Scheme != "http" {
		return nil, wrong
	}
	before, after, ok := strings.Cut(u.Path+"/", "/h/")
	number, _, _ := strings.Cut(after, "/")
	house, err := strconv.ParseInt(number, 10, 64)
	if !ok || err != nil || house <= 0 {
		return nil, wrong
	}
	token := setting("TOKEN", "")
	if token == "" {
		return nil, errors.New("HUEKEEP_TOKEN is missing: make an access token for judging files under your name, for this house")
	}
	if err := keepsSecret(u); err != nil {
		return nil, err
	}
	return &houseClient{site: u.Scheme + "://" + u.Host + before, house: house, token: token,
		client: &http.Client{Timeout: 5 * time.Minute}, says: says}, nil
}

// keepsSecret refuses an address to which an access token would travel where others can read it.
func keepsSecret(u *url.URL) error {
	if ip := net.ParseIP(u.Hostname()); u.Scheme != "https" && u.Hostname() != "localhost" && (ip == nil || !ip.IsLoopback()) {
		return fmt.Errorf("%s would carry the access token where others can read it; use https", u)
	}
	return nil
}

// page is the address of a page of the house, for people.
func (h *houseClient) page(path string) string {
	return fmt.Sprintf("%s/h/%d/%s", h.site, h.house, path)
}

// patience is how often an answer is waited for that says to come again.
const patience = 40

// ask sends a request to the house, and reads the answer into a value, if that is not nil. Who is asked to wait waits. An answer of the
// house that says no is an *api.Problem.
func (h *houseClient) ask(ctx context.Context, method, path, kind string, body []byte, into any) error {
	for turn := 0; ; turn++ {
		req, err := http.NewRequestWithContext(ctx, method, fmt.Sprintf("%s/api/houses/%d%s", h.site, h.house, path), bytes.NewReader(body))
		if err != nil {
			return err
		}
		req.Header.Set("Authorization", "Bearer "+h.token)
		req.Header.Set("User-Agent", "huekeep/"+version())
		if body != nil {
			req.Header.Set("Content-Type", kind)
		}
		res, err := h.client.Do(req)
		if err != nil {
			if ctx.Err() != nil {
				return context.Cause(ctx)
			}
			return unreached(h.site, err)
		}
		text, err := io.ReadAll(io.LimitReader(res.Body, limits.UnpackedBytes))
		res.Body.Close()
		switch {
		case err != nil:
			return fmt.Errorf("the answer of %s breaks off: %w", h.site, err)
		case res.StatusCode < 300 && into == nil:
			return nil
		case res.StatusCode < 300:
			if err := json.Unmarshal(text, into); err != nil {
				return fmt.Errorf("%s does not answer as a house does: %w", h.site, err)
			}
			return nil
		}
		seconds, _ := strconv.Atoi(res.Header.Get("Retry-After"))
		if wait := res.StatusCode == http.StatusTooManyRequests || res.StatusCode == http.StatusServiceUnavailable; !wait ||
			turn == patience {
			return problemOf(res, text)
		}
		if turn == 0 {
			fmt.Fprintf(h.says, "huekeep: %s asks to wait; it goes on in a moment\n", h.site)
		}
		select {
		case <-ctx.Done():
			return context.Cause(ctx)
		case <-time.After(min(max(time.Duration(seconds)*time.Second, time.Second), time.Minute)):
		}
	}
}

// problem is an answer that says no.
type problem struct {
	status int
	title  string
}

func (p problem) Error() string { return strings.TrimSuffix(p.title, ".") }

// problemOf is an answer that says no in the server's words.
func problemOf(res *http.Response, text []byte) error {
	var said api.Problem
	if err := json.Unmarshal(text, &said); err != nil || said.Title == "" {
		said.Title = fmt.Sprintf("the server answers with %s", res.Status)
	}
	return problem{res.StatusCode, said.Title}
}

// unreached is an error without the address itself, whose last part may be a secret that no log should have.
func unreached(site string, err error) error {
	var of *url.Error
	if errors.As(err, &of) {
		err = of.Err
	}
	return fmt.Errorf("%s cannot be reached: %w", site, err)
}

// post sends a value as JSON.
func (h *houseClient) post(ctx context.Context, path string, body, into any) error {
	text, err := json.Marshal(body)
	if err != nil {
		return err
	}
	return h.ask(ctx, http.MethodPost, path, "application/json", text, into)
}

func (h *houseClient) get(ctx context.Context, path string, into any) error {
	return h.ask(ctx, http.MethodGet, path, "", nil, into)
}

// done waits until a job has ended, says now and then how far it is, and gives its result. Where it is stopped meanwhile the job is given
// up.
func (h *houseClient) done(ctx context.Context, j api.Job) (string, error) {
	told := progress{to: h.says}
	for {
		switch j.State {
		case "done":
			if j.Result == nil {
				return "", nil
			}
			return *j.Result, nil
		case "failed", "given-up":
			if j.Problem != nil {
				return "", errors.New(strings.TrimSuffix(j.Problem.Title, "."))
			}
			return "", errors.New("it was given up")
		}
		told.say(func() string { return fmt.Sprintf("%.0f %%, %s", j.Share*100, j.Stage) })
		select {
		case <-ctx.Done():
			late, cancel := context.WithTimeout(context.WithoutCancel(ctx), respite/2)
			defer cancel()
			_ = h.ask(late, http.MethodDelete, fmt.Sprintf("/jobs/%d", j.Id), "", nil, nil)
			return "", context.Cause(ctx)
		case <-time.After(300 * time.Millisecond):
		}
		if err := h.get(ctx, fmt.Sprintf("/jobs/%d", j.Id), &j); err != nil {
			return "", err
		}
	}
}
