package web

import (
	"context"
	"errors"
	"fmt"
	"runtime"

	"github.com/alexedwards/argon2id"
)

// passwordCost is the cost of checking a password: the second recommended option of RFC 9106. Stored passwords
// include their cost, so that it can be raised: the next sign-in stores the password again.
var passwordCost = argon2id.Params{Memory: 64 << 10, Iterations: 3, Parallelism: 4, SaltLength: 16, KeyLength: 32}

// HashPassword encodes a password with argon2id, its parameters and a random salt.
func HashPassword(password string) string {
	encoded, err := argon2id.CreateHash(password, &passwordCost)
	if err != nil {
		panic(err) // without random numbers nothing is secure
	}
	return encoded
}

// checkSlots limits the number of concurrent password checks, and so the memory that strangers can occupy. checkQueue limits
// those that wait for one.
var (
	checkSlots = make(chan struct{}, max(2, runtime.NumCPU()))
	checkQueue = make(chan struct{}, cap(checkSlots)+8)
)

// errCheckBusy is returned if too many passwords wait to be checked.
var errCheckBusy = errors.New("too many passwords wait to be checked")

// passwordFits reports whether a password matches an encoded one, and whether that has an outdated cost. It waits for a free
// slot until ctx ends. With too many waiting it is an errCheckBusy.
func passwordFits(ctx context.Context, password, encoded string) (fits, dated bool, err error) {
	select {
	case checkQueue <- struct{}{}:
		defer func() { <-checkQueue }()
	default:
		return false, false, errCheckBusy
	}
	select {
	case checkSlots <- struct{}{}:
		defer func() { <-checkSlots }()
	case <-ctx.Done():
		return false, false, ctx.Err()
	}
	fits, paid, err := argon2id.CheckHash(password, encoded)
	if err != nil {
		return false, false, fmt.Errorf("the stored password cannot be decoded: %w", err)
	}
	return fits, *paid != passwordCost, nil
}
