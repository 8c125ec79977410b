package store

import (
	"encoding/json"
	"errors"
	"time"

	"github.com/google/uuid"
	"gorm.io/gorm"
	"gorm.io/gorm/clause"

	"boundcrate/core/drive"
	"boundcrate/core/resolve"
	"boundcrate/core/stow"
)

// ErrNotFound: no row of that id.
var ErrNotFound = errors.New("not known")

func notFound(err error) error {
	if errors.Is(err, gorm.ErrRecordNotFound) {
		return ErrNotFound
	}
	return err
}

// Drives lists the configured drives by name.
func (s *Store) Drives() ([]Drive, error) {
	var list []Drive
	return list, s.db.Order("name").Find(&list).Error
}

// PutDrive adds a drive or, by its name, changes one: it keeps its id when it
// comes back under another mount.
func (s *Store) PutDrive(name, dir, kind string, stand bool) error {
	d := Drive{ID: uuid.NewString(), Name: name, Dir: dir, Kind: kind, Stand: stand}
	return s.db.Clauses(clause.OnConflict{Columns: []clause.Column{{Name: "name"}}, DoUpdates: clause.AssignmentColumns([]string{"dir", "kind", "stand"})}).Create(&d).Error
}

// Core is the drive as the core sees it.
func (d Drive) Core() drive.Drive {
	out := drive.Drive{ID: d.ID, Name: d.Name, Dir: d.Dir, Kind: d.Kind}
	_ = json.Unmarshal([]byte(d.Known), &out.Known) // none is none
	return out
}

// Projects lists all projects, the last opened first.
func (s *Store) Projects() ([]Project, error) {
	var list []Project
	return list, s.db.Order("opened_at DESC, id DESC").Find(&list).Error
}

// Project returns one.
func (s *Store) Project(id int64) (Project, error) {
	var p Project
	return p, notFound(s.db.First(&p, id).Error)
}

// AddProject adds a project, or returns the one that has the document already.
func (s *Store) AddProject(name, document, root string, now time.Time) (Project, error) {
	var p Project
	err := s.db.First(&p, "document = ?", document).Error
	switch {
	case err == nil:
		p.Root, p.OpenedAt = root, now
		if name != "" {
			p.Name = name
		}
	case errors.Is(err, gorm.ErrRecordNotFound):
		p = Project{Name: name, Document: document, Root: root, CreatedAt: now, OpenedAt: now}
	default:
		return p, err
	}
	return p, s.db.Save(&p).Error
}

// SaveProject keeps changed choices.
func (s *Store) SaveProject(p Project) error { return s.db.Save(&p).Error }

// DeleteProject forgets a project; no file is touched.
func (s *Store) DeleteProject(id int64) error {
	return s.db.Transaction(func(tx *gorm.DB) error {
		for _, m := range []any{&Repair{}, &Override{}, &Job{}} {
			if err := tx.Where("project_id = ?", id).Delete(m).Error; err != nil {
				return err
			}
		}
		return tx.Delete(&Project{}, id).Error
	})
}

// StowOptions reads a project's choices and wishes.
func (s *Store) StowOptions(p Project) (stow.Options, error) {
	o := stow.Options{Layout: stow.ByKind}
	if p.Options != "" {
		if err := json.Unmarshal([]byte(p.Options), &o); err != nil {
			return o, err
		}
	}
	var wishes []Override
	if err := s.db.Find(&wishes, "project_id = ?", p.ID).Error; err != nil {
		return o, err
	}
	o.Overrides = map[string]stow.Override{}
	for _, w := range wishes {
		o.Overrides[w.Key] = stow.Override{Folder: w.Folder, Name: w.Name}
	}
	return o, nil
}

// PutOverride keeps a wish for one berth; nil parts keep what was wished.
func (s *Store) PutOverride(project int64, key string, folder, name *string) error {
	var o Override
	s.db.Limit(1).Find(&o, "project_id = ? AND key = ?", project, key)
	o.ProjectID, o.Key = project, key
	if folder != nil {
		o.Folder = folder
	}
	if name != nil {
		o.Name = name
	}
	return s.db.Clauses(clause.OnConflict{UpdateAll: true}).Create(&o).Error
}

// DropOverride forgets the wish for one berth.
func (s *Store) DropOverride(project int64, key string) error {
	return s.db.Delete(&Override{}, "project_id = ? AND key = ?", project, key).Error
}

// Repairs lists a project's repairs in the order they were made.
func (s *Store) Repairs(project int64) ([]Repair, error) {
	var list []Repair
	return list, s.db.Order("id").Find(&list, "project_id = ?", project).Error
}

// Rules are repairs as the core applies them.
func Rules(list []Repair) []resolve.Repair {
	out := make([]resolve.Repair, len(list))
	for i, r := range list {
		out[i] = resolve.Repair{ID: r.ID, From: r.From, To: r.To, Prefix: r.Prefix, Document: r.Document, Written: r.Written}
	}
	return out
}

// AddRepairs keeps repairs of one batch.
func (s *Store) AddRepairs(list []Repair) error {
	if len(list) == 0 {
		return nil
	}
	return s.db.Create(&list).Error
}

// DropRepair undoes one repair, or all of its batch.
func (s *Store) DropRepair(project, id int64, batch bool) error {
	var r Repair
	if err := s.db.First(&r, "project_id = ? AND id = ?", project, id).Error; err != nil {
		return notFound(err)
	}
	if batch {
		return s.db.Delete(&Repair{}, "project_id = ? AND batch = ?", project, r.Batch).Error
	}
	return s.db.Delete(&r).Error
}

// DropRepairs forgets all repairs of a project, once they stand in its documents.
func (s *Store) DropRepairs(project int64, ids []int64) error {
	return s.db.Delete(&Repair{}, "project_id = ? AND id IN ?", project, ids).Error
}

// PutJob keeps a job's row.
func (s *Store) PutJob(j Job) error {
	return s.db.Clauses(clause.OnConflict{UpdateAll: true}).Create(&j).Error
}

// Interrupted marks jobs that were running when the application ended.
func (s *Store) Interrupted(now time.Time) error {
	return s.db.Model(&Job{}).Where("state = ?", "running").Updates(map[string]any{"state": "failed", "error": "the application ended while it ran", "ended_at": now}).Error
}
