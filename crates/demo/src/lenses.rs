//! The two lenses of the Observatory's camera, for the demo's library.

use crate::terrace;
use parallax_core::camera::Intrinsics;
use parallax_core::lens::Distortion;
use parallax_formats::lens_json::{LensFile, LensLabel};

/// The wide one, with which `terrace-walk` was taken, and a longer one.
pub fn kept() -> [LensFile; 2] {
    let long = Intrinsics {
        distortion: Distortion::radial(-0.052, 0.011),
        ..Intrinsics::centred(1920, 1080, 2666.7)
    };
    [
        file(&terrace::take().lens, "Terrace", 27.0, "far"),
        file(&long, "Meridian", 50.0, "3 m"),
    ]
}

fn file(lens: &Intrinsics, name: &str, focal_mm: f64, focus: &str) -> LensFile {
    let label = LensLabel {
        body: "Aldermoor field camera".to_owned(),
        lens: name.to_owned(),
        focal_mm: Some(focal_mm),
        focus: focus.to_owned(),
    };
    LensFile {
        label: Some(label),
        ..LensFile::of(lens)
    }
}
