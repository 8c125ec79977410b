package store

import (
	"context"
	"errors"
)

// ofDrives are the tables of what is known of the files of drives, with the column that names
// the drive. A drive that is added again is another one: nobody can ask for those of one that was
// forgotten. What was decided, written and held stays: it is told by its path.
var ofDrives = []struct{ table, column string }{
	{"seen", "drive"}, {"looks", "drive"}, {"was", "drive"}, {"beside", "drive"}, {"heads", "drive"},
	{"traced", "drive"}, {"uses", "doc_drive"}, {"folders", "drive"}, {"declared", "drive"}, {"health", "drive"},
}

// Prune takes out what nobody can ask for any more: what was known of drives that were
// forgotten, writings that were put back. It may take seconds, a table at a time.
func (s *Store) Prune(ctx context.Context) error {
	var all error
	for _, t := range ofDrives {
		_, err := s.writer().ExecContext(ctx, "DELETE FROM "+t.table+" WHERE "+t.column+" <> '' AND "+t.column+" NOT IN (SELECT id FROM drives)")
		all = errors.Join(all, err)
	}
	_, err := s.writer().ExecContext(ctx, "DELETE FROM acts WHERE back")
	s.catalogue.forget()
	return errors.Join(all, err)
}
