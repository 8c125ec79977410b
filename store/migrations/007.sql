-- What files were before they changed in place: until somebody says that the change is
-- meant, it is told. What is set aside has a reason, what is meant a state.

CREATE TABLE was (
	drive TEXT NOT NULL, path TEXT NOT NULL, size INTEGER NOT NULL, sha256 TEXT NOT NULL, at INTEGER NOT NULL,
	PRIMARY KEY (drive, path)) WITHOUT ROWID;
-- What a sound, a picture or a short text looked like (core/look), and sounded like (core/acoustic),
-- when it was last seen, for when it is missing.
CREATE TABLE looks (drive TEXT NOT NULL, path TEXT NOT NULL, look BLOB NOT NULL, sound BLOB NOT NULL, PRIMARY KEY (drive, path)) WITHOUT ROWID;
