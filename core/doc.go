// Package core holds the job, with no HTTP, no database and no interface.
//
// Its packages stand in wings, each of which leans on earlier ones alone: text
// (bag, problem, mention, names, format), disk (drive, fileset, ability, index,
// edition, holding, template), media (facts, pcm, look, acoustic), road (graph to
// decide), mend (mend, writing), survey, pack (sift to receive), bring (home,
// inside), say (words, report).
//
// Data flows one way, down one road; every stage takes the value of the stage
// before and returns its own:
//
//		bytes → mentions → places → graph → decisions → selection → plan → contents → carrier → proof
//		        format     resolve  trace   decide,mend  sift        stow   content    seal      trace again
//
//	  - mention: places in a document's texts that name files, and rewriting them
//	    by splicing (Retarget). No format has a writer of its own.
//	  - names: when two names are one, for a search and on other systems.
//	  - format: what kind of document a file is; envelopes that unwrap files into
//	    texts; one small package for each format. formattest holds them all to the
//	    same six laws.
//	  - drive: how files are seen, through one Reach: the system as it stands, the
//	    configured drives alone, or one crate alone. A file's identity is a drive's
//	    id and a path on it. Fingerprints are taken here. ability: what a folder can do.
//	  - facts: kind and header facts of a file. pcm: linear sound.
//	  - fileset: all writing over what is there, as one transaction.
//	  - index: which files there are, asked instead of walked.
//	  - graph: documents, files and references as plain data, joined by numbers.
//	  - resolve: where the text of a mention leads, with repairs applied. It never
//	    guesses another folder.
//	  - trace: everything documents name, into nested documents, each read once and
//	    kept while it does not change.
//	  - origin: whose a file is and what belongs with it, beside the graph, which
//	    stays as it was traced. tally: the one count. may: everything that a document
//	    may lead to.
//	  - decide: the log of everything a person said, keyed by identity.
//	  - edition: keeps a document before it is written to.
//	  - mend: finds missing files again in one pass and ranks them by evidence.
//	  - sift: what travels and what stays, to the end of what hangs on it.
//	  - stow: where each file goes in the crate, and what each document says there.
//	  - recipe: the choices of sift and stow, read from YAML.
//	  - proof: what each reference must lead to, and whether it does.
//	  - content, carrier, bag: what a file in a crate is made of, what carries it,
//	    and the standard's texts.
//	  - seal: makes the crate, reads it back, and proves it by tracing it with
//	    nothing else reachable. It also checks crates.
//	  - receive: checks a crate, then unpacks it safely.
//	  - survey: every document on the drives; whether a folder may go. home: outside
//	    files brought into the project's own folder. inside: data that stands in
//	    documents written out to files. holding: folders taken out of the way.
//	    template: the folders of a new project.
//	  - words: every English sentence. report: the command line's contract.
//
// Accepting a repair traces again what hangs below it: there the road loops.
//
// The core takes a context, a Reach and progress callbacks. It owns no
// goroutine that outlives a call, no global state and no clock. The order of
// imports is held by house_test.go at the top of the repository.
package core
