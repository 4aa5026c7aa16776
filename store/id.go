package store

import (
	"regexp"

	"github.com/google/uuid"
)

// NewID makes an id that nobody else makes: a UUID of version 7, whose order is
// that of time. A client without the server at hand may make one too.
func NewID() string { return uuid.Must(uuid.NewV7()).String() }

var idForm = regexp.MustCompile(`^[A-Za-z0-9_-]{1,64}$`)

// ValidID says whether a text can be an id. Those of older yards are numbers.
func ValidID(id string) bool { return idForm.MatchString(id) }
