package export

import (
	"bytes"
	"encoding/json"
	"fmt"
	"strings"

	"boundcrate/core/graph"
)

// older writes a timeline in its first schemas: clips have one medium (Clip.1), markers
// a range of their own name (Marker.1). All else stands as it did, its keys in the order
// of their letters.
func older(o Options, l losses) ([]byte, error) {
	d := json.NewDecoder(bytes.NewReader(o.Text))
	d.UseNumber()
	var root any
	if err := d.Decode(&root); err != nil {
		return nil, fmt.Errorf("it cannot be read as a timeline: %w", err)
	}
	files := map[string]graph.FileID{}
	for i := range o.Graph.References {
		if ref := &o.Graph.References[i]; ref.Doc == o.Doc && ref.File != graph.None {
			files[ref.Written] = ref.File
		}
	}
	down(root, l, func(url string) string {
		if id, ok := files[url]; ok {
			if p := o.Name(id); p != "" {
				return uri(p)
			}
		}
		return url
	})
	return json.MarshalIndent(root, "", "    ")
}

func down(v any, l losses, url func(string) string) {
	switch v := v.(type) {
	case []any:
		for _, x := range v {
			down(x, l, url)
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
		if u, ok := v["target_url"].(string); ok {
			v["target_url"] = url(u)
		}
		for _, x := range v {
			down(x, l, url)
		}
	}
}
