-- By how much the plate slips under places of a solve, as measured in its patch reel.
CREATE TABLE measured_slips (
    id INTEGER PRIMARY KEY NOT NULL,
    attempt_id INTEGER NOT NULL REFERENCES attempts (id) ON DELETE CASCADE,
    track INTEGER,
    x REAL NOT NULL,
    y REAL NOT NULL,
    z REAL NOT NULL,
    crops INTEGER NOT NULL,
    rms_px REAL NOT NULL,
    worst_from INTEGER,
    worst_to INTEGER,
    worst_px REAL
);
CREATE INDEX measured_slips_of_attempt ON measured_slips (attempt_id);
