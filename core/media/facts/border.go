package facts

import (
	"errors"
	"fmt"
)

// ErrGaveUp: a reader met what it was not made for. It is an ErrDamaged, too; fuzz targets
// look for it.
var ErrGaveUp = errors.New("its reader gave up")

// Border is deferred by every reader of files that nobody here wrote: where one panics,
// the file is damaged, and nothing else fails.
func Border(err *error) {
	if p := recover(); p != nil {
		*err = fmt.Errorf("%w: %w: %v", ErrDamaged, ErrGaveUp, p)
	}
}
