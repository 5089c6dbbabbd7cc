//! One path from a plate to tracks, to a camera, to what is handed on. The page and the command
//! line call it with the same options and get the same camera, bit by bit.
//!
//! - [`following`]: which frames, how they are followed, what is judged of the tracks.
//! - [`choosing`]: which tracks take part in a solve.
//! - [`constraints`]: lengths and planes, from names to tracks.
//! - [`solving`]: what is known of camera and lens, and the solve.
//! - [`reopening`]: a camera file as a solve again.
//! - [`proofing`]: guests over the plate, as pictures or a movie.
//! - [`in_scene`]: planes of the set and things that move by themselves, as they are handed on.
//! - [`delivering`]: a solved, oriented shot as a package that is proven; [`colouring`]: what its landmarks look like; [`changes`]:
//!   what it changes against the one before; [`folders`]: where it is written.
//!
//! Each step has one type that holds all that its result depends on. A computation gets that
//! type, and its fingerprint is made by taking the same type apart, so that nothing that is
//! added to it can be left out of the fingerprint.
#![deny(missing_docs)]
#![cfg_attr(test, allow(clippy::unwrap_used))]

pub mod changes;
pub mod choosing;
pub mod colouring;
pub mod constraints;
pub mod delivering;
pub mod folders;
pub mod following;
pub mod in_scene;
pub mod proofing;
pub mod reopening;
pub mod solving;
