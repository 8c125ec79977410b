-- What belongs to a project goes with it, by the database itself; NULL is what belongs to none.
-- What the index packs of a folder lies apart, so that asking about folders does not read it.

CREATE TABLE decisions_12 (
	id INTEGER PRIMARY KEY AUTOINCREMENT, project_id INTEGER NOT NULL REFERENCES projects (id) ON DELETE CASCADE, batch INTEGER NOT NULL, kind TEXT NOT NULL,
	from_drive TEXT NOT NULL DEFAULT '', from_path TEXT NOT NULL DEFAULT '', to_drive TEXT NOT NULL DEFAULT '', to_path TEXT NOT NULL DEFAULT '',
	file_drive TEXT NOT NULL DEFAULT '', file_path TEXT NOT NULL DEFAULT '',
	doc_drive TEXT NOT NULL DEFAULT '', doc_path TEXT NOT NULL DEFAULT '', owner TEXT NOT NULL DEFAULT '', written TEXT NOT NULL DEFAULT '', nth INTEGER NOT NULL DEFAULT 0,
	folder TEXT, name TEXT, certainty TEXT NOT NULL DEFAULT '', reasons TEXT NOT NULL DEFAULT '', at INTEGER NOT NULL, undone INTEGER NOT NULL DEFAULT 0,
	act INTEGER NOT NULL DEFAULT 0); -- the one that wrote it into documents; 0: it holds
INSERT INTO decisions_12 SELECT id, project_id, batch, kind, from_drive, from_path, to_drive, to_path, file_drive, file_path, doc_drive, doc_path, owner, written, nth,
	folder, name, certainty, reasons, at, undone, act FROM decisions WHERE project_id IN (SELECT id FROM projects);
DROP TABLE decisions;
ALTER TABLE decisions_12 RENAME TO decisions;
CREATE INDEX decisions_project ON decisions (project_id);

CREATE TABLE acts_12 (
	id INTEGER PRIMARY KEY AUTOINCREMENT, project_id INTEGER NOT NULL REFERENCES projects (id) ON DELETE CASCADE, kind TEXT NOT NULL, at INTEGER NOT NULL,
	written TEXT NOT NULL, -- JSON: documents, editions, what they became
	back INTEGER NOT NULL DEFAULT 0); -- put back
INSERT INTO acts_12 SELECT id, project_id, kind, at, written, back FROM acts WHERE project_id IN (SELECT id FROM projects);
DROP TABLE acts;
ALTER TABLE acts_12 RENAME TO acts;
CREATE INDEX acts_project ON acts (project_id);

CREATE TABLE jobs_12 (
	id TEXT PRIMARY KEY, project_id INTEGER REFERENCES projects (id) ON DELETE CASCADE, kind TEXT NOT NULL, title TEXT NOT NULL, state TEXT NOT NULL, step TEXT NOT NULL DEFAULT '',
	unit TEXT NOT NULL DEFAULT '', done INTEGER NOT NULL DEFAULT 0, total INTEGER NOT NULL DEFAULT 0, error TEXT NOT NULL DEFAULT '', message TEXT NOT NULL DEFAULT '',
	result TEXT NOT NULL DEFAULT '', created_at INTEGER NOT NULL, ended_at INTEGER);
INSERT INTO jobs_12 SELECT id, NULLIF(project_id, 0), kind, title, state, step, unit, done, total, error, message, result, created_at, ended_at
	FROM jobs WHERE project_id = 0 OR project_id IN (SELECT id FROM projects);
DROP TABLE jobs;
ALTER TABLE jobs_12 RENAME TO jobs;
CREATE INDEX jobs_created ON jobs (created_at);
CREATE INDEX jobs_project ON jobs (project_id);

CREATE TABLE uses_12 (
	project_id INTEGER REFERENCES projects (id) ON DELETE CASCADE, -- NULL: traced on the command line
	drive TEXT NOT NULL, path TEXT NOT NULL, doc_drive TEXT NOT NULL, doc_path TEXT NOT NULL,
	owner TEXT NOT NULL, use TEXT NOT NULL, role TEXT NOT NULL, at INTEGER NOT NULL,
	-- What the file was when this document last found it: 0 bytes and more; -1 where it never did;
	-- NULL where nobody kept it (frames of sequences).
	size INTEGER, mod INTEGER);
INSERT INTO uses_12 SELECT NULLIF(project_id, 0), drive, path, doc_drive, doc_path, owner, use, role, at, size, mod
	FROM uses WHERE project_id = 0 OR project_id IN (SELECT id FROM projects);
DROP TABLE uses;
ALTER TABLE uses_12 RENAME TO uses;
CREATE INDEX uses_file ON uses (drive, path);
CREATE INDEX uses_document ON uses (project_id, doc_drive, doc_path);
CREATE INDEX uses_doc ON uses (doc_drive, doc_path);

CREATE TABLE health_12 (
	project_id INTEGER REFERENCES projects (id) ON DELETE CASCADE, drive TEXT NOT NULL, path TEXT NOT NULL, -- of a document that no project has; else NULL and ''
	says TEXT NOT NULL, at INTEGER NOT NULL); -- JSON of the counts
INSERT INTO health_12 SELECT NULLIF(project_id, 0), drive, path, says, at FROM health WHERE project_id = 0 OR project_id IN (SELECT id FROM projects);
DROP TABLE health;
ALTER TABLE health_12 RENAME TO health;
CREATE UNIQUE INDEX health_of ON health (COALESCE(project_id, 0), drive, path);
CREATE INDEX health_project ON health (project_id);

CREATE TABLE listings (folder_id INTEGER PRIMARY KEY REFERENCES folders (id) ON DELETE CASCADE, listing BLOB NOT NULL); -- index.Pack
INSERT INTO listings SELECT id, listing FROM folders;
ALTER TABLE folders DROP COLUMN listing;
