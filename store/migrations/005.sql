-- What was written into documents can be put back; folders are declared as a
-- library or a managed store; drives are measured; projects look in folders of
-- their own; health at a glance; what waits in the holding folder.

CREATE TABLE acts (
	id INTEGER PRIMARY KEY AUTOINCREMENT, project_id INTEGER NOT NULL, kind TEXT NOT NULL, at INTEGER NOT NULL,
	written TEXT NOT NULL, -- JSON: documents, editions, what they became
	back INTEGER NOT NULL DEFAULT 0); -- put back
CREATE INDEX acts_project ON acts (project_id);
ALTER TABLE decisions ADD COLUMN act INTEGER NOT NULL DEFAULT 0; -- the one that wrote it into documents; 0: it holds

CREATE TABLE declared (
	drive TEXT NOT NULL, path TEXT NOT NULL, kind TEXT NOT NULL, -- library, store
	PRIMARY KEY (drive, path)) WITHOUT ROWID;

ALTER TABLE drives ADD COLUMN kind_said INTEGER NOT NULL DEFAULT 0; -- a person said of what kind it is
ALTER TABLE drives ADD COLUMN gives INTEGER NOT NULL DEFAULT 0; -- bytes a second, as measured; 0: never
ALTER TABLE drives ADD COLUMN measured_at INTEGER NOT NULL DEFAULT 0;
ALTER TABLE drives ADD COLUMN slowed INTEGER NOT NULL DEFAULT 0; -- of a stand-in: the bytes a second it gives; 0: what it can

ALTER TABLE projects ADD COLUMN ask_home INTEGER NOT NULL DEFAULT 0; -- to be asked when files come from outside
ALTER TABLE projects ADD COLUMN search TEXT NOT NULL DEFAULT '[]'; -- JSON: folders to look in, in order

CREATE TABLE health (
	project_id INTEGER NOT NULL, drive TEXT NOT NULL, path TEXT NOT NULL, -- of a document that no project has; else 0 and ''
	says TEXT NOT NULL, at INTEGER NOT NULL, -- JSON of the counts
	PRIMARY KEY (project_id, drive, path)) WITHOUT ROWID;

CREATE TABLE beside (drive TEXT NOT NULL, path TEXT NOT NULL, PRIMARY KEY (drive, path)) WITHOUT ROWID; -- companions that were there

CREATE TABLE held (
	id INTEGER PRIMARY KEY AUTOINCREMENT, drive TEXT NOT NULL, path TEXT NOT NULL, -- where it was
	held TEXT NOT NULL, -- where it is, on the same drive
	files INTEGER NOT NULL, bytes INTEGER NOT NULL, at INTEGER NOT NULL, until INTEGER NOT NULL,
	reasons TEXT NOT NULL); -- JSON: what was said against those who still need it

DROP INDEX files_folder; -- files_place begins with the folder
