-- What a person set of the application itself, by name.

CREATE TABLE settings (name TEXT PRIMARY KEY, value TEXT NOT NULL);
