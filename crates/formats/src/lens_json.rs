//! A lens and the straights it was found from, as JSON: what `lens` reads and writes.
//!
//! ```json
//! {"width":1920,"height":1080,"straights":[[[12.5,40.0],[600.0,31.2],[1800.0,44.0]]],
//!  "terms":2,"tangential":false,"centre":"fixed","focal_px":null}
//! ```
//!
//! Positions are plate px, y down, the first pixel's centre at (0.5, 0.5). Terms map undistorted
//! to distorted lens coordinates, (px - centre) / `focal_px`; they hold for that focal length
//! only, so it is always stated in the lens file. When it is not given it is the width.

use parallax_core::camera::Intrinsics;
use parallax_core::lens::Distortion;
use parallax_core::lens::straights::{Centre, LensOptions, SolvedLens, Straightness, Wanting};
use parallax_core::spaces::{FrameNumber, PlatePx};
use serde::{Deserialize, Serialize};

/// The value of the key `schema` of a lens file.
pub const SCHEMA: &str = "true-parallax/lens@1";

/// Radial and tangential terms.
#[derive(Clone, Copy, Debug, PartialEq, Serialize, Deserialize)]
pub struct BrownTerms {
    /// r².
    pub k1: f64,
    /// r⁴.
    pub k2: f64,
    /// r⁶.
    #[serde(default)]
    pub k3: f64,
    /// Tangential.
    #[serde(default)]
    pub p1: f64,
    /// Tangential.
    #[serde(default)]
    pub p2: f64,
}

impl From<BrownTerms> for Distortion {
    fn from(BrownTerms { k1, k2, k3, p1, p2 }: BrownTerms) -> Self {
        Self {
            k1,
            k2,
            k3,
            p1,
            p2,
            ..Self::NONE
        }
    }
}

impl From<Distortion> for BrownTerms {
    fn from(terms: Distortion) -> Self {
        let Distortion {
            k1, k2, k3, p1, p2, ..
        } = terms;
        Self { k1, k2, k3, p1, p2 }
    }
}

/// Marks along straight things, and what to solve from them.
#[derive(Clone, Debug, PartialEq, Serialize, Deserialize)]
#[serde(deny_unknown_fields)]
pub struct StraightsFile {
    /// Picture width, px.
    pub width: u32,
    /// Picture height, px.
    pub height: u32,
    /// Points along each straight.
    pub straights: Vec<Vec<[f64; 2]>>,
    /// Radial terms, 1 to 3.
    #[serde(default = "two")]
    pub terms: usize,
    /// Whether tangential terms are solved.
    #[serde(default)]
    pub tangential: bool,
    /// `fixed` in the middle, or `free`.
    #[serde(default)]
    pub centre: Centre,
    /// Focal length that the terms refer to, px; the width when left out.
    #[serde(default)]
    pub focal_px: Option<f64>,
}

fn two() -> usize {
    2
}

/// A lens of a picture size.
#[derive(Clone, Debug, PartialEq, Serialize, Deserialize)]
pub struct LensFile {
    /// Always [`SCHEMA`].
    pub schema: String,
    /// Picture width, px.
    pub width: u32,
    /// Picture height, px.
    pub height: u32,
    /// Focal length that the terms refer to, px.
    pub focal_px: f64,
    /// Centre of distortion, px.
    pub centre: [f64; 2],
    /// The terms.
    #[serde(flatten)]
    pub terms: BrownTerms,
    /// What it is called in a library.
    #[serde(default, skip_serializing_if = "Option::is_none")]
    pub label: Option<LensLabel>,
    /// How it was found, where it was found from straights.
    #[serde(default, skip_serializing_if = "Option::is_none")]
    pub evidence: Option<Evidence>,
    /// Along a zoom, what differs by frame.
    #[serde(default, skip_serializing_if = "Vec::is_empty")]
    pub frames: Vec<ZoomedLens>,
}

/// The lens on one frame of a zoom.
#[derive(Clone, Copy, Debug, PartialEq, Serialize, Deserialize)]
pub struct ZoomedLens {
    /// The frame.
    pub frame: i32,
    /// Its focal length, px.
    pub focal_px: f64,
    /// Its k1.
    pub k1: f64,
}

/// What tells a kept lens from others.
#[derive(Clone, Debug, Default, PartialEq, Serialize, Deserialize)]
#[serde(default, deny_unknown_fields)]
pub struct LensLabel {
    /// Camera body.
    pub body: String,
    /// Name of the lens.
    pub lens: String,
    /// Focal length, mm, where it is known.
    pub focal_mm: Option<f64>,
    /// How it was focused.
    pub focus: String,
}

impl LensLabel {
    /// In one line.
    pub fn text(&self) -> String {
        let focal = self.focal_mm.map(|mm| format!("{mm} mm"));
        let parts = [
            Some(self.body.clone()),
            Some(self.lens.clone()),
            focal,
            Some(self.focus.clone()),
        ];
        parts
            .into_iter()
            .flatten()
            .filter(|p| !p.is_empty())
            .collect::<Vec<_>>()
            .join(" · ")
    }
}

/// What a lens was found from and how certain it is.
#[derive(Clone, Debug, PartialEq, Serialize, Deserialize)]
pub struct Evidence {
    /// Root mean square distance of all marks from straight, px.
    pub rms_px: BeforeAfter,
    /// Standard errors of the terms; 0 for those that were not solved.
    pub sigma: Distortion,
    /// Standard errors of the centre, px, where it was free.
    pub centre_sigma_px: Option<[f64; 2]>,
    /// Error of a mark, px per coordinate, as what is left tells it.
    pub mark_sigma_px: f64,
    /// Distance from the centre up to which the plate can be undistorted, px; null when everywhere.
    pub valid_radius_px: Option<f64>,
    /// Straight by straight, in the order of the marks.
    pub straights: Vec<BeforeAfter>,
    /// The straight that is least straight now, the first is 1.
    pub worst_straight: usize,
    /// What would draw the straights better than chance explains, in words, where anything would.
    #[serde(default, skip_serializing_if = "Option::is_none")]
    pub calls_for: Option<String>,
}

/// A distance before and after the lens is known, px.
#[derive(Clone, Copy, Debug, PartialEq, Serialize, Deserialize)]
pub struct BeforeAfter {
    /// As marked.
    pub before: f64,
    /// With the lens.
    pub after: f64,
}

/// Why a file is not read.
#[derive(Debug, thiserror::Error)]
pub enum LensFileError {
    /// Not JSON of this shape.
    #[error("the file is not understood: {0}")]
    Json(#[from] serde_json::Error),
    /// Another schema.
    #[error("the lens file says schema `{0}`; `true-parallax/lens@1` is what can be read")]
    Schema(String),
    /// A value that no lens has.
    #[error("the lens file states {0} out of range")]
    OutOfRange(&'static str),
}

impl StraightsFile {
    /// Reads a file; the solve checks the marks.
    pub fn read(text: &str) -> Result<Self, LensFileError> {
        Ok(serde_json::from_str(text)?)
    }

    /// The marks.
    pub fn marks(&self) -> Vec<Vec<PlatePx>> {
        let mark = |[x, y]: &[f64; 2]| PlatePx::new(*x, *y);
        self.straights
            .iter()
            .map(|s| s.iter().map(mark).collect())
            .collect()
    }

    /// What is solved.
    pub fn options(&self) -> LensOptions {
        LensOptions {
            terms: self.terms,
            tangential: self.tangential,
            centre: self.centre,
            focal_px: self.focal_px,
        }
    }
}

impl LensFile {
    /// A lens without evidence.
    pub fn of(lens: &Intrinsics) -> Self {
        Self {
            schema: SCHEMA.to_owned(),
            width: lens.width_px,
            height: lens.height_px,
            focal_px: lens.focal_px,
            centre: [lens.centre.x, lens.centre.y],
            terms: lens.distortion.into(),
            label: None,
            evidence: None,
            frames: Vec::new(),
        }
    }

    /// That of a plate along a zoom, frames numbered higher by so many.
    pub fn along(
        lens: &Intrinsics,
        frames: &[(FrameNumber, Intrinsics)],
        renumbered_by: i32,
    ) -> Self {
        let zoomed = |(frame, lens): &(FrameNumber, Intrinsics)| ZoomedLens {
            frame: frame.0.saturating_add(renumbered_by),
            focal_px: lens.focal_px,
            k1: lens.distortion.k1,
        };
        Self {
            frames: frames.iter().map(zoomed).collect(),
            ..Self::of(lens)
        }
    }

    /// A lens that was found from straights.
    pub fn solved(solved: &SolvedLens) -> Self {
        let each = |s: &Straightness| BeforeAfter {
            before: s.before_px,
            after: s.after_px,
        };
        let evidence = Evidence {
            rms_px: BeforeAfter {
                before: solved.rms_before_px,
                after: solved.rms_after_px,
            },
            sigma: solved.sigma,
            centre_sigma_px: solved.centre_sigma_px,
            mark_sigma_px: solved.mark_sigma_px,
            valid_radius_px: solved
                .valid_radius_px
                .is_finite()
                .then_some(solved.valid_radius_px),
            straights: solved.straights.iter().map(each).collect(),
            worst_straight: solved.worst + 1,
            calls_for: None,
        };
        Self {
            evidence: Some(evidence),
            ..Self::of(&solved.lens)
        }
    }

    /// The same with what would draw the straights better.
    pub fn calling_for(mut self, wanting: Option<&Wanting>) -> Self {
        if let Some(evidence) = &mut self.evidence {
            evidence.calls_for = wanting.map(|w| w.by.to_string());
        }
        self
    }

    /// Reads and checks a file.
    pub fn read(text: &str) -> Result<Self, LensFileError> {
        let file: Self = serde_json::from_str(text)?;
        if file.schema != SCHEMA {
            return Err(LensFileError::Schema(file.schema));
        }
        let bad = |what| Err(LensFileError::OutOfRange(what));
        if !(2..=100_000).contains(&file.width) || !(2..=100_000).contains(&file.height) {
            return bad("a picture size");
        }
        if !(file.focal_px.is_finite() && (1.0..1e7).contains(&file.focal_px)) {
            return bad("a focal length");
        }
        if !file.centre.iter().all(|c| c.is_finite() && c.abs() < 1e6) {
            return bad("a centre");
        }
        let BrownTerms { k1, k2, k3, p1, p2 } = file.terms;
        if ![k1, k2, k3, p1, p2]
            .iter()
            .all(|k| k.is_finite() && k.abs() < 1e3)
        {
            return bad("a term");
        }
        Ok(file)
    }

    /// The lens for a picture of another size from the same film back. `None` where the
    /// proportions differ.
    pub fn lens_for(&self, width_px: u32, height_px: u32) -> Option<Intrinsics> {
        let (across, down) = (
            f64::from(width_px) / f64::from(self.width),
            f64::from(height_px) / f64::from(self.height),
        );
        let lens = self.lens();
        let centre = PlatePx::new(lens.centre.x * across, lens.centre.y * down);
        let fits = (across / down - 1.0).abs() < 0.005;
        fits.then_some(Intrinsics {
            width_px,
            height_px,
            focal_px: lens.focal_px * across,
            centre,
            ..lens
        })
    }

    /// The lens.
    pub fn lens(&self) -> Intrinsics {
        Intrinsics {
            width_px: self.width,
            height_px: self.height,
            focal_px: self.focal_px,
            centre: PlatePx::new(self.centre[0], self.centre[1]),
            distortion: self.terms.into(),
        }
    }
}

#[cfg(test)]
mod tests {
    use super::*;
    use rstest::rstest;

    #[test]
    fn a_lens_is_read_back_as_written() {
        let lens = Intrinsics {
            distortion: Distortion {
                k1: -0.1,
                k2: 0.02,
                k3: 0.0,
                p1: 1e-4,
                p2: -2e-4,
                ..Distortion::NONE
            },
            ..Intrinsics::centred(1920, 1080, 1800.0)
        };
        let text = serde_json::to_string(&LensFile::of(&lens)).unwrap();
        assert_eq!(LensFile::read(&text).unwrap().lens(), lens);
    }

    #[rstest]
    #[case::other_schema(
        r#"{"schema":"x","width":10,"height":10,"focal_px":10,"centre":[5,5],"k1":0,"k2":0}"#
    )]
    #[case::no_focal(
        r#"{"schema":"true-parallax/lens@1","width":10,"height":10,"focal_px":0,"centre":[5,5],"k1":0,"k2":0}"#
    )]
    #[case::huge_term(
        r#"{"schema":"true-parallax/lens@1","width":10,"height":10,"focal_px":10,"centre":[5,5],"k1":1e9,"k2":0}"#
    )]
    #[case::cut_off(r#"{"schema":"true-parallax/lens@1","width":10"#)]
    fn what_is_no_lens_is_refused(#[case] text: &str) {
        assert!(LensFile::read(text).is_err());
    }

    #[test]
    fn two_terms_about_the_middle_are_the_default() {
        let file = StraightsFile::read(r#"{"width":10,"height":10,"straights":[]}"#).unwrap();
        assert_eq!(file.options(), LensOptions::default());
        assert!(
            StraightsFile::read(r#"{"width":10,"height":10,"straights":[],"term":2}"#).is_err()
        );
    }
}
