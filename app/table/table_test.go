package table

import (
	"fmt"
	"math/rand/v2"
	"slices"
	"strconv"
	"strings"
	"testing"
)

type row struct {
	name string
	size int64
	kind string
}

var spec = Spec[row]{
	Name: "rows", Usual: "kind",
	Columns: []Column[row]{
		{ID: "name", Title: "name", Text: func(r *row) string { return r.name }},
		{ID: "size", Title: "bytes", Number: func(r *row) int64 { return r.size }},
		{ID: "kind", Title: "kind", Text: func(r *row) string { return r.kind }},
	},
	Groups: []Group[row]{{
		ID: "kind", Key: func(r *row) string { return r.kind }, Title: strings.ToUpper,
		Rank: func(k string) int { return map[string]int{"b": 0, "a": 1}[k] },
		Note: func(rows []*row) string { return strconv.Itoa(len(rows)) + " of them" },
	}},
	Facets: map[string]func(*row, string) bool{"kind": func(r *row, v string) bool { return r.kind == v }},
	Key:    func(r *row) string { return r.name },
	Sum:    func(r *row) Sum { return Sum{Files: 1, Bytes: r.size} },
}

func lines(v *View[row]) (list []string) {
	v.Window(0, v.Total(), func(h *Heading, r *row) {
		if h != nil {
			list = append(list, fmt.Sprintf("[%s %d %s]", h.Title, h.Count, h.Note))
		} else {
			list = append(list, r.name)
		}
	})
	return list
}

func TestView(t *testing.T) {
	tb := New(spec, []row{{"Gull", 3, "a"}, {"bell", 1, "b"}, {"=horn", 2, "a"}, {"anchor", 3, "b"}})
	for _, c := range []struct {
		q    Query
		want string
	}{
		{Query{}, "[B 2 2 of them] bell anchor [A 2 2 of them] Gull =horn"},
		{Query{Group: "none"}, "Gull bell =horn anchor"},
		{Query{Group: "none", Sort: "name"}, "=horn anchor bell Gull"},
		{Query{Group: "none", Sort: "-size"}, "Gull anchor =horn bell"},
		{Query{Group: "none", Sort: "nothing"}, "Gull bell =horn anchor"},
		{Query{Group: "none", Filter: "L  b"}, "bell"},
		{Query{Facets: map[string]string{"kind": "a", "none": "x"}}, "[A 2 2 of them] Gull =horn"},
		{Query{Filter: "none such"}, ""},
	} {
		v := tb.View(c.q)
		if got := strings.Join(lines(v), " "); got != c.want {
			t.Errorf("%+v: %s, wanted %s", c.q, got, c.want)
		}
		if again := tb.View(c.q); again != v {
			t.Errorf("%+v was ordered twice", c.q)
		}
		if keys := v.Keys(v.All()); len(keys) != v.Sum.Rows || len(keys) > 0 && v.Line(keys[0]) < 0 {
			t.Errorf("%+v: keys %v of %d rows", c.q, keys, v.Sum.Rows)
		}
	}
	if v := tb.View(Query{Filter: "bell"}); v.Line("Gull") != -1 || v.Line("bell") != 1 || v.Sum.Bytes != 1 {
		t.Errorf("%+v", v)
	}
	var b strings.Builder
	if err := tb.View(Query{Group: "none", Sort: "name"}).CSV(&b); err != nil || b.String() != "name,bytes,kind\n'=horn,2,a\nanchor,3,b\nbell,1,b\nGull,3,a\n" {
		t.Errorf("%q %v", b.String(), err)
	}
	if _, ok := tb.Row("none"); ok {
		t.Error("an unknown key has a row")
	}
}

// TestLaws: whatever is asked, windows of any size are the whole list cut up,
// every row the filter leaves stands there once, and the order is the column's.
func TestLaws(t *testing.T) {
	rng := rand.New(rand.NewPCG(7, 11))
	for range 100 {
		rows := make([]row, rng.IntN(200))
		for i := range rows {
			rows[i] = row{fmt.Sprintf("%c%d", 'a'+rng.IntN(4), i), rng.Int64N(9), string(rune('a' + rng.IntN(3)))}
		}
		tb := New(spec, rows)
		for range 20 { // more orders than are kept
			q := Query{Filter: []string{"", "a", "b1", "2"}[rng.IntN(4)], Sort: []string{"", "name", "-name", "size", "-size"}[rng.IntN(5)], Group: []string{"", "none"}[rng.IntN(2)]}
			v := tb.View(q)
			whole := lines(v)
			var parts []string
			heading := ""
			beside := map[string][]string{} // what stands under each heading
			v.Window(0, v.Total(), func(h *Heading, r *row) {
				if h != nil {
					heading = h.Key
				} else {
					beside[heading] = append(beside[heading], r.name)
				}
			})
			for _, under := range beside {
				s, ok := v.Beside(under[rng.IntN(len(under))])
				if got := v.Keys(s); !ok || !slices.Equal(got, under) || s.Rows != len(under) || s.Head != under[0] {
					t.Fatalf("%+v: beside are %v (%+v), not %v", q, got, s, under)
				}
				i, j := rng.IntN(len(under)), rng.IntN(len(under))
				s, ok = v.Between(under[i], under[j])
				if got := v.Keys(s); !ok || !slices.Equal(got, under[min(i, j):max(i, j)+1]) || s.Before != "" && s.Before == s.Head || i > 0 && j > 0 && s.Before != under[min(i, j)-1] {
					t.Fatalf("%+v: between %d and %d are %v (%+v)", q, i, j, got, s)
				}
			}
			if _, ok := v.Beside("none"); ok {
				t.Error("an unknown row has others beside it")
			}
			size := 1 + rng.IntN(50)
			for at := 0; at < v.Total(); at += size {
				v.Window(at, size, func(h *Heading, r *row) {
					if h != nil {
						parts = append(parts, fmt.Sprintf("[%s %d %s]", h.Title, h.Count, h.Note))
					} else {
						parts = append(parts, r.name)
					}
				})
			}
			if !slices.Equal(whole, parts) {
				t.Fatalf("%+v: windows of %d are not the whole", q, size)
			}
			n := 0
			for i := range rows {
				if strings.Contains(rows[i].name+"\n"+rows[i].kind, q.Filter) {
					n++
					if !slices.Contains(whole, rows[i].name) {
						t.Fatalf("%+v: %s is not there", q, rows[i].name)
					}
				}
			}
			if n != v.Sum.Rows || n != v.Sum.Files {
				t.Fatalf("%+v: %d rows of %d", q, v.Sum.Rows, n)
			}
			if q.Group == "none" && q.Sort == "-size" {
				var last int64 = 1 << 60
				v.Window(0, v.Total(), func(_ *Heading, r *row) {
					if r.size > last {
						t.Fatalf("%+v: out of order", q)
					}
					last = r.size
				})
			}
		}
	}
}

// BenchmarkWindow asks for pages of 500,000 rows, filtered and sorted, once they
// are ordered.
func BenchmarkWindow(b *testing.B) {
	rows := make([]row, 500_000)
	for i := range rows {
		rows[i] = row{fmt.Sprintf("take %06d.wav", (i*7919)%len(rows)), int64(i % 1000), string(rune('a' + i%5))}
	}
	tb := New(spec, rows)
	q := Query{Filter: "take", Sort: "-size"}
	tb.View(q)
	at := 0
	for b.Loop() {
		n := 0
		tb.View(q).Window(at, 100, func(*Heading, *row) { n++ })
		if at = (at + 7_001) % 400_000; n != 100 {
			b.Fatal(n)
		}
	}
}
