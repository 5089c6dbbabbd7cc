//! How things are put to the artist: findings, how far stations are, figures in words.

pub mod camera;
pub mod finding;
pub mod next;
pub mod rose;
pub mod standing;
pub mod words;
