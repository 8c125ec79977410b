package stow

import (
	"bytes"
	"cmp"
	"compress/flate"
	"context"
	"io"
	"slices"

	"github.com/klauspost/compress/zstd"

	"boundcrate/core/disk/drive"
	"boundcrate/core/media/facts"
	"boundcrate/core/pack/carrier"
	"boundcrate/core/road/graph"
)

// Ratios are what is left of a kind's bytes in archives that pack, of 1.
type Ratios map[facts.Kind]struct{ Deflate, Zstd float64 }

// What is read of a kind to tell how it packs: pieces of its largest files, in bytes.
const (
	sampledFiles = 12
	sampledPiece = 128 << 10
)

// Sample packs pieces of the largest files of each kind, from their beginnings, middles
// and ends. What cannot be read is taken to stay as it is.
func (p *Plan) Sample(ctx context.Context, reach drive.Reach) (Ratios, error) {
	of := map[facts.Kind][]*Berth{}
	for i := range p.Berths {
		if b := &p.Berths[i]; !b.Absent && b.Form == "" {
			of[b.Kind] = append(of[b.Kind], b)
		}
	}
	enc, err := zstd.NewWriter(nil, zstd.WithEncoderConcurrency(1))
	if err != nil {
		return nil, err
	}
	defer enc.Close()
	out := Ratios{}
	for kind, list := range of {
		slices.SortStableFunc(list, func(a, b *Berth) int { return cmp.Compare(b.Size, a.Size) })
		var raw, deflated, packed float64
		for _, b := range list[:min(len(list), sampledFiles)] {
			if err := ctx.Err(); err != nil {
				return nil, err
			}
			source := b.Source
			if b.sequence && len(b.Frames) > 0 {
				source = b.Frames[len(b.Frames)/2]
			}
			sample := pieces(reach, source)
			if len(sample) == 0 {
				continue
			}
			// A file counts by its weight, however much of it was read.
			weight := float64(b.Size) / float64(len(sample))
			var w bytes.Buffer
			f, err := flate.NewWriter(&w, flate.DefaultCompression)
			if err != nil {
				return nil, err
			}
			if _, err := f.Write(sample); err != nil {
				return nil, err
			}
			if err := f.Close(); err != nil {
				return nil, err
			}
			raw += weight * float64(len(sample))
			deflated += weight * float64(min(w.Len(), len(sample)))
			packed += weight * float64(min(len(enc.EncodeAll(sample, nil)), len(sample)))
		}
		if raw > 0 {
			out[kind] = struct{ Deflate, Zstd float64 }{deflated / raw, packed / raw}
		}
	}
	return out, nil
}

// pieces are the beginning, the middle and the end of a file.
func pieces(reach drive.Reach, path string) []byte {
	f, err := reach.Open(path)
	if err != nil {
		return nil
	}
	defer f.Close()
	size := f.Size()
	var out []byte
	read := func(off, n int64) {
		b := make([]byte, n)
		m, err := f.ReadAt(b, off)
		if err == nil || err == io.EOF {
			out = append(out, b[:m]...)
		}
	}
	if size <= 3*sampledPiece {
		read(0, size)
		return out
	}
	for _, off := range []int64{0, (size - sampledPiece) / 2, size - sampledPiece} {
		read(off, sampledPiece)
	}
	return out
}

// What an archive takes for each file beside its bytes, about: names, sums, headers.
const (
	zipEach = 250
	tarEach = 1024
)

// Estimates are the bytes an archive of each kind will have about, by how samples of the
// files packed; what was not sampled stays as it is.
func (p *Texts) Estimates(r Ratios) map[carrier.Kind]int64 {
	var plain, stored, zipped, packed float64
	var files int64
	for i := range p.Berths {
		b := &p.Berths[i]
		if !p.copies(i) {
			continue
		}
		files += int64(b.Files())
		size := float64(p.Size(i))
		plain += size
		k, known := r[b.Kind]
		if !known || b.File == graph.None && b.Form != "" {
			k.Deflate, k.Zstd = 1, 1
		}
		packed += size * k.Zstd
		zipped += size * k.Deflate
		if !carrier.Stored(b.Kind) {
			size *= k.Deflate
		}
		stored += size
	}
	return map[carrier.Kind]int64{
		carrier.Zip: int64(stored) + zipEach*files, carrier.Tar: int64(plain) + tarEach*files,
		carrier.TarZstd: int64(packed) + tarEach*files/8, carrier.TarGzip: int64(zipped) + tarEach*files/8,
	}
}
