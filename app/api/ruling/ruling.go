// Package ruling holds what is shown and told of habits and rules.
package ruling

import (
	"boundcrate/app/api"
	"boundcrate/core/road/rules"
)

// Habits are what programs and people do with files, as YAML.
type Habits struct {
	Text    string `json:"text"`
	Own     bool   `json:"own"` // else those shipped
	Shipped string `json:"shipped"`
}

// SetHabits sets or tries them; an empty text goes back to those shipped.
type SetHabits struct {
	Text    string `json:"text"`
	Project int64  `json:"project"` // to try them on
}

// HabitsTried is what habits would say of a project.
type HabitsTried struct {
	Problems    []rules.Mistake `json:"problems"`
	Project     string          `json:"project"`     // "" none was asked
	Rebuildable []string        `json:"rebuildable"` // files, by their drives' names
	Dumps       []string        `json:"dumps"`       // files in dumping grounds
	Companions  []api.Apart     `json:"companions"`
}

// Rules are the rules files of the data folder.
type Rules struct {
	Folder string      `json:"folder"` // where they lie
	Files  []RulesFile `json:"files"`
}

// LearnRules asks for proposals from a document.
type LearnRules struct {
	Sample string `json:"sample"`
}

// RulesLearned are rules files that a document suggests, the safest first.
type RulesLearned struct {
	Proposals []rules.Proposal `json:"proposals"`
}

// RulesFile is one of them.
type RulesFile struct {
	Name       string          `json:"name"` // of the file, without its extension
	Text       string          `json:"text"` // YAML
	On         bool            `json:"on"`
	Title      string          `json:"title"`
	Extensions []string        `json:"extensions"`
	Carrier    string          `json:"carrier"`
	Problems   []rules.Mistake `json:"problems"` // with any it cannot be switched on
}

// SetRules writes a rules file and switches it.
type SetRules struct {
	Name string `json:"name"`
	Text string `json:"text"`
	On   bool   `json:"on"`
}

// TryRules holds a text against a sample document; without one it is only
// checked.
type TryRules struct {
	Text   string `json:"text"`
	Sample string `json:"sample"`
}

// RulesTried is what a text that may become a rules file finds.
type RulesTried struct {
	Problems []rules.Mistake `json:"problems"`
	Finds    []rules.Find    `json:"finds"`
	Damage   []string        `json:"damage"` // what is wrong with the sample
	More     int             `json:"more"`   // finds that are not listed
}
