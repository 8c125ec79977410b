package main

import (
	"fmt"
	"math/rand/v2"
	"os"
	"path/filepath"
	"strings"
	"syscall"
	"testing"
	"time"

	"boundcrate/app/api"
	"boundcrate/app/api/overview"
	"boundcrate/core/coretest"
)

// TestKilledHomes: a bringing home that is killed at any moment leaves, after the next command,
// all documents with the new names and all copies there, or none of either; the files outside are
// as they were, and the next one brings all home.
func TestKilledHomes(t *testing.T) {
	rng := rand.New(rand.NewPCG(31, 37))
	const documents, sounds = 6, 4
	var most time.Duration
	wrote, not := 0, 0
	for i := range 3 * kills() {
		files := map[string]string{}
		for k := range sounds {
			files[fmt.Sprintf("loose/s%d.wav", k)] = strings.Repeat(fmt.Sprint(k), 300_000)
		}
		for k := range documents {
			files[fmt.Sprintf("film/d%d.m3u", k)] = fmt.Sprintf("#EXTM3U\n../loose/s%d.wav\nd%d.m3u\n%s", k%sounds, (k+1)%documents, strings.Repeat("# a long note of the day\n", 10_000))
		}
		dir, data := coretest.Lay(t, files), t.TempDir()
		doc := filepath.Join(dir, "film/d0.m3u")
		before := coretest.Sums(t, dir)
		args := []string{"bring-home", doc}
		if i == 0 {
			most = long(t, data, args...)
			continue
		}
		killed(t, rng, most, data, args...)
		_, _, _ = invoke(t, data, "trace", doc) // whatever comes next finishes it
		after := coretest.Sums(t, dir)
		same, copies, rest := 0, 0, []string{}
		for p, sum := range after {
			switch was, had := before[p]; {
			case had && strings.HasSuffix(p, ".m3u"):
				if was == sum {
					same++
				}
			case had && was != sum:
				t.Errorf("kill %d: %s is not as it was", i, p)
			case !had && strings.HasPrefix(p, filepath.Join(dir, "film/audio")+"/"):
				copies++
			case !had && !strings.HasPrefix(p, filepath.Join(dir, "film/editions")+"/"):
				rest = append(rest, p)
			}
		}
		switch {
		case len(after)-len(rest) < len(before):
			t.Errorf("kill %d: files are gone", i)
		case same == documents && copies == 0:
			not++
		case same == 0 && copies == sounds:
			wrote++
		default:
			t.Errorf("kill %d: %d of %d documents are as they were, %d copies", i, same, documents, copies)
		}
		if left, _ := filepath.Glob(filepath.Join(data, "boundcrate/writing/*")); len(left)+len(rest) > 0 {
			t.Errorf("kill %d left %v %v", i, left, rest)
		}
		if code, out, errs := invoke(t, data, args...); code != 0 {
			t.Errorf("kill %d: not brought home again: %s%s", i, out, errs)
		}
		for p, sum := range coretest.Sums(t, filepath.Join(dir, "loose")) {
			if before[p] != sum {
				t.Errorf("kill %d: %s is not as it was", i, p)
			}
		}
	}
	t.Logf("%d times brought, %d times not", wrote, not)
}

// TestKilledHolds: a folder that is being taken out of the way when the server is killed stands
// where it stood, or waits and is listed; it is whole, and there once.
func TestKilledHolds(t *testing.T) {
	rng := rand.New(rand.NewPCG(41, 43))
	held, stood := 0, 0
	for i := range 3 * kills() {
		files := map[string]string{"film/cut.m3u": "#EXTM3U\nsound/a.wav\n", "film/sound/a.wav": "a", "out/keep.txt": "k"}
		for k := range 20 {
			files[fmt.Sprintf("film/old/takes/t%d.wav", k)] = fmt.Sprint(k)
		}
		dir, data := coretest.Lay(t, files), filepath.Join(t.TempDir(), "data")
		s := startServer(t, data, dir)
		job, ok := ask[api.Started](s, "POST", "/api/clearout", overview.AskClearout{Folder: filepath.Join(dir, "film/old")})
		if !ok {
			t.Fatal("the folder was not asked about")
		}
		var cleared overview.Cleared
		for range 500 {
			if cleared, ok = ask[overview.Cleared](s, "GET", "/api/clearout/"+job.Job.ID, nil); ok {
				break
			}
			time.Sleep(5 * time.Millisecond)
		}
		var reasons []overview.Reason
		for _, of := range cleared.Needy {
			reasons = append(reasons, overview.Reason{Of: of, Why: "it is a test"})
		}
		go func() {
			time.Sleep(time.Duration(rng.IntN(12_000)) * time.Microsecond)
			_ = s.cmd.Process.Signal(syscall.SIGKILL)
		}()
		ask[overview.HeldList](s, "POST", "/api/clearout/"+job.Job.ID+"/hold", overview.Hold{Reasons: reasons, Days: 3})
		_ = s.cmd.Wait()
		s = startServer(t, data, dir)
		list, ok := ask[overview.HeldList](s, "GET", "/api/held", nil)
		_, err := os.Stat(filepath.Join(dir, "film/old"))
		stands := err == nil
		takes := 0
		_ = filepath.WalkDir(filepath.Join(dir, "film"), func(p string, d os.DirEntry, err error) error {
			if err == nil && strings.Contains(p, "/takes/") {
				takes++
			}
			return err
		})
		waiting := 0
		for _, h := range list.List {
			if h.There {
				waiting++
			}
		}
		if !ok || takes != 20 || stands && waiting != 0 || !stands && waiting != 1 || len(list.List) != waiting {
			t.Errorf("kill %d: stands %v, %d takes, listed %+v", i, stands, takes, list.List)
		}
		if stands {
			stood++
		} else {
			held++
			if _, ok := ask[overview.HeldList](s, "POST", fmt.Sprintf("/api/held/%d/back", list.List[0].ID), nil); !ok {
				t.Errorf("kill %d: it does not come back", i)
			}
		}
		_ = s.cmd.Process.Kill()
		_ = s.cmd.Wait()
	}
	t.Logf("%d times held, %d times not", held, stood)
}
