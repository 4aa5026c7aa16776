package main

import (
	"fmt"
	"html"
	"io"
	"net/http"
	"net/url"
	"regexp"
	"strings"
	"time"
)

// A client sends requests like a browser.
type client struct {
	url  string
	http http.Client
}

func newClient(url string) *client {
	return &client{url, http.Client{Timeout: 10 * time.Second,
		CheckRedirect: func(*http.Request, []*http.Request) error { return http.ErrUseLastResponse }}}
}

// send sends a request and returns the response with its body.
func (c *client) send(method, path, media, body string) (*http.Response, string, error) {
	r, err := http.NewRequest(method, c.url+path, strings.NewReader(body))
	if err != nil {
		return nil, "", err
	}
	if media != "" {
		r.Header.Set("Content-Type", media)
	}
	answer, err := c.http.Do(r)
	if err != nil {
		return nil, "", err
	}
	defer answer.Body.Close()
	page, err := io.ReadAll(answer.Body)
	return answer, string(page), err
}

const formMedia = "application/x-www-form-urlencoded"

// post posts a form. It returns the target of the redirect, or an error if the form was refused.
func (c *client) post(path string, form url.Values) (to string, err error) {
	answer, _, err := c.send(http.MethodPost, path, formMedia, form.Encode())
	if err != nil {
		return "", err
	}
	if answer.StatusCode != http.StatusSeeOther {
		return "", fmt.Errorf("POST %s: %s", path, answer.Status)
	}
	return answer.Header.Get("Location"), nil
}

var entry = regexp.MustCompile(`<input[^>]*\bname="([^"]+)"[^>]*\bvalue="([^"]*)"`)

// entries returns the fields of a page with their values.
func (c *client) entries(path string) (url.Values, error) {
	answer, page, err := c.send(http.MethodGet, path, "", "")
	if err != nil {
		return nil, err
	}
	if answer.StatusCode != http.StatusOK {
		return nil, fmt.Errorf("GET %s: %s", path, answer.Status)
	}
	out := url.Values{}
	for _, m := range entry.FindAllStringSubmatch(page, -1) {
		if !strings.Contains(m[0], `type="checkbox"`) && !strings.Contains(m[0], `type="radio"`) {
			out.Set(m[1], html.UnescapeString(m[2]))
		}
	}
	return out, nil
}

// brew begins a brew of a bag and returns its id.
func (c *client) brew(bag string) (id string, err error) {
	to, err := c.post("/bags/"+bag+"/brew", url.Values{"go": {"on"}})
	if err != nil {
		return "", err
	}
	id = brewID(to)
	_, err = c.post("/brews/"+id+"/start", url.Values{"go": {"on"}})
	return id, err
}

// brewID returns the id in the address of a recipe.
func brewID(path string) string {
	return strings.TrimSuffix(strings.TrimPrefix(path, "/brews/"), "/recipe")
}
