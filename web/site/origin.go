package site

import (
	"net/netip"
	"strings"

	"github.com/gofiber/fiber/v3"
)

// Origin says where a request comes from: the address of the network, whether all of the way is encrypted, and the host
// by which it was asked for. It is the one place that knows what proxies say; the framework's own account of these (IP,
// Secure, Host) is not asked.
type Origin struct {
	Ip    netip.Addr
	https bool
	host  string
}

type originKey struct{}

// From returns where a request comes from. It is found out once for each.
func (s *Site) From(c fiber.Ctx) Origin {
	if o, ok := c.Locals(originKey{}).(Origin); ok {
		return o
	}
	ctx := c.RequestCtx()
	peer, _ := netip.AddrFromSlice(ctx.RemoteIP())
	peer = peer.Unmap()
	o := Origin{peer, ctx.IsTLS(), string(ctx.Request.Host())}
	if s.isProxy(peer) {
		o.Ip = s.LastStranger(peer, c.GetReqHeaders()[fiber.HeaderXForwardedFor])
		if proto, _, _ := strings.Cut(c.Get(fiber.HeaderXForwardedProto),
			","); strings.EqualFold(strings.TrimSpace(proto), "https") {
			o.https = true
		}
		if host, _, _ := strings.Cut(c.Get(fiber.HeaderXForwardedHost), ","); strings.TrimSpace(host) != "" {
			o.host = strings.TrimSpace(host)
		}
	}
	c.Locals(originKey{}, o)
	return o
}

// isProxy reports whether an address is that of a proxy that the settings name.
func (s *Site) isProxy(ip netip.Addr) bool {
	for _, p := range s.Proxies {
		if p.Contains(ip) {
			return true
		}
	}
	return false
}

// LastStranger is the last address in X-Forwarded-For that is none of our proxies: what stands before it was written by
// whoever asks, and is not believed. Where something else than an address stands, it is that of the proxy behind it.
func (s *Site) LastStranger(peer netip.Addr, said []string) netip.Addr {
	list := strings.Split(strings.Join(said, ","), ",")
	last := peer
	for i := len(list) - 1; i >= 0; i-- {
		ip, ok := addressIn(list[i])
		if !ok {
			break
		}
		if last = ip; !s.isProxy(ip) {
			break
		}
	}
	return last
}

// addressIn reads an address as proxies write it: alone, or with a port.
func addressIn(text string) (netip.Addr, bool) {
	text = strings.TrimSpace(text)
	if with, err := netip.ParseAddrPort(text); err == nil {
		return with.Addr().Unmap().WithZone(""), true
	}
	ip, err := netip.ParseAddr(strings.Trim(text, "[]"))
	return ip.Unmap().WithZone(""), err == nil
}

// Network is what tries are counted by: an address, or the 64 bits of an IPv6 address that one subscriber has whole
// (RFC 6177 and common practice).
func (o Origin) Network() string {
	if o.Ip.Is6() {
		if p, err := o.Ip.Prefix(64); err == nil {
			return p.String()
		}
	}
	return o.Ip.String()
}

// ReadProxies reads the addresses of proxies, such as "127.0.0.1, 10.1.0.0/16".
func ReadProxies(list []string) (out []netip.Prefix, err error) {
	for _, text := range list {
		text = strings.TrimSpace(text)
		p, err := netip.ParsePrefix(text)
		if err != nil {
			ip, fault := netip.ParseAddr(text)
			if fault != nil {
				return nil, err
			}
			p = netip.PrefixFrom(ip, ip.BitLen())
		}
		out = append(out, p)
	}
	return out, nil
}

// thisMachine reports whether a host, with a port or none, is a name of this machine.
func thisMachine(host string) bool {
	if u, err := netip.ParseAddrPort(host); err == nil {
		return u.Addr().IsLoopback()
	}
	if name, port, ok := strings.Cut(host, ":"); ok && !strings.Contains(port, ":") {
		host = name
	}
	ip, err := netip.ParseAddr(strings.Trim(host, "[]"))
	return strings.EqualFold(host, "localhost") || err == nil && ip.IsLoopback()
}

// onThisMachine keeps out whoever asks by another name than one of this machine: a name that another site has pointed
// here (DNS rebinding), or that of a proxy which the settings do not name.
func onThisMachine(c fiber.Ctx) error {
	if !thisMachine(string(c.RequestCtx().Request.Host())) {
		return fiber.NewError(fiber.StatusForbidden,
			"This program answers on this machine only. Where others reach it by a proxy, it has to be started with --proxy.")
	}
	return c.Next()
}
