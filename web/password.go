package web

import (
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

// checkSlots limits the number of concurrent password checks, and so the memory that strangers can occupy.
var checkSlots = make(chan struct{}, max(2, runtime.NumCPU()))

// passwordFits reports whether a password matches an encoded one, and whether that has an outdated cost.
func passwordFits(password, encoded string) (fits, dated bool, err error) {
	checkSlots <- struct{}{}
	defer func() { <-checkSlots }()
	fits, paid, err := argon2id.CheckHash(password, encoded)
	if err != nil {
		return false, false, fmt.Errorf("the stored password cannot be decoded: %w", err)
	}
	return fits, *paid != passwordCost, nil
}
