// Package depot is a simulated transfer service: resumable uploads by tus 1.0.0 into a folder, with a
// limit, slow, breaking off, losing answers, as asked. It ships so that sending can be tried without
// any service.
package depot

import (
	"context"
	"errors"
	"io"
	"net/http"
	"sync"
	"time"

	"github.com/tus/tusd/v2/pkg/filestore"
	"github.com/tus/tusd/v2/pkg/handler"
	"github.com/tus/tusd/v2/pkg/memorylocker"
	"golang.org/x/time/rate"
)

// Options is how the service behaves.
type Options struct {
	Dir       string // what arrives lies here, as tusd's file store keeps it
	Limit     int64  // bytes of one upload; 0: none
	Rate      int64  // bytes a second; 0: as fast as it goes
	FailEvery int64  // a connection breaks off after so many bytes, every third time without an answer; 0: never
}

// Base is the path uploads are created at.
const Base = "/files/"

// New makes the service.
func New(o Options) (http.Handler, error) {
	composer := handler.NewStoreComposer()
	filestore.New(o.Dir).UseIn(composer)
	memorylocker.New().UseIn(composer)
	h, err := handler.NewHandler(handler.Config{BasePath: Base, StoreComposer: composer, MaxSize: o.Limit, DisableDownload: true, DisableTermination: true, NetworkTimeout: 10 * time.Second, Logger: quiet()})
	if err != nil {
		return nil, err
	}
	d := &depot{Options: o}
	if o.Rate > 0 {
		d.pace = rate.NewLimiter(rate.Limit(o.Rate), int(max(64<<10, o.Rate/8)))
	}
	mux := http.NewServeMux()
	mux.Handle(Base, http.StripPrefix(Base, d.wrap(h)))
	mux.Handle("/files", http.StripPrefix("/files", d.wrap(h)))
	return mux, nil
}

type depot struct {
	Options
	pace *rate.Limiter

	mu     sync.Mutex
	since  int64 // bytes since the last failure
	failed int
}

var errBrokenOff = errors.New("the simulated service broke off")

// wrap makes a service as bad as it is asked to be.
func (d *depot) wrap(next http.Handler) http.Handler {
	return http.HandlerFunc(func(w http.ResponseWriter, r *http.Request) {
		if r.Method != http.MethodPatch {
			next.ServeHTTP(w, r)
			return
		}
		b := &body{depot: d, r: r.Body, ctx: r.Context()}
		r.Body = b
		next.ServeHTTP(w, r)
		if b.broken {
			panic(http.ErrAbortHandler) // the connection ends, whatever was answered
		}
	})
}

type body struct {
	*depot
	ctx    context.Context
	r      io.ReadCloser
	broken bool
}

// Read implements io.Reader.
func (b *body) Read(p []byte) (int, error) {
	if len(p) > 64<<10 {
		p = p[:64<<10]
	}
	n, err := b.r.Read(p)
	if b.pace != nil && n > 0 {
		if werr := b.pace.WaitN(b.ctx, n); werr != nil {
			return n, werr
		}
	}
	if b.FailEvery <= 0 {
		return n, err
	}
	b.mu.Lock()
	defer b.mu.Unlock()
	if b.since += int64(n); b.since < b.FailEvery {
		return n, err
	}
	b.since = 0
	b.failed++
	b.broken = true
	if b.failed%3 == 0 { // all of it arrives, and nobody is told
		return n, err
	}
	return n, errBrokenOff
}

// Close implements io.Closer.
func (b *body) Close() error { return b.r.Close() }
