-- Crates that were sealed of a project, and where they were sent.

CREATE TABLE crates (
  id INTEGER PRIMARY KEY,
  project_id INTEGER NOT NULL REFERENCES projects (id) ON DELETE CASCADE,
  at INTEGER NOT NULL, -- nanoseconds since 1970
  drive TEXT NOT NULL,
  path TEXT NOT NULL,
  recipient TEXT NOT NULL,
  since TEXT NOT NULL, -- of a difference crate: the name of the crate it builds on
  complete INTEGER NOT NULL,
  files INTEGER NOT NULL,
  bytes INTEGER NOT NULL
);
CREATE INDEX crates_project ON crates (project_id, at);

CREATE TABLE sendings (
  id INTEGER PRIMARY KEY,
  project_id INTEGER NOT NULL REFERENCES projects (id) ON DELETE CASCADE,
  began INTEGER NOT NULL,
  ended INTEGER NOT NULL, -- 0: not yet
  drive TEXT NOT NULL, -- of the crate
  path TEXT NOT NULL,
  address TEXT NOT NULL, -- without a token
  recipient TEXT NOT NULL,
  bytes INTEGER NOT NULL,
  receipt TEXT NOT NULL, -- JSON; '' while it is under way, or broke off
  trouble TEXT NOT NULL
);
CREATE INDEX sendings_project ON sendings (project_id, began);
