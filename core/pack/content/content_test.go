package content_test

import (
	"bytes"
	"context"
	"errors"
	"io/fs"
	"os"
	"path/filepath"
	"testing"
	"time"

	"boundcrate/core/coretest"
	"boundcrate/core/disk/drive"
	"boundcrate/core/pack/content"
)

func asIs(t *testing.T, p string) content.AsIs {
	t.Helper()
	info, err := drive.System{}.Stat(p)
	if err != nil {
		t.Fatal(err)
	}
	return content.AsIs{Reach: drive.System{}, Path: p, Info: info}
}

// TestIntent: what will be written has an intent; another file, other bytes or
// another time is another intent, and the same is the same.
func TestIntent(t *testing.T) {
	dir := coretest.Lay(t, map[string]string{"a": "one", "b": "one", "c": "other"})
	seen := map[string]string{}
	for what, c := range map[string]content.Content{
		"a": asIs(t, dir+"/a"), "b": asIs(t, dir+"/b"), "c": asIs(t, dir+"/c"), "text": content.Generated("one"), "other text": content.Generated("two"),
	} {
		if was := seen[c.Intent()]; was != "" {
			t.Errorf("%s and %s have one intent", what, was)
		}
		seen[c.Intent()] = what
	}
	a := asIs(t, dir+"/a")
	if asIs(t, dir+"/a").Intent() != a.Intent() {
		t.Error("the same file has two intents")
	}
	later := time.Now().Add(time.Hour)
	if err := os.Chtimes(dir+"/a", later, later); err != nil {
		t.Fatal(err)
	}
	if asIs(t, dir+"/a").Intent() == a.Intent() {
		t.Error("a file of another time has the same intent")
	}
}

// TestAsIs: the bytes of a file go as they are; one that changed since it was
// planned with, that grew, shrank or went, is an error that names it.
func TestAsIs(t *testing.T) {
	for what, change := range map[string]func(p string) error{
		"": func(string) error { return nil }, "grew": func(p string) error { return os.WriteFile(p, []byte("some text and more"), 0o644) },
		"shrank": func(p string) error { return os.WriteFile(p, []byte("some"), 0o644) }, "went": os.Remove,
		"another time": func(p string) error { return os.Chtimes(p, time.Unix(1, 0), time.Unix(1, 0)) },
	} {
		p := coretest.Write(t, filepath.Join(t.TempDir(), "a.txt"), "some text")
		if err := os.Chmod(p, 0o640); err != nil {
			t.Fatal(err)
		}
		c := asIs(t, p)
		if err := change(p); err != nil {
			t.Fatal(err)
		}
		var b bytes.Buffer
		err := c.WriteTo(context.Background(), &b)
		var changed *content.ChangedError
		var read *content.ReadError
		switch {
		case what == "" && (err != nil || b.String() != "some text" || c.Mode() != 0o640):
			t.Errorf("%q %v %v", b.String(), err, c.Mode())
		case what == "went" && (!errors.As(err, &read) || read.Path != p || !errors.Is(err, fs.ErrNotExist)):
			t.Errorf("%s: %v", what, err)
		case what != "" && what != "went" && (!errors.As(err, &changed) || changed.Path != p):
			t.Errorf("%s: %v", what, err)
		}
		if size, known := c.Size(); !known || size != 9 {
			t.Errorf("%s: %d %v", what, size, known)
		}
	}
	ctx, stop := context.WithCancel(context.Background())
	stop()
	if err := asIs(t, coretest.Write(t, filepath.Join(t.TempDir(), "a"), "x")).WriteTo(ctx, &bytes.Buffer{}); !errors.Is(err, context.Canceled) {
		t.Error(err)
	}
}
