package tally_test

import (
	"reflect"
	"slices"
	"testing"

	"boundcrate/core/road/tally"
)

// TestAllHere: whatever a tally counts withdraws that everything is here, but for what says
// nothing against a file. A figure that is added must be thought of.
func TestAllHere(t *testing.T) {
	harmless := []string{"Documents", "References", "Files", "Bytes", "Away", "Rebuild", "WritesOut", "Inside", "Guessed"}
	follows := []string{"Gaps", "Pending", "ToFind"} // counted with others that withdraw it
	if !(tally.Tally{}).AllHere() {
		t.Error("nothing ails it, and not everything is here")
	}
	of := reflect.TypeOf(tally.Tally{})
	for i := range of.NumField() {
		name := of.Field(i).Name
		if slices.Contains(follows, name) {
			continue
		}
		var one tally.Tally
		reflect.ValueOf(&one).Elem().Field(i).SetInt(1)
		if one.AllHere() != slices.Contains(harmless, name) {
			t.Errorf("%s is 1: all here is %v", name, one.AllHere())
		}
	}
}
