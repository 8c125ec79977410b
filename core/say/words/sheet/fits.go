package sheet

import (
	"fmt"

	"boundcrate/core/bring/connect"
	"boundcrate/core/pack/receive"
	"boundcrate/core/say/words/phrase"
)

// Misfit says why something of a crate does not fit where it is received.
func Misfit(m receive.Misfit) string {
	switch m.Why {
	case receive.NewerVersion:
		return "is of a newer version (" + m.Has + ") than is known here (" + m.Wants + "). It was unpacked; open it with a current program."
	case receive.UnknownFormat:
		return "is of an unknown format; its references are guesses. It was unpacked unchanged."
	case receive.BadName:
		return "has a name that is too long for this system. Nothing was unpacked."
	case receive.NoRoom:
		return fmt.Sprintf("needs %s; %s are free there. Nothing was unpacked. Choose another folder.", phrase.Size(m.Needs), phrase.Size(m.Free))
	case receive.OtherRate:
		return "has " + m.Has + "; the project has " + m.Wants + "."
	}
	return string(m.Why)
}

// NotConnected says why a reference was not connected.
func NotConnected(w connect.Why) string {
	switch w {
	case connect.NotFound:
		return "not found among the received files"
	case connect.NotCertain:
		return "similar files were received, but none is certain to be the one"
	case connect.CannotSay:
		return "the document cannot name a file there"
	case connect.NotOurs:
		return "the document belongs to another project"
	}
	return string(w)
}
