package main

import (
	"fmt"
	"math/rand/v2"
	"os"
	"path/filepath"
	"strings"
	"testing"
	"time"
)

// BenchmarkKeep keeps an edition of 20 documents of 1 MB, all of them changed, beside zstd -3 of them; and one that
// stands already, beside sha256sum, which is reading them.
func BenchmarkKeep(b *testing.B) {
	need(b, "zstd", "sha256sum")
	dir, bin := b.TempDir(), program(b)
	random := rand.New(rand.NewPCG(1, 25))
	var docs []string
	write := func() {
		docs = docs[:0]
		for i := range 20 {
			var text strings.Builder
			for n := 0; text.Len() < 1<<20; n++ {
				fmt.Fprintf(&text, "# take %d of %x, lens %d, %x\n", n, random.Uint64(), random.IntN(90), random.Uint32())
			}
			p := filepath.Join(dir, "film", fmt.Sprintf("reel %02d.m3u", i))
			if err := os.MkdirAll(filepath.Dir(p), 0o755); err != nil {
				b.Fatal(err)
			}
			if err := os.WriteFile(p, []byte("#EXTM3U\n"+text.String()+"a.wav\n"), 0o644); err != nil {
				b.Fatal(err)
			}
			docs = append(docs, p)
		}
	}
	write()
	keep := append([]string{bin, "keep", "--json", "--data", filepath.Join(dir, "data"), "--editions", filepath.Join(dir, "kept")}, docs...)
	b.Run("changed", func(b *testing.B) {
		var r rival
		for b.Loop() {
			write()
			r.run(b, append([]string{"zstd", "-3", "-q", "-f"}, docs...), keep)
		}
		r.report(b, "zstd")
	})
	b.Run("unchanged", func(b *testing.B) {
		ran(b, keep...)
		var r rival
		for b.Loop() {
			r.run(b, append([]string{"sha256sum"}, docs...), keep)
		}
		b.ReportMetric(float64((r.best-r.judge)/time.Millisecond), "ms/beyond")
		r.report(b, "sha256sum")
	})
}

// BenchmarkBackup makes a generation of 10,000 files of which none, then 20, changed, beside rsync that links what it
// takes for the same by size and time; and verifies, beside sha256sum on two cores.
func BenchmarkBackup(b *testing.B) {
	need(b, "rsync", "sha256sum", "xargs")
	dir, bin := b.TempDir(), program(b)
	doc := takes(b, dir, 10_000, 100_000)
	to := filepath.Join(dir, "safe")
	ours := []string{bin, "backup", "--json", "--same-drive", "--keep", "2", "--data", filepath.Join(dir, "data"), "--to", to, doc}
	ran(b, ours...)
	ran(b, "rsync", "-a", filepath.Join(dir, "src")+"/", filepath.Join(dir, "copy 0"))
	round := 0
	for _, n := range []struct {
		name  string
		every int
	}{{"unchanged", 0}, {"20 changed", 500}} {
		b.Run(n.name, func(b *testing.B) {
			var r rival
			for b.Loop() {
				if n.every > 0 {
					change(b, dir, 10_000, n.every, 100_000, round)
				}
				last, next := filepath.Join(dir, fmt.Sprint("copy ", round)), filepath.Join(dir, fmt.Sprint("copy ", round+1))
				r.run(b, []string{"rsync", "-a", "--link-dest=" + last, filepath.Join(dir, "src") + "/", next}, ours)
				round++
			}
			r.report(b, "rsync")
		})
	}
	b.Run("verify", func(b *testing.B) {
		gens, err := filepath.Glob(filepath.Join(to, "*", "2*Z"))
		if err != nil || len(gens) == 0 {
			b.Fatal(gens, err)
		}
		gen := gens[len(gens)-1]
		r := rival{before: func() { letGo(dir) }}
		for b.Loop() {
			r.run(b, []string{"sh", "-c", "cd '" + gen + "' && find data -type f -print0 | xargs -0 -n 200 -P 2 sha256sum > /dev/null"}, []string{bin, "backup", "--json", "--data", filepath.Join(dir, "data"), "--verify", gen})
		}
		r.report(b, "sha256sum")
	})
}
