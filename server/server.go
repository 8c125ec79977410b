// Package server answers the interface's requests. It is thin: everything it
// says comes from the core and the store.
//
// It listens on loopback, refuses requests of a foreign Host or Origin, and
// reaches files only inside the configured drives, through os.Root.
package server

import (
	"cmp"
	"context"
	"errors"
	"io/fs"
	"log/slog"
	"net"
	"net/http"
	"net/url"
	"os"
	"path/filepath"
	"strings"
	"sync"
	"time"

	"github.com/labstack/echo/v5"
	"github.com/labstack/echo/v5/middleware"

	"boundcrate/core/disk/drive"
	"boundcrate/core/disk/fileset"
	"boundcrate/core/pack/carrier"
	"boundcrate/core/say/words"
	"boundcrate/core/text/format"
	"boundcrate/store"
)

// Options is how to serve.
type Options struct {
	Store *store.Store
	Files fs.FS // the built interface
	Demo  bool
	Log   *slog.Logger
	// Editions is the folder that earlier states of documents are kept in; "" a place in the
	// store's folder.
	Editions string
	// Carriers are what crates are weighed against; nil: the usual ones.
	Carriers []carrier.Limit
	// Token lets in whom the system cannot tell; "" lets in nobody of those.
	Token string
	// Whose tells who asks; nil asks the kernel. Tests stand in for systems that
	// do not tell.
	Whose func(*http.Request) (own, known bool)
	// Ask asks a drive's folder whether it is there; nil asks the system.
	Ask func(dir string) (connected bool)
}

// App is the application behind the routes.
type App struct {
	store  *store.Store
	set    format.Set // see formats; nil: to be read anew
	demo   bool
	log    *slog.Logger
	hub    *hub
	jobs   *jobs
	ctx    context.Context
	probes *probes
	live   *live
	token  string
	whose  func(*http.Request) verdict

	editionsDir string
	carriers    []carrier.Limit

	mu    sync.Mutex
	works map[int64]*work
}

// New makes the application and its handler. Work it starts ends with ctx.
func New(ctx context.Context, o Options) (*App, http.Handler, error) {
	if o.Log == nil {
		o.Log = slog.New(slog.DiscardHandler)
	}
	if err := o.Store.Interrupted(time.Now()); err != nil {
		return nil, nil, err
	}
	if _, err := fileset.Recover(o.Store.Journals()); err != nil {
		o.Log.Error("an interrupted writing could not be finished", "error", words.Error(err))
	}
	a := &App{store: o.Store, demo: o.Demo, log: o.Log, hub: newHub(), ctx: ctx, works: map[int64]*work{}, token: o.Token, whose: whose, probes: newProbes(nil)}
	a.editionsDir, a.carriers = cmp.Or(o.Editions, filepath.Join(o.Store.Dir(), "editions")), o.Carriers
	if a.carriers == nil {
		a.carriers = carrier.Limits
	}
	if o.Ask != nil {
		a.probes.ask = func(dir string) answer { return answer{connected: o.Ask(dir)} }
	}
	if o.Whose != nil {
		a.whose = func(r *http.Request) verdict {
			switch own, known := o.Whose(r); {
			case !known:
				return unknown
			case own:
				return ours
			}
			return another
		}
	}
	a.live = newLive(a.lookSoon, a.hub.listens)
	a.jobs = newJobs(ctx, o.Store, a.hub, o.Log)
	if err := a.sweepHeld(); err != nil {
		return nil, nil, err
	}
	e := echo.New()
	e.Logger = o.Log
	e.HTTPErrorHandler = a.fail
	e.Use(a.logged, middleware.Recover(), guard, a.admit, middleware.BodyLimit(mostBody), answersPacked())
	a.routes(e.Group("/api"))
	e.GET(healthPath, a.health)
	e.GET("/*", static(o.Files))
	go a.watchDrives(ctx)
	go a.live.run(ctx)
	return a, e, nil
}

// Wait returns when no work is running any more. Call it once the context of
// New has ended, before the store is closed: a seal takes its unfinished crate
// away on the way out.
func (a *App) Wait() { a.jobs.wg.Wait() }

func (a *App) routes(g *echo.Group) {
	g.GET("/state", get(a.state))
	g.GET("/events", a.events)
	g.POST("/jobs/:id/stop", post(a.stopJob))
	g.POST("/drives", post(a.addDrive))
	g.PUT("/drives/:id", post(a.nameDrive))
	g.DELETE("/drives/:id", get(a.dropDrive))
	g.POST("/drives/:id/plug", post(a.plug))
	g.GET("/drives", get(a.driveCards))
	g.PUT("/drives/:id/set", post(a.setDrive))
	g.POST("/drives/:id/index", post(a.indexDrive))
	g.POST("/drives/:id/measure", post(a.measure))
	g.POST("/declared", post(a.declare))
	g.GET("/stock", get(a.stock))
	g.POST("/stock", post(a.takeStock))
	g.GET("/machine", get(a.machine))
	g.GET("/browse", get(a.browse))
	g.GET("/media", a.media)
	g.GET("/peaks", get(a.peaks))
	g.GET("/look", a.lookOf)
	g.GET("/differs", get(a.differs))
	g.POST("/receive", post(a.receive))
	g.GET("/receive/:job", get(a.received))
	g.POST("/clearout", post(a.clearout))
	g.GET("/clearout/:job", get(a.clearedOut))
	g.POST("/clearout/:job/hold", post(a.hold))
	g.GET("/held", get(a.held))
	g.POST("/held/:id/back", post(a.bringBack))
	g.POST("/held/:id/erase", post(a.erase))
	g.POST("/projects", post(a.addProject))
	g.DELETE("/projects/:id", get(a.dropProject))
	g.GET("/templates", get(a.templates))
	g.POST("/templates", post(a.begin))
	g.GET("/habits", get(a.habits))
	g.PUT("/habits", post(a.setHabits))
	g.POST("/habits/try", post(a.tryHabits))
	g.GET("/rules", get(a.rules))
	g.PUT("/rules", post(a.setRules))
	g.DELETE("/rules/:name", get(a.dropRules))
	g.POST("/rules/try", post(a.tryRules))
	g.POST("/rules/learn", post(a.learnRules))
	g.GET("/recipes", get(a.recipes))
	g.PUT("/recipes", post(a.setRecipe))
	g.DELETE("/recipes/:name", get(a.dropRecipe))
	a.projectRoutes(g.Group("/projects/:id"))
}

func (a *App) projectRoutes(p *echo.Group) {
	p.GET("", get(a.summary))
	p.POST("/trace", post(a.retrace))
	p.POST("/look", post(a.refresh))
	p.GET("/tables/:table", get(a.window))
	p.GET("/tables/:table/keys", get(a.rowKeys))
	p.GET("/csv/:table", a.tableCSV)
	p.GET("/slip", get(a.slip))
	p.GET("/mend", get(a.mend))
	p.GET("/wanted", get(a.wanted))
	p.POST("/search", post(a.search))
	p.POST("/repairs", post(a.choose))
	p.POST("/moves", post(a.move))
	p.POST("/aside", post(a.setAside))
	p.POST("/spell", post(a.spell))
	p.POST("/meant", post(a.sayMeant))
	p.GET("/group", get(a.group))
	p.POST("/group", post(a.mendGroup))
	p.DELETE("/repairs/:repair", get(a.undoRepair))
	p.GET("/decisions", get(a.decisions))
	p.POST("/undo", post(a.again(true)))
	p.POST("/redo", post(a.again(false)))
	p.POST("/write", post(a.write))
	p.PUT("/search", post(a.setSearch))
	p.GET("/spread", get(a.spread))
	p.GET("/sibling", get(a.sibling))
	p.POST("/putback", post(a.putBack))
	p.GET("/points", get(a.points))
	p.POST("/points", post(a.setPoints))
	p.GET("/inside", get(a.noFiles))
	p.POST("/inside", post(a.writeOut))
	p.GET("/home", get(a.homePlan))
	p.POST("/home", post(a.bringHome))
	p.PUT("/home", post(a.askHome))
	p.GET("/stow", get(a.stow))
	p.PUT("/stow", post(a.setStow))
	p.POST("/recipe", post(a.useRecipe))
	p.GET("/estimates", get(a.estimates))
	p.PUT("/berths", post(a.wish))
	p.GET("/strays", get(a.strays))
	p.POST("/adopt", post(a.adopt))
	p.POST("/putaway", post(a.putAway))
	p.GET("/destination", get(a.destination))
	p.GET("/sealed", get(a.sealed))
	p.POST("/seal", post(a.seal))
}

// Nothing is the empty object.
type nothing struct{}

func get[Out any](f func(*echo.Context) (Out, error)) echo.HandlerFunc {
	return func(c *echo.Context) error {
		out, err := f(c)
		if err != nil {
			return err
		}
		return c.JSON(http.StatusOK, out)
	}
}

func post[In, Out any](f func(*echo.Context, In) (Out, error)) echo.HandlerFunc {
	return func(c *echo.Context) error {
		var in In
		if c.Request().ContentLength != 0 {
			// A body that trickles in holds nothing up; a test's recorder has no deadline.
			line := http.NewResponseController(c.Response())
			_ = line.SetReadDeadline(time.Now().Add(bodyArrives))
			err := echo.BindBody(c, &in)
			_ = line.SetReadDeadline(time.Time{})
			if err != nil {
				return unread(err)
			}
		}
		out, err := f(c, in)
		if err != nil {
			return err
		}
		return c.JSON(http.StatusOK, out)
	}
}

// bodyArrives is how long a request may take to arrive.
var bodyArrives = 15 * time.Second

// mostBody bounds a request, in bytes.
const mostBody = 1 << 20

// unread tells why a request's body could not be taken.
func unread(err error) error {
	var coder echo.HTTPStatusCoder
	switch {
	case errors.Is(err, os.ErrDeadlineExceeded):
		return say(http.StatusRequestTimeout, "Too slow", "The request did not arrive in time.")
	case errors.As(err, &coder) && coder.StatusCode() == http.StatusRequestEntityTooLarge:
		return say(http.StatusRequestEntityTooLarge, "Too large", "A request holds 1 MB at the most.")
	}
	return say(http.StatusBadRequest, "The request could not be read", err.Error())
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
			return say(http.StatusForbidden, "Refused", "This address does not belong to Bound Crate.")
		}
		if o := r.Header.Get("Origin"); o != "" {
			u, err := url.Parse(o)
			if err != nil || u.Host != r.Host || u.Scheme != "http" {
				return say(http.StatusForbidden, "Refused", "Requests from other pages are not answered.")
			}
		}
		if s := r.Header.Get("Sec-Fetch-Site"); strings.HasPrefix(r.URL.Path, "/api/") && s != "" && s != "same-origin" && s != "none" {
			return say(http.StatusForbidden, "Refused", "Requests from other pages are not answered.")
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

// drives are the configured drives as the core sees them.
func (a *App) drives() ([]drive.Drive, error) { return a.store.CoreDrives() }

func (a *App) reach() (drive.Set, error) {
	ds, err := a.drives()
	return drive.Set{Drives: ds}, err
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
		return err
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
