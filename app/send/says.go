package send

import (
	"bytes"
	"context"
	"encoding/json"
	"errors"
	"net"
	"os"
	"path/filepath"

	"boundcrate/core/say/words"
	"boundcrate/core/say/words/phrase"
)

// Says is why sending failed, in sentences: what happened, what was left, what to do.
func Says(err error) string {
	var limit *LimitError
	var broken *BrokenError
	var bad *AddressError
	var no *AnswerError
	switch {
	case errors.As(err, &limit):
		s := "‘" + limit.To + "’ takes at most " + phrase.Size(limit.Limit) + "; the crate has " + phrase.Size(limit.Size) + ". Nothing was sent. "
		if limit.Parts > 1 {
			return s + "Sealed in parts of that size it is " + phrase.Plural(limit.Parts, "part") + "."
		}
		return s + "One of its files alone is larger."
	case errors.As(err, &broken):
		return "Sending stopped after " + phrase.Size(broken.Sent) + " of " + phrase.Size(broken.Size) + ": " + reason(broken.Err) + ". Send again to go on from there."
	case errors.As(err, &bad), errors.As(err, &no):
		return phrase.Sentence(reason(err)) + " Nothing was sent."
	}
	return words.Error(err)
}

func reason(err error) string {
	var bad *AddressError
	var no *AnswerError
	var wire *net.OpError
	switch {
	case errors.As(err, &bad):
		return "‘" + bad.Address + "’ was not called, because " + bad.Why
	case errors.As(err, &no):
		return "‘" + no.Address + "’: " + no.Why
	case errors.As(err, &wire):
		return "the connection failed (" + wire.Err.Error() + ")"
	case errors.Is(err, context.DeadlineExceeded), errors.Is(err, os.ErrDeadlineExceeded):
		return "there was no answer in time"
	}
	return words.Reason(err)
}

// receiptsEnd ends the name of the file beside a crate that keeps its receipts, one JSON line each.
const receiptsEnd = ".receipts.jsonl"

// KeepReceipt keeps a receipt beside the crate; where nothing can be written there, in another folder.
// It tells where.
func KeepReceipt(s *Sent, other string) (string, error) {
	line, err := json.Marshal(s)
	if err != nil {
		return "", err
	}
	name := filepath.Base(s.Crate) + receiptsEnd
	var errs []error
	for _, dir := range []string{filepath.Dir(s.Crate), other} {
		if dir == "" {
			continue
		}
		at := filepath.Join(dir, name)
		f, err := os.OpenFile(at, os.O_CREATE|os.O_APPEND|os.O_WRONLY, 0o644)
		if err == nil {
			_, err = f.Write(append(line, '\n'))
			if err = errors.Join(err, f.Sync(), f.Close()); err == nil {
				return at, nil
			}
		}
		errs = append(errs, err)
	}
	return "", errors.Join(errs...)
}

// Receipts are those that were kept beside a crate, the oldest first.
func Receipts(crate string) (list []Sent) {
	b, err := os.ReadFile(filepath.Join(filepath.Dir(crate), filepath.Base(crate)+receiptsEnd))
	if err != nil {
		return nil
	}
	for line := range bytes.Lines(b) {
		var s Sent
		if json.Unmarshal(line, &s) == nil && s.Receipt.SHA256 != "" {
			list = append(list, s)
		}
	}
	return list
}
