//! The camera of one photograph, from perspective.
//!
//! 1. The artist lays [`Rail`]s along edges that run with the axes of the scene, or takes
//!    those that [`suggest`] offers; [`settle`] moves a rail on to the picture's own edge.
//! 2. [`perspective`] finds rotation, focal length and, on request, the centre of projection
//!    that fit all rail ends best, with standard errors; [`start`] gives it a beginning.
//! 3. [`findings`] says what the evidence lacks.
//! 4. [`place`] puts the origin, the scale and measured lengths into the world.
//!
//! [`checks`] holds the result against the picture: grid and box. [`stated`] weighs what the file itself says of its camera.
//!
//! World: right-handed, Y up. The X axis runs to the right in the picture and Y upwards
//! unless a [`Flips`] says otherwise. With one photograph nothing tells a turn of the world by
//! half a circle from none, so the signs are a choice, not a result.

pub mod checks;
pub mod findings;
pub mod perspective;
pub mod place;
pub mod rails;
pub mod segments;
pub mod settle;
pub mod start;
pub mod stated;
pub mod suggest;

pub use checks::{CornerBox, GridPlane};
pub use findings::PhotoFinding;
pub use perspective::{Perspective, PhotoOptions, solve};
pub use place::{KnownLength, Placed, Placement, place};
pub use rails::{Axis, Flips, Rail};

/// Why a photograph gives no camera.
#[derive(Clone, Debug, PartialEq, thiserror::Error)]
pub enum PhotoError {
    /// There are no rails, or one on each axis.
    #[error(
        "{} of the three directions has two rails or more; a camera needs two or more rails in each of two directions, or in one when the focal length is stated",
        if *axes_with_two == 0 { "none" } else { "only one" }
    )]
    TooFewRails {
        /// Axes with two rails or more.
        axes_with_two: usize,
    },
    /// One axis only and no focal length.
    #[error("only {axis} rails are laid; lay two of another direction, or state the focal length")]
    OneAxis {
        /// The axis.
        axis: Axis,
    },
    /// A rail has no length.
    #[error("rail {rail} has no length; drag its ends apart")]
    NoLength {
        /// Its number, from 1.
        rail: usize,
    },
    /// A number is not one.
    #[error("rail {rail} has an end that is not a place in or near the picture")]
    NotAPlace {
        /// Its number, from 1.
        rail: usize,
    },
    /// Nothing converges.
    #[error(
        "all rails are parallel in the picture, so nothing tells the focal length; lay rails of a direction that recedes, or state the focal length"
    )]
    AllParallel,
    /// The families contradict each other.
    #[error(
        "the directions cannot be square to each other at any focal length: {worse}. Check that each rail is of its own direction, free the centre if the picture is cropped, or state the focal length"
    )]
    NoRealFocal {
        /// Which families.
        worse: String,
    },
    /// The centre was to be found from too little.
    #[error(
        "the centre of projection needs rails of three directions; lay two of the third, or keep the centre in the middle"
    )]
    CentreNeedsThreeAxes,
    /// Rails of one family cross between their ends.
    #[error(
        "{axis} rails {first} and {second} cross inside the picture between their ends: edges that run the same way cannot. One of them runs another way"
    )]
    CrossingRails {
        /// Axis.
        axis: Axis,
        /// Number of the one, from 1.
        first: usize,
        /// Number of the other.
        second: usize,
    },
    /// A value makes no sense.
    #[error("the {what} is {value}; it has to be {range}")]
    OutOfRange {
        /// Which value.
        what: &'static str,
        /// What was given.
        value: f64,
        /// What it may be.
        range: &'static str,
    },
    /// The origin has no ground under it.
    #[error(
        "the origin lies on or above the horizon, where the ground never comes; put it on a point of the ground below the horizon line"
    )]
    OriginAboveHorizon,
    /// A point that has to be on the ground is not.
    #[error(
        "the {what} lies on or above the horizon, where the ground never comes; put it on a point of the ground"
    )]
    NotOnGround {
        /// Which point.
        what: &'static str,
    },
    /// A known length that shows as nothing.
    #[error(
        "the known length shows as {shown_px:.1} px in its direction; put its ends apart, {along}"
    )]
    LengthNotSeen {
        /// How long it shows, px.
        shown_px: f64,
        /// What it should run along.
        along: String,
    },
}
