-- What a file was when this document last found it: 0 bytes and more; -1 where it never did;
-- NULL where nobody kept it (frames of sequences, and all before this migration).

ALTER TABLE uses ADD COLUMN size INTEGER;
ALTER TABLE uses ADD COLUMN mod INTEGER;

-- Names are folded letter for letter now (ß is not ss): what was read of folders is read once more.

UPDATE folders SET digest = 0;
