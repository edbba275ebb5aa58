package site

import (
	"context"
	"net"
	"syscall"
	"time"

	"github.com/gofiber/fiber/v3"

	"plaintracer/background"
)

// goneInterval is how often a connection is looked at while its answer is computed.
const goneInterval = 200 * time.Millisecond

// WhileThere returns a context that ends when the client of a request has gone, or when stop
// is called: the HTTP library itself does not look while an answer is computed.
func WhileThere(c fiber.Ctx) (ctx context.Context, stop func()) {
	ctx, stop = context.WithCancel(context.Background())
	conn, ok := c.RequestCtx().Conn().(syscall.Conn)
	if !ok {
		return ctx, stop
	}
	raw, err := conn.SyscallConn()
	if err != nil {
		return ctx, stop
	}
	go func() { // it ends with the request
		defer background.Caught("watching whether a client is there")
		tick := time.NewTicker(goneInterval)
		defer tick.Stop()
		for {
			select {
			case <-tick.C:
				if gone(raw) {
					stop()
					return
				}
			case <-ctx.Done():
				return
			}
		}
	}()
	return ctx, stop
}

var _ syscall.Conn = (*net.TCPConn)(nil)
