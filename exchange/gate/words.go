package gate

import "errors"

// Words says in words why something from outside was not read; false where that lies elsewhere.
func Words(what string, err error) (words string, ok bool) {
	var refusal *Refusal
	switch {
	case errors.As(err, &refusal):
		return refusal.Text, true
	case errors.Is(err, ErrTooMuch) || errors.Is(err, ErrBusy):
		return what + err.Error(), true
	}
	return "", false
}
