package mend_test

import (
	"archive/zip"
	"context"
	"io"
	"os"
	"path/filepath"
	"strings"
	"testing"

	"boundcrate/core/coretest"
	"boundcrate/core/disk/drive"
	"boundcrate/core/disk/edition"
	"boundcrate/core/road/resolve"
	"boundcrate/core/road/tally"
	"boundcrate/core/road/trace"
	"boundcrate/core/text/format/all"
	"boundcrate/core/text/format/formattest"
)

// TestPackages: a document that is packed is mended on disk like any other: the
// place says where its file is now, and every other member is what it was.
func TestPackages(t *testing.T) {
	ctx := context.Background()
	content := `<office:document-content xmlns:office="o" xmlns:draw="d" xmlns:xlink="x"><draw:image xlink:href="../lost/plate.png"/><draw:object xlink:href="./Object 1"/></office:document-content>`
	object := strings.ReplaceAll(strings.ReplaceAll(content, "../lost", "../../lost"), `<draw:object xlink:href="./Object 1"/>`, "")
	json := `{"asset":{"version":"2.0"},"images":[{"uri":"lost/plate.png"}]}    `
	glb := "glTF\x02\x00\x00\x00" + le(12+8+len(json)+12) + le(len(json)) + "JSON" + json + le(4) + "BIN\x00abcd"
	for name, doc := range map[string]string{
		"letter.odt": formattest.Zip("mimetype", "application/vnd.oasis.opendocument.text", "content.xml", content, "Object 1/content.xml", object, "Pictures/1.png", "1"),
		"talks.qdpx": formattest.Zip("project.qde", `<Project xmlns="urn:QDA-XML:project:1.0"><Sources><PictureSource name="p" path="relative://lost/plate.png"/><TextSource name="t" plainTextPath="internal://t.txt"/></Sources></Project>`, "sources/t.txt", "t"),
		"deck.glb":   glb, "page.svgz": formattest.Gzip(`<svg xmlns="http://www.w3.org/2000/svg"><image href="lost/plate.png"/></svg>`),
	} {
		dir := t.TempDir()
		p := coretest.Write(t, filepath.Join(dir, name), doc)
		if err := os.Chmod(p, 0o600); err != nil {
			t.Fatal(err)
		}
		coretest.Write(t, filepath.Join(dir, "attic/plate é.png"), "plate")
		o := trace.Options{Formats: all.Formats(), Reach: drive.System{}, Root: dir}
		o.Repairs = []resolve.Repair{{From: filepath.Join(dir, "lost/plate.png"), To: filepath.Join(dir, "attic/plate é.png")}}
		g, err := trace.Run(ctx, o, p)
		if err != nil {
			t.Fatal(name, err)
		}
		places := 0
		for i := range g.References {
			if g.References[i].Repaired {
				places++
			}
		}
		written, problems, err := write(g, o, edition.Keeper{}, t.TempDir())
		if err != nil || len(problems) > 0 || len(written) != 1 || written[0].Mentions != places || places == 0 {
			t.Errorf("%s: %v %v %v", name, written, problems, err)
			continue
		}
		o.Repairs = nil
		if g, err = trace.Run(ctx, o, p); err != nil || tally.Of(g, nil, nil).NeedsPerson() {
			t.Errorf("%s: once written: %v", name, err)
		}
		after, err := os.ReadFile(p)
		if err != nil {
			t.Fatal(err)
		}
		if kept, err := os.ReadFile(written[0].Edition); err != nil || string(kept) != doc {
			t.Errorf("%s: the edition is not the earlier document %v", name, err)
		}
		if fi, err := os.Stat(p); err != nil || fi.Mode().Perm() != 0o600 {
			t.Errorf("%s: its permissions changed: %v", name, fi.Mode())
		}
		if name == "deck.glb" && !strings.HasSuffix(string(after), le(4)+"BIN\x00abcd") {
			t.Errorf("%s: %q", name, after)
		}
		was, now := members(t, doc), members(t, string(after))
		if len(was) != len(now) {
			t.Errorf("%s: %d members became %d", name, len(was), len(now))
		}
		for m, text := range was {
			if now[m] != text && !strings.Contains(text, "plate.png") {
				t.Errorf("%s: the member %s changed", name, m)
			}
		}
	}
}

// le is a number of four bytes, the least first.
func le(n int) string { return string([]byte{byte(n), byte(n >> 8), byte(n >> 16), byte(n >> 24)}) }

// members are the contents of a zip package, nothing of any other file.
func members(t *testing.T, s string) map[string]string {
	t.Helper()
	out := map[string]string{}
	zr, err := zip.NewReader(strings.NewReader(s), int64(len(s)))
	if err != nil {
		return out
	}
	for _, f := range zr.File {
		r, err := f.Open()
		if err != nil {
			t.Fatal(err)
		}
		b, err := io.ReadAll(r)
		if err != nil {
			t.Fatal(err)
		}
		r.Close()
		out[f.Name] = string(b)
	}
	return out
}
