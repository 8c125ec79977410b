// Package index knows the files of folders by name, size and content, so that
// whoever looks for one asks once and walks nothing. There is one interface;
// Memory holds an index in memory, the store holds one in SQLite, and indextest
// holds both to the same conformance test.
package index

import (
	"boundcrate/core/disk/drive"
)

// Entry is one regular file.
type Entry struct {
	Path string // absolute
	Size int64  // bytes; Unknown where names alone were asked for
	Mod  int64  // nanoseconds since 1970
	Node drive.Node
}

// Unknown is the size of a file of which only the name was read.
const Unknown = -1

// Index answers which files there are. Answers come in order of paths. An error
// is one of the index itself; what could not be read when it was made is Unread.
type Index interface {
	// Len is how many files it knows.
	Len() int
	// Named are the files of a name, in any letter case, Unicode form and
	// percent-encoding (names.Fold).
	Named(name string) ([]Entry, error)
	// Stemmed are the files whose name without extension is a stem, its words
	// parted in any manner (names.Loose).
	Stemmed(stem string) ([]Entry, error)
	// Sized are the files of so many bytes.
	Sized(bytes int64) ([]Entry, error)
	// Hashed are the files known to have a content, by its SHA-256 in hex. A file
	// that nobody read yet is not among them.
	Hashed(sha256 string) ([]Entry, error)
	// Below calls each for every file in a folder or below it, a folder's own
	// files one after another.
	Below(dir string, each func(Entry) error) error
	// Each calls each with every file's name, by a number that Entry takes.
	Each(each func(id int64, name string) error) error
	// Entry is the file of a number.
	Entry(id int64) (Entry, error)
	// Entries calls each with the files of rising numbers, in their order.
	Entries(ids []int64, each func(id int64, e Entry) error) error
	// Unread are the folders and files that could not be read.
	Unread() []drive.Unread
}

// Sum counts the files in and below a folder, and their bytes; a file with several
// names is counted once in bytes.
func Sum(x Index, dir string) (files int, bytes int64, err error) {
	met := map[drive.Node]bool{}
	err = x.Below(dir, func(e Entry) error {
		files++
		if e.Node == (drive.Node{}) || !met[e.Node] {
			met[e.Node] = true
			bytes += e.Size
		}
		return nil
	})
	return files, bytes, err
}
