//! One photograph with its rails, as JSON: what `still` reads and the page hands out.
//!
//! ```json
//! {"width":2000,"height":1333,"film_back_mm":[36,24],
//!  "rails":[{"axis":"x","a":[210.5,900.0],"b":[880.0,760.25]}],
//!  "origin":[930,1100],
//!  "known_length":{"axis":"y","from":[860,880],"to":[862,395],"metres":2.04},
//!  "focal_mm":null,"solve_centre":false}
//! ```
//!
//! Positions are plate px, y down, the first pixel's centre at (0.5, 0.5).

use parallax_core::photo::{Flips, KnownLength, PhotoOptions, Placement, Rail};
use parallax_core::plate::FilmBack;
use parallax_core::spaces::PlatePx;
use serde::{Deserialize, Serialize};

/// A photograph and what was laid on it.
#[derive(Clone, Debug, Default, PartialEq, Serialize, Deserialize)]
#[serde(deny_unknown_fields)]
pub struct PhotoFile {
    /// Picture width, px.
    pub width: u32,
    /// Picture height, px.
    pub height: u32,
    /// Width and height of the film back, mm; 36 mm wide when left out.
    #[serde(default)]
    pub film_back_mm: Option<[f64; 2]>,
    /// The rails.
    #[serde(default)]
    pub rails: Vec<Rail>,
    /// The world's origin in the picture.
    #[serde(default)]
    pub origin: Option<[f64; 2]>,
    /// A length that is known.
    #[serde(default)]
    pub known_length: Option<KnownLength>,
    /// Focal length where it is known, mm.
    #[serde(default)]
    pub focal_mm: Option<f64>,
    /// Whether the centre of projection is found.
    #[serde(default)]
    pub solve_centre: bool,
    /// Axes that point the other way.
    #[serde(default)]
    pub flips: Flips,
}

/// Why a photo file cannot be used.
#[derive(Debug, thiserror::Error)]
pub enum PhotoFileError {
    /// Not the JSON that is expected.
    #[error("the photo file is not understood: {0}")]
    Syntax(#[from] serde_json::Error),
    /// A film back that is none.
    #[error(
        "the film back of {width_mm} x {height_mm} mm is none; both sides lie between 0.5 and 500 mm"
    )]
    FilmBack {
        /// Width.
        width_mm: f64,
        /// Height.
        height_mm: f64,
    },
}

impl PhotoFile {
    /// Reads and checks the film back; everything else is checked by the solve.
    pub fn read(text: &str) -> Result<Self, PhotoFileError> {
        let file: Self = serde_json::from_str(text)?;
        let back = file.film_back();
        if !back.is_plausible() {
            return Err(PhotoFileError::FilmBack {
                width_mm: back.width_mm,
                height_mm: back.height_mm,
            });
        }
        Ok(file)
    }

    /// The film back, stated or assumed.
    pub fn film_back(&self) -> FilmBack {
        self.film_back_mm.map_or_else(
            || FilmBack::assumed(self.width.max(1), self.height.max(1)),
            |[width_mm, height_mm]| FilmBack {
                width_mm,
                height_mm,
            },
        )
    }

    /// What is known and asked.
    pub fn options(&self) -> PhotoOptions {
        let focal_px = self
            .focal_mm
            .map(|mm| self.film_back().focal_px(mm, self.width));
        PhotoOptions {
            focal_px,
            solve_centre: self.solve_centre,
            flips: self.flips,
        }
    }

    /// Where the world is put.
    pub fn placement(&self) -> Placement {
        Placement {
            origin: self.origin.map(|[x, y]| PlatePx::new(x, y)),
            known: self.known_length,
        }
    }
}
