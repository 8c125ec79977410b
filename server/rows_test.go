package server_test

import (
	"cmp"
	"fmt"
	"net/http"
	"net/url"
	"strings"
	"testing"

	"boundcrate/app/api"
	"boundcrate/app/api/packing"
)

// TestRowsChosen: rows that are chosen by what shows them are those, and no others: all that a
// filter shows but some, those under a heading, those from one to another. The request stays
// small, and one that was chosen on another snapshot is refused.
func TestRowsChosen(t *testing.T) {
	files := map[string]string{}
	list := "#EXTM3U\n"
	for i := range 1200 {
		name := fmt.Sprintf("%s/take %04d.wav", []string{"low", "high"}[i%2], i)
		files["film/"+name] = fmt.Sprint(i)
		list += name + "\n"
	}
	files["film/cut.m3u"] = list
	c := start(t, files)
	p := c.open("film/cut.m3u")
	at := fmt.Sprintf("/api/projects/%d", p.ID)
	stays := func(rows api.Rows) {
		t.Helper()
		yes := true
		rows.Snapshot = c.snapshot(at)
		if status, body, _ := c.ask("PUT", at+"/berths", packing.Wish{Rows: &rows, Stays: &yes}); status != http.StatusNoContent {
			t.Fatal(status, body)
		}
	}
	left := func() (n int) { return get[packing.Stow](c, at+"/stow").All.Left }
	keys := func(q string) (list []string) {
		for offset := 0; ; offset += 500 {
			w := get[packing.Berths](c, fmt.Sprintf("%s/tables/berths?%s&offset=%d", at, q, offset))
			for _, l := range w.Lines {
				if l.Row != nil {
					list = append(list, l.Row.Key)
				}
			}
			if offset+500 >= w.Total {
				return list
			}
		}
	}
	back := func() {
		t.Helper()
		if status, body, _ := c.ask("POST", at+"/undo", nil); status != http.StatusNoContent {
			t.Fatal(status, body)
		}
	}
	low := keys("filter=low&sort=was")
	if len(low) != 600 {
		t.Fatal(len(low))
	}
	esc := url.QueryEscape
	for q, want := range map[string]int{
		"": 1201, "filter=low&sort=was&from=" + esc(low[10]) + "&to=" + esc(low[39]): 30, "filter=low&sort=was&from=" + esc(low[39]) + "&to=" + esc(low[10]): 30, "group=from&beside=" + esc(low[3]): 600,
	} {
		if x := get[api.Stretch](c, at+"/tables/berths/stretch?"+q); x.Rows != want || x.Snapshot != c.snapshot(at) {
			t.Errorf("%s: %+v, not %d rows", q, x, want)
		}
	}
	if x := get[api.Stretch](c, at+"/tables/berths/stretch?filter=low&sort=was&from="+esc(low[10])+"&to="+esc(low[10])); x.Rows != 1 || x.Head != low[10] || x.Before != low[9] || x.After != low[11] {
		t.Errorf("%+v", x)
	}
	for q, status := range map[string]int{
		"sort=nothing": 400, "group=nothing": 400, "none=x": 400, "offset=-1": 400, "offset=x": 400, "limit=501": 400, "limit=-1": 400, "limit=1e3": 400,
		"sort=-size&group=none&offset=99999&limit=500": 200, "kind=nothing": 200,
	} {
		if got, body, _ := c.ask("GET", at+"/tables/berths?"+q, nil); got != status {
			t.Errorf("%s: %d %s, not %d", q, got, body, status)
		}
	}
	for _, x := range []struct {
		what string
		rows api.Rows
		want int
	}{
		{"all that a filter shows, but two", api.Rows{Filter: "low", Sort: "was", But: []string{low[0], low[7], "nobody"}}, 598},
		{"those from one to another", api.Rows{Filter: "low", Sort: "was", From: low[10], To: low[39]}, 30},
		{"the same from below", api.Rows{Filter: "low", Sort: "was", From: low[39], To: low[10]}, 30},
		{"those under a heading", api.Rows{Group: "from", Beside: low[3]}, 600},
		{"of a kind", api.Rows{Facets: map[string]string{"kind": "audio"}}, 1200},
	} {
		stays(x.rows)
		if got := left(); got != x.want {
			t.Errorf("%s: %d stay, not %d", x.what, got, x.want)
		}
		back()
		if got := left(); got != 0 {
			t.Errorf("%s, undone: %d stay", x.what, got)
		}
	}
	yes := true
	for _, x := range []struct {
		rows   api.Rows
		status int
		says   string
	}{
		{api.Rows{Snapshot: "ANOTHER1-1"}, 409, "Nothing was done"},
		{api.Rows{From: low[0], To: "nobody"}, 404, ""},
		{api.Rows{Filter: "no such file"}, 400, ""},
	} {
		x.rows.Snapshot = cmp.Or(x.rows.Snapshot, c.snapshot(at))
		if status, body, _ := c.ask("PUT", at+"/berths", packing.Wish{Rows: &x.rows, Stays: &yes}); status != x.status || !strings.Contains(body, x.says) {
			t.Errorf("%+v: %d %s", x.rows, status, body)
		}
	}
	if got := left(); got != 0 {
		t.Errorf("%d stay", got)
	}
}
