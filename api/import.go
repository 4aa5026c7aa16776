package api

import (
	"bytes"
	"encoding/json"
	"errors"
	"fmt"
	"io"
	"net/http"
	"reflect"
	"time"

	"github.com/danielgtaylor/huma/v2"

	"yardbloom/exchange/yardfile"
	"yardbloom/store"
	"yardbloom/yard"
)

// ImportPath is the path that takes a yard file or a record.
const ImportPath = "/import"

// Imported is the result of an import or a dry run.
type Imported struct {
	Applied bool            `json:"applied" doc:"Whether the yard was changed: false for a dry run, or if there was nothing to import."`
	Counts  []ImportCount   `json:"counts"`
	Refused []ImportRefusal `json:"refused"`
}

// ImportCount is the number of records of a kind that an import treats alike.
type ImportCount struct {
	Kind    string `json:"kind"`
	Action  string `json:"action" enum:"add,change,keep,delete,same,refuse"`
	Records int    `json:"records"`
}

// ImportRefusal is a record that the yard does not take.
type ImportRefusal struct {
	Kind string `json:"kind"`
	ID   string `json:"id"`
	Why  string `json:"why"`
}

func (s *Server) importOperation() {
	s.mux.Post(ImportPath, s.importFile)
	components := s.api.OpenAPI().Components.Schemas
	answer := func(description, media string, of reflect.Type) *huma.Response {
		return &huma.Response{Description: description, Content: map[string]*huma.MediaType{media: {Schema: components.Schema(of, true, "")}}}
	}
	problem := reflect.TypeFor[huma.ErrorModel]()
	binary := &huma.Schema{Type: huma.TypeString, Format: "binary"}
	s.api.OpenAPI().AddOperation(&huma.Operation{OperationID: "import", Method: http.MethodPost, Path: ImportPath,
		Summary:     "Import a yard file or a record",
		Description: "Needs a token that may import. The whole file is imported, or nothing of it.",
		Parameters: []*huma.Param{{Name: "dry_run", In: "query", Description: "Only say what would be done.",
			Schema: &huma.Schema{Type: huma.TypeBoolean}}},
		RequestBody: &huma.RequestBody{Required: true, Content: map[string]*huma.MediaType{"application/zip": {Schema: binary},
			"application/json": {Schema: &huma.Schema{Type: huma.TypeObject, AdditionalProperties: true}}}},
		Responses: map[string]*huma.Response{"200": answer("OK", "application/json", reflect.TypeFor[Imported]()),
			"401": answer("Unauthorized", "application/problem+json", problem), "403": answer("Forbidden", "application/problem+json", problem),
			"422": answer("Unprocessable Entity", "application/problem+json", problem)}})
}

// A sizedReader is a body that can be read at any place.
type sizedReader interface {
	io.ReaderAt
	Size() int64
}

// importFile imports the body of a request.
func (s *Server) importFile(w http.ResponseWriter, r *http.Request) {
	const inMemory = 1 << 20
	file, there := r.Body.(sizedReader)
	if !there { // a small one
		text, err := io.ReadAll(io.LimitReader(r.Body, inMemory))
		if err != nil {
			Refuse(w, http.StatusBadRequest, "The body cannot be read.")
			return
		}
		file = bytes.NewReader(text)
	}
	s.opened(r)
	const longest = time.Hour
	_ = http.NewResponseController(w).SetWriteDeadline(time.Now().Add(longest)) // a recorder in a test has no deadlines
	out, err := s.imported(r, file, r.URL.Query().Get("dry_run") == "true")
	var wrong *yardfile.FileError
	var tooLarge *http.MaxBytesError
	switch {
	case errors.As(err, &tooLarge):
		Refuse(w, http.StatusRequestEntityTooLarge, fmt.Sprintf("The file has more than %d bytes.", tooLarge.Limit))
	case errors.Is(err, yard.ErrImporting):
		Refuse(w, http.StatusConflict, "Another import is in progress.")
	case errors.Is(err, store.ErrNotFound):
		Refuse(w, http.StatusUnauthorized, "The token was revoked. Nothing was changed.")
	case errors.As(err, &wrong):
		Refuse(w, http.StatusUnprocessableEntity, wrong.Sentence)
	case err != nil:
		s.yard.Log.Error("API import failed", "err", err)
		Refuse(w, http.StatusInternalServerError, "The import failed. It is undone or completed at the next start of the server.")
	default:
		w.Header().Set("Content-Type", "application/json")
		_ = json.NewEncoder(w).Encode(out) // else the client has gone
	}
}

// errDry ends a dry run.
var errDry = errors.New("dry run")

func (s *Server) imported(r *http.Request, file sizedReader, dry bool) (Imported, error) {
	token, err := s.yard.Store.TokenOf(r.Context(), Bearer(r))
	if err != nil {
		return Imported{}, err
	}
	in, err := s.yard.ImportNow(r.Context(), "by "+token.Name, file, file.Size(), func(*yard.Import) error {
		if dry {
			return errDry
		}
		_, err := s.yard.Store.TokenOf(r.Context(), Bearer(r)) // or it was revoked while the file was read
		return err
	})
	if err != nil && !errors.Is(err, errDry) {
		return Imported{}, err
	}
	out := Imported{Applied: !dry && in.Changes(), Counts: []ImportCount{}, Refused: []ImportRefusal{}}
	for _, c := range in.Counts {
		out.Counts = append(out.Counts, ImportCount{string(c.Kind), string(c.Action), c.Records})
	}
	for _, d := range in.Refused {
		out.Refused = append(out.Refused, ImportRefusal{string(d.Kind), d.ID, d.Why})
	}
	return out, nil
}
