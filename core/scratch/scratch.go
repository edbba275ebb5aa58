// Package scratch lets computations that run again and again use their memory again.
package scratch

// Resized returns a slice of length n that reuses the memory of s; elements that s held keep their contents.
func Resized[T any](s []T, n int) []T {
	if n <= cap(s) {
		return s[:n]
	}
	return append(s[:cap(s)], make([]T, n-cap(s))...)
}
