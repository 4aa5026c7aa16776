package store

import (
	"regexp"

	"github.com/google/uuid"
)

// NewID returns a unique id: a UUID of version 7, which sorts by time. A client that is offline may create
// one too.
func NewID() string { return uuid.Must(uuid.NewV7()).String() }

var idForm = regexp.MustCompile(`^[A-Za-z0-9_-]{1,64}$`)

// ValidID reports whether a text is a valid id.
func ValidID(id string) bool { return idForm.MatchString(id) }
