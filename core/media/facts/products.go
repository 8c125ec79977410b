package facts

import (
	"io"
	"strings"

	"boundcrate/core/text/format/part21"
)

// maxOfPart is how much of an exchange file is read for its products, which stand
// near its beginning.
const maxOfPart = 1 << 20

// Products are the names and numbers of the products that a Part 21 exchange file
// defines at its beginning (ISO 10303-41, product.id and product.name).
func Products(r io.ReaderAt, size int64) (list []string) {
	var gave error
	defer Border(&gave) // what was read before holds
	b := make([]byte, min(size, maxOfPart))
	if n, err := r.ReadAt(b, 0); n < len(b) && err != io.EOF {
		return nil
	}
	// What is cut off or malformed behind it takes nothing from what was read.
	_ = part21.Scan(b, part21.Handler{Names: map[string]bool{"PRODUCT": true}, Instance: func(in part21.Instance) {
		for i, a := range in.Args() {
			if text := strings.TrimSpace(a.Text()); i < 2 && text != "" {
				list = append(list, text)
			}
		}
	}})
	return list
}
