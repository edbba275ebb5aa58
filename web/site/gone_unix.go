//go:build unix

package site

import (
	"syscall"
)

// gone reports whether the other side has closed a connection: there is nothing to read, and
// never will be. It reads nothing that is there.
func gone(conn syscall.RawConn) (gone bool) {
	var one [1]byte
	err := conn.Control(func(fd uintptr) {
		n, _, err := syscall.Recvfrom(int(fd), one[:], syscall.MSG_PEEK|syscall.MSG_DONTWAIT)
		gone = n == 0 && err == nil || err == syscall.ECONNRESET
	})
	return gone || err != nil
}
