package otio

import (
	"strings"
	"testing"

	"boundcrate/core/text/format/formattest"
)

// TestSlide: where a clip tells the part that it uses stands exactly where the number is;
// of a file that does not begin at nothing, and of images, it is where the media is counted from; a clip whose speed changes, with several media,
// or in a timeline with transitions does not say that it could be another.
func TestSlide(t *testing.T) {
	span := func(from, length string) string {
		return `{"OTIO_SCHEMA":"TimeRange.1","start_time":{"OTIO_SCHEMA":"RationalTime.1","value":` + from + `,"rate":24},"duration":{"rate":24.0,"OTIO_SCHEMA":"RationalTime.1","value": ` + length + ` }}`
	}
	clip := func(avail, more string) string {
		return `{"OTIO_SCHEMA":"Clip.1","name":"c",` + more + `"media_reference":{"OTIO_SCHEMA":"ExternalReference.1","target_url":"a.wav"` + avail + `},"source_range":` + span("48.5", "24") + `}`
	}
	timeline := func(track string, clips ...string) string {
		return `{"OTIO_SCHEMA":"Timeline.1","tracks":{"OTIO_SCHEMA":"Stack.1","children":[{"OTIO_SCHEMA":"Track.1","kind":"Audio",` + track + `"children":[` + strings.Join(clips, ",") + `]}]}}`
	}
	avail := func(from string) string { return `,"available_range":` + span(from, "960") }
	for name, c := range map[string]struct {
		text   string
		slides bool
		whole  string
	}{
		"plain":       {timeline("", clip("", "")), true, ""},
		"available":   {timeline("", clip(avail("0"), "")), true, "960"},
		"at an hour":  {timeline("", clip(avail("86400"), "")), true, "960"},
		"images":      {timeline("", strings.Replace(clip(avail("86400"), ""), `"ExternalReference.1"`, `"ImageSequenceReference.1","start_frame":101,"frame_step":2,"rate":24`, 1)), true, "960"},
		"no number":   {timeline("", strings.Replace(clip(avail("86400"), ""), `"ExternalReference.1"`, `"ImageSequenceReference.1","rate":24`, 1)), false, ""},
		"markers":     {timeline("", clip("", `"markers":[{"OTIO_SCHEMA":"Marker.2","name":"m","marked_range":`+span("50", "0")+`},{"OTIO_SCHEMA":"Marker.1","range":`+span("49", "2")+`}],`)), true, ""},
		"a marker":    {timeline("", clip("", `"markers":[{"OTIO_SCHEMA":"Marker.2","name":"m"}],`)), false, ""},
		"no effects":  {timeline("", clip("", `"effects":[ ],`)), true, ""},
		"speed":       {timeline("", clip("", `"effects":[{"OTIO_SCHEMA":"LinearTimeWarp.1","time_scalar":2}],`)), false, ""},
		"track":       {timeline(`"effects":[{"OTIO_SCHEMA":"LinearTimeWarp.1","time_scalar":2}],`, clip("", "")), false, ""},
		"transitions": {timeline("", clip("", ""), `{"OTIO_SCHEMA":"Transition.1","name":"x"}`), false, ""},
		"several":     {timeline("", strings.Replace(strings.Replace(clip("", ""), `"media_reference":{`, `"media_references":{"DEFAULT_MEDIA":{`, 1), `"source_range"`, `"x":0},"source_range"`, 1)), false, ""},
	} {
		t.Run(name, func(t *testing.T) {
			text := c.text
			if name == "several" {
				text = timeline("", `{"OTIO_SCHEMA":"Clip.2","active_media_reference_key":"a","media_references":{"a":{"OTIO_SCHEMA":"ExternalReference.1","target_url":"a.wav"},"b":{"OTIO_SCHEMA":"ExternalReference.1","target_url":"b.wav"}},"source_range":`+span("48.5", "24")+`}`)
			}
			f, err := formattest.Open(Format{}, "x.otio", []byte(text))
			if err != nil {
				t.Fatal(err)
			}
			s := f.Doc.Mentions[0].Slide
			if (s != nil) != c.slides {
				t.Fatalf("%+v", s)
			}
			if s == nil {
				return
			}
			if name == "markers" && (len(s.Marks) != 2 || s.Marks[0].Value != 50 || text[s.Marks[1].Span.Off:s.Marks[1].Span.End] != "49") {
				t.Errorf("%+v", s.Marks)
			}
			if s.Raised {
				if at := text[s.Start.Span.Off:s.Start.Span.End]; at != "86400" || s.Start.Value != 86400 || s.Origin != 3600 {
					t.Errorf("the count begins at %q, %+v", at, s)
				}
			} else if at := text[s.Start.Span.Off:s.Start.Span.End]; at != "48.5" || s.Start.Value != 48.5 || s.Start.Rate != 24 {
				t.Errorf("the beginning is %q, %+v", at, s.Start)
			}
			if images := name == "images"; (s.First != nil) != images || images && (text[s.First.Span.Off:s.First.Span.End] != "101" || s.First.Rate != 12) {
				t.Errorf("images: %+v", s.First)
			}
			if (s.Whole != nil) != (c.whole != "") {
				t.Fatalf("%+v", s.Whole)
			}
			if s.Whole != nil && strings.TrimSpace(text[s.Whole.Span.Off:s.Whole.Span.End]) != c.whole {
				t.Errorf("the whole is %q", text[s.Whole.Span.Off:s.Whole.Span.End])
			}
		})
	}
}
