package pcm

import (
	"math"
	"slices"
	"sync"
)

// Two windowed sincs of linear phase bring one rate to another (Kaiser window: J. F.
// Kaiser, "Nonrecursive digital filter design using the I0-sinh window function", ISCAS
// 1974). The first is sharp: flat to 0.9 of the lower rate's Nyquist frequency, stop dB
// down from there on. It is applied to blocks in the frequency domain, with overlaps
// that are thrown away (overlap-save: Oppenheim and Schafer, Discrete-Time Signal
// Processing, §8.7), and doubles the rate on the way where the next one needs the room.
// The second is a polyphase filter (Crochiere and Rabiner, Multirate Digital Signal
// Processing, §3.3) that has half of the spectrum to fall in, so that it is short.
// Two channels go through at once, one as the real part.
const (
	stop     = 122.0 // dB
	passband = 0.9   // of the lower Nyquist frequency
)

// blockSize is the length of a transform, where the first filter is not longer than a
// quarter of it.
const blockSize = 2048

// sinc is one side of a windowed sinc that is flat to pass and down from cut on, both in
// cycles a sample, sampled over times a sample; half is how far it reaches, in samples.
func sinc(pass, cut float64, over int) (h []float64, half float64) {
	half = (stop - 7.95) / (14.36 * (cut - pass)) / 2
	beta, center := 0.1102*(stop-8.7), (pass+cut)/2
	h = make([]float64, int(half*float64(over))+1)
	for i := range h {
		h[i] = sincAt(float64(i)/float64(over), center, half, beta)
	}
	return h, half
}

func sincAt(t, center, half, beta float64) float64 {
	if math.Abs(t) >= half {
		return 0
	}
	x := 2 * center
	if t != 0 {
		x = math.Sin(turn*center*t) / (math.Pi * t)
	}
	return x * bessel(beta*math.Sqrt(1-t*t/(half*half))) / bessel(beta)
}

// bessel is the modified Bessel function of the first kind and order zero.
func bessel(x float64) float64 {
	sum, term := 1.0, 1.0
	for k := 1.0; term > 1e-18*sum; k++ {
		term *= x * x / (4 * k * k)
		sum += term
	}
	return sum
}

func gcd(a, b int) int {
	for b != 0 {
		a, b = b, a%b
	}
	return a
}

// ratio is a conversion of rates with its filters.
type ratio struct {
	size     int       // of a block
	times    int       // 2: the first filter doubles the rate
	pad      int       // samples before and behind a block that are thrown away
	gain     []float64 // of the first filter at the frequencies of a block, scaled for the transforms
	from, to int       // of the second filter, in lowest terms
	taps     int       // of each phase, a multiple of four
	phases   []float64 // taps for each of to phases
}

var ratios sync.Map // [2]int → *ratio

func ratioOf(from, to int) *ratio {
	g := gcd(from, to)
	key := [2]int{from / g, to / g}
	if r, ok := ratios.Load(key); ok {
		return r.(*ratio)
	}
	r := newRatio(from, to)
	ratios.Store(key, r)
	return r
}

func newRatio(from, to int) *ratio {
	r := &ratio{times: 1}
	low := float64(min(from, to)) / float64(from) / 2 // the Nyquist frequency that counts, in cycles a sample
	if low > 0.25 {
		r.times = 2
	}
	const over = 4 // what the sampled response is down by beyond any doubt
	h, half := sinc(passband*low, low, over)
	r.pad = int(half) + 1
	for r.size = blockSize; r.size < 4*r.pad; {
		r.size *= 2
	}
	r.gain = make([]float64, r.size/2+1)
	sum := h[0]
	for _, v := range h[1:] {
		sum += 2 * v
	}
	for k := range r.gain {
		w := turn * float64(k) / float64(r.size) / over
		// cos(wi), by the recurrence of Chebyshev, which is exact enough over so few.
		c := math.Cos(w)
		a, b := 1.0, c
		g := h[0]
		for _, v := range h[1:] {
			g += 2 * v * b
			a, b = b, 2*c*b-a
		}
		r.gain[k] = g / sum / float64(r.size)
	}
	from *= r.times
	g := gcd(from, to)
	r.from, r.to = from/g, to/g
	low /= float64(r.times)
	_, half = sinc(low, 1-low, 1)
	r.taps = 2 * (int(half) + 1)
	r.taps += -r.taps & 3
	beta := 0.1102 * (stop - 8.7)
	r.phases = make([]float64, r.to*r.taps)
	for p := range r.to {
		row := r.phases[p*r.taps : (p+1)*r.taps]
		sum := 0.0
		for i := range row {
			row[i] = sincAt(float64(p)/float64(r.to)-float64(i-r.taps/2+1), 0.5, half, beta)
			sum += row[i]
		}
		for i := range row { // every phase passes a constant as it is
			row[i] /= sum
		}
	}
	return r
}

// resampler converts two channels, block by block.
type resampler struct {
	*ratio
	fwd, back *transform
	held      []complex128 // what the next block needs of what came
	fine      []complex128 // at the rate of the second filter
	at, phase int          // of the next sample: where it begins in fine, and between which two it lies
	made      []complex128
}

func newResampler(from, to int) *resampler {
	r := ratioOf(from, to)
	s := &resampler{ratio: r, fwd: newTransform(r.size)}
	s.back = newTransform(r.times * r.size)
	s.back.half = r.times == 2
	s.held = make([]complex128, s.pad, 2*r.size)               // silence before the beginning
	s.fine = make([]complex128, s.taps/2-1, 2*s.back.n+s.taps) // the same
	return s
}

// push takes samples and calls out with what they give, so far.
func (s *resampler) push(x []complex128, out func([]complex128)) {
	s.held = append(s.held, x...)
	at := 0
	for ; len(s.held)-at >= s.size; at += s.size - 2*s.pad {
		s.block(s.held[at : at+s.size])
		out(s.second())
	}
	s.held = s.held[:copy(s.held, s.held[at:])]
}

// end brings the rest: silence follows, and whoever takes it knows where to stop.
func (s *resampler) end(out func([]complex128)) {
	s.push(make([]complex128, 2*s.size), out)
}

// block is the first filter.
func (s *resampler) block(x []complex128) {
	copy(s.fwd.a, x)
	c := s.fwd.run()
	wide := s.back.a
	clear(wide[s.size/2 : len(wide)-s.size/2+1])
	for k, g := range s.gain[:s.size/2] {
		// The conjugate goes in, and that of what comes out is the inverse transform.
		wide[k] = complex(real(c[k])*g, -imag(c[k])*g)
	}
	for k := 1; k < s.size/2; k++ {
		v, g := c[s.size-k], s.gain[k]
		wide[len(wide)-k] = complex(real(v)*g, -imag(v)*g)
	}
	y := s.back.run()
	y = y[s.times*s.pad : s.times*(s.size-s.pad)]
	s.fine = slices.Grow(s.fine, len(y))
	fine := s.fine[len(s.fine) : len(s.fine)+len(y)]
	for i, v := range y {
		fine[i] = complex(real(v), -imag(v))
	}
	s.fine = s.fine[:len(s.fine)+len(y)]
}

// second is the polyphase filter over what the first one made.
func (s *resampler) second() []complex128 {
	s.made = s.made[:0]
	taps, n, p := s.taps, s.at, s.phase
	step, turn := s.from/s.to, s.from%s.to
	for n+taps <= len(s.fine) {
		row, x := s.phases[p*taps:(p+1)*taps], s.fine[n:n+taps]
		var a, b, c, d float64
		for len(row) >= 4 && len(x) >= 4 {
			h, v := (*[4]float64)(row), (*[4]complex128)(x)
			a += h[0]*real(v[0]) + h[1]*real(v[1])
			b += h[0]*imag(v[0]) + h[1]*imag(v[1])
			c += h[2]*real(v[2]) + h[3]*real(v[3])
			d += h[2]*imag(v[2]) + h[3]*imag(v[3])
			row, x = row[4:], x[4:]
		}
		s.made = append(s.made, complex(a+c, b+d))
		n += step
		if p += turn; p >= s.to {
			p -= s.to
			n++
		}
	}
	s.phase = p
	keep := min(n, len(s.fine))
	s.at = n - keep
	s.fine = s.fine[:copy(s.fine, s.fine[keep:])]
	return s.made
}

// resampled is how many samples a length of one rate comes to at another, rounded.
func resampled(n int64, from, to int) int64 {
	return (n*int64(to) + int64(from)/2) / int64(from)
}
