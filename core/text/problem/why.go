package problem

import "errors"

// ErrCannotSay tells that a carrier has no way to write a name at a place. Stow asks before
// Seal writes.
var ErrCannotSay = errors.New("cannot be said here")

// Why is why a name cannot be written at a place of a document.
type Why string

// Why. In brackets: what it speaks of.
const (
	NoText        Why = "no-text"        // nothing there names a file
	NoNUL         Why = "nul"            // a name holds no NUL byte
	BareOnly      Why = "bare-only"      // no folder can be said there
	OtherStart    Why = "other-start"    // it does not begin with the shared part of the name
	Indivisible   Why = "indivisible"    // it does not divide into the parts of the place
	Unreturnable  Why = "unreturnable"   // it would be read otherwise
	SealedText    Why = "sealed-text"    // the text's encoding is not known, or it is damaged
	LacksIn       Why = "lacks"          // the text's encoding lacks a character of it
	NotUTF8       Why = "not-utf8"       // the place holds characters, and it is none
	NoCharacter   Why = "no-character"   // the place cannot hold one of its characters [which]
	AtItsStart    Why = "at-its-start"   // this would begin something else [character]
	NoneOf        Why = "none-of"        // the place can hold none of these [characters]
	WhiteSpace    Why = "white-space"    // none can stand there
	WhiteEnds     Why = "white-ends"     // none can stand at its ends
	LineEnd       Why = "line-end"       // none can stand there
	EmptyName     Why = "empty"          // it would name nothing
	ByteOrderMark Why = "byte-order"     // it would be taken for one
	Awkward       Why = "awkward"        // the place has no way to write such a name
	AsFragment    Why = "as-fragment"    // it would name a part of the document itself
	AsData        Why = "as-data"        // it would be read as data
	AsScript      Why = "as-script"      // it would be read as a script
	AsAddress     Why = "as-address"     // it would be read as a built-in address
	AsHeading     Why = "as-heading"     // it would be read as a heading
	AsEnd         Why = "as-end"         // it would be read as the end of the name
	AsComment     Why = "as-comment"     // it would be read as a comment
	AsOther       Why = "as-other"       // it would mean something else there
	NotFound      Why = "not-found"      // it would not be found there again
	Taken         Why = "taken"          // it is the name of something else in the document
	TokenOnce     Why = "token-once"     // it must hold this once [token]
	DigitBeside   Why = "digit-beside"   // a number sign beside the number would be read as a digit
	EndsWith      Why = "ends-with"      // it must end with this [extension]
	AtSigns       Why = "at-signs"       // these at signs cannot stand there
	NothingBeside Why = "nothing-beside" // a package finds nothing that lies beside it
	SharedText    Why = "shared-text"    // another name stands in the same text
)

// NoError is why a name cannot be written; it is an ErrCannotSay.
type NoError struct {
	Why Why
	Of  string
}

// No tells why a name cannot be written, and of what that speaks.
func No(why Why, of ...string) error {
	e := &NoError{Why: why}
	if len(of) > 0 {
		e.Of = of[0]
	}
	return e
}

func (e *NoError) Error() string {
	if e.Of != "" {
		return string(e.Why) + " " + e.Of
	}
	return string(e.Why)
}

func (e *NoError) Unwrap() error { return ErrCannotSay }
