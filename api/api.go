// Package api serves the yard to other programs: JSON over HTTP under /api/v1, with a token for each program. Only a token that was made for
// it can import; nothing else changes the yard.
//
// The OpenAPI 3.1 description at /api/v1/openapi.json is made from the types and operations of this package. Errors are problem details
// (RFC 9457). Quantities have their unit in their name. A field without a value is unknown.
package api

import (
	"errors"
	"net/http"
	"reflect"
	"strings"
	"time"

	"github.com/danielgtaylor/huma/v2"
	"github.com/danielgtaylor/huma/v2/adapters/humachi"
	"github.com/go-chi/chi/v5"

	"yardbloom/core/units"
	"yardbloom/store"
	"yardbloom/yard"
)

// Prefix is the address under which the API is mounted.
const Prefix = "/api/v1"

// Server serves the API of a yard. It is safe for concurrent use.
type Server struct {
	yard *yard.Yard
	// opened is called for a request that stays open for long.
	opened  func(*http.Request)
	beat    time.Duration
	streams chan struct{}
	api     huma.API
	mux     chi.Router
}

// New returns the API of a yard. opened is called for a request that stays open for long, and heartbeat is how often an idle stream is
// written to.
func New(y *yard.Yard, opened func(*http.Request), heartbeat time.Duration) *Server {
	s := &Server{yard: y, opened: opened, beat: heartbeat, streams: make(chan struct{}, maxStreams), mux: chi.NewMux()}
	s.mux.Use(allowOrigins, s.authorize, tag, csvByAccept)
	config := huma.DefaultConfig("Yard Bloom", "1")
	config.Info.Description = "Read access to a yard's bags, gear, recipes and brews, and to the brew model, and import of yard files."
	config.DocsPath, config.SchemasPath, config.CreateHooks = "", "", nil // no page from other hosts, no links into documents
	config.Components.Schemas = huma.NewMapRegistry("#/components/schemas/", schemaName)
	config.Servers = []*huma.Server{{URL: Prefix}}
	config.Components.SecuritySchemes = map[string]*huma.SecurityScheme{"token": {Type: "http", Scheme: "bearer",
		Description: "A token of Settings, under Programs."}}
	config.Security = []map[string][]string{{"token": {}}}
	s.api = humachi.New(s.mux, config)
	s.yardOperations()
	s.brewOperations()
	s.recipeOperations()
	s.eventOperations()
	s.importOperation()
	return s
}

// schemaName returns the name of a type in the description. Those of the open formats begin with Open.
func schemaName(t reflect.Type, hint string) string {
	for t.Kind() == reflect.Pointer || t.Kind() == reflect.Slice {
		t = t.Elem()
	}
	name := huma.DefaultSchemaNamer(t, hint)
	if strings.HasSuffix(t.PkgPath(), "/exchange") {
		return "Open" + name
	}
	return name
}

// ServeHTTP handles a request whose path is relative to Prefix.
func (s *Server) ServeHTTP(w http.ResponseWriter, r *http.Request) { s.mux.ServeHTTP(w, r) }

// Routes returns the routes, for tests that visit all of them.
func (s *Server) Routes() chi.Routes { return s.mux }

// get registers a read operation.
func get[I, O any](s *Server, path, id, summary string, handle func(*call, *I) (*O, error)) {
	huma.Register(s.api, huma.Operation{OperationID: id, Method: http.MethodGet, Path: path, Summary: summary,
		Errors: []int{http.StatusUnauthorized, http.StatusNotFound, http.StatusUnprocessableEntity}}, func(c ctx, in *I) (*O, error) {
		out, err := handle(&call{c, s.yard}, in)
		return out, s.problem(err)
	})
}

// problem converts an error into problem details. Errors that the caller cannot correct are logged and have no details.
func (s *Server) problem(err error) error {
	var wrong *units.ValueError
	var known huma.StatusError
	switch {
	case err == nil:
		return nil
	case errors.As(err, &known):
		return err
	case errors.Is(err, store.ErrNotFound):
		return huma.Error404NotFound("There is no such record.")
	case errors.As(err, &wrong):
		return huma.Error422UnprocessableEntity(wrong.Error())
	}
	s.yard.Log.Error("API request failed", "err", err)
	return huma.Error500InternalServerError("The request failed. Nothing was changed.")
}
