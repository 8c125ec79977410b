// Package timecode reads SMPTE ST 12-1 time addresses, also with the samples
// that AES31 adds after a slash.
package timecode

import (
	"math"
	"math/big"
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

// Exact is a number of frames a second as the fraction it stands for: 23.976, 23.98 and
// 24000/1001 as a floating-point number are all 24000/1001 (SMPTE ST 12-1 §5), whole
// rates are whole; anything else is taken as it is. nil for what is no rate.
func Exact(fps float64) *big.Rat {
	if !(fps > 0) || math.IsInf(fps, 0) {
		return nil
	}
	if whole := math.Round(fps); whole > 0 && math.Abs(fps-whole) < 1e-6 {
		return new(big.Rat).SetFloat64(whole)
	}
	if near := math.Ceil(fps); fps > 5 && fps < 1000 && math.Abs(fps-near*1000/1001) < 0.005 {
		return big.NewRat(int64(near)*1000, 1001)
	}
	return new(big.Rat).SetFloat64(fps)
}

// Images is how many images of a sequence that shows one each step frames at a rate lie in
// a duration that counts frames of another: the whole ones, counted as fractions. A
// duration within a millionth of an image of the next one reaches it, since durations
// are written as decimals.
func Images(duration, of, rate float64, step int) int {
	a, b := Exact(of), Exact(rate)
	d := new(big.Rat).SetFloat64(duration)
	if a == nil || b == nil || d == nil || d.Sign() <= 0 {
		return 0
	}
	d.Mul(d, b)
	d.Quo(d, a)
	d.Quo(d, big.NewRat(int64(max(1, step)), 1))
	d.Add(d, big.NewRat(1, 1_000_000))
	n := new(big.Int).Quo(d.Num(), d.Denom())
	if most := int64(1) << 40; !n.IsInt64() || n.Int64() > most {
		return int(most)
	}
	return int(n.Int64())
}
