package e2e

import (
	"fmt"
	"net"
	"net/http"
	"strings"
	"testing"
	"time"

	"boundcrate/app/api"
	"boundcrate/store"
)

// TestStopped: a server that stops is told within seconds, and the page goes on by itself once it
// is back.
func TestStopped(t *testing.T) {
	a := bare(t, map[string]string{"film/cut.m3u": "#EXTM3U\ngone.wav\n"})
	p := open(t, a)
	p.visit("/")
	p.sees("Add a project")
	p.idle()
	a.http.Listener.Close()
	a.http.CloseClientConnections()
	p.sees("Bound Crate is not responding")
	l, err := net.Listen("tcp", a.http.Listener.Addr().String())
	if err != nil {
		t.Fatal(err)
	}
	again := &http.Server{Handler: a.http.Config.Handler}
	go func() { _ = again.Serve(l) }()
	t.Cleanup(func() { again.Close() })
	p.seesNot("Bound Crate is not responding")
	p.clickIn("aside", "Bench")
	p.clickIn("aside", "film")
	p.sees("cut.m3u")
	p.expectConsole("ERR_")
}

// TestManyProblems: of 400 documents that cannot be read, three are told above the list, which
// keeps its rows; all of them are a list of their own, by kind.
func TestManyProblems(t *testing.T) {
	files := map[string]string{"film/parts/pointer.xspf": "version https://git-lfs.github.com/spec/v1\noid sha256:4d7a\nsize 12345\n"}
	list := "#EXTM3U\nparts/pointer.xspf\n"
	for i := range 400 {
		files[fmt.Sprintf("film/parts/%03d.xspf", i)] = "<playlist"
		list += fmt.Sprintf("parts/%03d.xspf\n", i)
	}
	files["film/all.m3u"] = list
	a := bare(t, files)
	p := open(t, a)
	p.visit("/")
	p.clickIn("aside", "Bench")
	p.clickIn("aside", "film")
	p.clickIn("aside", "all.m3u")
	p.click("Open all.m3u")
	p.sees("Show all 401 problems")
	p.idle()
	if h := eval[int](p, "document.querySelector('[role=grid]').clientHeight"); h < 8*28 {
		t.Errorf("the list is %d high", h)
	}
	p.click("Show all 401 problems")
	p.sees("Damaged or not valid")
	p.sees("Pointers of a large-file store in git")
	p.write("Filter Problems", "pointer")
	p.sees("1 problem")
	p.press("[role=grid] [role=row]", "pointer.xspf")
	p.sees("Its references were not followed")
	p.sees("Download its content with git")
}

// TestRelinkMany: the best candidates of all rows that are selected are taken by one key, after a
// look at them; typing over a name in Stow tells what the rules made of it.
func TestRelinkMany(t *testing.T) {
	files := map[string]string{"film/cut.m3u": "#EXTM3U\nsound/gull.wav\nsound/horn.wav\nsound/rope.wav\n"}
	for _, n := range []string{"gull", "horn", "rope"} {
		files["attic/"+n+"/"+n+".wav"] = strings.Repeat(n, 9)
	}
	a := bare(t, files)
	p := open(t, a)
	p.visit("/")
	p.clickIn("aside", "Bench")
	p.clickIn("aside", "film")
	p.clickIn("aside", "cut.m3u")
	p.click("Open cut.m3u")
	p.sees("3 files missing")
	p.idle()
	p.station("Mend")
	p.lookIn("Bench")
	p.click("Search these folders")
	p.sees("of 3 files found")
	p.idle()
	p.key("a")
	p.sees("3 rows chosen")
	p.key("y")
	p.sees("Relink 3 files?")
	p.press("[role=dialog] button", "Relink 3 files")
	p.sees("Nothing is missing")
	p.idle()
	p.expectConsole("422") // these are no sounds
	p.station("Stow")
	p.sees("name in the crate")
	p.write("Name of gull.wav", "a/b:c?"+enter)
	p.sees("changed from “a/b:c?”")
	p.click("reset")
	p.seesNot("changed from")
}

// TestDrop: a document that is dropped on the window is opened where it lies on a drive; one that
// no drive has says so.
func TestDrop(t *testing.T) {
	const list = "#EXTM3U\ngone.wav\n"
	a := bare(t, map[string]string{"film/dropped.m3u": list})
	p := open(t, a)
	p.visit("/drives")
	p.press("main button", "Bench")
	p.click("Index")
	p.sees("indexed ")
	p.idle()
	drop := func(name, text string) {
		eval[bool](p, fmt.Sprintf(`(() => {
			const data = new DataTransfer();
			data.items.add(new File([%q], %q));
			window.dispatchEvent(new DragEvent('drop', { dataTransfer: data, bubbles: true, cancelable: true }));
			return true;
		})()`, text, name))
	}
	drop("nowhere.m3u", list)
	p.sees("Not found in the index of your drives: nowhere.m3u")
	p.click("Close")
	drop("dropped.m3u", list)
	p.until("for its trace", "location.pathname.endsWith('/trace')")
	p.sees("1 file missing")
}

// TestEndedWhileSealing: a sealing that the end of the application broke off says what stands, and that it can go on.
func TestEndedWhileSealing(t *testing.T) {
	a := bare(t, map[string]string{"film/cut.m3u": "#EXTM3U\na.wav\n", "film/a.wav": "a", "out/x": ""})
	ask[api.Project](t, a, "POST", "/api/projects", api.NewProject{Documents: []string{a.path("Bench/film/cut.m3u")}})
	if err := a.store.PutJob(store.Job{ID: "cut off", ProjectID: store.OfProject(1), Kind: string(api.JobSeal), Title: "Sealing film crate", State: string(api.Running), Unit: "bytes", Done: 1_000_000, Total: 3_000_000, CreatedAt: time.Now().UnixNano()}); err != nil {
		t.Fatal(err)
	}
	if err := a.store.Interrupted(time.Now()); err != nil {
		t.Fatal(err)
	}
	p := open(t, a)
	p.visit("/p/1/seal")
	p.sees("The application ended while this was sealed. Nothing incomplete stands under the crate’s name. 1.0 MB of 3.0 MB had been done.")
	p.sees("Go on sealing")
	p.folder(a.path("Bench/out"))
	p.click("Go on sealing")
	p.sees("Sealed and proved complete")
	p.seesNot("The application ended")
}
