package words

import (
	"errors"

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
	}
	return ""
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
