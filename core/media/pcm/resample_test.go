package pcm

import (
	"fmt"
	"math"
	"testing"
)

// tone resamples a sine of a frequency, and returns what stands well inside.
func tone(t testing.TB, from, to int, hz, level float64) []float64 {
	t.Helper()
	s := newResampler(from, to)
	n := 3 * from
	x := make([]complex128, n)
	for i := range x {
		v := level * math.Sin(2*math.Pi*hz*float64(i)/float64(from))
		x[i] = complex(v, -v)
	}
	var out []float64
	take := func(y []complex128) {
		for _, v := range y {
			if math.Abs(real(v)+imag(v)) > 1e-9 {
				t.Fatal("one channel runs into the other")
			}
			out = append(out, real(v))
		}
	}
	for at := 0; at < n; at += 4096 {
		s.push(x[at:min(n, at+4096)], take)
	}
	s.end(take)
	if want := resampled(int64(n), from, to); int64(len(out)) < want {
		t.Fatalf("%d samples, wanted %d", len(out), want)
	}
	return out[to : 2*to] // one second from the middle: whole cycles of whole frequencies
}

// at is the level of one frequency in a second of samples, in dB of full scale (Goertzel).
func at(x []float64, hz float64) float64 {
	w := 2 * math.Pi * hz / float64(len(x))
	c := 2 * math.Cos(w)
	var a, b float64
	for _, v := range x {
		a, b = v+c*a-b, a
	}
	p := a*a + b*b - c*a*b
	return 10 * math.Log10(4*p/float64(len(x))/float64(len(x))+1e-30)
}

// rest is all but one frequency, in dB.
func rest(x []float64, hz float64) float64 {
	w := 2 * math.Pi * hz / float64(len(x))
	var s, c float64
	for i, v := range x {
		s += v * math.Sin(w*float64(i))
		c += v * math.Cos(w*float64(i))
	}
	s, c = 2*s/float64(len(x)), 2*c/float64(len(x))
	sum := 0.0
	for i, v := range x {
		d := v - s*math.Sin(w*float64(i)) - c*math.Cos(w*float64(i))
		sum += d * d
	}
	return 10 * math.Log10(2*sum/float64(len(x))+1e-30)
}

// TestRates: for rates of the trade the band up to 0.9 of the lower Nyquist frequency
// passes within 0.05 dB, 997 Hz at −1 dBFS (AES17) within 0.02 dB, nothing else appears
// above −110 dB, and what lies above the new Nyquist frequency is gone.
func TestRates(t *testing.T) {
	for _, c := range [][2]int{{44100, 48000}, {48000, 44100}, {96000, 48000}, {48000, 96000}, {88200, 48000}, {192000, 44100}, {44100, 192000}, {32000, 48000}, {8000, 44100}, {1536000, 44100}} {
		t.Run(fmt.Sprint(c), func(t *testing.T) {
			low := float64(min(c[0], c[1])) / 2
			tones := []float64{20, 997, math.Floor(0.3 * low), math.Floor(0.7 * low), math.Floor(0.9 * low)}
			if c[0] > 400_000 { // it is the blocks that are others
				tones = tones[1:2]
			}
			for _, hz := range tones {
				level := math.Pow(10, -1.0/20)
				x := tone(t, c[0], c[1], hz, level)
				within := 0.05
				if hz == 997 {
					within = 0.02
				}
				if got := at(x, hz); math.Abs(got+1) > within {
					t.Errorf("%g Hz at -1 dB comes at %.4f dB", hz, got)
				}
				if got := rest(x, hz); got > -110 {
					t.Errorf("beside %g Hz stand %.1f dB", hz, got)
				}
			}
			if c[1] < c[0] && c[0] < 400_000 {
				for _, hz := range []float64{math.Ceil(low) + 1, math.Floor(1.1 * low), math.Min(math.Floor(1.7*low), 0.49*float64(c[0]))} {
					x := tone(t, c[0], c[1], hz, 0.89)
					sum := 0.0
					for _, v := range x {
						sum += v * v
					}
					if got := 10 * math.Log10(2*sum/float64(len(x))+1e-30); got > -110 {
						t.Errorf("%g Hz leaves %.1f dB", hz, got)
					}
				}
			}
		})
	}
}

// TestPolyphase: the blocks give what the sum over the windowed sinc gives.
func TestPolyphase(t *testing.T) {
	from, to := 44100, 48000
	n := 5000
	x := make([]complex128, n)
	seed := uint64(1)
	for i := range x {
		seed = seed*6364136223846793005 + 1442695040888963407
		x[i] = complex(float64(int32(seed>>32))/(1<<31), 0)
	}
	s := newResampler(from, to)
	var out []float64
	take := func(y []complex128) {
		for _, v := range y {
			out = append(out, real(v))
		}
	}
	s.push(x, take)
	s.end(take)
	_, half := sinc(passband/2, 0.5, 1)
	for k := 0; k < int(resampled(int64(n), from, to)); k += 97 {
		pos := float64(k) * float64(from) / float64(to)
		sum := 0.0
		for i := max(0, int(pos-half)); i <= min(n-1, int(pos+half)+1); i++ {
			sum += real(x[i]) * sincAt(pos-float64(i), (passband+1)/4, half, 0.1102*(stop-8.7))
		}
		if math.Abs(sum-out[k]) > 3e-6 {
			t.Fatalf("sample %d is %.9f, the sum gives %.9f", k, out[k], sum)
		}
	}
}

// BenchmarkResample: one second of two channels, 44.1 to 48 kHz; X is times real time.
func BenchmarkResample(b *testing.B) {
	x := make([]complex128, 44100)
	for i := range x {
		x[i] = complex(math.Sin(float64(i)), math.Cos(float64(i)))
	}
	s := newResampler(44100, 48000)
	take := func([]complex128) {}
	b.ResetTimer()
	for b.Loop() {
		s.push(x, take)
	}
	b.ReportMetric(float64(b.N)/b.Elapsed().Seconds(), "X")
}
