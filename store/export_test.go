package store

// Exec runs a statement, for tests that damage a database.
func Exec(s *Store, sql string) error { return s.db.Exec(sql).Error }
