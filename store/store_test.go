package store_test

import (
	"context"
	"database/sql"
	"errors"
	"fmt"
	"os"
	"path/filepath"
	"slices"
	"strings"
	"testing"
	"time"

	"boundcrate/core/disk/drive"
	"boundcrate/core/disk/index"
	"boundcrate/core/disk/index/indextest"
	"boundcrate/core/mend/mend"
	"boundcrate/core/road/decide"
	"boundcrate/core/road/graph"
	"boundcrate/core/road/may"
	"boundcrate/core/road/resolve"
	"boundcrate/core/road/trace"
	"boundcrate/core/text/format/all"
	"boundcrate/store"
)

func open(t testing.TB, dir string) *store.Store {
	t.Helper()
	s, err := store.Open(dir)
	if err != nil {
		t.Fatal(err)
	}
	t.Cleanup(func() { s.Close() })
	return s
}

func memory(t testing.TB, s *store.Store, drives ...drive.Drive) *store.Memory {
	t.Helper()
	m, err := s.Memory(drives)
	if err != nil {
		t.Fatal(err)
	}
	t.Cleanup(func() { m.Close() })
	return m
}

// film is a folder with a document of n clips, all there.
func film(t testing.TB, n int) (dir, doc string) {
	t.Helper()
	dir = t.TempDir()
	list := "#EXTM3U\n"
	for i := range n {
		name := fmt.Sprintf("take %d.wav", i)
		if err := os.WriteFile(filepath.Join(dir, name), fmt.Appendf(nil, "sound %d", i), 0o644); err != nil {
			t.Fatal(err)
		}
		list += name + "\n"
	}
	doc = filepath.Join(dir, "list.m3u")
	if err := os.WriteFile(doc, []byte(list), 0o644); err != nil {
		t.Fatal(err)
	}
	return dir, doc
}

func trail(t testing.TB, doc string, repairs ...resolve.Repair) *graph.Graph {
	t.Helper()
	return trailOn(t, nil, doc, repairs...)
}

// trailOn knows drives, so that files have their identities on them.
func trailOn(t testing.TB, drives []drive.Drive, doc string, repairs ...resolve.Repair) *graph.Graph {
	t.Helper()
	g, err := trace.Run(context.Background(), trace.Options{Formats: all.Formats(), Reach: drive.System{Drives: drives}, Drives: drives, Repairs: repairs}, doc)
	if err != nil {
		t.Fatal(err)
	}
	return g
}

// TestRemember: what was seen is known again after the application ended; a
// file that did not change is not read again; one that did is.
func TestRemember(t *testing.T) {
	dir, doc := film(t, 3)
	data := t.TempDir()
	s := open(t, data)
	now := time.Date(2026, 3, 4, 5, 6, 7, 0, time.UTC)
	var read int64
	remember := func(g *graph.Graph) {
		t.Helper()
		read = 0
		if err := memory(t, s).Remember(context.Background(), g, drive.System{}, nil, now, func(done, _ int64) { read = done }); err != nil {
			t.Fatal(err)
		}
	}
	remember(trail(t, doc))
	if read == 0 {
		t.Error("nothing was read")
	}
	if remember(trail(t, doc)); read != 0 {
		t.Errorf("%d bytes were read again", read)
	}
	changed := filepath.Join(dir, "take 1.wav")
	if err := os.WriteFile(changed, []byte("another take"), 0o644); err != nil {
		t.Fatal(err)
	}
	if remember(trail(t, doc)); read != int64(len("another take")) {
		t.Errorf("%d bytes were read", read)
	}
	s.Close()
	s = open(t, data)
	last, ok := memory(t, s).Last(changed)
	if !ok || last.Size != int64(len("another take")) || len(last.SHA256) != 64 || !last.At.Equal(now) {
		t.Errorf("%+v %v", last, ok)
	}
	if _, ok := memory(t, s).Last(filepath.Join(dir, "none")); ok {
		t.Error("something never seen is known")
	}
	// What a repair found is also known under the place that is asked for.
	moved := filepath.Join(dir, "moved.wav")
	if err := os.Rename(filepath.Join(dir, "take 2.wav"), moved); err != nil {
		t.Fatal(err)
	}
	remember(trail(t, doc, resolve.Repair{From: filepath.Join(dir, "take 2.wav"), To: moved}))
	a, _ := memory(t, s).Last(moved)
	if b, ok := memory(t, s).Last(filepath.Join(dir, "take 2.wav")); !ok || a.SHA256 != b.SHA256 {
		t.Error("the old place is not known any more")
	}
}

// TestIdentity: what was seen on a drive is known when the drive comes back
// under another mount.
func TestIdentity(t *testing.T) {
	dir, doc := film(t, 2)
	s := open(t, t.TempDir())
	if err := s.PutDrive("Shuttle", dir, "removable", false); err != nil {
		t.Fatal(err)
	}
	if err := memory(t, s).Remember(context.Background(), trail(t, doc), drive.System{}, nil, time.Now(), nil); err != nil {
		t.Fatal(err)
	}
	if err := s.KeepUses(0, drive.System{}, all.Formats(), time.Now(), trailOn(t, must(s.CoreDrives()), doc)); err != nil {
		t.Fatal(err)
	}
	elsewhere := filepath.Join(t.TempDir(), "mnt")
	if err := errors.Join(os.Rename(dir, elsewhere), s.PutDrive("Shuttle", elsewhere, "removable", false)); err != nil {
		t.Fatal(err)
	}
	if _, ok := memory(t, s).Last(filepath.Join(elsewhere, "take 1.wav")); !ok {
		t.Error("the drive came back and nothing on it is known")
	}
	uses, err := must(s.Ledger(all.Formats())).Into(filepath.Join(elsewhere, "take 0.wav"))
	if err != nil || len(uses) != 1 || uses[0].Document != filepath.Join(elsewhere, "list.m3u") || uses[0].Role != may.Read {
		t.Errorf("%+v %v", uses, err)
	}
	// Traced again without it, the file is used no more.
	g := trailOn(t, must(s.CoreDrives()), filepath.Join(elsewhere, "list.m3u"))
	g.References = g.References[1:]
	if err := s.KeepUses(0, drive.System{}, all.Formats(), time.Now(), g); err != nil {
		t.Fatal(err)
	}
	if uses, _ := must(s.Ledger(all.Formats())).Into(filepath.Join(elsewhere, "take 0.wav")); len(uses) != 0 {
		t.Errorf("still used: %+v", uses)
	}
}

func must[T any](v T, err error) T {
	if err != nil {
		panic(err)
	}
	return v
}

// TestDrives: a drive keeps its id when it comes back under another mount.
func TestDrives(t *testing.T) {
	s := open(t, t.TempDir())
	var ids []string
	for _, dir := range []string{"/a", "/b"} {
		if err := s.PutDrive("Bench", dir, "fixed", false); err != nil {
			t.Fatal(err)
		}
		ids = append(ids, must(s.Drives())[0].ID)
	}
	if err := s.PutDrive("Alder", "/c", "network", true); err != nil {
		t.Fatal(err)
	}
	list := must(s.Drives())
	if len(list) != 2 || list[0].Name != "Alder" || list[1].Dir != "/b" || ids[0] != ids[1] || list[1].ID != ids[0] || !list[0].Stand {
		t.Errorf("%+v %v", list, ids)
	}
}

// TestDecisions: what is decided is kept in its order, one act at a time, is
// undone and redone as it was taken, and goes with the project.
func TestDecisions(t *testing.T) {
	data := t.TempDir()
	s := open(t, data)
	now := time.Now()
	p := must(s.AddProject("Film", []string{"/d/film.otio", "/d/notes.csv"}, "/d", now))
	if again := must(s.AddProject("Film two", []string{"/d/film.otio", "/d/notes.csv"}, "/", now)); again.ID != p.ID || again.Root != "/" {
		t.Errorf("%+v", again)
	}
	if other := must(s.AddProject("Film", []string{"/d/film.otio"}, "/d", now)); other.ID == p.ID {
		t.Error("another choice of documents is another project")
	}
	name := "new.wav"
	at := func(p string) drive.Path { return drive.Path{Drive: "d", Path: p} }
	act := func(list ...decide.Decision) {
		t.Helper()
		if err := s.Decide(p.ID, list...); err != nil {
			t.Fatal(err)
		}
	}
	act(decide.Decision{Kind: decide.Mend, From: at("/a"), To: at("/a2"), Certainty: "certain", Reasons: []byte(`["x"]`), At: now}, decide.Decision{Kind: decide.Mend, From: at("/b"), To: at("/b2"), At: now})
	act(decide.Decision{Kind: decide.Wish, File: at("/c"), Name: &name, By: decide.Mention{Document: at("/film.otio"), Owner: "clip", Written: "c.wav", Nth: 2}, At: now})
	s.Close()
	s = open(t, data)
	log := must(s.Decisions(p.ID))
	if len(log) != 3 || log[0].Batch != log[1].Batch || log[1].Batch == log[2].Batch || *log[2].Name != name || log[2].Folder != nil || log[2].By.Nth != 2 || string(log[0].Reasons) != `["x"]` {
		t.Fatalf("%+v", log)
	}
	undo := func() []int64 {
		t.Helper()
		ids := must(s.Decisions(p.ID)).Undo()
		if err := s.SetUndone(p.ID, ids, true); err != nil {
			t.Fatal(err)
		}
		return ids
	}
	if ids := undo(); !slices.Equal(ids, []int64{log[2].ID}) {
		t.Errorf("undone: %v", ids)
	}
	if ids := undo(); len(ids) != 2 {
		t.Errorf("an act of two was undone as %v", ids)
	}
	ids := must(s.Decisions(p.ID)).Redo()
	if err := s.SetUndone(p.ID, ids, false); err != nil || len(ids) != 2 {
		t.Errorf("redone: %v %v", ids, err)
	}
	// A new act ends what could be redone.
	act(decide.Decision{Kind: decide.Leave, File: at("/d"), At: now})
	if ids := must(s.Decisions(p.ID)).Redo(); len(ids) != 0 {
		t.Errorf("still to redo: %v", ids)
	}
	if err := s.DeleteProject(p.ID); err != nil {
		t.Fatal(err)
	}
	if _, err := s.Project(p.ID); !errors.Is(err, store.ErrNotFound) {
		t.Error(err)
	}
	if log := must(s.Decisions(p.ID)); len(log) != 0 {
		t.Error("decisions outlived their project")
	}
	if err := s.SetOut(p.ID, "/x", "note"); !errors.Is(err, store.ErrNotFound) {
		t.Errorf("a forgotten project came back: %v", err)
	}
}

// TestRelease: a database of the release before opens with everything in it
// kept. testdata/release-2.sql is the dump of one that release itself made.
func TestRelease(t *testing.T) {
	text := string(must(os.ReadFile(filepath.Join("testdata", "release-2.sql"))))
	data := t.TempDir()
	db := must(sql.Open("sqlite", filepath.Join(data, "boundcrate.db")))
	if _, err := db.Exec(text); err != nil {
		t.Fatal(err)
	}
	db.Close()
	for _, time := range []string{"first", "second"} {
		s := open(t, data)
		drives := must(s.CoreDrives())
		if len(drives) != 2 || drives[0].Name != "Bench" || drives[0].ID != "371d8814-3558-49b7-b120-0f8ff085e192" {
			t.Fatalf("%s: %+v", time, drives)
		}
		p := must(s.Project(1))
		if p.Name != "Tide Clock film" || !slices.Equal(p.Documents, []string{"/lightship/bench/film/cut.m3u"}) || p.Note != "For the sound desk" || p.Out != "/lightship/shuttle/film" || p.Sealed == "" || p.LastSealed().IsZero() {
			t.Errorf("%s: %+v", time, p)
		}
		log := must(s.Decisions(1))
		repairs := log.Repairs(drives)
		if len(repairs) != 1 || repairs[0].From != "/lightship/bench/film/sound/gull.wav" || repairs[0].To != "/lightship/bench/attic/gull cry.wav" {
			t.Errorf("%s: repairs %+v", time, repairs)
		}
		i := slices.IndexFunc(log, func(d decide.Decision) bool { return d.Kind == decide.Wish })
		if i < 0 || *log[i].Folder != "horns" || *log[i].Name != "foghorn" || log[i].File.String() != drives[0].ID+":/film/sound/horn.wav" {
			t.Errorf("%s: wishes %+v", time, log)
		}
		m := memory(t, s)
		if last, ok := m.Last("/lightship/bench/film/sound/gull.wav"); !ok || last.Size != 4 || !strings.HasPrefix(last.SHA256, "88c3ca28") || last.At.IsZero() {
			t.Errorf("%s: %+v %v", time, last, ok)
		}
		if jobs := must(s.Jobs(10)); len(jobs) != 4 {
			t.Errorf("%s: jobs %+v", time, jobs)
		}
		s.Close()
	}
}

// TestIndex: the index on disk behaves as the one in memory, and one made anew
// after a change tells of the change.
func TestIndex(t *testing.T) {
	fill := func(t *testing.T, s *store.Store, dir string) *index.Memory {
		t.Helper()
		drives := must(s.CoreDrives())
		if err := s.Refresh(context.Background(), drive.System{}, drives, []string{dir}, time.Now(), nil); err != nil {
			t.Fatal(err)
		}
		return must(s.Index(drives, dir))
	}
	indextest.Run(t, true, func(t *testing.T, dir string) index.Index { return fill(t, open(t, t.TempDir()), dir) })
	dir, _ := film(t, 3)
	s := open(t, t.TempDir())
	if err := s.PutDrive("Bench", dir, "fixed", false); err != nil {
		t.Fatal(err)
	}
	if x := fill(t, s, dir); x.Len() != 4 {
		t.Errorf("%d files", x.Len())
	}
	if err := errors.Join(os.Remove(filepath.Join(dir, "take 0.wav")), os.Mkdir(filepath.Join(dir, "new"), 0o755), os.Rename(filepath.Join(dir, "take 1.wav"), filepath.Join(dir, "new", "take 1.wav"))); err != nil {
		t.Fatal(err)
	}
	x := fill(t, s, dir)
	named := must(x.Named("take 1.wav"))
	if x.Len() != 3 || len(named) != 1 || named[0].Path != filepath.Join(dir, "new", "take 1.wav") || len(must(x.Named("take 0.wav"))) != 0 {
		t.Errorf("%d files, %+v", x.Len(), named)
	}
	// Other bytes under the same name, in a folder of the same names.
	if err := os.WriteFile(filepath.Join(dir, "take 2.wav"), []byte("longer than it was"), 0o644); err != nil {
		t.Fatal(err)
	}
	x = fill(t, s, dir)
	if sized := must(x.Sized(18)); x.Len() != 3 || len(sized) != 1 || sized[0].Path != filepath.Join(dir, "take 2.wav") {
		t.Errorf("%d files, %+v", x.Len(), sized)
	}
	if x = fill(t, s, dir); x.Len() != 3 || len(must(x.Named("take 2.wav"))) != 1 {
		t.Errorf("looked through again with nothing changed: %d files", x.Len())
	}
	// What was seen of a file is told of it until it changes.
	m := memory(t, s)
	take := filepath.Join(dir, "take 2.wav")
	sum := must(m.Hash(context.Background(), drive.System{}, take))
	if got := must(fill(t, s, dir).Hashed(sum)); len(got) != 1 || got[0].Path != take {
		t.Errorf("by content: %+v", got)
	}
	if err := os.WriteFile(take, []byte("something else now"), 0o644); err != nil {
		t.Fatal(err)
	}
	if got := must(fill(t, s, dir).Hashed(sum)); len(got) != 0 {
		t.Errorf("by a content that it has no more: %+v", got)
	}
	// What was told of a file that was written here is known without a look.
	stat := must(drive.System{}.Stat(take))
	told := strings.Repeat("5", 64)
	if err := m.Made(map[string]mend.Seen{take: {Size: stat.Size, ModTime: stat.ModTime, Node: stat.Node, SHA256: told}}); err != nil {
		t.Fatal(err)
	}
	if got := must(m.Hash(context.Background(), drive.System{}, take)); got != told {
		t.Errorf("%s was read again: %s", take, got)
	}
	if err := os.WriteFile(take, []byte("once more something else"), 0o644); err != nil {
		t.Fatal(err)
	}
	if got := must(m.Hash(context.Background(), drive.System{}, take)); got == told {
		t.Error("what was told outlived the content")
	}
	// When it was looked through is told though nothing changed.
	was := must(s.Indexed(must(s.Drives())[0].ID))
	fill(t, s, dir)
	if is := must(s.Indexed(must(s.Drives())[0].ID)); !is.At.After(was.At) || is.Files != 3 {
		t.Errorf("%+v, then %+v", was, is)
	}
}

// TestInterrupted: a job that ran when the application ended did not finish, and
// a file that is no database is refused by name.
func TestInterrupted(t *testing.T) {
	data := filepath.Join(t.TempDir(), "data")
	s := open(t, data)
	if err := errors.Join(s.PutJob(store.Job{ID: "1", State: "running"}), s.PutJob(store.Job{ID: "2", State: "done"}), s.Interrupted(time.Now())); err != nil {
		t.Fatal(err)
	}
	for _, j := range must(s.Jobs(10)) {
		if want := map[string]string{"1": "failed", "2": "done"}[j.ID]; j.State != want {
			t.Errorf("job %s is %s", j.ID, j.State)
		}
	}
	if info, err := os.Stat(data); err != nil || info.Mode().Perm() != 0o700 {
		t.Errorf("the data folder is open to others: %v %v", info.Mode(), err)
	}
	broken := t.TempDir()
	if err := os.WriteFile(filepath.Join(broken, "boundcrate.db"), []byte("this is no database, and it is long enough to be asked"), 0o644); err != nil {
		t.Fatal(err)
	}
	if _, err := store.Open(broken); err == nil || !strings.Contains(err.Error(), "boundcrate.db") {
		t.Error("a broken database was opened, or not named:", err)
	}
}

// BenchmarkRemember keeps 2,000 files in one go.
func BenchmarkRemember(b *testing.B) {
	_, doc := film(b, 2000)
	g := trail(b, doc)
	for b.Loop() {
		b.StopTimer()
		s := open(b, b.TempDir())
		m := memory(b, s)
		b.StartTimer()
		if err := m.Remember(context.Background(), g, drive.System{}, nil, time.Now(), nil); err != nil {
			b.Fatal(err)
		}
	}
}

// TestHashedSoon: what is kept a second later is known at once, and still known when the memory was closed.
func TestHashedSoon(t *testing.T) {
	s, dir := open(t, t.TempDir()), t.TempDir()
	m := must(s.Memory(nil))
	sums := map[string]string{}
	for i := range 30 {
		p := filepath.Join(dir, fmt.Sprint(i, ".wav"))
		if err := os.WriteFile(p, []byte{byte(i)}, 0o644); err != nil {
			t.Fatal(err)
		}
		sums[p] = must(m.Hash(context.Background(), drive.System{}, p))
	}
	known := func(m *store.Memory, when string) {
		for p, sum := range sums {
			if is, ok := m.Last(p); !ok || is.SHA256 != sum {
				t.Errorf("%s: %s is known as %+v", when, p, is)
			}
		}
	}
	known(m, "at once")
	if err := m.Close(); err != nil {
		t.Fatal(err)
	}
	known(memory(t, s), "by another")
}
