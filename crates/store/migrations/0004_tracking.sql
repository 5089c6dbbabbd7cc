-- What speaks against tracks, beside those that move by themselves.
ALTER TABLE track_runs ADD COLUMN suspects TEXT NOT NULL DEFAULT '[]';

-- What legs of hand tracks found: by all that they depend on, so that only what is new is followed.
CREATE TABLE hand_paths (
    shot_id INTEGER NOT NULL REFERENCES shots (id) ON DELETE CASCADE,
    inputs TEXT NOT NULL,
    leg TEXT NOT NULL,
    path TEXT NOT NULL,
    PRIMARY KEY (shot_id, inputs, leg)
);
