package connect_test

import (
	"context"
	"fmt"
	"os"
	"path/filepath"
	"strings"
	"testing"
	"time"

	"boundcrate/core/bring/connect"
	"boundcrate/core/coretest"
	"boundcrate/core/disk/drive"
	"boundcrate/core/disk/edition"
	"boundcrate/core/mend/mend"
	"boundcrate/core/pack/receive"
	"boundcrate/core/pack/seal"
	"boundcrate/core/pack/stow"
	"boundcrate/core/road/graph"
	"boundcrate/core/road/origin"
	"boundcrate/core/road/trace"
	"boundcrate/core/text/format/all"
)

func cut(urls ...string) string {
	var clips []string
	for i, u := range urls {
		clips = append(clips, fmt.Sprintf(`{"OTIO_SCHEMA":"Clip.2","name":"clip %d","media_references":{"DEFAULT_MEDIA":{"OTIO_SCHEMA":"ExternalReference.1","target_url":%q}}}`, i, u))
	}
	return `{"OTIO_SCHEMA":"Timeline.1","tracks":{"OTIO_SCHEMA":"Stack.1","children":[{"OTIO_SCHEMA":"Track.1","name":"A1","children":[` + strings.Join(clips, ",") + `]}]}}`
}

func tracing() trace.Options { return trace.Options{Formats: all.Formats(), Reach: drive.System{}} }

// sealed seals a document with all it needs.
func sealed(t *testing.T, doc, out string) {
	t.Helper()
	g, err := trace.Run(t.Context(), tracing(), doc)
	if err != nil {
		t.Fatal(err)
	}
	p, err := stow.Make(t.Context(), g, stow.Options{})
	if err == nil {
		_, err = seal.Run(t.Context(), seal.Options{Plan: p, Out: out, Trace: tracing(), Now: time.Now()})
	}
	if err != nil {
		t.Fatal(err)
	}
}

func run(t *testing.T, o connect.Options, docs ...string) *connect.Done {
	t.Helper()
	o.Documents, o.Trace, o.Keep, o.Journals = docs, tracing(), edition.Keeper{}, t.TempDir()
	o.Judge = func(g *graph.Graph) *origin.Judged { return origin.Judge(g, origin.Options{Reach: drive.System{}}) }
	o.Reading = func(g *graph.Graph) mend.Reading {
		return mend.Reading{Reach: drive.System{}, Hash: func(ctx context.Context, p string) (string, error) {
			return drive.Fingerprint(ctx, drive.System{}, p, nil)
		}, Memory: mend.Nothing, Used: mend.Used(g)}
	}
	done, err := connect.Run(t.Context(), o)
	if err != nil {
		t.Fatal(err)
	}
	return done
}

// TestCameApart: a document comes by itself, its files in a crate: what the sender's record tells of it
// is connected, an edition kept; a document of that name that says something else is not.
func TestCameApart(t *testing.T) {
	dir := t.TempDir()
	doc := coretest.Write(t, dir+"/sender/cut.otio", cut("../lib/wave.wav", "sound/wave.wav", "sound/gull.wav"))
	for p, text := range map[string]string{"lib/wave.wav": "one", "sender/sound/wave.wav": "two", "sender/sound/gull.wav": "three"} {
		coretest.Write(t, filepath.Join(dir, p), text)
	}
	sealed(t, doc, dir+"/crate.zip")
	rep, err := receive.Run(t.Context(), receive.Options{Crate: dir + "/crate.zip", Into: dir + "/in", Formats: all.Formats()})
	if err != nil {
		t.Fatal(err)
	}
	text, err := os.ReadFile(doc)
	if err != nil {
		t.Fatal(err)
	}
	mail := coretest.Write(t, dir+"/far/mail/cut.otio", string(text))
	done := run(t, connect.Options{Folders: []string{rep.Into}, Meant: rep.Meant, At: rep.At}, mail)
	if len(done.Connected) != 1 || done.Connected[0].References != 3 || len(done.Left) != 0 {
		t.Errorf("%+v left %+v", done.Connected, done.Left)
	}
	if b, err := os.ReadFile(done.Connected[0].Edition); err != nil || string(b) != string(text) {
		t.Errorf("the edition is not what stood there: %v", err)
	}
	var got []string
	for i := range done.Graph.References {
		b, _ := os.ReadFile(done.Graph.References[i].Path)
		got = append(got, string(b))
	}
	if strings.Join(got, " ") != "one two three" {
		t.Errorf("connected to %q", got)
	}
	// The same name, other clips: names alone are never certain.
	other := coretest.Write(t, dir+"/other/cut.otio", cut("sound/horn.wav", "x/gull.wav"))
	done = run(t, connect.Options{Folders: []string{rep.Into}, Meant: rep.Meant, At: rep.At}, other)
	if len(done.Connected) != 0 || len(done.Left) != 2 {
		t.Errorf("another document: %+v left %+v", done.Connected, done.Left)
	}
	if b, _ := os.ReadFile(other); string(b) != cut("sound/horn.wav", "x/gull.wav") {
		t.Error("a document was written to for nothing")
	}
}

// TestNothingOutside: a received document that names what the system has is not connected to it, and
// namesakes in a folder that nobody sealed are not certain.
func TestNothingOutside(t *testing.T) {
	dir := t.TempDir()
	doc := coretest.Write(t, dir+"/mail/cut.otio", cut("../old/wave.wav", "gone/hostname"))
	coretest.Write(t, dir+"/bundle/wave.wav", "which")
	coretest.Write(t, dir+"/bundle/deep/wave.wav", "or which")
	done := run(t, connect.Options{Folders: []string{dir + "/bundle"}}, doc)
	if len(done.Connected) != 0 || len(done.Left) != 2 || done.Left[0].Why != connect.NotCertain || done.Left[1].Why != connect.NotFound {
		t.Errorf("%+v left %+v", done.Connected, done.Left)
	}
	if list, _ := filepath.Glob(dir + "/mail/*"); len(list) != 1 {
		t.Errorf("an edition was kept of a document that was not written to: %v", list)
	}
}
