package stow

import (
	"errors"

	"boundcrate/core/text/mention"
	"boundcrate/core/text/problem"
)

// unsupportedNames are the arguments of a problem with a name that cannot be written.
func unsupportedNames(err error) []string {
	var (
		say *mention.CannotSayError
		no  *problem.NoError
	)
	switch {
	case errors.As(err, &say) && errors.As(err, &no):
		return []string{say.Name, string(no.Why), no.Of}
	case errors.As(err, &say):
		return []string{say.Name, "", say.Err.Error()}
	}
	return []string{"", "", err.Error()}
}
