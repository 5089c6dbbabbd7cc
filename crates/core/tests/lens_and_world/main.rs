//! Lens, photograph, orientation and drawing against drawn truth, in one program, so that it is built once.
#![allow(clippy::unwrap_used)]

mod edge_proposals;
mod lens;
mod orient;
mod photograph;
mod proposals;
mod render;
mod sets;
