package server_test

import (
	"crypto/sha256"
	"fmt"
	"net/url"
	"os"
	"path/filepath"
	"slices"
	"strings"
	"testing"
	"time"

	"boundcrate/app"
	"boundcrate/app/api"
	"boundcrate/app/api/keeping"
	"boundcrate/app/api/overview"
	"boundcrate/app/api/packing"
	"boundcrate/app/api/tracing"
	"boundcrate/core/coretest"
	"boundcrate/core/keep/back"
	"boundcrate/core/keep/line"
)

// TestKeep: editions by themselves, by hand, before writing and when sealed; notes; restoring all, one, and what is
// gone; saves that were numbered by hand.
func TestKeep(t *testing.T) {
	c := start(t, map[string]string{"film/cut.otio": timeline("a.wav", "scene.otio"), "film/scene.otio": timeline("b.wav"), "film/a.wav": "a", "film/b.wav": "b", "film/cut-02.otio": timeline("b.wav"), "film/cut old.otio": timeline("c.wav"), "out/x.txt": ""})
	p := c.open("film/cut.otio")
	at := fmt.Sprintf("/api/projects/%d", p.ID)
	doc := filepath.Join(c.dir, "film", "cut.otio")
	keep := func() keeping.Keep { return get[keeping.Keep](c, at+"/keep") }
	until(c, at+"/keep", "the first edition by itself", func(k keeping.Keep) bool { return len(k.Editions) == 1 && k.Editions[0].By == line.Interval })
	if k := send[keeping.KeptNow](c, "POST", at+"/keep", keeping.KeepNow{Note: "as shown"}); !k.Unchanged || k.ID != 1 {
		t.Errorf("%+v", k)
	}
	first := timeline("a.wav", "scene.otio")
	coretest.Write(t, doc, timeline("a.wav", "b.wav"))
	if d := keep().Differs; len(d) != 1 || d[0].How != keeping.Changed {
		t.Errorf("differs %+v", d)
	}
	if k := send[keeping.KeptNow](c, "POST", at+"/keep", keeping.KeepNow{Alternative: true}); k.ID != 2 {
		t.Errorf("%+v", k)
	}
	ab := get[keeping.EditionsCompared](c, at+"/editions?a=1&b=2")
	ba := get[keeping.EditionsCompared](c, at+"/editions?a=2&b=1")
	if ab.Came != ba.Went || ab.Went != ba.Came || ab.Went == 0 {
		t.Errorf("%+v and %+v", ab, ba)
	}
	c.wait(send[api.Started](c, "POST", at+"/trace", nil).Job.ID)
	if now := get[keeping.EditionsCompared](c, at+"/editions?a=2&b=0"); now.Came+now.Went+now.Changed != 0 {
		t.Errorf("with now: %+v", now)
	}
	send[any](c, "PUT", at+"/keep/note", keeping.SetNote{Edition: 2, Note: "another way"})
	got := send[keeping.RestoredNow](c, "POST", at+"/restore", keeping.Restore{Edition: 1, Only: []string{}})
	if b, _ := os.ReadFile(doc); string(b) != first || got.Kept != 2 || len(got.Written) != 1 {
		t.Errorf("restored %+v: %s", got, b)
	}
	os.Remove(doc)
	if d := keep().Differs; len(d) != 1 || d[0].How != keeping.Gone {
		t.Errorf("differs %+v", d)
	}
	send[keeping.RestoredNow](c, "POST", at+"/restore", keeping.Restore{Edition: 1, Only: []string{}})
	if b, _ := os.ReadFile(doc); string(b) != first {
		t.Errorf("it came back as %s", b)
	}
	into := filepath.Join(c.dir, "out", "copy")
	send[keeping.RestoredNow](c, "POST", at+"/restore", keeping.Restore{Edition: 2, Only: []string{}, Into: into})
	if b, _ := os.ReadFile(filepath.Join(into, "cut.otio")); string(b) != timeline("a.wav", "b.wav") {
		t.Errorf("the copy says %s", b)
	}
	c.wait(send[api.Started](c, "POST", at+"/trace", nil).Job.ID)
	crate := filepath.Join(c.dir, "out", "crate")
	c.wait(send[api.Started](c, "POST", at+"/seal", packing.SealRequest{Snapshot: c.snapshotSettled(at), Out: crate}).Job.ID)
	k := keep()
	i := slices.IndexFunc(k.Editions, func(e keeping.Edition) bool { return len(e.Sealed) > 0 })
	if i < 0 || k.Editions[i].ID != k.Current || !strings.HasSuffix(k.Editions[i].Sealed[0].Label, "out/crate") {
		t.Errorf("sealed from %+v", k.Editions)
	}
	took := send[keeping.TookIn](c, "POST", at+"/keep/saves", keeping.TakeIn{Paths: []string{filepath.Join(c.dir, "film", "cut-02.otio"), filepath.Join(c.dir, "film", "cut old.otio")}})
	again := send[keeping.TookIn](c, "POST", at+"/keep/saves", keeping.TakeIn{Paths: []string{filepath.Join(c.dir, "film", "cut-02.otio")}})
	after := keep()
	if len(took.Editions) != 2 || len(again.Editions) != 0 || after.Current != k.Current {
		t.Errorf("took in %v, then %v; edition %d is current", took, again, after.Current)
	}
	c.refusals(refused{
		{"POST", at + "/restore", keeping.Restore{Edition: 99, Only: []string{}}, 409},
		{"POST", at + "/restore", keeping.Restore{Edition: 1, Only: []string{}, Into: "/elsewhere/x"}, 403},
		{"POST", at + "/restore", keeping.Restore{Edition: 1, Only: []string{}, Into: into}, 409},
		{"PUT", at + "/keep/note", keeping.SetNote{Edition: 99}, 404},
		{"GET", at + "/editions?a=1&b=99", nil, 404},
		{"POST", at + "/keep/saves", keeping.TakeIn{Paths: []string{filepath.Join(c.dir, "film", "scene.otio")}}, 404},
		{"PUT", at + "/keep", keeping.KeepSettings{Every: -1}, 400},
		{"PUT", at + "/keep", keeping.KeepSettings{BackupTo: "/elsewhere"}, 403},
		{"POST", at + "/backup", nil, 400},
		{"POST", at + "/backup/verify", keeping.OfGeneration{Path: c.dir}, 404},
		{"POST", at + "/backup/dry", keeping.OfGeneration{Path: c.dir}, 404},
		{"GET", at + "/backup/files?path=/etc", nil, 403},
		{"GET", at + "/backup/files?path=" + c.dir, nil, 409},
		{"POST", at + "/backup/back", keeping.TakeBack{Path: "/etc", Files: []string{"passwd"}}, 403},
		{"GET", at + "/set", nil, 404},
		{"POST", "/api/sets", keeping.NewLoose{Folder: filepath.Join(c.dir, "film"), Title: "x", Patterns: []string{"../*"}}, 400},
		{"POST", "/api/sets", keeping.NewLoose{Files: []string{"/etc/passwd"}, Title: "x"}, 403},
		{"POST", "/api/sets", keeping.NewLoose{Folder: "/etc", Title: "x", Patterns: []string{"*"}}, 403},
	})
}

// TestBackup: made by itself once a day's work is over, verified when it is old, tried; what was lost comes back and
// what is another is kept beside; overdue ones show.
func TestBackup(t *testing.T) {
	c := start(t, map[string]string{"film/cut.otio": timeline("a.wav", "b.wav"), "film/a.wav": "aaaa", "film/b.wav": "bbbb"})
	other := t.TempDir()
	send[any](c, "POST", "/api/drives", api.NewDrive{Name: "Safe", Dir: other})
	c = c.served(app.Options{Demo: true}) // both drives are one device
	p := c.open("film/cut.otio")
	at := fmt.Sprintf("/api/projects/%d", p.ID)
	backups := func() keeping.Backups { return get[keeping.Keep](c, at+"/keep").Backups }
	send[any](c, "PUT", at+"/keep", keeping.KeepSettings{Every: 10, BackupTo: other, BackupAt: true, Quiet: 30, Keep: 5})
	if b := backups(); b.Overdue == "" || !b.There {
		t.Errorf("before the first: %+v", b)
	}
	c.api.Tend(t.Context(), time.Now())
	if len(backups().List) != 0 {
		t.Error("a backup in the middle of the work")
	}
	c.api.Tend(t.Context(), time.Now().Add(time.Hour))
	until(c, at+"/keep", "the backup after the work", func(k keeping.Keep) bool { return len(k.Backups.List) == 1 && k.Backups.List[0].Complete })
	if b := backups(); b.Overdue != "" || b.List[0].Verified != nil {
		t.Errorf("after it: %+v", b)
	}
	stock := get[overview.Stock](c, "/api/stock")
	if r := stock.Groups[0].Rows[0]; r.Backup == nil || r.Overdue != "" {
		t.Errorf("Survey says %+v", r)
	}
	c.api.Tend(t.Context(), time.Now().AddDate(0, 2, 0))
	until(c, at+"/keep", "the verification", func(k keeping.Keep) bool { return k.Backups.List[0].Verified != nil })
	gen := backups().List[0].Path
	c.wait(send[api.Started](c, "POST", at+"/backup/dry", keeping.OfGeneration{Path: gen}).Job.ID)
	if b := backups(); b.List[0].Restored == nil {
		t.Errorf("tried: %+v", b)
	}
	os.Remove(filepath.Join(c.dir, "film", "a.wav"))
	coretest.Write(t, filepath.Join(c.dir, "film", "b.wav"), "other")
	held := get[keeping.HeldFiles](c, at+"/backup/files?path="+gen)
	if len(held.List) != 2 || held.Same != 1 || held.List[0].Now != back.Lost || held.List[1].Now != back.Other {
		t.Errorf("in it: %+v", held)
	}
	back := send[keeping.RestoredNow](c, "POST", at+"/backup/back", keeping.TakeBack{Path: gen, Files: []string{"a.wav", "b.wav"}})
	a, _ := os.ReadFile(filepath.Join(c.dir, "film", "a.wav"))
	b, _ := os.ReadFile(filepath.Join(c.dir, "film", "b.wav"))
	if string(a) != "aaaa" || string(b) != "bbbb" || len(back.Beside) != 1 {
		t.Errorf("%s %s %+v", a, b, back)
	}
	beside, _ := filepath.Glob(filepath.Join(c.dir, "film", "b before *.wav"))
	if len(beside) != 1 {
		t.Fatal(beside)
	}
	if was, _ := os.ReadFile(beside[0]); string(was) != "other" {
		t.Errorf("what stood there says %s", was)
	}
	hurt := filepath.Join(gen, "data", "a.wav")
	os.Chmod(hurt, 0o644)
	coretest.Write(t, hurt, "xxxx")
	c.wait(send[api.Started](c, "POST", at+"/backup/verify", keeping.OfGeneration{}).Job.ID)
	if b := backups(); b.List[0].Harm != 1 || !strings.Contains(b.Overdue, "damaged") {
		t.Errorf("damaged: %+v", b)
	}
	os.Remove(filepath.Join(c.dir, "film", "a.wav"))
	if status, body, _ := c.ask("POST", at+"/backup/back", keeping.TakeBack{Path: gen, Files: []string{"a.wav"}}); status < 400 {
		t.Errorf("of a damaged backup: %d %s", status, body)
	}
	if _, err := os.Stat(filepath.Join(c.dir, "film", "a.wav")); err == nil {
		t.Error("damaged bytes came back")
	}
	if f := backups().Fit; f < 1 {
		t.Errorf("there is room for %d more", f)
	}
	// What the command line made is met; whether it is complete shows when it is tried.
	if err := c.store.SetSetting(fmt.Sprintf("backups:%d", p.ID), ""); err != nil {
		t.Fatal(err)
	}
	if b := backups(); len(b.List) != 1 || !b.List[0].Elsewhere || b.List[0].Complete || b.List[0].Files != 3 || b.List[0].Path != gen {
		t.Errorf("met: %+v", b)
	}
	// Its record is not believed as one of our own is: what it says came from outside the project does not go there.
	text, err := os.ReadFile(filepath.Join(gen, "crate.json"))
	if err != nil {
		t.Fatal(err)
	}
	evil := filepath.Join(c.dir, "elsewhere", "evil.wav")
	os.Chmod(filepath.Join(gen, "crate.json"), 0o644)
	coretest.Write(t, filepath.Join(gen, "crate.json"), strings.ReplaceAll(string(text), filepath.Join(c.dir, "film", "b.wav"), evil))
	os.Remove(filepath.Join(c.dir, "film", "b.wav"))
	for _, f := range get[keeping.HeldFiles](c, at+"/backup/files?path="+gen).List {
		if strings.Contains(f.Path, "evil") {
			t.Errorf("it would go to %s", f.Path)
		}
	}
	send[keeping.RestoredNow](c, "POST", at+"/backup/back", keeping.TakeBack{Path: gen, Files: []string{"b.wav"}})
	if _, err := os.Stat(evil); err == nil {
		t.Error("it was written outside")
	}
	if is, _ := os.ReadFile(filepath.Join(c.dir, "film", "b.wav")); string(is) != "bbbb" {
		t.Errorf("b.wav says %q", is)
	}
	// A forgotten project leaves nothing behind.
	send[any](c, "DELETE", at, nil)
	for _, name := range []string{"keep", "backups"} {
		if left, err := c.store.Setting(fmt.Sprintf("%s:%d", name, p.ID)); left != "" || err != nil {
			t.Errorf("of a forgotten project %s is left: %s, %v", name, left, err)
		}
	}
}

// TestTakenBack: a backup gives back every document byte for byte, however it names its files; a crate that somebody
// sealed from a copy gives its document and what that needs, and names what is here already.
func TestTakenBack(t *testing.T) {
	c := start(t, map[string]string{
		"film/cut.otio":      timeline("../rec/b%20one.wav", "a.wav", "file://ROOT/rec/c.wav", "scene.gltf"),
		"film/scene.gltf":    `{"asset":{"version":"2.0"},"images":[{"uri":"tex/w%20all.png"}]}`,
		"film/tex/w all.png": "png", "film/a.wav": "aaaa", "rec/b one.wav": "bbbb", "rec/c.wav": "cccc",
		"their/film/cut.otio": timeline("a.wav", "new/d.wav"), "their/film/a.wav": "aaaa", "their/film/new/d.wav": "dddd",
	})
	doc := filepath.Join(c.dir, "film", "cut.otio")
	was, _ := os.ReadFile(doc)
	was = []byte(strings.ReplaceAll(string(was), "ROOT", filepath.ToSlash(c.dir)))
	coretest.Write(t, doc, string(was))
	other := t.TempDir()
	send[any](c, "POST", "/api/drives", api.NewDrive{Name: "Safe", Dir: other})
	c = c.served(app.Options{Demo: true}) // both drives are one device
	p := c.open("film/cut.otio")
	at := fmt.Sprintf("/api/projects/%d", p.ID)
	send[any](c, "PUT", at+"/keep", keeping.KeepSettings{BackupTo: other, Keep: 5})
	c.wait(send[api.Started](c, "POST", at+"/backup", nil).Job.ID)
	gen := get[keeping.Keep](c, at+"/keep").Backups.List[0].Path
	same := 0
	held := func(crate string) map[string]keeping.HeldFile {
		t.Helper()
		list := map[string]keeping.HeldFile{}
		got := get[keeping.HeldFiles](c, at+"/backup/files?path="+url.QueryEscape(crate))
		same = got.Same
		for _, f := range got.List {
			list[filepath.Base(f.Path)] = f
		}
		return list
	}
	if list := held(gen); len(list) != 0 || same != 6 {
		t.Errorf("unchanged: %+v, %d the same", list, same)
	}
	scene, _ := os.ReadFile(filepath.Join(c.dir, "film", "scene.gltf"))
	for _, name := range []string{"film/a.wav", "rec/c.wav", "film/scene.gltf"} {
		os.Remove(filepath.Join(c.dir, filepath.FromSlash(name)))
	}
	coretest.Write(t, doc, "not a timeline any more")
	now := held(gen)
	if f := now["cut.otio"]; f.Now != back.Other || len(f.Lost) != 3 || !f.Document {
		t.Errorf("the document: %+v", f)
	}
	done := send[keeping.RestoredNow](c, "POST", at+"/backup/back", keeping.TakeBack{Path: gen, Files: []string{now["cut.otio"].Place}})
	if is, _ := os.ReadFile(doc); string(is) != string(was) || len(done.Written) != 4 || len(done.Beside) != 0 || done.Kept == 0 {
		t.Errorf("%+v; the document says\n%s\nnot\n%s", done, is, was)
	}
	if is, _ := os.ReadFile(filepath.Join(c.dir, "film", "scene.gltf")); string(is) != string(scene) {
		t.Errorf("the scene says %s", is)
	}
	if list := held(gen); len(list) != 0 || same != 6 {
		t.Errorf("taken back: %+v, %d the same", list, same)
	}
	// What stood there before is an edition.
	kept := get[keeping.Keep](c, at+"/keep")
	send[keeping.RestoredNow](c, "POST", at+"/restore", keeping.Restore{Edition: done.Kept, Only: []string{}})
	if is, _ := os.ReadFile(doc); string(is) != "not a timeline any more" {
		t.Errorf("edition %d of %d: %s", done.Kept, len(kept.Editions), is)
	}
	send[keeping.RestoredNow](c, "POST", at+"/backup/back", keeping.TakeBack{Path: gen, Files: []string{now["cut.otio"].Place}})

	for _, name := range []string{"crate", "crate.zip"} {
		theirs := c.open("their/film/cut.otio")
		of := fmt.Sprintf("/api/projects/%d", theirs.ID)
		crate := filepath.Join(c.dir, name)
		if j := c.wait(send[api.Started](c, "POST", of+"/seal", packing.SealRequest{Snapshot: c.snapshot(of), Out: crate, Despite: true}).Job.ID); j.State != api.Done {
			t.Fatal(j)
		}
		coretest.Write(t, doc, string(was))
		os.RemoveAll(filepath.Join(c.dir, "film", "audio"))
		c.wait(send[api.Started](c, "POST", at+"/trace", nil).Job.ID)
		list := held(crate)
		if f := list["cut.otio"]; f.Now != back.Other || f.Why != "" || same != 1 || list["d.wav"].Now != back.Lost {
			t.Fatalf("%s: %+v", name, list)
		}
		done := send[keeping.RestoredNow](c, "POST", at+"/backup/back", keeping.TakeBack{Path: crate, Files: []string{list["cut.otio"].Place}})
		is, _ := os.ReadFile(doc)
		if len(done.Written) != 2 || !strings.Contains(string(is), "d.wav") || strings.Contains(string(is), "scene.gltf") {
			t.Errorf("%s: %+v\n%s", name, done, is)
		}
		c.wait(send[api.Started](c, "POST", at+"/trace", nil).Job.ID)
		sum := get[tracing.Summary](c, at)
		if sum.Missing != 0 {
			t.Errorf("%s: %+v", name, sum)
		}
	}
}

// TestTakenHostile: out of a crate that somebody made to do harm nothing is taken to a hidden place, or to where the
// project does not reach; nothing that is taken can be run; and one choice that cannot be taken writes nothing at all.
func TestTakenHostile(t *testing.T) {
	c := start(t, map[string]string{"film/cut.otio": timeline("a.wav"), "film/a.wav": "a", "crate/bagit.txt": "BagIt-Version: 1.0\nTag-File-Character-Encoding: UTF-8\n"})
	p := c.open("film/cut.otio")
	at := fmt.Sprintf("/api/projects/%d", p.ID)
	crate := filepath.Join(c.dir, "crate")
	list := ""
	for name, text := range map[string]string{".git/hooks/pre-commit": "#!/bin/sh\n", "mix/.hidden/x.wav": "x", "mix/run.sh": "#!/bin/sh\n", "cut.otio": timeline("a.wav", "/etc/passwd", "../../../../etc/shadow", "mix/run.sh")} {
		is := coretest.Write(t, filepath.Join(crate, "data", filepath.FromSlash(name)), text)
		os.Chmod(is, 0o755)
		list += fmt.Sprintf("%x  data/%s\n", sha256.Sum256([]byte(text)), name)
	}
	list += fmt.Sprintf("%x  data/../../film/evil.wav\n", sha256.Sum256([]byte("x")))
	coretest.Write(t, filepath.Join(crate, "manifest-sha256.txt"), list)
	var places []string
	for _, f := range get[keeping.HeldFiles](c, at+"/backup/files?path="+url.QueryEscape(crate)).List {
		hidden := strings.Contains(f.Place, ".git") || strings.Contains(f.Place, ".hidden")
		if strings.Contains(f.Place, "evil") || hidden != strings.Contains(f.Why, "hidden") {
			t.Errorf("%+v", f)
		}
		places = append(places, f.Place)
	}
	before := coretest.Sums(t, filepath.Join(c.dir, "film"))
	for _, chosen := range [][]string{places, {"../../film/evil.wav"}, {"/etc/passwd"}, {"mix/run.sh", ".git/hooks/pre-commit"}} {
		if status, body, _ := c.ask("POST", at+"/backup/back", keeping.TakeBack{Path: crate, Files: chosen}); status != 409 {
			t.Errorf("%v: %d %s", chosen, status, body)
		}
	}
	if after := coretest.Sums(t, filepath.Join(c.dir, "film")); fmt.Sprint(after) != fmt.Sprint(before) {
		t.Errorf("%v", after)
	}
	done := send[keeping.RestoredNow](c, "POST", at+"/backup/back", keeping.TakeBack{Path: crate, Files: []string{"cut.otio"}})
	for _, f := range []string{"film/cut.otio", "film/mix/run.sh"} {
		if fi, err := os.Stat(filepath.Join(c.dir, filepath.FromSlash(f))); err != nil || fi.Mode()&0o111 != 0 {
			t.Errorf("%s: %v %v", f, fi, err)
		}
	}
	if len(done.Written) != 2 {
		t.Errorf("%+v", done)
	}
}
