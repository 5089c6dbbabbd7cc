//! Following against pictures of which every place is known, in one program, so that it is built once.
#![allow(clippy::unwrap_used)]

mod alignment;
mod following;
mod interrupted;
mod returns;
mod soft;
