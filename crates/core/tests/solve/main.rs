//! Solves against drawn cameras and bodies, in one program, so that it is built once and two tests run at a time.
#![allow(clippy::unwrap_used)]

mod bodies;
mod body_motion;
mod constraints;
mod degenerate;
mod information;
mod known;
mod locked_zoom;
mod moves;
mod moving;
mod on_demand;
mod parts;
mod rolling;
mod shared;
mod slip;
mod solving;
mod walks;

#[path = "../tracking/interrupted.rs"]
mod interrupted;
