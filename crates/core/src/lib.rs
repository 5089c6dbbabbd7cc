//! The computation of a match, in the order of the job:
//! [`track`] follows features through a plate, [`lens`] maps between the picture
//! as shot and straight rays, [`solve`] finds the camera and the landmarks,
//! [`mod@orient`] puts the solved world upright and to scale, [`guest`] stands things in it and [`render`] draws them.
//!
//! Nothing here opens a file, reads a clock or keeps global state. Pictures come
//! in through [`track::FrameSource`]; long work reports through [`progress::Progress`],
//! which is also how it is cancelled.
//!
//! Conventions, stated once and used everywhere:
//! plate px have their origin at the top-left corner of the picture, x right, y down,
//! the first pixel's centre at (0.5, 0.5); the world is right-handed and Y up; a camera
//! looks along its own -Z with +Y up.
#![deny(missing_docs)]
#![cfg_attr(test, allow(clippy::unwrap_used))]

pub mod bodies;
pub mod camera;
pub mod damped;
pub mod guest;
pub mod judge;
pub mod lens;
pub mod orient;
pub mod photo;
pub mod plate;
pub mod progress;
pub mod render;
pub mod returns;
pub mod rotation;
pub mod scene;
pub mod slip;
pub mod solve;
pub mod spaces;
pub mod statistics;
pub mod track;
pub mod tracks;
mod vectors;
