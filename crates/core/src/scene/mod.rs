//! Putting things into the oriented world ([`mod@crate::orient`]).
//!
//! [`shapes`] makes the ground grid and stand-ins in metres; [`overlay`] draws them through a solved camera; [`receiver`] turns the
//! world to the axes of the program that it is handed to.

pub mod overlay;
pub mod receiver;
pub mod shapes;

pub use receiver::{Hand, Receiver, Up};
pub use shapes::StandIn;
