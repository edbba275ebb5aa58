package account

import (
	"crypto/rand"
	"crypto/subtle"
	"image"
	"net/url"
	"strings"
	"time"

	"github.com/pquerna/otp"
	"github.com/pquerna/otp/totp"
)

// The second factor is a code of the time (RFC 6238): six digits of HMAC-SHA-1, thirty seconds each, which every
// authenticator app knows.
const (
	factorPeriod = 30
	// factorSkew is how many codes before and after the present one are taken, since clocks differ.
	factorSkew = 1
)

// Factor is a secret that a person and the organisation share.
type Factor struct{ key *otp.Key }

// NewFactor makes a secret for a person, for an app to take.
func NewFactor(email string) (Factor, error) {
	key, err := totp.Generate(totp.GenerateOpts{Issuer: "Plain Tracer", AccountName: email, Period: factorPeriod})
	return Factor{key}, err
}

// Secret is the secret in Base32, as people type it into an app.
func (f Factor) Secret() string { return f.key.Secret() }

// Picture is the secret as a code that the camera of a phone reads (ISO/IEC 18004).
func (f Factor) Picture(size int) (image.Image, error) { return f.key.Image(size, size) }

// FactorOf is the factor with a secret in Base32.
func FactorOf(secret, email string) (Factor, error) {
	key, err := otp.NewKeyFromURL("otpauth://totp/Plain%20Tracer:" + url.QueryEscape(email) + "?secret=" +
		url.QueryEscape(secret) + "&issuer=Plain%20Tracer")
	return Factor{key}, err
}

// CodeStep returns the step of time for which a code is that of a secret, about a moment; zero for none. One whose step
// is not after the last that was used has been used (RFC 6238, 5.2).
func CodeStep(secret, code string, at time.Time) (step int64) {
	code = strings.Join(strings.Fields(code), "")
	for skew := int64(-factorSkew); skew <= factorSkew; skew++ {
		moment := at.Add(time.Duration(skew*factorPeriod) * time.Second)
		want := CodeAt(secret, moment)
		if want != "" && subtle.ConstantTimeCompare([]byte(want), []byte(code)) == 1 {
			step = moment.Unix() / factorPeriod
		}
	}
	return step
}

// spares is how many words stand in for the second factor.
const spares = 8

// NewSpares makes words that stand in for the second factor, once each, for who has lost it. Each has 50 bits.
func NewSpares() (list []string) {
	for range spares {
		text := strings.ToLower(rand.Text()[:10])
		list = append(list, text[:5]+"-"+text[5:])
	}
	return list
}

// PlainSpare is the form in which such words are compared.
func PlainSpare(word string) string {
	return strings.Map(func(r rune) rune {
		if r >= 'a' && r <= 'z' || r >= '2' && r <= '7' {
			return r
		}
		return -1
	}, strings.ToLower(word))
}

// CodeAt is the code of a secret at a moment.
func CodeAt(secret string, at time.Time) string {
	code, err := totp.GenerateCodeCustom(secret, at, totp.ValidateOpts{Period: factorPeriod, Digits: otp.DigitsSix,
		Algorithm: otp.AlgorithmSHA1})
	if err != nil {
		return ""
	}
	return code
}
