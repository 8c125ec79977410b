package app

import (
	"context"
	"errors"
	"slices"
	"strings"

	"boundcrate/app/api"
	"boundcrate/app/api/packing"
	"boundcrate/app/fault"
	"boundcrate/core/pack/recipe"
	"boundcrate/core/say/words"
	"boundcrate/store"
)

// Recipes are those that come along and the user's own, and what each says otherwise
// than the choices of a project, where one is asked with.
func (a *App) Recipes(ctx context.Context, q api.AskRecipes) (packing.Recipes, error) {
	out := packing.Recipes{List: []packing.Recipe{}}
	own, err := a.store.RecipeFiles()
	if err != nil {
		return out, err
	}
	var now *recipe.Recipe
	if q.Project != 0 {
		p, err := a.store.Project(q.Project)
		if err != nil {
			return out, err
		}
		o, err := chosen(p)
		if err != nil {
			return out, err
		}
		r := recipeOf(o)
		now = &r
	}
	names := make([]string, 0, len(recipe.Shipped))
	for n := range recipe.Shipped {
		names = append(names, n)
	}
	slices.Sort(names)
	for _, n := range names {
		if slices.ContainsFunc(own, func(f store.RecipeFile) bool { return f.Name == n }) {
			continue // the user's own takes its place
		}
		text, err := recipe.Write(recipe.Shipped[n])
		if err != nil {
			return out, err
		}
		out.List = append(out.List, recipeView(n, string(text), recipe.Shipped[n], now))
	}
	for _, f := range own {
		r, err := recipe.Parse([]byte(f.Text))
		v := packing.Recipe{Name: f.Name, Text: f.Text, Problem: recipeProblem(f.Name, err), Differs: []packing.RecipeDiffers{}}
		if err == nil {
			v = recipeView(f.Name, f.Text, r, now)
		}
		v.Own = true
		out.List = append(out.List, v)
	}
	return out, nil
}

// recipeView is a recipe, and what it says otherwise than the present choices; now may be nil.
func recipeView(name, text string, r recipe.Recipe, now *recipe.Recipe) packing.Recipe {
	v := packing.Recipe{Name: name, Text: text, Says: words.RecipeSays(r), Differs: []packing.RecipeDiffers{}}
	if now != nil {
		for _, d := range recipe.Compare(*now, r) {
			v.Differs = append(v.Differs, packing.RecipeDiffers{Key: d.Key, Now: d.A, Recipe: d.B})
		}
	}
	return v
}

func recipeProblem(name string, err error) string {
	var bad *recipe.Error
	switch {
	case err == nil:
		return ""
	case errors.As(err, &bad):
		return words.RecipeError(name, bad)
	}
	return words.Error(err)
}

// recipe is one by its name.
func (a *App) recipe(name string) (recipe.Recipe, error) {
	own, err := a.store.RecipeFiles()
	if err != nil {
		return recipe.Recipe{}, err
	}
	for _, f := range own {
		if f.Name == name {
			r, err := recipe.Parse([]byte(f.Text))
			if err != nil {
				return r, fault.Say(fault.Unfit, "Recipe not usable", recipeProblem(name, err))
			}
			return r, nil
		}
	}
	if r, ok := recipe.Shipped[name]; ok {
		return r, nil
	}
	return recipe.Recipe{}, store.ErrNotFound
}

// SetRecipe keeps a recipe under a name: a text, or a project's present choices.
func (a *App) SetRecipe(ctx context.Context, in packing.SetRecipe) error {
	text := in.Text
	if in.Project != 0 {
		p, err := a.store.Project(in.Project)
		if err != nil {
			return err
		}
		o, err := chosen(p)
		if err != nil {
			return err
		}
		r := recipeOf(o)
		r.Title, r.Note = in.Name, p.Note
		b, err := recipe.Write(r)
		if err != nil {
			return err
		}
		text = string(b)
		o.Recipe = in.Name
		defer func() { _ = a.keepOptions(ctx, p.ID, o) }() // the name alone is new
	} else if _, err := recipe.Parse([]byte(text)); err != nil {
		return fault.Say(fault.Unfit, "Not saved", recipeProblem(in.Name, err))
	}
	err := a.store.SetRecipe(strings.TrimSpace(in.Name), text)
	if errors.Is(err, store.ErrRulesName) {
		return fault.Say(fault.Wrong, "Not saved", "Recipe names can have up to 64 letters, digits, spaces, hyphens and underscores.")
	}
	return err
}

// DropRecipe forgets a recipe of the user's own.
func (a *App) DropRecipe(ctx context.Context, name string) error {
	return a.store.DropRecipe(name)
}

// FollowRecipe takes a recipe's choices for a project.
func (a *App) FollowRecipe(ctx context.Context, project int64, in packing.UseRecipe) (packing.Stow, error) {
	p, _, err := a.open(project)
	if err != nil {
		return packing.Stow{}, err
	}
	r, err := a.recipe(in.Name)
	if err != nil {
		return packing.Stow{}, err
	}
	if p.Note == "" && r.Note != "" { // what somebody wrote already stays
		if err := a.store.SetOut(p.ID, p.Out, r.Note); err != nil {
			return packing.Stow{}, err
		}
	}
	if err := a.keepOptions(ctx, p.ID, optionsOf(in.Name, r)); err != nil {
		return packing.Stow{}, err
	}
	return a.Stow(ctx, project)
}
