//! What do guests look like through the solved camera?
//!
//! Rays leave the eye of a frame through the lens as it bends, at moments of the open shutter and of the row that
//! they are on; what they meet is lit by a sun and a sky. Where they meet the set instead (a plane that catches
//! shadows) the plate is darkened by as much light as guests keep off it, and where a part of the set that is solid
//! lies before a guest, nothing is drawn. What comes out is laid over the plate.
//!
//! Colours are linear light throughout; one sample a ray, stratified over the pixel, the shutter, the sun's disc and
//! the sky alike, the same on every frame, so that noise does not flicker.
//!
//! - [`traced`], [`surface`]: rays against the triangles of a mesh, and its colour there.
//! - [`light`]: sun and sky. - [`set`]: what of the set catches shadows and hides guests.
//! - [`shutter`]: cameras within an exposure. - [`touched`]: px that guests can touch at all.
//! - [`frame`]: a picture. - [`over`]: laid over the plate, with the frame's number.
//!
//! Sources: ray and triangle after Möller and Trumbore (1997); a hierarchy of boxes built by locally ordered
//! clustering (Meister and Bittner 2018); highlights after Blinn (1977).

pub mod frame;
pub mod light;
pub mod over;
pub mod set;
pub mod shutter;
pub mod surface;
pub mod touched;
pub mod traced;

pub use frame::{Drawn, Quality, Scene, Shown, draw};
pub use light::{Light, Sun};
pub use set::Piece;
pub use shutter::Cameras;
pub use traced::Traced;
