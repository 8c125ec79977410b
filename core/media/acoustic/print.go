package acoustic

import (
	"encoding/binary"
	"io"
	"math"
	"math/cmplx"
	"slices"

	"gonum.org/v1/gonum/dsp/fourier"

	"boundcrate/core/media/facts"
)

// The method is that of Wang 2003, "An industrial-strength audio search algorithm":
// the strongest points of the spectrum are paired with the next few after them, and two
// recordings are alike where many of the same pairs stand at one distance in time. A
// coding that leaves a sound recognisable leaves its peaks where they were.
const (
	window = 1024 // samples of a spectrum, 93 ms
	hop    = 512
	fan    = 4  // how many peaks after it one is paired with
	reach  = 40 // within so many spectra, 1.9 s
	bins   = 256
)

// bands part the spectrum, so that the low end does not outshout the rest.
var bands = [...]int{6, 14, 28, 52, 96, 160, bins}

// Print is what a recording is recognised by: pairs of peaks, each with its time.
type Print []mark

type mark struct {
	pair uint32
	at   uint16
}

// Of listens to the beginning of a recording.
func Of(r io.ReaderAt, size int64) (p Print, err error) {
	defer facts.Border(&err)
	samples, err := mono(r, size)
	if err != nil {
		return nil, err
	}
	return print(samples), nil
}

type peak struct{ at, bin int }

func print(samples []float64) (p Print) {
	fft := fourier.NewFFT(window)
	hann := make([]float64, window)
	for i := range hann {
		hann[i] = 0.5 - 0.5*math.Cos(2*math.Pi*float64(i)/window)
	}
	var spectra [][]float64
	in, out := make([]float64, window), make([]complex128, window/2+1)
	for at := 0; at+window <= len(samples); at += hop {
		for i := range in {
			in[i] = samples[at+i] * hann[i]
		}
		out = fft.Coefficients(out, in)
		s := make([]float64, bins)
		for i := range s {
			s[i] = math.Log1p(1e4 * cmplx.Abs(out[i]) / window)
		}
		spectra = append(spectra, s)
	}
	var peaks []peak
	for t, s := range spectra {
		from := 2
		for _, to := range bands {
			best := from
			for i := from; i < to; i++ {
				if s[i] > s[best] {
					best = i
				}
			}
			if s[best] > 0.1 && strongest(spectra, t, best) {
				peaks = append(peaks, peak{t, best})
			}
			from = to
		}
	}
	for i, a := range peaks {
		n := 0
		for _, b := range peaks[i+1:] {
			d := b.at - a.at
			if d > reach || n == fan {
				break
			}
			if d > 0 {
				p = append(p, mark{uint32(a.bin)<<16 | uint32(b.bin)<<8 | uint32(d), uint16(a.at)})
				n++
			}
		}
	}
	return p
}

// strongest tells that a point stands out of those around it in time and pitch.
func strongest(spectra [][]float64, t, bin int) bool {
	v := spectra[t][bin]
	for k := max(0, t-3); k <= min(len(spectra)-1, t+3); k++ {
		for i := max(0, bin-3); i <= min(bins-1, bin+3); i++ {
			if spectra[k][i] > v {
				return false
			}
		}
	}
	return true
}

// fewest is how many pairs both must have for a likeness to tell anything.
const fewest = 12

// Likeness is the share of pairs, of the recording that has fewer, that both have at
// one distance in time, 0 to 1. Another performance of the same thing has next to
// none; the same one through a lossy coding has a good part of them.
func (p Print) Likeness(o Print) float64 {
	if len(p) < fewest || len(o) < fewest {
		return 0
	}
	in := map[uint32][]uint16{}
	for _, m := range p {
		in[m.pair] = append(in[m.pair], m.at)
	}
	count := map[int]int{}
	for _, m := range o {
		for _, at := range in[m.pair] {
			count[int(at)-int(m.at)]++
		}
	}
	best := 0
	for d, n := range count { // a coding may shift by part of a spectrum
		best = max(best, n+max(count[d-1], count[d+1]))
	}
	return min(1, float64(best)/float64(min(len(p), len(o))))
}

// Pack writes a print in six bytes a pair.
func (p Print) Pack() []byte {
	b := make([]byte, 0, 6*len(p))
	for _, m := range p {
		b = binary.LittleEndian.AppendUint32(b, m.pair)
		b = binary.LittleEndian.AppendUint16(b, m.at)
	}
	return b
}

// Unpack reads what Pack wrote; what is cut off is left out.
func Unpack(b []byte) Print {
	p := make(Print, 0, len(b)/6)
	for c := range slices.Chunk(b, 6) {
		if len(c) == 6 {
			p = append(p, mark{binary.LittleEndian.Uint32(c), binary.LittleEndian.Uint16(c[4:])})
		}
	}
	return p
}

// Alike is the likeness from which on two recordings may be one.
const Alike = 0.15
