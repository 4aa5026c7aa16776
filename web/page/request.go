package page

import (
	"context"
	"fmt"
	"net/http"
	"net/netip"
	"net/url"
	"slices"
	"strings"

	"github.com/go-chi/chi/v5"

	"yardbloom/core/units"
	"yardbloom/store"
)

// The headers by which a script recognizes the app's own answer to an action: the key of the action, its echo, and the
// reason for a refusal. A proxy or a captive portal that answers in the app's place does not send them.
const (
	KeyHeader    = "Yard-Key"
	AnswerHeader = "Yard-Answer"
	ReasonHeader = "Yard-Reason"
)

// hereCookie holds the id of the person at a screen.
const hereCookie = "person"

// Here returns the id of the person that a screen was set to; empty if none is chosen. They may be archived or removed.
func Here(r *http.Request) string {
	if c, err := r.Cookie(hereCookie); err == nil && store.ValidID(c.Value) {
		return c.Value
	}
	return ""
}

// SetHere sets a screen to a person; an empty id to none.
func SetHere(w http.ResponseWriter, id string) {
	age := 400 * 24 * 3600
	if id == "" {
		age = -1
	}
	http.SetCookie(w, &http.Cookie{Name: hereCookie, Value: id, Path: "/", MaxAge: age, SameSite: http.SameSiteLaxMode, HttpOnly: true})
}

type settingsKey struct{}

// WithSettings returns a request that carries the yard's settings.
func WithSettings(r *http.Request, set store.Settings) *http.Request {
	return r.WithContext(context.WithValue(r.Context(), settingsKey{}, set))
}

// Settings returns the settings of a request, or the zero value if loading them failed.
func Settings(r *http.Request) store.Settings {
	set, _ := r.Context().Value(settingsKey{}).(store.Settings)
	return set
}

// PersonID returns the id of the person at the screen of a request; empty if none is chosen.
func PersonID(r *http.Request) string { return Settings(r).PersonID }

// Prefs returns the units in which a person reads quantities.
func Prefs(r *http.Request) units.Prefs { return Settings(r).Prefs() }

// Themes are the themes of a screen; auto follows the device.
var Themes = []string{"auto", "day", "night"}

// Theme returns the theme of the person at a screen, or else that of the screen.
func Theme(r *http.Request) string {
	if theme := Settings(r).Theme; theme != "" {
		return theme
	}
	if c, err := r.Cookie("theme"); err == nil && slices.Contains(Themes, c.Value) {
		return c.Value
	}
	return Themes[0]
}

// Sounds are the sounds of the Brew station.
var Sounds = []string{"tones", "voice", "off"}

// ID returns the ID in the path, or store.ErrNotFound if it cannot be one.
func ID(r *http.Request) (string, error) {
	if id := chi.URLParam(r, "id"); store.ValidID(id) {
		return id, nil
	}
	return "", store.ErrNotFound
}

// SeeOther redirects the browser after a form.
func SeeOther(w http.ResponseWriter, r *http.Request, format string, args ...any) error {
	http.Redirect(w, r, fmt.Sprintf(format, args...), http.StatusSeeOther)
	return nil
}

// LocalPath returns a path of this app unchanged, and "/" for any other address.
func LocalPath(path string) string {
	u, err := url.Parse(path) // refuses control characters, which browsers drop
	if err != nil || u.Scheme != "" || u.Host != "" || u.User != nil || !strings.HasPrefix(u.Path, "/") ||
		strings.HasPrefix(u.Path, "//") || strings.Contains(path, `\`) {
		return "/"
	}
	return u.RequestURI()
}

// IsPartial reports whether htmx requests a part of the page.
func IsPartial(r *http.Request) bool {
	return r.Header.Get("HX-Request") == "true" && r.Header.Get("HX-History-Restore-Request") != "true"
}

type leaveKey struct{}

// WithLeave returns a request with the function that frees its slot.
func WithLeave(r *http.Request, leave func()) *http.Request {
	return r.WithContext(context.WithValue(r.Context(), leaveKey{}, leave))
}

// LeaveQueue frees the slot of a request that stays open for long: a stream or a download.
func LeaveQueue(r *http.Request) {
	if leave, ok := r.Context().Value(leaveKey{}).(func()); ok {
		leave()
	}
}

// Attach announces a file to be downloaded.
func Attach(w http.ResponseWriter, mediaType, name string) {
	w.Header().Set("Cache-Control", "no-store")
	w.Header().Set("Content-Type", mediaType)
	w.Header().Set("Content-Disposition", fmt.Sprintf(`attachment; filename="%s"`, name))
}

// IsLoopback reports whether a host is this machine: localhost or a loopback address.
func IsLoopback(host string) bool {
	ip, err := netip.ParseAddr(strings.Trim(host, "[]"))
	return host == "localhost" || err == nil && ip.Unmap().IsLoopback()
}
