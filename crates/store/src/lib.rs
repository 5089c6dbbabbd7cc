//! What is kept: shots, edits, tracks, attempts and jobs in SQLite.
