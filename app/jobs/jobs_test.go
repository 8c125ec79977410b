package jobs

import (
	"context"
	"errors"
	"fmt"
	"io"
	"log/slog"
	"strings"
	"sync"
	"testing"
	"time"

	"boundcrate/app/api"
	"boundcrate/store"
)

func working(t *testing.T) (*Jobs, *store.Store, *Hub) {
	t.Helper()
	s, err := store.Open(t.TempDir())
	if err != nil {
		t.Fatal(err)
	}
	ctx, stop := context.WithCancel(context.Background())
	h := NewHub()
	js := New(ctx, s, h, slog.New(slog.NewTextHandler(io.Discard, nil)), Patience)
	t.Cleanup(func() { stop(); js.wg.Wait(); s.Close() })
	return js, s, h
}

func ended(t *testing.T, task *Task) api.Job {
	t.Helper()
	select {
	case <-task.done:
	case <-time.After(20 * time.Second):
		t.Fatal("the job does not end")
	}
	return task.View().Job
}

// TestPanic: a job that panics fails in words, and neither the process nor the
// next job goes with it.
func TestPanic(t *testing.T) {
	js, s, _ := working(t)
	spec := Spec{Kind: api.JobTrace, Title: "Tracing"}
	bad, err := Run(js, spec, func(context.Context, *Task) (api.Nothing, string, error) {
		var none []int
		return api.Nothing{}, "", fmt.Errorf("%d", none[3])
	})
	if err != nil {
		t.Fatal(err)
	}
	if j := ended(t, bad); j.State != api.Failed || !strings.Contains(j.Error, "inside") {
		t.Errorf("%+v", j)
	}
	good, err := Run(js, spec, func(context.Context, *Task) (string, string, error) { return "x", "All of it", nil })
	if err != nil {
		t.Fatal(err)
	}
	if j := ended(t, good); j.State != api.Done || j.Message != "All of it" {
		t.Errorf("%+v", j)
	}
	// What ran is told after the application was started anew.
	rows, err := s.Jobs(10)
	if err != nil || len(rows) != 2 {
		t.Fatal(rows, err)
	}
	for _, r := range rows {
		if want := map[string]string{bad.row.ID: "failed", good.row.ID: "done"}[r.ID]; r.State != want {
			t.Errorf("%s was kept as %s", r.ID, r.State)
		}
	}
}

// TestSecond: a second job of a kind is refused, joined, or begins the first
// anew, as its kind says; two never run at once for one thing.
func TestSecond(t *testing.T) {
	js, _, _ := working(t)
	var mu sync.Mutex
	running, most := 0, 0
	hold := func(ctx context.Context, _ *Task) (api.Nothing, string, error) {
		mu.Lock()
		running++
		most = max(most, running)
		mu.Unlock()
		<-ctx.Done()
		mu.Lock()
		running--
		mu.Unlock()
		return api.Nothing{}, "", ctx.Err()
	}
	start := func(second Second, project int64) (*Task, error) {
		return Run(js, Spec{Kind: api.JobSeal, Project: project, Title: "Sealing", Second: second}, hold)
	}
	first, err := start(Refuse, 1)
	if err != nil {
		t.Fatal(err)
	}
	if _, err := start(Refuse, 1); err == nil || !strings.Contains(err.Error(), "still running") {
		t.Errorf("a second was not refused: %v", err)
	}
	if other, err := start(Refuse, 2); err != nil || other == first {
		t.Errorf("another project has to wait: %v", err)
	} else {
		other.cancel(nil)
	}
	if same, err := start(Join, 1); err != nil || same != first {
		t.Errorf("it was not joined: %v", err)
	}
	next, err := start(Again, 1)
	if err != nil || next == first {
		t.Fatal(err)
	}
	if j := ended(t, first); j.State != api.Stopped || j.Message != "Restarted" {
		t.Errorf("%+v", j)
	}
	next.cancel(nil)
	if j := ended(t, next); j.State != api.Stopped {
		t.Errorf("%+v", j)
	}
	if most > 2 { // one of each project
		t.Errorf("%d ran at once", most)
	}
}

// TestStep: progress is kept as it was told last, and a failure in the words of
// its error.
func TestStep(t *testing.T) {
	js, _, h := working(t)
	page := h.join()
	defer h.leave(page)
	told := make(chan struct{})
	task, err := Run(js, Spec{Kind: api.JobSearch, Project: 3, Title: "Looking", Unit: "files"}, func(_ context.Context, j *Task) (api.Nothing, string, error) {
		j.Step("in Bench", 40, 100)
		close(told)
		return api.Nothing{}, "", errors.New("the drive is gone")
	})
	if err != nil {
		t.Fatal(err)
	}
	<-told
	if j := ended(t, task); j.State != api.Failed || j.Step != "in Bench" || j.Done != 40 || j.Total != 100 || !strings.Contains(j.Error, "drive is gone") {
		t.Errorf("%+v", j)
	}
	last := api.Job{}
	for _, e := range page.take() {
		if e.Type == api.EventJob {
			last = *e.Job
		}
	}
	if last.State != api.Failed {
		t.Errorf("the page heard last: %+v", last)
	}
}

// TestHub: a page that does not listen for a while hears of the latest state of
// each thing once, in the order they were first spoken of.
func TestHub(t *testing.T) {
	h := NewHub()
	slow, quick := h.join(), h.join()
	for i := range 5000 {
		h.Send(api.Event{Type: api.EventSnapshot, Project: int64(i % 3), Snapshot: api.Snapshot(fmt.Sprint(i))})
		quick.take()
	}
	h.Send(api.Event{Type: api.EventDrives})
	list := slow.take()
	if len(list) != 4 || list[0].Snapshot != "4998" || list[1].Snapshot != "4999" || list[2].Snapshot != "4997" || list[3].Type != api.EventDrives {
		t.Errorf("%+v", list)
	}
	if again := slow.take(); len(again) != 0 {
		t.Errorf("heard twice: %+v", again)
	}
	h.leave(slow)
	h.Send(api.Event{Type: api.EventDrives})
	if len(slow.take()) != 0 || len(quick.take()) != 1 {
		t.Error("a page that left still hears, or one that stayed does not")
	}
}

// TestAdvance: of many small files the files tell how far work is, of few large ones the bytes.
func TestAdvance(t *testing.T) {
	js, _, _ := working(t)
	task, err := Run(js, Spec{Kind: api.JobSeal, Title: "Sealing"}, func(_ context.Context, j *Task) (api.Nothing, string, error) {
		for _, c := range []struct {
			pace     Pace
			from, to float64
		}{
			{Pace{Done: 0, Total: 5000, Handled: 25_000, Handle: 50_000}, 0.49, 0.51},
			{Pace{Done: 1 << 40, Total: 2 << 40, Handled: 1, Handle: 9}, 0.49, 0.51},
			{Pace{Done: 7, Total: 0}, 0, 0},
		} {
			j.Advance("copying", c.pace)
			if got := j.View().Job.Share; got < c.from || got > c.to {
				t.Errorf("%+v: %v", c.pace, got)
			}
		}
		return api.Nothing{}, "", nil
	})
	if err != nil {
		t.Fatal(err)
	}
	ended(t, task)
}
