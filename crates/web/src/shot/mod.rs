//! What is known of a shot, apart from what is shown and said of it.

pub mod everything;
pub mod facts;
pub mod guests;
pub mod lens;
pub mod solving;
pub mod tracks;
pub mod world;
