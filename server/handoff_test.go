package server_test

import (
	"bytes"
	"fmt"
	"io"
	"net/http"
	"net/http/httptest"
	"net/url"
	"os"
	"path/filepath"
	"strings"
	"testing"

	"boundcrate/app/api"
	"boundcrate/app/api/packing"
	"boundcrate/app/api/shipping"
	"boundcrate/app/api/tracing"
	"boundcrate/app/send/depot"
	"boundcrate/core/coretest"
)

// TestHandoff: sealed, sealed again as a difference, sent, received with the first crate beside it and
// the material apart, connected: by acts alone.
func TestHandoff(t *testing.T) {
	c := start(t, map[string]string{"film/cut.otio": timeline("a.wav", "b.wav", "c.wav"), "film/a.wav": "aaa", "film/b.wav": "bbb", "film/c.wav": "ccc", "in/x.txt": "", "disk/x.txt": "", "stick/x.txt": ""})
	p := c.open("film/cut.otio")
	at := fmt.Sprintf("/api/projects/%d", p.ID)
	first, second := filepath.Join(c.dir, "monday"), filepath.Join(c.dir, "tuesday.zip")
	c.wait(send[api.Started](c, "POST", at+"/seal", packing.SealRequest{Snapshot: c.snapshotSettled(at), Out: first}).Job.ID)
	coretest.Write(t, filepath.Join(c.dir, "film", "b.wav"), "changed")
	c.wait(send[api.Started](c, "POST", at+"/trace", nil).Job.ID)
	to := get[packing.Destination](c, at+"/destination?out="+url.QueryEscape(first))
	if !to.Again || to.Copies.Files != 1 || to.Stands.Files < 2 {
		t.Errorf("%+v", to)
	}
	c.wait(send[api.Started](c, "POST", at+"/seal", packing.SealRequest{Snapshot: c.snapshotSettled(at), Out: second, Since: first}).Job.ID)
	if s := get[packing.Sealed](c, at+"/sealed"); !s.Sheet || s.Report.Fetched == nil || s.Report.Fetched.Files != 2 || s.Report.Since != first {
		t.Errorf("%+v", s.Report)
	}
	if list := get[shipping.Crates](c, at+"/crates"); len(list.List) != 2 || list.List[0].Since != "monday" || !list.List[1].There {
		t.Errorf("%+v", list)
	}
	if status, page, h := c.ask("GET", at+"/sheet", nil); status != 200 || !strings.Contains(page, "difference crate") || !strings.Contains(h.Get("Content-Security-Policy"), "default-src 'none'; style-src 'sha256-") {
		t.Errorf("%d %.300s", status, page)
	}

	service, err := depot.New(depot.Options{Dir: t.TempDir(), Limit: 1 << 20, FailEvery: 500})
	if err != nil {
		t.Fatal(err)
	}
	s := httptest.NewServer(service)
	t.Cleanup(s.Close)
	for _, to := range []string{s.URL + depot.Base, filepath.Join(c.dir, "stick")} {
		if fits := send[shipping.CarrierTakes](c, "POST", at+"/carrier", shipping.AskCarrier{Crate: second, To: to}); !fits.Fits || fits.Why != "" {
			t.Errorf("%+v", fits)
		}
		c.wait(send[api.Started](c, "POST", at+"/send", shipping.SendRequest{Crate: second, To: to, Token: "secret"}).Job.ID)
	}
	sent := get[shipping.Crates](c, at+"/crates").Sent
	if len(sent) != 2 || sent[0].Receipt == "" || sent[1].Receipt == "" || sent[0].SHA256 != sent[1].SHA256 || sent[0].Ended == nil {
		t.Errorf("%+v", sent)
	}
	coretest.Write(t, first+".receipts.jsonl", `{"crate":"x","to":"http://127.0.0.1:1/?key=secret","bytes":9,"resumed":0,"receipt":{"id":"by-hand","sha256":"ab","at":"2026-01-02T03:04:05Z"}}`+"\n")
	if sent := get[shipping.Crates](c, at+"/crates").Sent; len(sent) != 3 || sent[2].Receipt != "by-hand" {
		t.Errorf("%+v", sent)
	}
	if _, text, _ := c.ask("GET", at+"/crates", nil); strings.Contains(text, "secret") {
		t.Error("a token was kept")
	}
	c.refusals(refused{
		{"POST", at + "/send", shipping.SendRequest{Crate: filepath.Join(c.dir, "film"), To: s.URL}, 400},
		{"POST", at + "/send", shipping.SendRequest{Crate: second, To: "/etc"}, 403},
	})

	r := packing.ReceiveRequest{Crate: filepath.Join(c.dir, "stick", "tuesday.zip"), Into: filepath.Join(c.dir, "in")}
	got := func(r packing.ReceiveRequest) packing.Received {
		id := send[api.Started](c, "POST", "/api/receive", r).Job.ID
		c.wait(id)
		return get[packing.Received](c, "/api/receive/"+id)
	}
	if x := got(r); x.Into != "" || x.Harm != 0 || len(x.Report.Lacks) != 2 || len(x.Here) != 1 || x.Here[0].Project != p.ID {
		t.Errorf("%+v", x)
	}
	r.Bases, r.Material = []string{first}, filepath.Join(c.dir, "disk")
	x := got(r)
	if x.Into == "" || !x.Report.Complete || !x.Sheet || len(x.Report.Documents) != 1 || x.Report.Material != filepath.Join(c.dir, "disk", "tuesday") {
		t.Fatalf("%+v", x)
	}
	q := c.open("in/tuesday/cut.otio")
	if s := c.settled(q.ID); s.Missing != 0 || s.Files != 3 {
		t.Errorf("%+v", s.Tally)
	}

	// A document that came by mail, and the crate by disk.
	mail := coretest.Write(t, filepath.Join(c.dir, "far", "mail", "cut.otio"), timeline("a.wav", "b.wav", "c.wav"))
	y := got(packing.ReceiveRequest{Crate: first, Into: filepath.Join(c.dir, "far"), For: []string{mail}})
	if len(y.Report.Connected) != 1 || y.Report.Connected[0].References != 3 {
		t.Errorf("%+v", y.Report)
	}
	m := c.open("far/mail/cut.otio")
	until(c, fmt.Sprintf("/api/projects/%d", m.ID), "all found", func(s tracing.Summary) bool { return s.Missing == 0 && s.Files == 3 })
	c.refusals(refused{{"POST", "/api/receive", packing.ReceiveRequest{Crate: first, Material: filepath.Join(c.dir, "disk")}, 400}})
}

// TestUpload: a dropped archive is taken in under its own name and can be checked; what is no archive,
// and names that lead elsewhere, are refused.
func TestUpload(t *testing.T) {
	c := start(t, map[string]string{"film/cut.otio": timeline("a.wav"), "film/a.wav": "aaa"})
	p := c.open("film/cut.otio")
	at := fmt.Sprintf("/api/projects/%d", p.ID)
	out := filepath.Join(c.dir, "crate.zip")
	c.wait(send[api.Started](c, "POST", at+"/seal", packing.SealRequest{Snapshot: c.snapshotSettled(at), Out: out}).Job.ID)
	b, err := os.ReadFile(out)
	if err != nil {
		t.Fatal(err)
	}
	post := func(name string, body []byte) (int, string) {
		r, err := http.Post(c.url+"/api/upload?name="+url.QueryEscape(name), "application/octet-stream", bytes.NewReader(body))
		if err != nil {
			t.Fatal(err)
		}
		defer r.Body.Close()
		text, _ := io.ReadAll(r.Body)
		return r.StatusCode, string(text)
	}
	status, text := post("crate.zip", b)
	if status != http.StatusCreated {
		t.Fatal(status, text)
	}
	_, rest, _ := strings.Cut(text, `"path":"`)
	path, _, _ := strings.Cut(rest, `"`)
	id := send[api.Started](c, "POST", "/api/receive", packing.ReceiveRequest{Crate: path}).Job.ID
	c.wait(id)
	if got := get[packing.Received](c, "/api/receive/"+id); !got.Well || filepath.Base(path) != "crate.zip" {
		t.Errorf("%s: %+v", path, got)
	}
	for _, name := range []string{"../../x", "x.exe", "", ".zip", "..zip/..", "-rf.zip"} {
		if status, text := post(name, []byte("x")); status != http.StatusBadRequest {
			t.Errorf("%q: %d %s", name, status, text)
		}
	}
	if list, _ := filepath.Glob(filepath.Join(filepath.Dir(filepath.Dir(path)), "*")); len(list) != 1 {
		t.Errorf("left behind: %v", list)
	}
	c.refusals(refused{{"POST", "/api/receive", packing.ReceiveRequest{Crate: "/etc/passwd"}, 403}})
}
