CREATE TABLE shots (
    id INTEGER PRIMARY KEY NOT NULL,
    name TEXT NOT NULL,
    folder TEXT NOT NULL,
    sequence TEXT NOT NULL,
    width_px INTEGER NOT NULL,
    height_px INTEGER NOT NULL,
    state TEXT NOT NULL
);

-- Every change of a shot's state, whole before and after, so that undo cannot miss a part.
CREATE TABLE edits (
    id INTEGER PRIMARY KEY NOT NULL,
    shot_id INTEGER NOT NULL REFERENCES shots (id) ON DELETE CASCADE,
    label TEXT NOT NULL,
    before TEXT NOT NULL,
    after TEXT NOT NULL,
    undone INTEGER NOT NULL DEFAULT 0
);
CREATE INDEX edits_of_shot ON edits (shot_id, id);

CREATE TABLE track_runs (
    id INTEGER PRIMARY KEY NOT NULL,
    shot_id INTEGER NOT NULL REFERENCES shots (id) ON DELETE CASCADE,
    inputs TEXT NOT NULL,
    tracks TEXT NOT NULL,
    movers TEXT NOT NULL
);

CREATE TABLE attempts (
    id INTEGER PRIMARY KEY NOT NULL,
    shot_id INTEGER NOT NULL REFERENCES shots (id) ON DELETE CASCADE,
    run_id INTEGER NOT NULL REFERENCES track_runs (id) ON DELETE CASCADE,
    label TEXT NOT NULL,
    inputs TEXT NOT NULL,
    rms_px REAL NOT NULL,
    result TEXT NOT NULL
);

CREATE TABLE deliveries (
    id INTEGER PRIMARY KEY NOT NULL,
    shot_id INTEGER NOT NULL REFERENCES shots (id) ON DELETE CASCADE,
    inputs TEXT NOT NULL,
    receipt TEXT NOT NULL,
    package BLOB NOT NULL
);

CREATE TABLE jobs (
    id INTEGER PRIMARY KEY NOT NULL,
    shot_id INTEGER NOT NULL REFERENCES shots (id) ON DELETE CASCADE,
    kind TEXT NOT NULL,
    state TEXT NOT NULL,
    message TEXT NOT NULL DEFAULT ''
);
