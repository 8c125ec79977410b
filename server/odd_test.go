package server_test

import (
	"encoding/json"
	"fmt"
	"math/rand/v2"
	"net/url"
	"os"
	"path/filepath"
	"regexp"
	"strings"
	"testing"

	"boundcrate/app/api"
	"boundcrate/app/api/mending"
	"boundcrate/core/text/format/formattest"
	"boundcrate/server"
)

// TestOddInput: no route answers odd input with an error of its own: it is the asker's.
func TestOddInput(t *testing.T) {
	if testing.Short() {
		t.Skip("one request after another: no race to be found")
	}
	c := start(t, map[string]string{"film/cut.otio": timeline("a.wav", "gone.wav"), "film/a.wav": "a"})
	p := c.open("film/cut.otio")
	text := func(s string) json.RawMessage { return json.RawMessage(s) }
	bodies := []any{
		nil, text(`{}`), text(`[]`), text(`null`), text(`"text"`), text(`7`), text(`{"nobody":1}`), text(strings.Repeat(`{"a":`, 2000) + `1` + strings.Repeat(`}`, 2000)),
		text(`{"paths":["","..","/","\u0000","relative"],"path":"\u0000","document":"..","documents":[""],"folder":"/proc","dir":"/nowhere","days":-1,"expected":"","to":"../..","key":"x","name":"..","names":{"":""},"out":"/dev/null","from":"","ids":[-1],"refs":[99999],"choose":{"0":"/"},"rules":"","text":"\u0000","source":"","recipe":"","layout":"{{{","id":-1,"of":99}`),
		text(`{"paths":7,"path":[],"document":{},"days":"many","to":null,"key":{}}`),
		text(`{"days":1e300,"offset":-9223372036854775808,"limit":9223372036854775807}`),
	}
	queries := []string{"", "?path=&key=&dir=&document=&file=&of=", "?path=%00&key=%00&offset=x&limit=-1&sort=nobody&group=nobody", "?path=/proc/self/mem&key=../..&offset=-1&limit=99999999999999999999&desc=perhaps&filter=" + url.QueryEscape(strings.Repeat("x", 5000)), "?path=" + url.QueryEscape(c.dir) + "&key=-1&n=1e9"}
	for _, r := range server.Routed() {
		if strings.HasSuffix(r.Path, "/events") || r.Path == "/api/jobs/:id/stop" {
			continue // the one stays open; the other may stop what another asks for
		}
		for _, id := range []string{fmt.Sprint(p.ID), "0", "-1", "x", "99999999999999999999"} {
			at := strings.Replace(r.Path, ":id", id, 1)
			at = regexp.MustCompile(`:\w+`).ReplaceAllString(at, "nobody")
			for i, body := range bodies {
				if (r.Method == "GET" || r.Method == "DELETE") && i > 0 {
					break
				}
				for _, q := range queries {
					if i > 0 && q != "" {
						break
					}
					if status, said, _ := c.ask(r.Method, at+q, body); status >= 500 || status == 0 {
						t.Errorf("%s %s%.60s with body %d: %d %.200s", r.Method, at, q, i, status, said)
					}
				}
			}
			if id == fmt.Sprint(p.ID) && !strings.Contains(r.Path, ":id") {
				break
			}
		}
	}
}

// TestDamagedEverywhere: files and documents that chance damaged are shown in every view: some
// 200, in make faults 10,000.
func TestDamagedEverywhere(t *testing.T) {
	if testing.Short() {
		t.Skip("one request after another: no race to be found")
	}
	most := 8 // of each kind
	if os.Getenv("FAULTS") != "" {
		most = 10_000
	}
	rng := rand.New(rand.NewPCG(1, 2))
	files, list := map[string]string{}, "#EXTM3U\n"
	wav := "RIFF\x24\x08\x00\x00WAVEfmt \x10\x00\x00\x00\x01\x00\x01\x00\x80\xbb\x00\x00\x00\x77\x01\x00\x02\x00\x10\x00data\x00\x08\x00\x00" + strings.Repeat("ab", 1024)
	seeds := map[string]string{".wav": wav, ".png": "\x89PNG\r\n\x1a\n\x00\x00\x00\rIHDR\x00\x00\x00\x08\x00\x00\x00\x08\x08\x02\x00\x00\x00\x4b\x6d\x29\xdc", ".flac": "fLaC\x00\x00\x00\x22" + strings.Repeat("\x10", 60), ".aif": "FORM\x00\x00\x08\x00AIFFCOMM\x00\x00\x00\x12\x00\x01\x00\x00\x01\x00\x00\x10\x40\x0e\xac\x44\x00\x00\x00\x00\x00\x00SSND\x00\x00\x02\x08\x00\x00\x00\x00\x00\x00\x00\x00" + strings.Repeat("ab", 256)}
	for k := range formattest.Makers {
		m := &formattest.Makers[k]
		text, _ := m.Document(formattest.NewGen(7, uint64(k)))
		if text != "" {
			seeds[filepath.Ext(m.File)] = text
		}
	}
	n := 0
	for ext, seed := range seeds {
		for range min(most, 1+10_000/len(seeds)) {
			b := []byte(seed)
			for range 1 + rng.IntN(6) {
				b[rng.IntN(len(b))] = byte(rng.Uint32())
			}
			if rng.IntN(3) == 0 {
				b = b[:rng.IntN(len(b)+1)]
			}
			name := fmt.Sprintf("m%03d%s", n, ext)
			files["film/"+name] = string(b)
			list += name + "\n"
			n++
		}
	}
	files["film/all.m3u"] = list
	c := start(t, files)
	p := c.open("film/all.m3u")
	base := fmt.Sprintf("/api/projects/%d", p.ID)
	for _, r := range server.Routed() {
		if r.Method != "GET" || !strings.HasPrefix(r.Path, "/api/projects/:id") {
			continue
		}
		for _, table := range []string{"files", "documents", "wanted", "berths", "references"} {
			at := strings.Replace(strings.Replace(r.Path, "/api/projects/:id", base, 1), ":table", table, 1)
			if status, said, _ := c.ask("GET", at, nil); status >= 500 {
				t.Errorf("%s: %d %.200s", at, status, said)
			}
		}
	}
	for name := range files {
		key := url.QueryEscape(filepath.Join(c.dir, name))
		for _, at := range []string{base + "/slip?key=" + key, "/api/look?path=" + key, "/api/peaks?path=" + key, "/api/media?path=" + key} {
			if status, said, _ := c.ask("GET", at, nil); status >= 500 {
				t.Errorf("%s: %d %.200s", at, status, said)
			}
		}
	}
	c.wait(send[api.Started](c, "POST", base+"/search", mending.Search{Folders: []string{c.dir}}).Job.ID)
}
