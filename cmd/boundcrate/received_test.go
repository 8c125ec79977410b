package main

import (
	"fmt"
	"os"
	"path/filepath"
	"strings"
	"testing"

	"boundcrate/core/coretest"
	"boundcrate/core/say/report"
)

// TestReceivedTwiceAtOnce: of several that receive one crate to one place at once, one does; the others say that it is
// there, or that somebody is at it, and what stands there is whole.
func TestReceivedTwiceAtOnce(t *testing.T) {
	files := map[string]string{}
	var names []string
	for i := range 30 {
		n := fmt.Sprintf("%02d.wav", i)
		files["film/"+n], names = strings.Repeat(n, 40_000), append(names, n)
	}
	files["film/cut.otio"] = cut(names...)
	dir, data := coretest.Lay(t, files), t.TempDir()
	crate := filepath.Join(t.TempDir(), "crate.tar")
	answer[report.Seal](t, data, 0, "seal", "--json", "--out", crate, filepath.Join(dir, "film", "cut.otio"))
	for _, material := range []bool{false, true} {
		into, apart := t.TempDir(), t.TempDir()
		args := []string{"receive", "--json", "--into", into}
		if material {
			args = append(args, "--material", apart)
		}
		codes := make(chan int)
		for range 4 {
			other := t.TempDir()
			go func() {
				code, _, _ := invoke(t, other, append(args, crate)...)
				codes <- code
			}()
		}
		did := 0
		for range 4 {
			if code := <-codes; code == 0 {
				did++
			} else if code != notDone {
				t.Errorf("it ended with %d", code)
			}
		}
		if did != 1 {
			t.Errorf("%d received it", did)
		}
		for _, at := range []string{into, apart} {
			if left, _ := filepath.Glob(filepath.Join(at, ".*")); len(left) > 0 {
				t.Errorf("left behind: %v", left)
			}
		}
		if code, out, errs := invoke(t, data, "trace", filepath.Join(into, "crate", map[bool]string{false: "data/"}[material], "cut.otio")); code != 0 {
			t.Errorf("%s%s", out, errs)
		}
	}
}

// TestLongNote: a note of a megabyte travels as it was written, in READ ME, sheet and bag, and what looks like HTML in
// it is text.
func TestLongNote(t *testing.T) {
	dir, data := coretest.Lay(t, map[string]string{"film/cut.otio": cut("a.wav"), "film/a.wav": "a"}), t.TempDir()
	line := "Take 7 is the right one, <b>not</b> 8 & 9. "
	note := strings.Repeat(line, 1<<20/len(line))
	recipe := coretest.Write(t, filepath.Join(dir, "recipe.yaml"), fmt.Sprintf("note: %q\n", note))
	crate := filepath.Join(t.TempDir(), "crate")
	answer[report.Seal](t, data, 0, "seal", "--json", "--recipe", recipe, "--out", crate, filepath.Join(dir, "film", "cut.otio"))
	got := answer[report.Receive](t, data, 0, "receive", "--json", "--into", t.TempDir(), crate)
	for name, want := range map[string]string{"READ ME.txt": line, "sheet.html": "Take 7 is the right one, &lt;b&gt;not&lt;/b&gt; 8 &amp; 9."} {
		b, err := os.ReadFile(filepath.Join(got.Into, name))
		if n := strings.Count(strings.Join(strings.Fields(string(b)), " "), strings.TrimSpace(want)); err != nil || n != 1<<20/len(line) {
			t.Errorf("%s has it %d times, %v", name, n, err)
		}
	}
	if code, out, _ := invoke(t, data, "check", got.Into); code != 0 {
		t.Error(out)
	}
}
