-- What a file was when it was last opened and was no document (core/graph, Look), with the
-- formats of that time: what is known unchanged is not opened again.

ALTER TABLE seen ADD COLUMN kind TEXT NOT NULL DEFAULT '';
ALTER TABLE seen ADD COLUMN formats INTEGER NOT NULL DEFAULT 0;
