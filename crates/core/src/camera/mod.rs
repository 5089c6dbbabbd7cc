//! What a camera is: where it stands ([`Pose`]) and how it draws ([`Intrinsics`]).
//!
//! A world point X is seen at
//! `px = centre + focal_px * distort(X_c.x / -X_c.z, -X_c.y / -X_c.z)` with
//! `X_c = camera_from_world * X`.

mod eye;
mod intrinsics;
mod pose;
pub mod registration;
mod similarity;

pub use eye::Eye;
pub use intrinsics::Intrinsics;
pub use pose::Pose;
pub use similarity::Similarity;
