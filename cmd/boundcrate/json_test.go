package main

import (
	"bytes"
	"encoding/json"
	"reflect"
	"testing"
	"testing/quick"

	"boundcrate/core/say/report"
)

// TestStream: a report written list by list says what encoding/json says of it.
func TestStream(t *testing.T) {
	same := func(v any) bool {
		var own bytes.Buffer
		if err := printJSON(&own, v); err != nil {
			t.Errorf("%T: %v", v, err)
			return false
		}
		plain, err := json.Marshal(v)
		if err != nil {
			return true // encoding/json refuses it as well
		}
		var a, b any
		if json.Unmarshal(own.Bytes(), &a) != nil || json.Unmarshal(plain, &b) != nil || !reflect.DeepEqual(a, b) {
			t.Errorf("%T: %s, wanted %s", v, own.Bytes(), plain)
			return false
		}
		return true
	}
	type inner struct {
		N    int      `json:"n"`
		List []string `json:"list,omitempty"`
	}
	type outer struct {
		Text   string         `json:"text"`
		None   []inner        `json:"none"`
		Many   []inner        `json:"many"`
		Zero   *inner         `json:"zero,omitempty"`
		Skip   string         `json:"-"`
		Map    map[string]int `json:"map"`
		Opt    string         `json:"opt,omitzero"`
		Plain  bool
		hidden int
	}
	if err := quick.Check(func(text string, ns []int, lists []string, m map[string]int, opt string) bool {
		o := outer{Text: text, Map: m, Opt: opt, Many: []inner{}, hidden: 1}
		for _, n := range ns {
			o.Many = append(o.Many, inner{n, lists})
		}
		return same(o) && same(&o)
	}, &quick.Config{MaxCount: 60}); err != nil {
		t.Error(err)
	}
	for _, v := range []any{report.Trace{}, &report.Mend{Missing: []report.Missing{{Written: "<a & b>"}}}, report.Stow{}, report.Sift{}, []int{1}, map[string]int{"a": 1}} {
		same(v)
	}
}
