package main

import (
	"bytes"
	"errors"
	"fmt"
	"io"
	"io/fs"
	"log/slog"
	"os"
	"path/filepath"
	"strings"

	"go.yaml.in/yaml/v3"

	"boundcrate/core/disk/drive"
	"boundcrate/core/pack/carrier"
)

// config is what serve reads from a file; flags win over it.
type config struct {
	Drives   []configDrive   `yaml:"drives"`
	Address  string          `yaml:"address"`
	Data     string          `yaml:"data"`
	Editions string          `yaml:"editions"` // where earlier states of documents are kept
	Carriers []configCarrier `yaml:"carriers"` // what crates are weighed against, in place of the usual ones
	Log      string          `yaml:"log"`
	Level    string          `yaml:"level"`
}

type configDrive struct {
	Name   string `yaml:"name"`
	Folder string `yaml:"folder"`
}

type configCarrier struct {
	Name  string `yaml:"name"`
	Bytes int64  `yaml:"bytes"`
	Each  bool   `yaml:"each"` // of each file, not of all together
}

// readConfig reads a file that was named, or the usual one where it is there. A key nobody
// knows is an error with its line.
func readConfig(named string) (config, error) {
	var c config
	at := named
	if at == "" {
		dir, err := os.UserConfigDir()
		if err != nil {
			return c, nil // whoever has no such folder has no such file
		}
		at = filepath.Join(dir, "boundcrate", "config.yaml")
	}
	b, err := os.ReadFile(at)
	if errors.Is(err, fs.ErrNotExist) && named == "" {
		return c, nil
	}
	if err != nil {
		return c, err
	}
	d := yaml.NewDecoder(bytes.NewReader(b))
	d.KnownFields(true)
	if err := d.Decode(&c); err != nil && !errors.Is(err, io.EOF) {
		return c, fmt.Errorf("‘%s’: %s", at, strings.ReplaceAll(strings.TrimPrefix(err.Error(), "yaml: "), "\n", " "))
	}
	dir := filepath.Dir(at)
	for _, p := range []*string{&c.Data, &c.Editions, &c.Log} {
		if *p != "" && !filepath.IsAbs(*p) { // the file's folder is where its user thinks from
			*p = filepath.Join(dir, *p)
		}
	}
	for i := range c.Drives {
		if p := &c.Drives[i].Folder; *p != "" && !filepath.IsAbs(*p) {
			*p = filepath.Join(dir, *p)
		}
	}
	for _, l := range c.Carriers {
		if l.Name == "" || l.Bytes <= 0 {
			return c, fmt.Errorf("‘%s’: a carrier needs a name and a number of bytes", at)
		}
	}
	return c, nil
}

func (c *config) drives() ([]drive.Drive, error) {
	list := make([]string, len(c.Drives))
	for i, d := range c.Drives {
		list[i] = d.Name + "=" + d.Folder
	}
	return parseDrives(list)
}

func (c *config) carriers() (list []carrier.Limit) {
	for _, l := range c.Carriers {
		list = append(list, carrier.Limit{Name: l.Name, Bytes: l.Bytes, Each: l.Each})
	}
	return list
}

// logTo opens a log: of a file lines are added to its end. It must be closed.
func logTo(path, level string) (*slog.Logger, func() error, error) {
	var l slog.Level
	if level == "" {
		level = "warn"
	}
	if err := l.UnmarshalText([]byte(level)); err != nil {
		return nil, nil, fmt.Errorf("Unknown log level “%s”. Use debug, info, warn or error.", level)
	}
	var to io.Writer = os.Stderr
	end := func() error { return nil }
	if path != "" {
		f, err := os.OpenFile(path, os.O_WRONLY|os.O_CREATE|os.O_APPEND, 0o600)
		if err != nil {
			return nil, nil, err
		}
		to, end = f, f.Close
	}
	return slog.New(slog.NewTextHandler(to, &slog.HandlerOptions{Level: l})), end, nil
}
