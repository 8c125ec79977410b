package words

import (
	"errors"

	"boundcrate/core/keep/back"
	"boundcrate/core/keep/backup"
	"boundcrate/core/keep/line"
)

// keepError tells errors of editions and backups; "" of any other.
func keepError(err error) string {
	var (
		refusal *backup.Refusal
		damaged *line.DamagedError
		changed *line.ChangedError
		none    *line.NoEditionError
		cannot  *back.CannotError
		why     back.Why
	)
	switch {
	case errors.As(err, &refusal):
		return backupRefusal(refusal)
	case errors.As(err, &damaged):
		return "The edition store is damaged: what was kept as " + damaged.SHA256[:min(12, len(damaged.SHA256))] + "… cannot be read back exactly. Nothing was written."
	case errors.As(err, &changed):
		return "‘" + changed.Path + "’ is being written by another program. No edition was kept. Try again when it is saved."
	case errors.As(err, &none):
		return err.Error() + ". Nothing was written."
	case errors.As(err, &cannot):
		return "‘" + cannot.Place + "’ cannot be taken. " + whyNotBack(cannot.Why) + " Nothing was written."
	case errors.As(err, &why):
		return whyNotBack(why)
	case errors.Is(err, back.ErrOther):
		return "The crate is damaged: a file in it is not what was sealed. Nothing was written."
	}
	return ""
}

// whyNotBack tells why a file of a backup or a crate cannot be taken into a project.
func whyNotBack(w back.Why) string {
	switch w {
	case back.Elsewhere:
		return "This crate does not hold it; the crate it builds on does."
	case back.Converted:
		return "It was made for the crate: the project has another in its place. Receive the crate as a project of its own."
	case back.NoPlace:
		return "Another file of the crate has the same place in the project."
	case back.Hidden:
		return "It is a hidden file, or in a hidden folder: these are not taken out of a crate."
	case back.Unplugged:
		return "It belongs on a drive that is not connected."
	}
	return "It cannot be made to name its files where they are in this project."
}

func backupRefusal(e *backup.Refusal) string {
	switch e.Code {
	case backup.InProject:
		return "‘" + e.Dir + "’ is inside the project folder. Choose a folder on another drive."
	case backup.SameDrive:
		return "‘" + e.Dir + "’ is on the project's own drive: a backup there is lost with it. Choose another drive."
	case backup.Busy:
		return "Another backup to ‘" + e.Dir + "’ is running. Wait until it is done."
	}
	return "At least one generation must be kept."
}
