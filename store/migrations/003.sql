-- Files have an identity: the id of a drive and a path on it. What was seen and
-- what was decided go by it; a project has several documents; what uses a file,
-- and what files there are, are tables. Paths on no known drive have drive ''.

CREATE TEMP TABLE at AS
	SELECT p.path AS abs, COALESCE(d.id, '') AS drive,
		CASE WHEN d.id IS NULL THEN p.path WHEN p.path = d.dir THEN '/' ELSE substr(p.path, length(d.dir) + 1) END AS path
	FROM (SELECT path FROM seens UNION SELECT "from" FROM repairs UNION SELECT "to" FROM repairs UNION SELECT key FROM overrides UNION SELECT document FROM repairs) p
	LEFT JOIN drives d ON d.id = (
		SELECT e.id FROM drives e WHERE p.path = e.dir OR substr(p.path, 1, length(e.dir) + 1) = e.dir || '/'
		ORDER BY length(e.dir) DESC LIMIT 1);
CREATE UNIQUE INDEX temp.at_abs ON at (abs);

CREATE TABLE seen (
	drive TEXT NOT NULL, path TEXT NOT NULL,
	size INTEGER NOT NULL, mod INTEGER NOT NULL, -- bytes; nanoseconds since 1970
	dev INTEGER NOT NULL DEFAULT 0, ino INTEGER NOT NULL DEFAULT 0, changed INTEGER NOT NULL DEFAULT 0,
	sha256 TEXT NOT NULL DEFAULT '', facts TEXT NOT NULL DEFAULT '', at INTEGER NOT NULL,
	PRIMARY KEY (drive, path)) WITHOUT ROWID;
INSERT INTO seen (drive, path, size, mod, sha256, facts, at)
	SELECT at.drive, at.path, s.size, s.mod_nano, COALESCE(s.sha256, ''), COALESCE(s.facts, ''), COALESCE(CAST(strftime('%s', substr(s.at, 1, 19)) AS INTEGER), 0) * 1000000000
	FROM seens s JOIN at ON at.abs = s.path;
CREATE INDEX seen_sha256 ON seen (sha256);
DROP TABLE seens;

CREATE TABLE decisions (
	id INTEGER PRIMARY KEY AUTOINCREMENT, project_id INTEGER NOT NULL, batch INTEGER NOT NULL, kind TEXT NOT NULL,
	from_drive TEXT NOT NULL DEFAULT '', from_path TEXT NOT NULL DEFAULT '', to_drive TEXT NOT NULL DEFAULT '', to_path TEXT NOT NULL DEFAULT '',
	file_drive TEXT NOT NULL DEFAULT '', file_path TEXT NOT NULL DEFAULT '',
	doc_drive TEXT NOT NULL DEFAULT '', doc_path TEXT NOT NULL DEFAULT '', owner TEXT NOT NULL DEFAULT '', written TEXT NOT NULL DEFAULT '', nth INTEGER NOT NULL DEFAULT 0,
	folder TEXT, name TEXT, certainty TEXT NOT NULL DEFAULT '', reasons TEXT NOT NULL DEFAULT '', at INTEGER NOT NULL, undone INTEGER NOT NULL DEFAULT 0);
CREATE INDEX decisions_project ON decisions (project_id);
INSERT INTO decisions (project_id, batch, kind, from_drive, from_path, to_drive, to_path, certainty, reasons, at)
	SELECT r.project_id, r.batch, CASE WHEN r.prefix THEN 'move' ELSE 'mend' END, f.drive, f.path, t.drive, t.path, COALESCE(r.certainty, ''), '',
		COALESCE(CAST(strftime('%s', substr(r.created_at, 1, 19)) AS INTEGER), 0) * 1000000000
	FROM repairs r JOIN at f ON f.abs = r."from" JOIN at t ON t.abs = r."to" WHERE r."from" <> '' ORDER BY r.id;
INSERT INTO decisions (project_id, batch, kind, file_drive, file_path, folder, name, at)
	SELECT o.project_id, (SELECT COALESCE(MAX(batch), 0) FROM decisions) + o.rowid, 'wish', a.drive, a.path, o.folder, o.name, 0
	FROM overrides o JOIN at a ON a.abs = o.key;
DROP TABLE repairs;
DROP TABLE overrides;

CREATE TABLE projects_3 (
	id INTEGER PRIMARY KEY AUTOINCREMENT, name TEXT NOT NULL, documents TEXT NOT NULL, -- JSON list of paths
	root TEXT NOT NULL, options TEXT NOT NULL DEFAULT '', note TEXT NOT NULL DEFAULT '', out TEXT NOT NULL DEFAULT '',
	sealed TEXT NOT NULL DEFAULT '', sealed_at INTEGER, created_at INTEGER NOT NULL, opened_at INTEGER NOT NULL);
INSERT INTO projects_3 (id, name, documents, root, options, note, out, sealed, sealed_at, created_at, opened_at)
	SELECT id, COALESCE(name, ''), json_array(document), root, COALESCE(options, ''), COALESCE(note, ''), COALESCE(out, ''), COALESCE(sealed, ''),
		CAST(strftime('%s', substr(sealed_at, 1, 19)) AS INTEGER) * 1000000000,
		COALESCE(CAST(strftime('%s', substr(created_at, 1, 19)) AS INTEGER), 0) * 1000000000, COALESCE(CAST(strftime('%s', substr(opened_at, 1, 19)) AS INTEGER), 0) * 1000000000
	FROM projects;
DROP TABLE projects;
ALTER TABLE projects_3 RENAME TO projects;
CREATE UNIQUE INDEX projects_documents ON projects (documents);

ALTER TABLE jobs RENAME TO jobs_2;
CREATE TABLE jobs (
	id TEXT PRIMARY KEY, project_id INTEGER NOT NULL, kind TEXT NOT NULL, title TEXT NOT NULL, state TEXT NOT NULL, step TEXT NOT NULL DEFAULT '',
	unit TEXT NOT NULL DEFAULT '', done INTEGER NOT NULL DEFAULT 0, total INTEGER NOT NULL DEFAULT 0, error TEXT NOT NULL DEFAULT '', message TEXT NOT NULL DEFAULT '',
	result TEXT NOT NULL DEFAULT '', created_at INTEGER NOT NULL, ended_at INTEGER);
INSERT INTO jobs (id, project_id, kind, title, state, step, done, total, error, created_at, ended_at)
	SELECT id, project_id, kind, title, state, COALESCE(step, ''), COALESCE(done, 0), COALESCE(total, 0), COALESCE(error, ''),
		COALESCE(CAST(strftime('%s', substr(created_at, 1, 19)) AS INTEGER), 0) * 1000000000, CAST(strftime('%s', substr(ended_at, 1, 19)) AS INTEGER) * 1000000000
	FROM jobs_2;
DROP TABLE jobs_2;
CREATE INDEX jobs_created ON jobs (created_at);

CREATE TABLE uses (
	project_id INTEGER NOT NULL, -- 0: traced on the command line
	drive TEXT NOT NULL, path TEXT NOT NULL, doc_drive TEXT NOT NULL, doc_path TEXT NOT NULL,
	owner TEXT NOT NULL, use TEXT NOT NULL, role TEXT NOT NULL, at INTEGER NOT NULL);
CREATE INDEX uses_file ON uses (drive, path);
CREATE INDEX uses_document ON uses (project_id, doc_drive, doc_path);

CREATE TABLE folders (
	id INTEGER PRIMARY KEY, drive TEXT NOT NULL, path TEXT NOT NULL, unread TEXT NOT NULL DEFAULT '', at INTEGER NOT NULL,
	digest INTEGER NOT NULL DEFAULT 0, -- of its files' names, sizes and times: one that did not change is not read
	UNIQUE (drive, path));
CREATE TABLE files (
	id INTEGER PRIMARY KEY, folder_id INTEGER NOT NULL REFERENCES folders (id) ON DELETE CASCADE, name TEXT NOT NULL,
	name_key INTEGER NOT NULL, stem_key INTEGER NOT NULL, -- of names.Fold and names.Loose
	size INTEGER NOT NULL, mod INTEGER NOT NULL, dev INTEGER NOT NULL, ino INTEGER NOT NULL, changed INTEGER NOT NULL);
CREATE UNIQUE INDEX files_place ON files (folder_id, name);
CREATE INDEX files_folder ON files (folder_id);
CREATE INDEX files_name ON files (name_key);
CREATE INDEX files_stem ON files (stem_key);
CREATE INDEX files_size ON files (size);
