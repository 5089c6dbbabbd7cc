//! Lines over the plate in the oriented world ([`mod@crate::orient`]), and the world as others want it.
//!
//! [`shapes`] makes grids in metres, [`handle`] what things are moved by; [`overlay`] draws them through a solved camera;
//! [`receiver`] turns the world to the axes of the program that it is handed to.

pub mod handle;
pub mod overlay;
pub mod receiver;
pub mod shapes;

pub use receiver::{Hand, LengthUnit, Receiver, Up};
