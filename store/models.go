package store

import "time"

// Seen is what was last known of a file, by its path.
type Seen struct {
	Path    string `gorm:"primaryKey"`
	Size    int64
	ModNano int64  // modification time, nanoseconds since 1970
	SHA256  string `gorm:"index"`
	Facts   string // JSON of facts.Facts
	At      time.Time
}

// Drive is a configured drive.
type Drive struct {
	ID    string `gorm:"primaryKey"` // UUID; stays when the mount changes
	Name  string `gorm:"uniqueIndex"`
	Dir   string
	Kind  string // fixed, removable, network, optical
	Known string // JSON list of prefixes other machines know it under
	Stand bool   // a stand-in that the application can plug in and unplug
}

// Project is a document the user works on, with its root.
type Project struct {
	ID        int64 `gorm:"primaryKey"`
	Name      string
	Document  string `gorm:"uniqueIndex"`
	Root      string
	Options   string // JSON of stow.Options
	Note      string // for the one who receives the crate
	Out       string // where it was last sealed to
	Sealed    string // JSON of the last seal's report
	SealedAt  *time.Time
	CreatedAt time.Time
	OpenedAt  time.Time
}

// Repair is a rule of a project, see resolve.Repair. Undoing one deletes it.
type Repair struct {
	ID                int64 `gorm:"primaryKey"`
	ProjectID         int64 `gorm:"index"`
	From              string
	To                string
	Prefix            bool
	Document, Written string
	Certainty         string
	Reasons           string // JSON list
	Batch             int64  // repairs applied together are undone together
	CreatedAt         time.Time
}

// Override is a wish for one file of the crate.
type Override struct {
	ProjectID int64  `gorm:"primaryKey;autoIncrement:false"`
	Key       string `gorm:"primaryKey"`
	Folder    *string
	Name      *string
}

// Job is long work: running, done, stopped or failed.
type Job struct {
	ID        string `gorm:"primaryKey"` // UUID
	ProjectID int64  `gorm:"index"`
	Kind      string // trace, search, seal, receive, fingerprint
	Title     string
	State     string
	Step      string
	Done      int64
	Total     int64
	Error     string
	CreatedAt time.Time
	EndedAt   *time.Time
}
