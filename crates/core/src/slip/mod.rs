//! How far will CG slip against the plate, and what would lessen it?
//!
//! Cameras and lens are known to their joint covariance ([`crate::solve::information`]). CG that stands at a place
//! is drawn through them; how far it is drawn off on each frame follows from that covariance. What is common to all
//! frames is no slip: wherever CG was placed by eye or by a landmark, its place absorbs the best motion of a
//! place that stands still, which is taken out (by projection, as in [`mod@forecast`]). What is left is what an eye
//! sees move.
//!
//! The forecast rests on the solve being right: a lens that was never solved or a mover taken for the scene slip as well.
//!
//! - [`joint`]: the covariance of some cameras and the lens together.
//! - [`mod@forecast`]: slip of a place by frame, and over the picture at a distance.
//! - [`mod@reel`]: crops about a place, frame by frame, and the slip that is measured there.
//! - [`advice`]: what one more track or a known focal length would do.

pub mod advice;
pub mod forecast;
pub mod joint;
pub mod reel;

pub use advice::{Advice, advice};
pub use forecast::{Field, NoForecast, Slip, field, forecast};
pub use joint::Joint;
pub use reel::{Reel, framings, reel, surface};
