//! The patch reel: crops about the projection of a place, and the slip that is measured there; kept as a finding.

use super::at::{At, NO_PLACE, none};
use crate::app::App;
use crate::error::ApiError;
use crate::said::words::short;
use crate::shot::world::current_world;
use actix_web::{HttpResponse, web};
use nalgebra::{Vector2, Vector3};
use parallax_core::camera::Eye;
use parallax_core::slip::reel::Crop;
use parallax_core::slip::{Reel, framings, reel, surface};
use parallax_core::spaces::FrameNumber;
use parallax_store::attempts::KeptAttempt;
use parallax_store::slips::MeasuredSlip;
use serde::Deserialize;
use serde_json::{Value, json};
use std::sync::Arc;

/// A place, how large crops are, and from which frame it is looked at.
#[derive(Deserialize)]
#[serde(deny_unknown_fields)]
pub struct Asked {
    track: Option<u32>,
    x: Option<f64>,
    y: Option<f64>,
    z: Option<f64>,
    /// Side of a crop, px of the reference.
    side: Option<usize>,
    /// The reference; the frame nearest to it that has the place in the picture.
    frame: Option<i32>,
}

/// Sides of crops, px, and the usual one.
const SIDES: std::ops::RangeInclusive<usize> = 15..=81;
const USUAL_SIDE: usize = 41;
/// Most frames that are cropped, spread over all.
const MOST_FRAMES: usize = 48;
/// Slip below this is not worth a sentence, px, nor what is less than so many standard errors.
const WORTH_PX: f64 = 0.15;
const WORTH_SIGMAS: f64 = 3.0;

/// A reel of a place, and what it was made of.
struct Measured {
    kept: Arc<KeptAttempt>,
    /// In the solve's own world.
    place: Vector3<f64>,
    reel: Reel,
    reference: FrameNumber,
    stride: usize,
}

/// Crops about a place with the slip that is measured on each.
pub async fn reel_of(
    app: web::Data<App>,
    shot: web::Path<i64>,
    asked: web::Query<Asked>,
) -> Result<HttpResponse, ApiError> {
    Ok(match measured(&app, *shot, &asked).await? {
        Err(why) => none(why),
        Ok(measured) => HttpResponse::Ok().json(told(&measured)),
    })
}

/// The same, kept as a finding of the current attempt.
pub async fn measure(
    app: web::Data<App>,
    shot: web::Path<i64>,
    asked: web::Json<Asked>,
) -> Result<HttpResponse, ApiError> {
    let measured = match measured(&app, *shot, &asked).await? {
        Err(why) => return Ok(none(why)),
        Ok(measured) => measured,
    };
    let Measured {
        kept, place, reel, ..
    } = &measured;
    let alike = reel.crops.iter().filter(|c| c.slip.is_some()).count();
    let slip = MeasuredSlip {
        track: asked.track,
        place: (*place).into(),
        crops: u32::try_from(alike).unwrap_or(u32::MAX),
        rms_px: reel.rms_px,
        worst: worst(reel).map(|(a, b, px)| (a.0, b.0, px)),
    };
    app.store.keep_slip(kept.id, &slip).await?;
    Ok(HttpResponse::Ok().json(told(&measured)))
}

async fn measured(
    app: &App,
    shot: i64,
    asked: &Asked,
) -> Result<Result<Measured, &'static str>, ApiError> {
    let (shot, kept, orientation) = current_world(app, shot).await?;
    let change = orientation.change;
    let Asked { track, x, y, z, .. } = *asked;
    let Some(place) = At { track, x, y, z }.place(&kept.attempt, &change) else {
        return Ok(Err(NO_PLACE));
    };
    let side = asked.side.unwrap_or(USUAL_SIDE);
    let side = side.clamp(*SIDES.start(), *SIDES.end()) | 1;
    let all: Vec<(FrameNumber, Eye)> = kept
        .attempt
        .frames
        .iter()
        .map(|f| (f.frame, kept.attempt.eye(f)))
        .collect();
    let nearest = |k: &usize| all[*k].0.0.abs_diff(asked.frame.unwrap_or(all[0].0.0));
    let landmarks: Vec<Vector3<f64>> = kept
        .attempt
        .landmarks
        .iter()
        .map(|l| l.point.0.coords)
        .collect();
    let normal = surface(&landmarks, &place);
    let lies = (&place, normal.as_ref());
    let sees = |k: &usize| !framings(&all[*k..=*k], 0, lies, side).is_empty();
    let Some(reference) = (0..all.len()).filter(sees).min_by_key(nearest) else {
        return Ok(Err("The place and its surroundings lie in no picture."));
    };
    let seen = framings(&all, reference, lies, side);
    let stride = seen.len().div_ceil(MOST_FRAMES).max(1);
    let some: Vec<_> = seen.into_iter().step_by(stride).collect();
    let mut pictures = Vec::with_capacity(some.len());
    for framing in &some {
        let picture = app.grey(&shot, framing.frame.0).await?;
        let Some(piece) = framing.piece(&picture, side) else {
            return Ok(Err("The pictures cannot be cropped there."));
        };
        pictures.push(piece);
    }
    let found = web::block(move || reel(&some, &pictures, side)).await?;
    let found = found.filter(|reel| reel.rms_px.is_finite());
    Ok(found
        .map(|reel| Measured {
            kept,
            place,
            reel,
            reference: all[reference].0,
            stride,
        })
        .ok_or("Too few frames show the place alike to measure slip there."))
}

fn told(measured: &Measured) -> Value {
    let Measured {
        reel,
        reference,
        stride,
        ..
    } = measured;
    let bytes = |levels: &[f32]| -> Vec<u8> {
        let byte = |l: &f32| l.round().clamp(0.0, 255.0) as u8;
        levels.iter().map(byte).collect()
    };
    let size = |slip: Option<Vector2<f64>>| slip.map(|s| short(s.norm(), 3));
    let crops: Vec<Value> = reel
        .crops
        .iter()
        .map(|c| {
            json!({
                "frame": c.frame.0, "px": size(c.slip), "slip": c.slip.map(|s| [short(s.x, 3), short(s.y, 3)]),
                "sigma_px": short(c.sigma_px, 4), "levels": bytes(&c.levels),
            })
        })
        .collect();
    json!({
        "side": reel.side, "reference": reference.0, "stride": stride,
        "rms_px": short(reel.rms_px, 3), "mean": bytes(&reel.mean), "crops": crops, "said": said(reel),
    })
}

/// What was measured, and where the plate slips most.
fn said(reel: &Reel) -> String {
    let usual = format!("Measured here: {:.2} px (rms).", reel.rms_px);
    match worst(reel) {
        None => format!("{usual} Nothing slips that can be seen."),
        Some((a, b, px)) => {
            let (on, by) = run_said(a.0, b.0, px);
            format!("{usual} {on} the plate slips by {by}.")
        }
    }
}

/// On which frames, and by how much.
pub fn run_said(from: i32, to: i32, px: f64) -> (String, String) {
    match from == to {
        true => (format!("On {from}"), format!("{px:.2} px")),
        false => (format!("On {from} to {to}"), format!("up to {px:.2} px")),
    }
}

/// The run of crops with the greatest slip that can be seen: its first and last frame, and how much, px.
fn worst(reel: &Reel) -> Option<(FrameNumber, FrameNumber, f64)> {
    let slips = |c: &Crop| {
        c.slip
            .map(|s| s.norm())
            .filter(|px| *px > WORTH_PX && *px > WORTH_SIGMAS * c.sigma_px)
    };
    let mut runs: Vec<(FrameNumber, FrameNumber, f64)> = Vec::new();
    let mut before = false;
    for crop in &reel.crops {
        match (slips(crop), runs.last_mut()) {
            (Some(px), Some(run)) if before => *run = (run.0, crop.frame, run.2.max(px)),
            (Some(px), _) => runs.push((crop.frame, crop.frame, px)),
            (None, _) => {}
        }
        before = slips(crop).is_some();
    }
    runs.into_iter().max_by(|a, b| a.2.total_cmp(&b.2))
}

#[cfg(test)]
mod tests {
    use super::*;
    use parallax_core::spaces::PlatePx;

    fn crop(frame: i32, px: Option<f64>) -> Crop {
        Crop {
            frame: FrameNumber(frame),
            px: PlatePx::new(0.0, 0.0),
            levels: Vec::new(),
            slip: px.map(|px| Vector2::new(px, 0.0)),
            sigma_px: 0.01,
            correlation: 1.0,
        }
    }

    #[test]
    fn the_worst_run_is_named() {
        let slips = [0.02, 0.3, 0.4, 0.05, 0.2, 0.01];
        let mut crops: Vec<Crop> = slips
            .iter()
            .zip(1046..)
            .map(|(px, f)| crop(f, Some(*px)))
            .collect();
        let reel = |crops| Reel {
            side: 15,
            crops,
            mean: Vec::new(),
            rms_px: 0.2,
        };
        assert_eq!(
            said(&reel(crops.clone())),
            "Measured here: 0.20 px (rms). On 1047 to 1048 the plate slips by up to 0.40 px."
        );
        crops.truncate(1);
        crops.push(crop(1050, None));
        assert!(said(&reel(crops)).ends_with("Nothing slips that can be seen."));
    }
}
