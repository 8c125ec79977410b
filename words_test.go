package boundcrate_test

import (
	"io/fs"
	"os"
	"path/filepath"
	"strings"
	"testing"
)

// retired are words that people did not understand; docs/glossary.md has what stands for them.
var retired = []string{
	"Leave it</", "Nobody needs it", "It comes later", "needs your eye", "repaired unasked", "file of the name was met", "its words parted otherwise",
	"to look at first", "which is enough for a crate", "leans on it any more", "can be taken out", "leave it in", "Say what a folder is", "Look at all",
	"States of it", "dumping ground", "project’s wall", "Forget the wishes", "To point anew", "What keeps it open", "Day or night",
	"Look for everything", "Looking it up", "heals them all", "came of it", "which folders moved", "point anew", "points anew", "stays behind", "stay behind", "goes along", "Wanted files",
	"Put it back", "brought home", "Bring outside", "what is used of it", "told by", "a document tells", "is not there any more", "does not answer", "nothing else leads", "Ask who", "Ask everybody",
	"lies in it", "lies beside", "lies outside", "lies on another", "It did not work", "spelled otherwise", "could be meant", "nobody knows", "carried as it is", "taken away again", "sealed like that",
	"ails it<", "What speaks for it", "must do.", "narrowing away", "its like lies", "All that is used travels", "ight for an archive", "what nothing names", "twice, or of one name",
	"Whole, and not complete", "is not as it was sealed", "path it is asked for", "Asked for by", "must not go as it is", "Nothing like it was met",
}

// TestRetiredWords: they do not come back on screen or in what is printed.
func TestRetiredWords(t *testing.T) {
	seen := 0
	for _, dir := range []string{filepath.Join("web", "src"), filepath.Join("core", "say"), "app", "cmd"} {
		err := filepath.WalkDir(dir, func(p string, d fs.DirEntry, err error) error {
			if err != nil || d.IsDir() || strings.HasSuffix(p, "_test.go") || !strings.HasSuffix(p, ".go") && !strings.HasSuffix(p, ".tsx") && !strings.HasSuffix(p, ".ts") {
				return err
			}
			b, err := os.ReadFile(p)
			if err != nil {
				return err
			}
			seen++
			for line := range strings.Lines(string(b)) {
				if at := strings.TrimSpace(line); strings.HasPrefix(at, "//") || strings.HasPrefix(at, "*") || strings.HasPrefix(at, "/*") {
					continue // what is said to people, not to whoever reads the code
				}
				said, _, _ := strings.Cut(line, " // ")
				for _, w := range retired {
					if strings.Contains(said, w) {
						t.Errorf("%s says %q", p, w)
					}
				}
			}
			return nil
		})
		if err != nil {
			t.Fatal(err)
		}
	}
	if seen < 100 {
		t.Errorf("only %d files were looked at", seen)
	}
}
