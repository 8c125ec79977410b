package server

import (
	"context"
	"encoding/json"
	"errors"
	"net/http"
	"net/url"
	"os"
	"reflect"
	"runtime"
	"strconv"
	"strings"
	"time"

	"github.com/labstack/echo/v5"

	"boundcrate/app/api"
	"boundcrate/app/jobs"
)

// act is how an act of the application is asked for: its name, what of many it is about (nil:
// there is one), what it takes, what it tells, and the status of an answer that is well. in and
// out are nil where there is nothing.
type act struct {
	name        string
	id, in, out reflect.Type
	status      int
	call        echo.HandlerFunc
}

// ID is what stands in an address for one of many.
type ID interface{ int64 | string }

// tell answers what needs nothing.
func tell[Out any](f func(context.Context) (Out, error)) act {
	return answers(f, nil, nil, func(c *echo.Context) (Out, error) { return f(c.Request().Context()) })
}

// tellOf answers about one of many.
func tellOf[K ID, Out any](f func(context.Context, K) (Out, error)) act {
	return answers(f, reflect.TypeFor[K](), nil, func(c *echo.Context) (out Out, err error) {
		k, err := idOf[K](c)
		if err != nil {
			return out, err
		}
		return f(c.Request().Context(), k)
	})
}

// with answers what is asked with a body, or with a query.
func with[In, Out any](f func(context.Context, In) (Out, error)) act {
	return answers(f, nil, reflect.TypeFor[In](), func(c *echo.Context) (out Out, err error) {
		in, err := asked[In](c)
		if err != nil {
			return out, err
		}
		return f(c.Request().Context(), in)
	})
}

// withOf is with, about one of many.
func withOf[K ID, In, Out any](f func(context.Context, K, In) (Out, error)) act {
	return answers(f, reflect.TypeFor[K](), reflect.TypeFor[In](), func(c *echo.Context) (out Out, err error) {
		k, err := idOf[K](c)
		if err != nil {
			return out, err
		}
		in, err := asked[In](c)
		if err != nil {
			return out, err
		}
		return f(c.Request().Context(), k, in)
	})
}

// do is with, where there is nothing to tell.
func do[In any](f func(context.Context, In) error) act {
	return called(f, with(func(ctx context.Context, in In) (api.Nothing, error) { return api.Nothing{}, f(ctx, in) }))
}

// doOf is tellOf, where there is nothing to tell.
func doOf[K ID](f func(context.Context, K) error) act {
	return called(f, tellOf(func(ctx context.Context, k K) (api.Nothing, error) { return api.Nothing{}, f(ctx, k) }))
}

// doWithOf is withOf, where there is nothing to tell.
func doWithOf[K ID, In any](f func(context.Context, K, In) error) act {
	return called(f, withOf(func(ctx context.Context, k K, in In) (api.Nothing, error) { return api.Nothing{}, f(ctx, k, in) }))
}

// made says that what is told was made by asking.
func made(a act) act {
	a.status = http.StatusCreated
	return a
}

// called gives an act the name of the method it calls.
func called(method any, a act) act {
	full := runtime.FuncForPC(reflect.ValueOf(method).Pointer()).Name()
	a.name = strings.TrimSuffix(full[strings.LastIndexByte(full, '.')+1:], "-fm")
	return a
}

// answers joins an act with the status of its answer: work that goes on is accepted, and of
// what there is nothing to tell the answer is empty.
func answers[Out any](method any, id, in reflect.Type, f func(*echo.Context) (Out, error)) act {
	a := called(method, act{id: id, in: in, out: reflect.TypeFor[Out](), status: http.StatusOK})
	if a.out.Kind() == reflect.Pointer {
		a.out = a.out.Elem()
	}
	switch a.out {
	case reflect.TypeFor[api.Started]():
		a.status = http.StatusAccepted
	case reflect.TypeFor[api.Nothing]():
		a.out, a.status = nil, http.StatusNoContent
	}
	a.call = func(c *echo.Context) error {
		out, err := f(c)
		if err != nil {
			return err
		}
		status, _ := c.Get(statusKey).(int)
		if status == http.StatusNoContent {
			return c.NoContent(status)
		}
		return c.JSON(status, out)
	}
	return a
}

// statusKey is where a route keeps the status of its answer.
const statusKey = "status"

// add gives routes their addresses.
func add(g *echo.Group, list []route) {
	for _, r := range list {
		g.Add(r.method, r.path, func(c *echo.Context) error {
			c.Set(statusKey, r.status)
			return r.call(c)
		})
	}
}

// strict reads JSON, and refuses a body that says what nobody asks by.
type strict struct{ echo.DefaultJSONSerializer }

// Deserialize implements echo.JSONSerializer.
func (strict) Deserialize(c *echo.Context, into any) error {
	d := json.NewDecoder(c.Request().Body)
	d.DisallowUnknownFields()
	if err := d.Decode(into); err != nil {
		return err
	}
	if d.More() {
		return errors.New("unexpected data after the request")
	}
	return nil
}

// byPage hands on which page asks, and that somebody waits for the answer.
func (s *Server) byPage(next echo.HandlerFunc) echo.HandlerFunc {
	return func(c *echo.Context) error {
		if c.Path() != "/api/events" {
			defer s.app.Waits()()
		}
		if page := c.Request().Header.Get("X-Page"); page != "" {
			c.SetRequest(c.Request().WithContext(jobs.ByPage(c.Request().Context(), page)))
		}
		return next(c)
	}
}

// idOf is which of many is asked about. Of what is no number where numbers stand there is none.
func idOf[K ID](c *echo.Context) (k K, err error) {
	text := c.Param("id")
	switch k := any(&k).(type) {
	case *int64:
		if *k, err = strconv.ParseInt(text, 10, 64); err != nil {
			err = errNone
		}
	case *string:
		if *k, err = url.PathUnescape(text); err != nil {
			err = errNone
		}
	}
	return k, err
}

// errNone: nothing has that id.
var errNone = refuse(http.StatusNotFound, "Not found", "It no longer exists in Bound Crate.")

// asked is what a request asks with: the body of one that changes something, the query of any
// other.
func asked[In any](c *echo.Context) (in In, err error) {
	if m := c.Request().Method; m == get || m == drop {
		if err := echo.BindPathValues(c, &in); err != nil {
			return in, errNone
		}
		for name := range c.QueryParams() {
			if !hasQuery(reflect.TypeFor[In](), name) {
				return in, refuse(http.StatusBadRequest, "The request could not be read", "Unknown parameter “"+name+"”.")
			}
		}
		if err := echo.BindQueryParams(c, &in); err != nil {
			return in, unread(err)
		}
		return in, nil
	}
	if c.Request().ContentLength == 0 {
		return in, nil
	}
	// A body that trickles in holds nothing up; a test's recorder has no deadline.
	line := http.NewResponseController(c.Response())
	_ = line.SetReadDeadline(time.Now().Add(bodyArrives))
	err = echo.BindBody(c, &in) // by strict
	_ = line.SetReadDeadline(time.Time{})
	if err != nil {
		return in, unread(err)
	}
	return in, nil
}

func hasQuery(t reflect.Type, name string) bool {
	for i := range t.NumField() {
		if t.Field(i).Tag.Get("query") == name {
			return true
		}
	}
	return false
}

// bodyArrives is how long a request may take to arrive.
var bodyArrives = 15 * time.Second

// maxBody bounds a request, in bytes.
const maxBody = 1 << 20

// unread tells why a request could not be taken.
func unread(err error) error {
	var coder echo.HTTPStatusCoder
	switch {
	case errors.Is(err, os.ErrDeadlineExceeded):
		return refuse(http.StatusRequestTimeout, "Too slow", "The request did not arrive in time.")
	case errors.As(err, &coder) && coder.StatusCode() == http.StatusRequestEntityTooLarge:
		return refuse(http.StatusRequestEntityTooLarge, "Too large", "A request can have at most 1 MB.")
	}
	return refuse(http.StatusBadRequest, "The request could not be read", err.Error())
}
