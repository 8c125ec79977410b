package words

import (
	"fmt"
	"strings"

	"boundcrate/core/recipe"
)

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
	case recipe.BadGlob:
		return at + ": “" + e.Word + "” is no pattern that can be read."
	case recipe.Twice:
		return at + ": “" + e.Key + "” stands there twice."
	}
	return at + ": " + e.Error()
}
