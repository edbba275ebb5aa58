package account

import (
	_ "embed"
	"strings"
	"sync"
)

// commonList are the 10,000 commonest passwords, one a line, in small letters: the first of those that the npm package
// @zxcvbn-ts/language-common 4.1.3 (MIT licence) counts in known breaches.
//
//go:embed common.txt
var commonList string

var common = sync.OnceValue(func() map[string]bool {
	out := map[string]bool{}
	for _, word := range strings.Fields(commonList) {
		out[word] = true
	}
	return out
})

// isCommon reports whether a folded password is one of the commonest, twice one of them, or one with fewer than four
// other characters before or behind it.
func isCommon(low string) bool {
	list := common()
	r := []rune(low)
	if list[low] || len(r)%2 == 0 && list[string(r[:len(r)/2])] && string(r[:len(r)/2]) == string(r[len(r)/2:]) {
		return true
	}
	const shortest, others = 8, 4
	for from := 0; from < others && from < len(r); from++ {
		for to := len(r); len(r)-to+from < others && to-from >= shortest; to-- {
			if list[string(r[from:to])] {
				return true
			}
		}
	}
	return false
}
