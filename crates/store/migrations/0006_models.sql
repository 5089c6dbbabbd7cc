-- Models that are put into plates, each once, as GLB.
CREATE TABLE models (
    id INTEGER PRIMARY KEY AUTOINCREMENT NOT NULL,
    name TEXT NOT NULL,
    sha256 TEXT NOT NULL UNIQUE,
    triangles INTEGER NOT NULL,
    width_m REAL NOT NULL,
    height_m REAL NOT NULL,
    depth_m REAL NOT NULL,
    glb BLOB NOT NULL
);
