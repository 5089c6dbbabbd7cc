-- Camera bodies that artists keep for other shots.
CREATE TABLE bodies (
    name TEXT PRIMARY KEY NOT NULL,
    width_mm REAL NOT NULL,
    height_mm REAL NOT NULL
);
