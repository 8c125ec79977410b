package words

import (
	"errors"
	"fmt"
	"strings"

	"boundcrate/core/media/facts"
	"boundcrate/core/media/pcm"
	"boundcrate/core/pack/lists"
	"boundcrate/core/pack/recipe"
	"boundcrate/core/pack/stow"
	"boundcrate/core/say/words/phrase"
)

// UnmatchedGlob says that no file answers to a glob of a recipe.
func UnmatchedGlob(file string, line int, glob string) string {
	return fmt.Sprintf("The recipe ‘%s’, line %d: no file matches “%s”.", file, line, glob)
}

// BadPattern says what is wrong with the pattern of a layout, at its column.
func BadPattern(e *stow.PatternError) string {
	at := fmt.Sprintf("at column %d of the layout ", e.Column)
	switch e.Code {
	case stow.NoToken:
		return at + "“" + e.Word + "” is not one of {" + strings.Join(stow.Tokens, "}, {") + "}"
	case stow.NotClosed:
		return at + "a brace is not closed"
	case stow.BadWidth:
		return at + "“" + e.Word + "” has no width: {n:1} to {n:9}"
	case stow.NoFileName:
		return at + "the file name is missing"
	case stow.LeadsOut:
		return at + "“" + e.Word + "” is not a folder"
	case stow.NothingOwn:
		return at + "the name needs {name} or {n} to be unique"
	case stow.WrongLetter:
		return at + "“" + e.Word + "” cannot be used in a name"
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
		s := at + ": unknown key “" + e.Key + "”."
		if e.Word != "" || len(e.Words) > 0 {
			s = at + ": “" + e.Key + "” cannot be “" + e.Word + "”; it can be " + strings.Join(e.Words, ", ") + "."
		}
		return s
	case recipe.NoText:
		return at + ": “" + e.Key + "” must be a text."
	case recipe.NoList:
		return at + ": “" + e.Key + "” must be a list."
	case recipe.NotKept:
		return at + ": “trim” cannot be used for an archive, which keeps everything."
	case recipe.NoMap:
		return at + ": “" + e.Key + "” must have keys and values."
	case recipe.BadGlob:
		return at + ": “" + e.Word + "” is not a valid pattern."
	case recipe.BadLayout:
		var bad *stow.PatternError
		if errors.As(e.Err, &bad) {
			return at + ": " + BadPattern(bad) + "."
		}
	case recipe.Alias:
		return at + ": aliases (“" + e.Word + "”) are not supported; write the value out."
	case recipe.Second:
		return at + ": the file contains a second recipe; use one file each."
	case recipe.NoNumber:
		return at + ": “" + e.Word + "” is not a valid number."
	case recipe.Twice:
		return at + ": “" + e.Key + "” occurs twice."
	}
	return at + ": " + e.Error()
}

// RecipeSays says what a recipe does in one sentence.
func RecipeSays(r recipe.Recipe) string {
	o := r.Stow
	layout := map[stow.Layout]string{stow.ByKind: "One folder per kind of file", stow.Flat: "All files in one folder", stow.AsStands: "Present folders", stow.ByDocument: "One folder per document"}[o.Layout]
	if layout == "" {
		layout = "Pattern " + string(o.Layout)
	}
	parts := []string{layout}
	words := map[string]string{"dormant": "inactive files", "listed": "unused files", "rebuildable": "rebuildable files", "library": "library files", "store": "managed store files", "duplicates": "duplicates"}
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
	along := map[string]string{"companions": "companions", "editions": "earlier versions", "renders": "newest renderings", "strays": "unreferenced files", "drawings": "drawings of the parts"}
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
		parts = append(parts, "SHA-512 manifests")
	}
	for _, k := range r.Lists {
		parts = append(parts, map[lists.Kind]string{lists.ROCrate: "RO-Crate metadata", lists.MHL: "a media hash list"}[k])
	}
	if r.Parts > 0 {
		parts = append(parts, "archives in parts of "+phrase.Size(r.Parts))
	}
	if t := o.Trim; t != nil {
		parts = append(parts, fmt.Sprintf("sounds cut to the part in use plus %g s", *t))
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
		list = append(list, "32-bit float")
	case s.Depth > 0:
		list = append(list, fmt.Sprintf("%d bits", s.Depth))
	}
	switch s.Channels {
	case pcm.Split:
		list = append(list, "plus one file per channel")
	case pcm.Interleaved:
		list = append(list, "plus joined channels")
	}
	return strings.Join(list, " ")
}

func listed(list []string) string {
	if len(list) < 2 {
		return strings.Join(list, "")
	}
	return strings.Join(list[:len(list)-1], ", ") + " and " + list[len(list)-1]
}
