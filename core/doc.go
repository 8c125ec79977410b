// Package core holds the job, with no HTTP, no database and no interface.
//
// Data flows one way, down one road; every stage takes the value of the stage
// before and returns its own:
//
//		bytes → mentions → places → graph → repairs → selection → plan → crate → proof
//		        format     resolve  trace    mend       sift        stow    seal    trace again
//
//	  - mention: places in a document's texts that name files, and rewriting them
//	    by splicing (Retarget). No format has a writer of its own.
//	  - format: what kind of document a file is; envelopes that unwrap files into
//	    texts; one small package for each format. formattest holds them all to the
//	    same six laws.
//	  - drive: how files are seen, through one Reach: the system as it stands, the
//	    configured drives alone, or one crate alone.
//	  - facts: kind, header facts and fingerprint of a file. pcm: linear sound.
//	  - resolve: where the text of a mention leads, with repairs applied. It never
//	    guesses another folder.
//	  - trace: everything a document names, into nested documents, each read once.
//	  - edition: keeps a document before it is written to.
//	  - mend: finds missing files again and ranks them by evidence.
//	  - sift: what travels and what stays, weighed.
//	  - stow: where each file goes in the crate, and what each document says there.
//	  - seal: makes the crate, reads it back, and proves it by tracing it with
//	    nothing else reachable. It also checks crates.
//	  - receive: checks a crate, then unpacks it safely.
//
// Accepting a repair traces again what hangs below it: there the road loops.
//
// The core takes a context, a Reach and progress callbacks. It owns no
// goroutine that outlives a call, no global state and no clock. The order of
// imports is held by house_test.go at the top of the repository.
package core
