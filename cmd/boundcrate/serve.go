package main

import (
	"cmp"
	"context"
	"crypto/rand"
	"errors"
	"fmt"
	"net"
	"os"
	"path/filepath"
	"runtime/debug"
	"time"

	"github.com/spf13/cobra"

	"boundcrate/app"
	"boundcrate/app/send/depot"
	"boundcrate/core/disk/drive"
	"boundcrate/demo"
	"boundcrate/server"
	"boundcrate/store"
	"boundcrate/web"
)

func serveCommand() *cobra.Command {
	var drives []string
	var data, addr, file, logFile, level string
	var anew bool
	cmd := &cobra.Command{
		Use: "serve [--config FILE] [--drive NAME=DIR]… [--data DIR] [--addr 127.0.0.1:PORT] [--log FILE] [--log-level LEVEL]", Short: "serve the application on your own folders", Args: cobra.NoArgs,
		RunE: func(cmd *cobra.Command, _ []string) error {
			conf, err := readConfig(file)
			if err != nil {
				return err
			}
			given, err := parseDrives(drives)
			if err != nil {
				return err
			}
			if len(given) == 0 {
				if given, err = conf.drives(); err != nil {
					return err
				}
			}
			log, ended, err := logTo(cmp.Or(logFile, conf.Log), cmp.Or(level, conf.Level))
			if err != nil {
				return err
			}
			defer ended()
			if data = cmp.Or(data, conf.Data); data == "" {
				if data, err = store.DefaultDir(); err != nil {
					return err
				}
			}
			s, free, err := keep(data, anew)
			if err != nil {
				return err
			}
			defer free()
			known, err := s.Drives()
			if err != nil {
				return err
			}
			for _, d := range given {
				if d.Dir, err = filepath.EvalSymlinks(d.Dir); err != nil { // nothing is written through links
					return err
				}
				for _, k := range known {
					if k.Name == d.Name && k.Dir != d.Dir {
						fmt.Fprintf(os.Stderr, "The drive “%s” was at ‘%s’; it is at ‘%s’ now.\n", d.Name, k.Dir, d.Dir)
					}
				}
				if err := s.PutDrive(d.Name, d.Dir, d.Kind, false); err != nil {
					return err
				}
			}
			return serve(cmd.Context(), cmp.Or(addr, conf.Address, usualAddress), server.Options{App: app.Options{Store: s, Editions: conf.Editions, Carriers: conf.carriers(), Log: log, Version: release}})
		},
	}
	cmd.Flags().StringArrayVar(&drives, "drive", nil, "a folder to work in, as NAME=DIR; can be given several times")
	cmd.Flags().StringVar(&data, "data", "", "data folder (default: the user's)")
	cmd.Flags().StringVar(&addr, "addr", "", "where to listen, on loopback (default: "+usualAddress+")")
	cmd.Flags().StringVar(&file, "config", "", "drives, address, data, editions, carriers, log and level, as YAML (default: boundcrate/config.yaml in the user's configuration)")
	cmd.Flags().StringVar(&logFile, "log", "", "a file that the log is written to (default: standard error)")
	cmd.Flags().StringVar(&level, "log-level", "", "debug, info, warn or error (default: warn)")
	cmd.Flags().BoolVar(&anew, "anew", false, "start with an empty database if the old one is damaged; the old one is kept beside it")
	return cmd
}

const usualAddress = "127.0.0.1:8417"

// keep opens the store of a data folder for serving: one server has it at a
// time, and a damaged database is told before anything leans on it.
func keep(data string, anew bool) (*store.Store, func(), error) {
	if err := os.MkdirAll(data, 0o700); err != nil {
		return nil, nil, err
	}
	lock, held, err := drive.Hold(filepath.Join(data, "serving.lock"), os.O_RDWR|os.O_CREATE)
	if err != nil {
		return nil, nil, err
	}
	if !held {
		return nil, nil, fmt.Errorf("Bound Crate is already running with the data folder ‘%s’. Use that one, or give another data folder with --data.", data)
	}
	s, err := store.Open(data)
	if err == nil {
		if err = s.Check(); err != nil {
			s.Close()
		}
	}
	var damaged *store.DamagedError
	if errors.As(err, &damaged) && anew {
		var kept string
		if s, kept, err = store.Anew(data, time.Now()); err == nil {
			fmt.Fprintf(os.Stderr, "The old database was kept as ‘%s’.\n", kept)
		}
	} else if damaged != nil {
		err = fmt.Errorf("%w. Run serve with --anew to start with an empty one; the damaged one is kept beside it.", err)
	}
	if err != nil {
		lock.Close()
		return nil, nil, err
	}
	return s, func() { s.Close(); lock.Close() }, nil
}

func demoCommand() *cobra.Command {
	var dir, addr string
	var only bool
	cmd := &cobra.Command{
		Use: "demo [--addr 127.0.0.1:PORT]", Short: "write the sample drives once, then serve the application on them", Args: cobra.NoArgs,
		RunE: func(cmd *cobra.Command, _ []string) error {
			abs, err := filepath.Abs(dir)
			if err != nil {
				return err
			}
			if err := os.MkdirAll(abs, 0o755); err != nil {
				return err
			}
			if err := demo.Write(cmd.Context(), abs); err != nil {
				return err
			}
			if only {
				return nil
			}
			s, free, err := keep(demo.DataDir(abs), false)
			if err != nil {
				return err
			}
			defer free()
			log, ended, err := logTo("", "")
			if err != nil {
				return err
			}
			defer ended()
			// It breaks off every five megabytes, so that going on can be seen.
			service, closed, err := serveDepot("127.0.0.1:0", depot.Options{Dir: filepath.Join(abs, "transfer service"), Limit: 2e9, FailEvery: 5e6})
			if err != nil {
				return err
			}
			defer closed()
			return serve(cmd.Context(), addr, server.Options{App: app.Options{Store: s, Demo: true, Service: service, Log: log, Version: release}})
		},
	}
	cmd.Flags().StringVar(&dir, "dir", "demo-data", "where the sample world is written")
	cmd.Flags().StringVar(&addr, "addr", usualAddress, "where to listen, on loopback")
	cmd.Flags().BoolVar(&only, "write-only", false, "write the sample world and stop")
	return cmd
}

func serve(ctx context.Context, addr string, o server.Options) error {
	// What is held of a large project is much, and a trace makes as much again: garbage is taken
	// away earlier than usual, so that both fit beside other programs.
	if os.Getenv("GOGC") == "" {
		debug.SetGCPercent(50)
	}
	ctx, stop := context.WithCancel(ctx)
	token := rand.Text()
	o.Token, o.Files = token, web.Files()
	a, h, err := server.New(ctx, o)
	if err != nil {
		stop()
		return err
	}
	defer a.Wait()
	defer stop()
	return server.Listen(ctx, addr, h, func(a net.Addr) {
		address := "http://" + a.String()
		if !server.KnowsAccounts() {
			address += "/?token=" + token // this system does not tell who asks
		}
		fmt.Println("Bound Crate is at " + address)
	})
}
