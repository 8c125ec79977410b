package store

import (
	"database/sql"
	"errors"

	"boundcrate/core/disk/drive"
	"boundcrate/core/media/acoustic"
)

func (m *Memory) keepLooks(rows []seen) error {
	var with []*seen
	for i := range rows {
		if len(rows[i].look)+len(rows[i].sound) > 0 {
			with = append(with, &rows[i])
		}
	}
	return m.s.many(nil, "INSERT INTO looks (drive, path, look, sound) VALUES (?,?,?,?) ON CONFLICT (drive, path) DO UPDATE SET look = excluded.look, sound = excluded.sound", len(with), func(i int) []any {
		return []any{with[i].at.Drive, with[i].at.Path, append([]byte{}, with[i].look...), append([]byte{}, with[i].sound...)}
	})
}

// Look is what a file looked like when it was last seen (core/media/look).
func (m *Memory) Look(path string) ([]byte, error) {
	p := drive.At(m.drives, path)
	var b []byte
	err := m.s.raw().QueryRow("SELECT look FROM looks WHERE drive = ? AND path = ?", p.Drive, p.Path).Scan(&b)
	if errors.Is(err, sql.ErrNoRows) {
		return nil, ErrNotFound
	}
	return b, err
}

// Sound is what a sound sounded like when it was last seen.
func (m *Memory) Sound(path string) (acoustic.Print, bool) {
	p := drive.At(m.drives, path)
	var b []byte
	err := m.s.raw().QueryRow("SELECT sound FROM looks WHERE drive = ? AND path = ?", p.Drive, p.Path).Scan(&b)
	return acoustic.Unpack(b), err == nil && len(b) > 0
}
