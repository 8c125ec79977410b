// Licences prints the licences of everything that ships with the application: the Go modules that
// the binary is built from and the packages that the interface is built from. make licences runs it.
package main

import (
	"bytes"
	"encoding/json"
	"fmt"
	"os"
	"os/exec"
	"path/filepath"
	"slices"
	"strings"
)

func main() {
	text, err := licences(".")
	if err != nil {
		fmt.Fprintln(os.Stderr, err)
		os.Exit(1)
	}
	fmt.Print(text)
}

// part is something that ships, with where its licence lies.
type part struct{ name, version, dir, licence string }

func licences(root string) (string, error) {
	parts, err := modules(root)
	if err != nil {
		return "", err
	}
	more, err := packages(filepath.Join(root, "web"))
	if err != nil {
		return "", err
	}
	var b strings.Builder
	b.WriteString("Bound Crate contains the following software and fonts.\n")
	for _, p := range append(parts, more...) {
		text, err := licenceOf(p.dir)
		if err != nil {
			return "", err
		}
		if text == "" && p.licence == "" {
			return "", fmt.Errorf("%s tells no licence", p.name)
		}
		fmt.Fprintf(&b, "\n%s\n%s %s", strings.Repeat("=", 72), p.name, p.version)
		if p.licence != "" {
			fmt.Fprintf(&b, " (%s)", p.licence)
		}
		fmt.Fprintf(&b, "\n\n%s\n", strings.TrimSpace(text))
	}
	return b.String(), nil
}

// modules are the Go modules that the binary is built from, by their paths.
func modules(root string) ([]part, error) {
	cmd := exec.Command("go", "list", "-deps", "-f", "{{with .Module}}{{if not .Main}}{{.Path}}\t{{.Version}}\t{{.Dir}}{{end}}{{end}}", "./cmd/boundcrate")
	cmd.Dir, cmd.Stderr = root, os.Stderr
	out, err := cmd.Output()
	if err != nil {
		return nil, err
	}
	var list []part
	for line := range strings.Lines(string(out)) {
		f := strings.Split(strings.TrimSpace(line), "\t")
		if len(f) == 3 && !slices.ContainsFunc(list, func(p part) bool { return p.name == f[0] }) {
			list = append(list, part{name: f[0], version: f[1], dir: f[2]})
		}
	}
	slices.SortFunc(list, func(a, b part) int { return strings.Compare(a.name, b.name) })
	return list, nil
}

// packages are what the interface is built from, without what only builds or checks it.
func packages(web string) ([]part, error) {
	cmd := exec.Command("npm", "ls", "--omit=dev", "--all", "--parseable")
	cmd.Dir = web
	out, err := cmd.Output()
	if err != nil {
		return nil, fmt.Errorf("npm ls: %w", err)
	}
	var list []part
	for line := range strings.Lines(string(out)) {
		dir := strings.TrimSpace(line)
		if !strings.Contains(dir, "node_modules") {
			continue
		}
		b, err := os.ReadFile(filepath.Join(dir, "package.json"))
		if err != nil {
			return nil, err
		}
		var p struct{ Name, Version, License string }
		if err := json.Unmarshal(b, &p); err != nil {
			return nil, fmt.Errorf("%s: %w", dir, err)
		}
		if !slices.ContainsFunc(list, func(o part) bool { return o.name == p.Name && o.version == p.Version }) {
			list = append(list, part{p.Name, p.Version, dir, p.License})
		}
	}
	slices.SortFunc(list, func(a, b part) int { return strings.Compare(a.name, b.name) })
	return list, nil
}

// licenceOf is the text of a folder's licence files; "" where it has none.
func licenceOf(dir string) (string, error) {
	entries, err := os.ReadDir(dir)
	if err != nil {
		return "", err
	}
	var texts [][]byte
	for _, e := range entries {
		name := strings.ToUpper(e.Name())
		if e.IsDir() || !strings.Contains(name, "LICEN") && !strings.HasPrefix(name, "COPYING") && !strings.HasPrefix(name, "NOTICE") {
			continue
		}
		b, err := os.ReadFile(filepath.Join(dir, e.Name()))
		if err != nil {
			return "", err
		}
		texts = append(texts, bytes.TrimSpace(b))
	}
	return string(bytes.Join(texts, []byte("\n\n"))), nil
}
