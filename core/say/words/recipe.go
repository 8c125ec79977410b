package words

import (
	"errors"
	"fmt"
	"strings"

	"boundcrate/core/media/facts"
	"boundcrate/core/media/pcm"
	"boundcrate/core/pack/recipe"
	"boundcrate/core/pack/stow"
	"boundcrate/core/say/words/phrase"
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
	case recipe.NoText:
		return at + ": “" + e.Key + "” wants a text."
	case recipe.NoList:
		return at + ": “" + e.Key + "” wants a list."
	case recipe.NotKept:
		return at + ": a crate that keeps everything keeps its sounds whole; “trim” is not for it."
	case recipe.NoMap:
		return at + ": “" + e.Key + "” wants keys and values."
	case recipe.BadGlob:
		return at + ": “" + e.Word + "” is no pattern that can be read."
	case recipe.BadLayout:
		var bad *stow.PatternError
		if errors.As(e.Err, &bad) {
			return at + ": " + BadPattern(bad) + "."
		}
	case recipe.Alias:
		return at + ": an alias (“" + e.Word + "”) is not followed; write it out."
	case recipe.Second:
		return at + ": a second recipe follows in the same file; give it a file of its own."
	case recipe.NoNumber:
		return at + ": “" + e.Word + "” is no number that can be used."
	case recipe.Twice:
		return at + ": “" + e.Key + "” stands there twice."
	}
	return at + ": " + e.Error()
}

// RecipeSays says what a recipe does in one sentence.
func RecipeSays(r recipe.Recipe) string {
	o := r.Stow
	layout := map[stow.Layout]string{stow.ByKind: "A folder for each kind of file", stow.Flat: "Everything in one folder", stow.AsStands: "The folders as they stand", stow.ByDocument: "A folder for each document"}[o.Layout]
	if layout == "" {
		layout = "Named by the pattern " + string(o.Layout)
	}
	parts := []string{layout}
	words := map[string]string{"dormant": "what is switched off", "listed": "what was never placed", "rebuildable": "what is made again", "library": "what a library has", "store": "what a store keeps", "duplicates": "what is there twice"}
	var without []string
	for _, l := range recipe.Leaves(o) {
		if w := words[l]; w != "" {
			without = append(without, w)
		} else {
			without = append(without, Kind(facts.Kind(strings.TrimPrefix(l, "kind:"))))
		}
	}
	if len(without) > 0 {
		parts = append(parts, "without "+listed(without))
	}
	along := map[string]string{"companions": "companions", "editions": "earlier states", "renders": "the newest renderings", "strays": "strays", "drawings": "drawings of the parts"}
	var with []string
	for _, a := range r.Also {
		if w := along[a]; w != "" {
			with = append(with, w)
		} else {
			with = append(with, "“"+a+"”")
		}
	}
	for _, f := range o.Interchange {
		with = append(with, "an "+Form(f))
	}
	if len(with) > 0 {
		parts = append(parts, "with "+listed(with))
	}
	if s := o.Sound; s.String() != "" {
		parts = append(parts, "sounds as "+soundSpec(s))
	}
	if r.SHA512 {
		parts = append(parts, "manifests of SHA-512 too")
	}
	if r.Parts > 0 {
		parts = append(parts, "archives in parts of "+phrase.Size(r.Parts))
	}
	if t := o.Trim; t != nil {
		parts = append(parts, fmt.Sprintf("sounds cut to what is used and %g s around it", *t))
	}
	return strings.Join(parts, ", ") + "."
}

func soundSpec(s pcm.Spec) string {
	var list []string
	if s.Type != "" {
		list = append(list, strings.ToUpper(string(s.Type)))
	}
	if s.Rate > 0 {
		list = append(list, fmt.Sprintf("%g kHz", float64(s.Rate)/1000))
	}
	switch {
	case s.Float:
		list = append(list, "32 bits floating")
	case s.Depth > 0:
		list = append(list, fmt.Sprintf("%d bits", s.Depth))
	}
	switch s.Channels {
	case pcm.Split:
		list = append(list, "a file for each channel beside")
	case pcm.Interleaved:
		list = append(list, "single channels joined beside")
	}
	return strings.Join(list, " ")
}

func listed(list []string) string {
	if len(list) < 2 {
		return strings.Join(list, "")
	}
	return strings.Join(list[:len(list)-1], ", ") + " and " + list[len(list)-1]
}
