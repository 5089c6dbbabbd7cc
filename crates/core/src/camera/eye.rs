//! A camera as a whole.

use super::{Intrinsics, Pose};

/// How a camera draws and where it stands.
#[derive(Clone, Copy, Debug)]
pub struct Eye {
    /// How it draws.
    pub lens: Intrinsics,
    /// Where it stands.
    pub pose: Pose,
}
