package format

// Asked bounds how many names one document's reading looks for on the disk, and
// remembers the answers; it is nil where nobody can tell. Names that are not
// worth asking for lead to no file; a nil worth asks for all.
func Asked(exists func(string) bool, most int, worth func(string) bool) func(name []byte) bool {
	if exists == nil {
		return nil
	}
	known := map[string]bool{}
	return func(name []byte) bool {
		if there, ok := known[string(name)]; ok || len(known) >= most {
			return there
		}
		s := string(name)
		if worth != nil && !worth(s) {
			return false
		}
		known[s] = exists(s)
		return known[s]
	}
}
