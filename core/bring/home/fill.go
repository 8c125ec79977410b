package home

import (
	"context"
	"errors"
	"fmt"

	"boundcrate/core/disk/drive"
	"boundcrate/core/disk/fileset"
	"boundcrate/core/mend/mend"
)

// Copy copies files to paths that nothing has yet and reads each back, all or none. About is
// what the writing belongs to (fileset.Begin). No document is changed. After each file done is
// told its size.
func Copy(ctx context.Context, files []mend.Frame, reach drive.Reach, journals, about string, done func(bytes int64)) (err error) {
	tx, err := fileset.Begin(journals, about)
	if err != nil {
		return err
	}
	defer func() { err = errors.Join(err, tx.Close()) }()
	for _, m := range files {
		if err := copyNew(ctx, tx, reach, m.From, m.To); err != nil {
			return fmt.Errorf("‘%s’: %w", m.From, err)
		}
		done(m.Size)
	}
	_, err = tx.Commit()
	return err
}
