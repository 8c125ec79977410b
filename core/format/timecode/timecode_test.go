package timecode

import "testing"

// TestDropFrame: SMPTE ST 12-1: in drop-frame counting ten minutes are 17,982
// frames and an hour is 107,892.
func TestDropFrame(t *testing.T) {
	drop := Rate{30000, 1001, true}
	for tc, want := range map[string]int{
		"00:00:00;00": 0, "00:00:59;29": 1799, "00:01:00;02": 1800, "00:02:00;02": 3598, "00:10:00;00": 17982, "01:00:00;00": 107892, "23:59:59;29": 2589407,
	} {
		if got, ok := drop.Frames(tc); !ok || got != want {
			t.Errorf("%s: %d %v, wanted %d", tc, got, ok, want)
		}
	}
	for _, tc := range []string{"00:01:00;00", "00:01:00;01", "00:00:00:30", "0:00:00:00", "00:60:00:00", "xx:00:00:00", "", "00:00:00"} {
		if got, ok := drop.Frames(tc); ok {
			t.Errorf("%q was read as %d", tc, got)
		}
	}
	if s, ok := (Rate{25, 1, false}).Seconds("00:00:02:05/0960", 48000); !ok || s != 2.22 {
		t.Error(s, ok)
	}
	// Every frame of a day has its own address: counting up meets each number once.
	last := -1
	for h := 0; h < 24; h += 7 {
		for m := range 60 {
			if f, ok := drop.Frames(two(h) + ":" + two(m) + ":30;00"); !ok || f <= last {
				t.Fatal(h, m, f)
			} else {
				last = f
			}
		}
	}
}

func two(n int) string { return string(rune('0'+n/10)) + string(rune('0'+n%10)) }
