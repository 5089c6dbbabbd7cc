//! A lens that is stated by its values instead of being solved: which lens is it in our convention,
//! and can it be one of this picture?

use super::convert::{Convention, ConvertError, check_tame, from_older};
use crate::camera::Intrinsics;

/// Why values give no lens.
#[derive(Clone, Debug, PartialEq, thiserror::Error)]
pub enum StatedError {
    /// The values cannot be a lens, or those of the older convention cannot be restated.
    #[error(transparent)]
    Convert(#[from] ConvertError),
    /// The values fold the picture.
    #[error(
        "these values fold the picture {fold_px:.0} px from the centre, before its corner at {corner_px:.0} px; check them and the unit of the radius"
    )]
    Folds {
        /// Distance at which the map turns back, px.
        fold_px: f64,
        /// Distance of the farthest corner, px.
        corner_px: f64,
    },
}

/// A lens from values.
#[derive(Clone, Copy, Debug, PartialEq)]
pub struct StatedLens {
    /// The lens in our convention.
    pub lens: Intrinsics,
    /// Largest error of the conversion, px, where the values are of the older convention.
    pub converted_px: Option<f64>,
}

/// The lens of values as they were `typed`; radii are in units of its focal length.
pub fn stated(typed: &Intrinsics, convention: Convention) -> Result<StatedLens, StatedError> {
    check_tame(typed)?;
    let (lens, converted_px) = match convention {
        Convention::UndistortedToDistorted => (*typed, None),
        Convention::DistortedToUndistorted => {
            let ours = from_older(typed)?;
            let lens = Intrinsics {
                distortion: ours.terms,
                ..*typed
            };
            (lens, Some(ours.largest_px))
        }
    };
    let (fold_px, corner_px) = (lens.fold_px(), lens.farthest_corner_px());
    if fold_px < corner_px {
        return Err(StatedError::Folds { fold_px, corner_px });
    }
    Ok(StatedLens { lens, converted_px })
}

#[cfg(test)]
mod tests {
    use super::*;
    use crate::lens::Distortion;
    use rstest::rstest;

    const OURS: Convention = Convention::UndistortedToDistorted;
    const OLDER: Convention = Convention::DistortedToUndistorted;

    #[rstest]
    #[case::ours(OURS, -0.1, "as typed")]
    #[case::older(OLDER, 0.1, "restated")]
    #[case::folding(OURS, -1.4, "folds")]
    #[case::folding_older(OLDER, -1.4, "not convertible")]
    #[case::wild(OURS, 900.0, "not convertible")]
    fn values_are_a_lens_or_say_why_not(
        #[case] convention: Convention,
        #[case] k1: f64,
        #[case] outcome: &str,
    ) {
        let typed = Intrinsics {
            distortion: Distortion::radial(k1, 0.0),
            ..Intrinsics::centred(1920, 1080, 1920.0)
        };
        let found = match stated(&typed, convention) {
            Ok(StatedLens {
                lens,
                converted_px: None,
            }) if lens == typed => "as typed",
            // Undone the other way round, the sign of the first term turns.
            Ok(StatedLens {
                lens,
                converted_px: Some(px),
            }) if px < 1.0 && lens.distortion.k1 < 0.0 => "restated",
            Ok(_) => "another",
            Err(StatedError::Folds { fold_px, corner_px }) if fold_px < corner_px => "folds",
            Err(StatedError::Folds { .. }) => "folds beyond",
            Err(StatedError::Convert(_)) => "not convertible",
        };
        assert_eq!(found, outcome);
    }
}
