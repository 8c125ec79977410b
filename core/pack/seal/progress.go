package seal

// Step is what a seal is at.
type Step string

// The steps.
const (
	Preparing   Step = "preparing sounds" // how large they will be is told by making them once
	Comparing   Step = "comparing with the earlier crate"
	Copying     Step = "copying"
	ReadingBack Step = "reading back"
	Proving     Step = "proving"
)

// Progress tells how far a seal has come.
type Progress struct {
	Step          Step
	Done          int64 // bytes of Total: every byte is copied once and read back once
	Total         int64
	Copied, Files int // files copied, and read back
	Of            int
	File          string // the file just finished
}
