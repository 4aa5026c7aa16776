package web

import (
	"crypto/rand"
	"crypto/subtle"
	"encoding/base64"
	"errors"
	"fmt"
	"strings"

	"golang.org/x/crypto/argon2"
)

// The cost of a password: the second recommended option of RFC 9106.
const (
	argonTime    = 3
	argonMemory  = 64 << 10 // KiB
	argonThreads = 4
	argonKey     = 32
)

// HashPassword encodes a password with argon2id and a salt of its own.
func HashPassword(password string) string {
	salt := make([]byte, 16)
	rand.Read(salt) // never fails
	b64 := base64.RawStdEncoding.EncodeToString
	return b64(salt) + "." + b64(argon2.IDKey([]byte(password), salt, argonTime, argonMemory, argonThreads, argonKey))
}

func passwordFits(password, encoded string) (bool, error) {
	saltText, keyText, found := strings.Cut(encoded, ".")
	salt, err1 := base64.RawStdEncoding.DecodeString(saltText)
	key, err2 := base64.RawStdEncoding.DecodeString(keyText)
	if err := errors.Join(err1, err2); err != nil || !found {
		return false, fmt.Errorf("the kept password cannot be read: %v", err)
	}
	got := argon2.IDKey([]byte(password), salt, argonTime, argonMemory, argonThreads, argonKey)
	return subtle.ConstantTimeCompare(got, key) == 1, nil
}
