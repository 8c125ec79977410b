package store

import (
	"time"

	"boundcrate/core/disk/drive"
)

// Crate is a crate that was sealed of a project.
type Crate struct {
	ID        int64
	Project   int64
	At        time.Time
	Where     drive.Path
	Recipient string
	Since     string // of a difference crate: the name of the crate it builds on
	Complete  bool
	Files     int
	Bytes     int64
}

// PutCrate keeps that a crate was sealed.
func (s *Store) PutCrate(c Crate) error {
	_, err := s.writer().Exec("INSERT INTO crates (project_id, at, drive, path, recipient, since, complete, files, bytes) VALUES (?,?,?,?,?,?,?,?,?)",
		c.Project, nanos(c.At), c.Where.Drive, c.Where.Path, c.Recipient, c.Since, c.Complete, c.Files, c.Bytes)
	return forgotten(err)
}

// Crates are the last ones of a project, the newest first, one for each place.
func (s *Store) Crates(project int64, most int) (list []Crate, err error) {
	rows, err := s.raw().Query("SELECT id, max(at), drive, path, recipient, since, complete, files, bytes FROM crates WHERE project_id = ? GROUP BY drive, path ORDER BY max(at) DESC LIMIT ?", project, most)
	if err != nil {
		return nil, err
	}
	defer rows.Close()
	for rows.Next() {
		c, at := Crate{Project: project}, int64(0)
		if err := rows.Scan(&c.ID, &at, &c.Where.Drive, &c.Where.Path, &c.Recipient, &c.Since, &c.Complete, &c.Files, &c.Bytes); err != nil {
			return nil, err
		}
		c.At = time.Unix(0, at)
		list = append(list, c)
	}
	return list, rows.Err()
}

// Sending is one try to send a crate.
type Sending struct {
	ID        int64
	Project   int64
	Began     time.Time
	Ended     time.Time // zero: it is under way, or the application ended in the middle
	Crate     drive.Path
	Address   string
	Recipient string
	Bytes     int64
	Receipt   string // JSON; "" where there is none
	Trouble   string
}

// PutSending keeps a sending, a new one under a new number.
func (s *Store) PutSending(x *Sending) error {
	ended := int64(0)
	if !x.Ended.IsZero() {
		ended = nanos(x.Ended)
	}
	if x.ID != 0 {
		_, err := s.writer().Exec("UPDATE sendings SET ended = ?, bytes = ?, receipt = ?, trouble = ? WHERE id = ?", ended, x.Bytes, x.Receipt, x.Trouble, x.ID)
		return err
	}
	r, err := s.writer().Exec("INSERT INTO sendings (project_id, began, ended, drive, path, address, recipient, bytes, receipt, trouble) VALUES (?,?,?,?,?,?,?,?,?,?)",
		x.Project, nanos(x.Began), ended, x.Crate.Drive, x.Crate.Path, x.Address, x.Recipient, x.Bytes, x.Receipt, x.Trouble)
	if err != nil {
		return forgotten(err)
	}
	x.ID, err = r.LastInsertId()
	return err
}

// Sendings are the last ones of a project, the newest first.
func (s *Store) Sendings(project int64, most int) (list []Sending, err error) {
	rows, err := s.raw().Query("SELECT id, began, ended, drive, path, address, recipient, bytes, receipt, trouble FROM sendings WHERE project_id = ? ORDER BY began DESC, id DESC LIMIT ?", project, most)
	if err != nil {
		return nil, err
	}
	defer rows.Close()
	for rows.Next() {
		x, began, ended := Sending{Project: project}, int64(0), int64(0)
		if err := rows.Scan(&x.ID, &began, &ended, &x.Crate.Drive, &x.Crate.Path, &x.Address, &x.Recipient, &x.Bytes, &x.Receipt, &x.Trouble); err != nil {
			return nil, err
		}
		if x.Began = time.Unix(0, began); ended > 0 {
			x.Ended = time.Unix(0, ended)
		}
		list = append(list, x)
	}
	return list, rows.Err()
}
