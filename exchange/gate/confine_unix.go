//go:build unix

package gate

import (
	"syscall"
	"time"
)

// confine bounds the memory and the processor time of this process.
func confine(memory uint64, processor time.Duration) error {
	if err := syscall.Setrlimit(syscall.RLIMIT_DATA, &syscall.Rlimit{Cur: memory, Max: memory}); err != nil {
		return err
	}
	seconds := uint64(processor/time.Second) + 1
	return syscall.Setrlimit(syscall.RLIMIT_CPU, &syscall.Rlimit{Cur: seconds, Max: seconds})
}
