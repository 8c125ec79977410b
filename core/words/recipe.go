package words

import (
	"errors"
	"fmt"
	"strings"

	"boundcrate/core/recipe"
	"boundcrate/core/stow"
)

// UnmatchedGlob says that no file answers to a glob of a recipe.
func UnmatchedGlob(file string, line int, glob string) string {
	return fmt.Sprintf("The recipe ‘%s’, line %d: no file answers to “%s”.", file, line, glob)
}

// BadPattern says what is wrong with the pattern of a layout, at its column.
func BadPattern(e *stow.PatternError) string {
	at := fmt.Sprintf("at column %d of the layout ", e.Column)
	switch e.Code {
	case stow.NoToken:
		return at + "“" + e.Word + "” is none of {" + strings.Join(stow.Tokens, "}, {") + "}"
	case stow.NotClosed:
		return at + "a brace stands alone"
	case stow.BadWidth:
		return at + "“" + e.Word + "” has no width: {n:1} to {n:9}"
	case stow.NoFileName:
		return at + "a name is lacking"
	case stow.LeadsOut:
		return at + "“" + e.Word + "” is no folder"
	case stow.NothingOwn:
		return at + "the name needs {name} or {n}, or all would be one"
	case stow.WrongLetter:
		return at + "“" + e.Word + "” can be in no name"
	}
	return at + string(e.Code)
}

// RecipeError says what is wrong with a recipe file.
func RecipeError(file string, e *recipe.Error) string {
	at := "The recipe ‘" + file + "’"
	if e.Line > 0 {
		at += fmt.Sprintf(", line %d", e.Line)
	}
	switch e.Trouble {
	case recipe.NoRecipe:
		return at + " could not be read: " + Reason(e.Err) + "."
	case recipe.Unknown:
		s := at + ": there is no key “" + e.Key + "”."
		if e.Word != "" || len(e.Words) > 0 {
			s = at + ": “" + e.Key + "” cannot be “" + e.Word + "”; it can be " + strings.Join(e.Words, ", ") + "."
		}
		return s
	case recipe.NotYet:
		if e.Word != "" {
			return at + ": “" + e.Word + "” under “" + e.Key + "” is not built yet. Nothing was done."
		}
		return at + ": “" + e.Key + "” is not built yet. Nothing was done."
	case recipe.NoText:
		return at + ": “" + e.Key + "” wants a text."
	case recipe.NoList:
		return at + ": “" + e.Key + "” wants a list."
	case recipe.NoMap:
		return at + ": “" + e.Key + "” wants keys and values."
	case recipe.BadGlob:
		return at + ": “" + e.Word + "” is no pattern that can be read."
	case recipe.BadLayout:
		var bad *stow.PatternError
		if errors.As(e.Err, &bad) {
			return at + ": " + BadPattern(bad) + "."
		}
	case recipe.Twice:
		return at + ": “" + e.Key + "” stands there twice."
	}
	return at + ": " + e.Error()
}
