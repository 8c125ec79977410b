package send

import (
	"context"
	"encoding/base64"
	"encoding/json"
	"errors"
	"fmt"
	"io"
	"net/http"
	"net/url"
	"os"
	"path"
	"path/filepath"
	"strconv"
	"sync/atomic"
	"time"

	"boundcrate/core/disk/fileset"
)

// tus is a service that takes resumable uploads (tus 1.0.0, with creation).
type tus struct {
	Options
	at     *url.URL
	client *http.Client
}

// version is the protocol's that is spoken.
const version = "1.0.0"

// AddressError is an address that is not called.
type AddressError struct{ Address, Why string }

func (e *AddressError) Error() string { return "‘" + e.Address + "’ is not called: " + e.Why }

// AnswerError is an answer that the protocol does not allow, or that refuses.
type AnswerError struct {
	Address string
	Status  int    // 0: none
	Why     string // what is wrong with it
}

func (e *AnswerError) Error() string {
	return fmt.Sprintf("‘%s’ answered with %d: %s", e.Address, e.Status, e.Why)
}

func newTus(o Options) (*tus, error) {
	at, err := url.Parse(o.To)
	if err != nil || at.Host == "" || at.Scheme != "http" && at.Scheme != "https" {
		return nil, &AddressError{o.To, "only http and https addresses are"}
	}
	if at.User != nil {
		return nil, &AddressError{at.Redacted(), "it holds a password; give a token instead"}
	}
	t := &tus{Options: o, at: at}
	t.client = &http.Client{
		Transport:     &http.Transport{ResponseHeaderTimeout: o.Patience.Answer, ExpectContinueTimeout: time.Second, TLSHandshakeTimeout: o.Patience.Answer, DisableCompression: true},
		CheckRedirect: func(r *http.Request, via []*http.Request) error { return t.ours(r.URL, len(via)) },
	}
	return t, nil
}

// ours refuses addresses of other hosts: a token, and a crate, go to nobody else.
func (t *tus) ours(u *url.URL, hops int) error {
	if u.Host != t.at.Host || u.Scheme != t.at.Scheme {
		return &AddressError{u.Redacted(), "it is not at " + t.at.Host}
	}
	if hops > 5 {
		return &AddressError{u.Redacted(), "it leads on and on"}
	}
	return nil
}

// ask sends one request; the answer's body is bounded and read.
func (t *tus) ask(ctx context.Context, method, to string, body io.Reader, headers map[string]string) (*http.Response, error) {
	r, err := http.NewRequestWithContext(ctx, method, to, body)
	if err != nil {
		return nil, err
	}
	r.Header.Set("Tus-Resumable", version)
	if t.Token != "" {
		r.Header.Set("Authorization", "Bearer "+t.Token)
	}
	for k, v := range headers {
		r.Header.Set(k, v)
	}
	if n := headers["Content-Length"]; n != "" {
		r.ContentLength, _ = strconv.ParseInt(n, 10, 64)
	}
	res, err := t.client.Do(r)
	if err != nil {
		var bad *AddressError
		if errors.As(err, &bad) {
			return nil, bad
		}
		return nil, err
	}
	defer res.Body.Close()
	_, _ = io.Copy(io.Discard, io.LimitReader(res.Body, 64<<10))
	switch res.StatusCode {
	case http.StatusUnauthorized, http.StatusForbidden:
		return nil, &AnswerError{to, res.StatusCode, "it does not let this sender in"}
	case http.StatusRequestEntityTooLarge:
		return nil, &AnswerError{to, res.StatusCode, "the file is too large for it"}
	}
	return res, nil
}

// final tells answers after which there is no use in trying again.
func final(err error) bool {
	var bad *AddressError
	var no *AnswerError
	return errors.As(err, &bad) || errors.As(err, &no) && no.Status < 500 && no.Status != 0 && no.Status != http.StatusConflict && no.Status != http.StatusLocked && no.Status != http.StatusTooManyRequests
}

// Limit implements Carrier (Tus-Max-Size).
func (t *tus) Limit(ctx context.Context) (int64, error) {
	ctx, cancel := context.WithTimeout(ctx, t.Patience.Answer)
	defer cancel()
	res, err := t.ask(ctx, http.MethodOptions, t.To, nil, nil)
	if err != nil {
		return 0, err
	}
	n, err := strconv.ParseInt(res.Header.Get("Tus-Max-Size"), 10, 64)
	if err != nil || n <= 0 {
		return 0, nil
	}
	return n, nil
}

// state is an upload that broke off.
type state struct {
	To, URL, SHA256 string
	Size            int64
}

func (t *tus) stateFile(f *File) string {
	if t.State == "" {
		return ""
	}
	h := newCounted()
	fmt.Fprintf(h, "%s\x00%s\x00%s", t.To, f.SHA256, f.Name)
	return filepath.Join(t.State, fmt.Sprintf("%x.json", h.Sum(nil)[:12]))
}

// Put implements Carrier.
func (t *tus) Put(ctx context.Context, f *File, told func(int64)) (Receipt, error) {
	at, sent := "", int64(0)
	kept := t.stateFile(f)
	if b, err := os.ReadFile(kept); err == nil && kept != "" {
		var s state
		if json.Unmarshal(b, &s) == nil && s.Size == f.Size && s.SHA256 == f.SHA256 {
			if u, err := url.Parse(s.URL); err == nil && t.ours(u, 0) == nil {
				at = s.URL
			}
		}
	}
	breaks, pause := 0, t.Patience.Pause
	resume := at != ""
	for {
		came, err := t.try(ctx, f, &at, kept, &resume, told)
		if came > sent {
			sent, breaks, pause = came, 0, t.Patience.Pause
		}
		if err == nil {
			if kept != "" {
				_ = os.Remove(kept)
			}
			return Receipt{ID: path.Base(at), SHA256: f.SHA256, At: time.Now().UTC().Truncate(time.Second)}, nil
		}
		if ctx.Err() != nil {
			return Receipt{}, ctx.Err()
		}
		if breaks++; final(err) || breaks > t.Patience.Tries {
			return Receipt{}, &BrokenError{t.To, sent, f.Size, err}
		}
		resume = true
		select {
		case <-ctx.Done():
			return Receipt{}, ctx.Err()
		case <-time.After(pause):
		}
		pause = min(2*pause, t.Patience.Most)
	}
}

// try goes on with an upload, or begins one, and tells how far it came.
func (t *tus) try(ctx context.Context, f *File, at *string, kept string, resume *bool, told func(int64)) (int64, error) {
	offset := int64(0)
	if *at != "" {
		got, err := t.offset(ctx, *at, f.Size)
		if err != nil {
			return 0, err
		}
		if got < 0 { // it is no longer known there
			*at = ""
		} else {
			offset = got
		}
	}
	if *at == "" {
		made, err := t.create(ctx, f)
		if err != nil {
			return 0, err
		}
		*at, offset = made, 0
		if kept != "" {
			t.keep(kept, state{t.To, made, f.SHA256, f.Size})
		}
	} else if *resume {
		f.Resumed++
	}
	*resume = false
	told(offset)
	if offset == f.Size {
		return offset, nil
	}
	return t.patch(ctx, f, *at, offset, told)
}

func (t *tus) keep(at string, s state) {
	b, err := json.Marshal(s)
	if err == nil && os.MkdirAll(filepath.Dir(at), 0o700) == nil {
		_ = fileset.Replace(at, 0o600, func(w io.Writer) error { _, err := w.Write(b); return err }) // only the next try begins anew
	}
}

// create begins an upload (tus 1.0.0, Creation).
func (t *tus) create(ctx context.Context, f *File) (string, error) {
	ctx, cancel := context.WithTimeout(ctx, t.Patience.Answer)
	defer cancel()
	meta := func(s string) string { return base64.StdEncoding.EncodeToString([]byte(s)) }
	res, err := t.ask(ctx, http.MethodPost, t.To, nil, map[string]string{
		"Upload-Length": strconv.FormatInt(f.Size, 10), "Upload-Metadata": "filename " + meta(f.Name) + ",sha256 " + meta(f.SHA256),
	})
	if err != nil {
		return "", err
	}
	if res.StatusCode != http.StatusCreated {
		return "", &AnswerError{t.To, res.StatusCode, "it did not begin an upload (tus 1.0.0 answers 201)"}
	}
	u, err := t.at.Parse(res.Header.Get("Location"))
	if err != nil || res.Header.Get("Location") == "" {
		return "", &AnswerError{t.To, res.StatusCode, "it does not tell where the upload is"}
	}
	if err := t.ours(u, 0); err != nil {
		return "", err
	}
	return u.String(), nil
}

// offset asks how far an upload came; −1 where it is no longer known (tus 1.0.0, HEAD).
func (t *tus) offset(ctx context.Context, at string, size int64) (int64, error) {
	ctx, cancel := context.WithTimeout(ctx, t.Patience.Answer)
	defer cancel()
	res, err := t.ask(ctx, http.MethodHead, at, nil, nil)
	if err != nil {
		return 0, err
	}
	switch res.StatusCode {
	case http.StatusNotFound, http.StatusGone:
		return -1, nil
	case http.StatusOK, http.StatusNoContent:
	default:
		return 0, &AnswerError{at, res.StatusCode, "it does not tell how far the upload came"}
	}
	n, err := strconv.ParseInt(res.Header.Get("Upload-Offset"), 10, 64)
	if length := res.Header.Get("Upload-Length"); err != nil || n < 0 || n > size || length != "" && length != strconv.FormatInt(size, 10) {
		return 0, &AnswerError{at, http.StatusBadRequest, "what it tells of the upload cannot be: offset " + strconv.Quote(res.Header.Get("Upload-Offset")) + " of " + strconv.FormatInt(size, 10)}
	}
	return n, nil
}

// patch sends the rest of a file. A connection that takes nothing for as long as an answer may take is
// given up.
func (t *tus) patch(ctx context.Context, f *File, at string, offset int64, told func(int64)) (int64, error) {
	ctx, cancel := context.WithCancelCause(ctx)
	defer cancel(nil)
	body := f.From(ctx, offset)
	defer body.Close()
	var sent atomic.Int64
	done := make(chan struct{})
	defer close(done)
	go func() {
		last, tick := int64(-1), time.NewTicker(t.Patience.Answer)
		defer tick.Stop()
		for {
			select {
			case <-done:
				return
			case <-tick.C:
				now := sent.Load()
				if now == last && now < f.Size-offset {
					cancel(errors.New("it takes no more"))
				}
				last = now
			}
		}
	}()
	res, err := t.ask(ctx, http.MethodPatch, at, &telling{body, func(n int) { told(offset + sent.Add(int64(n))) }}, map[string]string{
		"Content-Type": "application/offset+octet-stream", "Upload-Offset": strconv.FormatInt(offset, 10), "Content-Length": strconv.FormatInt(f.Size-offset, 10),
	})
	if err != nil {
		if cause := context.Cause(ctx); cause != nil && !errors.Is(cause, context.Canceled) {
			err = cause
		}
		return offset, err
	}
	if res.StatusCode != http.StatusNoContent {
		return offset, &AnswerError{at, res.StatusCode, "it did not take the bytes (tus 1.0.0 answers 204)"}
	}
	got, err := strconv.ParseInt(res.Header.Get("Upload-Offset"), 10, 64)
	if err != nil || got <= offset || got > f.Size {
		return offset, &AnswerError{at, http.StatusBadRequest, "what it tells of the upload cannot be: offset " + strconv.Quote(res.Header.Get("Upload-Offset"))}
	}
	if got < f.Size {
		return got, io.ErrUnexpectedEOF // it took a part; the rest follows
	}
	return got, nil
}

type telling struct {
	r    io.Reader
	tell func(int)
}

func (t *telling) Read(b []byte) (int, error) {
	n, err := t.r.Read(b)
	t.tell(n)
	return n, err
}
