package demo

import (
	"bytes"
	"encoding/binary"
	"hash/fnv"
	"image"
	"image/color"
	"image/png"
	"math"
	"math/rand/v2"
	"sync"
)

// voice is one synthesised sound.
type voice struct {
	seconds  float64
	channels int
	rate     int
	depth    int     // bits
	tone     float64 // Hz of the ground tone; 0: none
	partials int
	noise    float64 // 0 to 1
	strike   float64 // decay of repeated strikes, per second; 0: steady
	every    float64 // seconds between strikes
	seed     uint64
}

// rendered keeps what was rendered, where it is to be kept.
var rendered *sync.Map

// KeepRendered keeps what is rendered from now on for the next worlds of this process: for whoever writes many.
func KeepRendered() { rendered = &sync.Map{} }

// once renders something that key tells of, unless it was kept.
func once(key any, render func() []byte) []byte {
	if rendered == nil {
		return render()
	}
	if b, ok := rendered.Load(key); ok {
		return b.([]byte)
	}
	b := render()
	rendered.Store(key, b)
	return b
}

// wav is a voice as a WAVE file with linear samples.
func (v voice) wav() []byte { return once(v, v.render) }

func (v voice) render() []byte {
	frames := int(v.seconds * float64(v.rate))
	block := v.channels * v.depth / 8
	var b bytes.Buffer
	b.Grow(frames*block + 44)
	le := func(x ...any) {
		for _, y := range x {
			_ = binary.Write(&b, binary.LittleEndian, y) // a buffer takes everything
		}
	}
	b.WriteString("RIFF")
	le(uint32(36 + frames*block))
	b.WriteString("WAVEfmt ")
	le(uint32(16), uint16(1), uint16(v.channels), uint32(v.rate), uint32(v.rate*block), uint16(block), uint16(v.depth))
	b.WriteString("data")
	le(uint32(frames * block))
	rng := rand.New(rand.NewPCG(v.seed, 9))
	low := make([]float64, v.channels)
	sample := make([]byte, 4)
	tones, swells := make([]turning, v.partials), make([]turning, v.channels)
	for k := range tones {
		p := float64(k + 1)
		tones[k] = turn(v.tone*p*(1+0.0007*p*p)/float64(v.rate), 0)
	}
	for c := range swells {
		swells[c] = turn(0.11/float64(v.rate), float64(c))
	}
	ring, fades, struck := 1.0, math.Exp(-v.strike/float64(v.rate)), -1.0
	for i := range frames {
		t := float64(i) / float64(v.rate)
		env := math.Min(1, 20*math.Min(t, v.seconds-t))
		if v.strike > 0 {
			if n := math.Floor(t / v.every); n != struck {
				ring, struck = math.Exp(-v.strike*(t-n*v.every)), n
			}
			env *= ring
			ring *= fades
		}
		sum := 0.0
		for k := range tones {
			sum += tones[k].next() / float64((k+1)*(k+1))
		}
		for c := range v.channels {
			low[c] += 0.05 * (rng.Float64()*2 - 1 - low[c])
			x := env * (0.55*sum*(1-v.noise) + 3*v.noise*low[c]*(0.6+0.4*swells[c].next()))
			x = math.Max(-0.98, math.Min(0.98, x))
			binary.LittleEndian.PutUint32(sample, uint32(int32(x*(1<<31-1))))
			b.Write(sample[4-v.depth/8:])
		}
	}
	return b.Bytes()
}

// turning is a sine that is told sample by sample: each turns the last one by as much, which is far quicker than
// asking for every sine.
type turning struct{ sin, cos, dsin, dcos float64 }

// turn begins one of so many turns a sample, at a phase in radians.
func turn(turns, phase float64) turning {
	s, c := math.Sincos(phase)
	ds, dc := math.Sincos(2 * math.Pi * turns)
	return turning{s, c, ds, dc}
}

func (t *turning) next() float64 {
	is := t.sin
	t.sin, t.cos = t.sin*t.dcos+t.cos*t.dsin, t.cos*t.dcos-t.sin*t.dsin
	return is
}

// picture is what a picture is painted from.
type picture struct {
	name string
	w, h int
	at   float64
}

// still paints a sea under a sky with what name tells; at 0 to 1 is the hour.
func still(name string, w, h int, at float64) []byte {
	return once(picture{name, w, h, at}, func() []byte { return sea(name, w, h, at) })
}

func sea(name string, w, h int, at float64) []byte {
	hash := fnv.New64a()
	hash.Write([]byte(name))
	rng := rand.New(rand.NewPCG(hash.Sum64(), 3))
	hue := rng.Float64()
	im := image.NewRGBA(image.Rect(0, 0, w, h))
	horizon := float64(h) * (0.55 + 0.1*rng.Float64())
	sunX, sunY, sunR := float64(w)*(0.3+0.4*rng.Float64()), horizon*(1.1-0.8*at), float64(h)/12
	for y := range h {
		for x := range w {
			fx, fy := float64(x), float64(y)
			var r, g, b float64
			if fy < horizon {
				k := fy / horizon
				r, g, b = 40+150*at+50*k, 60+90*at+60*k*hue, 90+60*(1-at)+50*(1-k)
				if d := math.Hypot(fx-sunX, fy-sunY); d < sunR {
					r, g, b = 250, 220, 150
				}
			} else {
				k := (fy - horizon) / (float64(h) - horizon)
				wave := 12 * math.Sin(fx/17+fy*fy/900+6*at)
				r, g, b = 25+wave+60*at*(1-k), 60+wave+40*hue, 85+wave+30*(1-k)
			}
			im.SetRGBA(x, y, color.RGBA{clamp(r), clamp(g), clamp(b), 255})
		}
	}
	hull := int(horizon)
	for y := hull - h/14; y < hull+h/30; y++ { // the lightship
		for x := int(float64(w)*0.62) - (y-hull)/2; x < int(float64(w)*0.8)+(y-hull)/3; x++ {
			if image.Pt(x, y).In(im.Rect) {
				im.SetRGBA(x, y, color.RGBA{120, 34, 26, 255})
			}
		}
	}
	return encode(im)
}

// texture paints a tile of grain.
func texture(name string, size int) []byte {
	return once(picture{name: name, w: size}, func() []byte { return grain(name, size) })
}

func grain(name string, size int) []byte {
	hash := fnv.New64a()
	hash.Write([]byte(name))
	rng := rand.New(rand.NewPCG(hash.Sum64(), 5))
	base := [3]float64{90 + 80*rng.Float64(), 70 + 60*rng.Float64(), 50 + 50*rng.Float64()}
	im := image.NewRGBA(image.Rect(0, 0, size, size))
	for y := range size {
		plank := y / (size / 8)
		for x := range size {
			g := 14*math.Sin(float64(x)/9+float64(plank*7)+2*math.Sin(float64(y)/5)) + 8*(rng.Float64()-0.5)
			edge := 0.0
			if y%(size/8) < 2 {
				edge = -40
			}
			im.SetRGBA(x, y, color.RGBA{clamp(base[0] + g + edge), clamp(base[1] + g + edge), clamp(base[2] + g + edge), 255})
		}
	}
	return encode(im)
}

func clamp(v float64) uint8 { return uint8(math.Max(0, math.Min(255, v))) }

func encode(im image.Image) []byte {
	var b bytes.Buffer
	e := png.Encoder{CompressionLevel: png.BestSpeed}
	_ = e.Encode(&b, im) // a buffer takes everything
	return b.Bytes()
}
