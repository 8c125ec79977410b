package store

import (
	"errors"
	"fmt"
	"io"
	"io/fs"
	"os"
	"path/filepath"
	"regexp"
	"strings"

	"gorm.io/gorm/clause"

	"boundcrate/core/disk/fileset"
	"boundcrate/core/disk/template"
	"boundcrate/core/road/origin"
	"boundcrate/core/road/rules"
	"boundcrate/core/text/format"
)

// RulesSwitch tells that a rules file of the data folder is in use.
type RulesSwitch struct {
	Name string `gorm:"primaryKey"`
	On   bool
}

// RulesFile is one rules file of the data folder: its text as it stands, which
// may be edited there with any program.
type RulesFile struct {
	Name string // without its extension
	Text string
	On   bool
}

// ErrRulesName: a rules file's name becomes part of a file name.
var ErrRulesName = errors.New("a rules file has a name of at most 64 letters, digits, spaces, hyphens and underscores")

var rulesName = regexp.MustCompile(`^[A-Za-z0-9][A-Za-z0-9 _-]{0,63}$`)

const rulesExt = ".yaml"

func (s *Store) rulesDir() string { return filepath.Join(s.dir, "rules") }

// RulesFiles lists the rules files of the data folder by name.
func (s *Store) RulesFiles() ([]RulesFile, error) {
	files, err := texts(s.rulesDir())
	if err != nil {
		return nil, err
	}
	var switches []RulesSwitch
	if err := s.read.Find(&switches).Error; err != nil {
		return nil, err
	}
	on := map[string]bool{}
	for _, sw := range switches {
		on[sw.Name] = sw.On
	}
	var list []RulesFile
	for _, f := range files {
		list = append(list, RulesFile{f.name, f.text, on[f.name]})
	}
	return list, nil
}

// named is a file of the data folder that has a name and a text.
type named struct{ name, text string }

// texts are the YAML files of a folder, by their names. One that is too large to be read, or has a name
// that nobody can give it here, is none.
func texts(dir string) (list []named, err error) {
	entries, err := os.ReadDir(dir) // in the order of their names
	if err != nil && !errors.Is(err, fs.ErrNotExist) {
		return nil, err
	}
	for _, e := range entries {
		name, ok := strings.CutSuffix(e.Name(), rulesExt)
		if !ok || !rulesName.MatchString(name) || !e.Type().IsRegular() {
			continue
		}
		if info, err := e.Info(); err != nil || info.Size() > rules.MaxSize {
			continue
		}
		b, err := os.ReadFile(filepath.Join(dir, e.Name()))
		if err != nil {
			return nil, err
		}
		list = append(list, named{name, string(b)})
	}
	return list, nil
}

// SetRules writes a rules file and switches it; a text that is the same is not
// written again.
func (s *Store) SetRules(f RulesFile) error {
	if !rulesName.MatchString(f.Name) {
		return fmt.Errorf("%q: %w", f.Name, ErrRulesName)
	}
	if err := os.MkdirAll(s.rulesDir(), 0o755); err != nil {
		return err
	}
	p := filepath.Join(s.rulesDir(), f.Name+rulesExt)
	if err := replaceFile(p, f.Text); err != nil {
		return err
	}
	return s.db.Clauses(clause.OnConflict{UpdateAll: true}).Create(&RulesSwitch{f.Name, f.On}).Error
}

// replaceFile writes a text, unless it stands there already.
func replaceFile(p, text string) error {
	if b, err := os.ReadFile(p); err == nil && string(b) == text {
		return nil
	}
	return fileset.Replace(p, 0o644, func(w io.Writer) error { _, err := io.WriteString(w, text); return err })
}

// DeleteRules takes a rules file away. ErrNotFound: there is none of that name.
func (s *Store) DeleteRules(name string) error {
	if !rulesName.MatchString(name) {
		return ErrNotFound
	}
	if err := os.Remove(filepath.Join(s.rulesDir(), name+rulesExt)); err != nil {
		if errors.Is(err, fs.ErrNotExist) {
			return ErrNotFound
		}
		return err
	}
	return s.db.Delete(&RulesSwitch{}, "name = ?", name).Error
}

// Formats is a set of formats with the rules files that are switched on. One
// that cannot be used any more is told in words and left out.
func (s *Store) Formats(base format.Set) (format.Set, []string, error) {
	list, err := s.RulesFiles()
	if err != nil {
		return base, nil, err
	}
	var files []*rules.File
	var told []string
	for _, r := range list {
		if !r.On {
			continue
		}
		f, problems := rules.Parse(r.Name, []byte(r.Text))
		if f == nil {
			told = append(told, fmt.Sprintf("The rules file ‘%s’ is not used: %s.", filepath.Join(s.rulesDir(), r.Name+rulesExt), problems[0]))
			continue
		}
		files = append(files, f)
	}
	return rules.With(base, files...), told, nil
}

// habitsName is the file of the data folder that holds the user's own habits.
const habitsName = "habits.yaml"

// Habits are what the user says of programs' and people's habits, else those
// shipped. Where the file cannot be followed those shipped hold, and the error
// says why.
func (s *Store) Habits() (origin.Habits, error) {
	path := filepath.Join(s.dir, habitsName)
	b, err := os.ReadFile(path)
	if errors.Is(err, fs.ErrNotExist) {
		return origin.DefaultHabits, nil
	}
	if err == nil {
		var h origin.Habits
		if h, err = origin.ParseHabits(b); err == nil {
			return h, nil
		}
	}
	return origin.DefaultHabits, fmt.Errorf("‘%s’ cannot be followed: %w", path, err)
}

// HabitsText is the text of the user's own habits, else of those shipped; own tells
// which.
func (s *Store) HabitsText() (text string, own bool, err error) {
	b, err := os.ReadFile(filepath.Join(s.dir, habitsName))
	if errors.Is(err, fs.ErrNotExist) {
		return string(origin.Shipped()), false, nil
	}
	return string(b), true, err
}

// SetHabits keeps the user's own habits; an empty text goes back to those shipped.
// The text has been read before.
func (s *Store) SetHabits(text string) error {
	path := filepath.Join(s.dir, habitsName)
	if text == "" {
		if err := os.Remove(path); err != nil && !errors.Is(err, fs.ErrNotExist) {
			return err
		}
		return nil
	}
	return fileset.Replace(path, 0o600, func(w io.Writer) error { _, err := io.WriteString(w, text); return err })
}

// Templates are those of the data folder by their files' names, else the one that
// ships. One that cannot be read is left out, and the error says why.
func (s *Store) Templates() (list []template.Template, err error) {
	files, _ := filepath.Glob(filepath.Join(s.dir, "templates", "*.yaml")) // the pattern is right
	for _, f := range files {
		b, rerr := os.ReadFile(f)
		if rerr == nil {
			var t template.Template
			if t, rerr = template.Parse(b); rerr == nil {
				if t.Title == "" {
					t.Title = strings.TrimSuffix(filepath.Base(f), ".yaml")
				}
				list = append(list, t)
				continue
			}
		}
		err = errors.Join(err, fmt.Errorf("‘%s’ cannot be used: %w", f, rerr))
	}
	if len(list) == 0 {
		t, perr := template.Parse(template.Shipped())
		return []template.Template{t}, errors.Join(err, perr)
	}
	return list, err
}
