-- Documents of which it is known what they use, as they were then.
CREATE TABLE traced (
	drive TEXT NOT NULL, path TEXT NOT NULL, size INTEGER NOT NULL, mod INTEGER NOT NULL,
	dev INTEGER NOT NULL, ino INTEGER NOT NULL, changed INTEGER NOT NULL,
	steady INTEGER NOT NULL, -- 0: where its names lead may change while it does not
	formats INTEGER NOT NULL, -- what it was read by: a digest of the formats and rules in force
	at INTEGER NOT NULL, PRIMARY KEY (drive, path));
