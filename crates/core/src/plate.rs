//! The plate's facts: frame rate as an exact fraction, film back, picture size.

use serde::{Deserialize, Serialize};
use std::fmt;
use std::str::FromStr;

/// Pictures per second as an exact fraction, in lowest terms; never a float.
#[derive(Clone, Copy, Debug, PartialEq, Eq, Serialize, Deserialize)]
#[serde(try_from = "String", into = "String")]
pub struct FrameRate {
    numerator: u32,
    denominator: u32,
}

/// Why a text is not a frame rate.
#[derive(Debug, thiserror::Error, PartialEq, Eq)]
pub enum FrameRateError {
    /// Not a whole number or a fraction of two whole numbers.
    #[error("`{0}` is not a frame rate; write a whole number or a fraction such as 24000/1001")]
    NotAFraction(String),
    /// Zero above or below the line, or more than 1000 pictures a second.
    #[error(
        "`{0}` is not a possible frame rate; it has to lie between 0 and 1000 pictures per second, 0 excluded"
    )]
    OutOfRange(String),
}

impl FrameRate {
    /// Stands for the rate of a photograph, which has none.
    pub const STILL: Self = Self {
        numerator: 1,
        denominator: 1,
    };

    /// A rate from numerator and denominator, reduced. `None` when either is zero or
    /// the rate exceeds 1000 pictures per second.
    pub fn new(numerator: u32, denominator: u32) -> Option<Self> {
        if numerator == 0
            || denominator == 0
            || f64::from(numerator) > 1000.0 * f64::from(denominator)
        {
            return None;
        }
        let divisor = greatest_common_divisor(numerator, denominator);
        Some(Self {
            numerator: numerator / divisor,
            denominator: denominator / divisor,
        })
    }

    /// The rate as a float, for playing and for display only.
    pub fn as_f64(self) -> f64 {
        f64::from(self.numerator) / f64::from(self.denominator)
    }

    /// So many milliseconds in frames.
    pub fn frames_in_ms(self, ms: f64) -> f64 {
        1e-3 * ms * self.as_f64()
    }

    /// So many frames in milliseconds.
    pub fn ms_in_frames(self, frames: f64) -> f64 {
        1e3 * frames / self.as_f64()
    }

    /// Numerator in lowest terms.
    pub fn numerator(self) -> u32 {
        self.numerator
    }

    /// Denominator in lowest terms.
    pub fn denominator(self) -> u32 {
        self.denominator
    }
}

fn greatest_common_divisor(a: u32, b: u32) -> u32 {
    if b == 0 {
        a
    } else {
        greatest_common_divisor(b, a % b)
    }
}

impl fmt::Display for FrameRate {
    fn fmt(&self, f: &mut fmt::Formatter<'_>) -> fmt::Result {
        if self.denominator == 1 {
            write!(f, "{}", self.numerator)
        } else {
            write!(f, "{}/{}", self.numerator, self.denominator)
        }
    }
}

impl FromStr for FrameRate {
    type Err = FrameRateError;

    fn from_str(text: &str) -> Result<Self, Self::Err> {
        let text = text.trim();
        let not_a_fraction = || FrameRateError::NotAFraction(text.to_owned());
        let (above, below) = text.split_once('/').unwrap_or((text, "1"));
        let numerator = above.trim().parse().map_err(|_| not_a_fraction())?;
        let denominator = below.trim().parse().map_err(|_| not_a_fraction())?;
        Self::new(numerator, denominator).ok_or_else(|| FrameRateError::OutOfRange(text.to_owned()))
    }
}

impl TryFrom<String> for FrameRate {
    type Error = FrameRateError;
    fn try_from(text: String) -> Result<Self, Self::Error> {
        text.parse()
    }
}

impl From<FrameRate> for String {
    fn from(rate: FrameRate) -> Self {
        rate.to_string()
    }
}

/// The size of the exposed sensor or film, mm.
#[derive(Clone, Copy, Debug, PartialEq, Serialize, Deserialize)]
pub struct FilmBack {
    /// Width in mm.
    pub width_mm: f64,
    /// Height in mm.
    pub height_mm: f64,
}

impl FilmBack {
    /// 36 mm wide, as high as the picture's shape asks for: what is assumed while nobody has said.
    pub fn assumed(width_px: u32, height_px: u32) -> Self {
        Self {
            width_mm: 36.0,
            height_mm: 36.0 * f64::from(height_px) / f64::from(width_px),
        }
    }

    /// Both sides finite and between 0.5 and 500 mm.
    pub fn is_plausible(&self) -> bool {
        [self.width_mm, self.height_mm]
            .iter()
            .all(|mm| mm.is_finite() && (0.5..=500.0).contains(mm))
    }

    /// The largest part of this film back that has the proportions of the picture.
    pub fn fitted(&self, width_px: u32, height_px: u32) -> Self {
        let shape = f64::from(height_px) / f64::from(width_px);
        let width_mm = self.width_mm.min(self.height_mm / shape);
        Self {
            width_mm,
            height_mm: width_mm * shape,
        }
    }

    /// Focal length in px of a focal length in mm on a picture `width_px` wide.
    pub fn focal_px(&self, focal_mm: f64, width_px: u32) -> f64 {
        focal_mm * f64::from(width_px) / self.width_mm
    }

    /// Focal length in mm of a focal length in px on a picture `width_px` wide.
    pub fn focal_mm(&self, focal_px: f64, width_px: u32) -> f64 {
        focal_px * self.width_mm / f64::from(width_px)
    }
}

#[cfg(test)]
mod tests {
    use super::*;
    use rstest::rstest;

    #[rstest]
    #[case::whole("24", 24, 1)]
    #[case::film("24000/1001", 24000, 1001)]
    #[case::reduced("50/2", 25, 1)]
    #[case::spaced(" 30000 / 1001 ", 30000, 1001)]
    fn a_rate_is_kept_exactly(
        #[case] text: &str,
        #[case] numerator: u32,
        #[case] denominator: u32,
    ) {
        let rate: FrameRate = text.parse().unwrap();
        assert_eq!(
            (rate.numerator(), rate.denominator()),
            (numerator, denominator)
        );
        assert_eq!(rate.to_string().parse::<FrameRate>().unwrap(), rate);
    }

    #[rstest]
    #[case::nothing_over_nothing("0/0")]
    #[case::zero("0")]
    #[case::over_zero("24/0")]
    #[case::a_float("23.976")]
    #[case::negative("-24")]
    #[case::words("film")]
    #[case::too_fast("1000001/1000")]
    fn what_is_no_rate_is_refused(#[case] text: &str) {
        assert!(text.parse::<FrameRate>().is_err());
    }

    #[rstest]
    #[case::wide(1920, 1080, 36.0, 20.25)]
    #[case::same(3000, 2000, 36.0, 24.0)]
    #[case::upright(2000, 3000, 16.0, 24.0)]
    fn a_picture_uses_what_it_can_of_the_film_back(
        #[case] width_px: u32,
        #[case] height_px: u32,
        #[case] width_mm: f64,
        #[case] height_mm: f64,
    ) {
        let fitted = FilmBack {
            width_mm: 36.0,
            height_mm: 24.0,
        }
        .fitted(width_px, height_px);
        assert!(
            (fitted.width_mm - width_mm).abs() < 1e-9
                && (fitted.height_mm - height_mm).abs() < 1e-9,
            "{fitted:?}"
        );
    }

    #[test]
    fn focal_length_converts_both_ways() {
        let back = FilmBack {
            width_mm: 24.0,
            height_mm: 13.5,
        };
        let focal_px = back.focal_px(28.0, 1920);
        assert!((focal_px - 2240.0).abs() < 1e-9);
        assert!((back.focal_mm(focal_px, 1920) - 28.0).abs() < 1e-12);
    }
}
