package pcm

import "math/cmplx"

// transform is a Fourier transform of a length that is a power of two: that of Stockham
// with four parts a step, which needs no reordering (J. W. Cooley and J. W. Tukey 1965;
// W. T. Cochran et al., "What is the fast Fourier transform?", Proc. IEEE 55, 1967).
// The one of gonum takes twice the time, and that is what a resampling's goes into.
type transform struct {
	n     int
	turns []complex128    // of the full circle
	first [][3]complex128 // those of the first step, which has the most, in the order in which it needs them
	a, b  []complex128
	// half tells that the middle half of what is transformed is nothing, as it is where a
	// rate is doubled.
	half bool
}

func newTransform(n int) *transform {
	t := &transform{n: n, turns: make([]complex128, n), a: make([]complex128, n), b: make([]complex128, n)}
	for i := range t.turns {
		t.turns[i] = cmplx.Rect(1, -turn*float64(i)/float64(n))
	}
	if n%4 == 0 {
		t.first = make([][3]complex128, n/4)
	}
	for p := range t.first {
		t.first[p] = [3]complex128{t.turns[p], t.turns[2*p], t.turns[3*p]}
	}
	return t
}

const turn = 6.283185307179586476925286766559

// run transforms what is in a, and returns where it ends; both buffers are used up.
func (t *transform) run() []complex128 {
	x, y := t.a, t.b
	stride := 1
	for n := t.n; n > 1; {
		if n == 2 {
			u, v := x[:stride], x[stride:2*stride]
			for q := range u {
				y[q], y[q+stride] = u[q]+v[q], u[q]-v[q]
			}
			return y
		}
		m := n / 4
		step := t.n / n
		if stride == 1 { // nothing to go along with: the first step, and the one with the most turns
			x0, x1, x2, x3 := x[:m], x[m:2*m], x[2*m:3*m], x[3*m:4*m]
			x1, x2, x3 = x1[:len(x0)], x2[:len(x0)], x3[:len(x0)]
			w, made := t.first[:len(x0)], y[:4*len(x0)]
			for p := 0; t.half && p < len(x0); p++ { // the same as below, without what is nothing
				a, d := x0[p], x3[p]
				j := complex(imag(d), -real(d))
				v := (*[4]complex128)(made[4*p:])
				v[0] = a + d
				v[1] = w[p][0] * (a - j)
				v[2] = w[p][1] * (a - d)
				v[3] = w[p][2] * (a + j)
			}
			for p := 0; !t.half && p < len(x0); p++ {
				ac, am := x0[p]+x2[p], x0[p]-x2[p]
				bd, bm := x1[p]+x3[p], x1[p]-x3[p]
				j := complex(-imag(bm), real(bm))
				v := (*[4]complex128)(made[4*p:])
				v[0] = ac + bd
				v[1] = w[p][0] * (am - j)
				v[2] = w[p][1] * (ac - bd)
				v[3] = w[p][2] * (am + j)
			}
			n, stride = m, 4
			x, y = y, x
			continue
		}
		for p := range m {
			w1, w2, w3 := t.turns[p*step], t.turns[2*p*step], t.turns[3*p*step]
			u0 := x[stride*p : stride*(p+1)]
			u1 := x[stride*(p+m) : stride*(p+m+1)]
			u2 := x[stride*(p+2*m) : stride*(p+2*m+1)]
			u3 := x[stride*(p+3*m) : stride*(p+3*m+1)]
			v0 := y[stride*4*p : stride*(4*p+1)]
			v1 := y[stride*(4*p+1) : stride*(4*p+2)]
			v2 := y[stride*(4*p+2) : stride*(4*p+3)]
			v3 := y[stride*(4*p+3) : stride*(4*p+4)]
			u1, u2, u3 = u1[:len(u0)], u2[:len(u0)], u3[:len(u0)]
			v0, v1, v2, v3 = v0[:len(u0)], v1[:len(u0)], v2[:len(u0)], v3[:len(u0)]
			for q := range u0 {
				ac, am := u0[q]+u2[q], u0[q]-u2[q]
				bd, bm := u1[q]+u3[q], u1[q]-u3[q]
				j := complex(-imag(bm), real(bm))
				v0[q] = ac + bd
				v1[q] = w1 * (am - j)
				v2[q] = w2 * (ac - bd)
				v3[q] = w3 * (am + j)
			}
		}
		n, stride = m, 4*stride
		x, y = y, x
	}
	return x
}
