// Package server answers the interface's requests over HTTP. It is thin: it reads what is
// asked, calls an act of the application, and says what that tells.
//
// It listens on loopback, refuses requests of a foreign Host or Origin, and
// reaches files only inside the configured drives, through os.Root.
package server

import (
	"context"
	"errors"
	"io/fs"
	"log/slog"
	"net"
	"net/http"
	"net/url"
	"strings"
	"time"

	"boundcrate/app"

	"github.com/labstack/echo/v5"
	"github.com/labstack/echo/v5/middleware"
)

// Options is how to serve.
type Options struct {
	App   app.Options
	Files fs.FS // the built interface
	// Token lets in whom the system cannot tell; "" lets in nobody of those.
	Token string
	// Whose tells who asks; nil asks the kernel. Tests stand in for systems that
	// do not tell.
	Whose func(*http.Request) (own, known bool)
}

// Server answers requests.
type Server struct {
	app   *app.App
	log   *slog.Logger
	token string
	whose func(*http.Request) verdict
}

// New makes the application and the handler before it. Work it starts ends with ctx; wait for
// the application before its store is closed.
func New(ctx context.Context, o Options) (*app.App, http.Handler, error) {
	if o.App.Log == nil {
		o.App.Log = slog.New(slog.DiscardHandler)
	}
	a, err := app.New(ctx, o.App)
	if err != nil {
		return nil, nil, err
	}
	s := &Server{app: a, log: o.App.Log, token: o.Token, whose: whose}
	if o.Whose != nil {
		s.whose = func(r *http.Request) verdict {
			switch own, known := o.Whose(r); {
			case !known:
				return unknown
			case own:
				return ours
			}
			return another
		}
	}
	e := echo.New()
	e.Logger = s.log
	e.JSONSerializer = strict{}
	e.HTTPErrorHandler = s.fail
	e.Use(s.logged, middleware.Recover(), guard, s.admit, middleware.BodyLimitWithConfig(middleware.BodyLimitConfig{Skipper: func(c *echo.Context) bool { return c.Request().URL.Path == uploadPath }, LimitBytes: maxBody}), answersPacked())
	g := e.Group("/api", s.byPage)
	add(g, routes(a))
	for _, x := range streams(s) {
		g.GET(x.path, x.call)
	}
	g.POST(strings.TrimPrefix(uploadPath, "/api"), s.upload)
	e.GET(healthPath, s.health)
	e.GET(problemsPath, problems)
	e.GET("/*", static(o.Files))
	return a, e, nil
}

// nonceMark stands in the page where its nonce goes: the dialogs of the
// interface make one style of their own.
const nonceMark = "__NONCE__"

// policy lets nothing in from outside.
const policy = "default-src 'none'; script-src 'self'; style-src 'self'; font-src 'self'; img-src 'self'; media-src 'self'; connect-src 'self'; base-uri 'none'; form-action 'none'; frame-ancestors 'none'"

// guard refuses what does not come from this application on this machine: a
// page elsewhere must not reach it, also not through a name that resolves to
// loopback.
func guard(next echo.HandlerFunc) echo.HandlerFunc {
	return func(c *echo.Context) error {
		h := c.Response().Header()
		h.Set("Content-Security-Policy", policy)
		h.Set("X-Content-Type-Options", "nosniff")
		h.Set("Referrer-Policy", "no-referrer")
		h.Set("Cross-Origin-Resource-Policy", "same-origin")
		r := c.Request()
		if !loopback(r.Host) {
			return refuse(http.StatusForbidden, "Refused", "This address does not belong to Bound Crate.")
		}
		if o := r.Header.Get("Origin"); o != "" {
			u, err := url.Parse(o)
			if err != nil || u.Host != r.Host || u.Scheme != "http" {
				return refuse(http.StatusForbidden, "Refused", "Requests from other pages are refused.")
			}
		}
		if s := r.Header.Get("Sec-Fetch-Site"); strings.HasPrefix(r.URL.Path, "/api/") && s != "" && s != "same-origin" && s != "none" {
			return refuse(http.StatusForbidden, "Refused", "Requests from other pages are refused.")
		}
		return next(c)
	}
}

func loopback(host string) bool {
	name, _, err := net.SplitHostPort(host)
	if err != nil {
		name = strings.Trim(host, "[]")
	}
	if name == "localhost" {
		return true
	}
	ip := net.ParseIP(name)
	return ip != nil && ip.IsLoopback()
}

// Listen serves until ctx ends. started is told the address.
func Listen(ctx context.Context, addr string, h http.Handler, started func(net.Addr)) error {
	host, _, err := net.SplitHostPort(addr)
	if err != nil {
		return err
	}
	if !loopback(addr) || host == "" {
		return errors.New("it listens on loopback only; give --addr 127.0.0.1:PORT")
	}
	l, err := net.Listen("tcp", addr)
	if err != nil {
		return busy(addr, err)
	}
	s := &http.Server{Handler: h, ReadHeaderTimeout: 10 * time.Second, BaseContext: func(net.Listener) context.Context { return ctx }, ConnContext: withPeer}
	over := make(chan struct{})
	go func() {
		defer close(over)
		<-ctx.Done()
		end, cancel := context.WithTimeout(context.Background(), handlersEnd)
		defer cancel()
		_ = s.Shutdown(end) // those that do not end in time are cut off
		_ = s.Close()
	}()
	started(l.Addr())
	if err := s.Serve(l); !errors.Is(err, http.ErrServerClosed) {
		return err
	}
	<-over // Serve returns at once; whoever still answers leans on the store
	return nil
}

// handlersEnd is how long requests have to end when the server stops.
const handlersEnd = 3 * time.Second
