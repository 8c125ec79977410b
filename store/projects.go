package store

import (
	"encoding/json"
	"errors"
	"slices"
	"time"

	"github.com/google/uuid"
	"gorm.io/gorm"
	"gorm.io/gorm/clause"

	"boundcrate/core/disk/drive"
)

// ErrNotFound: no row of that id.
var ErrNotFound = errors.New("it is not known here any more")

func notFound(err error) error {
	if errors.Is(err, gorm.ErrRecordNotFound) {
		return ErrNotFound
	}
	return err
}

// Drives lists the configured drives by name.
func (s *Store) Drives() ([]Drive, error) {
	var list []Drive
	return list, s.read.Order("name").Find(&list).Error
}

// PutDrive adds a drive or, by its name, changes one: it keeps its id when it
// comes back under another mount, and the kind that a person said it is of.
func (s *Store) PutDrive(name, dir, kind string, stand bool) error {
	d := Drive{ID: uuid.NewString(), Name: name, Dir: dir, Kind: kind, Stand: stand}
	return s.db.Clauses(clause.OnConflict{Columns: []clause.Column{{Name: "name"}}, DoUpdates: clause.Set{
		{Column: clause.Column{Name: "dir"}, Value: clause.Column{Table: "excluded", Name: "dir"}},
		{Column: clause.Column{Name: "stand"}, Value: clause.Column{Table: "excluded", Name: "stand"}},
		{Column: clause.Column{Name: "kind"}, Value: clause.Expr{SQL: "CASE WHEN drives.kind_said THEN drives.kind ELSE excluded.kind END"}},
	}}).Create(&d).Error
}

// NameDrive gives a drive another name.
func (s *Store) NameDrive(id, name string) error {
	return affected(s.db.Model(&Drive{}).Where("id = ?", id).Update("name", name))
}

// DropDrive forgets a drive.
func (s *Store) DropDrive(id string) error {
	return affected(s.db.Where("id = ?", id).Delete(&Drive{}))
}

// affected is ErrNotFound where there was no such row.
func affected(tx *gorm.DB) error {
	if tx.Error == nil && tx.RowsAffected == 0 {
		return ErrNotFound
	}
	return tx.Error
}

// Core is the drive as the core sees it.
func (d Drive) Core() drive.Drive {
	out := drive.Drive{ID: d.ID, Name: d.Name, Dir: d.Dir, Kind: d.Kind, Gives: d.Gives}
	_ = json.Unmarshal([]byte(d.Known), &out.Known) // none is none
	return out
}

// CoreDrives are the configured drives as the core sees them.
func (s *Store) CoreDrives() ([]drive.Drive, error) {
	rows, err := s.Drives()
	out := make([]drive.Drive, len(rows))
	for i, d := range rows {
		out[i] = d.Core()
	}
	return out, err
}

// Projects lists all projects, the last opened first.
func (s *Store) Projects() ([]Project, error) {
	var list []Project
	if err := s.read.Order("opened_at DESC, id DESC").Find(&list).Error; err != nil {
		return nil, err
	}
	drives, err := s.CoreDrives()
	for i := range list {
		list[i].resolvePaths(drives)
	}
	return list, err
}

// resolvePaths tells where a project's documents are, as its drives are mounted now.
func (p *Project) resolvePaths(drives []drive.Drive) {
	p.Documents = make([]string, len(p.DocumentsAt))
	for i, at := range p.DocumentsAt {
		p.Documents[i] = nowAt(drives, at)
	}
	p.Root = nowAt(drives, drive.Path{Drive: p.RootDrive, Path: p.RootPath})
	if p.OutPath != "" {
		p.Out = nowAt(drives, drive.Path{Drive: p.OutDrive, Path: p.OutPath})
	}
}

// nowAt is where something stands now; what lies on a drive that is not known any more stands
// nowhere, and is called by its path there.
func nowAt(drives []drive.Drive, at drive.Path) string {
	if abs, ok := drive.Abs(drives, at); ok {
		return abs
	}
	return at.Path
}

// Project returns one.
func (s *Store) Project(id int64) (Project, error) {
	var p Project
	if err := s.read.First(&p, id).Error; err != nil {
		return p, notFound(err)
	}
	drives, err := s.CoreDrives()
	p.resolvePaths(drives)
	return p, err
}

// AddProject adds a project of some documents, or returns the one that has just
// these already.
func (s *Store) AddProject(name string, documents []string, root string, now time.Time) (Project, error) {
	drives, err := s.CoreDrives()
	if err != nil {
		return Project{}, err
	}
	var docs []drive.Path
	for _, d := range slices.Compact(slices.Clone(documents)) {
		docs = append(docs, drive.At(drives, d))
	}
	key, err := json.Marshal(docs)
	if err != nil {
		return Project{}, err
	}
	rooted := drive.At(drives, root)
	var p Project
	err = s.db.Transaction(func(tx *gorm.DB) error {
		err := tx.First(&p, "documents = ?", string(key)).Error
		if errors.Is(err, gorm.ErrRecordNotFound) {
			p = Project{Name: name, DocumentsAt: docs, RootDrive: rooted.Drive, RootPath: rooted.Path, Search: []drive.Path{}, CreatedAt: nanos(now), OpenedAt: nanos(now)}
			return tx.Create(&p).Error
		}
		if err != nil {
			return err
		}
		p.RootDrive, p.RootPath, p.OpenedAt = rooted.Drive, rooted.Path, nanos(now)
		if name != "" {
			p.Name = name
		}
		return tx.Model(&Project{ID: p.ID}).Updates(map[string]any{"root": p.RootPath, "root_drive": p.RootDrive, "opened_at": p.OpenedAt, "name": p.Name}).Error
	})
	p.resolvePaths(drives)
	return p, err
}

// set changes single columns of a project; a project that was forgotten
// meanwhile does not come back.
func (s *Store) set(id int64, columns map[string]any) error {
	r := s.db.Model(&Project{}).Where("id = ?", id).Updates(columns)
	if r.Error == nil && r.RowsAffected == 0 {
		return ErrNotFound
	}
	return r.Error
}

// SetOptions keeps a project's choices, as JSON.
func (s *Store) SetOptions(id int64, options string) error {
	return s.set(id, map[string]any{"options": options})
}

// SetOut keeps where a project is sealed to, and the note that goes along.
func (s *Store) SetOut(id int64, out, note string) error {
	drives, err := s.CoreDrives()
	if err != nil {
		return err
	}
	var at drive.Path
	if out != "" {
		at = drive.At(drives, out)
	}
	return s.set(id, map[string]any{"out": at.Path, "out_drive": at.Drive, "note": note})
}

// SetAskHome keeps whether to ask when files come from outside.
func (s *Store) SetAskHome(id int64, ask bool) error {
	return s.set(id, map[string]any{"ask_home": ask})
}

// SetSearch keeps the folders a project looks in.
func (s *Store) SetSearch(id int64, folders []drive.Path) error {
	if folders == nil {
		folders = []drive.Path{}
	}
	text, err := json.Marshal(folders)
	if err != nil {
		return err
	}
	return s.set(id, map[string]any{"search": string(text)})
}

// SetSealed keeps what came of the last seal, as JSON.
func (s *Store) SetSealed(id int64, sealed string, when time.Time) error {
	return s.set(id, map[string]any{"sealed": sealed, "sealed_at": nanos(when)})
}

// SetOpened keeps when a project was last opened.
func (s *Store) SetOpened(id int64, when time.Time) error {
	return s.set(id, map[string]any{"opened_at": nanos(when)})
}

// DeleteProject forgets a project and all that belongs to it; no file is touched.
func (s *Store) DeleteProject(id int64) error {
	return s.db.Delete(&Project{}, id).Error
}

// PutJob keeps a job's row; ErrNotFound where its project was forgotten meanwhile.
func (s *Store) PutJob(j Job) error {
	return forgotten(s.db.Clauses(clause.OnConflict{UpdateAll: true}).Create(&j).Error)
}

// Jobs lists the last jobs, newest first.
func (s *Store) Jobs(most int) ([]Job, error) {
	var list []Job
	return list, s.read.Order("created_at DESC").Limit(most).Find(&list).Error
}

// JobResult is what a job resulted in, as JSON.
func (s *Store) JobResult(id string) (string, error) {
	var j Job
	if err := s.read.Select("result").Where("id = ? AND result <> ''", id).Take(&j).Error; err != nil {
		return "", notFound(err)
	}
	return j.Result, nil
}

// Ended is the error of a job that was running when the application ended.
const Ended = "the application ended while it ran"

// Interrupted marks jobs that were running when the application ended, and lets
// go of all but the last thousand.
func (s *Store) Interrupted(now time.Time) error {
	err := s.db.Model(&Job{}).Where("state = ?", "running").Updates(map[string]any{"state": "failed", "error": Ended, "ended_at": nanos(now)}).Error
	return errors.Join(err, s.db.Exec("DELETE FROM jobs WHERE id NOT IN (SELECT id FROM jobs ORDER BY created_at DESC LIMIT 1000)").Error)
}
