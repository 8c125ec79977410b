package store

import (
	"time"

	"boundcrate/core/disk/drive"
)

// nanos is a time as the tables keep it: nanoseconds since 1970, 0 for never.
func nanos(t time.Time) int64 {
	if t.IsZero() {
		return 0
	}
	return t.UnixNano()
}

func at(nano int64) time.Time {
	if nano == 0 {
		return time.Time{}
	}
	return time.Unix(0, nano)
}

// Drive is a configured drive.
type Drive struct {
	ID    string `gorm:"primaryKey"` // UUID; stays when the mount changes
	Name  string
	Dir   string
	Kind  string // one of drive.Kinds
	Known string // JSON list of prefixes other machines know it under
	Stand bool   // a stand-in that the application can plug in and unplug
	// KindSaid tells that a person said of what kind it is.
	KindSaid   bool
	Gives      int64 // bytes a second, as measured; 0 never
	MeasuredAt int64
	Slowed     int64 // of a stand-in: the bytes a second it gives at most; 0 what it can
}

// Measured is when it was last measured, zero for never.
func (d Drive) Measured() time.Time { return at(d.MeasuredAt) }

// Project is some documents the user works on together, with their root.
type Project struct {
	ID        int64 `gorm:"primaryKey"`
	Name      string
	Documents []string `gorm:"-"` // absolute paths, as the drives are now
	Root      string   `gorm:"-"` // the same
	Out       string   `gorm:"-"` // where it was last sealed to, the same
	Options   string   // JSON of the choices of sift and stow
	Note      string   // for the one who receives the crate
	Sealed    string   // JSON of the last seal
	SealedAt  int64    `gorm:"autoCreateTime:false"`
	CreatedAt int64    `gorm:"autoCreateTime:false"`
	OpenedAt  int64    `gorm:"autoUpdateTime:false"`
	// AskHome tells that somebody wants to be asked when files come from outside.
	AskHome bool
	// What Documents, Root and Out are made of.
	DocumentsAt []drive.Path `gorm:"column:documents;serializer:json"`
	RootDrive   string
	RootPath    string `gorm:"column:root"`
	OutDrive    string
	OutPath     string `gorm:"column:out"`
	// Search are the folders it looks in for what is missing, in order.
	Search []drive.Path `gorm:"serializer:json"`
}

// LastSealed is when it was last sealed, zero for never.
func (p Project) LastSealed() time.Time { return at(p.SealedAt) }

// Opened is when somebody last opened it.
func (p Project) Opened() time.Time { return at(p.OpenedAt) }

// OfProject is a project as a job's row has it.
func OfProject(id int64) *int64 {
	if id == 0 {
		return nil
	}
	return &id
}

// Of is the project it is of; 0: none.
func (j Job) Of() int64 {
	if j.ProjectID == nil {
		return 0
	}
	return *j.ProjectID
}

// Job is long work: running, done, stopped or failed.
type Job struct {
	ID        string `gorm:"primaryKey"` // UUID
	ProjectID *int64 // nil: none
	Kind      string
	Title     string
	State     string
	Step      string
	Unit      string
	Done      int64
	Total     int64
	Error     string
	Message   string // what came of it
	Result    string // JSON of what its kind gives
	CreatedAt int64  `gorm:"autoCreateTime:false"`
	EndedAt   int64
}
