// Package fault is why an act is refused, in words for people.
package fault

import (
	"context"
	"errors"
	"io/fs"
	"syscall"

	"boundcrate/core/disk/drive"
	"boundcrate/core/pack/content"
	"boundcrate/core/pack/receive"
	"boundcrate/core/pack/seal"
	"boundcrate/core/road/trace"
	"boundcrate/core/say/words"
	"boundcrate/store"
)

// Code tells what kind of refusal an error is.
type Code int

// The codes.
const (
	Broken      Code = iota // ours: it went wrong inside
	Wrong                   // what was asked for makes no sense
	Unfit                   // it makes sense, and cannot be done with what was given
	Unknown                 // it is not there, or not any more
	Conflict                // it does not fit what holds by now, or somebody has to say more
	Forbidden               // nobody may
	Unavailable             // it cannot be told at present
	Unsupported             // not for things of this kind
)

// Fault is an error in words for people.
type Fault struct {
	Code          Code
	Title, Detail string
	Problem       *words.Problem // what else is told of it; nil: nothing
}

func (f *Fault) Error() string { return f.Detail }

// Say refuses, in words.
func Say(code Code, title, detail string) error {
	return &Fault{Code: code, Title: title, Detail: detail}
}

var troubles = map[store.Trouble]string{
	store.Locked:     "Another program is using the database in the data folder. Nothing was saved. Try again when it has finished.",
	store.Full:       "The disk of the data folder is full. Nothing was saved. Free some space and try again.",
	store.Unwritable: "The data folder cannot be written. Nothing was saved.",
}

// Explain is the one place where errors of acts become words.
func Explain(err error) Fault {
	var (
		said    *Fault
		doc     *trace.Error
		changed *trace.ChangedError
		copied  *content.ChangedError
		refusal *seal.Refusal
		no      *seal.NoCrate
	)
	as := func(code Code, title string) Fault { return Fault{Code: code, Title: title, Detail: words.Error(err)} }
	if why, ok := troubles[store.TroubleOf(err)]; ok {
		return Fault{Code: Unavailable, Title: "The database cannot be used", Detail: why}
	}
	switch {
	case errors.As(err, &said):
		return *said
	case errors.As(err, &changed), errors.As(err, &copied):
		return as(Conflict, "Changed in the meantime")
	case errors.As(err, &doc):
		return as(Unfit, "The document could not be read")
	case errors.As(err, &refusal), errors.As(err, &no), errors.Is(err, receive.ErrThere):
		return as(Conflict, "Refused")
	case errors.Is(err, store.ErrNotFound):
		return Fault{Code: Unknown, Title: "Not found", Detail: "It no longer exists in Bound Crate."}
	case errors.Is(err, syscall.ENAMETOOLONG):
		return Fault{Code: Wrong, Title: "Too long", Detail: "The name is too long for this disk."}
	case errors.Is(err, syscall.EINVAL), errors.Is(err, syscall.ENOTDIR), errors.Is(err, syscall.ELOOP):
		return Fault{Code: Wrong, Title: "Not a path", Detail: "That is not a path to a file or folder."}
	case errors.Is(err, drive.ErrOutside):
		return as(Forbidden, "Outside your drives")
	case errors.Is(err, drive.ErrUnplugged):
		return as(Conflict, "Drive not connected")
	case errors.Is(err, fs.ErrNotExist):
		return as(Unknown, "Not found")
	case errors.Is(err, drive.ErrNotRegular):
		return as(Wrong, "Not a file")
	case errors.Is(err, fs.ErrPermission):
		return as(Forbidden, "Permission denied")
	case errors.Is(err, context.Canceled):
		return Fault{Code: Conflict, Title: "Stopped", Detail: "The work was stopped."}
	}
	return as(Broken, "That did not work")
}
