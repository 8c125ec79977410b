-- The drive index has one row a folder, with its files packed in it: a row a file
-- cost most of the time of a first index. What was indexed is looked through anew.

DROP TABLE files;
DROP TABLE folders;
CREATE TABLE folders (
	id INTEGER PRIMARY KEY, drive TEXT NOT NULL, path TEXT NOT NULL, unread TEXT NOT NULL, at INTEGER NOT NULL,
	files INTEGER NOT NULL,  -- how many
	listing BLOB NOT NULL,   -- index.Pack
	digest INTEGER NOT NULL, -- of the listing: one that did not change is not written
	UNIQUE (drive, path));
