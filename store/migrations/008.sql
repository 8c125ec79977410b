-- Which files are documents by their beginnings, whatever they are called, so that they are
-- opened once. A row holds for the file as it stood.

CREATE TABLE heads (
	drive TEXT NOT NULL, path TEXT NOT NULL, size INTEGER NOT NULL, mod INTEGER NOT NULL, dev INTEGER NOT NULL, ino INTEGER NOT NULL, changed INTEGER NOT NULL,
	formats INTEGER NOT NULL, document INTEGER NOT NULL,
	PRIMARY KEY (drive, path)) WITHOUT ROWID;
