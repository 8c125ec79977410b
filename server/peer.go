package server

import (
	"context"
	"crypto/subtle"
	"net"
	"net/http"
	"net/netip"
	"os"
	"strings"
	"sync"

	"github.com/labstack/echo/v5"
)

// peer is who is at the other end of a connection, found out once.
type peer struct {
	once    sync.Once
	verdict verdict
}

type verdict int

const (
	unknown verdict = iota // the system does not tell
	ours                   // the account that serves, or root
	another
)

// KnowsAccounts tries whether the kernel here says whose a connection is.
func KnowsAccounts() bool {
	l, err := net.Listen("tcp", "127.0.0.1:0")
	if err != nil {
		return false
	}
	defer l.Close()
	c, err := net.Dial("tcp", l.Addr().String())
	if err != nil {
		return false
	}
	defer c.Close()
	from, err1 := netip.ParseAddrPort(c.LocalAddr().String())
	to, err2 := netip.ParseAddrPort(c.RemoteAddr().String())
	uid, ok := accountOf(from, to)
	return err1 == nil && err2 == nil && ok && uid == os.Getuid()
}

type peerKey struct{}

// withPeer keeps a place for the verdict with each connection.
func withPeer(ctx context.Context, _ net.Conn) context.Context {
	return context.WithValue(ctx, peerKey{}, new(peer))
}

// whose tells who asks. The kernel knows whose a connection within this machine
// is; it is asked once a connection.
func whose(r *http.Request) verdict {
	p, ok := r.Context().Value(peerKey{}).(*peer)
	if !ok {
		p = new(peer)
	}
	p.once.Do(func() {
		to, _ := r.Context().Value(http.LocalAddrContextKey).(net.Addr)
		if to == nil {
			return
		}
		from, err1 := netip.ParseAddrPort(r.RemoteAddr)
		own, err2 := netip.ParseAddrPort(to.String())
		if err1 != nil || err2 != nil {
			return
		}
		if uid, ok := accountOf(from, own); ok {
			p.verdict = another
			if uid == os.Getuid() || uid == 0 {
				p.verdict = ours
			}
		}
	})
	return p.verdict
}

// tokenName is the parameter of the printed address, and the cookie it becomes.
const tokenName = "token"

// admit lets in the account that started the application, and root. Nobody else
// on the machine may add a folder here and read it through us. Where the system
// does not tell who asks, the start token does: it stands in the printed address
// and then in a cookie.
func (s *Server) admit(next echo.HandlerFunc) echo.HandlerFunc {
	return func(c *echo.Context) error {
		r := c.Request()
		if r.URL.Path == healthPath { // which tells nothing but that it runs
			return next(c)
		}
		switch s.whose(r) {
		case ours:
			return next(c)
		case another:
			return s.refuse(c, "Bound Crate was started by another account of this machine and refuses all others.")
		}
		if s.holds(r.URL.Query().Get(tokenName)) && r.Method == http.MethodGet && !strings.HasPrefix(r.URL.Path, "/api/") {
			c.SetCookie(&http.Cookie{Name: tokenName, Value: s.token, Path: "/", HttpOnly: true, SameSite: http.SameSiteStrictMode})
			return c.Redirect(http.StatusSeeOther, r.URL.Path) // so that no history keeps it
		}
		if k, err := r.Cookie(tokenName); err == nil && s.holds(k.Value) {
			return next(c)
		}
		return s.refuse(c, "Open the full address that Bound Crate printed in its terminal, including “token=…”.")
	}
}

func (s *Server) holds(token string) bool {
	return s.token != "" && subtle.ConstantTimeCompare([]byte(token), []byte(s.token)) == 1
}

// refuse says why, to a person in a page and to a program as a problem.
func (s *Server) refuse(c *echo.Context, why string) error {
	if strings.HasPrefix(c.Request().URL.Path, "/api/") {
		return refuse(http.StatusForbidden, "Refused", why)
	}
	return c.HTML(http.StatusForbidden, "<!doctype html><html lang=\"en\"><meta charset=\"utf-8\"><title>Bound Crate</title><h1>No access</h1><p>"+why+"</p></html>")
}
