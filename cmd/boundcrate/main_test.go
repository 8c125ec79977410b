package main

import (
	"bytes"
	"encoding/json"
	"errors"
	"fmt"
	"math/rand/v2"
	"os"
	"os/exec"
	"path/filepath"
	"strings"
	"syscall"
	"testing"
	"time"

	"boundcrate/core/coretest"
)

// TestMain lets the test binary stand for the program, so that every test runs
// real processes.
func TestMain(m *testing.M) {
	if os.Getenv("BOUNDCRATE_MAIN") == "1" {
		main()
	}
	os.Exit(m.Run())
}

func command(t *testing.T, data string, args ...string) *exec.Cmd {
	t.Helper()
	exe, err := os.Executable()
	if err != nil {
		t.Fatal(err)
	}
	c := exec.Command(exe, args...)
	c.Env = append(os.Environ(), "BOUNDCRATE_MAIN=1", "XDG_DATA_HOME="+data, "XDG_CONFIG_HOME="+data)
	return c
}

// invoke runs the program and returns its exit status and what it printed.
func invoke(t *testing.T, data string, args ...string) (int, string, string) {
	t.Helper()
	c := command(t, data, args...)
	var out, errs bytes.Buffer
	c.Stdout, c.Stderr = &out, &errs
	err := c.Run()
	var exit *exec.ExitError
	if err != nil && !errors.As(err, &exit) {
		t.Fatal(err)
	}
	return c.ProcessState.ExitCode(), out.String(), errs.String()
}

func clips(names ...string) string {
	list := make([]string, len(names))
	for i, n := range names {
		list[i] = fmt.Sprintf(`{"OTIO_SCHEMA":"Clip.1","name":"c%d","media_reference":{"OTIO_SCHEMA":"ExternalReference.1","target_url":%q}}`, i, n)
	}
	return `{"OTIO_SCHEMA":"Timeline.1","tracks":{"OTIO_SCHEMA":"Stack.1","children":[{"OTIO_SCHEMA":"Track.1","name":"A1","children":[` + strings.Join(list, ",") + `]}]}}`
}

// keys are the object keys of a JSON value, for holding a contract.
func keys(t *testing.T, v any) map[string]bool {
	t.Helper()
	m, ok := v.(map[string]any)
	if !ok {
		t.Fatalf("%v is no object", v)
	}
	out := map[string]bool{}
	for k := range m {
		out[k] = true
	}
	return out
}

func holds(t *testing.T, v any, want string) {
	t.Helper()
	have := keys(t, v)
	for _, k := range strings.Fields(want) {
		if !have[k] {
			t.Errorf("the key %q is missing in %v", k, v)
		}
	}
}

func decode(t *testing.T, s string) map[string]any {
	t.Helper()
	var m map[string]any
	if err := json.Unmarshal([]byte(s), &m); err != nil {
		t.Fatalf("%v: %s", err, s)
	}
	return m
}

// TestContract goes the road on the command line: the keys, states and exit
// statuses of the contract.
func TestContract(t *testing.T) {
	dir := t.TempDir()
	data := filepath.Join(dir, "home")
	doc := coretest.Write(t, dir+"/film/cut.otio", clips("sound/gull%20cry.wav", "../lib/bell.wav", "sound/gone.wav", "http://example.org/x.wav"))
	coretest.Write(t, dir+"/film/sound/gull cry.wav", "gull")
	coretest.Write(t, dir+"/lib/bell.wav", "bell")
	gone := coretest.Write(t, dir+"/film/sound/gone.wav", "was here")
	if status, _, errs := invoke(t, data, "trace", doc); status != 1 { // the network asset is missing
		t.Fatal(status, errs)
	}
	moved := dir + "/elsewhere/other name.wav"
	coretest.Write(t, moved, "was here")
	if err := os.Remove(gone); err != nil {
		t.Fatal(err)
	}

	status, out, _ := invoke(t, data, "trace", "--json", doc)
	m := decode(t, out)
	holds(t, m, "document format references problems")
	var states []string
	for _, r := range m["references"].([]any) {
		holds(t, r, "document written path state use kind owner guessed")
		states = append(states, r.(map[string]any)["state"].(string))
	}
	first := m["references"].([]any)[0].(map[string]any)
	if status != 1 || m["format"] != "otio" || strings.Join(states, " ") != "here away missing missing" || first["written"] != "sound/gull%20cry.wav" || first["path"] != dir+"/film/sound/gull cry.wav" {
		t.Fatal(status, out)
	}

	status, out, _ = invoke(t, data, "mend", "--search", dir+"/elsewhere", "--json", "--write", doc)
	m = decode(t, out)
	holds(t, m, "document missing")
	missing := m["missing"].([]any)[0]
	holds(t, missing, "document written candidates")
	best := missing.(map[string]any)["candidates"].([]any)[0].(map[string]any)
	holds(t, best, "path certainty score reasons")
	if status != 1 || best["certainty"] != "certain" || best["path"] != moved {
		t.Fatal(status, out)
	}
	if kept, _ := filepath.Glob(dir + "/film/editions/cut.edition-*.otio"); len(kept) != 1 {
		t.Fatal("no edition beside the document", kept)
	}

	crate := dir + "/out/film.zip"
	status, out, _ = invoke(t, data, "seal", "--out", crate, "--json", doc)
	m = decode(t, out)
	holds(t, m, "crate files bytes renamed left parts complete problems")
	if status != 0 || m["complete"] != true || m["files"] != 4.0 {
		t.Fatal(status, out)
	}
	if status, out, _ = invoke(t, data, "check", "--json", crate); status != 0 || decode(t, out)["complete"] != true {
		t.Fatal(status, out)
	}
	if status, out, _ = invoke(t, data, "receive", "--into", dir+"/in", "--json", crate); status != 0 || decode(t, out)["into"] != dir+"/in/film" {
		t.Fatal(status, out)
	}
	if status, _, _ = invoke(t, data, "receive", "--into", dir+"/in", crate); status != 2 {
		t.Error("a crate was unpacked over another", status)
	}
	if status, _, errs := invoke(t, data, "trace", dir+"/in/film/data/cut.otio"); status != 1 {
		t.Error(status, errs)
	}
	coretest.Write(t, dir+"/in/film/data/audio/bell.wav", "damaged")
	if status, _, _ = invoke(t, data, "check", dir+"/in/film"); status != 1 {
		t.Error("damage was not told of", status)
	}
}

// TestRefusals: what cannot be done is status 2 and one clear sentence that
// names the file.
func TestRefusals(t *testing.T) {
	dir := t.TempDir()
	good := coretest.Write(t, dir+"/film/cut.otio", clips("a.wav"))
	coretest.Write(t, dir+"/film/a.wav", "a")
	bad := coretest.Write(t, dir+"/broken.otio", `{"OTIO_SCHEMA":"Timeline.1",`)
	deep := coretest.Write(t, dir+"/deep.otio", `{"OTIO_SCHEMA":"Timeline.1","tracks":`+strings.Repeat("[", 100_000))
	lies := coretest.Write(t, dir+"/lies.glb", "glTF\x02\x00\x00\x00\xff\xff\xff\x00\x10\x00\x00\x00JSON{}")
	recipe := coretest.Write(t, dir+"/recipe.json", `{"layout":"sideways"}`)
	for _, c := range [][]string{
		{"file not found", "trace", dir + "/none.otio"}, {"broken.otio", "trace", bad}, {"deep.otio", "trace", deep}, {"lies.glb", "trace", lies},
		{"not a document", "trace", dir + "/film/a.wav"}, {"not a regular file", "trace", dir + "/film"}, {"NAME=DIR", "trace", "--drive", "x", good},
		{"not a folder", "trace", "--root", good, good}, {"--search", "mend", good}, {"--search", "mend", "--search", dir + "/none", good},
		{"--out", "seal", good}, {"inside the project folder", "seal", "--out", dir + "/film/crate", good}, {"not empty", "seal", "--out", dir, good},
		{"sideways", "seal", "--recipe", recipe, "--out", dir + "/c", good}, {"bagit.txt", "check", dir + "/film"}, {"--into", "receive", dir},
		{"loopback", "serve", "--addr", "0.0.0.0:0"}, {"unknown command", "nonsense"},
	} {
		status, out, errs := invoke(t, dir+"/data", c[1:]...)
		if status != notDone || !strings.Contains(errs, c[0]) || strings.Count(strings.TrimSpace(errs), "\n") > 0 || out != "" {
			t.Errorf("%v: %d %q %q", c[1:], status, errs, out)
		}
	}
}

// TestWrongTypes: what is readable is read, what is not is a problem with its
// line, and the status says that a person is needed.
func TestWrongTypes(t *testing.T) {
	doc := coretest.Write(t, t.TempDir()+"/wrong.gltf", "{\"asset\":{\"version\":\"2.0\"},\n\"images\":7}")
	status, out, _ := invoke(t, t.TempDir(), "trace", "--json", doc)
	problem := decode(t, out)["problems"].([]any)[0]
	holds(t, problem, "path document line message")
	if p := problem.(map[string]any); status != needPerson || p["line"] != 2.0 || p["path"] != doc {
		t.Error(status, out)
	}
}

// TestKilled: a seal that is killed leaves nothing under the crate's name, and
// the next one takes up what was done.
func TestKilled(t *testing.T) {
	dir := t.TempDir()
	var names []string
	for i := range 40 {
		name := fmt.Sprintf("take %d.wav", i)
		coretest.Write(t, dir+"/film/"+name, strings.Repeat(string(rune('a'+i%26)), 8<<20))
		names = append(names, strings.ReplaceAll(name, " ", "%20"))
	}
	doc := coretest.Write(t, dir+"/film/cut.otio", clips(names...))
	crate := dir + "/crate"
	c := command(t, dir+"/data", "seal", "--out", crate, doc)
	if err := c.Start(); err != nil {
		t.Fatal(err)
	}
	for {
		if es, _ := os.ReadDir(crate + ".partial/data/audio"); len(es) > 3 {
			break
		}
		if _, err := os.Stat(crate); err == nil {
			break // quicker than we looked
		}
		time.Sleep(time.Millisecond)
	}
	_ = c.Process.Signal(syscall.SIGKILL)
	_ = c.Wait()
	if _, err := os.Stat(crate); err == nil && !c.ProcessState.Success() {
		t.Error("a half-made crate has its final name")
	}
	if status, out, errs := invoke(t, dir+"/data", "seal", "--out", crate, doc); status != 0 {
		t.Fatal(status, out, errs)
	}
	if status, out, _ := invoke(t, dir+"/data", "check", crate); status != 0 {
		t.Error(status, out)
	}
	if left, _ := filepath.Glob(dir + "/*.partial"); len(left) > 0 {
		t.Error("left over:", left)
	}
}

// TestFullDisk: on a disk without room nothing is left behind and the sentence
// says so, both when it is seen before and when the room ends on the way.
func TestFullDisk(t *testing.T) {
	dir := t.TempDir()
	small := filepath.Join(dir, "small")
	if err := os.Mkdir(small, 0o755); err != nil {
		t.Fatal(err)
	}
	const room = 4 << 20
	if out, err := exec.Command("mount", "-t", "tmpfs", "-o", fmt.Sprintf("size=%d", room), "tmpfs", small).CombinedOutput(); err != nil {
		t.Skipf("a small disk cannot be mounted here: %s", out)
	}
	t.Cleanup(func() { _ = exec.Command("umount", small).Run() })
	doc := coretest.Write(t, dir+"/film/cut.otio", clips("a.wav"))
	for size, says := range map[int]string{2 * room: "are free there", room - 512: "is full"} {
		noise := make([]byte, size) // what cannot be made smaller
		_, _ = rand.NewChaCha8([32]byte{}).Read(noise)
		coretest.Write(t, dir+"/film/a.wav", string(noise))
		for _, end := range []string{"", ".zip"} {
			status, _, errs := invoke(t, dir+"/data", "seal", "--out", small+"/crate"+end, doc)
			if status != notDone || !strings.Contains(errs, says) {
				t.Errorf("%d bytes to crate%s: %d %s", size, end, status, errs)
			}
			if es, _ := os.ReadDir(small); len(es) > 0 {
				t.Errorf("left behind: %v", es)
			}
		}
	}
}

// TestRulesFiles: listed, tested, switched and used, each with its exit status.
func TestRulesFiles(t *testing.T) {
	dir, data := t.TempDir(), t.TempDir()
	good := coretest.Write(t, filepath.Join(dir, "bench.yaml"), "extensions: [show]\ncarrier: text\npaths:\n  - match: '^play (.*)$'\n    base: takes\n")
	bad := coretest.Write(t, filepath.Join(dir, "wrong.yaml"), "extensions: [show]\ncarrier: text\npaths:\n  - match: '^play (.*$'\n")
	doc := coretest.Write(t, filepath.Join(dir, "day.show"), "play horn.wav\n")
	coretest.Write(t, filepath.Join(dir, "takes", "horn.wav"), "h")
	for _, c := range []struct {
		code      int
		out, errs string
		args      []string
	}{
		{0, "There are no rules files", "", []string{"rules", "list"}},
		{0, "line 1     here     used     horn.wav  by the rule of line 4", "", []string{"rules", "test", good, doc}},
		{1, `"finds":[]`, "", []string{"rules", "test", "--json", good, good}},
		{2, "", "line 4: it is no regular expression", []string{"rules", "test", bad, doc}},
		{2, "", "Nothing was switched on", []string{"rules", "on", bad}},
		{2, "", "there is no rules file", []string{"rules", "off", "bench"}},
		{1, "0 references", "", []string{"trace", doc}},
		{0, "1 reference in 1 document: 1 file found", "", []string{"trace", "--rules", good, doc}},
		{2, "", "cannot be used: line 4", []string{"trace", "--rules", bad, doc}},
		{0, "‘bench’ is on", "", []string{"rules", "on", good}},
		{0, `"on":true`, "", []string{"rules", "list", "--json"}},
		{0, "1 reference in 1 document: 1 file found", "", []string{"trace", doc}},
		{0, "Complete", "", []string{"seal", "--out", filepath.Join(t.TempDir(), "crate"), doc}},
		{0, "‘bench’ is off", "", []string{"rules", "off", "bench"}},
		{1, "0 references", "", []string{"trace", doc}},
	} {
		code, out, errs := invoke(t, data, c.args...)
		if code != c.code || !strings.Contains(out, c.out) || !strings.Contains(errs, c.errs) {
			t.Errorf("%v: %d %s%s", c.args, code, out, errs)
		}
	}
	// A crate is checked anywhere: it brings the rules it was made by.
	out := filepath.Join(t.TempDir(), "crate")
	if code, _, errs := invoke(t, data, "seal", "--rules", good, "--out", out, doc); code != 0 {
		t.Fatal(code, errs)
	}
	if code, text, _ := invoke(t, t.TempDir(), "check", "--json", out); code != 0 || !strings.Contains(text, `"complete":true`) {
		t.Error(code, text)
	}
	if err := os.Remove(filepath.Join(out, "data", "audio", "horn.wav")); err != nil {
		t.Fatal(err)
	}
	if code, text, _ := invoke(t, t.TempDir(), "check", "--json", out); code != 1 || !strings.Contains(text, "horn.wav") {
		t.Error(code, text)
	}
}
