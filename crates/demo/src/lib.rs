//! The Aldermoor Observatory: plates rendered by a small ray caster, with known truth.
//!
//! A [`Take`] is a scene, a camera move, a lens and a look (grain, shutter). It can be
//! rendered frame by frame and states its own truth: the camera of every frame and points
//! on what stands still. The demo shots ship rendered; tests render what they need.
//!
//! Light is linear, the sun casts shadows, the sky lights from above. Textures are made of
//! noise that is cut off below the size of a pixel, so that there is detail down to the
//! pixel without flicker. The shutter is open for half a frame, centred on it.
#![cfg_attr(test, allow(clippy::unwrap_used))]

pub mod board;
pub mod compare;
pub mod court;
pub mod features;
pub mod lenses;
pub mod material;
pub mod motion;
pub mod noise;
pub mod orrery;
pub mod plates;
pub mod reading_room;
pub mod render;
pub mod scene;
pub mod shape;
pub mod take;
pub mod terrace;
pub mod trial;
pub mod valley;
pub mod wagon;

pub use take::{Look, Take};
