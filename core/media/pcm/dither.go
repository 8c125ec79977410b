package pcm

import (
	"math"
	"math/rand/v2"
)

// quantizer brings samples to whole numbers of a depth. Noise of a triangular
// distribution, two steps wide, goes before the rounding wherever something is lost, so
// that the error is not a function of the sound (S. P. Lipshitz, R. A. Wannamaker, J.
// Vanderkooy, "Quantization and dither: a theoretical survey", JAES 40, 1992). It is the
// same noise every time: a crate that is made again has the same bytes.
type quantizer struct {
	full    float64
	low     float64
	high    float64
	noise   *rand.PCG // nil: nothing is lost
	clipped int64
	peak    float64
}

func newQuantizer(depth int, dither bool, channel int) *quantizer {
	full := math.Ldexp(1, depth-1)
	q := &quantizer{full: full, low: -full, high: full - 1}
	if dither {
		q.noise = rand.NewPCG(0x5EED, uint64(channel))
	}
	return q
}

// value is a sample as a whole number.
func (q *quantizer) value(x float64) int32 {
	q.peak = max(q.peak, math.Abs(x))
	v := x * q.full
	if q.noise != nil {
		u := q.noise.Uint64()
		const unit = 1.0 / (1 << 32)
		v += float64(uint32(u))*unit - float64(uint32(u>>32))*unit
	}
	v = math.RoundToEven(v)
	if v < q.low || v > q.high {
		q.clipped++
		v = max(q.low, min(q.high, v))
	}
	return int32(v)
}
