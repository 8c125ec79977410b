package resolve

import (
	"slices"
	"strings"

	"boundcrate/core/disk/drive"
)

// Repair is an ordered rule: what is expected at From is at To. Prefix rules
// hold for everything below From. Rules for names without a folder give
// Document and Written instead of From.
type Repair struct {
	ID                int64
	From, To          string
	Prefix            bool
	Document, Written string
}

// ruleBook holds the repairs by what they go by.
type ruleBook struct {
	exact    map[string][]int
	prefixes []int
	bare     map[[2]string][]int
	written  bool // some go by a document and what it says
}

func (r *Resolver) book() *ruleBook {
	if r.rules != nil {
		return r.rules
	}
	b := &ruleBook{exact: map[string][]int{}, bare: map[[2]string][]int{}}
	for i, rule := range r.Repairs {
		switch {
		case rule.From == "":
			key := [2]string{rule.Document, rule.Written}
			b.bare[key] = append(b.bare[key], i)
			b.written = true
		case rule.Prefix:
			b.prefixes = append(b.prefixes, i)
		default:
			b.exact[rule.From] = append(b.exact[rule.From], i)
		}
	}
	r.rules = b
	return b
}

// repaired is where the last rule that leads somewhere leads.
func (r *Resolver) repaired(expected, doc, written string, there func(string) bool) (string, bool) {
	for _, to := range r.repairs(expected, doc, written) {
		if there(to) {
			return to, true
		}
	}
	return "", false
}

// repairs are the places where rules lead, of the last rule first.
func (r *Resolver) repairs(expected, doc, written string) []string {
	if len(r.Repairs) == 0 {
		return nil
	}
	b := r.book()
	which := slices.Concat(b.bare[[2]string{doc, written}], b.exact[expected])
	for _, i := range b.prefixes {
		if drive.Within(r.Repairs[i].From, expected) {
			which = append(which, i)
		}
	}
	slices.Sort(which)
	var list []string
	for _, i := range slices.Backward(which) {
		rule := &r.Repairs[i]
		to := rule.To
		if rule.Prefix && rule.From != "" {
			to = strings.TrimSuffix(to, "/") + strings.TrimPrefix(expected, strings.TrimSuffix(rule.From, "/"))
		}
		if to != "" {
			list = append(list, to)
		}
	}
	return list
}
