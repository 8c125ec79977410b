package jobs

import (
	"context"
	"errors"
	"fmt"
	"strings"
	"testing"
	"time"

	"boundcrate/app/api"
	"boundcrate/app/fault"
)

// TestSoon: what is done soon is answered, what is not goes on as a job that is seen, and whose
// result is asked for; a failure is told either way, and who gives up stops it.
func TestSoon(t *testing.T) {
	js, _, _ := working(t)
	quick := func(context.Context, *Task) (string, error) { return "done", nil }
	if got, err := Soon(t.Context(), js, Spec{Title: "Quick"}, quick); got != "done" || err != nil || len(js.List()) != 0 {
		t.Errorf("%q %v, %d jobs are seen", got, err, len(js.List()))
	}
	said := fault.Say(fault.Wrong, "No", "It makes no sense.")
	if _, err := Soon(t.Context(), js, Spec{Title: "Wrong"}, func(context.Context, *Task) (string, error) { return "", said }); !errors.Is(err, said) {
		t.Errorf("%v", err)
	}
	js.patience = time.Nanosecond
	for _, x := range []struct {
		fails  error
		answer string
		says   string
	}{{nil, `"late"`, ""}, {said, "", "makes no sense"}, {context.Canceled, "", "was stopped"}} {
		end := make(chan bool)
		_, err := Soon(t.Context(), js, Spec{Title: "Slow"}, func(context.Context, *Task) (string, error) { <-end; return "late", x.fails })
		var on *Underway
		if !errors.As(err, &on) || on.Job.State != api.Running || len(js.List()) == 0 {
			t.Fatalf("%v", err)
		}
		close(end)
		b, err := js.Result(t.Context(), on.Job.ID)
		if string(b) != x.answer || (err == nil) != (x.says == "") || err != nil && !strings.Contains(err.Error(), x.says) {
			t.Errorf("%s %v", b, err)
		}
	}
	ctx, giveUp := context.WithCancel(t.Context())
	js.patience = time.Hour
	_, err := Soon(ctx, js, Spec{Title: "Given up"}, func(within context.Context, _ *Task) (string, error) {
		giveUp()
		<-within.Done()
		return "", within.Err()
	})
	if !errors.Is(err, context.Canceled) {
		t.Errorf("%v", err)
	}
	if _, err := js.Result(t.Context(), "nobody"); err == nil {
		t.Error("an unknown job has a result")
	}
}

// TestSoonAtTheEdge: work that ends just when patience does is answered, or its result is found;
// neither is lost in between.
func TestSoonAtTheEdge(t *testing.T) {
	js, _, _ := working(t)
	js.patience = time.Millisecond
	for i := range 300 {
		got, err := Soon(t.Context(), js, Spec{Title: "Edge", Slot: fmt.Sprint(i)}, func(context.Context, *Task) (string, error) {
			time.Sleep(time.Millisecond)
			return "done", nil
		})
		var on *Underway
		if errors.As(err, &on) {
			b, err := js.Result(t.Context(), on.Job.ID)
			if string(b) != `"done"` || err != nil {
				t.Fatalf("%d: its result is %q, %v", i, b, err)
			}
		} else if got != "done" || err != nil {
			t.Fatalf("%d: %q %v", i, got, err)
		}
	}
}

// TestSoonTogether: whoever asks for work that runs already gets its answer, and does not end it by going away.
func TestSoonTogether(t *testing.T) {
	js, _, _ := working(t)
	js.patience = time.Hour
	begun, end := make(chan bool), make(chan bool)
	spec := Spec{Title: "Together", Second: Join}
	first := make(chan string)
	go func() {
		got, err := Soon(t.Context(), js, spec, func(context.Context, *Task) (string, error) {
			begun <- true
			<-end
			return "done", nil
		})
		first <- fmt.Sprint(got, err)
	}()
	<-begun
	never := func(context.Context, *Task) (string, error) { return "never", nil }
	gone, leave := context.WithCancel(t.Context())
	leave()
	if _, err := Soon(gone, js, spec, never); !errors.Is(err, context.Canceled) {
		t.Errorf("gone: %v", err)
	}
	second := make(chan string)
	go func() {
		got, err := Soon(t.Context(), js, spec, never)
		second <- fmt.Sprint(got, err)
	}()
	time.Sleep(10 * time.Millisecond)
	close(end)
	if a, b := <-first, <-second; a != "done<nil>" || b != a {
		t.Errorf("%s and %s", a, b)
	}
}
