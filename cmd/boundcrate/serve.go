package main

import (
	"context"
	"crypto/rand"
	"fmt"
	"log/slog"
	"net"
	"os"
	"path/filepath"

	"github.com/spf13/cobra"

	"boundcrate/demo"
	"boundcrate/server"
	"boundcrate/store"
	"boundcrate/web"
)

func serveCommand() *cobra.Command {
	var drives []string
	var data, addr string
	cmd := &cobra.Command{
		Use: "serve --drive NAME=DIR … [--data DIR] [--addr 127.0.0.1:PORT]", Short: "serve the application on your own folders", Args: cobra.NoArgs,
		RunE: func(cmd *cobra.Command, _ []string) error {
			given, err := parseDrives(drives)
			if err != nil {
				return err
			}
			if data == "" {
				if data, err = store.DefaultDir(); err != nil {
					return err
				}
			}
			s, err := store.Open(data)
			if err != nil {
				return err
			}
			defer s.Close()
			for _, d := range given {
				if err := s.PutDrive(d.Name, d.Dir, d.Kind, false); err != nil {
					return err
				}
			}
			return serve(cmd.Context(), s, addr, false)
		},
	}
	cmd.Flags().StringArrayVar(&drives, "drive", nil, "a folder to work in, as NAME=DIR; may be given several times")
	cmd.Flags().StringVar(&data, "data", "", "data folder (default: the user's)")
	cmd.Flags().StringVar(&addr, "addr", "127.0.0.1:8417", "where to listen, on loopback")
	return cmd
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
			s, err := store.Open(demo.DataDir(abs))
			if err != nil {
				return err
			}
			defer s.Close()
			return serve(cmd.Context(), s, addr, true)
		},
	}
	cmd.Flags().StringVar(&dir, "dir", "demo-data", "where the sample world is written")
	cmd.Flags().StringVar(&addr, "addr", "127.0.0.1:8417", "where to listen, on loopback")
	cmd.Flags().BoolVar(&only, "write-only", false, "write the sample world and stop")
	return cmd
}

func serve(ctx context.Context, s *store.Store, addr string, isDemo bool) error {
	ctx, stop := context.WithCancel(ctx)
	token := rand.Text()
	a, h, err := server.New(ctx, server.Options{Store: s, Token: token, Files: web.Files(), Demo: isDemo, Log: slog.New(slog.NewTextHandler(os.Stderr, &slog.HandlerOptions{Level: slog.LevelWarn}))})
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
