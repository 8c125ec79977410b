package main

import (
	"errors"
	"fmt"
	"net"
	"net/http"
	"os"
	"path/filepath"
	"time"

	"github.com/dustin/go-humanize"
	"github.com/spf13/cobra"

	"boundcrate/app/send"
	"boundcrate/app/send/depot"
	"boundcrate/core/disk/drive"
	"boundcrate/core/say/words/phrase"
)

// tokenName is the variable a token for a transfer service is read from; it is kept nowhere.
const tokenName = "BOUNDCRATE_TOKEN"

func sendCommand() *cobra.Command {
	var c common
	var to string
	cmd := &cobra.Command{
		Use: "send --to DIR|URL [--json] CRATE", Short: "send a crate to a folder or a transfer service (tus 1.0), and keep the receipt; the token is read from " + tokenName, Args: cobra.ExactArgs(1),
		RunE: func(cmd *cobra.Command, args []string) error {
			if to == "" {
				return errors.New("Give a folder or an address: --to DIR or --to URL.")
			}
			p, err := absolute(args)
			if err != nil {
				return err
			}
			if !send.Remote(to) {
				dirs, err := absolute([]string{to})
				if err != nil {
					return err
				}
				to = dirs[0]
			}
			o := send.Options{Crate: p[0], To: to, Token: os.Getenv(tokenName)}
			other := ""
			if st := c.openStore(); st != nil {
				defer st.Close()
				o.State, other = filepath.Join(st.Dir(), "sending"), st.Dir()
				if m, err := st.Memory(nil); err == nil {
					defer m.Close()
					o.Sum = m.Hasher(drive.System{})
				}
			}
			sent, err := send.Run(cmd.Context(), o)
			if err != nil {
				return c.notSent(cmd, err)
			}
			kept, err := send.KeepReceipt(sent, other)
			if err != nil {
				fmt.Fprintln(os.Stderr, "The receipt could not be kept:", err)
			}
			if c.json {
				return printJSON(cmd.OutOrStdout(), sent)
			}
			fmt.Fprintf(cmd.OutOrStdout(), "%s sent to %s: %s, received whole. Receipt kept in %s\n", sent.Crate, sent.To, phrase.Size(sent.Bytes), kept)
			return nil
		},
	}
	cmd.Flags().BoolVar(&c.json, "json", false, "print JSON")
	cmd.Flags().StringVar(&to, "to", "", "a folder, or the http or https address of a tus 1.0 service")
	c.dataFlag(cmd)
	return cmd
}

// notSent tells why nothing, or not all, was sent. What can be done about is 1.
func (c *common) notSent(cmd *cobra.Command, err error) error {
	var limit *send.LimitError
	var broken *send.BrokenError
	if !errors.As(err, &limit) && !errors.As(err, &broken) {
		if _, addressed := errors.AsType[*send.AddressError](err); !addressed {
			if _, answered := errors.AsType[*send.AnswerError](err); !answered {
				return err
			}
		}
		return errors.New(send.Says(err))
	}
	fmt.Fprintln(os.Stderr, send.Says(err))
	if c.json {
		out := struct {
			Sent  int64  `json:"sent"`
			Bytes int64  `json:"bytes"`
			Limit int64  `json:"limit,omitempty"`
			Parts int    `json:"parts,omitempty"`
			Error string `json:"error"`
		}{Error: send.Says(err)}
		if broken != nil {
			out.Sent, out.Bytes = broken.Sent, broken.Size
		} else {
			out.Bytes, out.Limit, out.Parts = limit.Size, limit.Limit, limit.Parts
		}
		if err := printJSON(cmd.OutOrStdout(), out); err != nil {
			return err
		}
	}
	return verdict(false)
}

func carrierCommand() *cobra.Command {
	var dir, addr, limit, rate, every string
	cmd := &cobra.Command{
		Use: "carrier --dir DIR [--addr 127.0.0.1:PORT] [--limit 2GB] [--rate 10MB] [--fail-every 5MB]", Short: "run the simulated transfer service (tus 1.0)", Args: cobra.NoArgs,
		RunE: func(cmd *cobra.Command, _ []string) error {
			if dir == "" {
				return errors.New("Give a folder for what arrives: --dir DIR.")
			}
			o := depot.Options{Dir: dir}
			for _, x := range []struct {
				flag, text string
				to         *int64
			}{{"--limit", limit, &o.Limit}, {"--rate", rate, &o.Rate}, {"--fail-every", every, &o.FailEvery}} {
				if x.text == "" {
					continue
				}
				n, err := humanize.ParseBytes(x.text)
				if err != nil {
					return fmt.Errorf("%s %q is no size, such as 5MB", x.flag, x.text)
				}
				*x.to = int64(n)
			}
			address, closed, err := serveDepot(addr, o)
			if err != nil {
				return err
			}
			defer closed()
			fmt.Fprintln(cmd.OutOrStdout(), address)
			<-cmd.Context().Done()
			return nil
		},
	}
	cmd.Flags().StringVar(&dir, "dir", "", "the folder for what arrives")
	cmd.Flags().StringVar(&addr, "addr", "127.0.0.1:0", "where to listen, on loopback")
	cmd.Flags().StringVar(&limit, "limit", "", "the largest upload")
	cmd.Flags().StringVar(&rate, "rate", "", "bytes a second")
	cmd.Flags().StringVar(&every, "fail-every", "", "break off after so many bytes")
	return cmd
}

// serveDepot runs the simulated transfer service, and tells its address.
func serveDepot(addr string, o depot.Options) (address string, closed func(), err error) {
	if err := os.MkdirAll(o.Dir, 0o755); err != nil {
		return "", nil, err
	}
	h, err := depot.New(o)
	if err != nil {
		return "", nil, err
	}
	l, err := net.Listen("tcp", addr)
	if err != nil {
		return "", nil, err
	}
	s := &http.Server{Handler: h, ReadHeaderTimeout: 10 * time.Second}
	go func() { _ = s.Serve(l) }() // it ends when it is closed
	return "http://" + l.Addr().String() + depot.Base, func() { s.Close() }, nil
}
