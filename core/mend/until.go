package mend

import (
	"context"

	"boundcrate/core/drive"
	"boundcrate/core/facts"
	"boundcrate/core/resolve"
	"boundcrate/core/trace"
)

// Until looks for everything a graph lacks, applies what is certain and alone,
// and goes on with what the repaired graph lacks, until nothing more is found:
// a nested document that was found again may miss files of its own.
//
// look is asked once for each wanted file; apply takes repairs and returns the
// graph traced with them.
func Until(ctx context.Context, g *trace.Graph, memory Memory, look func(Wanted) ([]Candidate, error), apply func([]resolve.Repair) (*trace.Graph, error)) error {
	asked := map[string]bool{}
	for {
		var sure []resolve.Repair
		for _, w := range Missing(g, memory) {
			if asked[w.Expected] {
				continue
			}
			asked[w.Expected] = true
			if err := ctx.Err(); err != nil {
				return err
			}
			cs, err := look(w)
			if err != nil {
				return err
			}
			if c, ok := Sure(cs); ok {
				sure = append(sure, w.Repair(c))
			}
		}
		if len(sure) == 0 {
			return nil
		}
		var err error
		if g, err = apply(sure); err != nil {
			return err
		}
	}
}

// Cached fingerprints a file, once a run.
func Cached(ctx context.Context, reach drive.Reach, path string, sums map[string]string) (string, error) {
	if sum, ok := sums[path]; ok {
		return sum, nil
	}
	sum, err := facts.Fingerprint(ctx, reach, path, nil)
	if err == nil {
		sums[path] = sum
	}
	return sum, err
}
