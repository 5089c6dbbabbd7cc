//! Putting the solved world where it belongs, and things into it.
//!
//! [`orient`] finds the change of world from what the artist picked; [`shapes`] makes the
//! ground grid and stand-ins in metres; [`overlay`] draws them through a solved camera; [`receiver`] turns the
//! world to the axes of the program that it is handed to.

pub mod orient;
pub mod overlay;
pub mod receiver;
pub mod shapes;

pub use orient::{OrientError, Orientation, Picks, orient, oriented};
pub use receiver::{Hand, Receiver, Up};
pub use shapes::StandIn;
