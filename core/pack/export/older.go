package export

import (
	"bytes"
	"encoding/json"
	"fmt"
	"strings"

	"boundcrate/core/road/resolve"
	"boundcrate/core/text/mention"
)

// older writes a timeline in its first schemas: clips have one medium (Clip.1), markers
// a range of their own name (Marker.1). All else stands as it did, its keys in the order
// of their letters.
func older(o Options, l losses) ([]byte, error) {
	text, err := renamed(o)
	if err != nil {
		return nil, err
	}
	d := json.NewDecoder(bytes.NewReader(text))
	d.UseNumber()
	var root any
	if err := d.Decode(&root); err != nil {
		return nil, fmt.Errorf("it cannot be read as a timeline: %w", err)
	}
	down(root, l)
	return json.MarshalIndent(root, "", "    ")
}

// renamed is the timeline's text with the names that its files shall have. What cannot
// be written at its place keeps its name.
func renamed(o Options) ([]byte, error) {
	want := map[int]string{}
	for k, id := range filesOf(o) {
		if k >= len(o.Says.Mentions) {
			continue
		}
		m, old := &o.Says.Mentions[k], o.Says.Name(k)
		to := o.Name(id)
		if to == "" {
			continue
		}
		name := uri(to)
		if m.Sequence != nil {
			if o.Frames == nil {
				continue
			}
			p, ok := o.Frames(id)
			if !ok {
				continue
			}
			name = resolve.SayPatternRelative(m, old, ".", p)
		}
		if _, err := o.Says.Retarget(map[int]string{k: name}); err == nil {
			want[k] = name
		}
	}
	edits, err := o.Says.Retarget(want)
	if err != nil {
		return nil, err
	}
	var b bytes.Buffer
	err = mention.Splice(&b, 0, o.Says.Texts[0].Bytes, edits)
	return b.Bytes(), err
}

func down(v any, l losses) {
	switch v := v.(type) {
	case []any:
		for _, x := range v {
			down(x, l)
		}
	case map[string]any:
		schema, _ := v["OTIO_SCHEMA"].(string)
		name, _ := v["name"].(string)
		switch {
		case strings.HasPrefix(schema, "Clip.") && schema != "Clip.1":
			medias, _ := v["media_references"].(map[string]any)
			active, _ := v["active_media_reference_key"].(string)
			if len(medias) > 1 {
				l.add(AlternativeMedia, name)
			}
			m, ok := medias[active]
			if !ok {
				m = medias["DEFAULT_MEDIA"]
			}
			if m != nil {
				v["media_reference"] = m
			}
			delete(v, "media_references")
			delete(v, "active_media_reference_key")
			v["OTIO_SCHEMA"] = "Clip.1"
		case strings.HasPrefix(schema, "Marker.") && schema != "Marker.1":
			if r, ok := v["marked_range"]; ok {
				v["range"] = r
				delete(v, "marked_range")
			}
			v["OTIO_SCHEMA"] = "Marker.1"
		}
		if on, ok := v["enabled"].(bool); ok && schema != "" {
			if !on {
				l.add(Disabled, name)
			}
			delete(v, "enabled")
		}
		for _, x := range v {
			down(x, l)
		}
	}
}
