// Package timecode reads SMPTE ST 12-1 time addresses, also with the samples
// that AES31 adds after a slash.
package timecode

import (
	"strconv"
	"strings"
)

// Rate is frames a second. Drop is drop-frame counting, which only 30000/1001
// has here: two numbers are left out each minute but every tenth (§5.2.2).
type Rate struct {
	Num, Den int
	Drop     bool
}

// Nominal is the number of frames the address counts in a second.
func (r Rate) Nominal() int { return (r.Num + r.Den - 1) / r.Den }

// Frames counts the frames from 00:00:00:00 to a time address HH:MM:SS:FF; any
// of ":;.," may stand before the frames. ok is false for anything else.
func (r Rate) Frames(tc string) (frames int, ok bool) {
	parts := strings.FieldsFunc(tc, func(c rune) bool { return strings.ContainsRune(":;.,", c) })
	if len(parts) != 4 {
		return 0, false
	}
	var v [4]int
	for i, p := range parts {
		n, err := strconv.Atoi(p)
		if err != nil || len(p) != 2 || n < 0 {
			return 0, false
		}
		v[i] = n
	}
	if v[1] > 59 || v[2] > 59 || v[3] >= r.Nominal() {
		return 0, false
	}
	minutes := 60*v[0] + v[1]
	frames = (60*minutes+v[2])*r.Nominal() + v[3]
	if r.Drop {
		if v[2] == 0 && v[3] < 2 && v[1]%10 != 0 {
			return 0, false // a number that is left out
		}
		frames -= 2 * (minutes - minutes/10)
	}
	return frames, true
}

// Seconds is the time of an address, with samples after a slash at the given
// sample rate.
func (r Rate) Seconds(tc string, sampleRate int) (float64, bool) {
	tc, samples, _ := strings.Cut(tc, "/")
	f, ok := r.Frames(tc)
	if !ok {
		return 0, false
	}
	s := float64(f) * float64(r.Den) / float64(r.Num)
	if n, err := strconv.Atoi(samples); err == nil && sampleRate > 0 {
		s += float64(n) / float64(sampleRate)
	}
	return s, true
}

// Address is the time address of a frame counted from 00:00:00:00, within a day; a
// drop-frame count has a semicolon before its frames, as is common practice.
func (r Rate) Address(frames int) string {
	n := r.Nominal()
	day := 24 * 3600 * n
	mark := ":"
	if r.Drop { // §5.2.2: 17,982 frames in ten minutes, 1798 in each of nine of them
		day -= 2 * (24*60 - 24*6)
		mark = ";"
	}
	frames = ((frames % day) + day) % day
	if r.Drop {
		tens, rest := frames/17982, frames%17982
		frames += 18 * tens
		if rest >= 1800 {
			frames += 2 * (1 + (rest-1800)/1798)
		}
	}
	two := func(v int) string {
		if v < 10 {
			return "0" + strconv.Itoa(v)
		}
		return strconv.Itoa(v)
	}
	s := frames / n
	return two(s/3600) + ":" + two(s/60%60) + ":" + two(s%60) + mark + two(frames%n)
}
