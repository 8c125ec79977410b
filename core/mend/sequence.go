package mend

import (
	"context"
	"fmt"
	"path/filepath"
	"strings"

	"boundcrate/core/mention"
	"boundcrate/core/resolve"
)

// sequences ranks folders that hold files of the wanted pattern, or of one
// that differs in the words before the number.
func (x *Index) sequences(ctx context.Context, w Wanted, ev Evidence) ([]Candidate, error) {
	pat, ok := resolve.ParsePattern(w.Expected)
	if !ok {
		return nil, nil
	}
	found := map[resolve.Pattern]*Candidate{}
	var contents []resolve.Pattern
	for dir, list := range x.byDir {
		if err := ctx.Err(); err != nil {
			return nil, err
		}
		heads := map[string]bool{}
		for _, i := range list {
			if head, ok := headOf(filepath.Base(x.files[i].Path), pat); ok {
				heads[head] = true
			}
		}
		names, sizes := make([]string, len(list)), make([]int64, len(list))
		for k, i := range list {
			names[k], sizes[k] = filepath.Base(x.files[i].Path), x.files[i].Size
		}
		for head := range heads {
			like := Likeness(loose(head), loose(pat.Head))
			if head != pat.Head && like < alike {
				continue
			}
			at := resolve.Pattern{Dir: dir, Head: head, Tail: pat.Tail, Digits: pat.Digits}
			files, sz, gaps, err := resolve.Frames(at, *w.Sequence, func(string) ([]string, []int64, error) { return names, sizes, nil })
			if err != nil || len(files) == 0 {
				continue
			}
			want := w.Sequence.Count
			if len(w.Gaps) > 0 {
				if head != pat.Head || at == pat {
					continue // only files of the very name can fill a gap
				}
				files, sz, want = within(w.Gaps, at, files, sz)
				if len(files) == 0 {
					continue
				}
				gaps = nil
				if len(files) < want {
					gaps = []resolve.Gap{{First: 1, Last: want - len(files), Step: 1}}
				}
			}
			c := &Candidate{Path: at.String(), Certainty: Possible, Files: len(files), Score: 0.36 * like}
			for _, n := range sz {
				c.Size += n
			}
			if head == pat.Head {
				c.Score = 0.55
				c.Reasons = append(c.Reasons, "same name")
			} else {
				c.Reasons = append(c.Reasons, fmt.Sprintf("name is alike (%.0f of 100)", 100*like))
			}
			lacking := 0
			for _, g := range gaps {
				lacking += g.Len()
			}
			if want > 0 {
				what := "files"
				if len(w.Gaps) > 0 {
					what = "missing numbers"
				}
				c.Reasons = append(c.Reasons, fmt.Sprintf("%d of %d %s", len(files), want, what))
				c.Score *= 0.5 + 0.5*float64(len(files))/float64(want)
			}
			same, err := ev.sameFrames(ctx, pat, at, files)
			if err != nil {
				return nil, err
			}
			switch {
			case same == sameAll && lacking == 0:
				c.Reasons = append([]string{"same content as when last seen"}, c.Reasons...)
				c.Score = 0.9 + 0.1*c.Score
				c.Certainty = Likely
				contents = append(contents, at)
			case same == sameOther:
				c.Warnings = append(c.Warnings, "other content than when last seen")
				c.Score *= 0.6
			case head == pat.Head && lacking == 0:
				c.Certainty = Likely
			}
			found[at] = c
		}
	}
	sure(contents, found)
	return ranked(found), nil
}

// within keeps the files whose numbers lie in gaps, and counts all such numbers.
func within(gaps []resolve.Gap, at resolve.Pattern, files []string, sizes []int64) (in []string, sz []int64, want int) {
	for _, g := range gaps {
		want += g.Len()
	}
	for i, f := range files {
		n, ok := at.Number(filepath.Base(f))
		if !ok {
			continue
		}
		for _, g := range gaps {
			if n >= g.First && n <= g.Last && (n-g.First)%g.Step == 0 {
				in, sz = append(in, f), append(sz, sizes[i])
				break
			}
		}
	}
	return in, sz, want
}

// headOf returns what stands before the number in a file name of a pattern
// with the same tail and number of digits.
func headOf(name string, pat resolve.Pattern) (string, bool) {
	rest, ok := strings.CutSuffix(name, pat.Tail)
	if !ok {
		return "", false
	}
	if pat.Digits == mention.Grid {
		i := strings.LastIndexByte(rest, 'u')
		if i < 0 {
			return "", false
		}
		_, ok := resolve.Pattern{Digits: mention.Grid}.Number(rest[i:])
		return rest[:i], ok
	}
	i := len(rest)
	for i > 0 && rest[i-1] >= '0' && rest[i-1] <= '9' {
		i--
	}
	digits := len(rest) - i
	if digits == 0 || digits < pat.Digits {
		return "", false
	}
	return strings.TrimSuffix(rest[:i], "-"), true
}

type sameness int

const (
	sameUnknown sameness = iota
	sameAll
	sameOther
)

// sameFrames compares every frame with what was last seen under its number.
func (ev Evidence) sameFrames(ctx context.Context, was, at resolve.Pattern, files []string) (sameness, error) {
	if ev.Memory == nil || len(files) > mostSequenced {
		return sameUnknown, nil
	}
	for _, f := range files {
		number := strings.TrimSuffix(strings.TrimPrefix(filepath.Base(f), at.Head), at.Tail)
		last, ok := ev.Memory(filepath.Join(was.Dir, was.Head+number+was.Tail))
		if !ok || last.SHA256 == "" {
			return sameUnknown, nil
		}
		sum, err := ev.Hash(ctx, f)
		if ctx.Err() != nil {
			return sameUnknown, ctx.Err()
		}
		if err != nil {
			return sameUnknown, nil
		}
		if sum != last.SHA256 {
			return sameOther, nil
		}
	}
	return sameAll, nil
}
