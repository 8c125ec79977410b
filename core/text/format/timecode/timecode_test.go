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

// TestImages: a duration that counts frames of a rate holds as many images at that rate,
// however the rate is written: 1 to 200 at every common one. (43 frames at 23.976 and 25
// at 24000/1001 come out one less where floating-point numbers are cut off.)
func TestImages(t *testing.T) {
	rates := []float64{12, 15, 23.976, 23.98, 24000.0 / 1001, 24, 25, 29.97, 30000.0 / 1001, 30, 47.952, 48, 50, 59.94, 60000.0 / 1001, 60, 100, 119.88, 120000.0 / 1001, 120, 12.5, 7.3}
	for _, rate := range rates {
		for n := 1; n <= 200; n++ {
			if got := Images(float64(n), rate, rate, 1); got != n {
				t.Fatalf("%d frames at %v are %d images", n, rate, got)
			}
			if got := Images(float64(2*n), rate, rate, 2); got != n {
				t.Fatalf("%d frames at %v, each second one, are %d images", 2*n, rate, got)
			}
		}
	}
	// The same rate, written in two ways.
	for n := 1; n <= 200; n++ {
		for _, pair := range [][2]float64{{23.976, 24000.0 / 1001}, {24000.0 / 1001, 23.98}, {29.97, 30000.0 / 1001}, {60000.0 / 1001, 59.94}} {
			if got := Images(float64(n), pair[0], pair[1], 1); got != n {
				t.Fatalf("%d frames at %v are %d images at %v", n, pair[0], got, pair[1])
			}
		}
		if got := Images(float64(n)/25, 1, 25, 1); got != n { // a duration in seconds
			t.Fatalf("%d images of 25 a second are %d", n, got)
		}
	}
	for _, bad := range [][2]float64{{0, 24}, {24, 0}, {-1, 24}, {24, -1}} {
		if got := Images(10, bad[0], bad[1], 1); got != 0 {
			t.Errorf("%v: %d", bad, got)
		}
	}
}
