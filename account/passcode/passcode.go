// Package passcode hashes words that people choose to keep others out, with Argon2id (RFC 9106).
package passcode

import (
	"crypto/rand"
	"crypto/subtle"
	"encoding/base64"
	"fmt"
	"strings"

	"golang.org/x/crypto/argon2"
)

// The second recommended option of RFC 9106, section 4: 64 MiB, three passes, four lanes.
const (
	memory = 64 << 10 // KiB
	passes = 3
	lanes  = 4
	length = 32
)

// atOnce bounds how many are computed at a time, since each takes the memory.
var atOnce = make(chan struct{}, 2)

// Hash returns the hash of a word, with its parameters and a salt of its own, in the usual form
// ($argon2id$v=19$m=...,t=...,p=...$salt$hash).
func Hash(word string) string {
	salt := make([]byte, 16)
	rand.Read(salt)
	return fmt.Sprintf("$argon2id$v=%d$m=%d,t=%d,p=%d$%s$%s", argon2.Version, memory, passes, lanes, plain(salt),
		plain(key(word, salt, passes, memory, lanes, length)))
}

func plain(b []byte) string { return base64.RawStdEncoding.EncodeToString(b) }

func key(word string, salt []byte, t, m uint32, p uint8, n uint32) []byte {
	atOnce <- struct{}{}
	defer func() { <-atOnce }()
	return argon2.IDKey([]byte(word), salt, t, m, p, n)
}

// Matches reports whether a word has a hash. For one that is none it takes as long, and says no.
func Matches(word, hash string) bool {
	parts := strings.Split(hash, "$")
	var version int
	var m, t uint32
	var p uint8
	if len(parts) == 6 && parts[1] == "argon2id" {
		if _, err := fmt.Sscanf(parts[2]+" "+parts[3], "v=%d m=%d,t=%d,p=%d", &version, &m, &t,
			&p); err == nil && version == argon2.Version && m <= 1<<20 && t > 0 && t < 100 && p > 0 {
			salt, err := base64.RawStdEncoding.DecodeString(parts[4])
			want, fault := base64.RawStdEncoding.DecodeString(parts[5])
			if err == nil && fault == nil && len(want) >= 16 && len(want) <= 64 {
				return subtle.ConstantTimeCompare(key(word, salt, t, m, p, uint32(len(want))), want) == 1
			}
		}
	}
	key(word, make([]byte, 16), passes, memory, lanes, length)
	return false
}
