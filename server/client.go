package server

import (
	"cmp"
	"fmt"
	"reflect"
	"slices"
	"strings"

	"boundcrate/app/api"
	"boundcrate/app/api/mending"
	"boundcrate/app/api/packing"
	"boundcrate/app/api/tracing"
)

// Wire lists every type that crosses the wire.
func Wire() []reflect.Type {
	list := []reflect.Type{
		reflect.TypeFor[api.Event](), reflect.TypeFor[api.ProblemReply](), reflect.TypeFor[api.Stretch](), reflect.TypeFor[packing.LeftRow](),
		reflect.TypeFor[tracing.Files](), reflect.TypeFor[tracing.DocumentList](), reflect.TypeFor[tracing.ProblemList](), reflect.TypeFor[mending.WantedList](), reflect.TypeFor[packing.Berths](),
	}
	for _, r := range routes(nil) {
		for _, t := range []reflect.Type{r.in, r.out} {
			if t != nil && !asksByQuery(t) && !slices.Contains(list, t) {
				list = append(list, t)
			}
		}
	}
	slices.SortFunc(list, func(a, b reflect.Type) int { return strings.Compare(a.Name(), b.Name()) })
	return list
}

// asksByQuery tells of what is asked with whether it stands in the address.
func asksByQuery(t reflect.Type) bool {
	return t.NumField() > 0 && cmp.Or(t.Field(0).Tag.Get("query"), t.Field(0).Tag.Get("param")) != ""
}

// wholeProject is the address of a project, under which all else of it stands.
const wholeProject = "/projects/:id"

// Client is the table of routes as TypeScript: a function for each, by the name of its act.
func Client() string {
	list := routes(nil)
	var b strings.Builder
	b.WriteString("// Made from the table of routes, server/routes.go, by make types: not to be changed by hand.\n")
	b.WriteString("import { asks, changes } from \"./client\";\n")
	var types []string
	var groups []*group
	for _, r := range list {
		if r.out != nil {
			types = append(types, r.out.Name())
		}
		if r.in != nil && !asksByQuery(r.in) {
			types = append(types, r.in.Name())
		}
		if r.stale != nil && !slices.Contains(groups, r.stale) {
			groups = append(groups, r.stale)
		}
	}
	slices.Sort(types)
	fmt.Fprintf(&b, "import type { %s } from \"./types\";\n", strings.Join(slices.Compact(types), ", "))
	b.WriteString("\n/** stale is what changes of a kind make stale. */\nexport const stale = {\n")
	for _, g := range groups {
		keys := make([]string, len(g.paths))
		of := ""
		if g.ofOne() {
			of = "id: number"
		}
		for i, p := range g.paths {
			keys[i] = tsKey(p)
		}
		fmt.Fprintf(&b, "%s: (%s) => [%s],\n", g.name, of, strings.Join(keys, ", "))
	}
	b.WriteString("};\n\n")
	for _, r := range list {
		b.WriteString(r.typescript())
	}
	return b.String()
}

// typescript is a route as a function.
func (r *route) typescript() string {
	out := "void"
	if r.out != nil {
		out = r.out.Name()
	}
	var takes []string
	if r.id != nil {
		takes = append(takes, "id: "+tsType(r.id))
	}
	body, query := "undefined", []string{}
	switch {
	case r.in == nil:
	case asksByQuery(r.in):
		for i := range r.in.NumField() {
			f := r.in.Field(i)
			if name := f.Tag.Get("param"); name != "" {
				takes = append(takes, name+": "+tsType(f.Type))
			} else {
				query = append(query, f.Tag.Get("query")+"?: "+tsType(f.Type))
			}
		}
	default:
		takes, body = append(takes, "body: "+r.in.Name()), "body"
	}
	asked := ""
	if len(query) > 0 {
		takes, asked = append(takes, "q: { "+strings.Join(query, "; ")+" } = {}"), ", q"
	}
	name := strings.ToLower(r.name[:1]) + r.name[1:]
	address := tsAddress(r.path, r.id)
	if r.method == get {
		key := tsKey(r.path)
		if r.path == wholeProject {
			key = tsKey(r.path + "/") // so that it is stale without all that is beneath it
		}
		if asked != "" {
			key = strings.TrimSuffix(key, "]") + ", q]"
		}
		return fmt.Sprintf("export const %s = (%s) => asks<%s>(%s, %s%s);\n", name, strings.Join(takes, ", "), out, key, address, asked)
	}
	stale := "stale." + r.stale.name + "()"
	if r.stale.ofOne() {
		stale = "stale." + r.stale.name + "(id)"
	}
	return fmt.Sprintf("export const %s = (%s) => changes<%s>(%q, %s, %s, %s%s);\n", name, strings.Join(takes, ", "), out, r.method, address, body, stale, asked)
}

// ofOne tells whether a group is of one project.
func (g *group) ofOne() bool {
	return slices.ContainsFunc(g.paths, func(p string) bool { return strings.HasPrefix(p, wholeProject) })
}

// tsAddress is an address as TypeScript puts it together.
func tsAddress(path string, id reflect.Type) string {
	parts := strings.Split(path, "/")
	for i, p := range parts {
		if name, ok := strings.CutPrefix(p, ":"); ok {
			if name == "id" && id.Kind() == reflect.String {
				name = "encodeURIComponent(id)"
			}
			parts[i] = "${" + name + "}"
		}
	}
	return "`" + strings.Join(parts, "/") + "`"
}

// tsKey is an address as a page keeps answers by it.
func tsKey(path string) string {
	parts := strings.Split(path, "/")[1:]
	for i, p := range parts {
		if name, ok := strings.CutPrefix(p, ":"); ok {
			parts[i] = name
		} else {
			parts[i] = fmt.Sprintf("%q", p)
		}
	}
	return "[" + strings.Join(parts, ", ") + "]"
}

func tsType(t reflect.Type) string {
	switch t.Kind() {
	case reflect.String:
		return "string"
	case reflect.Bool:
		return "boolean"
	}
	return "number"
}
