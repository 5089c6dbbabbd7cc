-- The number of the last change of a shot's state, of any kind: what an edit builds on.
ALTER TABLE shots ADD COLUMN version INTEGER NOT NULL DEFAULT 0;
-- When it was put into the bin, seconds since 1970; null while it is not there.
ALTER TABLE shots ADD COLUMN binned INTEGER;

-- Edits keep what differs. Older ones keep whole states in `before` and `after`, which stay.
ALTER TABLE edits ADD COLUMN change TEXT;

-- How often a job was begun: one that takes the server down with it is not begun for ever.
ALTER TABLE jobs ADD COLUMN starts INTEGER NOT NULL DEFAULT 0;

-- The files that a plate was when it was taken in.
CREATE TABLE pins (
    shot_id INTEGER PRIMARY KEY NOT NULL REFERENCES shots (id) ON DELETE CASCADE,
    files TEXT NOT NULL
);

-- Every change of a shot's state: which members it touched, so that a late edit can be told.
CREATE TABLE changes (
    shot_id INTEGER NOT NULL REFERENCES shots (id) ON DELETE CASCADE,
    version INTEGER NOT NULL,
    label TEXT NOT NULL,
    members TEXT NOT NULL,
    PRIMARY KEY (shot_id, version)
);
