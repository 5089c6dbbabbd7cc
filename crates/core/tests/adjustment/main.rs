//! The laws of the adjustment and of its errors, in one program, so that it is built once.
#![allow(clippy::unwrap_used)]

mod bundle;
mod certainty;
mod problems;
mod ties;
mod together;
