//! The lens of what an artist marks or states, whichever of the two it is.

use parallax_core::camera::Intrinsics;
use parallax_core::lens::stated::{StatedError, StatedLens, stated};
use parallax_core::lens::straights::{LensError, SolvedLens, solve_straights};
use parallax_store::lens::{LensSource, LensState};

/// Why what is marked or stated gives no lens.
#[derive(Clone, Debug, PartialEq, thiserror::Error)]
pub enum NoLens {
    /// The straights do not give one.
    #[error(transparent)]
    Straights(#[from] LensError),
    /// The values do not.
    #[error(transparent)]
    Values(#[from] StatedError),
}

/// A lens with where it comes from.
#[derive(Clone, Debug)]
pub enum FoundLens {
    /// From straights.
    Solved(Box<SolvedLens>),
    /// From values.
    Stated(StatedLens),
}

impl FoundLens {
    /// The lens in our convention.
    pub fn lens(&self) -> Intrinsics {
        match self {
            Self::Solved(solved) => solved.lens,
            Self::Stated(stated) => stated.lens,
        }
    }
}

/// The lens of a picture of this size, `None` where nothing is marked nor stated. Without a stated
/// unit of the radius, `focal_px` is taken, or the width.
pub fn of(
    state: &LensState,
    width_px: u32,
    height_px: u32,
    focal_px: Option<f64>,
) -> Option<Result<FoundLens, NoLens>> {
    if state.is_empty() {
        return None;
    }
    Some(match state.source {
        LensSource::Straights => {
            let options = state.options(focal_px);
            solve_straights(width_px, height_px, &state.marks(), &options)
                .map(|s| FoundLens::Solved(Box::new(s)))
                .map_err(NoLens::from)
        }
        LensSource::Values => {
            let typed = state.typed(width_px, height_px, focal_px);
            stated(&typed, state.values.convention)
                .map(FoundLens::Stated)
                .map_err(NoLens::from)
        }
    })
}
