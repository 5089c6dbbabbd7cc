-- Lenses kept for other shots, and the shot's lens as more than five terms.
CREATE TABLE lenses (
    id INTEGER PRIMARY KEY NOT NULL,
    body TEXT NOT NULL,
    lens TEXT NOT NULL,
    focal_mm REAL,
    focus TEXT NOT NULL,
    file TEXT NOT NULL,
    UNIQUE (body, lens, focal_mm, focus)
);

-- Plates that were undistorted into folders of their own.
CREATE TABLE undistortions (
    id INTEGER PRIMARY KEY NOT NULL,
    shot_id INTEGER NOT NULL REFERENCES shots (id) ON DELETE CASCADE,
    inputs TEXT NOT NULL,
    folder TEXT NOT NULL,
    receipt TEXT NOT NULL
);

UPDATE shots SET state = json_set(state, '$.lens', CASE
    WHEN json_extract(state, '$.lens.k1') = 0 AND json_extract(state, '$.lens.k2') = 0 THEN json('{}')
    ELSE json_object('source', 'values', 'values', json_object('terms', json_extract(state, '$.lens')))
END) WHERE json_type(state, '$.lens.k1') IS NOT NULL;
UPDATE edits SET before = json_set(before, '$.lens', CASE
    WHEN json_extract(before, '$.lens.k1') = 0 AND json_extract(before, '$.lens.k2') = 0 THEN json('{}')
    ELSE json_object('source', 'values', 'values', json_object('terms', json_extract(before, '$.lens')))
END) WHERE json_type(before, '$.lens.k1') IS NOT NULL;
UPDATE edits SET after = json_set(after, '$.lens', CASE
    WHEN json_extract(after, '$.lens.k1') = 0 AND json_extract(after, '$.lens.k2') = 0 THEN json('{}')
    ELSE json_object('source', 'values', 'values', json_object('terms', json_extract(after, '$.lens')))
END) WHERE json_type(after, '$.lens.k1') IS NOT NULL;
