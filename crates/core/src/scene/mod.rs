//! Putting the solved world where it belongs, and things into it.
//!
//! [`orient`] finds the change of world from what the artist picked; [`shapes`] makes the
//! ground grid and stand-ins in metres; [`overlay`] draws them through a solved camera.

pub mod orient;
pub mod overlay;
pub mod shapes;

pub use orient::{OrientError, Orientation, Picks, orient};
pub use shapes::StandIn;
