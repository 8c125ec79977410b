PRAGMA foreign_keys=OFF;
BEGIN TRANSACTION;
CREATE TABLE decisions (
	id INTEGER PRIMARY KEY AUTOINCREMENT, project_id INTEGER NOT NULL, batch INTEGER NOT NULL, kind TEXT NOT NULL,
	from_drive TEXT NOT NULL DEFAULT '', from_path TEXT NOT NULL DEFAULT '', to_drive TEXT NOT NULL DEFAULT '', to_path TEXT NOT NULL DEFAULT '',
	file_drive TEXT NOT NULL DEFAULT '', file_path TEXT NOT NULL DEFAULT '',
	doc_drive TEXT NOT NULL DEFAULT '', doc_path TEXT NOT NULL DEFAULT '', owner TEXT NOT NULL DEFAULT '', written TEXT NOT NULL DEFAULT '', nth INTEGER NOT NULL DEFAULT 0,
	folder TEXT, name TEXT, certainty TEXT NOT NULL DEFAULT '', reasons TEXT NOT NULL DEFAULT '', at INTEGER NOT NULL, undone INTEGER NOT NULL DEFAULT 0);
INSERT INTO "decisions" VALUES(1,1,1,'mend','a392eb8a-b9ba-4c9e-9d8f-795e584c992a','/film/sound/gull.wav','a392eb8a-b9ba-4c9e-9d8f-795e584c992a','/attic/gull cry.wav','','','','','','',0,NULL,NULL,'certain','[{"Code":"by-hand","Text":"","N":0,"Of":0,"Have":null,"Want":null},{"Code":"content","Text":"","N":0,"Of":0,"Have":null,"Want":null}]',1795679864114093557,0);
CREATE TABLE `drives` (`id` text,`name` text,`dir` text,`kind` text,`known` text,`stand` numeric,PRIMARY KEY (`id`));
INSERT INTO "drives" VALUES('a392eb8a-b9ba-4c9e-9d8f-795e584c992a','Bench','/lightship/bench','fixed','',0);
CREATE TABLE files (
	id INTEGER PRIMARY KEY, folder_id INTEGER NOT NULL REFERENCES folders (id) ON DELETE CASCADE, name TEXT NOT NULL,
	name_key INTEGER NOT NULL, stem_key INTEGER NOT NULL, -- of names.Fold and names.Loose
	size INTEGER NOT NULL, mod INTEGER NOT NULL, dev INTEGER NOT NULL, ino INTEGER NOT NULL, changed INTEGER NOT NULL);
CREATE TABLE folders (
	id INTEGER PRIMARY KEY, drive TEXT NOT NULL, path TEXT NOT NULL, unread TEXT NOT NULL DEFAULT '', at INTEGER NOT NULL,
	digest INTEGER NOT NULL DEFAULT 0, -- of its files' names, sizes and times: one that did not change is not read
	UNIQUE (drive, path));
CREATE TABLE jobs (
	id TEXT PRIMARY KEY, project_id INTEGER NOT NULL, kind TEXT NOT NULL, title TEXT NOT NULL, state TEXT NOT NULL, step TEXT NOT NULL DEFAULT '',
	unit TEXT NOT NULL DEFAULT '', done INTEGER NOT NULL DEFAULT 0, total INTEGER NOT NULL DEFAULT 0, error TEXT NOT NULL DEFAULT '', message TEXT NOT NULL DEFAULT '',
	result TEXT NOT NULL DEFAULT '', created_at INTEGER NOT NULL, ended_at INTEGER);
INSERT INTO "jobs" VALUES('431d657a-1d8d-45d1-93da-f248059506d9',1,'trace','Tracing Tide Clock film','done','reading contents','bytes',42,42,'','2 references in 1 document','{}',1795679859049413998,1795679859067325405);
INSERT INTO "jobs" VALUES('bb0a275d-7e10-43bf-ab1a-a8188f152927',1,'trace','Tracing Tide Clock film','done','following references','bytes',0,0,'','2 references in 1 document','{}',1795679862075277466,1795679862078280919);
INSERT INTO "jobs" VALUES('967fc939-fc43-4e31-aa2a-cd7b675c1b7c',1,'trace','Tracing Tide Clock film','done','following references','bytes',0,0,'','2 references in 1 document','{}',1795679864114776029,1795679864118769653);
CREATE TABLE "projects" (
	id INTEGER PRIMARY KEY AUTOINCREMENT, name TEXT NOT NULL, documents TEXT NOT NULL, -- JSON list of paths
	root TEXT NOT NULL, options TEXT NOT NULL DEFAULT '', note TEXT NOT NULL DEFAULT '', out TEXT NOT NULL DEFAULT '',
	sealed TEXT NOT NULL DEFAULT '', sealed_at INTEGER, created_at INTEGER NOT NULL, opened_at INTEGER NOT NULL);
INSERT INTO "projects" VALUES(1,'Tide Clock film','["/lightship/bench/film/cut.m3u"]','/lightship/bench/film','','','','',0,1795679859043899363,1795679859043899363);
CREATE TABLE `rules_switches` (`name` text,`on` numeric,PRIMARY KEY (`name`));
CREATE TABLE seen (
	drive TEXT NOT NULL, path TEXT NOT NULL,
	size INTEGER NOT NULL, mod INTEGER NOT NULL, -- bytes; nanoseconds since 1970
	dev INTEGER NOT NULL DEFAULT 0, ino INTEGER NOT NULL DEFAULT 0, changed INTEGER NOT NULL DEFAULT 0,
	sha256 TEXT NOT NULL DEFAULT '', facts TEXT NOT NULL DEFAULT '', at INTEGER NOT NULL,
	PRIMARY KEY (drive, path)) WITHOUT ROWID;
INSERT INTO "seen" VALUES('a392eb8a-b9ba-4c9e-9d8f-795e584c992a','/attic/gull cry.wav',4,1795679857011269779,65024,10103170,1795679862059269953,'88c3ca2873f81c93b4471f937a3638f21c15221410d026759900a4fb4983d353','',1795679864110463310);
INSERT INTO "seen" VALUES('a392eb8a-b9ba-4c9e-9d8f-795e584c992a','/film/cut.m3u',30,1795679857007269779,65024,10103138,1795679857007269779,'0566df2b60991996c45c64e99ae398b7ebf78ea1694c9ff5dfa31ce21ec6b151','',1795679859058570524);
INSERT INTO "seen" VALUES('a392eb8a-b9ba-4c9e-9d8f-795e584c992a','/film/sound/gull.wav',4,1795679857011269779,65024,10103170,1795679857011269779,'88c3ca2873f81c93b4471f937a3638f21c15221410d026759900a4fb4983d353','',1795679859058570524);
INSERT INTO "seen" VALUES('a392eb8a-b9ba-4c9e-9d8f-795e584c992a','/film/sound/horn.wav',8,1795679857011269779,65024,10103153,1795679857011269779,'a81e946751199bc0ce7d4cd878e887738682b7c717efc6b01cacde3c723875bf','',1795679859058570524);
CREATE TABLE traced (
	drive TEXT NOT NULL, path TEXT NOT NULL, size INTEGER NOT NULL, mod INTEGER NOT NULL,
	dev INTEGER NOT NULL, ino INTEGER NOT NULL, changed INTEGER NOT NULL,
	steady INTEGER NOT NULL, -- 0: where its names lead may change while it does not
	formats INTEGER NOT NULL, -- what it was read by: a digest of the formats and rules in force
	at INTEGER NOT NULL, PRIMARY KEY (drive, path));
INSERT INTO "traced" VALUES('a392eb8a-b9ba-4c9e-9d8f-795e584c992a','/film/cut.m3u',30,1795679857007269779,65024,10103138,1795679857007269779,1,5282676982228134577,1795679864118081264);
CREATE TABLE uses (
	project_id INTEGER NOT NULL, -- 0: traced on the command line
	drive TEXT NOT NULL, path TEXT NOT NULL, doc_drive TEXT NOT NULL, doc_path TEXT NOT NULL,
	owner TEXT NOT NULL, use TEXT NOT NULL, role TEXT NOT NULL, at INTEGER NOT NULL);
INSERT INTO "uses" VALUES(1,'a392eb8a-b9ba-4c9e-9d8f-795e584c992a','/film/sound/horn.wav','a392eb8a-b9ba-4c9e-9d8f-795e584c992a','/film/cut.m3u','line 1','used','read',1795679864118081264);
INSERT INTO "uses" VALUES(1,'a392eb8a-b9ba-4c9e-9d8f-795e584c992a','/attic/gull cry.wav','a392eb8a-b9ba-4c9e-9d8f-795e584c992a','/film/cut.m3u','line 2','used','read',1795679864118081264);
CREATE UNIQUE INDEX `idx_drives_name` ON `drives`(`name`);
CREATE INDEX seen_sha256 ON seen (sha256);
CREATE INDEX decisions_project ON decisions (project_id);
CREATE UNIQUE INDEX projects_documents ON projects (documents);
CREATE INDEX jobs_created ON jobs (created_at);
CREATE INDEX uses_file ON uses (drive, path);
CREATE INDEX uses_document ON uses (project_id, doc_drive, doc_path);
CREATE UNIQUE INDEX files_place ON files (folder_id, name);
CREATE INDEX files_folder ON files (folder_id);
CREATE INDEX files_name ON files (name_key);
CREATE INDEX files_stem ON files (stem_key);
CREATE INDEX files_size ON files (size);
DELETE FROM "sqlite_sequence";
INSERT INTO "sqlite_sequence" VALUES('decisions',1);
INSERT INTO "sqlite_sequence" VALUES('projects',1);
COMMIT;
PRAGMA user_version=4;
