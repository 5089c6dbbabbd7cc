//! One photograph: solved on every request from what lies on it, which takes about a
//! millisecond, so that nothing needs to be kept but what the artist laid.

use super::drawn::{Drawn, Pull, drawn};
use super::figures::{CameraFigures, camera};
use crate::said::finding::{Finding, Remedy, finding};
use crate::said::words::{capital, sentence};
use crate::shot::facts;
use parallax_core::photo::perspective::{Perspective, VanishingPoint};
use parallax_core::photo::stated::{Offer, StatedFinding, against_rails, weigh};
use parallax_core::photo::{PhotoFinding, PhotoOptions, Placement, findings, place, solve};
use parallax_core::spaces::PlatePx;
use parallax_store::photo::PhotoState;
use parallax_store::shots::Shot;
use parallax_store::state::FocalFact;
use serde::Serialize;
use serde_json::json;

/// What is made of what lies on a photograph.
#[derive(Debug, Serialize)]
pub struct Answer {
    /// Why there is no camera.
    #[serde(skip_serializing_if = "Option::is_none")]
    pub error: Option<String>,
    pub findings: Vec<Finding>,
    #[serde(flatten)]
    pub camera: Option<Solved>,
}

/// The camera with everything that is drawn with it.
#[derive(Debug, Serialize)]
pub struct Solved {
    pub figures: CameraFigures,
    /// Signed miss of each rail, px.
    miss_px: Vec<f64>,
    /// Index of the rail that misses most.
    worst: usize,
    vanishing: Vec<VanishingPoint>,
    /// a, b, c with a x + b y + c = 0 on it, plate px.
    horizon: Option<[f64; 3]>,
    /// Why it does not stand where it should.
    #[serde(skip_serializing_if = "Option::is_none")]
    pub place_error: Option<String>,
    #[serde(skip_serializing_if = "Option::is_none")]
    pub placed: Option<Drawn>,
}

impl Answer {
    /// Whether it stands in metres.
    pub fn is_scaled(&self) -> bool {
        let placed = self.camera.as_ref().and_then(|c| c.placed.as_ref());
        placed.is_some_and(|p| p.scaled)
    }
}

pub(super) fn options(shot: &Shot, photo: &PhotoState) -> PhotoOptions {
    PhotoOptions {
        focal_px: facts::stated_focal_px(shot),
        solve_centre: photo.solve_centre,
        flips: photo.flips,
    }
}

pub(super) fn point([x, y]: [f64; 2]) -> PlatePx {
    PlatePx::new(x, y)
}

pub(super) fn placement(photo: &PhotoState) -> Placement {
    Placement {
        origin: photo.origin.map(point),
        known: photo.known,
    }
}

/// Camera, figures, findings and everything that is drawn, for rails that may still be
/// under the pointer.
pub fn answer(shot: &Shot, photo: &PhotoState, pull: Option<Pull>) -> Answer {
    let (options, rails) = (options(shot, photo), photo.rails.plain());
    let perspective = match solve(shot.width_px, shot.height_px, &rails, &options) {
        Ok(perspective) => perspective,
        Err(error) => {
            return Answer {
                error: Some(sentence(error)),
                findings: stated(shot, None),
                camera: None,
            };
        }
    };
    let said = findings::findings(&rails, &options, &perspective);
    let said = said.iter().map(told);
    let findings = said.chain(stated(shot, Some(&perspective))).collect();
    let placed = place(&perspective, &placement(photo));
    let place_error = placed
        .as_ref()
        .err()
        .map(|error| capital(&error.to_string()));
    // An impossible length must not take the ground away.
    let unscaled = Placement {
        known: None,
        ..placement(photo)
    };
    let placed = placed.or_else(|_| place(&perspective, &unscaled)).ok();
    let placed = placed.map(|placed| drawn(shot, photo, pull, &perspective, &placed));
    Answer {
        error: None,
        findings,
        camera: Some(Solved {
            figures: camera(shot, &perspective),
            miss_px: perspective.miss_px,
            worst: perspective.worst,
            vanishing: perspective.vanishing,
            horizon: perspective.horizon,
            place_error,
            placed,
        }),
    }
}

/// What the file says of its camera, and whether rails agree; the offer is the remedy.
fn stated(shot: &Shot, perspective: Option<&Perspective>) -> Vec<Finding> {
    let Some(stated) = &shot.plate.stated else {
        return Vec::new();
    };
    let (offer, said) = weigh(stated, shot.width_px, shot.height_px);
    let rails = offer.zip(perspective.filter(|_| shot.state.focal == FocalFact::Unknown));
    let disagree = rails
        .and_then(|(o, p)| against_rails(&o, shot.width_px, p.focal_px.value, p.focal_px.sigma));
    let taken = |o: &Offer| {
        shot.state.film_back == Some(o.film_back) && shot.state.focal == FocalFact::Mm(o.focal_mm)
    };
    let wanted =
        |said: &StatedFinding| *said != StatedFinding::Absent || shot.state.film_back.is_none();
    said.into_iter()
        .filter(wanted)
        .chain(disagree)
        .map(|said| {
            let level = match said {
                StatedFinding::Offered { .. } | StatedFinding::Turned { .. } => "ok",
                _ => "warn",
            };
            let offered = matches!(said, StatedFinding::Offered { .. });
            let remedy = offer.filter(|o| offered && !taken(o)).map(|o| Remedy {
                label: "Take film back and focal length",
                edit: json!({ "film_back": o.film_back, "focal": { "mm": o.focal_mm } }),
                things: None,
                work: None,
            });
            finding("plate", level, sentence(said)).mended_by(remedy)
        })
        .collect()
}

fn told(said: &PhotoFinding) -> Finding {
    let level = if said.is_doubt() { "warn" } else { "ok" };
    let remedy = match said {
        PhotoFinding::Cropped { solved: false, .. } => {
            let edit = json!({ "photo": { "solve_centre": true } });
            Some(Remedy {
                label: "Free the centre",
                edit,
                things: None,
                work: None,
            })
        }
        _ => None,
    };
    finding("rails", level, said.to_string()).mended_by(remedy)
}
