//go:build unix

package server_test

import (
	"context"
	"fmt"
	"net"
	"net/http"
	"net/http/httptest"
	"net/netip"
	"os"
	"os/exec"
	"path/filepath"
	"strings"
	"syscall"
	"testing"
	"testing/fstest"
	"time"

	"boundcrate/app"
	"boundcrate/server"
	"boundcrate/store"
)

// admitting serves an application to which a stand-in tells who asks.
func admitting(t *testing.T, token string, whose func(*http.Request) (own, known bool)) http.Handler {
	t.Helper()
	s, err := store.Open(filepath.Join(t.TempDir(), "data"))
	if err != nil {
		t.Fatal(err)
	}
	ctx, stop := context.WithCancel(context.Background())
	a, h, err := server.New(ctx, server.Options{App: app.Options{Store: s}, Token: token, Whose: whose, Files: fstest.MapFS{"index.html": {Data: []byte("<p>page</p>")}}})
	if err != nil {
		t.Fatal(err)
	}
	t.Cleanup(func() { stop(); a.Wait(); s.Close() })
	return h
}

// TestAdmit: the account that serves gets in without a word, another does not,
// and where the system does not tell, the printed address lets in: once, then by
// a cookie that no other page can use (RFC 6265bis §4.1.2).
func TestAdmit(t *testing.T) {
	says := func(own, known bool) func(*http.Request) (bool, bool) {
		return func(*http.Request) (bool, bool) { return own, known }
	}
	status := func(h http.Handler, path string, cookies ...*http.Cookie) *http.Response {
		r := httptest.NewRequest("GET", "http://127.0.0.1"+path, nil)
		for _, c := range cookies {
			r.AddCookie(c)
		}
		w := httptest.NewRecorder()
		h.ServeHTTP(w, r)
		return w.Result()
	}
	if r := status(admitting(t, "abc", says(true, true)), "/api/state"); r.StatusCode != 200 {
		t.Error("the one who started it is refused", r.Status)
	}
	other := admitting(t, "abc", says(false, true))
	for _, p := range []string{"/", "/api/state", "/?token=abc"} {
		if r := status(other, p); r.StatusCode != 403 {
			t.Error("another account got in", p, r.Status)
		}
	}
	h := admitting(t, "abc", says(false, false))
	for _, p := range []string{"/", "/?token=wrong", "/?token=", "/api/state?token=abc", "/api/state"} {
		if r := status(h, p); r.StatusCode != 403 {
			t.Error("whoever it is got in", p, r.Status)
		}
	}
	r := status(h, "/project/3?token=abc")
	if r.StatusCode != 303 || r.Header.Get("Location") != "/project/3" || len(r.Cookies()) != 1 {
		t.Fatal(r.Status, r.Header)
	}
	c := r.Cookies()[0]
	if !c.HttpOnly || c.SameSite != http.SameSiteStrictMode {
		t.Errorf("%+v", c)
	}
	if r := status(h, "/api/state", c); r.StatusCode != 200 {
		t.Error(r.Status)
	}
	if r := status(admitting(t, "", says(false, false)), "/?token="); r.StatusCode != 403 {
		t.Error("no token at all lets in", r.Status)
	}
}

// TestAnotherAccount: a program of another account of this machine really asks.
func TestAnotherAccount(t *testing.T) {
	curl, err := exec.LookPath("curl")
	if err != nil || os.Getuid() != 0 || !server.KnowsAccounts() {
		t.Skip("needs root, curl and a kernel that tells accounts")
	}
	s, err := store.Open(filepath.Join(t.TempDir(), "data"))
	if err != nil {
		t.Fatal(err)
	}
	defer s.Close()
	ctx, stop := context.WithCancel(context.Background())
	a, h, err := server.New(ctx, server.Options{App: app.Options{Store: s}, Files: fstest.MapFS{}})
	if err != nil {
		t.Fatal(err)
	}
	at := make(chan net.Addr, 1)
	ended := make(chan error, 1)
	go func() { ended <- server.Listen(ctx, "127.0.0.1:0", h, func(a net.Addr) { at <- a }) }()
	defer func() { stop(); a.Wait(); <-ended }()
	url := "http://" + (<-at).String() + "/api/state"
	for uid, want := range map[uint32]string{0: "200", 65534: "403"} {
		c := exec.Command(curl, "-s", "-o", "/dev/null", "-w", "%{http_code}", url)
		c.Dir = "/"
		c.SysProcAttr = &syscall.SysProcAttr{Credential: &syscall.Credential{Uid: uid, Gid: uid}}
		out, err := c.CombinedOutput()
		if err != nil || strings.TrimSpace(string(out)) != want {
			t.Errorf("account %d: %s %v", uid, out, err)
		}
	}
}

// TestHitAndRun: another account that sends its request and closes the connection
// at once gets no more in than one that waits: the kernel counts a socket nobody
// holds any more to root.
func TestHitAndRun(t *testing.T) {
	bash, err := exec.LookPath("bash")
	if err != nil || os.Getuid() != 0 || !server.KnowsAccounts() {
		t.Skip("needs root, bash and a kernel that tells accounts")
	}
	s, err := store.Open(filepath.Join(t.TempDir(), "data"))
	if err != nil {
		t.Fatal(err)
	}
	defer s.Close()
	ctx, stop := context.WithCancel(context.Background())
	a, h, err := server.New(ctx, server.Options{App: app.Options{Store: s}, Files: fstest.MapFS{}})
	if err != nil {
		t.Fatal(err)
	}
	at := make(chan net.Addr, 1)
	ended := make(chan error, 1)
	go func() { ended <- server.Listen(ctx, "127.0.0.1:0", h, func(a net.Addr) { at <- a }) }()
	defer func() { stop(); a.Wait(); <-ended }()
	_, port, _ := net.SplitHostPort((<-at).String())
	const body = `{"name":"All","dir":"/"}`
	request := fmt.Sprintf("POST /api/drives HTTP/1.1\\r\\nHost: 127.0.0.1:%s\\r\\nContent-Type: application/json\\r\\nContent-Length: %d\\r\\n\\r\\n%s", port, len(body), body)
	for range 20 {
		c := exec.Command(bash, "-c", "exec 3<>/dev/tcp/127.0.0.1/"+port+"; printf '"+request+"' >&3; exec 3>&-")
		c.Dir = "/"
		c.SysProcAttr = &syscall.SysProcAttr{Credential: &syscall.Credential{Uid: 65534, Gid: 65534}}
		if out, err := c.CombinedOutput(); err != nil {
			t.Fatalf("%s %v", out, err)
		}
	}
	time.Sleep(200 * time.Millisecond)
	if drives, err := s.Drives(); err != nil || len(drives) > 0 {
		t.Errorf("another account added %+v (%v)", drives, err)
	}
}

// TestOrphan: a connection whose owner closed it is nobody's: the kernel counts
// it to root from then on.
func TestOrphan(t *testing.T) {
	if !server.KnowsAccounts() {
		t.Skip("needs a kernel that tells accounts")
	}
	l, err := net.Listen("tcp", "127.0.0.1:0")
	if err != nil {
		t.Fatal(err)
	}
	defer l.Close()
	c, err := net.Dial("tcp", l.Addr().String())
	if err != nil {
		t.Fatal(err)
	}
	from, to := netip.MustParseAddrPort(c.LocalAddr().String()), netip.MustParseAddrPort(c.RemoteAddr().String())
	if _, ok := server.AccountOf(from, to); !ok {
		t.Error("an open connection is nobody's")
	}
	c.Close()
	if uid, ok := server.AccountOf(from, to); ok {
		t.Errorf("a closed connection is account %d's", uid)
	}
}
