package main

import (
	"fmt"
	"math/rand/v2"
	"os"
	"os/exec"
	"path/filepath"
	"strconv"
	"strings"
	"testing"
	"time"
)

// These benchmarks hold the command line against what the system's own programs
// need for the same bytes. Both run in turn, and the ratio is that of the best
// runs: × below 1 is faster than the judge.

// rival measures a command and its judge in turn.
type rival struct {
	best, judge time.Duration
	peak        int64  // bytes
	before      func() // each of the two; nil: nothing is done
}

func (r *rival) run(b *testing.B, judge, own []string) {
	b.Helper()
	measure := func(argv []string, best *time.Duration) {
		c := exec.Command(argv[0], argv[1:]...)
		c.Env = append(os.Environ(), "LC_ALL=C")
		if r.before != nil {
			r.before()
		}
		began := time.Now()
		out, err := c.Output()
		if code := c.ProcessState.ExitCode(); err != nil && code != needPerson {
			b.Fatalf("%v: %v\n%.400s", argv, err, out)
		}
		if took := time.Since(began); *best == 0 || took < *best {
			*best = took
		}
	}
	measure(judge, &r.judge)
	// What the system accounts to a child begins with the memory of this process;
	// time(1) is small.
	if timer, err := exec.LookPath("time"); err == nil {
		said := filepath.Join(b.TempDir(), "peak")
		own = append([]string{timer, "-f", "%M", "-o", said}, own...)
		defer func() {
			text, _ := os.ReadFile(said)
			lines := strings.Fields(string(text)) // before it, that the command ended with 1
			if len(lines) > 0 {
				kb, _ := strconv.ParseInt(lines[len(lines)-1], 10, 64)
				r.peak = max(r.peak, 1024*kb)
			}
		}()
	}
	measure(own, &r.best)
}

func (r *rival) report(b *testing.B, judge string) {
	b.ReportMetric(r.best.Seconds()/r.judge.Seconds(), "×/"+judge)
	b.ReportMetric(r.best.Seconds(), "s/best")
	b.ReportMetric(float64(r.peak)/1e6, "MB/peak")
	b.ReportMetric(0, "ns/op")
}

// program builds the command.
func program(b *testing.B) string {
	b.Helper()
	out := filepath.Join(b.TempDir(), "boundcrate")
	if text, err := exec.Command("go", "build", "-trimpath", "-o", out, ".").CombinedOutput(); err != nil {
		b.Fatalf("%v: %s", err, text)
	}
	return out
}

func need(b testing.TB, names ...string) {
	for _, n := range names {
		if _, err := exec.LookPath(n); err != nil {
			b.Skipf("%s is not installed", n)
		}
	}
}

func timelineOf(clips []string) string {
	return `{"OTIO_SCHEMA":"Timeline.1","tracks":{"OTIO_SCHEMA":"Stack.1","children":[{"OTIO_SCHEMA":"Track.1","name":"A1","kind":"Audio","children":[` + strings.Join(clips, ",") + `]}]}}`
}

func write(b *testing.B, path, text string) string {
	b.Helper()
	if err := os.MkdirAll(filepath.Dir(path), 0o755); err != nil {
		b.Fatal(err)
	}
	if err := os.WriteFile(path, []byte(text), 0o644); err != nil {
		b.Fatal(err)
	}
	return path
}

// BenchmarkMend looks for 1,000 and 4,000 missing files among 200,000 whose
// names are all alike, beside find -printf over the same tree.
func BenchmarkMend(b *testing.B) {
	need(b, "find")
	dir, bin := b.TempDir(), program(b)
	tree := filepath.Join(dir, "tree")
	for n := range 200_000 {
		write(b, fmt.Sprintf("%s/d%02d/s%04d/clip %06d.wav", tree, n/5000, n/100, n), "x")
	}
	for _, missing := range []int{1000, 4000} {
		rng := rand.New(rand.NewPCG(1, 1))
		var clips []string
		for range missing {
			clips = append(clips, fmt.Sprintf(`{"OTIO_SCHEMA":"Clip.1","name":"c","media_reference":{"OTIO_SCHEMA":"ExternalReference.1","target_url":"lost/clip%%20%06d.wav"}}`, rng.IntN(200_000)))
		}
		doc := write(b, fmt.Sprintf("%s/p%d/cut.otio", dir, missing), timelineOf(clips))
		b.Run(fmt.Sprint(missing), func(b *testing.B) {
			var r rival
			for b.Loop() {
				r.run(b, []string{"find", tree, "-printf", "%p %s %T@\n"}, []string{bin, "mend", "--json", "--data", filepath.Join(dir, "data"), "--search", tree, doc})
			}
			r.report(b, "find")
		})
	}
}

// BenchmarkTrace traces a timeline of 40 MB, 20,000 clips of 2,000 files, beside
// Python's json.load and os.stat.
func BenchmarkTrace(b *testing.B) {
	need(b, "python3")
	dir, bin := b.TempDir(), program(b)
	fill := strings.Repeat(`"slate and colour notes of the day, as the camera wrote them; ",`, 28)
	var clips []string
	for i := range 20_000 {
		if i < 2000 {
			write(b, fmt.Sprintf("%s/media/take %d.wav", dir, i), "x")
		}
		clips = append(clips, fmt.Sprintf(`{"OTIO_SCHEMA":"Clip.2","name":"clip %d","metadata":{"notes":[%s"end"]},"source_range":{"OTIO_SCHEMA":"TimeRange.1","start_time":{"OTIO_SCHEMA":"RationalTime.1","rate":25,"value":%d},"duration":{"OTIO_SCHEMA":"RationalTime.1","rate":25,"value":50}},"media_references":{"DEFAULT_MEDIA":{"OTIO_SCHEMA":"ExternalReference.1","target_url":"media/take%%20%d.wav"}},"active_media_reference_key":"DEFAULT_MEDIA"}`, i, fill, i, i%2000))
	}
	doc := write(b, filepath.Join(dir, "cut.otio"), timelineOf(clips))
	judge := "import json,os,sys\nd=json.load(open(sys.argv[1]))\nfor i in range(2000): os.stat(os.path.join(sys.argv[2],'media','take %d.wav'%i))"
	var r rival
	for b.Loop() {
		r.run(b, []string{"python3", "-c", judge, doc, dir}, []string{bin, "trace", "--json", "--data", filepath.Join(dir, "data"), doc})
	}
	r.report(b, "python")
}

// BenchmarkSeal seals 1 GB of 400 files, synced and read back, to a folder
// beside cp -r and sha256sum of the copy, and to .tar.zst beside tar | zstd and
// sha256sum of every source.
func BenchmarkSeal(b *testing.B) {
	need(b, "cp", "sha256sum", "tar", "zstd")
	dir, bin := b.TempDir(), program(b)
	rng := rand.NewChaCha8([32]byte{1})
	buf := make([]byte, 2_500_000)
	var clips []string
	for i := range 400 {
		_, _ = rng.Read(buf)
		if err := os.MkdirAll(filepath.Join(dir, "src"), 0o755); err != nil {
			b.Fatal(err)
		}
		if err := os.WriteFile(fmt.Sprintf("%s/src/take %d.wav", dir, i), buf, 0o644); err != nil {
			b.Fatal(err)
		}
		clips = append(clips, fmt.Sprintf(`{"OTIO_SCHEMA":"Clip.1","name":"c","media_reference":{"OTIO_SCHEMA":"ExternalReference.1","target_url":"take%%20%d.wav"}}`, i))
	}
	doc := write(b, filepath.Join(dir, "src", "cut.otio"), timelineOf(clips))
	for _, c := range []struct{ name, judge, out string }{
		{"folder", `rm -rf "$2/copy"; cp -r "$1" "$2/copy" && cd "$2/copy" && sha256sum *`, "crate"},
		{"zst", `cd "$1" && tar -cf - . | zstd -q -f -3 -T2 -o "$2/copy.tar.zst" && sha256sum *`, "crate.tar.zst"},
	} {
		b.Run(c.name, func(b *testing.B) {
			var r rival
			for b.Loop() {
				r.run(b, []string{"sh", "-c", c.judge, "sh", filepath.Join(dir, "src"), dir}, []string{bin, "seal", "--json", "--data", filepath.Join(dir, "data"), "--out", filepath.Join(dir, c.out), doc})
				_ = os.RemoveAll(filepath.Join(dir, "copy"))
				_ = os.RemoveAll(filepath.Join(dir, c.out))
			}
			r.report(b, "judge")
		})
	}
}

// BenchmarkIndex builds the index of 200,000 files and refreshes it, beside find
// -printf over the same tree.
func BenchmarkIndex(b *testing.B) {
	need(b, "find")
	dir, bin := b.TempDir(), program(b)
	tree := filepath.Join(dir, "tree")
	for n := range 200_000 {
		write(b, fmt.Sprintf("%s/d%02d/s%04d/clip %06d.wav", tree, n/5000, n/100, n), "x")
	}
	data := filepath.Join(dir, "data")
	judge := []string{"find", tree, "-printf", "%s %T@ %p\n"}
	ours := []string{bin, "index", "--json", "--data", data, "--drive", "Tree=" + tree}
	b.Run("first", func(b *testing.B) {
		var r rival
		for b.Loop() {
			_ = os.RemoveAll(data)
			r.run(b, judge, ours)
		}
		r.report(b, "find")
	})
	b.Run("again", func(b *testing.B) {
		var r rival
		for b.Loop() {
			r.run(b, judge, ours)
		}
		r.report(b, "find")
	})
}
