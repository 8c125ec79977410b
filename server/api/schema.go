package api

import (
	"reflect"
	"strings"

	"github.com/invopop/jsonschema"

	"boundcrate/core/facts"
	"boundcrate/core/mend"
	"boundcrate/core/stow"
)

// enums are the string types with a fixed set of values.
var enums = map[reflect.Type][]any{
	reflect.TypeFor[JobKind]():        {JobTrace, JobSearch, JobSeal, JobReceive},
	reflect.TypeFor[JobState]():       {Running, Done, Stopped, Failed},
	reflect.TypeFor[EventType]():      {EventJob, EventSnapshot, EventDrives, EventProject},
	reflect.TypeFor[stow.Layout]():    {stow.ByKind, stow.AsStands},
	reflect.TypeFor[mend.Certainty](): {mend.Certain, mend.Likely, mend.Possible},
	reflect.TypeFor[facts.Kind](): {facts.Audio, facts.Video, facts.Image, facts.Sequence, facts.Geometry, facts.Part,
		facts.Material, facts.Drawing, facts.Document, facts.Data, facts.Other},
}

// Schema is the JSON schema of everything that crosses the wire.
func Schema() *jsonschema.Schema {
	r := jsonschema.Reflector{
		Anonymous: true, AllowAdditionalProperties: false, RequiredFromJSONSchemaTags: false,
		Mapper: func(t reflect.Type) *jsonschema.Schema {
			if values, ok := enums[t]; ok {
				return &jsonschema.Schema{Type: "string", Enum: values}
			}
			return nil
		},
	}
	s := r.Reflect(&Document{})
	nullable(s.Definitions, reflect.TypeFor[Document](), map[reflect.Type]bool{})
	return s
}

// nullable says what the reflector does not: a nil pointer that is not left
// out is null on the wire.
func nullable(defs jsonschema.Definitions, t reflect.Type, done map[reflect.Type]bool) {
	for t.Kind() == reflect.Pointer || t.Kind() == reflect.Slice {
		t = t.Elem()
	}
	if t.Kind() != reflect.Struct || done[t] {
		return
	}
	done[t] = true
	def := defs[t.Name()]
	for _, f := range reflect.VisibleFields(t) {
		name, rest, _ := strings.Cut(f.Tag.Get("json"), ",")
		if f.Type.Kind() == reflect.Pointer && name != "" && rest == "" && def != nil {
			if p, ok := def.Properties.Get(name); ok {
				def.Properties.Set(name, &jsonschema.Schema{AnyOf: []*jsonschema.Schema{p, {Type: "null"}}})
			}
		}
		nullable(defs, f.Type, done)
	}
}
