-- Documents, roots and where crates went are kept by their drive, so that a drive that is mounted
-- elsewhere keeps all its projects.

ALTER TABLE projects ADD COLUMN root_drive TEXT NOT NULL DEFAULT '';
ALTER TABLE projects ADD COLUMN out_drive TEXT NOT NULL DEFAULT '';

UPDATE projects SET documents = (
	SELECT json_group_array(json_object('Drive', COALESCE(d.id, ''), 'Path', CASE WHEN d.id IS NULL THEN e.value ELSE substr(e.value, length(d.dir) + 1) END))
	FROM json_each(projects.documents) e LEFT JOIN drives d ON d.id = (
		SELECT x.id FROM drives x WHERE substr(e.value, 1, length(x.dir) + 1) = x.dir || '/' ORDER BY length(x.dir) DESC LIMIT 1));

UPDATE projects SET root_drive = COALESCE((
	SELECT x.id FROM drives x WHERE root = x.dir OR substr(root, 1, length(x.dir) + 1) = x.dir || '/' ORDER BY length(x.dir) DESC LIMIT 1), '');
UPDATE projects SET root = COALESCE(NULLIF(substr(root, (SELECT length(dir) FROM drives WHERE id = root_drive) + 1), ''), '/') WHERE root_drive <> '';

UPDATE projects SET out_drive = COALESCE((
	SELECT x.id FROM drives x WHERE substr(out, 1, length(x.dir) + 1) = x.dir || '/' ORDER BY length(x.dir) DESC LIMIT 1), '') WHERE out <> '';
UPDATE projects SET out = substr(out, (SELECT length(dir) FROM drives WHERE id = out_drive) + 1) WHERE out_drive <> '';

CREATE INDEX IF NOT EXISTS uses_doc ON uses (doc_drive, doc_path);
