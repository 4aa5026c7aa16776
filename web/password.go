package web

import (
	"fmt"
	"runtime"

	"github.com/alexedwards/argon2id"
)

// cost is what a guess at a password costs: the second recommended option of RFC 9106.
// It stands in what is kept, so that it can rise: whoever signs in next is kept anew.
var cost = argon2id.Params{Memory: 64 << 10, Iterations: 3, Parallelism: 4, SaltLength: 16, KeyLength: 32}

// HashPassword encodes a password with argon2id, with its cost and a salt of its own.
func HashPassword(password string) string {
	encoded, err := argon2id.CreateHash(password, &cost)
	if err != nil {
		panic(err) // the system has no random numbers: nothing can be secret
	}
	return encoded
}

// checking bounds how many passwords are checked at once, and so how much memory
// strangers can make the server take.
var checking = make(chan struct{}, max(2, runtime.NumCPU()))

// passwordFits says whether a password is the one that was encoded, and whether
// that was done at another cost than today's.
func passwordFits(password, encoded string) (fits, dated bool, err error) {
	checking <- struct{}{}
	defer func() { <-checking }()
	fits, paid, err := argon2id.CheckHash(password, encoded)
	if err != nil {
		return false, false, fmt.Errorf("the kept password cannot be read: %w", err)
	}
	return fits, *paid != cost, nil
}
