package main

import (
	"bufio"
	"fmt"
	"math/rand/v2"
	"os"
	"os/exec"
	"path/filepath"
	"strings"
	"testing"

	"boundcrate/core/disk/drive"
)

// takes writes n files of a size and a document of all of them.
func takes(b *testing.B, dir string, n, size int) (doc string) {
	b.Helper()
	rng := rand.NewChaCha8([32]byte{1})
	buf := make([]byte, size)
	var clips []string
	if err := os.MkdirAll(filepath.Join(dir, "src"), 0o755); err != nil {
		b.Fatal(err)
	}
	for i := range n {
		_, _ = rng.Read(buf)
		if err := os.WriteFile(fmt.Sprintf("%s/src/take %d.wav", dir, i), buf, 0o644); err != nil {
			b.Fatal(err)
		}
		clips = append(clips, fmt.Sprintf(`{"OTIO_SCHEMA":"Clip.1","name":"c","media_reference":{"OTIO_SCHEMA":"ExternalReference.1","target_url":"take%%20%d.wav"}}`, i))
	}
	return write(b, filepath.Join(dir, "src", "cut.otio"), timelineOf(clips))
}

// change writes other bytes into every nth file.
func change(b *testing.B, dir string, n, every, size, round int) {
	b.Helper()
	rng := rand.NewChaCha8([32]byte{2, byte(round)})
	buf := make([]byte, size)
	for i := 0; i < n; i += every {
		_, _ = rng.Read(buf)
		if err := os.WriteFile(fmt.Sprintf("%s/src/take %d.wav", dir, i), buf, 0o644); err != nil {
			b.Fatal(err)
		}
	}
}

func ran(b *testing.B, argv ...string) {
	b.Helper()
	c := exec.Command(argv[0], argv[1:]...)
	if out, err := c.CombinedOutput(); err != nil && c.ProcessState.ExitCode() != needPerson {
		b.Fatalf("%v: %v\n%.400s", argv, err, out)
	}
}

// letGo drops the files below a folder from the system's memory.
func letGo(dir string) {
	_ = exec.Command("sync", "-f", dir).Run()
	_ = filepath.WalkDir(dir, func(p string, e os.DirEntry, err error) error {
		if err == nil && e.Type().IsRegular() {
			if f, err := os.Open(p); err == nil {
				drive.Forget(f)
				f.Close()
			}
		}
		return nil
	})
}

// BenchmarkAgain seals 1 GB again of which 1 % changed, beside rsync -a --checksum of the same.
func BenchmarkAgain(b *testing.B) {
	need(b, "rsync")
	dir, bin := b.TempDir(), program(b)
	doc := takes(b, dir, 400, 2_500_000)
	ours := []string{bin, "seal", "--json", "--data", filepath.Join(dir, "data"), "--out", filepath.Join(dir, "crate"), doc}
	judge := []string{"rsync", "-a", "--checksum", filepath.Join(dir, "src") + "/", filepath.Join(dir, "copy")}
	ran(b, ours...)
	ran(b, judge...)
	// What is read back is read from the drive, by us always: so that rsync does too, what the system
	// holds of all files is let go first. "warm" leaves it what it holds.
	for _, name := range []string{"cold", "warm"} {
		b.Run(name, func(b *testing.B) {
			var r rival
			if name == "cold" {
				r.before = func() { letGo(dir) }
			}
			round := 0
			for b.Loop() {
				round++
				change(b, dir, 400, 100, 2_500_000, round)
				r.run(b, judge, ours)
			}
			r.report(b, "rsync")
		})
	}
}

// BenchmarkDifference makes a difference crate of 10,000 files of which 20 changed, beside sealing all.
func BenchmarkDifference(b *testing.B) {
	dir, bin := b.TempDir(), program(b)
	doc := takes(b, dir, 10_000, 100_000)
	data, base, out, all := filepath.Join(dir, "data"), filepath.Join(dir, "base"), filepath.Join(dir, "diff"), filepath.Join(dir, "all")
	ran(b, bin, "seal", "--data", data, "--out", base, doc)
	var r rival
	round := 0
	for b.Loop() {
		round++
		change(b, dir, 10_000, 500, 100_000, round)
		r.run(b, []string{bin, "seal", "--json", "--data", data, "--out", all, doc}, []string{bin, "seal", "--json", "--data", data, "--since", base, "--out", out, doc})
		_ = os.RemoveAll(all)
		_ = os.RemoveAll(out)
	}
	r.report(b, "all")
}

// BenchmarkReceive receives an archive of 1 GB with its material apart, beside bsdtar and sha256sum of
// what it unpacked.
func BenchmarkReceive(b *testing.B) {
	need(b, "bsdtar", "sha256sum")
	dir, bin := b.TempDir(), program(b)
	crate := filepath.Join(dir, "crate.tar")
	ran(b, bin, "seal", "--data", filepath.Join(dir, "data"), "--out", crate, takes(b, dir, 400, 2_500_000))
	var r rival
	for b.Loop() {
		r.run(b, []string{"sh", "-c", `mkdir -p "$2" && bsdtar -xf "$1" -C "$2" && cd "$2/crate" && sha256sum -c --quiet manifest-sha256.txt && sync -f .`, "sh", crate, filepath.Join(dir, "tar")},
			[]string{bin, "receive", "--json", "--data", filepath.Join(dir, "data"), "--into", filepath.Join(dir, "in"), "--material", filepath.Join(dir, "disk"), crate})
		for _, d := range []string{"tar", "in", "disk"} {
			_ = os.RemoveAll(filepath.Join(dir, d))
		}
	}
	r.report(b, "bsdtar+sha256sum")
}

// BenchmarkSend uploads 1 GB to the simulated service on loopback, beside curl -T to the same.
func BenchmarkSend(b *testing.B) {
	need(b, "curl")
	dir, bin := b.TempDir(), program(b)
	file := filepath.Join(dir, "crate.tar")
	ran(b, bin, "seal", "--data", filepath.Join(dir, "data"), "--out", file, takes(b, dir, 400, 2_500_000))
	depot := filepath.Join(dir, "depot")
	service := exec.Command(bin, "carrier", "--dir", depot)
	out, err := service.StdoutPipe()
	if err != nil {
		b.Fatal(err)
	}
	if err := service.Start(); err != nil {
		b.Fatal(err)
	}
	defer func() { _ = service.Process.Kill(); _ = service.Wait() }()
	address, err := bufio.NewReader(out).ReadString('\n')
	if err != nil {
		b.Fatal(err)
	}
	address = strings.TrimSpace(address)
	curl := `size=$(stat -c %s "$1"); at=$(curl -s -i -X POST -H "Tus-Resumable: 1.0.0" -H "Upload-Length: $size" "$2" | tr -d '\r' | sed -n 's/^[Ll]ocation: //p'); curl -s -f -X PATCH -H "Tus-Resumable: 1.0.0" -H "Upload-Offset: 0" -H "Content-Type: application/offset+octet-stream" -T "$1" "$at"`
	var r rival
	for b.Loop() {
		r.run(b, []string{"sh", "-c", curl, "sh", file, address}, []string{bin, "send", "--json", "--data", filepath.Join(dir, "data"), "--to", address, file})
		list, _ := filepath.Glob(depot + "/*")
		for _, p := range list {
			_ = os.Remove(p)
		}
	}
	r.report(b, "curl")
}
