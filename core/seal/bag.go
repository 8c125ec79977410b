package seal

import (
	"bufio"
	"crypto/md5"
	"crypto/sha1"
	"crypto/sha256"
	"crypto/sha512"
	"encoding/hex"
	"fmt"
	"hash"
	"io"
	"sort"
	"strings"
)

// bagit is the bag declaration, RFC 8493 §2.1.1.
const bagit = "BagIt-Version: 1.0\nTag-File-Character-Encoding: UTF-8\n"

// algorithms are the digests manifests may use (RFC 8493 §2.4).
var algorithms = map[string]func() hash.Hash{
	"md5": md5.New, "sha1": sha1.New, "sha256": sha256.New, "sha512": sha512.New,
}

// manifestPath escapes what would break a manifest's lines (RFC 8493 §2.1.3):
// CR, LF and the percent sign.
var manifestPath = strings.NewReplacer("%", "%25", "\r", "%0D", "\n", "%0A")

var plainPath = strings.NewReplacer("%25", "%", "%0D", "\r", "%0d", "\r", "%0A", "\n", "%0a", "\n")

// writeManifest lists digests by path, in order of paths.
func writeManifest(w io.Writer, sums map[string]string) error {
	paths := make([]string, 0, len(sums))
	for p := range sums {
		paths = append(paths, p)
	}
	sort.Strings(paths)
	b := bufio.NewWriter(w)
	for _, p := range paths {
		fmt.Fprintf(b, "%s  %s\n", sums[p], manifestPath.Replace(p))
	}
	return b.Flush()
}

// readManifest reads digests by path. bad lists lines that are none, 1-based.
func readManifest(r io.Reader) (sums map[string]string, bad []int, err error) {
	sums = map[string]string{}
	sc := bufio.NewScanner(r)
	sc.Buffer(make([]byte, 1<<16), 1<<20)
	for n := 1; sc.Scan(); n++ {
		line := strings.TrimRight(sc.Text(), "\r")
		if line == "" {
			continue
		}
		sum, path, ok := strings.Cut(line, " ")
		// Some tools write "*" before the path for binary mode.
		path = strings.TrimPrefix(strings.TrimLeft(path, " \t"), "*")
		path = plainPath.Replace(strings.TrimPrefix(path, "./"))
		if _, herr := hex.DecodeString(sum); !ok || herr != nil || path == "" {
			bad = append(bad, n)
			continue
		}
		sums[path] = strings.ToLower(sum)
	}
	return sums, bad, sc.Err()
}

// readInfo reads "Label: value" lines; a line that begins with white space goes
// on with the last value (RFC 8493 §2.2.2).
func readInfo(r io.Reader) map[string][]string {
	info := map[string][]string{}
	last := ""
	sc := bufio.NewScanner(r)
	for sc.Scan() {
		line := sc.Text()
		if last != "" && (strings.HasPrefix(line, " ") || strings.HasPrefix(line, "\t")) {
			v := info[last]
			v[len(v)-1] += " " + strings.TrimSpace(line)
			continue
		}
		if k, v, ok := strings.Cut(line, ":"); ok {
			last = k
			info[k] = append(info[k], strings.TrimSpace(v))
		}
	}
	return info
}
